package learn

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"oddtick/core/spec"
	"oddtick/core/values"
)

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
		l.notKept(spec.Rule{Number: &spec.NumberRule{}}, wrong)
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
		l.notKept(spec.Rule{Date: &spec.DateRule{}}, wrong)
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
