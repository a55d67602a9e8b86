package designing

import (
	"fmt"
	"io"
	"os"

	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/usage"
	"oddtick/core/document"

	"github.com/spf13/cobra"
)

// MigrateCommand rewrites documents of former versions.
func MigrateCommand() *cobra.Command {
	var check bool
	c := &cobra.Command{
		Use:   "migrate FILE...",
		Short: "Rewrite documents of former versions with today's keys and values; comments stay",
		Example: "  oddtick migrate examples/ostlewick\n" +
			"  oddtick migrate --check join.yaml site.yaml",
		GroupID:     usage.Write,
		Annotations: usage.Exit("every file is written in today's keys and values", "with --check: a file has to be migrated", usage.Failed),
		Args:        cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			names, err := documents.Below(args)
			if err != nil {
				return err
			}
			out := cmd.OutOrStdout()
			changed := map[string][]byte{}
			for _, name := range names { // nothing is written before everything is read
				text, err := os.ReadFile(name)
				if err != nil {
					return err
				}
				now, migrated, err := document.Migrate(name, text)
				if err != nil {
					return err
				}
				if migrated {
					changed[name] = now
				}
			}
			for _, name := range names {
				now, migrated := changed[name]
				switch {
				case !migrated:
					fmt.Fprintf(out, "%s: nothing to change\n", name)
				case check:
					fmt.Fprintf(out, "%s: has to be migrated\n", name)
				default:
					if err := documents.ToFile(name, out, func(w io.Writer) error { _, err := w.Write(now); return err }); err != nil {
						return err
					}
					fmt.Fprintf(out, "%s: migrated\n", name)
				}
			}
			if check && len(changed) > 0 {
				return &documents.ExitError{Code: 1}
			}
			return nil
		},
	}
	c.Flags().BoolVar(&check, "check", false, "write nothing; exit with 1 if a file has to be migrated")
	return c
}
