package learn

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"oddtick/core/spec"
)

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
		l.notKept(r, p)
	}
	return nil
}

// farLength is a length that few fields have as their limit.
const farLength = 4097

// ofLength is a value made longer or shorter, so that it stays of its kind; ok is false where that cannot be.
func (l *learner) ofLength(usual string, n int) (text string, ok bool) {
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
	// of are the values that were made, with their answers, by length.
	of     map[int]Proof
	length spec.Length
	// message is what is said of values beyond a limit.
	message string
	sure    float64
	proofs  []Proof
}

// at asks of a value of some length; possible is false where there is none.
func (s *lengthSearch) at(n int) (p Proof, possible bool, err error) {
	if known, is := s.of[n]; is {
		return known, true, nil
	}
	if _, ok := s.ofLength(s.f.Usual, n); !ok {
		return Proof{}, false, nil
	}
	p, err = s.changed(func(usual string) string {
		text, _ := s.ofLength(usual, n)
		return text
	})
	if err == nil {
		s.of[n] = p
	}
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
	s := &lengthSearch{learner: l, usual: utf8.RuneCountInString(l.f.Usual), of: map[int]Proof{}, sure: 0.95}
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

var errUnclear = fmt.Errorf("an answer said nothing of the field")

// inBytes asks whether a limit counts characters: of as many that have two bytes each.
func (l *learner) inBytes(length *spec.Length) error {
	if l.f.Kind == spec.Email || l.f.Kind == spec.URL {
		return nil
	}
	if *length.Max < 2 {
		return nil
	}
	p, err := l.changed(func(usual string) string {
		text, _ := l.ofLength(usual, *length.Max)
		wide := []rune(text)
		for i := 1; i <= len(wide)/2; i++ {
			wide[i] = 'é'
		}
		return string(wide)
	})
	if err != nil || !broken(p) {
		return err
	}
	// it may be the sign that is not taken
	fewer, err := l.changed(func(usual string) string { return put(usual, min(1, utf8.RuneCountInString(usual)-1), 'é') })
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
	p, err := l.changed(func(usual string) string { return "  " + usual + " " })
	switch {
	case err != nil || !p.Accepted:
		return err
	case l.f.OfAccount: // it is not stored anew
		l.out.Normalize = append(l.out.Normalize, spec.Trim)
	case l.out.Kind == spec.Number || l.f.Kind == spec.Number: // a number holds none
		l.out.Normalize = append(l.out.Normalize, spec.Trim)
	case p.Stored != nil && *p.Stored != strings.TrimSpace(*p.Stored), p.Stored == nil:
	default:
		l.out.Normalize = append(l.out.Normalize, spec.Trim)
	}
	return nil
}

// capitals asks whether capitals are kept.
func (l *learner) capitals() error {
	if l.f.Secret || l.f.Column == "" || strings.ToUpper(l.f.Usual) == strings.ToLower(l.f.Usual) || l.f.Kind != spec.Email && l.f.Kind != spec.Text {
		return nil
	}
	p, err := l.changed(strings.ToUpper)
	if err == nil && p.Accepted && p.Stored != nil {
		if *p.Stored == strings.ToLower(p.Value) {
			l.out.Normalize = append(l.out.Normalize, spec.Lower)
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
}{{'q', "a-z"}, {'Q', "A-Z"}, {'7', "0-9"}, {'-', `\-`}, {'_', "_"}, {'.', `\.`}, {' ', " "}, {'\'', "'"}, {'é', "ß-öø-ÿ"}, {'É', "À-ÖØ-Þ"}, {'Ж', `\p{L}`}, {'<', "<"}, {'/', `\/`}}

// furtherSigns are asked about together where a text is made of a few classes of characters.
var furtherSigns = []struct{ signs, class string }{{",", ","}, {"&", "&"}, {"()", `\(\)`}, {"+@", `\+@`}, {":;!?", ":;!?"}, {`#%*="$`, `#%*="$`}}

// fewRefused is how many classes of characters may be refused, so that what is refused is promised and not what is accepted.
const fewRefused = 2

// signs asks which characters a text may hold.
func (l *learner) signs() error {
	if l.shaped || l.f.Kind != spec.Text || l.f.Secret || utf8.RuneCountInString(l.f.Usual) < 3 {
		return nil
	}
	var of []string
	var refused []Proof
	not := ""
	for _, s := range signs {
		p, err := l.changed(func(usual string) string { return put(usual, utf8.RuneCountInString(usual)/2, s.sign) })
		switch {
		case err != nil:
			return err
		case p.Unclear:
			return nil
		case p.Accepted && (s.class == "A-Z" || s.class == "À-ÖØ-Þ") && slices.Contains(l.out.Normalize, spec.Lower): // it is made small first
		case p.Accepted:
			of = append(of, s.class)
		default:
			refused = append(refused, p)
			not += s.class
		}
	}
	if len(refused) == 0 || len(of) < 2 || slices.ContainsFunc(refused, func(p Proof) bool { return p.Message != refused[0].Message }) {
		return nil // none is refused, or the value has a shape of its own
	}
	if len(refused) <= fewRefused && !strings.Contains(not, `\p`) {
		l.rule(spec.Rule{Pattern: &spec.Pattern{Is: "[^" + not + "]*"}}, refused[0], refused[1:]...)
		return nil
	}
	for _, further := range furtherSigns {
		p, err := l.changed(func(usual string) string { return between(usual, further.signs) })
		if err != nil {
			return err
		}
		if p.Accepted {
			of = append(of, further.class)
		}
	}
	if slices.Contains(of, `\p{L}`) { // letters of all alphabets
		of = slices.DeleteFunc(of, func(class string) bool {
			return slices.Contains([]string{"a-z", "A-Z", "ß-öø-ÿ", "À-ÖØ-Þ"}, class)
		})
	}
	l.rule(spec.Rule{Characters: &spec.Characters{Of: strings.Join(of, "")}}, refused[0], refused[1:]...)
	return nil
}

// between puts signs in place of as many characters in the middle of a text, as far as there is room between its first and its last.
func between(text, signs string) string {
	runes := []rune(text)
	room := max(1, min(len(signs), len(runes)-2))
	at := (len(runes) - room) / 2
	return string(runes[:at]) + signs[:room] + string(runes[at+room:])
}

// kept asks about values that sites often lose something of on the way to the column: zeros at the beginning of numbers, ends of lines, characters of
// four bytes. No rule comes of it; what is stored is looked at by whoever makes the submissions.
func (l *learner) kept() error {
	if l.f.Secret || l.f.Usual == "" || !slices.Contains([]spec.Kind{spec.Text, spec.Textarea}, l.f.Kind) {
		return nil
	}
	var list []func(usual string) string
	if zeros(l.f.Usual) != l.f.Usual {
		list = append(list, zeros)
	}
	if !l.shaped {
		list = append(list, func(usual string) string { return usual + "\U0001F331" })
	}
	if l.f.Kind == spec.Textarea {
		list = append(list, func(usual string) string { return usual + "\r\nand more" })
	}
	for _, change := range list {
		if _, err := l.changed(change); err != nil {
			return err
		}
	}
	return nil
}

// zeros is a value whose numbers begin with a zero.
func zeros(value string) string {
	runes := []rune(value)
	for i, r := range runes {
		if unicode.IsDigit(r) && (i == 0 || !unicode.IsDigit(runes[i-1])) && i+1 < len(runes) && unicode.IsDigit(runes[i+1]) {
			runes[i] = '0'
		}
	}
	return string(runes)
}

// unique asks whether the same value may be sent again, and in other capitals.
func (l *learner) unique() error {
	if l.f.Taken != "" {
		return l.uniqueOnUpdate()
	}
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
	l.out.Unique = &Uniqueness{}
	if other := strings.ToUpper(l.f.Usual); other != l.f.Usual {
		p, err := l.value(other)
		if err != nil {
			return err
		}
		if broken(p) && p.Message == again.Message {
			unique.Ignoring = []string{"case"}
		}
		l.out.Unique.InCapitals = p.Accepted
	}
	spaced, err := l.value(" " + l.f.Usual + " ")
	if err != nil {
		return err
	}
	l.out.Unique.WithSpaces = spaced.Accepted
	l.mustBeNew, l.whenTaken = true, again.Message
	l.rule(spec.Rule{Unique: unique}, again)
	return nil
}

// uniqueOnUpdate asks whether a record that is changed may take the value of another one.
func (l *learner) uniqueOnUpdate() error {
	if l.f.Secret || !slices.Contains([]spec.Kind{spec.Text, spec.Email, spec.Tel, spec.URL}, l.f.Kind) {
		return nil
	}
	p, err := l.value(l.f.Taken)
	if err != nil || !broken(p) {
		return err
	}
	unique := &spec.Unique{Column: l.f.Column}
	if upper := strings.ToUpper(l.f.Taken); upper != l.f.Taken {
		other, err := l.value(upper)
		if err != nil {
			return err
		}
		if broken(other) && other.Message == p.Message {
			unique.Ignoring = []string{"case"}
		}
	}
	l.mustBeNew, l.whenTaken = true, p.Message
	l.rule(spec.Rule{Unique: unique}, p)
	return nil
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
