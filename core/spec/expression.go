package spec

import "cel.dev/cel-go/cel"

// expression is a condition or a column's value in CEL, compiled. CEL does not calculate with whole numbers and decimals mixed, and
// a field's number may be either: so an expression is compiled twice, as it is written and with its numbers as decimals.
type expression struct {
	whole    cel.Program
	decimals cel.Program // nil where the expression needs whole numbers
	names    []string    // the fields that it names
}

func newExpression(env *cel.Env, checked *cel.Ast, text string) (*expression, error) {
	program, err := env.Program(checked)
	if err != nil {
		return nil, err
	}
	e := &expression{whole: program, names: namesIn(text)}
	if other := withDecimals(env, text); other != nil {
		if again, issues := env.Check(other); issues.Err() == nil {
			if program, err := env.Program(again); err == nil {
				e.decimals = program
			}
		}
	}
	return e, nil
}

// eval computes the expression over the fields' values; ok is false where a value it needs is blank.
func (e *expression) eval(vars map[string]any) (value any, ok bool) {
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
func (e *expression) asDecimals(vars map[string]any) (map[string]any, bool) {
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

// truth evaluates a condition.
func (e *expression) truth(vars map[string]any, otherwise bool) bool {
	value, ok := e.eval(vars)
	if !ok {
		return otherwise
	}
	if yes, isTruth := value.(bool); isTruth {
		return yes
	}
	return otherwise
}
