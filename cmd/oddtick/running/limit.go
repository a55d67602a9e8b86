package running

import (
	"fmt"
	"io"

	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/usage"
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

// FindLimitCommand finds where a site's real limit lies.
func FindLimitCommand() *cobra.Command {
	var f runFlags
	var end string
	c := &cobra.Command{
		Use:   "find-limit FILE RULE",
		Short: "Find the real limit of a length, number or date",
		Long: `Tries values at and beyond one end of a rule's range until the site's real limit is known, and up to which value they are stored whole.
RULE is the id of a rule, such as username.length, or of a field without a limit at that end: then lengths up to 70,000 characters, or
numbers of any size, are tried.`,
		Example: "  oddtick find-limit examples/ostlewick username.length --form join",
		GroupID: usage.Investigate, Annotations: usage.Exit("the limit is as promised, or none is promised and none was found", "the limit is not as promised", "it could not be found"),
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
	c.Flags().StringVar(&f.form, "form", "", "id of the form, if the project has several")
	c.Flags().StringVar(&end, "end", "max", "the end of the range: max or min")
	c.Flags().StringVar(&f.json, "json", "", "write what was found as JSON to this file, - for standard output")
	return c
}
