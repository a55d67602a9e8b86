// Package sheet writes a run as CSV (RFC 4180), the sheet that testers know: case, input, expected, observed, verdict.
package sheet

import (
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/formats/csvfile"
)

// Write writes one line a case, with a byte order mark before the first: without it spreadsheet programs do not take the text for UTF-8.
// The values of secrets are left out.
func Write(w io.Writer, r *report.Report) error {
	if _, err := io.WriteString(w, "\ufeff"); err != nil {
		return err
	}
	out := csv.NewWriter(w)
	if err := out.Write(Head()); err != nil {
		return err
	}
	for _, c := range r.Cases {
		cells := Line(r, c)
		for i := range cells {
			cells[i] = csvfile.Harmless(cells[i])
		}
		if err := out.Write(cells); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// Head are the heads of the columns.
func Head() []string {
	head := []string{"case", "title", "technique", "input", "expected", "observed", "verdict", "what is odd"}
	for _, c := range wording.Checks() {
		head = append(head, string(c))
	}
	return head
}

// Line is the line of a case.
func Line(r *report.Report, c *testcase.Case) []string {
	result := r.Results[c.ID]
	cells := []string{c.ID, string(c.Title), string(c.Technique), "", string(c.Last().Expect), "", string(r.VerdictOf(c)), ""}
	checks := make([]string, len(judge.Checks))
	if result != nil && len(result.Steps) > 0 {
		last := result.Steps[len(result.Steps)-1]
		cells[3] = input(result, r.Secrets)
		if last.Expectation != nil {
			cells[4] = string(last.Expectation.Outcome) + ". " + string(wording.Reason(last.Expectation))
		}
		cells[5] = string(last.Judgement.Checks[0].Parts[0].Words.Observed)
		if result.Verdict != judge.AsExpected {
			cells[7] = string(result.Headline)
		}
		for i, v := range result.Checks {
			checks[i] = string(v)
		}
	}
	return append(cells, checks...)
}

func input(result *report.Result, secrets []string) string {
	var parts []string
	for i := len(result.Steps) - 1; i >= 0; i-- {
		o := result.Steps[i].Observation
		if o == nil || o.Sent == nil {
			continue
		}
		for _, p := range o.Sent.Pairs {
			value := p.Value
			if slices.Contains(secrets, p.Name) && value != "" {
				value = "…"
			}
			if runes := []rune(value); len(runes) > 200 {
				value = fmt.Sprintf("%s… (%d characters)", string(runes[:60]), len(runes))
			}
			parts = append(parts, p.Name+"="+value)
		}
		break
	}
	return strings.Join(parts, "\n")
}
