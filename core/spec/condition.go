package spec

import (
	"errors"
	"fmt"

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
