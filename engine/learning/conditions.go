package learning

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/learn"
	"oddtick/core/spec"
	"oddtick/engine/manual"
)

// maxConditional is how many submissions look for what is asked only under a condition.
const maxConditional = 40

// maxUnder is how many values of a field are tried under a condition until one is accepted.
const maxUnder = 24

// state is one in which a checkbox or choice stands otherwise than usual.
type state struct {
	field string
	value []string
	// when is the condition in CEL that holds in it.
	when string
}

// states are those of a form's checkboxes and choices.
func (s *session) states() []state {
	var out []state
	for i := range s.form.Fields {
		f := &s.form.Fields[i]
		switch f.Kind {
		case spec.Checkbox:
			if len(s.valid[f.ID]) > 0 {
				out = append(out, state{f.ID, nil, "!" + f.ID})
			} else {
				out = append(out, state{f.ID, []string{f.Value}, f.ID})
			}
		case spec.SingleChoice:
			for _, o := range f.Options {
				if !slices.Equal(s.valid[f.ID], []string{o.Value}) && o.Value != "" {
					out = append(out, state{f.ID, []string{o.Value}, fmt.Sprintf("%s == %s", f.ID, strconv.Quote(o.Value))})
				}
			}
		}
	}
	return out
}

// conditional looks for fields that are asked for only where a checkbox or choice stands otherwise, and asks about them there. What was learned of
// them before says nothing: they did not count.
func (s *session) conditional(ctx context.Context, fields []*learn.Learned) error {
	usual, left := s.valid, maxConditional
	defer func() { s.valid = usual }()
	for _, in := range s.states() {
		for i := range s.form.Fields {
			f := &s.form.Fields[i]
			at := slices.IndexFunc(fields, func(l *learn.Learned) bool { return l.Field == f.ID })
			if f.ID == in.field || at < 0 || f.Kind == spec.Checkbox || left == 0 || slices.ContainsFunc(fields[at].Rules, func(r learn.Rule) bool { return r.Required != nil }) {
				continue
			}
			left--
			s.valid = maps.Clone(usual)
			s.valid[in.field], s.valid[f.ID] = in.value, []string{""}
			p, err := s.submit(ctx, s.vary(), f.ID)
			if err != nil {
				return err
			}
			said := p.SeenMessages(s.form)
			if p.Accepted() || len(said) == 0 || said[0].Field != f.ID {
				continue
			}
			one, err := s.under(ctx, f, in)
			if err != nil {
				return err
			}
			if one != nil {
				*fields[at] = *one
			}
		}
	}
	return nil
}

// under asks about a field in a state in which it is asked for; nil where no value of it is accepted there.
func (s *session) under(ctx context.Context, f *spec.Field, in state) (*learn.Learned, error) {
	list := append(slices.Clone(s.tries.list[f.ID]), "1", "Fern")
	for at := 0; at < len(list) && at < maxUnder; at++ {
		value := list[at]
		s.valid[f.ID] = []string{value}
		s.fixed[f.ID] = strings.Trim(value, "0123456789") == "" // which may be a number with bounds
		p, err := s.submit(ctx, manual.Values(s.vary()), f.ID)
		if err != nil {
			return nil, err
		}
		for _, m := range p.SeenMessages(s.form) {
			if m.Field == f.ID {
				list = next(list, at, s.tries.suggested(f, m.Text))
			}
		}
		if value == "" || !p.Accepted() {
			continue
		}
		if s.columns[f.ID] == "" {
			s.columns[f.ID] = s.columnOf(p, f, value)
		}
		i := slices.IndexFunc(s.form.Fields, func(o spec.Field) bool { return o.ID == f.ID })
		one, err := learn.AboutField(ctx, s.about(ctx, i), s.now, s.ask(s.columns[f.ID]))
		if err != nil {
			return nil, err
		}
		one.When = in.when
		return one, nil
	}
	return nil, nil
}
