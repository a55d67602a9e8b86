package judge

import (
	"fmt"
	"net/url"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

func (j *judging) response() Check {
	c := &Check{Check: Response}
	first, final := j.o.First(), j.o.Final()
	if j.o.Failure != "" {
		c.odd("answer", "no answer", "an answer", j.o.Failure)
		return c.finish()
	}
	if first == nil {
		c.irrelevant("answer", "no request was made")
		return c.finish()
	}
	switch {
	case first.Status >= 500:
		c.odd("status", "server error", "no server error", fmt.Sprint(first.Status))
	case j.e.Status != 0 && j.observed.outcome == j.e.Outcome:
		c.compare(first.Status == j.e.Status, "status", "other status", fmt.Sprint(j.e.Status), fmt.Sprint(first.Status))
	case j.e.Status != 0:
		c.irrelevant("status", "the outcome is another than expected")
	default:
		c.asExpected("status", "no server error", fmt.Sprint(first.Status))
	}
	if j.e.To != "" && j.observed.outcome == j.e.Outcome {
		c.compare(first.Location != "" && samePlace(first.Location, j.e.To), "redirect", "other target", "to "+j.e.To, orNone(pathOf(first.Location)))
	}
	if first.Location != "" {
		switch {
		case final.NotFollowed != "":
			c.add(Part{Name: "redirect's target", Verdict: DoesNotApply, Observed: final.Location, Why: final.NotFollowed})
		case final.Status >= 400:
			c.odd("redirect's target", "target does not exist", "a page that exists", fmt.Sprintf("%s answers %d", pathOf(final.URL), final.Status))
		default:
			c.asExpected("redirect's target", "a page that exists", fmt.Sprintf("%s answers %d", pathOf(final.URL), final.Status))
		}
	}
	t := j.trace()
	c.compare(t == "", "program's inside", "shows its inside", "not shown", orNone(t))
	return c.finish()
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return s
}

func pathOf(address string) string {
	u, err := url.Parse(address)
	if err != nil || u.Path == "" {
		return address
	}
	if u.RawQuery != "" {
		return u.Path + "?" + u.RawQuery
	}
	return u.Path
}

// samePlace compares an address with a promised target: its path, and its query where one is promised.
func samePlace(address, promised string) bool {
	a, errA := url.Parse(address)
	b, errB := url.Parse(promised)
	if errA != nil || errB != nil || address == "" {
		return false
	}
	if b.Host != "" && a.Host != b.Host {
		return false
	}
	return strings.TrimSuffix(a.Path, "/") == strings.TrimSuffix(b.Path, "/") && (b.RawQuery == "" || a.RawQuery == b.RawQuery)
}

// fillBySent fills a promised text with the values as normalised.
func fillBySent(j *judging, text string) string {
	if j.o.Sent == nil {
		return text
	}
	return fillText(j.p, j.o.Sent, text)
}

func fillText(p *spec.Prepared, sent *oracle.Submission, text string) string {
	return spec.Fill(text, func(id string) (string, bool) {
		f := p.Field(id)
		if f == nil {
			return "", false
		}
		v, present := sent.Value(f.Name)
		value := f.ValueOf(v, present)
		return value.Normal, true
	})
}
