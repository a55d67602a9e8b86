// Package markdown writes findings as Markdown (CommonMark with tables), for an issue tracker, and a run's summary for a pipeline's page.
package markdown

import (
	"bufio"
	"cmp"
	"fmt"
	"io"
	"strings"

	"oddtick/core/finding"
	"oddtick/core/prose"
	"oddtick/core/readiness"
	"oddtick/core/report"
	"oddtick/core/wording"
	"oddtick/core/wording/phrases"
	"oddtick/formats/steps"
)

// Write writes every finding of a result, below what the run was, and what it has covered.
func Write(w io.Writer, r *report.Report) error {
	b := bufio.NewWriter(w)
	found := finding.Of(r)
	told := readiness.FactsOf(r, found, readiness.AcceptedIn(r.Accepted, r.Started))
	fmt.Fprintf(b, "# %s: %s\n\n", text(cmp.Or(r.Title, r.Form)), text(readiness.Of(r.ReadyWhen, told, r.Started).Headline))
	facts(b, r)
	if len(told.Requirements) > 0 {
		b.WriteString("\n## " + string(phrases.Report("requirements")) + "\n\n" + head("requirement", "state", "rules_head", "observed_of", "findings"))
		for _, one := range told.Requirements {
			name := text(one.ID)
			if one.Link != "" {
				name = "[" + name + "](" + strings.NewReplacer("(", "%28", ")", "%29", " ", "%20", "<", "%3C", ">", "%3E").Replace(one.Link) + ")"
			}
			fmt.Fprintf(b, "| %s | %s | %s | %s | %s |\n", name, phrases.RequirementStates[string(one.State)].Text(), text(strings.Join(one.Rules, ", ")),
				phrases.Report("of_total", "n", one.Observed, "total", one.Cases), text(strings.Join(one.Findings, ", ")))
		}
	}
	for i := range found {
		b.WriteString("\n")
		one(b, r, &found[i], "## ")
	}
	if list := r.Unusual(); len(list) > 0 {
		fmt.Fprintf(b, "\n## %s\n\n%s\n\n", phrases.Report("unusual"), phrases.Report("unusual_about"))
		for _, u := range list {
			fmt.Fprintf(b, "- %s (%s)\n", text(wording.Unusual(r.Rows, u.Unusual)), cases(len(u.Cases)))
		}
	}
	if len(r.Coverage) > 0 {
		b.WriteString("\n## " + string(phrases.Report("coverage")) + "\n\n" + head("kind", "shown", "of", "unobserved", "without_case"))
		for _, c := range r.Coverage {
			fmt.Fprintf(b, "| %s | %d | %d | %d | %d |\n", cmp.Or(phrases.CoverageKinds[string(c.Kind)].Text(), prose.Text(c.Kind)), c.Observed, c.Total, c.Covered-c.Observed, c.Total-c.Covered)
		}
	}
	return b.Flush()
}

// WriteFinding writes one finding as an issue of its own.
func WriteFinding(w io.Writer, r *report.Report, f *finding.Finding) error {
	b := bufio.NewWriter(w)
	one(b, r, f, "# ")
	b.WriteString("\n")
	facts(b, r)
	return b.Flush()
}

// WriteSummary writes a table of runs, and what is odd in each, for the page of a pipeline.
func WriteSummary(w io.Writer, reports []*report.Report) error {
	b := bufio.NewWriter(w)
	b.WriteString(head("form", "cases_head", "expected_head", "odd_head", "unobserved", "not_applicable_head", "not_run_head", "seconds"))
	for _, r := range reports {
		n := r.Tally()
		fmt.Fprintf(b, "| %s | %d | %d | %d | %d | %d | %d | %.1f |\n", text(cmp.Or(r.Title, r.Form)), n.Total, n.AsExpected, n.Odd, n.NotObserved, n.DoesNotApply, n.NotRun, r.Took.Seconds())
	}
	for _, r := range reports {
		for _, f := range finding.Of(r) {
			fmt.Fprintf(b, "\n- **%s**, %s: %s (%s)", text(cmp.Or(r.Title, r.Form)), text(f.Label), text(f.Headline), cases(len(f.Cases)))
		}
	}
	b.WriteString("\n")
	return b.Flush()
}

func facts(b *bufio.Writer, r *report.Report) {
	n := r.Tally()
	fmt.Fprintln(b, phrases.Report("facts", "form", code(r.Form), "site", code(r.Site), "depth", phrases.Depths[string(r.Depth)].Text(), "started", r.Started.UTC().Format("2006-01-02 15:04 UTC"), "seconds", fmt.Sprintf("%.1f", r.Took.Seconds()), "counts", wording.Counts(n)))
	if !r.Complete {
		fmt.Fprintln(b, phrases.Report("unfinished", "run", n.Run(), "total", n.Total))
	}
	if r.Foreign > 0 {
		fmt.Fprintln(b, phrases.Report("external_changes", "n", r.Foreign))
	}
}

func one(b *bufio.Writer, r *report.Report, f *finding.Finding, head string) {
	result := r.Results[f.Simplest]
	fmt.Fprintf(b, "%s%s\n\n", head, text(f.Headline))
	cause := wording.Cause(r.Rows, &f.Cause)
	fmt.Fprintf(b, "%s\n\n", phrases.Report("finding_line", "label", text(f.Label), "id", code(f.ID), "severity", phrases.Severities[string(f.Severity)].Text(), "cases", cases(len(f.Cases)), "check", text(cause.Check), "part", text(cause.Part)))
	for i, s := range steps.Of(r, result) {
		fmt.Fprintf(b, "%d. %s\n", i+1, text(s.Do))
		for _, v := range s.Values {
			value := code(steps.Visible(v.Text))
			if v.Secret || v.Choice != "" {
				value = text(v.Shown())
			}
			if v.Text == "" {
				value = string(phrases.Report("left_blank"))
			}
			fmt.Fprintf(b, "   - %s: %s\n", text(v.Field), value)
		}
	}
	b.WriteString("\n| " + string(phrases.Report("check")) + " | " + string(phrases.Report("part")) + " | " + string(phrases.Report("expected")) + " | " + string(phrases.Report("observed")) + " |\n| --- | --- | --- | --- |\n")
	follow := 0
	for _, d := range steps.Differences(result) {
		if d.Follows {
			follow++
			continue
		}
		fmt.Fprintf(b, "| %s | %s | %s | %s |\n", text(d.Check), text(d.Part), text(steps.Visible(d.Expected)), text(steps.Visible(d.Observed)))
	}
	switch {
	case follow == 1:
		fmt.Fprintf(b, "\n%s\n", phrases.Report("follow_one"))
	case follow > 1:
		fmt.Fprintf(b, "\n%s\n", phrases.Report("follow", "n", follow))
	}
	if command, ok := steps.Curl(r, result); ok {
		fmt.Fprintf(b, "\n%s\n", fenced("sh", command))
	}
	b.WriteString("\n" + string(phrases.Report("cases_list")))
	for i, id := range f.Cases {
		if i == maxCases {
			b.WriteString(string(phrases.Report("and_n_more", "n", len(f.Cases)-i)))
			break
		}
		if i > 0 {
			b.WriteString(", ")
		}
		b.WriteString(code(id))
	}
	b.WriteString(".\n")
}

// maxCases are named of one finding.
const maxCases = 12

// text keeps Markdown's and HTML's own characters from meaning anything, and a line a line.
func text[T ~string](s T) string {
	var b strings.Builder
	for _, r := range string(s) {
		switch {
		case r == '\n' || r == '\r':
			b.WriteByte(' ')
			continue
		case strings.ContainsRune("\\`*_{}[]<>#|~!&", r):
			b.WriteByte('\\')
		}
		b.WriteRune(r)
	}
	return b.String()
}

// code is a text as it is, between as many backquotes as it needs.
func code(s string) string {
	s = strings.NewReplacer("\r", "‹CR›", "\n", "‹LF›").Replace(s)
	fence := strings.Repeat("`", maxRun(s)+1)
	if s == "" || strings.HasPrefix(s, "`") || strings.HasSuffix(s, "`") {
		s = " " + s + " "
	}
	return fence + s + fence
}

// fenced is a block of code.
func fenced(language, s string) string {
	fence := strings.Repeat("`", max(3, maxRun(s)+1))
	return fence + language + "\n" + strings.TrimSuffix(s, "\n") + "\n" + fence
}

// maxRun counts the backquotes of the longest run of them.
func maxRun(s string) int {
	most, n := 0, 0
	for _, r := range s {
		if r != '`' {
			n = 0
			continue
		}
		n++
		most = max(most, n)
	}
	return most
}

// cases counts cases.
func cases(n int) prose.Text {
	if n == 1 {
		return phrases.Report("case")
	}
	return phrases.Report("cases", "n", n)
}

// head is the head of a table whose columns but the first are numbers.
func head(codes ...string) string {
	names, lines := make([]string, len(codes)), make([]string, len(codes))
	for i, c := range codes {
		names[i], lines[i] = string(phrases.Report(c)), "---:"
	}
	lines[0] = "---"
	return "| " + strings.Join(names, " | ") + " |\n| " + strings.Join(lines, " | ") + " |\n"
}
