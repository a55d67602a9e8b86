package spec

import (
	"cmp"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"oddtick/core/values"
)

// RuleKind is a kind of rule, by its key in documents.
type RuleKind string

// The kinds of rules about a field, in the order of Rule's members; and that of rules across fields.
const (
	RuleRequired      RuleKind = "required"
	RuleLength        RuleKind = "length"
	RulePattern       RuleKind = "pattern"
	RuleCharacters    RuleKind = "characters"
	RuleEmail         RuleKind = "email"
	RuleNumber        RuleKind = "number"
	RuleRange         RuleKind = "range"
	RuleStep          RuleKind = "step"
	RuleDate          RuleKind = "date"
	RuleOneOfOptions  RuleKind = "one_of_options"
	RuleMustBeChecked RuleKind = "must_be_checked"
	RuleSameAs        RuleKind = "same_as"
	RuleDifferentFrom RuleKind = "different_from"
	RuleUnique        RuleKind = "unique"
	RuleURL           RuleKind = "url"
	RuleDecimals      RuleKind = "decimals"
	RuleTime          RuleKind = "time"
	RuleFile          RuleKind = "file"
	RuleExistsIn      RuleKind = "exists_in"
	RuleMatchesSecret RuleKind = "matches_secret"
	RuleNoOverlap     RuleKind = "no_overlap"
	RuleAcross        RuleKind = "across"
)

// ID is the id of a rule of the kind that is given none. That of one_of_options is the former name of the kind: the rule is implied by
// options, so that cases and findings of every form with a choice are known by it.
func (k RuleKind) ID() string {
	if k == RuleOneOfOptions {
		return "listed"
	}
	return string(k)
}

// Values lists the kinds.
func (RuleKind) Values() []string {
	out := make([]string, 0, len(ruleKinds)+1)
	for i := range ruleKinds {
		out = append(out, string(ruleKinds[i].kind))
	}
	return append(out, string(RuleAcross))
}

// ruleKind is all that the specification knows of a kind of rule.
type ruleKind struct {
	kind RuleKind
	// base is a rule's common part, nil where the rule is of another kind.
	base func(*Rule) *Base
	// ofBlank: the rule asks for a value, and is judged by whether there is one. Other kinds pass what is blank.
	ofBlank bool
	// check tells what is wrong with a rule's details, or with its field for it; nil for nothing.
	check func(b *builder, f *Field, r *Rule, path string)
	// compile makes a rule ready for computing; nil where nothing is to be made. Its error stands at the path that it returns.
	compile func(b *builder, r *PreparedRule, path string) (at string, err error)
	// passes judges a value that is not blank; nil where that takes more than the value.
	passes func(r *PreparedRule, v *Value, now time.Time) bool
}

// ruleKinds are the kinds of rules in the order of Rule's members. A new kind is a member of Rule and an entry here; the tests of
// core/spec, core/design and core/wording name what else a kind needs.
var ruleKinds = []ruleKind{
	{kind: RuleRequired, base: func(r *Rule) *Base { return baseOf(r.Required) }, ofBlank: true},
	{kind: RuleLength, base: func(r *Rule) *Base { return baseOf(r.Length) }, check: checkLength, compile: compileLength, passes: func(r *PreparedRule, v *Value, _ time.Time) bool {
		return r.Limit.Admits(v.Normal)
	}},
	{kind: RulePattern, base: func(r *Rule) *Base { return baseOf(r.Pattern) }, check: checkTextual, compile: func(_ *builder, r *PreparedRule, path string) (at string, err error) {
		r.Auto, err = values.Pattern(r.Rule.Pattern.Is, cmp.Or(values.Dialect(r.Rule.Pattern.Dialect), values.DialectV))
		return path + ".is", err
	}, passes: matches},
	{kind: RuleCharacters, base: func(r *Rule) *Base { return baseOf(r.Characters) }, check: checkTextual, compile: func(_ *builder, r *PreparedRule, path string) (at string, err error) {
		r.Auto, err = values.Pattern("["+r.Rule.Characters.Of+"]*", values.DialectV)
		return path + ".of", err
	}, passes: matches},
	{kind: RuleEmail, base: func(r *Rule) *Base { return baseOf(r.Email) }, check: checkTextual, compile: func(_ *builder, r *PreparedRule, path string) (string, error) {
		r.Auto = emailAutomaton()
		return path, nil
	}, passes: matches},
	{kind: RuleNumber, base: func(r *Rule) *Base { return baseOf(r.Number) }, check: checkNumber, passes: func(_ *PreparedRule, v *Value, _ time.Time) bool { return v.IsNumber }},
	{kind: RuleRange, base: func(r *Rule) *Base { return baseOf(r.Range) }, check: func(b *builder, _ *Field, r *Rule, path string) {
		if r.Range.Min == "" && r.Range.Max == "" {
			b.fail(path, "write min, max or both", "the range has no bound")
		}
	}, compile: compileRange, passes: (*PreparedRule).inRange},
	{kind: RuleStep, base: func(r *Rule) *Base { return baseOf(r.Step) }, check: checkNumber, compile: compileStep, passes: func(r *PreparedRule, v *Value, _ time.Time) bool {
		return !v.IsNumber || v.Number.Fits(r.From, r.By)
	}},
	{kind: RuleDate, base: func(r *Rule) *Base { return baseOf(r.Date) }, passes: func(_ *PreparedRule, v *Value, _ time.Time) bool { return !v.Day.IsZero() }},
	{kind: RuleOneOfOptions, base: func(r *Rule) *Base { return baseOf(r.OneOfOptions) }, compile: compileListed, passes: offered},
	{kind: RuleMustBeChecked, base: func(r *Rule) *Base { return baseOf(r.MustBeChecked) }, ofBlank: true, check: func(b *builder, f *Field, _ *Rule, path string) {
		if f.Kind != Checkbox {
			b.fail(path, "use required:", "only a checkbox can be checked")
		}
	}},
	{kind: RuleSameAs, base: func(r *Rule) *Base { return baseOf(r.SameAs) }, compile: func(b *builder, r *PreparedRule, path string) (string, error) {
		r.Phase, r.Other = PhaseAcross, b.reference(path+".field", r.Rule.SameAs.Field)
		return path, nil
	}},
	{kind: RuleDifferentFrom, base: func(r *Rule) *Base { return baseOf(r.DifferentFrom) }, compile: func(b *builder, r *PreparedRule, path string) (string, error) {
		r.Phase, r.Other = PhaseAcross, b.reference(path+".field", r.Rule.DifferentFrom.Field)
		return path, nil
	}},
	{kind: RuleUnique, base: func(r *Rule) *Base { return baseOf(r.Unique) }, compile: func(b *builder, r *PreparedRule, path string) (string, error) {
		b.column(r, path+".column", r.Rule.Unique.Column)
		r.ignore(r.Rule.Unique.Ignoring)
		for i, also := range r.Rule.Unique.Also {
			if table, column, ok := strings.Cut(also, "."); !ok || table == "" || column == "" {
				b.fail(fmt.Sprintf("%s.also[%d]", path, i), "write table.column", "%q names no column", also)
			}
		}
		for _, column := range slices.Sorted(maps.Keys(r.Rule.Unique.Same)) {
			b.reference(path+".same."+column, r.Rule.Unique.Same[column])
		}
		return path, nil
	}},
	{kind: RuleURL, base: func(r *Rule) *Base { return baseOf(r.URL) }, compile: func(_ *builder, r *PreparedRule, path string) (string, error) {
		r.Auto = urlAutomaton()
		return path, nil
	}, passes: matches},
	{kind: RuleDecimals, base: func(r *Rule) *Base { return baseOf(r.Decimals) }, check: func(b *builder, _ *Field, r *Rule, path string) {
		if r.Decimals.Max < 0 {
			b.fail(path+".max", "write a whole number from 0", "%d digits cannot be", r.Decimals.Max)
		}
	}, passes: func(r *PreparedRule, v *Value, _ time.Time) bool {
		return !v.IsNumber || v.Number.Scale() <= r.Rule.Decimals.Max
	}},
	{kind: RuleTime, base: func(r *Rule) *Base { return baseOf(r.Time) }, passes: func(_ *PreparedRule, v *Value, _ time.Time) bool { return !v.Moment.IsZero() }},
	{kind: RuleFile, base: func(r *Rule) *Base { return baseOf(r.File) }, check: checkFile, passes: func(r *PreparedRule, v *Value, _ time.Time) bool {
		return v.File != nil && r.Rule.File.Admits(*v.File)
	}},
	{kind: RuleExistsIn, base: func(r *Rule) *Base { return baseOf(r.ExistsIn) }, compile: func(b *builder, r *PreparedRule, path string) (string, error) {
		b.column(r, path+".column", r.Rule.ExistsIn.Column)
		return path, nil
	}},
	{kind: RuleMatchesSecret, base: func(r *Rule) *Base { return baseOf(r.MatchesSecret) }, check: func(b *builder, _ *Field, r *Rule, path string) {
		for i, what := range r.MatchesSecret.Ignoring {
			b.oneOf(fmt.Sprintf("%s.ignoring[%d]", path, i), what, "case", "accents", "spaces")
		}
	}, compile: compileMatches},
	{kind: RuleNoOverlap, base: func(r *Rule) *Base { return baseOf(r.NoOverlap) }, compile: compileNoOverlap},
}

// kindOf is the entry of a kind; an empty one for rules across fields.
func kindOf(kind RuleKind) *ruleKind {
	for i := range ruleKinds {
		if ruleKinds[i].kind == kind {
			return &ruleKinds[i]
		}
	}
	return &ruleKind{kind: kind}
}

// IsRule tells whether a key of a document begins a rule about a field.
func IsRule(key string) bool { return kindOf(RuleKind(key)).base != nil }

// several stands for the kind of a rule with more than one.
const several RuleKind = "several"

// part returns the rule's kind and its common part; the base is nil when no or several kinds are set.
func (r *Rule) part() (kind RuleKind, base *Base) {
	for i := range ruleKinds {
		b := ruleKinds[i].base(r)
		if b == nil {
			continue
		}
		if base != nil {
			return several, nil
		}
		kind, base = ruleKinds[i].kind, b
	}
	return kind, base
}

// Kind is the rule's kind, "" when none is set and "several" when more than one is.
func (r *Rule) Kind() RuleKind {
	kind, _ := r.part()
	return kind
}

// compile makes a rule ready for computing.
func (b *builder) compile(r *PreparedRule, path string) {
	if make := kindOf(r.Kind).compile; make != nil {
		if at, err := make(b, r, path); err != nil {
			b.fail(at, "", "%s", err)
		}
	}
}

func matches(r *PreparedRule, v *Value, _ time.Time) bool { return r.Auto.Matches(v.Normal) }

func checkLength(b *builder, f *Field, r *Rule, path string) {
	l := r.Length
	if l.Max == nil && l.Min == 0 {
		b.fail(path, "write min, max or both", "the length has no bound")
	}
	if l.Min > MaxLength || l.Max != nil && *l.Max > MaxLength {
		b.fail(path, "leave the bound away where the site has none", "lengths beyond %d are not tried", MaxLength)
	}
	if l.Min < 0 || l.Max != nil && *l.Max < 0 {
		b.fail(path, "write whole numbers from 0", "a length is not negative")
	}
	if !f.Kind.Textual() && !f.Kind.Untouched() {
		b.fail(path, "bound it with range:", "a %s has no length", f.Kind)
	}
}

func compileLength(_ *builder, r *PreparedRule, path string) (string, error) {
	l := r.Rule.Length
	r.Limit = values.Limit{Unit: cmp.Or(values.Unit(l.In), values.Characters), Min: l.Min, Max: -1}
	if l.Max != nil {
		r.Limit.Max = *l.Max
	}
	return path, nil
}

func checkTextual(b *builder, f *Field, _ *Rule, path string) {
	if !f.Kind.Textual() && !f.Kind.Untouched() {
		b.fail(path, "use one_of_options, range or step", "a %s takes no pattern", f.Kind)
	}
}

func checkNumber(b *builder, f *Field, _ *Rule, path string) {
	if f.Kind != Number {
		b.fail(path, "give the field the kind number", "this rule needs a number")
	}
}

func compileStep(_ *builder, r *PreparedRule, path string) (at string, err error) {
	if r.By, err = values.ParseDecimal(string(r.Rule.Step.By)); err == nil && r.By.Cmp(values.Whole(0)) <= 0 {
		err = fmt.Errorf("a step is greater than 0")
	}
	r.From = values.Whole(0)
	if r.Rule.Step.From != "" && err == nil {
		r.From, err = values.ParseDecimal(string(r.Rule.Step.From))
	}
	return path, err
}

// compileListed: options that are rows make it a rule that is looked up.
func compileListed(b *builder, r *PreparedRule, path string) (string, error) {
	if r.Field.OptionsFrom != nil && len(r.Field.Options) == 0 {
		r.Kind = RuleExistsIn
		b.column(r, path, r.Field.OptionsFrom.Table+"."+r.Field.OptionsFrom.Value)
		r.Phase = PhaseFormat
	}
	return path, nil
}

func offered(r *PreparedRule, v *Value, _ time.Time) bool {
	if r.Field.Kind != MultipleChoice {
		return r.Field.offers(v.Normal)
	}
	return !slices.ContainsFunc(v.Chosen, func(one string) bool { return !r.Field.offers(one) })
}

// mediaType is a media type, all of a kind, or an ending of names.
var mediaType = regexp.MustCompile(`^(\.[A-Za-z0-9]+|[a-z]+/(\*|[A-Za-z0-9.+-]+))$`)

func checkFile(b *builder, _ *Field, r *Rule, path string) {
	if r.File.Max > MaxAttachment {
		b.fail(path, "leave the bound away where the site has none", "files of more than %d bytes are not made", MaxAttachment)
	}
	if r.File.Max < 0 {
		b.fail(path+".max", "write a number of bytes", "%d bytes cannot be", r.File.Max)
	}
	for i, kind := range r.File.Types {
		if !mediaType.MatchString(kind) {
			b.fail(fmt.Sprintf("%s.types[%d]", path, i), "write a media type such as image/png or image/*, or an ending such as .png", "%q is not a type", kind)
		}
	}
}

func compileMatches(b *builder, r *PreparedRule, path string) (string, error) {
	b.column(r, path+".stored", r.Rule.MatchesSecret.Stored)
	if r.Rule.MatchesSecret.Of != "" {
		r.Other = b.reference(path+".of", r.Rule.MatchesSecret.Of)
	}
	r.ignore(r.Rule.MatchesSecret.Ignoring)
	return path, nil
}

func (r *PreparedRule) ignore(what []string) {
	r.Ignoring = what
	r.IgnoringCase = slices.Contains(what, "case")
}

// column makes a rule one that is looked up in a column.
func (b *builder) column(r *PreparedRule, path, text string) {
	r.Phase = PhaseLookup
	table, column, ok := strings.Cut(text, ".")
	if !ok || table == "" || column == "" || strings.Contains(column, ".") {
		b.fail(path, "write table.column, such as accounts.mail", "%q names no column", text)
	}
	r.Table, r.Column = table, column
}

// compileNoOverlap makes a rule one that is looked up in two columns.
func compileNoOverlap(b *builder, r *PreparedRule, path string) (string, error) {
	rule := r.Rule.NoOverlap
	r.Phase, r.Table, r.Column = PhaseLookup, rule.Table, rule.Begins
	r.Other = b.reference(path+".to", rule.To)
	for column, id := range rule.Same {
		b.reference(path+".same."+column, id)
	}
	timed := func(f *PreparedField) bool { return f == nil || f.Kind == Date || f.Kind == DateTime }
	if !timed(r.Field) || !timed(r.Other) {
		b.fail(path, "give both fields the kind date or datetime", "only times can overlap")
	}
	if rule.Table == "" || rule.Begins == "" || rule.Ends == "" {
		b.fail(path, "write table:, begins: and ends:", "the rows are not named")
	}
	return path, nil
}

func compileRange(b *builder, r *PreparedRule, path string) (string, error) {
	rule := r.Rule.Range
	r.Exclusive = rule.Exclusive
	r.Zone = time.UTC
	if rule.Zone != "" {
		zone, err := time.LoadLocation(rule.Zone)
		if err != nil {
			b.fail(path+".zone", "write a zone such as Europe/London", "the time zone %q is not known", rule.Zone)
		} else {
			r.Zone = zone
		}
	}
	switch r.Field.Kind {
	case Time, DateTime:
		r.MinMoment, r.MaxMoment = bound(b, path+".min", rule.Min, "", values.ParseMomentBound), bound(b, path+".max", rule.Max, "", values.ParseMomentBound)
	case Date:
		r.MinDay, r.MaxDay = bound(b, path+".min", rule.Min, "", values.ParseDateBound), bound(b, path+".max", rule.Max, "", values.ParseDateBound)
	case Number:
		const remedy = "write it in digits, with a point for decimals"
		r.MinNumber, r.MaxNumber = bound(b, path+".min", rule.Min, remedy, values.ParseDecimal), bound(b, path+".max", rule.Max, remedy, values.ParseDecimal)
	default:
		b.fail(path, "give the field the kind number, date, time or datetime", "a range needs a number, a date or a time")
	}
	return path, nil
}

// bound reads a bound of a range, nil where none is written.
func bound[T any](b *builder, path string, text Scalar, remedy string, parse func(string) (T, error)) *T {
	if text == "" {
		return nil
	}
	is, err := parse(string(text))
	if err != nil {
		b.fail(path, remedy, "%s", err)
		return nil
	}
	return &is
}

// emailPattern is HTML's "valid e-mail address" (HTML Standard, 4.10.5.1.5), written with the v flag.
const emailPattern = "[a-zA-Z0-9.!#$%\\&'*+\\/=?^_`\\{\\|\\}\\~\\-]+@[a-zA-Z0-9](?:[a-zA-Z0-9\\-]{0,61}[a-zA-Z0-9])?(?:\\.[a-zA-Z0-9](?:[a-zA-Z0-9\\-]{0,61}[a-zA-Z0-9])?)*"

var emailAutomaton = sync.OnceValue(func() *values.Automaton {
	auto, err := values.Pattern(emailPattern, values.DialectV)
	if err != nil {
		panic(err)
	}
	return auto
})

// urlPattern takes the absolute URLs that are valid by HTML's and the URL Standard's definitions: http and https with a host, and
// other schemes with anything but white space.
const urlPattern = `https?:\/\/[a-zA-Z0-9](?:[a-zA-Z0-9\-]*[a-zA-Z0-9])?(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9\-]*[a-zA-Z0-9])?)*(?::[0-9]{1,4})?(?:[\/?#][^\s]*)?|(?:ftp|ws|wss):\/\/[a-zA-Z0-9][^\s]*|(?:mailto|tel|urn|data):[^\s]+`

var urlAutomaton = sync.OnceValue(func() *values.Automaton {
	auto, err := values.Pattern(urlPattern, values.DialectV)
	if err != nil {
		panic(err)
	}
	return auto
})
