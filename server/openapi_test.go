package server_test

import (
	"testing"

	"oddtick/server/api"

	"github.com/goccy/go-yaml"
	"github.com/stretchr/testify/require"
)

// TestOperationsAreNamedAlike: an operation's id is a verb and a noun, it has one of the document's tags, and says whether one must be
// signed in.
func TestOperationsAreNamedAlike(t *testing.T) {
	t.Parallel()
	text, err := api.OpenAPI()
	require.NoError(t, err)
	var doc struct {
		Tags []struct {
			Name string `yaml:"name"`
		} `yaml:"tags"`
		Paths map[string]map[string]struct {
			ID       string                `yaml:"operationId"`
			Tags     []string              `yaml:"tags"`
			Security []map[string][]string `yaml:"security"`
			Summary  string                `yaml:"summary"`
		} `yaml:"paths"`
	}
	require.NoError(t, yaml.Unmarshal(text, &doc))
	known := map[string]bool{}
	for _, tag := range doc.Tags {
		known[tag.Name] = true
	}
	ids, open := map[string]bool{}, []string{}
	for path, methods := range doc.Paths {
		for method, op := range methods {
			require.Regexp(t, `^(get|list|add|change|check|convert|delete|duplicate|edit|end|endOther|export|find|import|investigate|learn|move|predict|preview|read|record|replace|restore|resume|run|sign|start|stop|stream|test|trace|triage|try|update)[A-Z][A-Za-z]+$`, op.ID, path)
			require.False(t, ids[op.ID], "two operations are called %s", op.ID)
			ids[op.ID] = true
			require.Len(t, op.Tags, 1, op.ID)
			require.True(t, known[op.Tags[0]], "%s has the unknown tag %s", op.ID, op.Tags[0])
			require.NotEmpty(t, op.Summary, op.ID)
			if op.Security == nil {
				open = append(open, op.ID)
				continue
			}
			require.Contains(t, op.Security[0], "session", op.ID)
			_, token := op.Security[0]["token"]
			require.Equal(t, method != "get", token, op.ID)
		}
	}
	require.ElementsMatch(t, []string{"getLive", "getReady", "signIn", "checkFirstUserLink", "addFirstUser"}, open)
}
