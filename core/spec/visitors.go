package spec

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"oddtick/core/expression"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/operators"
)

// signedInName is the name, in the conditions of states, of whether the visitor is signed in.
const signedInName = "signed_in"

// StateConditions are the conditions of a site's states, taken apart into the conditions they share.
type StateConditions struct {
	Of    map[string]*Condition // by state; none for a state without a condition
	Atoms []*Atom
}

// StateConditions reads the conditions of the site's states.
func (s *Site) StateConditions() (*StateConditions, error) {
	var ids, texts []string
	names := map[string]bool{}
	for _, state := range s.States {
		if state.When == "" {
			continue
		}
		ids, texts = append(ids, state.ID), append(texts, state.When)
		for _, name := range expression.NamesIn(state.When) {
			names[name] = true
		}
	}
	var options []cel.EnvOption
	for _, name := range slices.Sorted(maps.Keys(names)) {
		kind := cel.DynType
		if name == signedInName || s.Visitors != nil && s.Visitors.Has[name] != "" {
			kind = cel.BoolType
		}
		options = append(options, cel.Variable(name, kind))
	}
	env, err := cel.NewEnv(options...)
	if err != nil {
		return nil, fmt.Errorf("the states' conditions: %w", err)
	}
	list, atoms, err := conditions(env, func(...string) []*PreparedField { return nil }, texts)
	if err != nil {
		return nil, fmt.Errorf("the states' conditions: %w", err)
	}
	out := &StateConditions{Of: map[string]*Condition{}, Atoms: atoms}
	for i, id := range ids {
		out.Of[id] = list[i]
	}
	return out, nil
}

// Text writes a condition with its atoms' texts.
func (c *Condition) Text(atoms []*Atom) string {
	inner := func(i int) string {
		text := c.of[i].Text(atoms)
		if op := c.of[i].op; op != c.op && (op == operators.LogicalAnd || op == operators.LogicalOr) {
			return "(" + text + ")"
		}
		return text
	}
	switch c.op {
	case operators.LogicalAnd:
		return inner(0) + " && " + inner(1)
	case operators.LogicalOr:
		return inner(0) + " || " + inner(1)
	case operators.LogicalNot:
		text := c.of[0].Text(atoms)
		if left, right, ok := strings.Cut(text, " == "); ok && c.of[0].op == "" {
			return left + " != " + right
		}
		return "!" + inner(0)
	case operators.Conditional:
		return inner(0) + " ? " + inner(1) + " : " + inner(2)
	}
	if c.always != nil {
		return fmt.Sprint(*c.always)
	}
	return atoms[c.atom].Text
}

// Mistaken are the conditions that a slip would make of this one: and for or, or for and, one side left out.
func (c *Condition) Mistaken() []*Condition {
	var out []*Condition
	if c.op == operators.LogicalAnd || c.op == operators.LogicalOr {
		other := operators.LogicalOr
		if c.op == other {
			other = operators.LogicalAnd
		}
		out = append(out, &Condition{op: other, of: c.of}, c.of[0], c.of[1])
	}
	for i, part := range c.of {
		for _, m := range part.Mistaken() {
			with := *c
			with.of = slices.Clone(c.of)
			with.of[i] = m
			out = append(out, &with)
		}
	}
	return out
}
