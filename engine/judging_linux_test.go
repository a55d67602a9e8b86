package engine

import (
	"os/exec"
	"sync"
	"syscall"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"

	"github.com/stretchr/testify/require"
)

// TestNoProcessEndsWithAJudging, not one either that is to end with the thread that started it, as a browser may be.
func TestNoProcessEndsWithAJudging(t *testing.T) {
	const many = 16
	ended := make(chan error, many)
	var starting sync.WaitGroup
	for range many {
		starting.Go(func() {
			child := exec.Command("sleep", "60")
			child.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
			if err := child.Start(); err != nil {
				ended <- err
				return
			}
			t.Cleanup(func() { _ = child.Process.Kill() })
			go func() { ended <- child.Wait() }()
		})
	}
	starting.Wait()
	kept := &Collected{}
	for range 20 {
		j := newJudging(kept)
		require.NoError(t, j.take(&attempt{c: &design.Case{}, result: &judge.Result{Case: "plots", Steps: []judge.StepResult{{Judgement: judge.Unobserved("nothing is sent")}}}}))
		require.NoError(t, j.wait())
		j.end()
	}
	require.Equal(t, judge.NotObserved, kept.Result("plots").Verdict)
	select {
	case err := <-ended:
		require.Fail(t, "a process has ended", "%v", err)
	case <-time.After(300 * time.Millisecond):
	}
}
