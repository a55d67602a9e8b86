// Package workers keeps a few goroutines for a whole run, so that their stacks grow only once.
package workers

// Pool is so many goroutines.
type Pool struct{ jobs chan func() }

func New(n int) *Pool {
	c := &Pool{make(chan func())}
	for range n {
		go func() {
			for job := range c.jobs {
				job()
			}
		}()
	}
	return c
}

// Submit hands a job to the first goroutine that is free; where there is no pool, to one of its own.
func (c *Pool) Submit(job func()) {
	if c == nil {
		go job()
		return
	}
	c.jobs <- job
}

// Close ends the goroutines when their jobs are done.
func (c *Pool) Close() { close(c.jobs) }
