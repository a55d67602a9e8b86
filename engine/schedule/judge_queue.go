package schedule

import (
	"runtime"
	"sync"
	"time"

	"oddtick/engine/attempt"
	"oddtick/engine/workers"
)

// judgeQueue has the cases that are made judged and kept, in their order, beside those that are made next. It keeps out of their way: what
// is made waits until the page of the next case is there, but not for long. What waits is bounded: a run that is killed makes it again.
type judgeQueue struct {
	sink   Sink
	judges *workers.Pool

	mu      sync.Mutex
	changed *sync.Cond
	waiting []*attempt.Attempt
	due     bool // what waits is to be judged now
	busy    bool
	ended   bool
	failed  error
	late    *time.Timer
}

// maxWaitingTime is how long a case waits to be judged; a batch does not wait. More than maxWaiting do not.
const (
	maxWaitingTime = 50 * time.Millisecond
	maxWaiting     = 2 * batchSize
)

func newJudgeQueue(sink Sink) *judgeQueue {
	j := &judgeQueue{sink: sink, judges: workers.New(runtime.GOMAXPROCS(0))}
	j.changed = sync.NewCond(&j.mu)
	j.late = time.AfterFunc(maxWaitingTime, j.now)
	go j.run()
	return j
}

func (j *judgeQueue) run() {
	defer j.judges.Close()
	j.mu.Lock()
	defer j.mu.Unlock()
	for {
		for !j.due || len(j.waiting) == 0 {
			if j.ended {
				return
			}
			j.changed.Wait()
		}
		made := j.waiting
		j.waiting, j.due, j.busy = nil, false, true
		if j.failed == nil {
			j.mu.Unlock()
			err := j.keep(made)
			j.mu.Lock()
			j.failed = err
		}
		j.busy = false
		j.changed.Broadcast()
	}
}

func (j *judgeQueue) keep(made []*attempt.Attempt) error {
	if len(made) == 1 {
		made[0].Finish()
		return j.sink.Done(made[0].Result)
	}
	var judged sync.WaitGroup
	for _, a := range made {
		judged.Add(1)
		j.judges.Submit(func() {
			defer judged.Done()
			a.Finish()
		})
	}
	judged.Wait()
	for _, a := range made {
		if err := j.sink.Done(a.Result); err != nil {
			return err
		}
	}
	return nil
}

// take takes what is made; the error is of something taken earlier, after which nothing is kept.
func (j *judgeQueue) take(made ...*attempt.Attempt) error {
	j.mu.Lock()
	defer j.mu.Unlock()
	if len(j.waiting) == 0 {
		j.late.Reset(maxWaitingTime)
	}
	j.waiting = append(j.waiting, made...)
	if len(made) > 1 || len(j.waiting) >= batchSize {
		j.due = true
		j.changed.Broadcast()
	}
	for len(j.waiting) > maxWaiting && j.failed == nil {
		j.changed.Wait()
	}
	return j.failed
}

// now has what waits judged.
func (j *judgeQueue) now() {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.due = len(j.waiting) > 0
	j.changed.Broadcast()
}

// wait waits until all that was taken is kept.
func (j *judgeQueue) wait() error {
	j.now()
	j.mu.Lock()
	defer j.mu.Unlock()
	for j.busy || len(j.waiting) > 0 {
		j.changed.Wait()
	}
	return j.failed
}

// end ends it when all is kept.
func (j *judgeQueue) end() {
	j.late.Stop()
	j.mu.Lock()
	defer j.mu.Unlock()
	j.ended = true
	j.changed.Broadcast()
}
