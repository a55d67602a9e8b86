// Package reporting holds the commands that compare and report results.
package reporting

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/usage"
	"oddtick/core/compare"
	"oddtick/core/report"
	"oddtick/formats/result"
	"oddtick/formats/steps"

	"github.com/spf13/cobra"
)

// CompareCommand compares two results.
func CompareCommand() *cobra.Command {
	var file string
	c := &cobra.Command{
		Use:     "compare BEFORE AFTER",
		Short:   "Compare two results (files that run --json wrote)",
		Long:    `Shows what is newly odd, still odd and no longer odd, and what was tested in only one of the two results.`,
		Example: "  oddtick compare monday.json tuesday.json",
		GroupID: usage.Report, Annotations: usage.Exit("nothing is newly odd", "something is newly odd", "a result could not be read"),
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			before, err := ReadResult(args[0])
			if err != nil {
				return err
			}
			after, err := ReadResult(args[1])
			if err != nil {
				return err
			}
			if before.Form != after.Form {
				return fmt.Errorf("%s is a result of the form %s, %s of %s; compare results of one form", args[0], before.Form, args[1], after.Form)
			}
			c := compare.Of(before, after)
			if file != "" {
				if err := documents.ToFile(file, cmd.OutOrStdout(), func(w io.Writer) error {
					e := json.NewEncoder(w)
					e.SetIndent("", " ")
					return e.Encode(c)
				}); err != nil {
					return err
				}
			}
			w := cmd.OutOrStdout()
			if file == "-" {
				w = cmd.ErrOrStderr()
			}
			sayComparison(w, after.Form, c)
			if len(c.NewlyOdd) > 0 {
				return &documents.ExitError{Code: 1}
			}
			return nil
		},
	}
	c.Flags().StringVar(&file, "json", "", "write the comparison as JSON to this file, - for standard output")
	return c
}

// ReadResult reads a result file, and says what is wrong with one that is none.
func ReadResult(file string) (*report.Report, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, fmt.Errorf("the result %s cannot be read: %w", file, errors.Unwrap(err))
	}
	defer f.Close()
	r, err := result.Read(f)
	if err != nil {
		return nil, fmt.Errorf("the result %s cannot be read: %w; write it anew with run --json", file, err)
	}
	return r, nil
}

func sayComparison(w io.Writer, form string, c *compare.Comparison) {
	for _, list := range []struct {
		words    string
		findings []compare.Finding
	}{{"newly odd", c.NewlyOdd}, {"still odd", c.StillOdd}, {"no longer odd", c.NoLongerOdd}, {"not observed again", c.NotSeenAgain}} {
		for _, f := range list.findings {
			row := f.Row
			if row == "" {
				row = "several rows"
			}
			fmt.Fprintf(w, "%-14s  %-14s %s (%d, before %d)\n", list.words, row, steps.OneLine(f.Says), len(f.After), len(f.Before))
		}
	}
	inOneLine(w, "newly covered", c.NewlyCovered)
	inOneLine(w, "not covered", c.NoLongerCovered)
	fmt.Fprintf(w, "%s: %d newly odd, %d still odd, %d no longer odd, %d not observed again; %d cases more, %d fewer\n", form, len(c.NewlyOdd), len(c.StillOdd), len(c.NoLongerOdd), len(c.NotSeenAgain), len(c.AddedCases), len(c.RetiredCases))
}

// maxNamed is how many things are named in a line; the result in JSON has all of them.
const maxNamed = 6

// inOneLine prints how many there are, and the first of them.
func inOneLine(w io.Writer, words string, list []string) {
	if len(list) == 0 {
		return
	}
	more := ""
	if len(list) > maxNamed {
		more = fmt.Sprintf(", and %d more", len(list)-maxNamed)
	}
	fmt.Fprintf(w, "%-14s  %d: %s%s\n", words, len(list), strings.Join(list[:min(len(list), maxNamed)], ", "), more)
}

// AgainstBaseline compares a run with the stored result it is held against, and adds to still what both show.
func AgainstBaseline(w io.Writer, file string, r *report.Report, several bool, still map[string]bool) error {
	before, err := ReadResult(documents.FileOf(file, r.Form, several))
	if err != nil {
		return err
	}
	if before.Form != r.Form {
		return fmt.Errorf("%s is a result of the form %s, not of %s", file, before.Form, r.Form)
	}
	c := compare.Of(before, r)
	sayComparison(w, r.Form, c)
	for i := range c.StillOdd {
		still[c.StillOdd[i].ID] = true
	}
	return nil
}
