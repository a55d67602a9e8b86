package compute_test

import (
	"context"
	"errors"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"oddtick/server/compute"
)

func TestThoseWhoAskForTheSameWaitForOne(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		shared := compute.NewShared[int](compute.NewPool(2, time.Minute))
		var computed atomic.Int32
		var all sync.WaitGroup
		for range 20 {
			all.Go(func() {
				n, err := shared.Do(t.Context(), "a", func(context.Context) (int, error) {
					computed.Add(1)
					time.Sleep(time.Second)
					return 7, nil
				})
				if n != 7 || err != nil {
					t.Errorf("got %d, %v", n, err)
				}
			})
		}
		all.Wait()
		if computed.Load() != 1 {
			t.Errorf("it was computed %d times", computed.Load())
		}
	})
}

func TestComputingStopsWhenTheLastLeaves(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		shared := compute.NewShared[int](compute.NewPool(1, time.Hour))
		stopped := make(chan struct{})
		endless := func(ctx context.Context) (int, error) {
			<-ctx.Done()
			close(stopped)
			return 0, ctx.Err()
		}
		first, leave := context.WithCancel(t.Context())
		second, leaveToo := context.WithCancel(t.Context())
		var all sync.WaitGroup
		for _, ctx := range []context.Context{first, second} {
			all.Go(func() {
				if _, err := shared.Do(ctx, "a", endless); !errors.Is(err, context.Canceled) {
					t.Errorf("got %v", err)
				}
			})
		}
		synctest.Wait()
		leave()
		synctest.Wait()
		select {
		case <-stopped:
			t.Error("it stopped while somebody was waiting")
		default:
		}
		leaveToo()
		all.Wait()
		<-stopped
		// its slot is free again
		if n, err := shared.Do(t.Context(), "a", func(context.Context) (int, error) { return 3, nil }); n != 3 || err != nil {
			t.Errorf("got %d, %v", n, err)
		}
	})
}

func TestNoMoreThanAFewComputeAtOnce(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		shared := compute.NewShared[int](compute.NewPool(2, time.Minute))
		var now, most atomic.Int32
		var all sync.WaitGroup
		for _, key := range []string{"a", "b", "c", "d", "e"} {
			all.Go(func() {
				_, err := shared.Do(t.Context(), key, func(context.Context) (int, error) {
					most.Store(max(most.Load(), now.Add(1)))
					time.Sleep(time.Second)
					now.Add(-1)
					return 0, nil
				})
				if err != nil {
					t.Error(err)
				}
			})
		}
		all.Wait()
		if most.Load() != 2 {
			t.Errorf("%d computed at once", most.Load())
		}
	})
}

func TestWhatIsDoneSafelyPanicsForNobody(t *testing.T) {
	var fault *compute.FaultError
	if err := compute.Safely(func() error { var list []int; _ = list[len(list)]; return nil }); !errors.As(err, &fault) || !strings.Contains(err.Error(), "index out of range") {
		t.Errorf("got %v", err)
	}
	if err := compute.Safely(func() error { return context.Canceled }); err != context.Canceled { //nolint:errorlint // it is the very same
		t.Errorf("got %v", err)
	}
}

func TestAComputationThatPanicsFailsAlone(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		shared := compute.NewShared[int](compute.NewPool(1, time.Minute))
		_, err := shared.Do(t.Context(), "a", func(context.Context) (int, error) { panic("out of order") })
		var fault *compute.FaultError
		if !errors.As(err, &fault) || fault.Panic != "out of order" || !strings.Contains(string(fault.Stack), "compute_test.go") {
			t.Errorf("got %v", err)
		}
		if n, err := shared.Do(t.Context(), "a", func(context.Context) (int, error) { return 3, nil }); n != 3 || err != nil {
			t.Errorf("then got %d, %v", n, err)
		}
	})
}

func TestAComputationIsGivenUpAfterItsTime(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		shared := compute.NewShared[int](compute.NewPool(1, time.Minute))
		_, err := shared.Do(t.Context(), "a", func(ctx context.Context) (int, error) {
			<-ctx.Done()
			return 0, ctx.Err()
		})
		var tooLong *compute.TooLongError
		if !errors.As(err, &tooLong) || tooLong.Most != time.Minute {
			t.Errorf("got %v", err)
		}
	})
}
