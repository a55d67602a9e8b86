package expression

import (
	"slices"
	"strconv"
	"sync"
	"time"

	"oddtick/core/values"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/types"
)

// Constants are the values that expressions compare with, each once, in the order in which they stand.
type Constants struct {
	Texts     []string
	Numbers   []values.Decimal
	Durations []time.Duration
}

// ConstantsOf reads the constants of expressions. One that cannot be read has none.
func ConstantsOf(expressions ...string) *Constants {
	out := &Constants{}
	for _, text := range expressions {
		if e := parsed(text); e != nil {
			(&reading{constant: out.add}).read(e, nil)
		}
	}
	return out
}

// NamesIn are the names in an expression that are not its own, as an element of a list is in tags.exists(t, t == "x"), each once, in the
// order in which they stand; none where it cannot be read.
func NamesIn(text string) []string {
	var out []string
	if e := parsed(text); e != nil {
		(&reading{name: func(name string) {
			if !slices.Contains(out, name) {
				out = append(out, name)
			}
		}}).read(e, nil)
	}
	return out
}

// grammar reads expressions as they are written: macros stay calls, and need no types.
var grammar = sync.OnceValues(func() (*cel.Env, error) { return cel.NewEnv(cel.ClearMacros()) })

func parsed(text string) ast.Expr {
	env, err := grammar()
	if err != nil {
		return nil
	}
	tree, issues := env.Parse(text)
	if issues.Err() != nil {
		return nil
	}
	return tree.NativeRep().Expr()
}

// durationOf is the function whose argument is a span of time (CEL, "duration").
const durationOf = "duration"

// macros are the functions whose first argument names an element of the list that they are called on (CEL, "Macros").
var macros = []string{"all", "exists", "exists_one", "map", "filter"}

// reading tells of an expression's names and constants; either may be left out.
type reading struct {
	name     func(string)
	constant func(value any, call string)
}

// read goes through an expression from left to right. own are the names that stand for elements.
func (r *reading) read(e ast.Expr, own []string) {
	each := func(list []ast.Expr) {
		for _, one := range list {
			r.read(one, own)
		}
	}
	switch e.Kind() {
	case ast.IdentKind:
		if name := e.AsIdent(); r.name != nil && !slices.Contains(own, name) {
			r.name(name)
		}
	case ast.LiteralKind:
		if r.constant != nil {
			r.constant(e.AsLiteral().Value(), "")
		}
	case ast.SelectKind:
		r.read(e.AsSelect().Operand(), own)
	case ast.ListKind:
		each(e.AsList().Elements())
	case ast.MapKind:
		for _, entry := range e.AsMap().Entries() {
			each([]ast.Expr{entry.AsMapEntry().Key(), entry.AsMapEntry().Value()})
		}
	case ast.CallKind:
		call := e.AsCall()
		args := call.Args()
		if call.IsMemberFunction() {
			r.read(call.Target(), own)
			if slices.Contains(macros, call.FunctionName()) && len(args) > 1 && args[0].Kind() == ast.IdentKind {
				own, args = append(slices.Clone(own), args[0].AsIdent()), args[1:]
			}
		}
		if call.FunctionName() == durationOf && len(args) == 1 && args[0].Kind() == ast.LiteralKind {
			if r.constant != nil {
				r.constant(args[0].AsLiteral().Value(), durationOf)
			}
			return
		}
		each(args)
	}
}

// add adds a constant, the argument of a function where one is named.
func (c *Constants) add(value any, call string) {
	number := func(text string) {
		if n, err := values.ParseDecimal(text); err == nil && !slices.ContainsFunc(c.Numbers, func(m values.Decimal) bool { return m.Cmp(n) == 0 }) {
			c.Numbers = append(c.Numbers, n)
		}
	}
	switch v := value.(type) {
	case string:
		if d, err := time.ParseDuration(v); call == durationOf && err == nil && !slices.Contains(c.Durations, d) {
			c.Durations = append(c.Durations, d)
		} else if call == "" && !slices.Contains(c.Texts, v) {
			c.Texts = append(c.Texts, v)
		}
	case int64:
		number(strconv.FormatInt(v, 10))
	case uint64:
		number(strconv.FormatUint(v, 10))
	case float64:
		number(strconv.FormatFloat(v, 'f', -1, 64))
	}
}

// withDecimals is an expression with its whole numbers as decimals, read but not checked; nil where it holds none.
func withDecimals(env *cel.Env, text string) *cel.Ast {
	tree, issues := env.Parse(text)
	if issues.Err() != nil {
		return nil
	}
	some, factory := false, ast.NewExprFactory()
	ast.PostOrderVisit(tree.NativeRep().Expr(), ast.NewExprVisitor(func(e ast.Expr) {
		if e.Kind() != ast.LiteralKind {
			return
		}
		if n, whole := e.AsLiteral().(types.Int); whole {
			some = true
			e.SetKindCase(factory.NewLiteral(e.ID(), types.Double(n)))
		}
	}))
	if !some {
		return nil
	}
	return tree
}
