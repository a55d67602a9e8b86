package reporting

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/usage"
	"oddtick/core/finding"
	"oddtick/core/report"
	"oddtick/formats/htmlreport"
	"oddtick/formats/junit"
	"oddtick/formats/markdown"
	"oddtick/formats/playwright"
	"oddtick/formats/sheet"
	"oddtick/formats/workbook"

	"github.com/spf13/cobra"
)

// ReportFiles are the files that a result is written to, besides JSON.
type ReportFiles struct {
	HTML, Markdown, JUnit, CSV, XLSX string
}

func (f *ReportFiles) Add(c *cobra.Command) {
	c.Flags().StringVar(&f.HTML, "html", "", "write a self-contained HTML report to this file, - for standard output")
	c.Flags().StringVar(&f.Markdown, "markdown", "", "write the findings as Markdown to this file")
	c.Flags().StringVar(&f.JUnit, "junit", "", "write JUnit XML to this file")
	c.Flags().StringVar(&f.CSV, "csv", "", "write the cases and their results as CSV to this file")
	c.Flags().StringVar(&f.XLSX, "xlsx", "", "write findings, cases and changed rows as an Excel workbook to this file")
}

// asked tells whether any of them is named.
func (f *ReportFiles) asked() bool {
	return f.HTML != "" || f.Markdown != "" || f.JUnit != "" || f.CSV != "" || f.XLSX != ""
}

// Write writes the files that are named; the form's id stands in their names where there are several forms.
func (f *ReportFiles) Write(stdout io.Writer, r *report.Report, several bool) error {
	for _, out := range []struct {
		file  string
		write func(io.Writer, *report.Report) error
	}{{f.HTML, htmlreport.Write}, {f.Markdown, markdown.Write}, {f.JUnit, junit.Write}, {f.CSV, sheet.Write}, {f.XLSX, workbook.Write}} {
		if out.file == "" {
			continue
		}
		if made, ok := stdout.(*documents.Inert); ok && out.file == f.XLSX {
			stdout = made.W // a workbook is no text
		}
		if err := documents.ToFile(documents.FileOf(out.file, r.Form, several), stdout, func(w io.Writer) error { return out.write(w, r) }); err != nil {
			return err
		}
	}
	return nil
}

// ReportCommand writes a result in other formats.
func ReportCommand() *cobra.Command {
	var f ReportFiles
	var id, spec, known string
	var verdict bool
	var cases []string
	c := &cobra.Command{
		Use:   "report RESULT",
		Short: "Write a result (a file that run --json wrote) in other formats",
		Long: `Without options, the findings are printed as Markdown. With --finding, only that one is printed, ready for an issue tracker: what is
odd, the steps to reproduce it, and the command for curl. With --verdict, only whether the form may ship is printed, and what stands in
the way: what counts is said under ready_when in the site's document.`,
		Example: `  oddtick report result.json --html report.html
  oddtick report result.json --verdict --known known.yaml
  oddtick report result.json --finding k3v7q2za > issue.md`,
		GroupID: usage.Report, Annotations: usage.Exit("the report was written; with --verdict: the form may ship", "with --verdict: it is not ready to ship", "it could not be done, and the error says why; with --verdict: also that it is not known whether the form may ship"),
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			r, err := ReadResult(args[0])
			if err != nil {
				return err
			}
			if known != "" && !verdict {
				return errors.New("--known says what counts for --verdict; name both")
			}
			if verdict {
				return sayVerdict(cmd.OutOrStdout(), r, known, time.Now())
			}
			if id != "" {
				found := finding.Of(r)
				i := slices.IndexFunc(found, func(f finding.Finding) bool { return f.Called(id) })
				if i < 0 {
					return fmt.Errorf("there is no finding %q in %s; it has %s", id, args[0], idsOf(found))
				}
				return markdown.WriteFinding(cmd.OutOrStdout(), r, &found[i])
			}
			if spec != "" {
				if len(cases) == 0 {
					for _, one := range finding.Of(r) {
						cases = append(cases, one.Simplest)
					}
				}
				if err := documents.ToFile(spec, cmd.OutOrStdout(), func(w io.Writer) error { return playwright.Write(w, r, cases) }); err != nil {
					return err
				}
			}
			if !f.asked() && spec == "" {
				f.Markdown = "-"
			}
			return f.Write(cmd.OutOrStdout(), r, false)
		},
	}
	f.Add(c)
	c.Flags().StringVar(&spec, "playwright", "", "write cases as a Playwright test (TypeScript) to this file: the simplest case of each finding, or those named with --case")
	c.Flags().StringSliceVar(&cases, "case", nil, "a case for the Playwright test; may be repeated")
	c.Flags().BoolVar(&verdict, "verdict", false, "print only whether the form may ship, and what stands in the way")
	c.Flags().StringVar(&known, "known", "", "with --verdict: findings listed in this YAML file are accepted")
	c.Flags().StringVar(&id, "finding", "", "print only this finding, as Markdown")
	return c
}

func idsOf(found []finding.Finding) string {
	var ids []string
	for i := range found {
		ids = append(ids, found[i].ID)
	}
	if len(ids) == 0 {
		return "none"
	}
	return strings.Join(ids, ", ")
}
