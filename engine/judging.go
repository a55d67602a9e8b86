package engine

import (
	"runtime"
	"sync"
)

// judging has the cases that are made judged and kept, in their order, while the next are made. What waits is bounded: a run that is
// killed makes it again.
type judging struct {
	sink    Sink
	made    chan []*attempt
	judges  *crew
	waiting sync.WaitGroup
	mu      sync.Mutex
	failed  error
}

func newJudging(sink Sink) *judging {
	j := &judging{sink: sink, made: make(chan []*attempt, 1), judges: newCrew(runtime.GOMAXPROCS(0))}
	go func() {
		defer j.judges.leave()
		for made := range j.made {
			if j.err() == nil {
				err := j.keep(made)
				j.mu.Lock()
				j.failed = err
				j.mu.Unlock()
			}
			j.waiting.Done()
		}
	}()
	return j
}

func (j *judging) keep(made []*attempt) error {
	var judged sync.WaitGroup
	for _, a := range made {
		judged.Add(1)
		j.judges.do(func() {
			defer judged.Done()
			a.finish()
		})
	}
	judged.Wait()
	for _, a := range made {
		if err := j.sink.Done(a.result); err != nil {
			return err
		}
	}
	return nil
}

// take takes what is made; the error is of something taken earlier, after which nothing is kept.
func (j *judging) take(made ...*attempt) error {
	if err := j.err(); err != nil {
		return err
	}
	j.waiting.Add(1)
	j.made <- made
	return nil
}

func (j *judging) err() error {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.failed
}

// wait waits until all that was taken is kept.
func (j *judging) wait() error {
	j.waiting.Wait()
	return j.err()
}

// end ends it when all is kept.
func (j *judging) end() { close(j.made) }
