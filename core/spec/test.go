package spec

import (
	"strings"
	"time"
	"unicode"

	"oddtick/core/values"

	"cel.dev/cel-go/cel"
	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

var normalisers = map[string]func(string) string{
	"trim":     func(s string) string { return strings.TrimFunc(s, unicode.IsSpace) },
	"collapse": func(s string) string { return strings.Join(strings.Fields(s), " ") },
	"lower":    strings.ToLower,
	"upper":    strings.ToUpper,
	"nfc":      norm.NFC.String,
}

// Value is one field's value on its way: as sent, and as the server's rules see it.
type Value struct {
	// Sent is absent when Present is false: an unticked checkbox, a parameter left out.
	Sent    string
	Present bool
	// Normal is the value after the server's steps.
	Normal string
	// Blank: after normalising a text of length 0, no choice, an unticked checkbox.
	Blank bool
	// Number is a number field's, IsNumber that it holds one.
	Number   values.Decimal
	IsNumber bool
	// Day is set for a date field that holds one.
	Day time.Time
}

// ValueOf takes a sent value through the field's normalising.
func (f *PreparedField) ValueOf(sent string, present bool) Value {
	v := Value{Sent: sent, Present: present, Normal: sent}
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
	case f.Kind == Checkbox:
		v.Blank = !present
	}
	return v
}

// Passes judges a rule of the format phase, on one value. Rules of other phases pass here.
func (r *PreparedRule) Passes(v *Value, now time.Time) bool {
	switch r.Kind {
	case "required", "ticked":
		return !v.Blank
	}
	if v.Blank {
		return true
	}
	switch r.Kind {
	case "length":
		return r.Limit.Admits(v.Normal)
	case "pattern", "characters", "email":
		return r.Auto.Matches(v.Normal)
	case "number":
		return v.IsNumber
	case "date":
		return !v.Day.IsZero()
	case "range":
		return r.inRange(v, now)
	case "step":
		return !v.IsNumber || v.Number.Fits(r.From, r.By)
	case "listed":
		for _, o := range r.Field.Options {
			if o.Value == v.Normal {
				return true
			}
		}
		return false
	}
	return true
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
	if r.Exclusive {
		return low > 0 && high < 0
	}
	return low >= 0 && high <= 0
}

// AgreesWith judges agrees and differs against the other field's value.
func (r *PreparedRule) AgreesWith(v, other *Value) bool {
	if r.Kind == "differs" {
		return v.Blank || v.Normal != other.Normal
	}
	return v.Normal == other.Normal
}

// Holds evaluates a rule across fields. It passes where a field it needs is blank.
func (r *PreparedRule) Holds(vars map[string]any) bool {
	return truth(r.program, vars, true)
}

// Applies evaluates a success reply's condition.
func (r PreparedReply) Applies(vars map[string]any) bool {
	return r.program == nil || truth(r.program, vars, false)
}

// Evaluate computes a stored column's expression.
func (p *Prepared) Evaluate(expression string, vars map[string]any) (any, bool) {
	out, _, err := p.programs[expression].Eval(vars)
	if err != nil {
		return nil, false
	}
	return out.Value(), true
}

func truth(program cel.Program, vars map[string]any, otherwise bool) bool {
	out, _, err := program.Eval(vars)
	if err != nil {
		return otherwise
	}
	yes, ok := out.Value().(bool)
	if !ok {
		return otherwise
	}
	return yes
}

// Var is the value as an expression sees it: numbers as numbers, checkboxes as truth values, all else as text.
func (f *PreparedField) Var(v *Value) any {
	switch f.Kind {
	case Checkbox:
		return !v.Blank
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
