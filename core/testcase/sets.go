package testcase

import (
	"fmt"
	"iter"
	"slices"
	"sync"
	"time"

	"oddtick/core/spec"
	"oddtick/core/values"
)

// FieldSets are the sets of values of one text field.
type FieldSets struct {
	*spec.PreparedField
	// Valid keeps every rule, is not blank, and is left as it is by the server's normalising.
	Valid values.Set
	// server keeps every rule of the server, which is all that counts over HTTP.
	server values.Set
	// shape is what valid values should look like, where there is such a thing.
	shape *values.Automaton
	// broken holds, by rule id, the values that break that rule and no other.
	broken map[string]values.Set
	now    time.Time

	Mu     sync.Mutex
	within map[narrowing]*values.Automaton // intersections made so far
	holds  map[Holding]values.Set          // sets of guesses made so far
	// build makes the values of an automaton that keep all rules of some layers but one, which they break; all of them where it is nil.
	build   func(plain *values.Automaton, but *spec.PreparedRule, layers ...spec.Layer) (values.Set, error)
	Mutated map[*spec.PreparedRule][]values.Mutant
}

// Holding names the values that are about a guess: by the rule they break, "" for none, and the pattern they match.
type Holding struct{ Breaks, Pattern string }

// About are the values that match a pattern, whatever they look like, and break one rule alone, or none.
func (s *FieldSets) About(h Holding) (values.Set, error) {
	s.Mu.Lock()
	defer s.Mu.Unlock()
	if known, ok := s.holds[h]; ok {
		return known, nil
	}
	plain, err := steady(s.PreparedField)
	if err != nil {
		return values.Set{}, err
	}
	telling, err := values.Pattern(h.Pattern, values.DialectV)
	if err != nil {
		return values.Set{}, err
	}
	if plain, err = plain.And(telling); err != nil {
		return values.Set{}, err
	}
	var but *spec.PreparedRule
	for _, r := range s.Rules {
		if h.Breaks != "" && LocalID(r) == h.Breaks {
			but = r
		}
	}
	set, err := s.build(plain, but, spec.OnServer)
	if err != nil {
		return values.Set{}, err
	}
	if s.holds == nil {
		s.holds = map[Holding]values.Set{}
	}
	s.holds[h] = set
	return set, nil
}

// narrowing names an intersection of two automata.
type narrowing struct{ of, with *values.Automaton }

// Textual tells whether a field's values are strings of a computed set.
func Textual(f *spec.PreparedField) bool {
	return f.Kind.Textual()
}

// steady are the values that normalising leaves as they are.
func steady(f *spec.PreparedField) (*values.Automaton, error) {
	auto := values.AnyString()
	for _, step := range f.Normalize {
		var only *values.Automaton
		switch step {
		case spec.Trim:
			only = unpadded()
		case spec.Collapse:
			only = noDoubling()
		case spec.Lower:
			only = values.Only(mustRunes(`\p{Lu}`).Not())
		case spec.Upper:
			only = values.Only(mustRunes(`\p{Ll}`).Not())
		default:
			continue
		}
		var err error
		if auto, err = auto.And(only); err != nil {
			return nil, err
		}
	}
	return auto, nil
}

// ordinary excludes control characters, spaces at the ends, and what normalising would change.
func ordinary(f *spec.PreparedField) (*values.Automaton, error) {
	key := [3]bool{slices.Contains(f.Normalize, spec.Lower), slices.Contains(f.Normalize, spec.Upper), slices.Contains(f.Normalize, spec.Collapse)}
	ordinaryMu.Lock()
	defer ordinaryMu.Unlock()
	if known := ordinaryKnown[key]; known != nil {
		return known, nil
	}
	printable := values.AnyRune().And(unusual.Not())
	if key[0] {
		printable = printable.And(mustRunes(`\p{Lu}`).Not())
	}
	if key[1] {
		printable = printable.And(mustRunes(`\p{Ll}`).Not())
	}
	auto, err := values.Only(printable).And(unpadded())
	if err == nil && key[2] {
		auto, err = auto.And(noDoubling())
	}
	ordinaryKnown[key] = auto
	return auto, err
}

var (
	ordinaryMu    sync.Mutex
	ordinaryKnown = map[[3]bool]*values.Automaton{} // by what normalising makes: small, capital, single spaces

	unusual = values.Runes{{Lo: 0, Hi: 0x1F}, {Lo: 0x7F, Hi: 0xA0}, {Lo: 0x200B, Hi: 0x200F}, {Lo: 0x2028, Hi: 0x202F}, {Lo: 0xE000, Hi: 0xF8FF}, {Lo: 0xFFF0, Hi: 0xFFFF}}
)

func mustRunes(class string) values.Runes {
	set, err := values.ClassRunes(class)
	if err != nil {
		panic(err)
	}
	return set
}

var (
	unpadded   = lazyPattern(`[^\p{White_Space}](?:[^]*[^\p{White_Space}])?`)
	noDoubling = lazyPattern(`(?!.*  )[^]*`)
)

func newFieldSets(f *spec.PreparedField, now time.Time) (*FieldSets, error) {
	s := &FieldSets{PreparedField: f, broken: map[string]values.Set{}, now: now, within: map[narrowing]*values.Automaton{}}
	plain, err := ordinary(f)
	if err != nil {
		return nil, fmt.Errorf("field %s: %w", f.ID, err)
	}
	var rules []*spec.PreparedRule
	for _, r := range f.Rules {
		switch {
		case r.Auto != nil, r.Kind == spec.RuleLength:
			rules = append(rules, r)
		}
	}
	m := &setMaker{rules: rules, known: map[automatonOf]*values.Automaton{}}
	s.build = m.within
	build := func(but *spec.PreparedRule, layers ...spec.Layer) (values.Set, error) {
		return m.within(plain, but, layers...)
	}
	if s.Valid, err = build(nil, spec.InBrowser, spec.OnServer, spec.InDatabase); err != nil {
		return nil, fmt.Errorf("field %s: %w", f.ID, err)
	}
	s.server = s.Valid
	if slices.ContainsFunc(rules, func(r *spec.PreparedRule) bool { return r.Layer != spec.OnServer }) {
		if s.server, err = build(nil, spec.OnServer); err != nil {
			return nil, fmt.Errorf("field %s: %w", f.ID, err)
		}
	}
	for _, r := range rules {
		layers := []spec.Layer{spec.OnServer}
		switch r.Layer {
		case spec.InDatabase:
			continue
		case spec.InBrowser:
			layers = []spec.Layer{spec.InBrowser} // its checks come first, whatever the server would say
		}
		if s.broken[LocalID(r)], err = build(r, layers...); err != nil {
			return nil, fmt.Errorf("field %s: %w", f.ID, err)
		}
	}
	switch f.Kind {
	case spec.Email:
		s.shape = realisticEmail()
	case spec.URL:
		s.shape = realisticURL()
	}
	return s, nil
}

// setMaker makes the sets of values that pass a field's rules. Rules of length change no automaton: what is the same but for them is made
// once.
type setMaker struct {
	rules []*spec.PreparedRule
	known map[automatonOf]*values.Automaton
}

// automatonOf is what an automaton is made of: one to begin with, the one whose complement is taken, and the layers whose rules it holds.
type automatonOf struct {
	plain, negated *values.Automaton
	layers         [3]spec.Layer
}

// within is the set of what passes the rules of some layers, and breaks one of them.
func (m *setMaker) within(plain *values.Automaton, but *spec.PreparedRule, layers ...spec.Layer) (values.Set, error) {
	key := automatonOf{plain: plain}
	copy(key.layers[:], layers)
	if but != nil {
		key.negated = but.Auto
	}
	auto := m.known[key]
	if auto == nil {
		auto = plain
		for _, r := range m.rules {
			if r.Auto == nil || !slices.Contains(layers, r.Layer) {
				continue
			}
			next := r.Auto
			if r == but {
				next = next.Not()
			}
			var err error
			if auto, err = auto.And(next); err != nil {
				return values.Set{}, err
			}
		}
		m.known[key] = auto
	}
	set := values.NewSet(auto)
	for _, r := range m.rules {
		if r.Auto == nil && r != but && slices.Contains(layers, r.Layer) {
			set = set.Within(r.Limit)
		}
	}
	return set, nil
}

// LocalID is a rule's id within its field.
func LocalID(r *spec.PreparedRule) string { return r.Name }

// set returns the valid values, or those that break one rule, intersected with an automaton if one is given.
func (s *FieldSets) set(breaks string, with *values.Automaton) (values.Set, error) {
	set := s.Valid
	if breaks != "" {
		var ok bool
		if set, ok = s.broken[breaks]; !ok {
			return set, fmt.Errorf("the rule %s of %s is not one of a text", breaks, s.ID)
		}
	}
	if with == nil {
		return set, nil
	}
	s.Mu.Lock()
	defer s.Mu.Unlock()
	key := narrowing{set.Automaton(), with}
	both := s.within[key]
	if both == nil {
		var err error
		if both, err = key.of.And(with); err != nil {
			return set, err
		}
		s.within[key] = both
	}
	return set.Of(both), nil
}

// Member takes a valid value, or one that breaks one rule; of the wished shape where there is one, else any.
func (s *FieldSets) Member(breaks string, with *values.Automaton, want values.Want) (string, error) {
	if s.shape != nil && with == nil {
		if shaped, err := s.set(breaks, s.shape); err == nil {
			if v, ok := shaped.Member(want); ok {
				return v, nil
			}
		}
	}
	set, err := s.set(breaks, with)
	if err != nil {
		return "", err
	}
	if v, ok := set.Member(want); ok {
		return v, nil
	}
	if breaks == "" && with == nil {
		if v, ok := s.server.Member(want); ok { // another layer is stricter than the server
			return v, nil
		}
	}
	if want.Length >= 0 {
		return "", fmt.Errorf("no value of %d %s exists that the other rules let pass", want.Length, want.Unit)
	}
	return "", fmt.Errorf("no such value exists")
}

// Usable reports whether there is any such value.
func (s *FieldSets) Usable(breaks string, with *values.Automaton) bool {
	set, err := s.set(breaks, with)
	if err != nil {
		return false
	}
	_, ok := set.Member(values.Want{Length: -1})
	return ok
}

// emailMisses are the edits that every reading of an address refuses.
var emailMisses = []string{"without_sign", "space"}

// Misses are the values one edit from a member that break one rule and no other.
func (s *FieldSets) Misses(rule, member string) iter.Seq[values.Miss] {
	return func(yield func(values.Miss) bool) {
		at := slices.IndexFunc(s.Rules, func(r *spec.PreparedRule) bool { return LocalID(r) == rule })
		if at < 0 || s.Rules[at].Kind == spec.RuleURL {
			return // what readers of URLs refuse differs; that one without a scheme is none they agree on
		}
		broken := s.Rules[at]
		misses := values.NearestMisses(member, func(v string) bool {
			value := s.ValueOf(v, true)
			return value.Normal == v && !broken.Passes(&value, s.now) && Passes(s.PreparedField, v, broken, s.now)
		})
		for m := range misses {
			if (broken.Kind != spec.RuleEmail || slices.Contains(emailMisses, m.Role)) && !yield(m) {
				return
			}
		}
	}
}
