package engine

import (
	"runtime"
	"sync"
)

// judging judges the cases that are made, in their order, while the next are made. It gives way to all else, above all to a site and a
// database on the same machine. What waits is bounded: a run that is killed makes it again.
type judging struct {
	jobs    chan func() error
	waiting sync.WaitGroup
	mu      sync.Mutex
	failed  error
}

func newJudging() *judging {
	j := &judging{jobs: make(chan func() error, 1)}
	go func() {
		runtime.LockOSThread() // the thread ends with it
		giveWay()
		for job := range j.jobs {
			err := j.err()
			if err == nil {
				err = job()
			}
			j.mu.Lock()
			j.failed = err
			j.mu.Unlock()
			j.waiting.Done()
		}
	}()
	return j
}

// do has a job done after those before it; the error is of an earlier one, after which none is done.
func (j *judging) do(job func() error) error {
	if err := j.err(); err != nil {
		return err
	}
	j.waiting.Add(1)
	j.jobs <- job
	return nil
}

func (j *judging) err() error {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.failed
}

// wait waits for all jobs.
func (j *judging) wait() error {
	j.waiting.Wait()
	return j.err()
}

// end ends it when its jobs are done.
func (j *judging) end() { close(j.jobs) }
