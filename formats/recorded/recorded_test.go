package recorded_test

import (
	"fmt"
	"strings"
	"testing"

	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/spec"
	"oddtick/formats/recorded"

	"github.com/stretchr/testify/require"
)

// fields are what a request has, each as name kind label.
func fields(d *draft.Draft) (out []string) {
	for _, f := range d.Fields {
		out = append(out, fmt.Sprintf("%s %v %v", f.Name, f.Statements[1].Value, f.Statements[0].Value))
	}
	return out
}

func TestACommandLineIsRead(t *testing.T) {
	t.Parallel()
	for text, want := range map[string][]string{
		`curl 'http://127.0.0.1:4650/join' -X POST -H 'Cookie: sid=abc' --data-raw 'username=fern&e_mail=fern%40moss.test&pass=brook%20side&born_on=1974-03-07&_token=xyz'`: {
			"username text Username", "e_mail email E mail", "pass password Pass", "born_on date Born on",
		},
		"curl \\\n  --json '{\"fullName\": \"Fern\", \"plots\": 2, \"news\": true, \"uses\": [\"a\"]}' http://127.0.0.1/api/x": {
			"fullName text Full name", "plots number Plots", "news checkbox News", "uses text Uses",
		},
		`curl -F who=Fern -F picture=@leaf.png http://127.0.0.1/up`: {"who text Who", "picture file Picture"},
		`curl http://127.0.0.1/x -d $'note=It\'s\none'`:             {"note textarea Note"},
		`curl http://127.0.0.1/x -d "a=1" -d tags=x -d tags=y`:      {"a text A", "tags text Tags"},
	} {
		list, err := recorded.Read(text)
		require.NoError(t, err, text)
		require.Len(t, list, 1)
		require.Equal(t, want, fields(list[0].Draft("http://127.0.0.1:4650")), text)
	}
}

func TestWhatIsReadMakesADocument(t *testing.T) {
	t.Parallel()
	list, err := recorded.Read(`curl 'http://127.0.0.1:4650/join' --data-raw 'username=fern&_token=xyz'`)
	require.NoError(t, err)
	text := []byte("form: join\npage: /join\n")
	form, err := spec.ReadForm("", text)
	require.NoError(t, err)
	for _, p := range draft.Propose(form, list[0].Draft("")) {
		require.True(t, p.Chosen)
		text, err = document.Apply(text, p.Edits)
		require.NoError(t, err)
	}
	form, err = spec.ReadForm("", text)
	require.NoError(t, err)
	require.Equal(t, spec.Submit{Method: "POST", To: "/join", Encoding: "urlencoded"}, form.Submit)
	require.Equal(t, "username", form.Fields[0].Name)
	require.Equal(t, spec.Names{"_token"}, form.Token)
	require.NotContains(t, string(text), "xyz")
}

func TestAnArchiveIsRead(t *testing.T) {
	t.Parallel()
	list, err := recorded.Read(`{"log": {"entries": [
		{"request": {"method": "GET", "url": "http://127.0.0.1/join"}, "response": {"status": 200}},
		{"request": {"method": "POST", "url": "http://127.0.0.1/join", "postData": {"mimeType": "application/x-www-form-urlencoded", "params": [{"name": "who", "value": "Fern+Moss"}]}}, "response": {"status": 303, "redirectURL": "http://127.0.0.1/welcome?x=1"}},
		{"request": {"method": "PUT", "url": "http://127.0.0.1/api", "postData": {"mimeType": "application/json; charset=utf-8", "text": "{\"b\": 1, \"a\": null}"}}, "response": {"status": 422}}]}}`)
	require.NoError(t, err)
	require.Len(t, list, 2)
	require.Equal(t, "POST /join", list[0].String())
	require.Equal(t, "Fern Moss", list[0].Members[0].Value)
	said := map[string]any{}
	for _, s := range list[0].Draft("http://other.test").Form {
		said[s.Path] = s.Value
	}
	require.Equal(t, 303, said["accepted.status"])
	require.Equal(t, "/welcome?x=1", said["accepted.to"])
	require.Contains(t, string(list[0].Draft("http://other.test").Notes[0]), "127.0.0.1")
	require.Equal(t, []string{"b number B", "a text A"}, fields(list[1].Draft("")))
}

func TestWhatIsNoRecordingIsSaid(t *testing.T) {
	t.Parallel()
	for text, problem := range map[string]string{
		"wget x":                                "neither an HTTP Archive",
		"{":                                     "no HTTP Archive",
		"{}":                                    "there is no log",
		"curl http://127.0.0.1/x":               "no request in it sends fields",
		"curl 'x":                               "not closed",
		"curl -d a=b":                           "names no address",
		strings.Repeat(" ", recorded.MaxText+1): "larger than",
	} {
		_, err := recorded.Read(text)
		require.ErrorContains(t, err, problem)
	}
}

func FuzzReadRequest(f *testing.F) {
	f.Add(`curl http://127.0.0.1/x -d $'a=\\'' --json '{"a": [1]}'`)
	f.Add(`{"log": {"entries": [{"request": {"postData": {"mimeType": "multipart/form-data; boundary=x", "text": "--x"}}}]}}`)
	f.Fuzz(func(_ *testing.T, text string) {
		list, err := recorded.Read(text)
		for i := range list {
			if err == nil {
				list[i].Draft("http://127.0.0.1")
			}
		}
	})
}
