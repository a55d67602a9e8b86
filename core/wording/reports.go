package wording

import (
	"strings"

	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// Counts are the counts of cases in a line that adds up.
func Counts(t report.Tally) prose.Text {
	of := phrases.CountsSome
	if t.Total == 1 {
		of = phrases.CountsOne
	}
	out := []string{fill(of.Template(), tallied(t))}
	if t.DoesNotApply > 0 {
		out = append(out, fill(phrases.CountsNotApplicable.Template(), places{"n": number(t.DoesNotApply)}))
	}
	if t.NotRun > 0 {
		out = append(out, fill(phrases.CountsNotRun.Template(), places{"n": number(t.NotRun)}))
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
		return text(phrases.NothingRun.Template(), with)
	case t.Odd > 0 && t.NotRun > 0:
		return text(phrases.OddOfRun.Template(), with)
	case t.Odd > 0:
		return text(phrases.OddOfAll.Template(), with)
	case t.NotRun > 0:
		return text(phrases.NothingOddSoFar.Template(), with)
	case t.NotObserved > 0:
		return text(phrases.NothingOddNotObserved.Template(), with)
	}
	return text(phrases.NothingOdd.Template(), with)
}

// rows are the names of the rows below the fields, and of several.
var rows = phrases.Registered("report.row.", map[string]string{"": "Several fields", testcase.RowAcross: "Across fields", testcase.RowUniqueness: "Uniqueness", testcase.RowForm: "Whole form", testcase.RowOwn: "Added cases"})

// Row is the name of a row: a field by its label, the rows below the fields by their own.
func Row(r *report.Report, id string) string {
	if name, own := rows[id]; own {
		return name.Template()
	}
	if label := r.Rows[id]; label != "" {
		return label
	}
	return id
}
