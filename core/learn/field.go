package learn

import (
	"context"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"oddtick/core/spec"
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
	// Listed are values of which others than the usual one may be accepted, of a field that takes only some.
	Listed []string
	// OfAccount: only what an account has is accepted: its name, or its secret.
	OfAccount bool
	// Taken is a value that another record has, "" where none is known.
	Taken string
	// Next counts values that are made new, so that none is made twice; nil counts from 1.
	Next func() int
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
	// Message is what was said of the field, "" for nothing; AtNoField: it stands at none. Status is that of the answer.
	// AnyMessage is the first one, of whichever field.
	Message    string
	AnyMessage string
	AtNoField  bool
	Status     int
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
	// Options are the values of a field that turned out to take only some.
	Options []string
	// When is a condition in CEL without which the field does not count, "" for none.
	When string
	// Rules are what explains the answers, each with the proofs that speak for it.
	Rules []Rule
	// Normalize is what the server does to a value first.
	Normalize []spec.NormalizeStep
	// Unique is set of a field whose values are taken once.
	Unique *Uniqueness
	// AnyCase tells of an account's name or secret that its capitals do not matter, SecretUnchecked that another secret than the account's is
	// accepted. Wrong is the answer to another name, or another secret.
	AnyCase, SecretUnchecked bool
	Wrong                    Answer
	// NotKept are rules that fields of its kind seldom lack, each with a value that was accepted and breaks it.
	NotKept []Rule
	// Unsteady counts rules that were dropped because the same value was accepted later.
	Unsteady int
	// Asked counts the submissions.
	Asked int
}

// Uniqueness is what else counts as another value of a field whose values are taken once: the same in other capitals, the same with spaces around.
type Uniqueness struct{ InCapitals, WithSpaces bool }

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
	// mustBeNew: values must be unique, and whenTaken is the message for a duplicate; made counts the new values that were made.
	mustBeNew bool
	whenTaken string
	made      int
	// shaped: a value has a shape of its own, such as OS-1234.
	shaped bool
}

// usual is a value that is accepted, a new one where it must be.
func (l *learner) usual() string {
	if !l.mustBeNew {
		return l.f.Usual
	}
	if l.made++; l.f.Next != nil {
		l.made = l.f.Next()
	}
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
	case f.OfAccount && f.Secret:
		err = l.inTurn(l.blank, l.matchesSecret)
	case f.OfAccount:
		err = l.inTurn(l.blank, l.spaces, l.anyCase, l.unknown)
	case f.Kind == spec.Checkbox:
		err = l.checkbox()
	case f.Kind == spec.SingleChoice:
		err = l.inTurn(l.blank, l.choice)
	case f.Kind == spec.Number:
		err = l.inTurn(l.blank, l.number, l.spaces)
	case f.Kind == spec.Date:
		err = l.inTurn(l.blank, l.day, l.spaces)
	case f.Kind == spec.Text && len(f.Listed) > 0:
		err = l.inTurn(l.blank, l.listed)
	case f.Kind.Textual():
		err = l.inTurn(l.unique, l.blank, l.kindOfText, l.digits, l.lengths, l.spaces, l.capitals, l.signs, l.needs, l.kept)
	}
	if err == nil {
		err = l.confirm()
	}
	return l.out, err
}

// confirm asks once more about what each rule was learned from, and drops a rule that is not kept then: the site does not always answer alike.
func (l *learner) confirm() error {
	var kept []Rule
	for _, r := range l.out.Rules {
		again := r.Proofs[:min(2, len(r.Proofs))] // as of both ends of a range
		if r.Unique != nil {
			again = nil // which was asked twice
		}
		steady := true
		for _, proof := range again {
			if !steady || !broken(proof) {
				break
			}
			l.out.Asked++
			a, err := l.ask(l.ctx, proof.Question)
			if err != nil {
				return err
			}
			steady = !a.Accepted && !a.Unclear
		}
		if steady {
			kept = append(kept, r)
		} else {
			l.out.Unsteady++
		}
	}
	l.out.Rules = kept
	return nil
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

// maxTaken is how often a value is made anew that turns out to be taken.
const maxTaken = 3

// changed asks about a value that is made of one that is accepted. Where it is refused because it is taken, it is made of another.
func (l *learner) changed(change func(usual string) string) (Proof, error) {
	p, err := l.value(change(l.usual()))
	for n := 0; n < maxTaken && err == nil && l.mustBeNew && broken(p) && p.Message == l.whenTaken; n++ {
		p, err = l.value(change(l.usual()))
	}
	return p, err
}

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

// notKept adds a rule that a value breaks which was accepted.
func (l *learner) notKept(r spec.Rule, taken Proof) {
	l.out.NotKept = append(l.out.NotKept, Rule{Rule: r, Sure: 0.3, Proofs: []Proof{taken}})
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
		l.notKept(spec.Rule{OneOfOptions: &spec.OneOfOptions{}}, p)
	}
	return nil
}

// listed asks which of the values that the field may list are accepted, and of one that it does not.
func (l *learner) listed() error {
	options := []string{l.f.Usual}
	for _, value := range l.f.Listed {
		p, err := l.value(value)
		if err != nil {
			return err
		}
		if p.Accepted && !slices.Contains(options, value) {
			options = append(options, value)
		}
	}
	p, err := l.value("not-offered-7")
	if err == nil && broken(p) {
		l.out.Kind, l.out.Options = spec.SingleChoice, options
		l.rule(spec.Rule{OneOfOptions: &spec.OneOfOptions{}}, p)
	}
	return err
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
		l.notKept(spec.Rule{SameAs: &spec.SameAs{Field: l.f.Repeats}}, p)
	}
	return nil
}
