// Package markdown writes findings as Markdown (CommonMark with tables), for an issue tracker, and a run's summary for a pipeline's page.
package markdown

import (
	"bufio"
	"cmp"
	"fmt"
	"io"
	"strings"

	"oddtick/core/finding"
	"oddtick/core/report"
	"oddtick/core/wording"
	"oddtick/formats/steps"
)

// Write writes every finding of a result, below what the run was, and what it has covered.
func Write(w io.Writer, r *report.Report) error {
	b := bufio.NewWriter(w)
	found := finding.Of(r)
	fmt.Fprintf(b, "# %s: %s\n\n", text(cmp.Or(r.Title, r.Form)), wording.Ready(r.Tally(), len(found), finding.CountCritical(found)))
	facts(b, r)
	for i := range found {
		b.WriteString("\n")
		one(b, r, &found[i], "## ")
	}
	if len(r.Coverage) > 0 {
		b.WriteString("\n## Coverage\n\n| Kind | Shown | Of | Not observed | Without a case |\n| --- | ---: | ---: | ---: | ---: |\n")
		for _, c := range r.Coverage {
			fmt.Fprintf(b, "| %s | %d | %d | %d | %d |\n", c.Kind, c.Observed, c.Total, c.Covered-c.Observed, c.Total-c.Covered)
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
	b.WriteString("| Form | Cases | As expected | Odd | Not observed | Not applicable | Not run | Seconds |\n| --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: |\n")
	for _, r := range reports {
		n := r.Tally()
		fmt.Fprintf(b, "| %s | %d | %d | %d | %d | %d | %d | %.1f |\n", text(cmp.Or(r.Title, r.Form)), n.Total, n.AsExpected, n.Odd, n.NotObserved, n.DoesNotApply, n.NotRun, r.Took.Seconds())
	}
	for _, r := range reports {
		for _, f := range finding.Of(r) {
			fmt.Fprintf(b, "\n- **%s**, %s: %s (%s)", text(cmp.Or(r.Title, r.Form)), text(f.Label), text(f.Headline), plural(len(f.Cases), "case"))
		}
	}
	b.WriteString("\n")
	return b.Flush()
}

func facts(b *bufio.Writer, r *report.Report) {
	n := r.Tally()
	fmt.Fprintf(b, "Form %s at %s, %s depth, run of %s, %.1f s: %s.\n", code(r.Form), code(r.Site), r.Depth, r.Started.UTC().Format("2006-01-02 15:04 UTC"), r.Took.Seconds(), wording.Counts(n))
	if !r.Complete {
		fmt.Fprintf(b, "The run did not finish: %d of %d cases were run.\n", n.Run(), n.Total)
	}
	if r.Foreign > 0 {
		fmt.Fprintf(b, "Others changed %s during the run.\n", plural(r.Foreign, "row"))
	}
}

func one(b *bufio.Writer, r *report.Report, f *finding.Finding, head string) {
	result := r.Results[f.Simplest]
	fmt.Fprintf(b, "%s%s\n\n", head, text(f.Headline))
	cause := wording.Cause(r.Rows, &f.Cause)
	fmt.Fprintf(b, "%s. Finding %s (%s), seen in %s. Check: %s, part: %s.\n\n", text(f.Label), code(f.ID), f.Severity, plural(len(f.Cases), "case"), text(cause.Check), text(cause.Part))
	for i, s := range steps.Of(r, result) {
		fmt.Fprintf(b, "%d. %s\n", i+1, text(s.Do))
		for _, v := range s.Values {
			value := code(steps.Visible(v.Text))
			if v.Secret {
				value = text(v.Text)
			}
			if v.Text == "" {
				value = "left blank"
			}
			fmt.Fprintf(b, "   - %s: %s\n", text(v.Field), value)
		}
	}
	b.WriteString("\n| Check | Part | Expected | Observed |\n| --- | --- | --- | --- |\n")
	follow := 0
	for _, d := range steps.Differences(result) {
		if d.Follows {
			follow++
			continue
		}
		fmt.Fprintf(b, "| %s | %s | %s | %s |\n", text(d.Check), text(d.Part), text(steps.Visible(d.Expected)), text(steps.Visible(d.Observed)))
	}
	if follow > 0 {
		fmt.Fprintf(b, "\n%s that follow from this.\n", plural(follow, "more difference"))
	}
	if command, ok := steps.Curl(r, result); ok {
		fmt.Fprintf(b, "\n%s\n", fenced("sh", command))
	}
	b.WriteString("\nCases: ")
	for i, id := range f.Cases {
		if i == maxCases {
			fmt.Fprintf(b, ", and %d more", len(f.Cases)-i)
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

func plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}
