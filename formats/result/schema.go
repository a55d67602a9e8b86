package result

import (
	"path"
	"reflect"
	"strings"

	"oddtick/core/report"

	"github.com/danielgtaylor/huma/v2"
)

// Schema is the JSON Schema (2020-12) of a result file, made from the types it is written from. Members that it does not name may
// come with later versions.
func Schema() map[string]any {
	const prefix = "#/$defs/"
	types := huma.NewMapRegistry(prefix, TypeName)
	report := types.Schema(reflect.TypeFor[report.Report](), true, "Report")
	Enumerate(types, prefix)
	for _, s := range types.Map() {
		if s.AdditionalProperties == false {
			s.AdditionalProperties = nil
		}
	}
	return map[string]any{
		"$schema":    "https://json-schema.org/draft/2020-12/schema",
		"title":      "A result of Odd Tick",
		"$ref":       report.Ref,
		"properties": map[string]any{"oddtick_result": map[string]any{"const": Version}},
		"required":   []string{"oddtick_result"},
		"$defs":      types.Map(),
	}
}

// TypeName names a type in a schema: those of the core with their package, as several packages have types of one name.
func TypeName(t reflect.Type, hint string) string {
	for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice {
		t = t.Elem()
	}
	name := huma.DefaultSchemaNamer(t, hint)
	if room := path.Base(t.PkgPath()); strings.Contains(t.PkgPath(), "oddtick/core") {
		return strings.ToUpper(room[:1]) + room[1:] + name
	}
	return name
}
