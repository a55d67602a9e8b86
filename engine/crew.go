package engine

import (
	"runtime"
	"sync"
)

// crew are goroutines that stay for many jobs, so that their stacks grow only once.
type crew struct{ jobs chan func() }

// newCrew are so many. Each begins with first, where one is given.
func newCrew(n int, first func()) *crew {
	c := &crew{make(chan func())}
	for range n {
		go func() {
			if first != nil {
				first()
			}
			for job := range c.jobs {
				job()
			}
		}()
	}
	return c
}

// do hands a job to the first that is free.
func (c *crew) do(job func()) { c.jobs <- job }

// leave ends them when their jobs are done.
func (c *crew) leave() { close(c.jobs) }

// judges judge the cases of all runs. They give way to all else, above all to a site and a database on the same machine. They never
// leave: with a thread that ends, processes may end that it started earlier (prctl(2), PR_SET_PDEATHSIG), a browser among them.
var judges = sync.OnceValue(func() *crew {
	return newCrew(runtime.NumCPU(), func() {
		runtime.LockOSThread()
		giveWay()
	})
})
