package formats_test

import (
	"bytes"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"oddtick/formats/result"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"
)

// TestAResultFollowsItsPublishedSchema: another's validator takes what is written, and refuses what is not.
func TestAResultFollowsItsPublishedSchema(t *testing.T) {
	t.Parallel()
	published, err := os.ReadFile("../api/result.schema.json")
	require.NoError(t, err)
	now, err := json.Marshal(result.Schema())
	require.NoError(t, err)
	require.JSONEq(t, string(now), string(published), "api/result.schema.json is stale: run make generate")
	document, err := jsonschema.UnmarshalJSON(bytes.NewReader(published))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("result.json", document))
	schema, err := c.Compile("result.json")
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, result.Write(&b, oddReport()))
	valid := func(text string) error {
		v, err := jsonschema.UnmarshalJSON(strings.NewReader(text))
		require.NoError(t, err)
		return schema.Validate(v)
	}
	whole := b.String()
	require.NoError(t, valid(whole))
	require.NoError(t, valid(strings.Replace(whole, "{", `{"added later": 1,`, 1)))
	require.Error(t, valid(strings.Replace(whole, `"oddtick_result": 2`, `"oddtick_result": 3`, 1)))
	require.Error(t, valid(strings.Replace(whole, `"attempt": `, `"attempts": `, 1)), "what is needed is missing")
	require.Error(t, valid(strings.Replace(whole, `"site": "`, `"site": 4, "x": "`, 1)))
}
