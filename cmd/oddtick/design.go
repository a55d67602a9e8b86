package main

import (
	"encoding/json"
	"fmt"
	"io"
	"os"

	"oddtick/core/design"

	"github.com/spf13/cobra"
)

func designCommand() *cobra.Command {
	var depthName, jsonFile string
	c := &cobra.Command{
		Use:   "design FILE",
		Short: "Compute the cases of a form document or a project folder, without running them",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			depth, err := depthOf(depthName)
			if err != nil {
				return err
			}
			project, err := readProject(args[0])
			if err != nil {
				return err
			}
			type designed struct {
				Form    string            `json:"form"`
				Cases   []*design.Case    `json:"cases"`
				Omitted []design.Omission `json:"omitted,omitempty"`
			}
			var all []designed
			for _, f := range project.Forms {
				d, err := designerOf(f)
				if err != nil {
					return err
				}
				cases, omitted := d.Cases(depth)
				all = append(all, designed{f.Form, cases, omitted})
			}
			if jsonFile != "" {
				return toFile(jsonFile, cmd.OutOrStdout(), func(w io.Writer) error {
					e := json.NewEncoder(w)
					e.SetIndent("", " ")
					e.SetEscapeHTML(false)
					return e.Encode(all)
				})
			}
			for _, one := range all {
				for _, c := range one.Cases {
					fmt.Fprintf(cmd.OutOrStdout(), "%-52s %-24s %s\n", c.ID, c.Last().Expect, c.Title)
				}
				for _, o := range one.Omitted {
					fmt.Fprintf(cmd.OutOrStdout(), "no case for %s: %s\n", o.About, o.Why)
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %d cases\n", one.Form, len(one.Cases))
			}
			return nil
		},
	}
	c.Flags().StringVar(&depthName, "depth", "standard", "quick, standard or thorough")
	c.Flags().StringVar(&jsonFile, "json", "", "write the cases as JSON to this file, - for standard output")
	return c
}

// toFile writes to a file, or to standard output for -. A file that cannot be written whole is an error.
func toFile(name string, stdout io.Writer, write func(io.Writer) error) error {
	if name == "-" {
		return write(stdout)
	}
	f, err := os.Create(name)
	if err != nil {
		return fmt.Errorf("write %s: %w", name, err)
	}
	if err := write(f); err != nil {
		f.Close()
		return fmt.Errorf("write %s: %w", name, err)
	}
	return f.Close()
}
