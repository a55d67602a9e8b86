package testcase

import (
	"context"
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// Reader tells what cases send on the reference day. It is for one goroutine.
type Reader struct {
	d      *Maker
	drafts map[Draft]string
}

// Sent is what a step sends, by field: the values as the server's rules see them, and which fields are filled at all.
type Sent struct {
	Values []spec.Value
	Filled []bool
}

// Reader returns a new reader.
func (d *Maker) Reader() *Reader { return &Reader{d, map[Draft]string{}} }

// Values are what a step of a case sends.
func (r *Reader) Values(c *Case, step int) (*Sent, error) {
	env := r.d.ReferenceEnv(r.drafts)
	var resolved Resolved
	for i := range step + 1 {
		if c.Steps[i].Do != Submit {
			continue
		}
		var err error
		if resolved, err = r.d.Resolve(c, i, env); err != nil {
			return nil, err
		}
		env.Earlier = append(env.Earlier, resolved)
	}
	left := r.d.LeftOut(resolved)
	out := &Sent{Values: make([]spec.Value, 0, len(r.d.Form.Fields)), Filled: make([]bool, 0, len(r.d.Form.Fields))}
	for _, f := range r.d.Form.Fields {
		text, present := resolved[f.ID]
		out.Values = append(out.Values, f.ValueOf(text, present))
		out.Filled = append(out.Filled, !left[f.ID])
	}
	return out, nil
}

// Usual is the submission that every case starts from.
func (d *Maker) Usual() []Input { return d.Base }

// SameRecipe tells whether a field's value is made in the same way in two submissions.
func SameRecipe(a, b []Input, field string) bool {
	of := func(list []Input) (out Recipe) {
		for _, in := range list {
			if in.Field == field {
				out = in.Recipe
			}
		}
		out.Step = 0
		return out
	}
	return of(a) == of(b)
}

// Expected is what a case's last submission must lead to, on the reference day; nil where it cannot be made.
func (m *Maker) Expected(c *Case) *oracle.Expectation {
	s := m.NewBuilder(context.Background(), map[Draft]string{})
	copied := *c
	copied.Steps = slices.Clone(c.Steps)
	expectations := s.expectations(&copied)
	if len(expectations) == 0 {
		return nil
	}
	return expectations[len(expectations)-1]
}
