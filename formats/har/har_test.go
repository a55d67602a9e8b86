package har_test

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"
	"time"

	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/formats/har"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"
)

// followsHAR holds a file against the JSON Schema of HAR 1.2, as the package har-schema has it.
func followsHAR(t *testing.T, text []byte) error {
	files, err := filepath.Glob("../../web/node_modules/har-schema/lib/*.json")
	require.NoError(t, err)
	require.NotEmpty(t, files, "make test installs the schema")
	c := jsonschema.NewCompiler()
	c.AssertFormat()
	for _, file := range files {
		in, err := os.Open(file)
		require.NoError(t, err)
		schema, err := jsonschema.UnmarshalJSON(in)
		in.Close()
		require.NoError(t, err)
		require.NoError(t, c.AddResource("http://har.test/"+filepath.Base(file), schema))
	}
	schema, err := c.Compile("http://har.test/har.json")
	require.NoError(t, err)
	file, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	require.NoError(t, err)
	return schema.Validate(file)
}

func TestACaseIsWrittenWithoutItsSecrets(t *testing.T) {
	t.Parallel()
	secret := `Maple & "row" 42`
	at := time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC)
	r := &report.Result{Case: "join/form.usual/http", Steps: []report.StepResult{{Do: "submit", Observation: &observation.Step{
		At:   at,
		Sent: &submission.Submission{Pairs: []submission.Pair{{Name: "user", Value: "fern"}, {Name: "pass", Value: secret}}},
		Exchanges: []observation.Exchange{
			{
				Method: "POST", URL: "http://site.test/join", RequestHeader: []observation.Header{{Name: "Content-Type", Value: "application/x-www-form-urlencoded"}},
				RequestBody: "user=fern&pass=Maple+%26+%22row%22+42", Status: 303, Location: "http://site.test/list?p=Maple+%26+%22row%22+42", Took: 40 * time.Millisecond,
			},
			{Method: "GET", URL: "http://site.test/list?p=Maple+%26+%22row%22+42", Status: 200, Body: `<p>Maple &amp; &#34;row&#34; 42</p> {"pass": "Maple & \"row\" 42"}`, ResponseHeader: []observation.Header{{Name: "content-type", Value: "text/html"}}, Took: 5 * time.Millisecond, NotFollowed: "x"},
		},
	}}, {Do: "reload"}}}
	var b bytes.Buffer
	require.NoError(t, har.Write(&b, r, []string{"pass"}))
	require.NotContains(t, b.String(), "Maple")
	require.NoError(t, followsHAR(t, b.Bytes()))
	require.ErrorContains(t, followsHAR(t, bytes.Replace(b.Bytes(), []byte(`"headersSize"`), []byte(`"headers_size"`), 1)), "headersSize", "the schema lets anything pass")
	var got struct {
		Log struct {
			Version string
			Pages   []struct{ ID, Title string }
			Entries []struct {
				Pageref         string
				StartedDateTime time.Time
				Time            float64
				Request         struct {
					Method, URL string
					PostData    struct{ MimeType, Text string }
					QueryString []struct{ Name, Value string }
				}
				Response struct {
					Status      int
					RedirectURL string
					Content     struct {
						Text     string
						MimeType string
					}
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal(b.Bytes(), &got))
	require.Equal(t, "1.2", got.Log.Version)
	require.Len(t, got.Log.Pages, 1, "a step that was not made has no page")
	require.Len(t, got.Log.Entries, 2)
	first, second := got.Log.Entries[0], got.Log.Entries[1]
	require.Equal(t, "user=fern&pass=•••", first.Request.PostData.Text)
	require.Equal(t, 303, first.Response.Status)
	require.Equal(t, "http://site.test/list?p=•••", first.Response.RedirectURL)
	require.InDelta(t, 40, first.Time, 0.01)
	require.Equal(t, at.Add(40*time.Millisecond), second.StartedDateTime)
	require.Equal(t, "p", second.Request.QueryString[0].Name)
	require.Equal(t, `<p>•••</p> {"pass": "•••"}`, second.Response.Content.Text)
	require.Equal(t, "text/html", second.Response.Content.MimeType)
}
