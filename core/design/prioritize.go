package design

import (
	"container/heap"

	"oddtick/core/testcase"
)

// Prioritize chooses n cases, ordered so that each is the one that covers most of what those before it do not; what covers as much keeps
// its order. Rules count most, then whatever is not a mere combination. No choice of as many cases covers more than 1.6 times as much
// (Nemhauser, Wolsey and Fisher: Maximizing submodular set functions, 1978). Cases that are switched off are left out.
func Prioritize(cases []*testcase.Case, n int) []*testcase.Case {
	covered := map[testcase.Cover]bool{}
	q := make(gains, 0, len(cases))
	for i, c := range cases {
		if !c.Off() {
			q = append(q, gain{c, i, worth(c, covered)})
		}
	}
	heap.Init(&q)
	var out []*testcase.Case
	for len(q) > 0 && len(out) < n {
		// a gain only falls, so that one that still stands at the top after being computed anew is the greatest
		top := &q[0]
		if now := worth(top.c, covered); now < top.worth {
			top.worth = now
			heap.Fix(&q, 0)
			continue
		}
		c := heap.Pop(&q).(gain).c
		out = append(out, c)
		for _, what := range c.Covers {
			covered[what] = true
		}
	}
	return out
}

// worth weighs what a case covers beyond the rest.
func worth(c *testcase.Case, covered map[testcase.Cover]bool) int {
	n := 0
	for _, what := range c.Covers {
		if covered[what] {
			continue
		}
		switch {
		case what.Kind == testcase.CoversRule:
			n += 1_000_000
		case what.Kind.Combines():
			n++
		default:
			n += 1000
		}
	}
	return n
}

type gain struct {
	c     *testcase.Case
	place int
	worth int
}

type gains []gain

func (q gains) Len() int { return len(q) }
func (q gains) Less(i, j int) bool {
	if q[i].worth != q[j].worth {
		return q[i].worth > q[j].worth
	}
	return q[i].place < q[j].place
}
func (q gains) Swap(i, j int) { q[i], q[j] = q[j], q[i] }
func (q *gains) Push(x any)   { *q = append(*q, x.(gain)) }
func (q *gains) Pop() any {
	last := (*q)[len(*q)-1]
	*q = (*q)[:len(*q)-1]
	return last
}
