package design

import "slices"

// Simpler are cases that are like a case but for one thing that is out of the ordinary: a step less, a field with its usual value, or a
// shorter value. What saves most comes first. They keep the case's id, and the oracle is asked anew what is expected of them.
func (d *Designer) Simpler(c *Case) []*Case {
	var out []*Case
	for i := range len(c.Steps) - 1 {
		if one := d.without(c, i); one != nil {
			out = append(out, one)
		}
	}
	for i := range c.Steps {
		for k := range c.Steps[i].Inputs {
			usual, differs := d.usual(&c.Steps[i].Inputs[k], i)
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
func (d *Designer) usual(in *Input, step int) (recipe Recipe, differs bool) {
	i := slices.IndexFunc(d.base, func(b Input) bool { return b.Field == in.Field })
	if i < 0 {
		return in.Recipe, false
	}
	usual := d.base[i].Recipe
	if usual.Make == Same {
		usual.Step = step
	}
	return usual, usual != in.Recipe
}

// without leaves a step out, unless a later one takes a value from it.
func (d *Designer) without(c *Case, step int) *Case {
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
			if i > step && r.Make == Same {
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

func withRecipe(c *Case, step, input int, r Recipe) *Case {
	out := *c
	out.Steps = slices.Clone(c.Steps)
	out.Steps[step].Inputs = slices.Clone(c.Steps[step].Inputs)
	out.Steps[step].Inputs[input].Recipe = r
	return &out
}

// Unusual are the fields whose values in a case are not their usual ones.
func (d *Designer) Unusual(c *Case) []string {
	var out []string
	for i := range c.Steps {
		for k := range c.Steps[i].Inputs {
			in := &c.Steps[i].Inputs[k]
			if _, differs := d.usual(in, i); differs && !slices.Contains(out, in.Field) {
				out = append(out, in.Field)
			}
		}
	}
	return out
}
