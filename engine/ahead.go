package engine

import (
	"context"
	"sync"
	"time"

	"oddtick/core/oracle"
)

// ahead is what was looked up of a step's values while its page was still on its way.
type ahead struct {
	under sync.WaitGroup
	found map[sentValue]bool
}

// lookAhead looks up the values of a step that do not hang on its page, beside the opening of the page. Where several cases are made
// at once the others fill that time, and in a browser the page is open for long before anything is sent.
func (a *attempt) lookAhead(ctx context.Context, i int) *ahead {
	s := &a.c.Steps[i]
	out := &ahead{found: map[sentValue]bool{}}
	if !a.watch || len(a.r.dbs) == 0 || s.Driver == oracle.Browser || s.Onward || s.Back {
		return out
	}
	env := a.env
	env.Now = time.Now()
	out.under.Go(func() {
		values, err := a.r.c.Designer.Resolve(a.c, i, &env)
		if err != nil {
			return // composing says so
		}
		for _, l := range oracle.Needs(a.r.p, a.r.c.Designer.Submission(s, values)) {
			if l.Span != nil {
				continue
			}
			if found, err := a.lookUp(ctx, &l); err == nil {
				out.found[sentValue{l.Rule, l.Value}] = found
			}
		}
	})
	return out
}

// all waits for what is under way.
func (h *ahead) all() map[sentValue]bool {
	h.under.Wait()
	return h.found
}
