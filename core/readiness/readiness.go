// Package readiness says whether a form, and a site with all of its forms, may ship: the verdict, and what stands in its way, gravest
// first, by what the team asks for (spec.ReadyWhen).
package readiness

import (
	"slices"
	"time"

	"oddtick/core/finding"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// State is whether something may ship.
type State string

// The states. NotKnown: nothing speaks against it, but not enough was looked at.
const (
	Ready    State = "ready"
	NotReady State = "not_ready"
	NotKnown State = "not_known"
)

// Code is what stands in the way.
type Code string

// The codes, the gravest first.
const (
	FindingsOpen       Code = "findings_open"
	ChecksOdd          Code = "checks_odd" // of access and journeys
	NotObserved        Code = "not_observed"
	CoverageLow        Code = "coverage_low"
	NotDesigned        Code = "not_designed"
	NeverRun           Code = "never_run"
	CasesNotRun        Code = "cases_not_run"
	InProgress         Code = "in_progress"
	RulesChanged       Code = "rules_changed"
	CoverageUnknown    Code = "coverage_not_known"
	TooOld             Code = "too_old"
	TooShallow         Code = "too_shallow"
	RequirementsUnseen Code = "requirements_not_tested"
)

// notKnown are the codes that speak of too little having been looked at, not of anything being wrong.
var notKnown = []Code{NotDesigned, NeverRun, CasesNotRun, InProgress, RulesChanged, CoverageUnknown, TooOld, TooShallow, RequirementsUnseen}

// Reason is one thing that stands in the way of shipping.
type Reason struct {
	Code Code `json:"code" enum:"findings_open,checks_odd,not_observed,coverage_low,not_designed,never_run,cases_not_run,in_progress,rules_changed,coverage_not_known,too_old,too_shallow,requirements_not_tested"`
	// Severity is that of open findings.
	Severity finding.Severity `json:"severity,omitempty" enum:"critical,major,minor,trivial"`
	Count    int              `json:"count,omitempty"`
	Words    prose.Text       `json:"words"`
}

// Finding is a finding of the latest run, and what was said of it.
type Finding struct {
	ID       string           `json:"id"`
	Headline prose.Text       `json:"headline"`
	Severity finding.Severity `json:"severity" enum:"critical,major,minor,trivial"`
	// Accepted: it is known, or not a defect; until the end of the day Until where one is named.
	Accepted bool   `json:"accepted,omitempty"`
	Until    string `json:"until,omitempty" format:"date"`
	Link     string `json:"link,omitempty"`
	Comment  string `json:"comment,omitempty"`
}

// Verdict is whether something may ship, and why not.
type Verdict struct {
	State    State      `json:"state" enum:"ready,not_ready,not_known"`
	Headline prose.Text `json:"headline"`
	Reasons  []Reason   `json:"reasons" nullable:"false"`
}

// Facts are what is known of a form.
type Facts struct {
	// Problem says why no cases can be designed, "" where they can.
	Problem prose.Text
	// Run is the number of the run that tells of it, 0 where there is none; Running, whether it is still under way.
	Run     int64
	Running bool
	Started time.Time
	Depth   testcase.Depth
	// Tally counts all cases of the form at this depth, those that were not run among them.
	Tally report.Tally
	// Ran is the revision that was run, Newest the form's newest.
	Ran, Newest int
	Findings    []Finding
	// Shown and Promised are what observed cases have shown of all that the form promises; Promised is 0 where that is not known.
	Shown, Promised int
	Requirements    []Requirement
}

// Of says whether a form may ship. asked is what the team asks for, nil for nothing but that no finding is open and every case was
// observed on the newest revision; now is the time by which the age of the run is told.
func Of(asked *spec.ReadyWhen, f *Facts, now time.Time) Verdict {
	if asked == nil {
		asked = &spec.ReadyWhen{}
	}
	var reasons []Reason
	add := func(code Code, count int, words prose.Text) {
		reasons = append(reasons, Reason{Code: code, Count: count, Words: words})
	}
	accepted := 0
	for _, severity := range finding.Severities {
		n := 0
		for i := range f.Findings {
			switch one := &f.Findings[i]; {
			case one.Severity != severity:
			case one.Accepted:
				accepted++
			default:
				n++
			}
		}
		if n > 0 && blocks(asked, severity) {
			words := pick(n, phrases.ReasonFinding, phrases.ReasonFindings).With("n", n, "severity", phrases.Severities[string(severity)].Text())
			reasons = append(reasons, Reason{Code: FindingsOpen, Severity: severity, Count: n, Words: words})
		}
	}
	t := f.Tally
	if n := t.NotObserved; n > asked.MaxNotObserved {
		add(NotObserved, n, pick(n, phrases.ReasonNotObservedOne, phrases.ReasonNotObserved).With("n", n))
	}
	reasons = append(reasons, lacking(asked, f, now)...)
	return verdict(reasons, accepted)
}

// lacking tells of what was not looked at, or too long ago.
func lacking(asked *spec.ReadyWhen, f *Facts, now time.Time) (out []Reason) {
	add := func(code Code, count int, words prose.Text) {
		out = append(out, Reason{Code: code, Count: count, Words: words})
	}
	if f.Problem != "" {
		add(NotDesigned, 0, phrases.ReasonNotDesigned.With("why", f.Problem))
		return out
	}
	if f.Run == 0 || f.Tally.Run() == 0 {
		add(NeverRun, 0, phrases.ReasonNeverRun.Text())
		return out
	}
	if asked.MinCoverage > 0 {
		switch share := f.Coverage(); {
		case f.Promised == 0:
			add(CoverageUnknown, 0, phrases.ReasonCoverageNone.With("least", asked.MinCoverage))
		case share < asked.MinCoverage:
			add(CoverageLow, share, phrases.ReasonCoverage.With("n", share, "least", asked.MinCoverage))
		}
	}
	switch n := f.Tally.NotRun; {
	case f.Running:
		add(InProgress, n, phrases.ReasonInProgress.With("n", f.Tally.Run(), "total", f.Tally.Total))
	case n > 0:
		add(CasesNotRun, n, pick(n, phrases.ReasonNotRunOne, phrases.ReasonNotRun).With("n", n, "total", f.Tally.Total))
	}
	if f.Ran != f.Newest {
		add(RulesChanged, 0, phrases.ReasonRulesChanged.With("ran", f.Ran, "now", f.Newest))
	}
	if days := int(now.Sub(f.Started).Hours() / 24); asked.MaxDays > 0 && days > asked.MaxDays {
		add(TooOld, days, phrases.ReasonTooOld.With("n", days, "most", asked.MaxDays))
	}
	if least := testcase.Depth(asked.Depth); slices.Index(testcase.Depths, f.Depth) < slices.Index(testcase.Depths, least) {
		add(TooShallow, 0, phrases.ReasonTooShallow.With("depth", phrases.Depths[string(f.Depth)].Text(), "least", phrases.Depths[asked.Depth].Text()))
	}
	if n := untested(f.Requirements); n > 0 {
		add(RequirementsUnseen, n, pick(n, phrases.RequirementUntested, phrases.RequirementsUntested).With("n", n))
	}
	return out
}

// Coverage is the share, in whole per cent rounded down, of all that the form promises that observed cases have shown.
func (f *Facts) Coverage() int {
	if f.Promised == 0 {
		return 0
	}
	return f.Shown * 100 / f.Promised
}

// Checks are what is known of a site's access, or of a journey: how many things were judged, and of those how many are odd or were not
// observed.
type Checks struct {
	Done             bool
	Started          time.Time
	Total, Odd, Dark int
}

// OfChecks says whether access, or a journey, stands in the way.
func OfChecks(asked *spec.ReadyWhen, c *Checks, now time.Time) Verdict {
	var reasons []Reason
	switch {
	case !c.Done:
		reasons = append(reasons, Reason{Code: NeverRun, Words: phrases.ReasonNeverRun.Text()})
	default:
		if c.Odd > 0 {
			reasons = append(reasons, Reason{Code: ChecksOdd, Count: c.Odd, Words: pick(c.Odd, phrases.ReasonOddOne, phrases.ReasonOdd).With("n", c.Odd, "total", c.Total)})
		}
		if c.Dark > 0 {
			reasons = append(reasons, Reason{Code: NotObserved, Count: c.Dark, Words: phrases.ReasonUnseen.With("n", c.Dark, "total", c.Total)})
		}
		if days := int(now.Sub(c.Started).Hours() / 24); asked != nil && asked.MaxDays > 0 && days > asked.MaxDays {
			reasons = append(reasons, Reason{Code: TooOld, Count: days, Words: phrases.ReasonTooOld.With("n", days, "most", asked.MaxDays)})
		}
	}
	return verdict(reasons, 0)
}

// OfAll says whether all of something may ship: a site's forms, access and journeys, or all sites.
func OfAll(parts []Verdict) Verdict {
	count := map[State]int{}
	for i := range parts {
		count[parts[i].State]++
	}
	v := Verdict{State: Ready, Reasons: []Reason{}}
	switch {
	case len(parts) == 0:
		v.State, v.Headline = NotKnown, phrases.MayShipNothing.Text()
	case count[NotReady] > 0 && count[NotKnown] > 0:
		v.State, v.Headline = NotReady, phrases.NotReadyPartsMore.With("n", count[NotReady], "total", len(parts), "untested", count[NotKnown])
	case count[NotReady] > 0:
		v.State, v.Headline = NotReady, phrases.NotReadyParts.With("n", count[NotReady], "total", len(parts))
	case count[NotKnown] > 0:
		v.State, v.Headline = NotKnown, phrases.NotKnownParts.With("n", count[NotKnown], "total", len(parts))
	default:
		v.Headline = phrases.MayShip.Text()
	}
	return v
}

func verdict(reasons []Reason, accepted int) Verdict {
	v := Verdict{State: Ready, Reasons: reasons}
	var words []prose.Text
	for i := range reasons {
		words = append(words, reasons[i].Words)
		switch {
		case !slices.Contains(notKnown, reasons[i].Code):
			v.State = NotReady
		case v.State == Ready:
			v.State = NotKnown
		}
	}
	switch list := prose.Join(words, ", "); {
	case v.State == NotReady:
		v.Headline = phrases.MayNotShip.With("reasons", list)
	case v.State == NotKnown:
		v.Headline = phrases.MayShipNotKnown.With("reasons", list)
	case accepted > 0:
		v.Headline = pick(accepted, phrases.MayShipAcceptedOne, phrases.MayShipAccepted).With("n", accepted)
	default:
		v.Headline = phrases.MayShip.Text()
	}
	if v.Reasons == nil {
		v.Reasons = []Reason{}
	}
	return v
}

// blocks tells whether open findings of a severity stand in the way.
func blocks(asked *spec.ReadyWhen, s finding.Severity) bool {
	return len(asked.NoFindings) == 0 || slices.Contains(asked.NoFindings, string(s))
}

// pick is the phrase for one of something, or for several.
func pick(n int, one, several phrases.Phrase) phrases.Phrase {
	if n == 1 {
		return one
	}
	return several
}
