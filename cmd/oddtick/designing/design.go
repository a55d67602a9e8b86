package designing

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/usage"
	"oddtick/core/cover"
	"oddtick/core/design"
	"oddtick/core/design/decision"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/formats/caselist"

	"github.com/spf13/cobra"
)

// DesignFlags say how much is designed.
type DesignFlags struct {
	Depth            string
	strength, atMost int
}

func (f *DesignFlags) Add(c *cobra.Command) {
	c.Flags().StringVar(&f.Depth, "depth", "standard", "quick, standard or thorough")
	c.Flags().IntVar(&f.strength, "strength", 2, "cover every combination of valid values of this many fields")
	c.Flags().IntVar(&f.atMost, "max-cases", 0, "only this many cases, those that cover the most; 0 for all")
}

func (f *DesignFlags) Plan() (design.Plan, error) {
	depth, err := documents.DepthOf(f.Depth)
	switch {
	case err != nil:
		return design.Plan{}, err
	case f.strength < 1 || f.strength > design.MostStrength:
		return design.Plan{}, fmt.Errorf("--strength is %d; it goes from 1 to %d", f.strength, design.MostStrength)
	case f.atMost < 0:
		return design.Plan{}, fmt.Errorf("--max-cases is %d; give a number above 0", f.atMost)
	}
	return design.Plan{Depth: depth, Strength: f.strength, AtMost: f.atMost, Large: true}, nil
}

// designed are the cases of one form.
type designed struct {
	Form     string              `json:"form"`
	Cases    []*testcase.Case    `json:"cases"`
	Omitted  []testcase.Omission `json:"omitted,omitempty"`
	Tables   []*decision.Table   `json:"tables,omitempty"`
	Combined *design.Combined    `json:"combined,omitempty"`
	Coverage []cover.Coverage    `json:"coverage"`
	Stale    []spec.CaseEdit     `json:"stale,omitempty"`

	designer *design.Designer
}

func designOf(project *spec.Project, f *spec.Form, plan design.Plan) (*designed, error) {
	d, err := documents.DesignerOf(project, f)
	if err != nil {
		return nil, err
	}
	edits := project.EditsOf(f.Form)
	set := d.Design(plan, edits...)
	all := d.Design(design.Plan{Depth: testcase.Thorough, Strength: plan.Strength, Large: true}, edits...)
	return &designed{f.Form, set.Cases, set.Omitted, set.Tables, set.Combined, cover.Of(d, set, all, nil), set.Stale, d}, nil
}

// DesignCommand computes cases.
func DesignCommand() *cobra.Command {
	var f DesignFlags
	var jsonFile, csvFile string
	c := &cobra.Command{
		Use:     "design FILE",
		Short:   "Compute the cases of a form document or a project folder, without running them",
		Example: "  oddtick design examples/ostlewick --depth quick",
		GroupID: usage.Design, Annotations: usage.Exit("the cases were computed", "", usage.Failed),
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			plan, err := f.Plan()
			if err != nil {
				return err
			}
			project, err := documents.ReadProject(args[0])
			if err != nil {
				return err
			}
			var all []*designed
			for _, form := range project.Forms {
				one, err := designOf(project, form, plan)
				if err != nil {
					return err
				}
				all = append(all, one)
			}
			out := cmd.OutOrStdout()
			if jsonFile != "" {
				if err := documents.ToFile(jsonFile, out, func(w io.Writer) error {
					e := json.NewEncoder(w)
					e.SetIndent("", " ")
					e.SetEscapeHTML(false)
					return e.Encode(all)
				}); err != nil {
					return err
				}
			}
			if csvFile != "" {
				for i, one := range all {
					file := documents.FileOf(csvFile, project.Forms[i].Form, len(all) > 1)
					if err := documents.ToFile(file, out, func(w io.Writer) error { return caselist.Write(w, one.designer, one.Cases) }); err != nil {
						return err
					}
				}
			}
			if jsonFile == "" && csvFile == "" {
				for _, one := range all {
					one.print(out)
				}
			}
			return nil
		},
	}
	f.Add(c)
	c.Flags().StringVar(&jsonFile, "json", "", "write the cases as JSON to this file, - for standard output")
	c.Flags().StringVar(&csvFile, "csv", "", "write the cases as CSV to this file, one for each form, - for standard output")
	return c
}

func (d *designed) print(w io.Writer) {
	off := 0
	for _, c := range d.Cases {
		if c.Off() {
			off++
			fmt.Fprintf(w, "%-52s skipped: %s\n", c.ID, c.Edit.Skip)
			continue
		}
		fmt.Fprintf(w, "%-52s %-24s %s\n", c.ID, c.Last().Expect, c.Title)
	}
	for _, o := range d.Omitted {
		fmt.Fprintf(w, "no case for %s: %s\n", o.About, o.Why)
	}
	for _, e := range d.Stale {
		fmt.Fprintf(w, "edited, but no longer exists: %s\n", e.Case)
	}
	for _, c := range d.Coverage {
		fmt.Fprintf(w, "%-34s %d of %d\n", c.Kind, c.Covered, c.Total)
		for i, m := range c.Missing {
			if i == 10 {
				fmt.Fprintf(w, "  and %d more\n", len(c.Missing)-i)
				break
			}
			switch {
			case m.Case != "":
				fmt.Fprintf(w, "  not covered: %s; %s would\n", m.Words, m.Case)
			case m.Why != "":
				fmt.Fprintf(w, "  cannot be covered: %s; %s\n", m.Words, m.Why)
			default:
				fmt.Fprintf(w, "  not covered: %s\n", m.Words)
			}
		}
	}
	fmt.Fprintf(w, "%s: %d cases", d.Form, len(d.Cases))
	if off > 0 {
		fmt.Fprintf(w, ", %d of them skipped", off)
	}
	fmt.Fprintln(w)
}

// ExplainCommand says why a case exists.
func ExplainCommand() *cobra.Command {
	return &cobra.Command{
		Use:     "explain FILE CASE",
		Short:   "Show why a case exists, what it sends and expects, and what would go untested without it",
		Example: "  oddtick explain examples/ostlewick join/username.length.max+1/http",
		GroupID: usage.Design, Annotations: usage.Exit("the case was found", "", usage.Failed),
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			project, err := documents.ReadProject(args[0])
			if err != nil {
				return err
			}
			for _, form := range project.Forms {
				d, err := documents.DesignerOf(project, form)
				if err != nil {
					return err
				}
				for strength := 2; strength <= 4; strength++ { // rows of greater strengths have other ids
					set := d.Design(design.Plan{Depth: testcase.Thorough, Strength: strength, Large: true}, project.EditsOf(form.Form)...)
					for _, c := range set.Cases {
						if c.ID == args[1] {
							return explain(cmd.OutOrStdout(), d, set, c)
						}
					}
				}
			}
			return errors.New("there is no case " + args[1] + "; oddtick design " + args[0] + " --depth thorough lists them")
		},
	}
}

func explain(w io.Writer, d *design.Designer, set *design.Set, c *testcase.Case) error {
	fmt.Fprintf(w, "%s\n%s\n\ntechnique  %s\ndepth      %s\ndriver     %s\n", c.ID, c.Title, c.Technique, c.Depth(), c.Last().Driver)
	if c.Off() {
		fmt.Fprintf(w, "skipped    %s\n", c.Edit.Skip)
	}
	reader := d.Reader()
	for i := range c.Steps {
		step := &c.Steps[i]
		fmt.Fprintf(w, "\nstep %d: %s\n", i+1, step.Do)
		if step.Do == testcase.Submit {
			sent, err := reader.Values(c, i)
			if err != nil {
				return err
			}
			for _, f := range d.Prepared().Fields {
				v := sent.Values[f.Index]
				switch {
				case !sent.Filled[f.Index]:
					fmt.Fprintf(w, "  %-20s not shown\n", f.ID)
				case !v.Present:
					fmt.Fprintf(w, "  %-20s not sent\n", f.ID)
				case f.Secret:
					fmt.Fprintf(w, "  %-20s %d characters\n", f.ID, len([]rune(v.Sent)))
				default:
					fmt.Fprintf(w, "  %-20s %s\n", f.ID, inLine(v.Sent))
				}
			}
		}
		fmt.Fprintf(w, "  expected: %s", step.Expect)
		for _, rule := range step.Breaks {
			fmt.Fprintf(w, ", breaks %s", rule)
		}
		fmt.Fprintln(w)
	}
	covers, only := cover.By(d, set, c.ID)
	tell := func(head string, items []cover.Item, none string) {
		fmt.Fprintf(w, "\n%s\n", head)
		if len(items) == 0 {
			fmt.Fprintf(w, "  %s\n", none)
		}
		for _, i := range items {
			fmt.Fprintf(w, "  %-26s %s\n", i.Kind, i.Words)
		}
	}
	tell("covers", covers, "not needed for coverage: "+string(c.Technique))
	tell("untested without this case", only, "nothing: other cases cover all of it")
	return nil
}

// inLine writes a value so that its ends and invisible characters are seen, and long ones are cut.
func inLine(v string) string {
	text := fmt.Sprintf("%q", v)
	if runes := []rune(v); len(runes) > 100 {
		text = fmt.Sprintf("%q… (%d characters)", string(runes[:60]), len(runes))
	}
	return text
}
