package investigate

import (
	"slices"

	"oddtick/core/testcase"
)

// Simpler are cases that are like a case but for one thing that is out of the ordinary: a step less, a field with its usual value, or a
// shorter value. What saves most comes first. They keep the case's id, and the oracle is asked anew what is expected of them.
func Simpler(m *testcase.Maker, c *testcase.Case) []*testcase.Case {
	var out []*testcase.Case
	for i := range len(c.Steps) - 1 {
		if one := without(m, c, i); one != nil {
			out = append(out, one)
		}
	}
	for i := range c.Steps {
		for k := range c.Steps[i].Inputs {
			usual, differs := usual(m, &c.Steps[i].Inputs[k], i)
			if differs {
				out = append(out, withRecipe(c, i, k, usual))
			}
		}
	}
	for i := range c.Steps {
		for k := range c.Steps[i].Inputs {
			r := c.Steps[i].Inputs[k].Recipe
			for _, length := range []int{r.Length / 2, r.Length * 3 / 4, r.Length - 1} {
				if length > 0 && length < r.Length {
					shorter := r
					shorter.Length = length
					out = append(out, withRecipe(c, i, k, shorter))
				}
			}
		}
	}
	return out
}

// usual is the recipe that a field has where the case is not about it.
func usual(m *testcase.Maker, in *testcase.Input, step int) (recipe testcase.Recipe, differs bool) {
	i := slices.IndexFunc(m.Base, func(b testcase.Input) bool { return b.Field == in.Field })
	if i < 0 {
		return in.Recipe, false
	}
	usual := m.Base[i].Recipe
	if usual.Make == testcase.Same {
		usual.Step = step
	}
	return usual, usual != in.Recipe
}

// without leaves a step out, unless a later one takes a value from it.
func without(m *testcase.Maker, c *testcase.Case, step int) *testcase.Case {
	out := *c
	out.Steps = nil
	for i := range c.Steps {
		if i == step {
			continue
		}
		s := c.Steps[i]
		s.Inputs = slices.Clone(s.Inputs)
		for k := range s.Inputs {
			r := &s.Inputs[k].Recipe
			if i > step && r.Make == testcase.Same {
				if r.Step == step {
					return nil
				}
				if r.Step > step {
					r.Step--
				}
			}
		}
		out.Steps = append(out.Steps, s)
	}
	return &out
}

func withRecipe(c *testcase.Case, step, input int, r testcase.Recipe) *testcase.Case {
	out := *c
	out.Steps = slices.Clone(c.Steps)
	out.Steps[step].Inputs = slices.Clone(c.Steps[step].Inputs)
	out.Steps[step].Inputs[input].Recipe = r
	return &out
}

// Unusual are the fields whose values in a case are not their usual ones.
func Unusual(m *testcase.Maker, c *testcase.Case) []string {
	var out []string
	for i := range c.Steps {
		for k := range c.Steps[i].Inputs {
			in := &c.Steps[i].Inputs[k]
			if _, differs := usual(m, in, i); differs && !slices.Contains(out, in.Field) {
				out = append(out, in.Field)
			}
		}
	}
	return out
}
