package main

import (
	"encoding/json"
	"fmt"

	"oddtick/core/spec"

	"github.com/spf13/cobra"
)

func schemaCommand() *cobra.Command {
	return &cobra.Command{
		Use:       "schema form|site",
		Short:     "Print the JSON Schema of a document, for editors",
		Args:      cobra.ExactArgs(1),
		ValidArgs: []string{"form", "site"},
		RunE: func(cmd *cobra.Command, args []string) error {
			schema := spec.JSONSchema(args[0])
			if schema == nil {
				return fmt.Errorf("there is no document %q; write form or site", args[0])
			}
			e := json.NewEncoder(cmd.OutOrStdout())
			e.SetIndent("", "  ")
			e.SetEscapeHTML(false)
			return e.Encode(schema)
		},
	}
}
