package running

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/usage"
	"oddtick/core/design"
	"oddtick/core/investigate"
	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/engine/attempt"
	"oddtick/engine/target"
	"oddtick/formats/jsonfile"
	"oddtick/formats/steps"

	"github.com/spf13/cobra"
)

// InvestigateCommand repeats an odd case and simplifies it.
func InvestigateCommand() *cobra.Command {
	var f runFlags
	c := &cobra.Command{
		Use:     "investigate FILE CASE",
		Short:   "Repeat an odd case, and find the simplest input that shows the same fault",
		Long:    `Runs a case; if it is odd, repeats it and simplifies it as long as the same fault shows. CASE is the id of the case.`,
		Example: "  oddtick investigate examples/ostlewick join/username.length.max+1/http",
		GroupID: usage.Investigate, Annotations: usage.Exit("the case is as expected", "the case is odd", "it could not be run"),
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			return f.withForm(cmd.Context(), args[0], func(run *target.Target, form *spec.Form, cases []*testcase.Case) error {
				i := slices.IndexFunc(cases, func(c *testcase.Case) bool { return c.ID == args[1] })
				if i < 0 {
					return fmt.Errorf("the form has no case %q; oddtick design lists them", args[1])
				}
				first, err := attempt.Once(cmd.Context(), run, cases[i])
				if err != nil {
					return err
				}
				w := cmd.OutOrStdout()
				fmt.Fprintln(w, steps.OneLine(first.Headline))
				if first.Cause == nil {
					if first.Verdict == judge.NotObserved {
						return &documents.ExitError{Code: 2}
					}
					return nil
				}
				further, err := investigate.Investigate(cmd.Context(), run.Config.Designer.Maker, attempt.By(run), cases[i], *first.Cause, nil)
				if err != nil {
					return err
				}
				if f.json != "" {
					if err := documents.ToFile(f.json, w, func(w io.Writer) error { return jsonfile.Write(w, further) }); err != nil {
						return err
					}
				}
				if f.json == "-" {
					w = cmd.ErrOrStderr()
				}
				fmt.Fprintf(w, "%s (%d submissions)\n", wording.Investigation(run.Config.Designer.Maker.Form, further), further.Submissions)
				if further.Simplest != nil {
					r := report.New(form, nil)
					for _, s := range steps.Of(r, further.Simplest) {
						fmt.Fprintln(w, s.Do)
						for _, v := range s.Values {
							fmt.Fprintf(w, "  %-24s %s\n", v.Field, v.Shown())
						}
					}
				}
				return &documents.ExitError{Code: 1}
			})
		},
	}
	f.addPlace(c)
	f.DesignFlags.Add(c)
	c.Flags().StringVar(&f.form, "form", "", "id of the form, if the project has several")
	c.Flags().StringVar(&f.json, "json", "", "write what was found as JSON to this file, - for standard output")
	return c
}

// withForm opens the one form of a file, or the one that is named.
func (f *runFlags) withForm(ctx context.Context, path string, do func(*target.Target, *spec.Form, []*testcase.Case) error) error {
	plan := design.Plan{}
	if f.Depth != "" {
		var err error
		if plan, err = f.Plan(); err != nil {
			return err
		}
	}
	project, err := documents.ReadProject(path)
	if err != nil {
		return err
	}
	if err := f.place(project, path); err != nil {
		return err
	}
	if project.Site.Protected() == spec.NoWrites {
		return fmt.Errorf("this submits the form, and the environment %s permits only cases that should write nothing", f.environment)
	}
	form, err := f.formOf(project, path)
	if err != nil {
		return err
	}
	d, err := documents.DesignerOf(project, form)
	if err != nil {
		return err
	}
	var cases []*testcase.Case
	if f.Depth != "" {
		cases = d.Design(plan, project.EditsOf(form.Form)...).Cases
	}
	run, err := target.Open(ctx, target.Config{Site: project.Site, Designer: d, Number: time.Now().UnixMilli()})
	if err != nil {
		return err
	}
	defer run.Close()
	return do(run, form, cases)
}

func (f *runFlags) formOf(project *spec.Project, path string) (*spec.Form, error) {
	if f.form == "" && len(project.Forms) == 1 {
		return project.Forms[0], nil
	}
	ids := make([]string, len(project.Forms))
	for i, form := range project.Forms {
		if form.Form == f.form {
			return form, nil
		}
		ids[i] = form.Form
	}
	if f.form == "" {
		return nil, errors.New("choose a form with --form: " + strings.Join(ids, ", "))
	}
	return nil, fmt.Errorf("there is no form %q in %s", f.form, path)
}
