// Package sheet writes a run as CSV (RFC 4180), the sheet that testers know: case, input, expected, observed, verdict.
package sheet

import (
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strings"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/formats/csvfile"
)

// Write writes one line a case. The values of secrets are left out.
func Write(w io.Writer, r *judge.Report) error {
	out := csv.NewWriter(w)
	head := []string{"case", "title", "technique", "input", "expected", "observed", "verdict", "what is odd"}
	if err := out.Write(append(head, judge.Checks...)); err != nil {
		return err
	}
	for _, c := range r.Cases {
		if err := out.Write(line(r, c)); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

func line(r *judge.Report, c *design.Case) []string {
	result := r.Results[c.ID]
	cells := []string{c.ID, c.Title, string(c.Technique), "", string(c.Last().Expect), "", string(r.VerdictOf(c)), ""}
	checks := make([]string, len(judge.Checks))
	if result != nil && len(result.Steps) > 0 {
		last := result.Steps[len(result.Steps)-1]
		cells[3] = input(result, r.Secrets)
		if last.Expectation != nil {
			cells[4] = string(last.Expectation.Outcome) + ". " + last.Expectation.Reason()
		}
		cells[5] = last.Judgement.Checks[0].Parts[0].Observed
		if result.Verdict != judge.AsExpected {
			cells[7] = result.Headline
		}
		for i, v := range result.Checks {
			checks[i] = string(v)
		}
	}
	cells = append(cells, checks...)
	for i := range cells {
		cells[i] = csvfile.Harmless(cells[i])
	}
	return cells
}

func input(result *judge.Result, secrets []string) string {
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
