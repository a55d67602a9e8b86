package spec

import (
	"strings"
	"time"
	"unicode"

	"oddtick/core/values"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Value is one field's value on its way: as sent, and as the server's rules see it.
type Value struct {
	// Sent is absent when Present is false: an unticked checkbox, a parameter left out.
	Sent    string
	Present bool
	// Normal is the value after the server's steps.
	Normal string
	// Blank: after normalising a text of length 0, no choice, an unticked checkbox.
	Blank bool
	// Null: JSON's null was sent.
	Null bool
	// Number is a number field's, IsNumber that it holds one.
	Number   values.Decimal
	IsNumber bool
	// Day is set for a date field that holds one, Moment for a time or date-time field.
	Day, Moment time.Time
	// Chosen are the values of several choices.
	Chosen []string
	// File is set for an upload that sends one.
	File *Attachment
}

// ValueOf takes a sent value through the field's normalising.
func (f *PreparedField) ValueOf(sent string, present bool) Value {
	v := Value{Sent: sent, Present: present, Normal: sent}
	if f.Kind == MultipleChoice && present {
		v.Chosen = []string{sent}
	}
	for _, step := range f.steps {
		v.Normal = step(v.Normal)
	}
	v.Blank = v.Normal == ""
	switch {
	case v.Blank:
	case f.Kind == Number:
		if d, err := values.ParseDecimal(v.Normal); err == nil {
			v.Number, v.IsNumber = d, true
		}
	case f.Kind == Date:
		if day, err := values.ParseDate(v.Normal); err == nil {
			v.Day = day
		}
	case f.Kind == Time:
		if t, err := values.ParseTime(v.Normal); err == nil {
			v.Moment = t
		}
	case f.Kind == DateTime:
		if t, err := values.ParseDateTime(v.Normal); err == nil {
			v.Moment = t
		}
	case f.Kind == Checkbox:
		v.Blank = !present
	case f.Kind == Upload:
		if a, err := ParseAttachment(v.Normal); err == nil {
			v.File = &a
		}
	}
	return v
}

// Normal is a value as the server's steps leave it.
func (f *PreparedField) Normal(sent string) string {
	v := f.ValueOf(sent, true)
	return v.Normal
}

// Choose makes the value of several choices, in the order they were sent.
func (v *Value) Choose(chosen []string) {
	if len(chosen) == 1 && chosen[0] == "" { // nothing is chosen
		chosen = nil
	}
	v.Chosen, v.Present, v.Blank = chosen, len(chosen) > 0, len(chosen) == 0
	v.Sent = strings.Join(chosen, ", ")
	v.Normal = v.Sent
}

// Passes judges a rule of the format phase, on one value. Rules of other phases pass here.
func (r *PreparedRule) Passes(v *Value, now time.Time) bool {
	switch kind := kindOf(r.Kind); {
	case kind.ofBlank:
		return !v.Blank
	case v.Blank || kind.passes == nil:
		return true
	default:
		return kind.passes(r, v, now)
	}
}

func (f *Field) offers(value string) bool {
	for i := range f.Options {
		if f.Options[i].Value == value {
			return true
		}
	}
	return len(f.Options) == 0
}

func (r *PreparedRule) inRange(v *Value, now time.Time) bool {
	low, high := 1, -1 // of the bound's comparison with the value
	if v.IsNumber {
		if r.MinNumber != nil {
			low = v.Number.Cmp(*r.MinNumber)
		}
		if r.MaxNumber != nil {
			high = v.Number.Cmp(*r.MaxNumber)
		}
	}
	if !v.Day.IsZero() {
		today := now.In(r.Zone)
		if r.MinDay != nil {
			low = v.Day.Compare(r.MinDay.On(today))
		}
		if r.MaxDay != nil {
			high = v.Day.Compare(r.MaxDay.On(today))
		}
	}
	if !v.Moment.IsZero() {
		local := now.In(r.Zone)
		if r.MinMoment != nil {
			low = v.Moment.Compare(r.MinMoment.On(local))
		}
		if r.MaxMoment != nil {
			high = v.Moment.Compare(r.MaxMoment.On(local))
		}
	}
	if r.Exclusive {
		return low > 0 && high < 0
	}
	return low >= 0 && high <= 0
}

// NearerBound tells which bound of a length or range a value lies nearer to, "min" or "max"; "" for a rule without bounds.
func (r *PreparedRule) NearerBound(v *Value, now time.Time) string {
	nearer := func(hasMin, hasMax bool, fromMin, toMax float64) string {
		switch {
		case hasMin && (!hasMax || fromMin < toMax):
			return "min"
		case hasMax:
			return "max"
		}
		return ""
	}
	switch {
	case r.Kind == RuleLength:
		n := r.Limit.Unit.Length(v.Normal)
		return nearer(r.Limit.Min > 0, r.Limit.Max >= 0, float64(n-r.Limit.Min), float64(r.Limit.Max-n))
	case r.Kind != RuleRange:
		return ""
	case v.IsNumber:
		low, high := 0.0, 0.0
		if r.MinNumber != nil {
			low = v.Number.Sub(*r.MinNumber).Float()
		}
		if r.MaxNumber != nil {
			high = r.MaxNumber.Sub(v.Number).Float()
		}
		return nearer(r.MinNumber != nil, r.MaxNumber != nil, low, high)
	case !v.Day.IsZero():
		today, low, high := now.In(r.Zone), 0.0, 0.0
		if r.MinDay != nil {
			low = v.Day.Sub(r.MinDay.On(today)).Seconds()
		}
		if r.MaxDay != nil {
			high = r.MaxDay.On(today).Sub(v.Day).Seconds()
		}
		return nearer(r.MinDay != nil, r.MaxDay != nil, low, high)
	case !v.Moment.IsZero():
		local, low, high := now.In(r.Zone), 0.0, 0.0
		if r.MinMoment != nil {
			low = v.Moment.Sub(r.MinMoment.On(local)).Seconds()
		}
		if r.MaxMoment != nil {
			high = r.MaxMoment.On(local).Sub(v.Moment).Seconds()
		}
		return nearer(r.MinMoment != nil, r.MaxMoment != nil, low, high)
	}
	return ""
}

// AgreesWith judges agrees and differs against the other field's value.
func (r *PreparedRule) AgreesWith(v, other *Value) bool {
	if r.Kind == RuleDifferentFrom {
		return v.Blank || v.Normal != other.Normal
	}
	return v.Normal == other.Normal
}

// Holds evaluates a rule across fields. It passes where a field it needs is blank.
func (r *PreparedRule) Holds(vars map[string]any) bool {
	return r.program.Truth(vars, true)
}

// Skipped tells whether the rule's or its field's condition is false.
func (r *PreparedRule) Skipped(vars map[string]any) bool {
	return r.when != nil && !r.when.Truth(vars, true) || r.Field != nil && r.Field.Absent(vars)
}

// Conditional tells whether the rule or its field has a condition.
func (r *PreparedRule) Conditional() bool {
	return r.when != nil || r.Field != nil && r.Field.when != nil
}

// Absent tells whether the field's condition is false: then it is not filled.
func (f *PreparedField) Absent(vars map[string]any) bool {
	return f.when != nil && !f.when.Truth(vars, true)
}

// Applies evaluates a success reply's condition.
func (r PreparedReply) Applies(vars map[string]any) bool {
	return r.program == nil || r.program.Truth(vars, false)
}

// Applies evaluates the condition of a stored row.
func (p *Prepared) Applies(text string, vars map[string]any) bool {
	return p.programs[text].Truth(vars, false)
}

// Evaluate computes a stored column's expression.
func (p *Prepared) Evaluate(text string, vars map[string]any) (any, bool) {
	return p.programs[text].Eval(vars)
}

// Var is the value as an expression sees it: numbers as numbers, checkboxes as truth values, all else as text.
func (f *PreparedField) Var(v *Value) any {
	switch f.Kind {
	case Checkbox:
		return !v.Blank
	case MultipleChoice:
		return v.Chosen
	case Number:
		if !v.IsNumber {
			return nil
		}
		if v.Number.Scale() == 0 {
			return int64(v.Number.Float())
		}
		return v.Number.Float()
	default:
		return v.Normal
	}
}

// Fold makes two values equal that a unique rule does not tell apart.
func (r *PreparedRule) Fold(s string) string {
	for _, what := range r.Ignoring {
		switch what {
		case "case":
			s = cases.Fold().String(s)
		case "spaces":
			s = strings.TrimSpace(s)
		case "accents":
			s = strings.Map(func(c rune) rune {
				if unicode.Is(unicode.Mn, c) {
					return -1
				}
				return c
			}, norm.NFD.String(s))
		}
	}
	return s
}
