package running

import (
	"fmt"
	"io"

	"oddtick/cmd/oddtick/documents"
	"oddtick/core/investigate"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/engine/attempt"
	"oddtick/engine/target"
	"oddtick/formats/jsonfile"
	"oddtick/formats/steps"

	"github.com/spf13/cobra"
)

func LimitCommand() *cobra.Command {
	var f runFlags
	var end string
	c := &cobra.Command{
		Use:   "limit FILE RULE",
		Short: "Find where a site's real limit lies",
		Long: `Submits values at and beyond an end of a rule's range, halving the distance, until the site's real limit is known: of a length, or of
a range of numbers or days; and to where they are stored whole. RULE is the rule's id, such as username.length, or that of a field of
which nothing is promised at that end: then lengths to 70,000 characters, or numbers of any size, are looked through.

Exit codes: 0 the limit is as promised, or there is none and none was promised; 1 it is not; 2 could not look for it.`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			return f.withForm(cmd.Context(), args[0], func(run *target.Target, _ *spec.Form, _ []*testcase.Case) error {
				l, err := investigate.FindLimit(cmd.Context(), run.Config.Designer.Maker, attempt.By(run), args[1], testcase.End(end))
				if err != nil {
					return err
				}
				w := cmd.OutOrStdout()
				if f.json != "" {
					if err := documents.ToFile(f.json, w, func(w io.Writer) error { return jsonfile.Write(w, l) }); err != nil {
						return err
					}
				}
				if f.json == "-" {
					w = cmd.ErrOrStderr()
				}
				for _, p := range l.Probes {
					fmt.Fprintf(w, "%-8s %-24s %s\n", map[bool]string{true: "taken", false: "refused"}[p.Taken], p.Value, steps.OneLine(p.Says))
				}
				fmt.Fprintf(w, "%s, %s: %s (%d submissions)\n", l.Rule, l.End, wording.Limit(l), len(l.Probes))
				if !l.AsPromised || l.Whole != "" {
					return &documents.ExitError{Code: 1}
				}
				return nil
			})
		},
	}
	f.addPlace(c)
	c.Flags().StringVar(&f.form, "form", "", "the form with this id, where there are several")
	c.Flags().StringVar(&end, "end", "max", "the end of the range: max or min")
	c.Flags().StringVar(&f.json, "json", "", "write what was found as JSON to this file, - for standard output")
	return c
}
