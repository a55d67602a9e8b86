package phrases

import "oddtick/core/prose"

// What a report says of all its cases. {run} are the cases that were run, of {total}.
var (
	CountsSome            = phrase("counts.some", "{total} cases, {expected} as expected, {odd} odd, {unobserved} not observed")
	CountsOne             = phrase("counts.one", "1 case, {expected} as expected, {odd} odd, {unobserved} not observed")
	CountsNotApplicable   = phrase("counts.not_applicable", "{n} not applicable")
	CountsNotRun          = phrase("counts.not_run", "{n} not run")
	NothingRun            = phrase("verdict.nothing_run", "nothing was run, 0 of {total} cases")
	OddOfRun              = phrase("verdict.odd_of_run", "{odd} odd, {run} of {total} cases run")
	OddOfAll              = phrase("verdict.odd_of_all", "{odd} odd of {total} cases")
	NothingOddSoFar       = phrase("verdict.nothing_odd_so_far", "nothing odd so far, {run} of {total} cases run")
	NothingOddNotObserved = phrase("verdict.nothing_odd_not_observed", "nothing odd in {total} cases, {unobserved} not observed")
	NothingOdd            = phrase("verdict.nothing_odd", "nothing odd in {total} cases")
)

// How a step went. {ended} is how it ended, {why} a reason.
var (
	StepAsExpected       = phrase("step.as_expected", "{ended}, as expected")
	StepPartlyObserved   = phrase("step.partly_observed", "{ended}, partly not observed")
	StepNotObserved      = phrase("step.not_observed", "Not observed: {why}")
	StepDoesNotApply     = phrase("step.does_not_apply", "Not judged: {why}")
	StepExpectedByHand   = phrase("step.expected_by_hand", "Judged as expected by hand")
	StepUnobservedByHand = phrase("step.unobserved_by_hand", "Judged as not observed by hand")
	Reloaded             = phrase("ended.reloaded", "Reloaded")
)

// Reports are the texts of reports as files, in HTML and Markdown.
var Reports = Registered("report.", map[string]string{
	"fields_and_checks":   "Fields and checks",
	"findings":            "Findings",
	"cases_colon":         "{total} cases: {expected} as expected, ",
	"odd":                 "{n} odd",
	"not_observed":        "{n} not observed",
	"not_applicable":      "{n} not applicable",
	"not_run":             "{n} not run",
	"about":               "Form {form} at {site}, {depth} depth, {started}, {seconds} s.",
	"unfinished":          "The run did not finish: {run} of {total} cases were run.",
	"external_changes":    "Others changed {n} rows during the run.",
	"not_selected":        "{n} more cases were not selected.",
	"finding_facts":       "{severity}, {label}, finding {id}, {check}, {part}; reproduce with",
	"what_is_odd":         "What is odd",
	"check":               "Check",
	"part":                "Part",
	"expected":            "Expected",
	"observed":            "Observed",
	"steps":               "Steps to reproduce",
	"left_blank":          "left blank",
	"with_curl":           "With curl",
	"case":                "1 case",
	"cases":               "{n} cases",
	"and_more":            " and {n} more",
	"legend":              "Upright: as expected. Slanted: odd. Dotted: not observed. Ring: not applicable.",
	"scales":              "Scales",
	"band":                "A band lies where input is expected to be accepted.",
	"coverage":            "Coverage",
	"unusual":             "Unusual",
	"unusual_about":       "Nobody wrote these promises down: they hold on every form. They change no verdict until somebody says that they are wrong here.",
	"unusual_wrong":       "wrong here",
	"covered":             "What the observed cases have shown, of everything the form promises",
	"kind":                "Kind",
	"shown":               "Shown",
	"unobserved":          "Not observed",
	"without_case":        "Without a case",
	"of_total":            "{n} of {total}",
	"of":                  "Of",
	"no_coverage":         "The result does not contain the coverage.",
	"none":                "none",
	"form":                "Form",
	"cases_head":          "Cases",
	"expected_head":       "As expected",
	"odd_head":            "Odd",
	"not_applicable_head": "Not applicable",
	"not_run_head":        "Not run",
	"seconds":             "Seconds",
	"facts":               "Form {form} at {site}, {depth} depth, run of {started}, {seconds} s: {counts}.",
	"finding_line":        "{label}. Finding {id} ({severity}), seen in {cases}. Check: {check}, part: {part}.",
	"follow_one":          "1 more difference that follows from this.",
	"follow":              "{n} more differences that follow from this.",
	"accepted":            "Accepted for now",
	"accepted_here":       "accepted for now",
	"accepted_until":      "until {day}",
	"requirements":        "Requirements",
	"requirement":         "Requirement",
	"state":               "State",
	"rules_head":          "Rules",
	"observed_of":         "Cases observed",
	"cases_list":          "Cases: ",
	"and_n_more":          ", and {n} more",
})

// Steps are what a person does to make a case again.
var Steps = Registered("reproduce.", map[string]string{
	"sign_in":      "Sign in at {page}.",
	"password_of":  "the password of the account {account}",
	"reload":       "Reload the page.",
	"open":         "Open {page}.",
	"mistake":      "First enter a mistake, leave the field, and correct it as below.",
	"any_password": "any password of {n} characters",
	"choice":       "{label} (sent as {value})",
	"enter":        "Enter these values.",
	"forged":       "Submit them in a way that no page does: {how}.",
	"submit":       "Submit the form.",
	"submit_to":    "Submit the form ({method} {path}).",
})

// Verdicts are the verdicts by name; "" is that of a case that was not run.
var Verdicts = Registered("verdict_name.", map[string]string{
	"as expected":    "as expected",
	"odd":            "odd",
	"not observed":   "not observed",
	"does not apply": "not applicable",
	"":               "not run",
})

// Severities are the severities of findings by name.
var Severities = Registered("severity.", map[string]string{
	"critical": "critical",
	"major":    "major",
	"minor":    "minor",
	"trivial":  "trivial",
})

// Depths are the depths of designing by name.
var Depths = Registered("depth.", map[string]string{
	"quick":    "quick",
	"standard": "standard",
	"thorough": "thorough",
})

// CoverageKinds are the kinds of what there is to cover.
var CoverageKinds = Registered("coverage_kind.", map[string]string{
	"each rule violated by itself":      "each rule violated by itself",
	"rules satisfied":                   "rules satisfied",
	"equivalence partitions":            "equivalence partitions",
	"boundary values":                   "boundary values",
	"pairs":                             "pairs",
	"stored columns":                    "stored columns",
	"decision table columns":            "decision table columns",
	"each condition deciding by itself": "each condition deciding by itself",
})

// Units are the units in which a length is counted.
var Units = Registered("unit.", map[string]string{
	"characters":   "characters",
	"utf-16_units": "UTF-16 units",
	"bytes":        "bytes",
	"graphemes":    "graphemes",
})

// oneUnit are the units of one.
var oneUnit = Registered("unit_one.", map[string]string{
	"characters":   "character",
	"utf-16_units": "UTF-16 unit",
	"bytes":        "byte",
	"graphemes":    "grapheme",
})

// UnitOf is the unit of so many.
func UnitOf(unit string, n int) Phrase {
	if n == 1 {
		return oneUnit[unit]
	}
	return Units[unit]
}

// RowChanges are what became of a row.
var RowChanges = Registered("row_change.", map[string]string{
	"inserted": "inserted",
	"changed":  "changed",
	"deleted":  "deleted",
})

// Where messages stand, and other parts of sentences.
var (
	AtField        = phrase("part.place.at_field", "at {label}")
	OnNextPage     = phrase("part.place.next_page", "on the page that follows")
	InSummary      = phrase("part.place.summary", "in the error summary")
	ChangedRow     = phrase("part.row.changed", "row with key {key} {kind} in {table}")
	AndSignal      = phrase("part.row.and_signal", ", and ")
	MissingAnswer  = phrase("part.missing_answer", "a missing answer")
	UnreadableBody = phrase("part.unreadable_body", "an unreadable body")
	Stretch        = phrase("part.stretch", "{least} to {most}{unit}")
)

// Report is a text of reports by its code, with its places filled in.
func Report(code string, places ...any) prose.Text { return Reports[code].With(places...) }
