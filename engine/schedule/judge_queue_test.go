package schedule

import (
	"errors"
	"fmt"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/engine/attempt"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

// kept is a sink that tells of what it keeps, until it is full.
type kept struct {
	ids  chan string
	full bool
}

var errFull = errors.New("the disk is full")

func (k *kept) Begin(string, int) error { return nil }

func (k *kept) Done(r *report.Result) error {
	if k.full {
		return errFull
	}
	k.ids <- r.Case
	return nil
}

func (k *kept) Interference([]observation.Change) {}

func madeCases(n int) (out []*attempt.Attempt) {
	for i := range n {
		out = append(out, &attempt.Attempt{Target: &target.Target{}, Case: &testcase.Case{}, Result: &report.Result{Case: fmt.Sprint(i), Steps: []report.StepResult{{Judgement: judge.Unobserved("for want of a site")}}}})
	}
	return out
}

// TestWhatIsMadeIsJudged in its order: a batch at once, a single case when the page of the next is there, and soon where there is none.
func TestWhatIsMadeIsJudged(t *testing.T) {
	t.Parallel()
	sink := &kept{ids: make(chan string, 100)}
	j := newJudgeQueue(sink)
	defer j.end()
	next := func() string {
		select {
		case id := <-sink.ids:
			return id
		case <-time.After(10 * time.Second):
			return "nothing"
		}
	}
	one := madeCases(1)
	require.NoError(t, j.take(one...))
	require.Equal(t, "0", next(), "soon, without another case")

	batch := madeCases(3 * maxWaiting)
	require.NoError(t, j.take(batch...))
	for i := range batch {
		require.Equal(t, fmt.Sprint(i), next())
	}

	for _, a := range madeCases(3 * maxWaiting) {
		require.NoError(t, j.take(a))
		j.now()
	}
	require.NoError(t, j.wait())
	require.Len(t, sink.ids, 3*maxWaiting)
}

// TestWhatCannotBeKeptEndsJudging: nothing after it is kept, and nobody waits for it.
func TestWhatCannotBeKeptEndsJudging(t *testing.T) {
	t.Parallel()
	j := newJudgeQueue(&kept{full: true})
	defer j.end()
	require.NoError(t, j.take(madeCases(2)...))
	require.ErrorIs(t, j.wait(), errFull)
	for range 2 * maxWaiting {
		require.ErrorIs(t, j.take(madeCases(1)...), errFull)
	}
	require.ErrorIs(t, j.wait(), errFull)
}
