package document_test

import (
	"encoding/json"
	"errors"
	"os"
	"strconv"
	"strings"
	"testing"

	"oddtick/core/document"
	"oddtick/core/spec"

	"github.com/goccy/go-yaml"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

func compiled(t testing.TB, of string) *jsonschema.Schema {
	text, err := json.Marshal(document.JSONSchema(of))
	require.NoError(t, err)
	schema, err := jsonschema.UnmarshalJSON(strings.NewReader(string(text)))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource(of+".json", schema))
	out, err := c.Compile(of + ".json")
	require.NoError(t, err)
	return out
}

func asData(t testing.TB, text string) any {
	b, err := yaml.YAMLToJSON([]byte(text))
	require.NoError(t, err)
	v, err := jsonschema.UnmarshalJSON(strings.NewReader(string(b)))
	require.NoError(t, err)
	return v
}

// places are those at which a validation fails, written as the reader writes them. An unknown key is named itself.
func places(err *jsonschema.ValidationError) []string {
	if len(err.Causes) > 0 {
		var out []string
		for _, c := range err.Causes {
			out = append(out, places(c)...)
		}
		return out
	}
	at := ""
	for _, token := range err.InstanceLocation {
		if _, number := strconv.Atoi(token); number == nil {
			at += "[" + token + "]"
		} else {
			at = strings.TrimPrefix(at+"."+token, ".")
		}
	}
	out := []string{at}
	for _, part := range strings.Split(err.ErrorKind.LocalizedString(printer), "'") {
		out = append(out, strings.TrimPrefix(at+"."+part, "."))
	}
	return out
}

func TestTheJSONSchemaTakesWhatIsShipped(t *testing.T) {
	t.Parallel()
	for file, document := range map[string]string{"../../examples/ostlewick/join.yaml": "form", "../../examples/ostlewick/site.yaml": "site"} {
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		require.NoError(t, compiled(t, document).Validate(asData(t, string(text))))
	}
	require.NoError(t, compiled(t, "form").Validate(asData(t, commented)))
	published, err := os.ReadFile("../../api/form.schema.json")
	require.NoError(t, err)
	now, err := json.Marshal(document.JSONSchema("form"))
	require.NoError(t, err)
	require.JSONEq(t, string(now), string(published), "api/form.schema.json is stale: run make generate")
	require.Nil(t, document.JSONSchema("journey"))
}

// TestTheJSONSchemaRefusesWhereTheReaderDoes: of each wrong document both name the same place.
func TestTheJSONSchemaRefusesWhereTheReaderDoes(t *testing.T) {
	t.Parallel()
	schema := compiled(t, "form")
	for place, text := range map[string]string{
		"colour":                                "form: a\npage: /\ncolour: red\n",
		"fields[0].lable":                       "form: a\npage: /\nfields: [{name: x, lable: X}]\n",
		"fields[0].kind":                        "form: a\npage: /\nfields: [{name: x, kind: colour}]\n",
		"fields[1].rules[0].length.min":         "form: a\npage: /\nfields: [{name: x}, {name: y, rules: [{length: {min: few}}]}]\n",
		"fields[0].rules[0].length.in":          "form: a\npage: /\nfields: [{name: x, rules: [{length: {max: 3, in: words}}]}]\n",
		"fields[0].rules[0].unique.ignoring[0]": "form: a\npage: /\nfields: [{name: x, rules: [{unique: {column: t.c, ignoring: [colour]}}]}]\n",
		"fields[0].rules[0]":                    "form: a\npage: /\nfields: [{name: x, rules: [{required: {}, email: {}}]}]\n",
		"fields":                                "form: a\npage: /\nfields: 7\n",
		"phases":                                "form: a\npage: /\nphases: mixed\n",
		"accepted.status":                       "form: a\npage: /\naccepted: {status: fine}\n",
		"rejected.tied":                         "form: a\npage: /\nrejected: {tied: 3}\n",
		"stored[0].columns.c.colour":            "form: a\npage: /\nstored: [{insert: t, columns: {c: {colour: red}}}]\n",
	} {
		_, err := spec.ReadForm("f.yaml", []byte(text))
		var problems spec.Problems
		require.True(t, errors.As(err, &problems), text)
		require.Equal(t, place, problems[0].Path, text)
		var wrong *jsonschema.ValidationError
		require.True(t, errors.As(schema.Validate(asData(t, text)), &wrong), text)
		require.Contains(t, places(wrong), place, text)
	}
}

var printer = message.NewPrinter(language.English)

// TestEveryKeyIsExplained: the schemas explain each key of each type in one sentence, and keys.yaml explains no other.
func TestEveryKeyIsExplained(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("keys.yaml")
	require.NoError(t, err)
	explained := map[string]map[string]string{}
	require.NoError(t, yaml.Unmarshal(text, &explained))
	seen := 0
	for _, of := range []string{"form", "site"} {
		for name, def := range document.JSONSchema(of)["$defs"].(map[string]any) {
			properties := def.(map[string]any)["properties"].(map[string]any)
			_, rule := properties["layers"]
			for key, schema := range properties {
				require.NotEqual(t, "-", key)
				described := schema.(map[string]any)["description"]
				require.NotNil(t, described, "%s.%s", name, key)
				seen++
				if explained[name][key] == "" {
					require.True(t, rule, "%s.%s", name, key)
					require.Equal(t, explained["any rule"][key], described, "%s.%s", name, key)
				}
			}
			for key := range explained[name] {
				require.Contains(t, properties, key, name)
			}
		}
	}
	require.Greater(t, seen, 300)
}
