package contradiction

import (
	"fmt"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// field is a field with the sets of texts that its layers let pass.
type field struct {
	*spec.PreparedField
	path   string
	server values.Set
	// known says that the server's set could be computed.
	known bool
}

func newField(f *spec.PreparedField) *field {
	out := &field{PreparedField: f, path: "fields[" + f.ID + "]"}
	if f.Kind.Textual() {
		out.server, out.known = setOf(f, func(r *spec.PreparedRule) bool { return r.Layer == spec.OnServer && !r.Conditional() })
	}
	return out
}

// setOf intersects the rules of a field that are wanted; ok is false when the result has too many states.
func setOf(f *spec.PreparedField, want func(*spec.PreparedRule) bool) (set values.Set, ok bool) {
	set = values.NewSet(values.AnyString())
	for _, r := range f.Rules {
		if !want(r) {
			continue
		}
		switch {
		case r.Auto != nil:
			next, err := set.And(r.Auto)
			if err != nil {
				return set, false
			}
			set = next
		case r.Kind == spec.RuleLength:
			set = set.Within(r.Limit)
		}
	}
	return set, true
}

func (f *field) rule(kind spec.RuleKind, layer spec.Layer) *spec.PreparedRule {
	for _, r := range f.Rules {
		if r.Kind == kind && r.Layer == layer {
			return r
		}
	}
	return nil
}

func pathOf(r *spec.PreparedRule) string {
	if r.Field == nil {
		return "across[" + strings.TrimPrefix(r.ID, "across.") + "]"
	}
	return "fields[" + r.Field.ID + "].rules[" + strings.TrimPrefix(r.ID, r.Field.ID+".") + "]"
}

// member takes a member of a set, the shortest there is.
func member(s values.Set) (string, bool) { return s.Member(values.Want{Length: -1}) }

func (f *finder) field(x *field) {
	for _, r := range x.Rules {
		f.bounds(x, r)
	}
	if x.known {
		f.texts(x)
	}
	f.numbers(x)
	f.agreement(x)
	f.given(x, "initial", InitialRejected, x.Initial)
	if x.Example != "" {
		v := spec.Scalar(x.Example)
		f.given(x, "example", ExampleRejected, &v)
	}
}

// bounds: the minimum of one rule above its maximum.
func (f *finder) bounds(x *field, r *spec.PreparedRule) {
	lo, hi, crossed := "", "", false
	switch {
	case r.Kind == spec.RuleLength:
		crossed = r.Limit.Max >= 0 && r.Limit.Min > r.Limit.Max
		lo, hi = fmt.Sprint(r.Limit.Min), fmt.Sprint(r.Limit.Max)
	case r.MinNumber != nil && r.MaxNumber != nil:
		crossed = r.MinNumber.Cmp(*r.MaxNumber) > 0
	case r.MinDay != nil && r.MaxDay != nil:
		crossed = r.MinDay.On(f.a.Now).After(r.MaxDay.On(f.a.Now))
	case r.MinMoment != nil && r.MaxMoment != nil:
		crossed = r.MinMoment.On(f.a.Now).After(r.MaxMoment.On(f.a.Now))
	}
	if !crossed {
		return
	}
	if r.Kind == spec.RuleRange {
		lo, hi = string(r.Rule.Range.Min), string(r.Rule.Range.Max)
	}
	f.add(Contradiction{Kind: MinimumAboveMaximum, Field: x.ID, Path: pathOf(r) + ".min", Other: prose.Text(pathOf(r) + ".max")}, &phrases.MinimumAboveMaximum, "min", lo, "label", x.Label, "max", hi)
}

// texts: patterns, characters and lengths of a text that leave nothing.
func (f *finder) texts(x *field) {
	if _, ok := member(x.server); ok {
		return
	}
	rules := slices.DeleteFunc(slices.Clone(x.Rules), func(r *spec.PreparedRule) bool {
		return r.Layer != spec.OnServer || r.Auto == nil && r.Kind != spec.RuleLength || r.Kind == spec.RuleLength && r.Limit.Max >= 0 && r.Limit.Min > r.Limit.Max
	})
	for _, r := range rules {
		if r.Auto != nil && r.Auto.Empty() {
			f.add(Contradiction{Kind: NothingMatches, Field: x.ID, Path: pathOf(r)}, &phrases.NothingMatches, "rule", r.Kind, "label", x.Label)
			return
		}
	}
	for i, a := range rules {
		for _, b := range rules[i+1:] {
			set, ok := setOf(x.PreparedField, func(r *spec.PreparedRule) bool { return r == a || r == b })
			if _, some := member(set); !ok || some {
				continue
			}
			f.excluded(x, a, b)
			return
		}
	}
	if len(rules) > 2 {
		f.add(Contradiction{Kind: RulesExclude, Field: x.ID, Path: x.path + ".rules"}, &phrases.NoneOfAll, "label", x.Label)
	}
}

// excluded words two rules of a text that no value keeps both of.
func (f *finder) excluded(x *field, a, b *spec.PreparedRule) {
	if a.Kind == spec.RuleLength {
		a, b = b, a
	}
	if b.Kind == spec.RuleLength && a.Auto != nil {
		lo, hi, _ := values.NewSet(a.Auto).Bounds(b.Limit.Unit)
		matches := phrases.MatchesBetween
		if hi < 0 {
			matches = phrases.MatchesFrom
		}
		allowed := phrases.AllowedFrom
		if b.Limit.Max >= 0 {
			allowed = phrases.AllowedBetween
		}
		f.add(Contradiction{Kind: NothingMatches, Field: x.ID, Path: pathOf(a), Other: prose.Text(pathOf(b))}, &phrases.NoLengthMatches, "rule", a.Kind, "label", x.Label,
			"matches", matches.With("min", lo, "max", hi, "unit", phrases.Units[string(b.Limit.Unit)].Text()), "allowed", allowed.With("min", b.Limit.Min, "max", b.Limit.Max))
		return
	}
	proof := prose.Text("")
	if v, ok := member(values.NewSet(orAny(a))); ok {
		proof = phrases.KeepsTheFirst.With("value", quoted(v))
	}
	f.add(Contradiction{Kind: RulesExclude, Field: x.ID, Path: pathOf(a), Other: prose.Text(pathOf(b)), Proof: proof}, &phrases.RulesExclude, "rule", a.ID, "other", b.ID, "label", x.Label)
}

func orAny(r *spec.PreparedRule) *values.Automaton {
	if r.Auto != nil {
		return r.Auto
	}
	return values.AnyString()
}

// numbers: a step that no number in the range lies on, a range that lets none of the options pass.
func (f *finder) numbers(x *field) {
	r, s := x.rule(spec.RuleRange, spec.OnServer), x.rule(spec.RuleStep, spec.OnServer)
	if r == nil || r.MinNumber == nil || r.MaxNumber == nil || r.MinNumber.Cmp(*r.MaxNumber) > 0 {
		return
	}
	if s != nil {
		if next, ok := firstStep(*r.MinNumber, s); ok && next.Cmp(*r.MaxNumber) > 0 {
			f.add(Contradiction{Kind: RulesExclude, Field: x.ID, Path: pathOf(s), Other: prose.Text(pathOf(r))}, &phrases.NoStepInRange, "label", x.Label, "min", r.MinNumber, "next", next, "max", r.MaxNumber)
		}
	}
	if r.Exclusive && r.MinNumber.Cmp(*r.MaxNumber) == 0 {
		f.add(Contradiction{Kind: RulesExclude, Field: x.ID, Path: pathOf(r)}, &phrases.EmptyRange, "label", x.Label, "min", r.MinNumber, "max", r.MaxNumber)
	}
}

// firstStep is the first number from lo on that lies on the step. The division is done on whole counts of the finer scale.
func firstStep(lo values.Decimal, s *spec.PreparedRule) (values.Decimal, bool) {
	n := s.From
	for range 100_000 {
		switch c := n.Cmp(lo); {
		case c == 0:
			return n, true
		case c < 0:
			next := n.Add(s.By)
			if next.Cmp(lo) >= 0 {
				return next, true
			}
			n = next
		default:
			before := n.Sub(s.By)
			if before.Cmp(lo) < 0 {
				return n, true
			}
			n = before
		}
	}
	return n, false
}

// agreement: a field that must both be the same as another and differ from it.
func (f *finder) agreement(x *field) {
	for _, a := range x.Rules {
		for _, d := range x.Rules {
			if a.Kind == spec.RuleSameAs && d.Kind == spec.RuleDifferentFrom && a.Other == d.Other && a.Layer == d.Layer {
				f.add(Contradiction{Kind: RulesExclude, Field: x.ID, Path: pathOf(a), Other: prose.Text(pathOf(d))}, &phrases.SameAndDifferent, "label", x.Label, "other", a.Other.Label)
			}
		}
	}
	required := x.rule(spec.RuleRequired, spec.OnServer)
	if required != nil && x.Kind == spec.Honeypot {
		f.add(Contradiction{Kind: RulesExclude, Field: x.ID, Path: pathOf(required), Other: prose.Text(x.path + ".kind")}, &phrases.RequiredTrap, "label", x.Label)
	}
}

// given: a value that the document itself gives and its rules reject.
func (f *finder) given(x *field, key string, kind Kind, value *spec.Scalar) {
	if value == nil || *value == "" || x.Kind == spec.Checkbox {
		return
	}
	v := x.ValueOf(string(*value), true)
	for _, r := range x.Rules {
		if r.Phase == spec.PhaseFormat && r.Layer == spec.OnServer && !r.Conditional() && !r.Passes(&v, f.a.Now) {
			f.add(Contradiction{Kind: kind, Field: x.ID, Path: x.path + "." + key, Other: prose.Text(pathOf(r))}, &phrases.GivenRejected, "key", key, "label", x.Label, "rule", r.Kind, "value", quoted(string(*value)))
			return
		}
	}
}

// browserStricter: a value that the server takes and the browser does not let through.
func (f *finder) browserStricter(x *field) {
	for _, r := range x.Rules {
		if r.Layer != spec.InBrowser || r.Conditional() {
			continue
		}
		proof, stricter := x.refused(r)
		switch s := x.rule(spec.RuleLength, spec.OnServer); {
		case !stricter:
		case r.Kind == spec.RuleLength && s != nil && s.Limit.Min == r.Limit.Min && s.Limit.Max == r.Limit.Max && s.Limit.Unit != r.Limit.Unit:
			f.add(Contradiction{Kind: UnitsDiffer, Field: x.ID, Path: pathOf(r), Note: true}, &phrases.UnitsDiffer,
				"label", x.Label, "browser", phrases.Units[string(r.Limit.Unit)].Text(), "server", phrases.Units[string(s.Limit.Unit)].Text(), "proof", proof)
		default:
			f.add(Contradiction{Kind: BrowserStricter, Field: x.ID, Path: pathOf(r)}, &phrases.BrowserStricter, "rule", r.Kind, "label", x.Label, "proof", proof)
		}
	}
}

// refused finds a value that all rules of the server let pass and a rule of the browser does not.
func (x *field) refused(r *spec.PreparedRule) (proof prose.Text, stricter bool) {
	taken := func(v string) prose.Text { return phrases.TakenValue.With("value", quoted(v)) }
	switch {
	case r.Kind == spec.RuleRequired || r.Kind == spec.RuleMustBeChecked:
		if x.rule(spec.RuleRequired, spec.OnServer) == nil && x.rule(spec.RuleMustBeChecked, spec.OnServer) == nil && x.rule(spec.RuleSameAs, spec.OnServer) == nil {
			return phrases.TakenBlank.Text(), true
		}
	case r.Auto != nil && x.known:
		if set, err := x.server.And(r.Auto.Not()); err == nil {
			if v, ok := member(set.Within(values.Limit{Unit: values.Characters, Min: 1, Max: -1})); ok {
				return taken(v), true
			}
		}
	case r.Kind == spec.RuleLength && x.known:
		if r.Limit.Max >= 0 {
			if v, ok := member(x.server.Within(values.Limit{Unit: r.Limit.Unit, Min: r.Limit.Max + 1, Max: -1})); ok {
				return taken(v), true
			}
		}
		if r.Limit.Min > 1 {
			if v, ok := member(x.server.Within(values.Limit{Unit: r.Limit.Unit, Min: 1, Max: r.Limit.Min - 1})); ok {
				return taken(v), true
			}
		}
	case r.Kind == spec.RuleRange:
		return x.narrower(r)
	case r.Kind == spec.RuleStep:
		s := x.rule(spec.RuleStep, spec.OnServer)
		if s == nil {
			half := r.From.Add(r.By.Half())
			return taken(half.String()), x.inRange(half)
		}
		if !s.By.Fits(values.Whole(0), r.By) {
			v := s.From.Add(s.By)
			return taken(v.String()), x.inRange(v)
		}
	}
	return "", false
}

func (x *field) inRange(n values.Decimal) bool {
	v := x.ValueOf(n.String(), true)
	for _, r := range x.Rules {
		if r.Layer == spec.OnServer && r.Phase == spec.PhaseFormat && !r.Passes(&v, fixedNow) {
			return false
		}
	}
	return true
}

// narrower compares two ranges end by end.
func (x *field) narrower(r *spec.PreparedRule) (prose.Text, bool) {
	s := x.rule(spec.RuleRange, spec.OnServer)
	bound := func(low bool) string {
		if s == nil {
			return phrases.NoBound.Template()
		}
		text := string(s.Rule.Range.Max)
		if low {
			text = string(s.Rule.Range.Min)
		}
		if text == "" {
			return phrases.NoBound.Template()
		}
		return text
	}
	say := func(end phrases.Phrase, browser string, low bool) (prose.Text, bool) {
		return phrases.EndsDiffer.With("end", end.Text(), "browser", browser, "server", bound(low)), true
	}
	switch {
	case r.MinNumber != nil && (s == nil || s.MinNumber == nil || s.MinNumber.Cmp(*r.MinNumber) < 0):
		return say(phrases.Minimum, r.MinNumber.String(), true)
	case r.MaxNumber != nil && (s == nil || s.MaxNumber == nil || s.MaxNumber.Cmp(*r.MaxNumber) > 0):
		return say(phrases.Maximum, r.MaxNumber.String(), false)
	case r.MinDay != nil && (s == nil || s.MinDay == nil || s.MinDay.On(fixedNow).Before(r.MinDay.On(fixedNow))):
		return say(phrases.FirstDay, string(r.Rule.Range.Min), true)
	case r.MaxDay != nil && (s == nil || s.MaxDay == nil || s.MaxDay.On(fixedNow).After(r.MaxDay.On(fixedNow))):
		return say(phrases.LastDay, string(r.Rule.Range.Max), false)
	case r.MinMoment != nil && (s == nil || s.MinMoment == nil || s.MinMoment.On(fixedNow).Before(r.MinMoment.On(fixedNow))):
		return say(phrases.EarliestTime, string(r.Rule.Range.Min), true)
	case r.MaxMoment != nil && (s == nil || s.MaxMoment == nil || s.MaxMoment.On(fixedNow).After(r.MaxMoment.On(fixedNow))):
		return say(phrases.LatestTime, string(r.Rule.Range.Max), false)
	}
	return "", false
}

// messages: rules of one field, or rules that all speak in the summary, with the same text. Nothing is wrong with it, but which of them
// spoke cannot be told; it is noted once for all of them.
func (f *finder) messages() {
	type place struct{ text, at string }
	sharing := map[place][]*spec.PreparedRule{}
	var order []place
	for _, r := range f.p.Rules {
		text, ok := r.Message.In("")
		if !ok || r.Layer == spec.InBrowser {
			continue
		}
		at := string(r.Place)
		if r.At != nil && r.Place == spec.AtField {
			at = r.At.ID
		}
		key := place{text, at}
		if sharing[key] == nil {
			order = append(order, key)
		}
		sharing[key] = append(sharing[key], r)
	}
	for _, key := range order {
		rules := sharing[key]
		if len(rules) < 2 {
			continue
		}
		ids := make([]string, len(rules))
		for i, r := range rules {
			ids[i] = r.ID
		}
		c := Contradiction{Kind: MessageShared, Path: pathOf(rules[1]) + ".say", Other: prose.Text(pathOf(rules[0]) + ".say"), Note: true}
		if rules[1].Field != nil {
			c.Field = rules[1].Field.ID
		}
		f.add(c, &phrases.MessageShared, "rules", strings.Join(ids[:len(ids)-1], ", "), "last", ids[len(ids)-1], "message", quoted(key.text))
	}
}
