package engine

// crew are goroutines that stay for a whole run, so that their stacks grow only once.
type crew struct{ jobs chan func() }

func newCrew(n int) *crew {
	c := &crew{make(chan func())}
	for range n {
		go func() {
			for job := range c.jobs {
				job()
			}
		}()
	}
	return c
}

// do hands a job to the first that is free; where there is no crew, to a goroutine of its own.
func (c *crew) do(job func()) {
	if c == nil {
		go job()
		return
	}
	c.jobs <- job
}

// leave ends them when their jobs are done.
func (c *crew) leave() { close(c.jobs) }
