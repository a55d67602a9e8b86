// Package expression computes conditions and values in CEL, and reads their names and constants from the syntax tree.
package expression

import (
	"fmt"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"
)

// Expression is a condition or a column's value in CEL, compiled. CEL does not calculate with whole numbers and decimals mixed, and
// a field's number may be either: so an expression is compiled twice, as it is written and with its numbers as decimals.
type Expression struct {
	whole    cel.Program
	decimals cel.Program // nil where the expression needs whole numbers
	names    []string    // the fields that it names
}

func New(env *cel.Env, checked *cel.Ast, text string) (*Expression, error) {
	program, err := env.Program(checked)
	if err != nil {
		return nil, err
	}
	e := &Expression{whole: program, names: NamesIn(text)}
	if other := withDecimals(env, text); other != nil {
		if again, issues := env.Check(other); issues.Err() == nil {
			if program, err := env.Program(again); err == nil {
				e.decimals = program
			}
		}
	}
	return e, nil
}

// Eval computes the expression over the fields' values; ok is false where a value it needs is blank.
func (e *Expression) Eval(vars map[string]any) (value any, ok bool) {
	program := e.whole
	if e.decimals != nil {
		if converted, any := e.asDecimals(vars); any {
			program, vars = e.decimals, converted
		}
	}
	out, _, err := program.Eval(vars)
	if err != nil {
		return nil, false
	}
	return out.Value(), true
}

// asDecimals makes decimals of all numbers that the expression names where some number is one.
func (e *Expression) asDecimals(vars map[string]any) (map[string]any, bool) {
	some := false
	for _, w := range e.names {
		if _, ok := vars[w].(float64); ok {
			some = true
		}
	}
	if !some {
		return vars, false
	}
	out := make(map[string]any, len(e.names))
	for _, w := range e.names {
		v, known := vars[w]
		if n, ok := v.(int64); ok {
			v = float64(n)
		}
		if known {
			out[w] = v
		}
	}
	return out, true
}

// Truth evaluates a condition.
func (e *Expression) Truth(vars map[string]any, otherwise bool) bool {
	value, ok := e.Eval(vars)
	if !ok {
		return otherwise
	}
	if yes, isTruth := value.(bool); isTruth {
		return yes
	}
	return otherwise
}

// maxExpression is how many characters an expression may have.
const maxExpression = 4000

// TooCostly says why an expression is not computed; "" where it is. Expressions are computed for each of many values, so none may go
// through a list for each element of another.
func TooCostly(text string, checked *cel.Ast) string {
	if n := len([]rune(text)); n > maxExpression {
		return fmt.Sprintf("the expression has %d characters, and at most %d are computed", n, maxExpression)
	}
	for _, outer := range ast.MatchDescendants(ast.NavigateAST(checked.NativeRep()), ast.KindMatcher(ast.ComprehensionKind)) {
		for up, inside := outer.Parent(); inside; up, inside = up.Parent() {
			if up.Kind() == ast.ComprehensionKind {
				return "the expression goes through a list within another one, which is not computed"
			}
		}
	}
	return ""
}
