package learn

import (
	"context"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"oddtick/core/spec"
	"oddtick/core/values"
)

// Field is what is known of a field before anything of it is asked.
type Field struct {
	ID    string
	Kind  spec.Kind
	Label string
	// Usual is a value that is accepted; Secret says that it is not kept as it is.
	Usual  string
	Secret bool
	// Column is table.column, where its value is stored; "" where that is not known.
	Column string
	// MaxLength is what the page lets a visitor type, 0 for no limit.
	MaxLength int
	// Repeats is the id of the field that it repeats, "" for none.
	Repeats string
}

// Question is one submission: all fields have values that are accepted, and new where they must be, but for one.
type Question struct {
	Field string
	// Value is what is sent for the field; Absent leaves it out, as an unchecked box is.
	Value  string
	Absent bool
	// Apart tells, of a field that another repeats, that the other does not change with it.
	Apart bool
}

// Answer is what a question came to.
type Answer struct {
	Accepted bool
	// Unclear: it says nothing of the field: no answer came, or what was said stands at other fields.
	Unclear bool
	// Message is what was said of the field, "" for nothing.
	Message string
	// Stored is what the field's column then holds; nil where that is not known.
	Stored *string
}

// Ask makes a submission.
type Ask func(ctx context.Context, q Question) (Answer, error)

// Proof is a question with its answer.
type Proof struct {
	Question
	Answer
}

// Learned is what is known of a field once it was asked about.
type Learned struct {
	Field string
	// Kind is another kind than the page's control says, "" where it is that.
	Kind spec.Kind
	// When is a condition in CEL without which the field does not count, "" for none.
	When string
	// Rules are what explains the answers, each with the proofs that speak for it.
	Rules []Rule
	// Normalize is what the server does to a value first.
	Normalize []spec.NormalizeStep
	// Taken are values that were accepted though fields of its kind seldom hold such, as proofs of what is not promised.
	Taken []Proof
	// Asked counts the submissions.
	Asked int
}

// Rule is a rule with its proofs: values just on both sides of what it promises.
type Rule struct {
	spec.Rule
	// Sure is how certain it is, from 0 to 1: less where an answer was unclear, or no message was seen.
	Sure   float64
	Proofs []Proof
}

// learner asks about one field.
type learner struct {
	ctx   context.Context
	f     *Field
	ask   Ask
	now   time.Time
	out   *Learned
	known map[Question]Answer
	// mustBeNew: a value is taken once; made counts those that were made new.
	mustBeNew bool
	made      int
	// shaped: a value has a shape of its own, such as OS-1234.
	shaped bool
}

// usual is a value that is accepted, a new one where it must be.
func (l *learner) usual() string {
	if !l.mustBeNew {
		return l.f.Usual
	}
	l.made++
	return Varied(l.f.Usual, l.f.Kind, l.made)
}

// Varied is a value of the same shape as another: letters and digits at its end are others.
func Varied(value string, kind spec.Kind, n int) string {
	runes := []rune(value)
	end := len(runes)
	if at := strings.IndexByte(value, '@'); kind == spec.Email && at > 0 {
		end = utf8.RuneCountInString(value[:at])
	}
	for i := end - 1; i >= 0 && n > 0; i-- {
		var first, count rune
		switch c := runes[i]; {
		case c >= 'a' && c <= 'z':
			first, count = 'a', 26
		case c >= 'A' && c <= 'Z':
			first, count = 'A', 26
		case c >= '0' && c <= '9':
			first, count = '0', 10
		default:
			continue
		}
		runes[i] = first + (runes[i]-first+rune(n)%count)%count
		n /= int(count)
	}
	return string(runes)
}

// AboutField asks about a field until it is known, as far as a fixed set of questions of its kind tells.
func AboutField(ctx context.Context, f *Field, now time.Time, ask Ask) (*Learned, error) {
	l := &learner{ctx: ctx, f: f, ask: ask, now: now, out: &Learned{Field: f.ID}, known: map[Question]Answer{}}
	var err error
	switch {
	case f.Repeats != "":
		err = l.repeats()
	case f.Kind == spec.Checkbox:
		err = l.checkbox()
	case f.Kind == spec.SingleChoice:
		err = l.inTurn(l.blank, l.choice)
	case f.Kind == spec.Number:
		err = l.inTurn(l.blank, l.number)
	case f.Kind == spec.Date:
		err = l.inTurn(l.blank, l.day)
	case f.Kind.Textual():
		err = l.inTurn(l.unique, l.blank, l.kindOfText, l.digits, l.lengths, l.spaces, l.capitals, l.signs, l.needs)
	}
	return l.out, err
}

func (l *learner) inTurn(parts ...func() error) error {
	for _, part := range parts {
		if err := part(); err != nil {
			return err
		}
	}
	return nil
}

// try asks a question, once.
func (l *learner) try(q Question) (Proof, error) {
	q.Field = l.f.ID
	if a, known := l.known[q]; known {
		return Proof{q, a}, nil
	}
	l.out.Asked++
	a, err := l.ask(l.ctx, q)
	if err != nil {
		return Proof{}, err
	}
	l.known[q] = a
	return Proof{q, a}, nil
}

func (l *learner) value(text string) (Proof, error) { return l.try(Question{Value: text}) }

// rule adds a rule that a proof breaks and others keep.
func (l *learner) rule(r spec.Rule, broken Proof, kept ...Proof) {
	sure := 0.95
	if broken.Message == "" {
		sure = 0.6
	} else {
		r.SetMessage(broken.Message)
	}
	l.out.Rules = append(l.out.Rules, Rule{Rule: r, Sure: sure, Proofs: append([]Proof{broken}, kept...)})
}

// broken tells whether a value was clearly rejected because of the field itself.
func broken(p Proof) bool { return !p.Accepted && !p.Unclear }

func (l *learner) blank() error {
	p, err := l.value("")
	if err == nil && broken(p) {
		l.rule(spec.Rule{Required: &spec.Required{}}, p)
	}
	return err
}

func (l *learner) checkbox() error {
	p, err := l.try(Question{Absent: true})
	if err == nil && broken(p) {
		l.rule(spec.Rule{MustBeChecked: &spec.MustBeChecked{}}, p)
	}
	return err
}

func (l *learner) choice() error {
	p, err := l.value("not-offered-7")
	switch {
	case err != nil:
		return err
	case broken(p):
		l.rule(spec.Rule{OneOfOptions: &spec.OneOfOptions{}}, p)
	case p.Accepted:
		l.out.Taken = append(l.out.Taken, p)
	}
	return nil
}

// repeats asks whether the field must be the same as the one that it repeats.
func (l *learner) repeats() error {
	p, err := l.try(Question{Value: l.f.Usual + "x", Apart: true})
	switch {
	case err != nil:
		return err
	case broken(p):
		l.rule(spec.Rule{SameAs: &spec.SameAs{Field: l.f.Repeats}}, p)
	case p.Accepted:
		l.out.Taken = append(l.out.Taken, p)
	}
	return nil
}

// kindOfText asks whether an address must look like one.
func (l *learner) kindOfText() error {
	var r spec.Rule
	wrong := "no address"
	switch l.f.Kind {
	case spec.Email:
		r = spec.Rule{Email: &spec.EmailRule{}}
	case spec.URL:
		r = spec.Rule{URL: &spec.URLRule{}}
	default:
		return nil
	}
	p, err := l.value(wrong)
	switch {
	case err != nil:
		return err
	case broken(p):
		l.rule(r, p)
	case p.Accepted:
		l.out.Taken = append(l.out.Taken, p)
	}
	return nil
}

// farLength is a length that few fields have as their limit.
const farLength = 4097

// ofLength is the usual value made longer or shorter, so that it stays of its kind; ok is false where that cannot be.
func (l *learner) ofLength(n int) (text string, ok bool) {
	usual := l.usual()
	before, after := usual, ""
	if l.f.Kind == spec.Email {
		at := strings.LastIndexByte(usual, '@')
		if at < 0 {
			return "", false
		}
		// the part before the sign has 64 characters at most, and each one of a domain 63
		const longest, label = 60, 50
		before, after = usual[:at], usual[at:]
		for n-len(after) > longest {
			part := min(label, n-len(after)-longest)
			if part == 1 {
				part = 2
			}
			after = "@" + strings.Repeat("d", part-1) + "." + after[1:]
		}
		n -= len(after)
	}
	if n < 1 {
		return "", false
	}
	runes := []rune(before)
	if len(runes) > n { // its ends stay, with the capital and the digits that a secret may need
		return string(runes[:1]) + string(runes[len(runes)-n+1:]) + after, true
	}
	for i := range n - len(runes) {
		runes = slices.Insert(runes, 1, 'a'+rune(i%23))
	}
	return string(runes) + after, true
}

// lengthSearch looks for limits of a field's length.
type lengthSearch struct {
	*learner
	usual int
	// of are the values that were made, by length.
	of     map[int]string
	length spec.Length
	// message is what is said of values beyond a limit.
	message string
	sure    float64
	proofs  []Proof
}

// at asks of a value of some length; possible is false where there is none.
func (s *lengthSearch) at(n int) (p Proof, possible bool, err error) {
	if s.of[n] == "" {
		text, ok := s.ofLength(n)
		if !ok {
			return Proof{}, false, nil
		}
		s.of[n] = text
	}
	p, err = s.value(s.of[n])
	return p, true, err
}

// bound looks for the last length towards a far one that is accepted, and takes it. Where it is the value's shape that is wrong, whatever
// its length, the field is shaped.
func (s *lengthSearch) bound(far int, likely []int, take func(n int)) error {
	p, possible, err := s.at(far)
	if err != nil || !possible || !broken(p) {
		return err
	}
	last, err := edge(s.usual, far, likely, func(n int) (bool, error) {
		p, possible, err := s.at(n)
		if err == nil && p.Unclear {
			err = errUnclear
		}
		return possible && p.Accepted, err
	})
	if err == errUnclear {
		return nil
	} else if err != nil {
		return err
	}
	step := 1
	if far < s.usual {
		step = -1
	}
	beyond, _, err := s.at(last + step)
	if err != nil {
		return err
	}
	if last == s.usual && s.fixedShape(beyond) {
		s.shaped = true
		return nil
	}
	take(last)
	switch {
	case s.message == "":
		s.message = beyond.Message
	case beyond.Message != s.message:
		s.sure = 0.7 // each end has a message of its own
	}
	s.proofs = append(s.proofs, beyond)
	return nil
}

// lengths looks for the least and the greatest length.
func (l *learner) lengths() error {
	s := &lengthSearch{learner: l, usual: utf8.RuneCountInString(l.f.Usual), of: map[int]string{}, sure: 0.95}
	if s.usual == 0 || l.shaped {
		return nil
	}
	likely := slices.Clone(likelyLengths)
	if l.f.MaxLength > 0 {
		likely = append(likely, l.f.MaxLength)
	}
	if err := s.bound(farLength, likely, func(n int) { s.length.Max = &n }); err != nil {
		return err
	}
	least := 1
	if l.f.Kind == spec.Email || l.f.Kind == spec.URL {
		least = s.usual // what is shorter is soon no address
	}
	if least < s.usual {
		if err := s.bound(least, likely, func(n int) { s.length.Min = n }); err != nil {
			return err
		}
	}
	switch {
	case l.shaped:
		return l.shape()
	case s.length.Max == nil && s.length.Min == 0:
		return nil
	case s.length.Max != nil:
		if err := l.inBytes(&s.length); err != nil {
			return err
		}
	}
	r := spec.Rule{Length: &s.length}
	if s.message != "" {
		r.SetMessage(s.message)
	} else {
		s.sure = 0.6
	}
	l.out.Rules = append(l.out.Rules, Rule{Rule: r, Sure: s.sure, Proofs: s.proofs})
	return nil
}

// fixedShape tells whether a rejection is said of a value of the same length as well, in which a digit stands for a letter, or a letter for a
// digit.
func (l *learner) fixedShape(beyond Proof) bool {
	if l.f.Secret {
		return false
	}
	runes := []rune(l.usual())
	for i, c := range runes {
		if c > unicode.MaxASCII || !alphanumeric(byte(c)) || i > 0 && runes[i-1] < unicode.MaxASCII && alphanumeric(byte(runes[i-1])) {
			continue
		}
		changed := slices.Clone(runes)
		changed[i] = '7'
		if c >= '0' && c <= '9' {
			changed[i] = 'q'
		}
		p, err := l.value(string(changed))
		if err == nil && broken(p) && p.Message == beyond.Message {
			return true
		}
	}
	return false
}

// shape asks, for each run of digits or letters of a value with a shape of its own, whether others may stand there, and more or fewer.
func (l *learner) shape() error {
	var pattern strings.Builder
	var proofs []Proof
	for rest, before := l.usual(), ""; rest != ""; {
		run := runOf(rest)
		after := rest[len(run):]
		class, other := `\d`, "7"
		if run[0] < '0' || run[0] > '9' {
			class, other = "[A-Za-z]", "q"
		}
		if run[0] >= 'A' && run[0] <= 'Z' {
			class, other = "[A-Z]", "Q"
		}
		changed, err := l.value(before + other + run[1:] + after)
		if err != nil || changed.Unclear {
			return err
		}
		switch {
		case !alphanumeric(run[0]) || broken(changed) && run[:1] != other:
			pattern.WriteString(regexp.QuoteMeta(run))
		default:
			longer, err := l.value(before + run + other + after)
			if err != nil {
				return err
			}
			shorter, err := l.value(before + run[1:] + after)
			if err != nil {
				return err
			}
			if !broken(longer) || !broken(shorter) || longer.Message != shorter.Message {
				return nil // not as plain as that
			}
			proofs = append(proofs, longer, shorter)
			fmt.Fprintf(&pattern, "%s{%d}", class, len(run))
		}
		before, rest = before+run, after
	}
	if len(proofs) > 0 {
		l.rule(spec.Rule{Pattern: &spec.Pattern{Is: pattern.String()}}, proofs[0], proofs[1:]...)
	}
	return nil
}

func alphanumeric(c byte) bool {
	return c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
}

// runOf is the beginning of a text that is digits, capitals, small letters, or one other character.
func runOf(text string) string {
	class := func(c byte) int {
		switch {
		case c >= '0' && c <= '9':
			return 1
		case c >= 'A' && c <= 'Z':
			return 2
		case c >= 'a' && c <= 'z':
			return 3
		}
		return 0
	}
	end := 1
	for end < len(text) && class(text[0]) != 0 && class(text[end]) == class(text[0]) {
		end++
	}
	for end < len(text) && !utf8.RuneStart(text[end]) {
		end++
	}
	return text[:end]
}

var errUnclear = fmt.Errorf("an answer said nothing of the field")

// inBytes asks whether a limit counts characters: of as many that have two bytes each.
func (l *learner) inBytes(length *spec.Length) error {
	if l.f.Kind == spec.Email || l.f.Kind == spec.URL {
		return nil
	}
	text, _ := l.ofLength(*length.Max)
	wide := []rune(text)
	for i := 1; i <= len(wide)/2; i++ {
		wide[i] = 'é'
	}
	if *length.Max < 2 {
		return nil
	}
	p, err := l.value(string(wide))
	if err != nil || !broken(p) {
		return err
	}
	// it may be the sign that is not taken
	runes := []rune(l.usual())
	runes[min(1, len(runes)-1)] = 'é'
	fewer, err := l.value(string(runes))
	if err == nil && fewer.Accepted {
		length.In = "bytes"
	}
	return err
}

// spaces asks whether spaces around are taken away.
func (l *learner) spaces() error {
	if l.f.Secret || l.f.Usual == "" {
		return nil
	}
	p, err := l.value("  " + l.usual() + " ")
	switch {
	case err != nil || !p.Accepted:
		return err
	case l.out.Kind == spec.Number: // a number holds none
		l.out.Normalize = append(l.out.Normalize, spec.Trim)
	case p.Stored != nil && *p.Stored != strings.TrimSpace(*p.Stored), p.Stored == nil:
	default:
		l.out.Normalize = append(l.out.Normalize, spec.Trim)
	}
	return nil
}

// capitals asks whether capitals are kept.
func (l *learner) capitals() error {
	upper := strings.ToUpper(l.usual())
	if l.f.Secret || l.f.Column == "" || upper == strings.ToLower(upper) || l.f.Kind != spec.Email && l.f.Kind != spec.Text {
		return nil
	}
	p, err := l.value(upper)
	if err == nil && p.Accepted && p.Stored != nil {
		switch {
		case *p.Stored == strings.ToLower(upper):
			l.out.Normalize = append(l.out.Normalize, spec.Lower)
		case *p.Stored != upper:
			l.out.Taken = append(l.out.Taken, p)
		}
	}
	return err
}

// needed are classes of characters that passwords often must hold, each with what leaves none of them in a value.
var needed = []struct {
	class   string
	without func(r rune) rune
}{
	{"[A-Z]", unicode.ToLower},
	{"[a-z]", unicode.ToUpper},
	{"[A-Za-z]", func(r rune) rune {
		if unicode.IsLetter(r) {
			return '7'
		}
		return r
	}},
	{"[0-9]", func(r rune) rune {
		if unicode.IsDigit(r) {
			return 'k'
		}
		return r
	}},
	{"[^A-Za-z0-9]", func(r rune) rune {
		if !unicode.IsLetter(r) && !unicode.IsDigit(r) {
			return 'k'
		}
		return r
	}},
}

// needs asks which classes of characters a secret must hold: each is taken out of a value that is accepted.
func (l *learner) needs() error {
	if !l.f.Secret {
		return nil
	}
	type said struct {
		classes []string
		proofs  []Proof
	}
	var messages []string
	by := map[string]*said{}
	oneCase := false
	for _, n := range needed {
		usual := l.usual()
		without := strings.Map(n.without, usual)
		if without == usual || n.class == "[A-Za-z]" && oneCase {
			continue
		}
		p, err := l.value(without)
		if err != nil {
			return err
		}
		if !broken(p) {
			continue
		}
		oneCase = oneCase || n.class == "[A-Z]" || n.class == "[a-z]"
		if by[p.Message] == nil {
			messages = append(messages, p.Message)
			by[p.Message] = &said{}
		}
		by[p.Message].classes = append(by[p.Message].classes, "(?=.*"+n.class+")")
		by[p.Message].proofs = append(by[p.Message].proofs, p)
	}
	for _, m := range messages {
		one := by[m]
		l.rule(spec.Rule{Pattern: &spec.Pattern{Is: strings.Join(one.classes, "") + ".*"}}, one.proofs[0], one.proofs[1:]...)
	}
	return nil
}

// signs are one of each class of characters that texts may or may not hold, as classes of patterns.
var signs = []struct {
	sign  rune
	class string
}{{'q', "a-z"}, {'Q', "A-Z"}, {'7', "0-9"}, {'-', `\-`}, {'_', "_"}, {'.', `\.`}, {' ', " "}, {'\'', "'"}, {'é', "à-ÿ"}, {'<', "<"}, {'/', `\/`}}

// signs asks which characters a text may hold.
func (l *learner) signs() error {
	if l.shaped || l.f.Kind != spec.Text || l.f.Secret || utf8.RuneCountInString(l.f.Usual) < 3 {
		return nil
	}
	var of []string
	var refused []Proof
	for _, s := range signs {
		runes := []rune(l.usual())
		runes[len(runes)/2] = s.sign
		p, err := l.value(string(runes))
		switch {
		case err != nil:
			return err
		case p.Unclear:
			return nil
		case p.Accepted:
			of = append(of, s.class)
		default:
			refused = append(refused, p)
		}
	}
	if len(refused) == 0 || len(of) < 2 || slices.ContainsFunc(refused, func(p Proof) bool { return p.Message != refused[0].Message }) {
		return nil // none is refused, or the value has a shape of its own
	}
	l.rule(spec.Rule{Characters: &spec.Characters{Of: strings.Join(of, "")}}, refused[0], refused[1:]...)
	return nil
}

// unique asks whether the same value may be sent again, and in other capitals.
func (l *learner) unique() error {
	if l.f.Column == "" || l.f.Secret || l.f.Usual == "" || !slices.Contains([]spec.Kind{spec.Text, spec.Email, spec.Tel, spec.URL}, l.f.Kind) {
		return nil
	}
	first, err := l.value(l.f.Usual)
	if err != nil || first.Unclear {
		return err
	}
	again := first
	if first.Accepted { // it was not in use yet
		l.out.Asked++
		a, err := l.ask(l.ctx, Question{Field: l.f.ID, Value: l.f.Usual})
		if err != nil {
			return err
		}
		again = Proof{Question{Field: l.f.ID, Value: l.f.Usual}, a}
	}
	if !broken(again) {
		return nil
	}
	unique := &spec.Unique{Column: l.f.Column}
	if other := strings.ToUpper(l.f.Usual); other != l.f.Usual {
		p, err := l.value(other)
		if err != nil {
			return err
		}
		if broken(p) && p.Message == again.Message {
			unique.Ignoring = []string{"case"}
		}
	}
	l.mustBeNew = true
	l.rule(spec.Rule{Unique: unique}, again)
	return nil
}

// farNumbers are how far from a number its bounds are looked for.
const farNumber = 1_000_000

// number looks for the bounds of a number, and how many decimals it may have.
func (l *learner) number() error {
	wrong, err := l.value("abc")
	if err != nil {
		return err
	}
	if broken(wrong) {
		l.rule(spec.Rule{Number: &spec.NumberRule{}}, wrong)
	} else if wrong.Accepted {
		l.out.Taken = append(l.out.Taken, wrong)
	}
	usual, err := strconv.Atoi(l.f.Usual)
	if err != nil {
		return nil // its bounds are left to the tester
	}
	places, err := l.decimals(usual)
	if err != nil {
		return err
	}
	var r spec.RangeRule
	var proofs []Proof
	for _, far := range []int{-farNumber, farNumber} {
		last, found, err := l.bound(usual, far, likelyNumbers, strconv.Itoa)
		if err != nil {
			return err
		}
		if !found {
			continue
		}
		step := 1
		if far < usual {
			step = -1
		}
		scaled, text := last, strconv.Itoa
		for n := 1; n <= places; n++ { // the limit may lie between two whole numbers
			text = func(x int) string { return inPlaces(x, n) }
			scaled, found, err = l.bound(10*scaled, 10*(scaled+step), []int{10 * scaled, 10*scaled + 9*step}, text)
			if err != nil || !found {
				return err
			}
		}
		bound := spec.Scalar(text(scaled))
		if far < usual {
			r.Min = bound
		} else {
			r.Max = bound
		}
		q := Question{Field: l.f.ID, Value: text(scaled + step)}
		proofs = append(proofs, Proof{q, l.known[q]})
	}
	l.ranged(r, proofs)
	return nil
}

// inPlaces is a number of units of the nth decimal place, without zeros at its end.
func inPlaces(units, n int) string {
	text := strconv.FormatFloat(float64(units)/math.Pow10(n), 'f', n, 64)
	return strings.TrimRight(strings.TrimRight(text, "0"), ".")
}

// maxPlaces is how many decimals are asked for.
const maxPlaces = 4

// decimals asks how many decimals a number between two that are accepted may have. places are those within which bounds lie.
func (l *learner) decimals(usual int) (places int, err error) {
	for _, n := range []int{usual, usual - 1} {
		if n < 0 {
			continue
		}
		one, err := l.value(strconv.Itoa(n))
		if err != nil {
			return 0, err
		}
		next, err := l.value(strconv.Itoa(n + 1))
		if err != nil {
			return 0, err
		}
		if !one.Accepted || !next.Accepted {
			continue
		}
		last := one
		for places := range maxPlaces {
			p, err := l.value(strconv.Itoa(n) + "." + "5432"[:places+1])
			switch {
			case err != nil:
				return 0, err
			case p.Unclear:
				return 0, nil
			case broken(p) && places == 0:
				l.rule(spec.Rule{Step: &spec.Step{By: "1"}}, p, one, next)
				return 0, nil
			case broken(p):
				l.rule(spec.Rule{Decimals: &spec.Decimals{Max: places}}, p, last)
				return places, nil
			}
			last = p
		}
		return 0, nil // with any number of them, where a limit lies cannot be told so
	}
	return 0, nil
}

// digits asks whether a text of digits must be one: a number, or so many digits.
func (l *learner) digits() error {
	usual := l.f.Usual
	if l.f.Kind != spec.Text || usual == "" || strings.Trim(usual, "0123456789") != "" {
		return nil
	}
	letters, err := l.value(strings.Repeat("q", len(usual)))
	if err != nil || !broken(letters) {
		return err
	}
	l.shaped = true
	// a number has bounds; of digits all may be zeros
	zero, err := l.value("0" + usual[1:])
	if err != nil {
		return err
	}
	if zero.Accepted {
		if err := l.shape(); err != nil || len(l.out.Rules) > 0 && l.out.Rules[len(l.out.Rules)-1].Pattern != nil {
			return err
		}
	}
	l.out.Kind = spec.Number
	return l.number()
}

// ranged adds a range, with the message that both of its ends have.
func (l *learner) ranged(r spec.RangeRule, proofs []Proof) {
	if len(proofs) == 0 {
		return
	}
	rule := Rule{Rule: spec.Rule{Range: &r}, Sure: 0.95, Proofs: proofs}
	switch message := proofs[0].Message; {
	case message == "":
		rule.Sure = 0.6
	case message != proofs[len(proofs)-1].Message:
		rule.Sure = 0.7
		fallthrough
	default:
		rule.SetMessage(message)
	}
	l.out.Rules = append(l.out.Rules, rule)
}

// bound looks for the last value towards a far one that is accepted; found is false where the far one is accepted, or nothing is clear.
func (l *learner) bound(good, far int, likely []int, text func(int) string) (last int, found bool, err error) {
	p, err := l.value(text(far))
	if err != nil || !broken(p) {
		return 0, false, err
	}
	last, err = edge(good, far, likely, func(n int) (bool, error) {
		p, err := l.value(text(n))
		if err == nil && p.Unclear {
			err = errUnclear
		}
		return p.Accepted, err
	})
	if err == errUnclear {
		return 0, false, nil
	}
	return last, err == nil, err
}

// Days far from today, within which bounds are looked for.
const (
	farPast   = -200 * 366
	farFuture = 60 * 366
)

// day looks for the first and the last day.
func (l *learner) day() error {
	today := time.Date(l.now.Year(), l.now.Month(), l.now.Day(), 0, 0, 0, 0, time.UTC)
	wrong, err := l.value("2001-02-30")
	if err != nil {
		return err
	}
	if broken(wrong) {
		l.rule(spec.Rule{Date: &spec.DateRule{}}, wrong)
	} else if wrong.Accepted {
		l.out.Taken = append(l.out.Taken, wrong)
	}
	at, err := values.ParseDate(l.f.Usual)
	if err != nil {
		return nil
	}
	text := func(n int) string { return today.AddDate(0, 0, n).Format(values.DateLayout) }
	away := func(t time.Time) int { return int(t.Sub(today).Hours() / 24) }
	likely := []int{-1, 0, 1, 2, 3, 7, 14, 28, 30, 60, 90, 180, 365}
	for _, years := range []int{1, 2, 3, 5, 10, 13, 14, 16, 18, 21, 65, 99, 100, 110, 120, 130, 150} {
		likely = append(likely, away(today.AddDate(-years, 0, 0)), away(today.AddDate(years, 0, 0)))
	}
	for _, year := range []int{1870, 1900, 1920, 1950, 1970, 2000, 2038, 2100} {
		likely = append(likely, away(time.Date(year, 1, 1, 0, 0, 0, 0, time.UTC)))
	}
	var r spec.RangeRule
	var proofs []Proof
	usual := away(at.UTC())
	for _, far := range []int{farPast, farFuture} {
		last, found, err := l.bound(usual, far, likely, text)
		if err != nil {
			return err
		}
		if !found {
			continue
		}
		beyond := last + 1
		if far < usual {
			r.Min, beyond = describe(today, last), last-1
		} else {
			r.Max = describe(today, last)
		}
		proofs = append(proofs, Proof{Question{Field: l.f.ID, Value: text(beyond)}, l.known[Question{Field: l.f.ID, Value: text(beyond)}]})
	}
	l.ranged(r, proofs)
	return nil
}

// describe says a day as a bound of a range: against today, where it is a round time away, and else itself.
func describe(today time.Time, days int) spec.Scalar {
	day := today.AddDate(0, 0, days)
	sign, n := "+", days
	if days < 0 {
		sign, n = "-", -days
	}
	if days == 0 {
		return "today"
	}
	for years := 1; years <= 150; years++ {
		if today.AddDate(-years, 0, 0).Equal(day) || today.AddDate(years, 0, 0).Equal(day) {
			return spec.Scalar(fmt.Sprintf("today %s %d years", sign, years))
		}
	}
	if n <= 400 && !(day.Month() == 1 && day.Day() == 1) {
		return spec.Scalar(fmt.Sprintf("today %s %d days", sign, n))
	}
	return spec.Scalar(day.Format(values.DateLayout))
}
