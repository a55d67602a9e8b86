package readiness

import (
	"slices"

	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
)

// RequirementState is what is known of a requirement.
type RequirementState string

// The states.
const (
	RequirementAsExpected  RequirementState = "as_expected"
	RequirementOdd         RequirementState = "odd"
	RequirementNotObserved RequirementState = "not_observed" // not all of its cases were
	RequirementNotTested   RequirementState = "not_tested"
)

// Requirement is one of the team's requirements, with the rules that come from it and what became of their cases.
type Requirement struct {
	spec.Requirement
	// Rules are the ids of the rules that come from it, field.rule or across.rule.
	Rules []string         `json:"rules" nullable:"false"`
	State RequirementState `json:"state" enum:"as_expected,odd,not_observed,not_tested"`
	// Cases put one of the rules to the test; so many of them were observed.
	Cases    int `json:"cases"`
	Observed int `json:"observed"`
	// Findings are those about one of the rules, by their ids, with their headlines.
	Findings  []string     `json:"findings" nullable:"false"`
	Headlines []prose.Text `json:"headlines" nullable:"false"`
}

// Requirements tells what a result says of each requirement, in their order in the form. found are the result's findings.
func Requirements(r *report.Report, found []finding.Finding) []Requirement {
	out := []Requirement{}
	for _, of := range r.Requirements {
		one := Requirement{Requirement: of.Requirement, Rules: of.Rules, Findings: []string{}, Headlines: []prose.Text{}}
		about := map[string]bool{}
		for _, c := range r.Cases {
			if !slices.ContainsFunc(c.Covers, func(what testcase.Cover) bool { return slices.Contains(of.Rules, what.Of) }) {
				continue
			}
			about[c.ID] = true
			one.Cases++
			if r.Observed(c) {
				one.Observed++
			}
		}
		for i := range found {
			if f := &found[i]; concerns(f, of.Rules, about) {
				one.Findings, one.Headlines = append(one.Findings, f.ID), append(one.Headlines, f.Headline)
			}
		}
		switch {
		case len(one.Findings) > 0:
			one.State = RequirementOdd
		case one.Observed == 0:
			one.State = RequirementNotTested
		case one.Observed < one.Cases:
			one.State = RequirementNotObserved
		default:
			one.State = RequirementAsExpected
		}
		out = append(out, one)
	}
	return out
}

// concerns tells whether a finding is about one of some rules: its cause names one, or all of its cases put one to the test. What is odd
// in other cases too is no matter of the rule.
func concerns(f *finding.Finding, rules []string, about map[string]bool) bool {
	if f.Cause.Rule != "" || f.Cause.Subject.Rule != "" {
		return slices.Contains(rules, f.Cause.Rule) || slices.Contains(rules, f.Cause.Subject.Rule)
	}
	switch f.Cause.Check {
	case judge.Outcome, judge.Messages, judge.StoredData:
		return !slices.ContainsFunc(f.Cases, func(id string) bool { return !about[id] })
	}
	return false
}

// untested counts the requirements of which no case was observed.
func untested(list []Requirement) int {
	n := 0
	for i := range list {
		if list[i].State == RequirementNotTested {
			n++
		}
	}
	return n
}
