package wording

import (
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// broken are the words of a broken rule, by its kind. Their places are {label} and {other} for the labels of its fields, {n} and {unit} for a
// length, {least} and {most} for its limits, {table}, {column} and {expression}.
var broken = phrases.Registered("broken.", map[spec.RuleKind]string{
	spec.RuleRequired: "{label} is required but blank.", spec.RuleMustBeChecked: "{label} must be checked.", spec.RulePattern: "{label} does not match the pattern.", spec.RuleCharacters: "{label} does not match the pattern.",
	spec.RuleURL: "{label} is not a valid URL.", spec.RuleDecimals: "{label} has more than {most} decimals.", spec.RuleTime: "{label} is not a time.",
	spec.RuleNoOverlap: "{label} to {other} overlaps with a row of {table}.", spec.RuleExistsIn: "{label} does not exist in {table}.{column}.", spec.RuleEmail: "{label} is not a valid e-mail address.",
	spec.RuleNumber: "{label} is not a number.", spec.RuleDate: "{label} is not a date.", spec.RuleRange: "{label} is out of range.", spec.RuleStep: "{label} is not on a step.",
	spec.RuleOneOfOptions: "{label} is not one of the options.", spec.RuleSameAs: "{label} is not the same as {other}.", spec.RuleDifferentFrom: "{label} is the same as {other}.",
	spec.RuleUnique: "{label} already exists in {table}.{column}.", spec.RuleAcross: "{expression} does not hold.",
	tooShort: "{label} has {n} {unit}; at least {least} are required.", tooLong: "{label} has {n} {unit}; at most {most} are allowed.", otherwise: "{label} is wrong.",
})

// The two ends of a rule of length, and rules of kinds without words of their own.
const (
	tooShort  spec.RuleKind = "too short"
	tooLong   spec.RuleKind = "too long"
	otherwise spec.RuleKind = "otherwise"
)

// failures are the words of what else makes a submission fail.
var failures = phrases.Registered("failure.", map[oracle.FailureCause]string{
	oracle.TokenMissing: "The token {of} is missing.", oracle.TokenForeign: "The token belongs to another session.", oracle.NotSignedIn: "The form is for those who are signed in.",
	oracle.HoneypotFilled: "A field that people do not see is filled in.", oracle.TooLarge: "The request is too large.", oracle.Undecodable: "A value is not in UTF-8.", oracle.OtherRecord: "The record is not one that this visitor may change as it is.",
	oracle.WrongMethod: "The form is not sent by this method.", oracle.WrongType: "The form is not sent as plain text.",
	oracle.SentAgain: "The form was already sent from this page and accepted.", oracle.AccountLocked: "The account is locked after {n} wrong passwords in a row.",
	oracle.TooMany:     "{n} submissions were accepted within the last minute, and no more are.",
	oracle.BodyNotJSON: "The body is not a JSON object.", oracle.NotTheSites: "The {rule} was not issued by the site.", oracle.UsedUp: "The {rule} has already been used.",
})

// expected are the words of why an outcome is expected where nothing fails.
var expected = phrases.Registered("expected.", map[oracle.Outcome]string{
	oracle.NotAnswered:    "The answer is replaced; the values stay, and the form can be sent again.",
	oracle.Answered:       "No page sends this; the site may reject or accept it, but must not fail.",
	oracle.NothingFurther: "A reload after a redirect only reads.",
	oracle.Accepted:       "Every rule is satisfied.",
})

// Expectation words what is expected of a submission: why each of its rules fails.
func Expectation(form *spec.Prepared, e *oracle.Expectation) {
	for i := range e.Failing {
		f := &e.Failing[i]
		if f.Cause == oracle.RuleBroken {
			f.Why = ruleBroken(form, f)
			continue
		}
		f.Why = text(failures[f.Cause].Template(), places{"of": f.Of, "n": number(f.N), "rule": f.Rule})
	}
}

func ruleBroken(form *spec.Prepared, f *oracle.Failure) prose.Text {
	r := form.Rule(f.Rule)
	if r == nil {
		return text(broken[otherwise].Template(), places{"label": f.Rule})
	}
	with := places{"label": string(r.Kind), "table": r.Table, "column": r.Column, "expression": r.Expression, "n": number(f.N)}
	if r.Field != nil {
		with["label"] = r.Field.Label
	}
	if r.Other != nil {
		with["other"] = r.Other.Label
	}
	kind := r.Kind
	switch {
	case kind == spec.RuleLength:
		with["unit"], with["least"], with["most"] = phrases.UnitOf(string(r.Limit.Unit), f.N).Template(), number(r.Limit.Min), number(r.Limit.Max)
		kind = tooLong
		if f.N < r.Limit.Min {
			kind = tooShort
		}
	case kind == spec.RuleDecimals:
		with["most"] = number(r.Rule.Decimals.Max)
	case broken[kind].Code == "":
		kind = otherwise
	}
	return text(broken[kind].Template(), with)
}

// Reason says why an outcome is expected. What fails has its words already.
func Reason(e *oracle.Expectation) prose.Text {
	if len(e.Failing) == 0 || e.Outcome == oracle.NotAnswered || e.Outcome == oracle.Answered {
		if words, own := expected[e.Outcome]; own {
			return words.Text()
		}
		return expected[oracle.Accepted].Text()
	}
	parts := make([]string, len(e.Failing))
	for i := range e.Failing {
		parts[i] = string(e.Failing[i].Why)
	}
	return prose.Text(strings.Join(parts, " "))
}
