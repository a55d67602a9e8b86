package spec

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"oddtick/core/expression"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
)

// Atom is a condition that holds no other: what stands between &&, ||, ! and ?: in an expression.
type Atom struct {
	Text    string
	Names   []*PreparedField
	program *expression.Expression
}

// True evaluates an atom; known is false where a value it needs is blank.
func (a *Atom) True(vars map[string]any) (truth, known bool) {
	value, ok := a.program.Eval(vars)
	truth, isTruth := value.(bool)
	return truth, ok && isTruth
}

// Condition is an expression as a function of its atoms' truth.
type Condition struct {
	op   string // of CEL's operators; "" for an atom
	of   []*Condition
	atom int
	// always is what a constant is.
	always *bool
}

// Holds computes the condition from the truth of each atom.
func (c *Condition) Holds(truth func(atom int) bool) bool {
	switch c.op {
	case operators.LogicalAnd:
		return c.of[0].Holds(truth) && c.of[1].Holds(truth)
	case operators.LogicalOr:
		return c.of[0].Holds(truth) || c.of[1].Holds(truth)
	case operators.LogicalNot:
		return !c.of[0].Holds(truth)
	case operators.Conditional:
		if c.of[0].Holds(truth) {
			return c.of[1].Holds(truth)
		}
		return c.of[2].Holds(truth)
	}
	if c.always != nil {
		return *c.always
	}
	return truth(c.atom)
}

// opposite are comparisons of which always exactly one holds.
var opposite = map[string]string{
	operators.Less: operators.GreaterEquals, operators.GreaterEquals: operators.Less,
	operators.Greater: operators.LessEquals, operators.LessEquals: operators.Greater,
}

// Conditions takes expressions of the form apart. They share one list of atoms, in the order in which they are read; an atom that is
// the opposite of an earlier one is that one's negation, and != is that of ==.
func (p *Prepared) Conditions(expressions ...string) ([]*Condition, []*Atom, error) {
	return conditions(p.env, p.Named, expressions)
}

func conditions(env *cel.Env, named func(...string) []*PreparedField, expressions []string) ([]*Condition, []*Atom, error) {
	t := takingApart{env: env, named: named, index: map[string]int{}}
	out := make([]*Condition, len(expressions))
	for i, text := range expressions {
		checked, issues := env.Compile(text)
		if issues.Err() != nil {
			return nil, nil, fmt.Errorf("the expression %s cannot be read: %w", text, issues.Err())
		}
		if why := expression.TooCostly(text, checked); why != "" {
			return nil, nil, errors.New(why)
		}
		t.info = checked.NativeRep().SourceInfo()
		var err error
		if out[i], err = t.apart(checked.NativeRep().Expr()); err != nil {
			return nil, nil, fmt.Errorf("the expression %s cannot be taken apart: %w", text, err)
		}
	}
	return out, t.atoms, nil
}

type takingApart struct {
	env   *cel.Env
	named func(...string) []*PreparedField
	info  *ast.SourceInfo
	atoms []*Atom
	index map[string]int // by text
}

func (t *takingApart) apart(e ast.Expr) (*Condition, error) {
	if e.Kind() == ast.CallKind {
		call := e.AsCall()
		switch call.FunctionName() {
		case operators.LogicalAnd, operators.LogicalOr, operators.LogicalNot, operators.Conditional:
			c := &Condition{op: call.FunctionName()}
			for _, arg := range call.Args() {
				part, err := t.apart(arg)
				if err != nil {
					return nil, err
				}
				c.of = append(c.of, part)
			}
			return c, nil
		}
		other, ok := opposite[call.FunctionName()]
		if call.FunctionName() == operators.NotEquals {
			other, ok = operators.Equals, true
		}
		if ok {
			sides := make([]string, 2)
			for i, arg := range call.Args() {
				text, err := cel.ExprToString(arg, t.info)
				if err != nil {
					return nil, err
				}
				sides[i] = text
			}
			name, _ := operators.FindReverse(other)
			text := sides[0] + " " + name + " " + sides[1]
			if _, known := t.index[text]; known || other == operators.Equals {
				atom, err := t.leaf(text)
				return &Condition{op: operators.LogicalNot, of: []*Condition{atom}}, err
			}
		}
	}
	if e.Kind() == ast.LiteralKind {
		if constant, ok := e.AsLiteral().Value().(bool); ok {
			return &Condition{always: &constant}, nil
		}
	}
	text, err := cel.ExprToString(e, t.info)
	if err != nil {
		return nil, err
	}
	return t.leaf(text)
}

// leaf is the condition that an atom holds.
func (t *takingApart) leaf(text string) (*Condition, error) {
	at, known := t.index[text]
	if !known {
		checked, issues := t.env.Compile(text)
		if issues.Err() != nil {
			return nil, issues.Err()
		}
		program, err := expression.New(t.env, checked, text)
		if err != nil {
			return nil, err
		}
		at = len(t.atoms)
		t.index[text] = at
		t.atoms = append(t.atoms, &Atom{Text: text, Names: t.named(text), program: program})
	}
	return &Condition{atom: at}, nil
}

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
	env, err := cel.NewEnv(append(options, expression.Functions()...)...)
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
