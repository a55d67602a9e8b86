// Package finding sums up what is odd in a result: cases that are odd for one reason are one finding, with the simplest of them to
// show it and the stretch of the scale where it shows.
package finding

import (
	"cmp"
	"crypto/sha256"
	"encoding/base32"
	"math"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/core/wording/phrases"
)

// Finding is what is odd for one reason.
type Finding struct {
	// ID is the same in every result in which the form is odd for this reason.
	ID  string `json:"id"`
	Row string `json:"row,omitempty"` // "" where its cases belong to several
	// Label names the row for people: a field by its label, of uniqueness the field that must be unique.
	Label    string       `json:"label"`
	Cause    report.Cause `json:"cause"`
	Severity Severity     `json:"severity" enum:"critical,major,minor,trivial"`
	// Headline is that of the simplest case, with the stretch of the scale in place of its input where it shows on one.
	Headline prose.Text `json:"headline"`
	// Where is the stretch of a scale on which it shows, "" where its cases lie on none: "21 to 190 characters".
	Where string `json:"where,omitempty"`
	// Simplest is the case to look at first: the fewest steps, without a browser before with one, and the shortest value.
	Simplest string   `json:"simplest"`
	Cases    []string `json:"cases"`
	// With are the names of what would be findings of their own if they did not show in the very same cases, or follow from this.
	With []string `json:"with,omitempty"`
	// Names are its own name and those in With, the own one first.
	Names []Name `json:"-"`
}

// Name is what a cause in a form is called for good.
type Name struct {
	ID string
	// Older is what it was called when names were made of sentences (format 1 of results).
	Older string
}

// Is tells whether it is one of the two.
func (n Name) Is(id string) bool { return n.ID == id || n.Older == id }

// All tells whether something holds of each of its names. What is known, or was there before, is so only if all it has taken in is:
// a lesser thing that was known does not hide a greater one.
func (f *Finding) All(holds func(id string) bool) bool {
	return !slices.ContainsFunc(f.Names, func(n Name) bool { return !holds(n.ID) && !holds(n.Older) })
}

// Called tells whether it is the finding of this name, or has taken that one in.
func (f *Finding) Called(id string) bool {
	return slices.ContainsFunc(f.Names, func(n Name) bool { return n.Is(id) })
}

// Of are a result's findings, the gravest first and then in the order of their first cases. Of the results it needs verdict, headline and cause.
func Of(r *report.Report) []Finding {
	cases := map[string]*testcase.Case{}
	for _, c := range r.Cases {
		cases[c.ID] = c
	}
	out := []Finding{}
	for _, g := range r.Causes() {
		shows := slices.DeleteFunc(slices.Clone(g.Cases), func(id string) bool { return !r.Results[id].Shows(g.Cause) }) // others but follow
		simplest := slices.MinFunc(shows, func(a, b string) int {
			return cmp.Or(cmp.Compare(effort(cases[a]), effort(cases[b])), cmp.Compare(slices.Index(g.Cases, a), slices.Index(g.Cases, b)))
		})
		names := Names(r.Form, &g)
		var with []string
		for _, n := range names[1:] {
			with = append(with, n.ID)
		}
		f := Finding{ID: names[0].ID, With: with, Names: names, Row: g.Row, Cause: g.Cause, Severity: SeverityOf(&g.Cause), Simplest: simplest, Cases: g.Cases}
		f.Where, f.Headline = describe(r, &g, cases, simplest)
		f.Label = wording.Row(r, g.Row)
		if s := reasonOf(r.Results[simplest], g.Cause).Sentence; s != nil && g.Row == testcase.RowUniqueness && s.Places["label"] != "" {
			f.Label = s.Places["label"]
		}
		out = append(out, f)
	}
	slices.SortStableFunc(out, func(a, b Finding) int { return graver(&a, &b) })
	return out
}

// describe words a group: where it shows, and the headline of the simplest case with that in place of its input.
func describe(r *report.Report, g *report.CauseGroup, cases map[string]*testcase.Case, simplest string) (where string, headline prose.Text) {
	reason := reasonOf(r.Results[simplest], g.Cause)
	where, isLength, several := stretch(r, g, cases)
	if where != "" {
		of, named := wording.OfStretch(reason.Sentence, where, isLength)
		switch {
		case named && several:
			return where, wording.Say(of)
		case named:
			return where, reason.Headline // which names the input itself
		}
		return where, wording.Behind(reason.Headline, where)
	}
	if g.Cause.Rule == "" {
		return "", reason.Headline
	}
	where, several = labelled(g, cases)
	if !several {
		return where, reason.Headline
	}
	return where, wording.Behind(reason.Headline, where)
}

// Names are a group's name as a finding, and those of what is taken for the same thing.
func Names(form string, g *report.CauseGroup) []Name {
	out := []Name{NameOf(form, g.Cause)}
	for _, c := range g.Merged {
		out = append(out, NameOf(form, c))
	}
	return out
}

// reasonOf is the reason of a result that shows a cause.
func reasonOf(r *report.Result, cause report.Cause) report.Reason {
	for _, x := range r.Reasons() {
		if x.Cause == cause || cause.Detail == "" && x.Merged() == cause {
			return x
		}
	}
	return report.Reason{Headline: r.Headline, Sentence: r.Sentence}
}

// NameOf names a cause in a form for good: by its codes, so that its words do not matter.
func NameOf(form string, c report.Cause) Name {
	o := c.Older()
	older := []string{form, o.Row, o.Rule, o.Check, o.Part, o.Kind}
	if o.Detail != "" {
		older = append(older, o.Detail)
	}
	s := &c.Subject
	return Name{Older: named(older...), ID: named(
		form, c.Row, c.Rule, c.Variant, string(c.Check), string(s.Aspect), s.Rule, s.Field, s.Table, s.Column, s.Member, string(s.Attribute), s.Place,
		string(c.Difference), c.Expected, c.Observed, c.Of, c.Beside, c.Detail,
	)}
}

// named is a name of ten letters and digits for parts.
func named(parts ...string) string {
	sum := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
	return strings.ToLower(base32.StdEncoding.EncodeToString(sum[:5]))
}

// effort orders cases by how much a person has to do and read: the steps, then whether by a browser, then the length.
func effort(c *testcase.Case) float64 {
	const step, browser, text = 1 << 40, 1 << 39, 1 << 38
	n := float64(len(c.Steps)) * step
	if c.Last().Driver == submission.Browser {
		n += browser
	}
	if _, is := c.Mark.Length(); is {
		return n + min(math.Abs(c.Mark.At), text)
	}
	return n
}

// labelled are the labels of a group's ticks, which tell apart several findings of a field where its broken rule does not; several tells
// whether they are more than one.
func labelled(g *report.CauseGroup, cases map[string]*testcase.Case) (where string, several bool) {
	var labels []string
	for _, id := range g.Cases {
		if label := wording.Mark(cases[id].Mark); label != "" && !slices.Contains(labels, label) {
			labels = append(labels, label)
		}
	}
	return some(labels), len(labels) > 1
}

// stretch is only told where no tick within it is as expected.
func stretch(r *report.Report, g *report.CauseGroup, cases map[string]*testcase.Case) (where string, isLength, several bool) {
	first := cases[g.Cases[0]]
	unit, isLength := first.Mark.Length()
	if !isLength && !first.Mark.Ordered() {
		return "", false, false
	}
	words := ""
	if isLength {
		words = " " + cmp.Or(phrases.Units[string(unit)].Template(), string(unit))
	}
	odd := map[string]bool{}
	var marks []testcase.Mark
	for _, id := range g.Cases {
		c := cases[id]
		mark := c.Mark
		if c.Trimmed() { // the spaces around it do not count
			mark.Variant = ""
		}
		if c.Row != first.Row || mark.Scale != first.Mark.Scale || mark.At < nowhere || isLength && (mark.Label == "" || wording.IsWord(mark) || mark.Variant != "") {
			return "", false, false
		}
		odd[id] = true
		marks = append(marks, mark)
	}
	slices.SortStableFunc(marks, func(a, b testcase.Mark) int { return cmp.Compare(a.At, b.At) })
	marks = slices.CompactFunc(marks, func(a, b testcase.Mark) bool { return a.Label == b.Label && a.Variant == b.Variant })
	least, most := marks[0], marks[len(marks)-1]
	if len(marks) == 1 {
		return wording.Mark(least) + words, isLength, false
	}
	apart := slices.ContainsFunc(r.Cases, func(c *testcase.Case) bool {
		return !odd[c.ID] && c.Row == first.Row && c.Mark.Scale == least.Scale && c.Mark.At > least.At && c.Mark.At < most.At
	})
	if !apart {
		return wording.Stretch(wording.Mark(least), wording.Mark(most), words), isLength, true
	}
	var labels []string
	for _, m := range marks {
		labels = append(labels, wording.Mark(m))
	}
	return some(labels) + words, isLength, true
}

// some of the labels, if there are many.
func some(labels []string) string {
	if len(labels) > maxPlaces {
		labels = append(slices.Clone(labels[:maxPlaces]), "…")
	}
	return strings.Join(labels, ", ")
}

// Marks of blank values lie below nowhere. maxPlaces are told one by one.
const (
	nowhere   = -1e11
	maxPlaces = 4
)
