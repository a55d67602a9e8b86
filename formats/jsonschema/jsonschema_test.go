package jsonschema_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"

	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/spec"
	"oddtick/formats/jsonschema"

	"github.com/stretchr/testify/require"
)

const booking = `{
  "type": "object", "required": ["tool", "from"],
  "properties": {
    "tool": {"title": "Tool", "type": "string", "pattern": "^[a-z]{3}-[0-9]{2}$", "maxLength": 6},
    "from": {"type": "string", "format": "date"},
    "days": {"type": "integer", "minimum": 1, "maximum": 14, "default": 1},
    "deposit": {"type": ["number", "null"], "exclusiveMinimum": 0, "multipleOf": 0.5},
    "size": {"enum": ["s", "m", null]},
    "extras": {"type": "array", "items": {"$ref": "#/$defs/extra"}},
    "contact": {"type": "object", "required": ["mail"], "properties": {"mail": {"type": "string", "format": "email"}}},
    "agreed": {"type": "boolean"},
    "id": {"type": "integer", "readOnly": true}
  },
  "$defs": {"extra": {"oneOf": [{"const": "oil", "title": "Oil"}, {"const": "gloves"}]}}
}`

// lines are a draft's fields, a line each.
func lines(d *draft.Draft) []string {
	out := []string{}
	for _, f := range d.Fields {
		parts := []string{f.Name}
		for _, s := range f.Statements {
			v, _ := json.Marshal(s.Value)
			parts = append(parts, s.Path+"="+string(v))
		}
		for i := range f.Rules {
			parts = append(parts, string(document.Rule(&f.Rules[i].Rule)))
		}
		out = append(out, strings.Join(parts, " "))
	}
	return out
}

func TestASchemaBecomesFields(t *testing.T) {
	t.Parallel()
	r, err := jsonschema.Parse([]byte(booking), "")
	require.NoError(t, err)
	require.Equal(t, []string{
		`agreed kind="checkbox" value="true"`,
		`contact.mail kind="email" {"email":{}}`,
		`days initial="1" kind="number" {"range":{"min":1,"max":14}} {"step":{"by":1}}`,
		`deposit kind="number" {"range":{"id":"exclusive_range","min":0,"exclusive":true}} {"step":{"by":0.5}}`,
		`extras kind="multiple_choice" options=[{"label":"Oil","value":"oil"},{"value":"gloves"}]`,
		`from kind="date" {"required":{}}`,
		`size kind="single_choice" options=[{"value":"s"},{"value":"m"}]`,
		`tool label="Tool" {"length":{"max":6}} {"pattern":{"is":"[a-z]{3}-[0-9]{2}","dialect":"u"}} {"required":{}}`,
	}, lines(r.Draft))
	form, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\n"))
	require.NoError(t, err)
	text := []byte("form: f\npage: /\n")
	for _, p := range draft.Propose(form, r.Draft) {
		text, err = document.Apply(text, p.Edits)
		require.NoError(t, err)
	}
	form, err = spec.ReadForm("f.yaml", text)
	require.NoError(t, err, "%s", text)
	require.Len(t, form.Fields, 8)
}

func TestARequestOfAnOpenAPIDocumentIsChosen(t *testing.T) {
	t.Parallel()
	api := fmt.Sprintf(`
openapi: 3.1.0
paths:
  /bookings:
    get: {responses: {}}
    post:
      requestBody: {$ref: '#/components/requestBodies/booking'}
  /me:
    put:
      requestBody:
        content:
          application/x-www-form-urlencoded:
            schema: {type: object, properties: {name: {type: string, minLength: 1}}}
components:
  requestBodies:
    booking:
      content:
        application/json:
          schema: %s
`, strings.ReplaceAll(strings.ReplaceAll(booking, "\n", " "), "#/$defs/extra", "#/components/requestBodies/booking/content/application~1json/schema/$defs/extra"))
	r, err := jsonschema.Parse([]byte(api), "")
	require.NoError(t, err)
	require.Equal(t, []string{"POST /bookings", "PUT /me"}, r.Operations)
	require.Len(t, r.Draft.Fields, 8)
	r, err = jsonschema.Parse([]byte(api), "PUT /me")
	require.NoError(t, err)
	require.Equal(t, []string{`name {"length":{"min":1}}`}, lines(r.Draft))
	require.Equal(t, spec.Submit{Method: "PUT", To: "/me", Encoding: "urlencoded"}, r.Draft.Form[0].Value)
}

func TestWhatCannotBeReadIsSaidWithItsPlace(t *testing.T) {
	t.Parallel()
	for text, says := range map[string]string{
		"": "the document is empty",
		`{"type": "object", "properties": {"a": {"$ref": "#/$defs/a"}}, "$defs": {"a": {"properties": {"b": {"$ref": "#/$defs/a"}}}}}`: "/properties/a/properties/b: the reference #/$defs/a leads back to itself",
		`{"properties": {"a": {"$ref": "#/none"}}}`:                                           "/properties/a: the reference #/none leads nowhere",
		`{"properties": {"a": {"$ref": "http://other.test/schema"}}}`:                         "leads out of the document",
		`{"properties": {"a": {"$ref": "#/$defs/x"}}, "$defs": {"x": {"$ref": "#/$defs/x"}}}`: "leads back to itself",
		`[1]`:                  "a JSON object is expected",
		"a: [b":                "line 1",
		`{"type": "string"}`:   "an object with properties is expected",
		`{"openapi": "3.1.0"}`: "no request has a body",
		`{"swagger": "2.0"}`:   "convert the document to OpenAPI 3",
		strings.Repeat(`{"properties":{"a":`, 30) + `{}` + strings.Repeat("}}", 30): "more than 20 deep",
	} {
		_, err := jsonschema.Parse([]byte(text), "")
		var wrong *jsonschema.Error
		require.True(t, errors.As(err, &wrong), "%s: %v", text, err)
		require.Contains(t, err.Error(), says, text)
	}
}

// TestAttackReferencesThatLeadOut: neither an address nor a file that a schema refers to is opened.
func TestAttackReferencesThatLeadOut(t *testing.T) {
	t.Parallel()
	var asked atomic.Int32
	far := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		asked.Add(1)
		_, _ = w.Write([]byte(`{"type": "object", "properties": {"from_afar": {"type": "string"}}}`))
	}))
	defer far.Close()
	file := filepath.Join(t.TempDir(), "near.json")
	require.NoError(t, os.WriteFile(file, []byte(`{"type": "object", "properties": {"from_a_file": {"type": "string"}}}`), 0o600))
	for _, to := range []string{far.URL, far.URL + "#/properties/from_afar", "//" + strings.TrimPrefix(far.URL, "http://"), "file://" + file, file, "near.json", "../../etc/passwd"} {
		for _, text := range []string{
			`{"type": "object", "properties": {"a": {"$ref": ` + strconv.Quote(to) + `}}}`,
			`{"$id": ` + strconv.Quote(far.URL) + `, "$schema": ` + strconv.Quote(to) + `, "allOf": [{"$ref": ` + strconv.Quote(to) + `}], "properties": {"a": {"type": "string"}}}`,
		} {
			_, err := jsonschema.Parse([]byte(text), "")
			require.ErrorContains(t, err, "leads out of the document", text)
			require.NotContains(t, err.Error(), "from_a_file")
		}
	}
	require.Zero(t, asked.Load())
}

func FuzzReadSchema(f *testing.F) {
	f.Add([]byte(booking))
	f.Add([]byte("openapi: 3.1.0\npaths: {/a: {post: {requestBody: {content: {application/json: {schema: {$ref: '#'}}}}}}}"))
	f.Fuzz(func(t *testing.T, text []byte) {
		r, err := jsonschema.Parse(text, "")
		if err == nil && r.Draft == nil {
			t.Fatal("neither a draft nor an error")
		}
	})
}
