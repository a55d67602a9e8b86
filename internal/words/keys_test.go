package words_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/goccy/go-yaml"
	"github.com/stretchr/testify/require"
)

// named are the lines of each section of testdata/retired_keys.txt.
func named(t *testing.T) map[string]map[string]bool {
	text, err := os.ReadFile("testdata/retired_keys.txt")
	require.NoError(t, err)
	out, section := map[string]map[string]bool{}, ""
	for line := range strings.Lines(string(text)) {
		line = strings.TrimSpace(line)
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case strings.HasPrefix(line, "["):
			section = strings.Trim(line, "[]")
			out[section] = map[string]bool{}
		default:
			out[section][line] = true
		}
	}
	return out
}

// published are the keys and values that a schema or the API's document names.
type published struct{ keys, values, operations, parameters []string }

func (p *published) read(t *testing.T, file string) {
	text, err := os.ReadFile(filepath.Join(root, "api", file))
	require.NoError(t, err)
	var tree any
	require.NoError(t, yaml.Unmarshal(text, &tree)) // JSON is YAML
	p.walk(tree)
}

func (p *published) walk(tree any) {
	switch n := tree.(type) {
	case map[string]any:
		if properties, is := n["properties"].(map[string]any); is {
			for key := range properties {
				p.keys = append(p.keys, key)
			}
		}
		values, _ := n["enum"].([]any)
		for _, v := range append(values, n["const"]) {
			if text, is := v.(string); is {
				p.values = append(p.values, text)
			}
		}
		if id, is := n["operationId"].(string); is {
			p.operations = append(p.operations, id)
		}
		if name, is := n["name"].(string); is && n["in"] != nil {
			p.parameters = append(p.parameters, name)
		}
		for _, child := range n {
			p.walk(child)
		}
	case []any:
		for _, child := range n {
			p.walk(child)
		}
	}
}

// TestRetiredKeysAreNotPublished: no key or value of documents, and no operation or parameter of the API, is called as it was; none holds a space.
func TestRetiredKeysAreNotPublished(t *testing.T) {
	t.Parallel()
	old := named(t)
	var documents, api published
	documents.read(t, "form.schema.json")
	documents.read(t, "site.schema.json")
	api.read(t, "openapi.yaml")
	require.Greater(t, len(documents.keys), 150)
	require.Greater(t, len(documents.values), 100)
	require.Greater(t, len(api.operations), 60)
	require.Greater(t, len(api.parameters), 80)
	for what, list := range map[string][]string{"keys": documents.keys, "values": documents.values, "operations": api.operations, "parameters": api.parameters} {
		require.NotEmpty(t, old[what], what)
		for _, name := range list {
			require.False(t, old[what][name], "%s: %s", what, name)
			require.NotContains(t, name, " ", what)
		}
	}
}
