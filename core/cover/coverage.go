package cover

import (
	"slices"
	"strings"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// Coverage is how much of one kind is covered.
type Coverage struct {
	Kind    Kind      `json:"kind"`
	Total   int       `json:"total"`
	Covered int       `json:"covered"`
	Missing []Missing `json:"missing"`
}

// Missing is one thing that no case covers.
type Missing struct {
	ID    string     `json:"id"`
	Words prose.Text `json:"words"`
	// Case would cover it: one of a greater depth, or one that is switched off.
	Case string `json:"case,omitempty"`
	// Why says why no case can.
	Why prose.Text `json:"why,omitempty"`
}

// Of computes the coverage of those cases of a set that counts lets through; nil: of all that are not switched off. all is the set
// that missing things are looked for in, of the greatest depth. What was designed on purpose and is impossible is missing with the
// reason, and not counted in the total.
func Of(d *design.Designer, set, all *design.Set, counts func(*testcase.Case) bool) []Coverage {
	if counts == nil {
		counts = func(c *testcase.Case) bool { return !c.Off() }
	}
	items := universe(d.Prepared(), all)
	covered := sweep(d, items, set.Cases, counts)
	var left []Item
	for i := range items {
		if covered[i] == "" {
			left = append(left, items[i])
		}
	}
	could := sweep(d, left, all.Cases, func(*testcase.Case) bool { return true })
	out := make([]Coverage, len(Kinds))
	for i, kind := range Kinds {
		out[i] = Coverage{Kind: kind, Missing: []Missing{}}
	}
	nth := 0
	for i := range items {
		c := &out[slices.Index(Kinds, items[i].Kind)]
		if covered[i] != "" {
			c.Total++
			c.Covered++
			continue
		}
		m := Missing{ID: items[i].ID, Words: items[i].Words, Case: could[nth]}
		nth++
		if m.Case == "" {
			if m.Why = why(all, &items[i]); m.Why == "" {
				m.Why = besides(d, all, &items[i])
			}
		}
		if m.Case != "" || m.Why == "" {
			c.Total++
		}
		c.Missing = append(c.Missing, m)
	}
	return slices.DeleteFunc(out, func(c Coverage) bool { return c.Total == 0 && len(c.Missing) == 0 })
}

// besides says which rules a value that would cover an item breaks too.
func besides(d *design.Designer, all *design.Set, item *Item) prose.Text {
	if item.touches == nil {
		return ""
	}
	reader := d.Reader()
	for _, c := range all.Cases {
		if a, ok := attemptOf(reader, c); ok && item.touches(a) {
			return phrases.ValueBreaks.With("rules", strings.Join(a.step.Breaks, phrases.And.Template()))
		}
	}
	return ""
}

// By tells which of a set's cases cover the same things as one case, and what only that case covers.
func By(d *design.Designer, set *design.Set, id string) (covers, only []Item) {
	items := universe(d.Prepared(), set)
	var this *testcase.Case
	for _, c := range set.Cases {
		if c.ID == id {
			this = c
		}
	}
	if this == nil {
		return nil, nil
	}
	mine := sweep(d, items, []*testcase.Case{this}, func(*testcase.Case) bool { return true })
	for i := range items {
		if mine[i] != "" {
			covers = append(covers, items[i])
		}
	}
	others := sweep(d, covers, set.Cases, func(c *testcase.Case) bool { return c.ID != id && !c.Off() })
	for i := range covers {
		if others[i] == "" {
			only = append(only, covers[i])
		}
	}
	return covers, only
}

// sweep names for each item the first case that covers it.
func sweep(d *design.Designer, items []Item, cases []*testcase.Case, counts func(*testcase.Case) bool) []string {
	out := make([]string, len(items))
	open := make([]int, len(items))
	byCase := map[string][]int{} // combinations are only named by their own cases
	open = open[:0]
	for i := range items {
		if items[i].Kind == Tuples {
			byCase[items[i].ID] = append(byCase[items[i].ID], i)
			continue
		}
		open = append(open, i)
	}
	reader := d.Reader()
	for _, c := range cases {
		if !counts(c) {
			continue
		}
		a, ok := attemptOf(reader, c)
		if !ok {
			continue
		}
		for _, what := range c.Covers {
			for _, i := range byCase[what.String()] {
				if out[i] == "" {
					out[i] = c.ID
				}
			}
		}
		open = slices.DeleteFunc(open, func(i int) bool {
			if !items[i].covers(a) {
				return false
			}
			out[i] = c.ID
			return true
		})
	}
	return out
}

func attemptOf(reader *testcase.Reader, c *testcase.Case) (*attempt, bool) {
	a := &attempt{c: c, step: &c.Steps[c.About()]}
	a.accepted = a.step.Expect == oracle.Accepted
	sent, err := reader.Values(c, c.About())
	if err != nil || a.step.Do != testcase.Submit {
		return nil, false
	}
	a.values, a.filled = sent.Values, sent.Filled
	return a, true
}

// why finds what the design says of cases that it could not make.
func why(all *design.Set, item *Item) prose.Text {
	for _, o := range all.Omitted {
		switch {
		case o.Role != "" && item.whole && o.Role == item.near, o.Role != "" && !item.whole && strings.HasPrefix(o.Role, item.near):
			return o.Why
		case o.Role == "" && (strings.HasPrefix(item.near, o.About) || !item.whole && strings.HasPrefix(o.About, item.near)):
			return o.Why // of the rule or field that the cases are about
		}
	}
	return ""
}
