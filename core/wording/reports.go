package wording

import (
	"strings"

	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/testcase"
)

// counts are the parts of a line that counts cases, by their verdicts.
var counts = struct{ some, one, doesNotApply, notRun string }{
	some: "{total} cases, {expected} as expected, {odd} odd, {unobserved} not observed", one: "1 case, {expected} as expected, {odd} odd, {unobserved} not observed",
	doesNotApply: "{n} not applicable", notRun: "{n} not run",
}

// Counts are the counts of cases in a line that adds up.
func Counts(t report.Tally) prose.Text {
	template := counts.some
	if t.Total == 1 {
		template = counts.one
	}
	out := []string{fill(template, tallied(t))}
	if t.DoesNotApply > 0 {
		out = append(out, fill(counts.doesNotApply, places{"n": number(t.DoesNotApply)}))
	}
	if t.NotRun > 0 {
		out = append(out, fill(counts.notRun, places{"n": number(t.NotRun)}))
	}
	return prose.Text(strings.Join(out, ", "))
}

func tallied(t report.Tally) places {
	return places{"total": number(t.Total), "expected": number(t.AsExpected), "odd": number(t.Odd), "unobserved": number(t.NotObserved), "run": number(t.Run())}
}

// Verdict says in a few words whether anything is odd, and of how much that is known.
func Verdict(t report.Tally) prose.Text {
	with := tallied(t)
	switch {
	case t.Run() == 0:
		return text("nothing was run, 0 of {total} cases", with)
	case t.Odd > 0 && t.NotRun > 0:
		return text("{odd} odd, {run} of {total} cases run", with)
	case t.Odd > 0:
		return text("{odd} odd of {total} cases", with)
	case t.NotRun > 0:
		return text("nothing odd so far, {run} of {total} cases run", with)
	case t.NotObserved > 0:
		return text("nothing odd in {total} cases, {unobserved} not observed", with)
	}
	return text("nothing odd in {total} cases", with)
}

// Ready says in a line whether anything stands against shipping: how many findings there are, and how many of them are critical, or of
// how much it is known that nothing is odd.
func Ready(t report.Tally, findings, critical int) prose.Text {
	with := tallied(t)
	with["findings"], with["critical"] = number(findings), number(critical)
	says := "not ready, {findings} findings"
	switch {
	case findings == 0:
		return Verdict(t)
	case findings == 1 && critical == 1:
		says = "not ready, 1 critical finding"
	case findings == 1:
		says = "not ready, 1 finding"
	case critical > 0:
		says = "not ready, {findings} findings, {critical} critical"
	}
	if t.NotRun > 0 {
		says += ", {run} of {total} cases run"
	}
	return text(says, with)
}

// rows are the names of the rows below the fields, and of several.
var rows = map[string]string{"": "Several fields", testcase.RowAcross: "Across fields", testcase.RowUniqueness: "Uniqueness", testcase.RowForm: "Whole form", testcase.RowOwn: "Added cases"}

// Row is the name of a row: a field by its label, the rows below the fields by their own.
func Row(r *report.Report, id string) string {
	if name, own := rows[id]; own {
		return name
	}
	if label := r.Rows[id]; label != "" {
		return label
	}
	return id
}
