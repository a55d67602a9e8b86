package contradiction

import (
	"fmt"
	"slices"
	"time"

	"oddtick/core/design"
	"oddtick/core/expression"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// fixedNow is the moment at which bounds relative to now are compared with each other.
var fixedNow = time.Date(2026, 6, 15, 12, 0, 0, 0, time.UTC)

// maxTries is how many combinations of values are tried for an expression.
const maxTries = 5000

// domain is the values of a field that an expression may tell apart. whole says that they are all there are.
type domain struct {
	field  *spec.PreparedField
	values []any
	whole  bool
}

// domainOf lists a field's values that keep its own rules: all of them where they are few, else those between which the expressions
// change.
func domainOf(f *spec.PreparedField, constants *expression.Constants) domain {
	d := domain{field: f, whole: true}
	keep := func(text string, present bool) {
		v := f.ValueOf(text, present)
		for _, r := range f.Rules {
			if r.Phase == spec.PhaseFormat && r.Layer == spec.OnServer && !r.Passes(&v, fixedNow) {
				return
			}
		}
		if one := f.Var(&v); !slices.ContainsFunc(d.values, func(x any) bool { return fmt.Sprint(x) == fmt.Sprint(one) }) {
			d.values = append(d.values, one)
		}
	}
	switch f.Kind {
	case spec.Checkbox:
		keep(f.Value, true)
		keep("", false)
	case spec.SingleChoice:
		for _, o := range f.Options {
			keep(o.Value, true)
		}
		keep("", true)
	case spec.Number:
		d.whole = d.numbers(f, constants, keep)
		keep("", true)
	default:
		d.whole = false
		keep("", true)
		for _, text := range constants.Texts {
			keep(text, true)
			keep(text+"x", true)
		}
		if x := newField(f); x.known {
			if v, ok := member(x.server); ok {
				keep(v, true)
			}
		}
	}
	return d
}

// numbers keeps all numbers of a small range with a step, else those around the bounds and the expression's own numbers.
func (d *domain) numbers(f *spec.PreparedField, constants *expression.Constants, keep func(string, bool)) bool {
	x := newField(f)
	r, s := x.rule(spec.RuleRange, spec.OnServer), x.rule(spec.RuleStep, spec.OnServer)
	if r != nil && s != nil && r.MinNumber != nil && r.MaxNumber != nil {
		if n, ok := firstStep(*r.MinNumber, s); ok {
			count := 0
			for ; n.Cmp(*r.MaxNumber) <= 0 && count <= 500; n = n.Add(s.By) {
				keep(n.String(), true)
				count++
			}
			if count <= 500 {
				return true
			}
		}
	}
	around := append([]values.Decimal{values.Whole(0), values.Whole(1)}, constants.Numbers...)
	for _, b := range []*values.Decimal{bound(r, true), bound(r, false)} {
		if b != nil {
			around = append(around, *b)
		}
	}
	for _, n := range around {
		for _, v := range []values.Decimal{n, n.Add(values.Whole(1)), n.Sub(values.Whole(1))} {
			keep(v.String(), true)
		}
	}
	return false
}

func bound(r *spec.PreparedRule, low bool) *values.Decimal {
	switch {
	case r == nil:
		return nil
	case low:
		return r.MinNumber
	}
	return r.MaxNumber
}

// search tries combinations of the named fields' values until one is found. decided is false when not all there are were tried.
func (f *finder) search(names []*spec.PreparedField, expressions []string, found func(vars map[string]any) bool) (ok, decided bool, tries int) {
	vars := map[string]any{}
	for _, p := range f.p.Fields { // what is not named is blank
		v := p.ValueOf("", false)
		vars[p.ID] = p.Var(&v)
	}
	constants := expression.ConstantsOf(expressions...)
	domains := make([]domain, len(names))
	decided = true
	for i, n := range names {
		domains[i] = domainOf(n, constants)
		decided = decided && domains[i].whole
		if len(domains[i].values) == 0 {
			return true, true, 0 // the field's own contradiction says it
		}
	}
	if usual := f.usual(); usual != nil && !decided && found(usual) {
		return true, true, 1 // what all cases begin with holds
	}
	at := make([]int, len(names))
	for ; tries < maxTries; tries++ {
		for i := range at {
			vars[names[i].ID] = domains[i].values[at[i]]
		}
		if found(vars) {
			return true, true, tries + 1
		}
		i := len(at) - 1
		for ; i >= 0; i-- {
			if at[i]++; at[i] < len(domains[i].values) {
				break
			}
			at[i] = 0
		}
		if i < 0 {
			return false, decided, tries + 1
		}
	}
	return false, false, tries
}

// usual are the values that cases begin with, nil where none can be made.
func (f *finder) usual() map[string]any {
	if !f.usualMade {
		f.usualMade = true
		if d, err := design.New(f.p, nil); err == nil {
			f.usualVars = d.UsualVars()
		}
	}
	return f.usualVars
}

func proofOf(decided bool, tries int) prose.Text {
	if decided {
		return phrases.AllTried.With("n", tries)
	}
	return phrases.NoneFound.With("n", tries)
}

// union joins lists of fields, each once.
func union(lists ...[]*spec.PreparedField) []*spec.PreparedField {
	var out []*spec.PreparedField
	for _, list := range lists {
		for _, f := range list {
			if !slices.Contains(out, f) {
				out = append(out, f)
			}
		}
	}
	return out
}

// across: a rule over fields that never holds, or two that never hold together.
func (f *finder) across() {
	for _, r := range f.p.Across {
		ok, decided, tries := f.search(r.Names, []string{r.Expression}, func(vars map[string]any) bool { return r.Holds(vars) })
		if ok {
			continue
		}
		f.never[r] = true
		f.add(Contradiction{
			Kind: RulesExclude, Path: pathOf(r) + ".must_hold", Undecided: !decided,
		}, &phrases.NeverHolds, "expression", r.Expression, "proof", proofOf(decided, tries))
	}
	for i, a := range f.p.Across {
		for _, b := range f.p.Across[i+1:] {
			if f.never[a] || f.never[b] {
				continue
			}
			ok, decided, tries := f.search(union(a.Names, b.Names), []string{a.Expression, b.Expression}, func(vars map[string]any) bool { return a.Holds(vars) && b.Holds(vars) })
			if !ok {
				f.add(Contradiction{
					Kind: RulesExclude, Path: pathOf(a) + ".must_hold", Other: prose.Text(pathOf(b) + ".must_hold"), Undecided: !decided,
				}, &phrases.NeverBothHold, "expression", a.Expression, "other", b.Expression, "proof", proofOf(decided, tries))
			}
		}
	}
}

// replies: a success reply that another always comes before, or whose condition never holds.
func (f *finder) replies() {
	for i, reply := range f.p.Replies {
		path := fmt.Sprintf("accepted.reply[%d]", i)
		for k, before := range f.p.Replies[:i] {
			if before.When == "" {
				f.add(Contradiction{
					Kind: ReplyUnreachable, Path: path, Other: prose.Text(fmt.Sprintf("accepted.reply[%d]", k)),
				}, &phrases.ReplyBehind, "reply", quoted(reply.Text))
				return
			}
		}
		names, expressions := reply.Names, []string{reply.When}
		for _, before := range f.p.Replies[:i] {
			names, expressions = union(names, before.Names), append(expressions, before.When)
		}
		var rules []*spec.PreparedRule
		for _, r := range f.p.Across {
			if !f.never[r] {
				rules = append(rules, r)
				names, expressions = union(names, r.Names), append(expressions, r.Expression)
			}
		}
		ok, decided, tries := f.search(names, expressions, func(vars map[string]any) bool {
			for _, r := range rules {
				if !r.Holds(vars) {
					return false
				}
			}
			for _, before := range f.p.Replies[:i] {
				if before.Applies(vars) {
					return false
				}
			}
			return reply.When == "" || reply.Applies(vars)
		})
		if !ok {
			proof := phrases.NoneFound
			if decided {
				proof = phrases.AllOfFieldsTried
			}
			f.add(Contradiction{Kind: ReplyUnreachable, Path: path, Undecided: !decided}, &phrases.ReplyUnreachable, "reply", quoted(reply.Text), "proof", proof.With("n", tries))
		}
	}
}
