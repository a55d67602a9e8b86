package main

import (
	"os"
	"reflect"
	"regexp"
	"testing"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

// TestEveryKeyIsShownInAnExample: docs/documents.md shows each key of the documents in use.
func TestEveryKeyIsShownInAnExample(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../../docs/documents.md")
	require.NoError(t, err)
	shown := map[string]bool{}
	for _, key := range regexp.MustCompile(`\b([a-z_-]+)"?:`).FindAllStringSubmatch(string(text), -1) {
		shown[key[1]] = true
	}
	var missing []string
	seen := map[reflect.Type]bool{}
	var walk func(reflect.Type)
	walk = func(of reflect.Type) {
		for of.Kind() == reflect.Pointer || of.Kind() == reflect.Slice || of.Kind() == reflect.Map {
			of = of.Elem()
		}
		if of.Kind() != reflect.Struct || seen[of] {
			return
		}
		seen[of] = true
		for key, f := range spec.StructFields(of) {
			if !shown[key] && key != "-" && key != "texts" {
				missing = append(missing, of.Name()+"."+key)
			}
			walk(f.Type)
		}
	}
	for _, document := range []any{spec.Form{}, spec.Site{}, spec.CaseDocument{}, spec.GuessDocument{}} {
		walk(reflect.TypeOf(document))
	}
	require.Empty(t, missing)
	require.Greater(t, len(seen), 40)
}
