package designing

import (
	"encoding/json"
	"fmt"

	"oddtick/cmd/oddtick/usage"
	"oddtick/core/document"
	"oddtick/formats/result"

	"github.com/spf13/cobra"
)

// SchemaCommand prints JSON Schemas.
func SchemaCommand() *cobra.Command {
	return &cobra.Command{
		Use:         "schema form|site|result",
		Short:       "Print the JSON Schema of a document (for editors) or of a result file",
		Example:     "  oddtick schema form > form.schema.json",
		GroupID:     usage.Write,
		Annotations: usage.Exit("the schema was printed", "", usage.Failed),
		Args:        cobra.ExactArgs(1),
		ValidArgs:   []string{"form", "site", "result"},
		RunE: func(cmd *cobra.Command, args []string) error {
			schema := document.JSONSchema(args[0])
			if args[0] == "result" {
				schema = result.Schema()
			}
			if schema == nil {
				return fmt.Errorf("there is no document %q; write form, site or result", args[0])
			}
			e := json.NewEncoder(cmd.OutOrStdout())
			e.SetIndent("", "  ")
			e.SetEscapeHTML(false)
			return e.Encode(schema)
		},
	}
}
