// Package report holds results: of each case what was observed and judged, the causes of what is odd, and counts.
package report

import (
	"slices"
	"strings"
	"time"

	"oddtick/core/cover"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/universal"
)

// Result is one attempt at a case.
type Result struct {
	Case     string          `json:"case"`
	Attempt  int             `json:"attempt"`
	Verdict  judge.Verdict   `json:"verdict"`
	Checks   []judge.Verdict `json:"checks"` // in the order of Checks
	Headline prose.Text      `json:"headline"`
	// Sentence is the headline of what is odd as data; nil where nothing is, and of results of earlier versions.
	Sentence *prose.Sentence `json:"sentence,omitempty"`
	Cause    *Cause          `json:"cause,omitempty"`
	// Others is what is odd of it for other causes than the first, and is no consequence of that.
	Others  []Reason      `json:"also,omitempty"`
	Started time.Time     `json:"started"`
	Took    time.Duration `json:"took"` // nanoseconds
	Steps   []StepResult  `json:"steps"`
	// By is who observed it: nothing for the machine, hand for a person.
	By string `json:"by,omitempty"`
	// Broken: a step could not be made or seen, for want of the browser or a database.
	Broken bool `json:"-"`
	// LeftOut says why answers and pictures are not kept with it; nothing where they are.
	LeftOut string `json:"left_out,omitempty"`
	// Together is how closely the last steps were released; nil where none were.
	Race *Race `json:"together,omitempty"`
	// Pictures are JPEG files by the name that a step's observation gives.
	Pictures map[string][]byte `json:"-"`
}

// LeaveOut takes the answers' bodies and the pictures from a result that is to be kept small. What was judged of them stays.
func (r *Result) LeaveOut(why string) {
	r.LeftOut, r.Pictures = why, nil
	for i := range r.Steps {
		o := r.Steps[i].Observation
		if o == nil {
			continue
		}
		for k := range o.Exchanges {
			o.Exchanges[k].Body = ""
		}
		if o.Drawn != nil {
			o.Drawn.Picture = ""
		}
	}
}

// Together says how well submissions that were released at the same moment would have shown a race.
type Race struct {
	// Rounds is how often they were made, each time with new values, and Submissions how many each time.
	Rounds      int `json:"rounds"`
	Submissions int `json:"submissions"`
	// Narrowest is the least time between a site's check and its writing, in nanoseconds, that would have been missed not more than
	// once in a hundred; estimated from when the requests left and how long their answers took.
	Narrowest time.Duration `json:"narrowest"`
}

// StepResult is what was expected, observed and judged of one step.
type StepResult struct {
	Do          testcase.Action     `json:"do"`
	Expectation *oracle.Expectation `json:"expectation,omitempty"`
	Observation *observation.Step   `json:"observation,omitempty"`
	Judgement   *judge.Judgement    `json:"judgement"`
	// Unusual is what breaks a promise that holds on every form, of which the document does not speak.
	Unusual []universal.Unusual `json:"unusual,omitempty"`
}

// Report is a whole run of one form: its cases and the latest result of each, in the cases' order.
type Report struct {
	Form    string         `json:"form"`
	Title   string         `json:"title"`
	Site    string         `json:"site"`
	Depth   testcase.Depth `json:"depth"`
	Run     int64          `json:"run"`
	Started time.Time      `json:"started"`
	Took    time.Duration  `json:"took"` // nanoseconds
	// Labels are the fields' labels by their request names, and Rows by their ids; Secrets are the request names whose values are secrets.
	Labels  map[string]string `json:"labels,omitempty"`
	Rows    map[string]string `json:"rows,omitempty"`
	Secrets []string          `json:"secrets,omitempty"`
	// Choices are the labels of options by request name and value, where they differ from the value.
	Choices map[string]map[string]string `json:"choices,omitempty"`
	// Honeypots are the request names of fields that nobody sees, and that stay blank.
	Honeypots []string `json:"honeypots,omitempty"`
	// SignIn is how cases sign in before they begin, nil where nobody does.
	SignIn *SignedIn `json:"sign_in,omitempty"`
	// NeedsSecret tells that the form asks for the secret that is stored of an account.
	NeedsSecret bool `json:"needs_secret,omitempty"`
	// Unique are the request names whose values must be new.
	Unique  []string           `json:"unique,omitempty"`
	Cases   []*testcase.Case   `json:"cases"`
	Results map[string]*Result `json:"results"`
	// Left are cases that are no part of the run: those for a browser, and those switched off.
	Left    []*testcase.Case    `json:"left,omitempty"`
	Omitted []testcase.Omission `json:"omitted,omitempty"`
	// Coverage is what the run has shown of all that the form promises; none where it is not known.
	Coverage []cover.Shown `json:"coverage,omitempty"`
	Foreign  int           `json:"foreign_changes"`
	// AskedToWait is how often the site answered that there were too many requests, and Waited how long it was waited for, in nanoseconds.
	AskedToWait int           `json:"asked_to_wait,omitempty"`
	Waited      time.Duration `json:"waited,omitempty"`
	// Hashes is how many hashes of secrets were verified, and Verifying how long that took beside the run, in nanoseconds.
	Hashes    int           `json:"hashes_verified,omitempty"`
	Verifying time.Duration `json:"verifying,omitempty"`
	Complete  bool          `json:"complete"`
	// Requirements are where the form's rules come from, and ReadyWhen is what the team asks of a form before it may ship.
	Requirements []spec.RequirementRules `json:"requirements,omitempty"`
	ReadyWhen    *spec.ReadyWhen         `json:"ready_when,omitempty"`
	// Decided is what testers made of what is unusual.
	Decided []spec.UnusualDecision `json:"unusual_decided,omitempty"`
	// Accepted are findings, by their names, that were known or no defect when the result was written.
	Accepted []Acceptance `json:"accepted,omitempty"`
}

// Acceptance is a finding that somebody accepted.
type Acceptance struct {
	Finding string `json:"finding"`
	Until   string `json:"until,omitempty" format:"date"` // the last day
	Link    string `json:"link,omitempty"`
	Why     string `json:"why,omitempty"`
}

// SignedIn is who signs in, and by which form: its page, and the request names of its two fields.
type SignedIn struct {
	Account  string `json:"account"`
	Name     string `json:"name"`
	Page     string `json:"page"`
	NameIn   string `json:"name_in"`
	SecretIn string `json:"secret_in"`
}

// DescribeSite takes from a site what reports say of how a form's cases sign in.
func (r *Report) DescribeSite(site *spec.Site, form *spec.Form) {
	if site != nil {
		r.ReadyWhen = site.ReadyWhen
	}
	if form.Before == nil || form.Before.SignedIn == "" || site == nil || site.SignIn == nil {
		return
	}
	for i := range site.Accounts {
		if a := &site.Accounts[i]; a.ID == form.Before.SignedIn {
			r.SignIn = &SignedIn{Account: a.ID, Name: a.Name, Page: strings.TrimSuffix(site.Address, "/") + site.SignIn.Page, NameIn: site.SignIn.Name, SecretIn: site.SignIn.Password}
		}
	}
}

// New is a report of a form at a site without results; site is nil where nothing is said of how one signs in.
func New(form *spec.Form, site *spec.Site) *Report {
	r := &Report{Form: form.Form, Title: form.Title, Results: map[string]*Result{}}
	r.describe(form)
	r.DescribeSite(site, form)
	r.Decided = slices.Clone(form.Unusual)
	if site != nil {
		r.Decided = append(r.Decided, site.Unusual...)
	}
	return r
}

// describe takes from a form what reports say of its fields.
func (r *Report) describe(form *spec.Form) {
	r.Labels, r.Rows, r.Requirements = map[string]string{}, form.Labels(), form.Requirements()
	for i := range form.Fields {
		f := &form.Fields[i]
		if f.Label != "" {
			r.Labels[f.Name] = f.Label
		}
		for _, o := range f.Options {
			if o.Label == "" || o.Label == o.Value {
				continue
			}
			if r.Choices == nil {
				r.Choices = map[string]map[string]string{}
			}
			if r.Choices[f.Name] == nil {
				r.Choices[f.Name] = map[string]string{}
			}
			r.Choices[f.Name][o.Value] = o.Label
		}
		if f.IsSecret() {
			r.Secrets = append(r.Secrets, f.Name)
		}
		if f.Kind == spec.Honeypot {
			r.Honeypots = append(r.Honeypots, f.Name)
		}
		r.NeedsSecret = r.NeedsSecret || slices.ContainsFunc(f.Rules, func(rule spec.Rule) bool { return rule.MatchesSecret != nil })
		if slices.ContainsFunc(f.Rules, func(rule spec.Rule) bool { return rule.Unique != nil }) {
			r.Unique = append(r.Unique, f.Name)
		}
	}
}

// Observed tells whether a case's verdict says something of the site.
func (r *Report) Observed(c *testcase.Case) bool {
	v := r.VerdictOf(c)
	return v == judge.AsExpected || v == judge.Odd
}

// Count counts cases by verdict; those without a result are not observed.
func (r *Report) Count() map[judge.Verdict]int {
	out := map[judge.Verdict]int{}
	for _, c := range r.Cases {
		out[r.VerdictOf(c)]++
	}
	return out
}

// VerdictOf is a case's verdict; not observed when it has no result.
func (r *Report) VerdictOf(c *testcase.Case) judge.Verdict {
	if result := r.Results[c.ID]; result != nil {
		return result.Verdict
	}
	return judge.NotObserved
}

// CauseGroup is cases that are odd in the same way.
type CauseGroup struct {
	// Row is the row all its cases belong to, "" when they belong to several.
	Row      string     `json:"row"`
	Cause    Cause      `json:"cause"`
	Headline prose.Text `json:"headline"`
	Cases    []string   `json:"cases"`
	// Merged are causes that show in the very same cases, or that follow from this one, and so are taken for the same thing.
	Merged []Cause `json:"with,omitempty"`
}

// Has tells whether a cause is among the group's.
func (g *CauseGroup) Has(c Cause) bool { return g.Cause == c || slices.Contains(g.Merged, c) }

// add takes a cause in.
func (g *CauseGroup) add(c Cause) {
	if !g.Has(c) {
		g.Merged = append(g.Merged, c)
	}
}

// Reasons are all causes of a result with their words, the most telling first.
func (r *Result) Reasons() []Reason {
	if r == nil || r.Cause == nil {
		return nil
	}
	return append([]Reason{{Cause: *r.Cause, Headline: r.Headline, Sentence: r.Sentence}}, r.Others...)
}

// Shows tells whether a result is odd for a cause.
func (r *Result) Shows(c Cause) bool {
	return slices.ContainsFunc(r.Reasons(), func(x Reason) bool { return x.Cause == c || c.Detail == "" && x.Cause.Merged() == c })
}

// Summary is what grouping needs of one result.
type Summary struct {
	Case, Row string
	Reasons   []Reason
}

// ByCause groups odd results by cause, in the order they come. A case with several causes stands in several groups; causes that always
// come together are one, and so are the variants of a rule with its plain one, and what differs only in its detail.
func ByCause(results []Summary) []CauseGroup {
	index := map[Cause]int{}
	for _, r := range results {
		for _, reason := range r.Reasons {
			index[reason.Merged()] = -1
		}
	}
	out := []CauseGroup{}
	for _, r := range results {
		for _, reason := range r.Reasons {
			cause := reason.Merged()
			for _, plain := range []Cause{cause.baseVariant(), cause.bare()} {
				if _, shows := index[plain]; shows && cause.Rule != "" {
					cause = plain
				}
			}
			i := index[cause]
			if i < 0 {
				i = len(out)
				index[cause] = i
				out = append(out, CauseGroup{Row: r.Row, Cause: cause, Headline: reason.Headline})
			}
			out[i].add(reason.Merged())
			out[i].add(reason.Cause)
			if out[i].Row != r.Row {
				out[i].Row = ""
			}
			if n := len(out[i].Cases); n == 0 || out[i].Cases[n-1] != r.Case {
				out[i].Cases = append(out[i].Cases, r.Case)
			}
		}
	}
	return joined(out)
}

// joined makes one group of those with the same cases.
func joined(groups []CauseGroup) []CauseGroup {
	out := []CauseGroup{}
	for _, g := range groups {
		same := slices.IndexFunc(out, func(o CauseGroup) bool { return slices.Equal(o.Cases, g.Cases) })
		if same < 0 {
			out = append(out, g)
			continue
		}
		for _, c := range append([]Cause{g.Cause}, g.Merged...) {
			out[same].add(c)
		}
	}
	return out
}

// Causes groups the report's odd results.
func (r *Report) Causes() []CauseGroup {
	var list []Summary
	for _, c := range r.Cases {
		if reasons := r.Results[c.ID].Reasons(); reasons != nil {
			list = append(list, Summary{c.ID, c.Row, reasons})
		}
	}
	return ByCause(list)
}
