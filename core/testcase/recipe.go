package testcase

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/values"
)

// Recipe says how a value is made when the case is submitted. Exactly one of its kinds is meant, by Make.
type Recipe struct {
	Make Make `json:"make"`
	// Text is the value of a fixed recipe, and what a new value should look like otherwise.
	Text string `json:"text,omitempty"`
	// Unit and Length ask a new value for an exact length; Wide asks for characters beyond ASCII.
	Unit   values.Unit `json:"unit,omitempty"`
	Length int         `json:"length,omitempty"`
	Wide   bool        `json:"wide,omitempty"`
	// Breaks is the one rule a new value breaks, by its id within the field; Miss the edit that breaks it.
	Breaks string `json:"breaks,omitempty"`
	Miss   string `json:"miss,omitempty"`
	// About is a pattern that a new value matches, as a guess asks for. Mutant names a mistaken pattern of the rule OfRule that a new value
	// tells from the right one.
	About  string `json:"about,omitempty"`
	Mutant string `json:"mutant,omitempty"`
	OfRule string `json:"of_rule,omitempty"`
	// Of and Step name the field and step whose value is taken; Change what is done to it.
	Of     string `json:"of,omitempty"`
	Step   int    `json:"step,omitempty"`
	Change string `json:"change,omitempty"`
	// Sign is what a change puts inside, or the calling code for which it puts a 0.
	Sign string `json:"sign,omitempty"`
	// Shift moves a moment or a day by minutes.
	Shift int `json:"shift,omitempty"`
	// Zone is the time zone of a day relative to today, or of a moment relative to now, which Text holds.
	Zone string `json:"zone,omitempty"`
}

// Make is a kind of recipe.
type Make string

// The kinds of recipes.
const (
	// Fixed is the text itself.
	Fixed Make = "fixed"
	// Fresh is a value that keeps the field's rules, or breaks one and no other, and that no case used yet.
	Fresh Make = "new"
	// Day is a day, relative to the day of submitting.
	Day Make = "day"
	// Moment is a time of day, or a day and a time, on a bound or some minutes from it.
	Moment Make = "moment"
	// Any is a valid value of no particular look, other in each run.
	Any Make = "any"
	// File is a file: Text holds its name and media type, Length its size in bytes.
	File Make = "file"
	// Same is another field's value, of the same or an earlier step.
	Same Make = "same"
	// OnPage is what the page's control holds.
	OnPage Make = "on the page"
	// Absent leaves the parameter out.
	Absent Make = "absent"
	// Null sends JSON's null.
	Null Make = "null"
	// OfAccount is the password of whoever is signed in.
	OfAccount Make = "the account's"
	// OfAccountName is the name of the account that signs in.
	OfAccountName Make = "the account's name"
	// OfRow is the value of a row that the field may refer to, another one in each run.
	OfRow Make = "row"
	// OfOtherTable is a value that another table holds, in which a unique value must not be either.
	OfOtherTable Make = "other_table"
	// NotOffered is the key of a row that the field's column may refer to, and that neither the document nor the page offers; the text where
	// there is none.
	NotOffered Make = "not_offered"
)

// null stands for JSON's null among a step's values.
const null = "\x00null"

// The changes of a value.
const (
	OtherCase    = "other case"
	SpacesAround = "spaces around"
	Another      = "another"
	OneMore      = "one character more"
	OneFewer     = "one character fewer"
	SignInside   = "sign inside"
	OnlyItsZero  = "0 for the calling code"
	TwoZeros     = "00 for the plus"
	InGroups     = "digits in groups"
)

// Env is what recipes are resolved from.
type Env struct {
	// Run and Try make values new: another try gives other values.
	Run int64
	Try int
	Now time.Time
	// OnPage are the values the page's controls hold, by request name.
	OnPage map[string]string
	// Offered are the values that the page's lists and buttons offer, by request name.
	Offered map[string][]string
	// Name and Password are those of whoever is signed in, or signs in.
	Name, Password string
	// Rows are the values that rows hold, by the id of the field that may refer to them.
	Rows map[string][]string
	// Earlier are the values of the case's earlier steps, by field id.
	Earlier []Resolved
	// Drafts keeps fresh values while designing, when it does not matter that two cases share one.
	Drafts map[Draft]string
}

// Draft is what a fresh value was made for.
type Draft struct {
	field  string
	recipe Recipe
	step   int
}

// Resolved is a step's values, by field id; an absent field is not in it.
type Resolved map[string]string

// Resolve makes a step's values. The error says that a set has no such member.
func (m *Maker) Resolve(c *Case, step int, env *Env) (Resolved, error) {
	s := &c.Steps[step]
	out := make(Resolved, len(s.Inputs))
	r := resolver{d: m, env: env, out: out, step: step, key: c.ID + "#" + strconv.Itoa(step)}
	for pass := range 2 { // values copied from the same step come second
		for i := range s.Inputs {
			in := &s.Inputs[i]
			copied := in.Recipe.Make == Same && in.Recipe.Step == step
			if copied != (pass == 1) {
				continue
			}
			v, present, err := r.value(in, copied)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", in.Field, err)
			}
			if present {
				out[in.Field] = v
			}
		}
	}
	return out, nil
}

// Submission turns a step's values into the pairs that are sent, fields in page order, then what is surplus.
func (m *Maker) Submission(s *Step, r Resolved) *submission.Submission {
	sub := &submission.Submission{Driver: s.Driver, Encoding: "urlencoded", Pairs: make([]submission.Pair, 0, len(m.Form.Fields)+len(s.Extra)), Body: s.Body, Replaced: s.Replaced, BackAndForth: s.BackAndForth, Forged: s.Forged, Record: s.Record, MayRefuse: s.MayRefuse, Without: s.Without, Altered: s.Altered}
	if m.Form.Form.Submit.Encoding == "json" {
		sub.Encoding = "json"
	}
	left := m.LeftOut(r)
	for _, f := range m.Form.Fields {
		v, ok := r[f.ID]
		switch {
		case !ok || left[f.ID]:
		case f.Kind == spec.MultipleChoice && v == "": // of boxes none is ticked by sending none
		case f.Kind == spec.MultipleChoice:
			for _, one := range strings.Split(v, ChosenTogether) {
				sub.Pairs = append(sub.Pairs, pairOf(f, one))
			}
		default:
			sub.Pairs = append(sub.Pairs, pairOf(f, f.Written(v)))
		}
	}
	sub.Pairs = append(sub.Pairs, s.Extra...)
	return sub
}

func pairOf(f *spec.PreparedField, v string) submission.Pair {
	if v == null {
		return submission.Pair{Name: f.Name, Null: true}
	}
	p := submission.Pair{Name: f.Name, Value: v}
	if f.Kind == spec.Upload {
		if a, err := spec.ParseAttachment(v); err == nil {
			p.File = &a
		}
	}
	return p
}

// LeftOut are the fields whose condition is false with these values: they are not filled.
func (m *Maker) LeftOut(r Resolved) map[string]bool {
	var out map[string]bool
	var vars map[string]any
	for _, f := range m.Form.Fields {
		if f.When == "" {
			continue
		}
		if vars == nil {
			vars, out = map[string]any{}, map[string]bool{}
			for _, other := range m.Form.Fields {
				text, present := r[other.ID]
				v := other.ValueOf(text, present)
				vars[other.ID] = other.Var(&v)
			}
		}
		out[f.ID] = f.Absent(vars)
	}
	return out
}

type resolver struct {
	d    *Maker
	env  *Env
	out  Resolved
	key  string
	step int
}

func (r *resolver) value(in *Input, copied bool) (string, bool, error) {
	recipe := &in.Recipe
	switch recipe.Make {
	case Fixed:
		return recipe.Text, true, nil
	case Absent:
		return "", false, nil
	case Null:
		return null, true, nil
	case OfAccount:
		v := r.env.Password
		if v == "" {
			v = referenceSecret // while designing
		}
		return recipe.Changed(v), true, nil
	case OfAccountName:
		v := r.env.Name
		if v == "" {
			v = referenceName // while designing
		}
		return recipe.Changed(v), true, nil
	case OfRow:
		v, ok, err := r.row(in)
		return recipe.Changed(v), ok, err
	case OfOtherTable:
		other := *in
		other.Field = AlsoTaken(in.Field)
		return r.row(&other)
	case NotOffered:
		return r.notOffered(in), true, nil
	case OnPage:
		v, ok := r.env.OnPage[r.d.Form.Field(in.Field).Name]
		return recipe.Changed(v), ok || recipe.Change != "", nil
	case Day:
		bound, err := values.ParseDateBound(recipe.Text)
		if err != nil {
			return "", false, err
		}
		zone := time.UTC
		if recipe.Zone != "" {
			if zone, err = time.LoadLocation(recipe.Zone); err != nil {
				return "", false, err
			}
		}
		return bound.On(r.env.Now.In(zone)).Add(time.Duration(recipe.Shift) * time.Minute).Format(values.DateLayout), true, nil
	case Moment:
		return r.moment(in)
	case File:
		return fmt.Sprintf("%s, %d bytes", recipe.Text, recipe.Length), true, nil
	case Any:
		v, err := r.any(in)
		return v, true, err
	case Same:
		from := r.out
		if !copied {
			from = r.env.Earlier[recipe.Step]
		}
		v, ok := from[recipe.Of]
		if recipe.Shift != 0 {
			v = Shifted(v, recipe.Shift)
		}
		return recipe.Changed(v), ok, nil
	case Fresh:
		key := Draft{in.Field, *recipe, r.step}
		v, known := r.env.Drafts[key]
		if !known {
			var err error
			if v, err = r.fresh(in); err != nil {
				return "", false, err
			}
			if r.env.Drafts != nil {
				r.env.Drafts[key] = v
			}
		}
		return recipe.Changed(v), true, nil
	}
	return "", false, fmt.Errorf("the recipe %q is not known", recipe.Make)
}

func (r *resolver) moment(in *Input) (string, bool, error) {
	bound, err := values.ParseMomentBound(in.Recipe.Text)
	if err != nil {
		return "", false, err
	}
	zone, err := time.LoadLocation(in.Recipe.Zone) // "" is UTC
	if err != nil {
		return "", false, err
	}
	layout := momentLayout
	if r.d.Form.Field(in.Field).Kind == spec.Time {
		layout = "15:04"
	}
	return bound.On(r.env.Now.In(zone)).Add(time.Duration(in.Recipe.Shift) * time.Minute).Format(layout), true, nil
}

// any is a member of the valid set that follows no wish but the seed's.
func (r *resolver) any(in *Input) (string, error) {
	f := r.d.Sets[in.Field]
	seed := values.Seed(uint64(r.env.Run)<<8|uint64(r.env.Try), r.key, in.Field)
	want := values.Want{Length: -1, Hint: values.Token(seed, int(seed>>32%24)), Seed: seed, Wide: seed>>60 == 0, LeadingZeros: true}
	if l := RuleOf(f.PreparedField, spec.RuleLength); l != nil && l.Limit.Max > 0 {
		if span := min(l.Limit.Max, 80) - l.Limit.Min + 1; span > 0 {
			want.Unit, want.Length = l.Limit.Unit, l.Limit.Min+int(seed>>16%uint64(span))
		}
	}
	v, err := f.Member("", nil, want)
	if err != nil && want.Length >= 0 {
		want.Length = -1
		v, err = f.Member("", nil, want)
	}
	return v, err
}

// missTries is how many members are tried for one that has a miss of a kind.
const missTries = 40

func (r *resolver) fresh(in *Input) (string, error) {
	f := r.d.Sets[in.Field]
	recipe := &in.Recipe
	seed := r.seed(in)
	if f == nil {
		return r.freshTime(in, seed)
	}
	want := values.Want{Length: -1, Unit: recipe.Unit, Wide: recipe.Wide, Seed: seed, Hint: recipe.Text}
	// a leading zero is a case of its own; only when other values are taken may one come by chance
	want.LeadingZeros = r.env.Try&16 != 0
	if recipe.Unit != "" {
		want.Length = recipe.Length
	}
	switch {
	case want.Hint == "":
		want.Hint = f.Hint(seed, want.Length)
	case RuleOf(f.PreparedField, spec.RuleUnique) != nil:
		want.Hint += values.Token(seed, 5)
	}
	if recipe.About != "" {
		set, err := f.About(Holding{recipe.Breaks, recipe.About})
		if err != nil {
			return "", err
		}
		v, ok := set.Member(want)
		if !ok {
			return "", fmt.Errorf("no such value exists")
		}
		return v, nil
	}
	if recipe.Mutant != "" {
		with, err := Mutant(f, recipe.OfRule, recipe.Mutant, recipe.Breaks != "")
		if err != nil {
			return "", err
		}
		return f.Member(recipe.Breaks, with, want)
	}
	if only, ok := SoleCharacters[recipe.Miss]; ok || recipe.Miss == "" {
		return f.Member(recipe.Breaks, only, want)
	}
	for range missTries { // not every member has a miss of this kind beside it
		member, err := f.Member("", nil, want)
		if err != nil {
			return "", err
		}
		for m := range f.Misses(recipe.Breaks, member) {
			if m.Role == recipe.Miss {
				return m.Value, nil
			}
		}
		want.Seed = values.Seed(want.Seed, recipe.Miss)
		want.Hint = f.Hint(want.Seed, want.Length)
	}
	return "", fmt.Errorf("no value exists one edit away that breaks %s alone in this way", recipe.Breaks)
}

// seed differs from run to run, from try to try and from field to field.
func (r *resolver) seed(in *Input) uint64 {
	return values.Seed(uint64(r.env.Run)<<8|uint64(r.env.Try), r.key, in.Field)
}

// row is the value of some row that the field may refer to.
func (r *resolver) row(in *Input) (string, bool, error) {
	known := r.env.Rows[in.Field]
	if f := r.d.Form.Field(strings.TrimSuffix(in.Field, alsoTaken)); len(known) == 0 {
		if r.env.Rows != nil && (f.Example == "" || f.ID != in.Field) {
			return "", false, fmt.Errorf("no row is known that it could refer to")
		}
		return r.d.referenceRow(f), true, nil // while designing, or without a database
	}
	if strings.HasSuffix(in.Field, alsoTaken) { // a faulty site has taken the one before: the next attempt needs another
		return known[(values.Seed(uint64(r.env.Run), in.Field)+uint64(r.env.Try/MostTries+r.env.Try%MostTries))%uint64(len(known))], true, nil
	}
	return known[r.seed(in)%uint64(len(known))], true, nil
}

// notOffered is the key of a row that is not offered, or the recipe's text.
func (r *resolver) notOffered(in *Input) string {
	f := r.d.Form.Field(in.Field)
	var known []string
	for _, key := range r.env.Rows[Referred(f.ID)] {
		offered := slices.Contains(r.env.Offered[f.Name], key) || slices.ContainsFunc(f.Options, func(o spec.Option) bool { return o.Value == key })
		if !offered {
			known = append(known, key)
		}
	}
	if len(known) == 0 {
		return in.Recipe.Text
	}
	return known[r.seed(in)%uint64(len(known))]
}

// Referred is the name under which the keys are known that a field's column may refer to.
func Referred(field string) string { return field + " referred" }

// MostTries is how often new values are tried for one that no row holds yet; by so much Try grows from one attempt at a case to the next.
const MostTries = 40

// alsoTaken ends the name under which the values are known that other tables hold for a field; no id of a field has such an end.
const alsoTaken = " also"

// AlsoTaken is the name under which the values are known that other tables hold for a field.
func AlsoTaken(field string) string { return field + alsoTaken }

// referenceRow stands for the value of a row while designing.
func (m *Maker) referenceRow(f *spec.PreparedField) string {
	if f.Example != "" {
		return f.Example
	}
	if sets := m.Sets[f.ID]; sets != nil {
		if v, err := sets.Member("", nil, values.Want{Length: -1, Hint: sets.Hint(0, -1)}); err == nil {
			return v
		}
	}
	if f.Kind == spec.Number {
		return BaseNumber(f)
	}
	return referenceHidden
}

// WidestSpan is how far from today, or from its one bound, a new day may be, in days.
const WidestSpan = 3650

// freshTime is a day, or a day and a time, well within its range.
func (r *resolver) freshTime(in *Input, seed uint64) (string, error) {
	f := r.d.Form.Field(in.Field)
	now := r.env.Now
	var lo, hi time.Time
	zone := time.UTC
	if rg := RuleOf(f, spec.RuleRange); rg != nil {
		zone = rg.Zone
		for bound, into := range map[*values.DateBound]*time.Time{rg.MinDay: &lo, rg.MaxDay: &hi} {
			if bound != nil {
				*into = bound.On(now.In(zone))
			}
		}
		for bound, into := range map[*values.MomentBound]*time.Time{rg.MinMoment: &lo, rg.MaxMoment: &hi} {
			if bound != nil {
				*into = bound.On(now.In(zone))
			}
		}
	}
	switch {
	case lo.IsZero() && hi.IsZero():
		lo = now.In(zone)
		hi = lo.AddDate(0, 0, WidestSpan)
	case lo.IsZero():
		lo = hi.AddDate(0, 0, -WidestSpan)
	case hi.IsZero():
		hi = lo.AddDate(0, 0, WidestSpan)
	}
	days := int(hi.Sub(lo).Hours() / 24)
	if days < 4 {
		return "", fmt.Errorf("its range is too narrow for a day that no row holds")
	}
	day := lo.AddDate(0, 0, 2+int(seed%uint64(days-3)))
	if f.Kind == spec.DateTime {
		return day.Truncate(time.Hour).Format(momentLayout), nil
	}
	return day.Format(values.DateLayout), nil
}

// momentLayout is how a day and a time are sent, and timeLayout how a time is.
const (
	momentLayout = "2006-01-02T15:04"
	timeLayout   = "15:04"
)

// Shifted moves a day, a time, or both, by minutes; a time goes on after midnight; what is neither stays as it is.
func Shifted(v string, minutes int) string {
	for _, layout := range []string{values.DateLayout, momentLayout, timeLayout} {
		if t, err := time.Parse(layout, v); err == nil {
			return t.Add(time.Duration(minutes) * time.Minute).Format(layout)
		}
	}
	return v
}

// Changed is a value after the recipe's change.
func (r *Recipe) Changed(v string) string {
	switch r.Change {
	case OtherCase:
		return strings.Map(func(r rune) rune {
			if unicode.IsLower(r) {
				return unicode.ToUpper(r)
			}
			return unicode.ToLower(r)
		}, v)
	case SpacesAround:
		return "  " + v + " "
	case OneMore:
		return v + "x"
	case OneFewer:
		_, size := utf8.DecodeLastRuneInString(v)
		return v[:len(v)-size]
	case SignInside:
		runes := []rune(v)
		return string(runes[:len(runes)/2]) + r.Sign + string(runes[len(runes)/2:])
	case OnlyItsZero:
		if rest, has := strings.CutPrefix(v, r.Sign); has {
			return "0" + rest
		}
	case TwoZeros:
		if rest, has := strings.CutPrefix(v, "+"); has {
			return "00" + rest
		}
	case InGroups:
		return inGroups(v)
	case Another:
		if n, err := strconv.ParseUint(v, 10, 62); err == nil {
			return strconv.FormatUint(n+1, 10)
		}
		return v + "x"
	}
	return v
}

// inGroups writes digits in groups of four from the end, with spaces between them.
func inGroups(v string) string {
	var out strings.Builder
	for i, r := range v {
		if left := len(v) - i; i > 1 && left%4 == 0 {
			out.WriteByte(' ')
		}
		out.WriteRune(r)
	}
	return out.String()
}

// Passes tells whether all of a field's format rules but one accept a value.
func Passes(f *spec.PreparedField, value string, but *spec.PreparedRule, now time.Time) bool {
	v := f.ValueOf(value, true)
	for _, r := range f.Rules {
		if r != but && r.Phase == spec.PhaseFormat && r.Layer == spec.OnServer && !r.Passes(&v, now) {
			return false
		}
	}
	return true
}
