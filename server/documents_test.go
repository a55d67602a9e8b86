package server_test

import (
	"encoding/json"
	"io"
	"net/http"
	"os"
	"strings"
	"testing"

	"oddtick/core/document"

	"github.com/stretchr/testify/require"
)

const joinAt = "/api/sites/ost/forms/join"

func (c *client) document() (revision int, text string) {
	var v struct {
		Revision int
		Text     string
	}
	require.Equal(c.t, 200, c.get(joinAt+"/document", &v))
	return v.Revision, v.Text
}

func (c *client) edits(base int, preview bool, edits ...document.Edit) (int, []byte) {
	status, _, body := c.send(http.MethodPost, joinAt+"/edits", map[string]any{"base": base, "edits": edits, "preview": preview})
	return status, body
}

func set(path, value string) document.Edit {
	return document.Edit{Do: document.Set, Path: path, Value: json.RawMessage(value)}
}

func TestAnEditChangesItsPlaceAndSaysWhatComesOfIt(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	_, before := c.document()
	status, body := c.edits(1, true, set("fields[username].rules[length].max", "30"))
	require.Equal(t, 200, status, string(body))
	require.True(t, strings.HasPrefix(string(body), `{"revision":1,"differences":["Username, length, max: 30 instead of 20"],"cases":{"before":166,"after":166,"added":0,"retired":0,"changed":9},"rows":[{"id":"username"`), string(body))
	require.Contains(t, string(body), `"label":"31"`, "the scale as it would be")
	revision, text := c.document()
	require.Equal(t, 1, revision, "a preview saves nothing")
	require.Equal(t, before, text)

	_, body = c.edits(1, true, set("fields[username].rules[length].message", `"Three to twenty."`))
	require.Regexp(t, `"added":0,"retired":0,"changed":[1-9]`, string(body), "another message is expected of those that break the rule")
	_, body = c.edits(1, true, set("accepted.reply", `"Come in."`))
	require.Regexp(t, `"added":0,"retired":0,"changed":[1-9]\d`, string(body), "and another reply of those that are accepted")
	_, body = c.edits(1, true, set("fields[username].label", `"Your name"`))
	require.Contains(t, string(body), `"changed":0`)

	status, body = c.edits(1, false, set("fields[username].rules[length].max", "30"), document.Edit{Do: document.Remove, Path: "fields[plots].rules[step]"})
	require.Equal(t, 200, status, string(body))
	var answer struct {
		Revision int
		Cases    struct{ Added, Retired, Changed int }
	}
	require.NoError(t, json.Unmarshal(body, &answer))
	require.Equal(t, 2, answer.Revision)
	require.Positive(t, answer.Cases.Retired, "cases between two steps are gone")
	_, text = c.document()
	after := strings.Replace(strings.Replace(before, "max: 20, message: \"Use 3", "max: 30, message: \"Use 3", 1), "      - step: {by: 1, message: \"Plots are given whole.\"}\n", "", 1)
	require.Equal(t, after, text, "all else is the same bytes")

	var revisions []struct {
		Number      int
		SavedBy     string `json:"saved_by"`
		Differences []string
	}
	require.Equal(t, 200, c.get(joinAt+"/revisions", &revisions))
	require.Len(t, revisions, 2)
	require.Equal(t, 200, c.get(joinAt+"/revisions?after=1", &revisions))
	require.Len(t, revisions, 1, "what is new since the first")
	require.Equal(t, 200, c.get(joinAt+"/revisions", &revisions))
	require.Equal(t, "tester", revisions[0].SavedBy)
	require.Equal(t, []string{"Username, length, max: 30 instead of 20", "Plots wanted: rule step removed"}, revisions[0].Differences)

	// back to the first
	status, _, body = c.send(http.MethodPost, joinAt+"/revisions/1/restore", map[string]any{"base": 2})
	require.Equal(t, 200, status, string(body))
	revision, text = c.document()
	require.Equal(t, 3, revision)
	require.Equal(t, before, text)
}

func TestTheSecondOfTwoIsToldWhatChanged(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	status, _ := c.edits(1, false, set("fields[username].label", `"Your name"`))
	require.Equal(t, 200, status)
	status, body := c.edits(1, false, set("fields[email].label", `"Mail"`))
	require.Equal(t, 409, status)
	require.Contains(t, string(body), "Revision 2 was saved in the meantime by tester: Your name, label: “Your name” instead of “Username”.")
	_, text := c.document()
	require.NotContains(t, text, "label: Mail")
	status, _ = c.edits(2, false, set("fields[email].label", `"Mail"`))
	require.Equal(t, 200, status, "made on top of the other's")
}

func TestAWrongEditChangesNothing(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	for edit, says := range map[string]string{
		"fields[nobody].label": `there is no \"nobody\" in fields`, "fields[username].colour": `the key \"colour\" is not known here`, "fields[username].kind": `the kind \"x\" is not known`, "form": "cannot change",
		"fields[username].rules[pattern].is": "is not known",
	} {
		value := `"x"`
		if strings.HasSuffix(edit, ".is") {
			value, says = `"[a-"`, "pattern"
		}
		status, body := c.edits(1, false, set(edit, value))
		require.Equal(t, 422, status, edit)
		require.Contains(t, string(body), says)
	}
	revision, _ := c.document()
	require.Equal(t, 1, revision)
}

// TestAProjectFileComesBackAsTheSameBytes: out of one server, into another, and out of that.
func TestAProjectFileComesBackAsTheSameBytes(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	join, err := os.ReadFile("../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	project := "# a site\nsite: fen   # its id\ntitle: Marrow Fen Ferry\naddress: http://127.0.0.1:9\n---\n" + string(join) + "---\n{\"form\": \"other\", \"page\": \"/x\"}\n"
	take := func(text string) (int, string) {
		req, err := http.NewRequest(http.MethodPost, c.address+"/api/projects", strings.NewReader(text))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/yaml")
		req.Header.Set("X-Oddtick-Token", c.token)
		res, err := c.http.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		var b strings.Builder
		_, _ = b.WriteString(res.Status)
		return res.StatusCode, b.String()
	}
	status, says := take(project)
	require.Equal(t, 200, status, says)
	status, _, body := c.send(http.MethodGet, "/api/sites/fen/project", nil)
	require.Equal(t, 200, status)
	require.Equal(t, project, string(body))
	status, _ = take(strings.Replace(project, "page: /join", "page: [x]", 1))
	require.Equal(t, 422, status)
	status, _, body = c.send(http.MethodGet, "/api/sites/fen/project", nil)
	require.Equal(t, 200, status)
	require.Equal(t, project, string(body), "nothing was taken in of a wrong file")
}

// putSettings changes the settings as they are now.
func (c *client) putSettings(body any) (int, http.Header, []byte) {
	text, err := json.Marshal(body)
	require.NoError(c.t, err)
	version := c.ask(http.MethodGet, "/api/sites/ost/settings", "", nil).Header.Get("ETag")
	return c.answer(c.ask(http.MethodPut, "/api/sites/ost/settings", string(text), map[string]string{"If-Match": version}))
}

func (c *client) answer(res *http.Response) (int, http.Header, []byte) {
	text, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	return res.StatusCode, res.Header, text
}

// TestTheSecondOfTwoEditorsIsTold what differs, and nothing of the first one's is lost.
func TestTheSecondOfTwoEditorsIsTold(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	const at = "/api/sites/ost/settings"
	put := func(version, body string) (int, string, string) {
		status, header, text := c.answer(c.ask(http.MethodPut, at, body, map[string]string{"If-Match": version}))
		return status, header.Get("ETag"), string(text)
	}
	version := c.ask(http.MethodGet, at, "", nil).Header.Get("ETag")
	status, next, says := put(version, `{"site": "ost", "title": "First", "address": "http://127.0.0.1:9", "databases": [{"id": "main"}]}`)
	require.Equal(t, 200, status, says)
	require.NotEqual(t, version, next)
	status, _, says = put(version, `{"site": "ost", "title": "Second", "address": "http://127.0.0.1:9", "databases": [{"id": "main"}], "max_parallel": 2}`)
	require.Equal(t, 409, status)
	require.Contains(t, says, "differ from yours in: title, max_parallel")
	status, _, _ = put("", `{"site": "ost", "address": "http://127.0.0.1:9"}`)
	require.Equal(t, 428, status)
	status, _, says = put(next, `{"site": "ost", "title": "Third", "address": "http://127.0.0.1:9", "databases": [{"id": "main"}]}`)
	require.Equal(t, 200, status, says)
	require.Contains(t, says, "Third")
}

// TestASitesDocumentIsReplacedAsText: problems with their places, the reader's short forms, secrets that stay, and the second of two editors.
func TestASitesDocumentIsReplacedAsText(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	const at = "/api/sites/ost/document"
	put := func(version, text string, preview bool) (int, string, string) {
		body, err := json.Marshal(map[string]any{"text": text, "preview": preview})
		require.NoError(t, err)
		status, header, says := c.answer(c.ask(http.MethodPut, at, string(body), map[string]string{"If-Match": version}))
		return status, header.Get("ETag"), string(says)
	}
	read := func() (string, string) {
		var got struct{ Text string }
		res := c.ask(http.MethodGet, at, "", nil)
		status, header, body := c.answer(res)
		require.Equal(t, 200, status)
		require.NoError(t, json.Unmarshal(body, &got))
		return header.Get("ETag"), got.Text
	}
	version, before := read()
	require.Contains(t, before, "site: ost")
	require.NotContains(t, before, "tcp(")

	status, _, says := put(version, "site: ost\naddress: http://127.0.0.1:9\ncolour: green\n", true)
	require.Equal(t, 422, status)
	require.Contains(t, says, `"value":{"line":3,"column":1}`)
	require.Contains(t, says, "known are: ", "with the remedy")
	for text, why := range map[string]string{
		"site: other\naddress: http://127.0.0.1:9\n": "cannot change", "form: x\npage: /x\n": "not the document of one site",
		"site: ost\naddress: ftp://127.0.0.1\n": "must begin with http", "site: [\n": "line", "site: ost\naddress: http://elsewhere.test\n": "may not contact",
	} {
		status, _, says := put(version, text, false)
		require.Equal(t, 422, status, text)
		require.Contains(t, says, why)
	}
	unchanged, text := read()
	require.Equal(t, version, unchanged)
	require.Equal(t, before, text)

	next := "# kept\nsite: ost\ntitle: Third\naddress: http://127.0.0.1:9\ndatabases: [{id: main}]\njourneys: [{id: a, steps: [{open: /x, message: Welcome}]}]\n"
	status, _, says = put(version, next, true)
	require.Equal(t, 200, status, says)
	_, text = read()
	require.Equal(t, before, text, "a preview saves nothing")
	status, fresh, says := put(version, next, false)
	require.Equal(t, 200, status, says)
	require.NotEqual(t, version, fresh)
	_, text = read()
	require.Contains(t, text, "# kept")
	require.Contains(t, text, "title: Third")
	var settings struct {
		Kept struct{ Databases []struct{ ID, Name string } }
	}
	require.Equal(t, 200, c.get("/api/sites/ost/settings", &settings))
	require.Len(t, settings.Kept.Databases, 1)
	require.Equal(t, "main", settings.Kept.Databases[0].ID, "a secret that the text does not hold stays")
	status, _, says = put(version, next, false)
	require.Equal(t, 409, status)
	require.Contains(t, says, "saved in the meantime")
	status, _, _ = put("", next, false)
	require.Equal(t, 428, status)
}

// TestTheSchemasOfDocumentsAreAnswered: those that are published.
func TestTheSchemasOfDocumentsAreAnswered(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	for _, name := range []string{"form", "site"} {
		published, err := os.ReadFile("../api/" + name + ".schema.json")
		require.NoError(t, err)
		status, _, body := c.send(http.MethodGet, "/api/schemas/"+name, nil)
		require.Equal(t, 200, status)
		require.JSONEq(t, string(published), string(body))
	}
	status, _, _ := c.send(http.MethodGet, "/api/schemas/other", nil)
	require.Equal(t, 422, status)
}

func TestSecretsGoInAndNeverComeOut(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	put := map[string]any{
		"site": "ost", "title": "Ostlewick", "address": "http://127.0.0.1:9", "headers": map[string]string{"X-Stage": "very-secret-1"}, "authentication": map[string]string{"user": "u", "password": "very-secret-2"},
		"databases": []map[string]string{{"id": "main"}}, "accounts": []map[string]string{{"id": "a", "name": "amy", "password": "very-secret-3"}},
		"environments": []map[string]any{{"id": "live", "address": "http://127.0.0.1:10", "accounts": []map[string]string{{"id": "a", "name": "amy", "password": "very-secret-4"}}}},
	}
	status, _, body := c.putSettings(put)
	require.Equal(t, 200, status, string(body))
	status, _, project := c.send(http.MethodGet, "/api/sites/ost/project", nil)
	require.Equal(t, 200, status)
	for _, text := range []string{string(body), string(project)} {
		require.NotContains(t, text, "very-secret")
		require.NotContains(t, text, "tcp(")
		require.Contains(t, text, "amy")
	}
	require.Regexp(t, `"kept":\{"databases":\[\{"id":"main","kind":"mariadb","host":"127.0.0.1","port":"\d+","name":"\w+"\}\],"accounts":\["a"\],"headers":\["X-Stage"\],"authentication":true\},"kept_at":\{"live":\{"databases":\[\],"accounts":\["a"\],"headers":\[\],"authentication":false\}\}`, string(body), "where a database is, and no user or password")
	put["address"] = "ftp://x"
	status, _, body = c.putSettings(put)
	require.Equal(t, 422, status)
	require.Contains(t, string(body), "must begin with http")
}

// TestAttackSecretsOfOneAddressForAnother: what was entered for an address is asked for again for another one.
func TestAttackSecretsOfOneAddressForAnother(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	site := func(address, secret string) map[string]any {
		return map[string]any{
			"site": "ost", "address": address, "headers": map[string]string{"X-Stage": secret}, "authentication": map[string]string{"user": "u", "password": secret},
			"databases": []map[string]string{{"id": "main"}}, "accounts": []map[string]string{{"id": "a", "name": "amy", "password": secret}},
		}
	}
	put := func(body map[string]any) (int, string) {
		status, _, text := c.putSettings(body)
		return status, string(text)
	}
	status, says := put(site("http://127.0.0.1:9", "very-secret"))
	require.Equal(t, 200, status, says)
	status, says = put(site("http://127.0.0.1:9/", ""))
	require.Equal(t, 200, status, says)
	for _, elsewhere := range []string{"http://127.0.0.1:10", "https://127.0.0.1:9", "http://localhost:9"} {
		status, says = put(site(elsewhere, ""))
		require.Equal(t, 422, status, elsewhere)
		require.Contains(t, says, "the password of HTTP's authentication, the password of the account a, the header X-Stage")
	}
	status, says = put(map[string]any{"site": "ost", "address": "http://127.0.0.1:10", "databases": []map[string]string{{"id": "main"}}})
	require.Equal(t, 200, status, says)
	require.Regexp(t, `"kept":\{"databases":\[\{"id":"main",[^{}]*\}\],"accounts":\[\],"headers":\[\],"authentication":false\}`, says)
	status, says = put(site("http://127.0.0.1:9", ""))
	require.Equal(t, 200, status, says)
	require.Contains(t, says, `"accounts":[],"headers":[],"authentication":false`, "they are gone for good")
}

// TestAttackAProjectGoesThroughEveryCheck, as settings do.
func TestAttackAProjectGoesThroughEveryCheck(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	for text, want := range map[string]string{
		"address: file:///etc/passwd": "must begin with http", "address: http://u:p@127.0.0.1:9": "holds a name or a password", "address: http://169.254.169.254": "may not contact",
		"address: http://127.0.0.1:9\nallowed: [evil.example]":                                                   "may not contact",
		"address: http://127.0.0.1:9\ndatabases: [{id: main, dsn: 'root@unix(/run/db.sock)/oddtick'}]":           "leads to unix",
		"address: http://127.0.0.1:9\ndatabases: [{id: main, dsn: 'file:/etc/passwd'}]":                          "may not open the file",
		"address: http://127.0.0.1:9\ndatabases: [{id: main, dsn: 'a:b@tcp(127.0.0.1:1)/x?allowAllFiles=true'}]": "allowAllFiles",
	} {
		res := c.ask("POST", "/api/projects", "site: fen\n"+text+"\n", map[string]string{"Content-Type": "application/yaml"})
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, 422, res.StatusCode, text)
		require.Contains(t, string(body), want, text)
		require.Equal(t, 404, c.get("/api/sites/fen/settings", nil), "nothing is kept")
	}
}

// TestWaysInByTheAPI: a page with its forms, tables live and as SQL, a trace, a try; and what is refused of each.
func TestWaysInByTheAPI(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	post := func(path string, body any) (int, string) {
		status, _, out := c.send(http.MethodPost, joinAt+path, body)
		return status, string(out)
	}
	status, body := post("/imports/page", map[string]any{})
	require.Equal(t, 200, status, body)
	require.Contains(t, body, "Join the association (")
	status, body = post("/imports/tables", map[string]any{})
	require.Equal(t, 200, status, body)
	require.Contains(t, body, `"table":"plot_holders"`)
	status, body = c.contradictions()
	require.Equal(t, 200, status)
	require.Contains(t, body, `"contradictions":[]`, "the shipped form against the practice site's page and tables")
	require.Contains(t, body, "plot_holders.login_name varchar(20), NOT NULL, unique, ignoring case, at most 80 bytes in utf8mb4")
	for _, wrong := range []struct{ path, key, value, says string }{
		{"/imports/page", "path", "http://192.0.2.1/join", "192.0.2.1 is not among the site's allowed addresses"},
		{"/imports/page", "path", "/none", "answers with status 404"},
		{"/imports/page", "html", "no page", "not HTML"},
		{"/imports/page", "html", "<p>no form</p>", "has no form"},
		{"/imports/tables", "sql", "CREATE TABLE a (\n b nothing of the kind);", "line 2"},
		{"/imports/schema", "text", `{"properties":{"a":{"$ref":"#"}}}`, "leads back to itself"},
		{"/imports/list", "text", "name,max length\na,b", "line 2"},
	} {
		body := map[string]any{wrong.key: wrong.value}
		if wrong.path == "/imports/list" {
			body["columns"] = []string{}
		}
		status, out := post(wrong.path, body)
		require.Equal(t, 422, status, out)
		require.Contains(t, out, wrong.says)
	}
	values := map[string][]string{"username": {"maple-row-1"}, "email": {"a@example.test"}, "password": {"brook-side-42"}, "again": {"brook-side-42"}, "born": {"1974-03-07"}, "plots": {"9"}, "terms": {"yes"}, "membership": {""}, "heard": {"nb"}}
	status, body = post("/expect", map[string]any{"values": values})
	require.Equal(t, 200, status, body)
	require.Contains(t, body, `"failing":["plots.range"]`)
	require.Contains(t, body, "You can ask for 1 to 4 plots.")
	status, body = post("/try", map[string]any{"values": values})
	require.Equal(t, 200, status, body)
	require.Contains(t, body, `"headline":"Rejected, as expected"`)
	values["plots"] = []string{"2"}
	status, body = post("/try", map[string]any{"values": values})
	require.Equal(t, 200, status, body)
	require.Contains(t, body, `"headline":"Accepted, as expected"`)
	require.Contains(t, body, `"kind":"inserted"`)
}

func (c *client) contradictions() (int, string) {
	status, _, body := c.send(http.MethodGet, joinAt+"/contradictions", nil)
	return status, string(body)
}

// TestEveryWayInIsBehindTheSignIn: without a session nothing is read and nothing is submitted.
func TestEveryWayInIsBehindTheSignIn(t *testing.T) {
	t.Parallel()
	c := start(t)
	for _, path := range []string{joinAt + "/document", joinAt + "/revisions", joinAt + "/contradictions", joinAt + "/sample", "/api/sites/ost/settings", "/api/sites/ost/project"} {
		status, _, _ := c.send(http.MethodGet, path, nil)
		require.Equal(t, 401, status, path)
	}
	for _, path := range []string{joinAt + "/edits", joinAt + "/imports/page", joinAt + "/imports/tables", joinAt + "/trace", joinAt + "/try", "/api/sites", "/api/sites/ost/forms", "/api/projects", "/api/sites/ost/connection-test"} {
		status, _, _ := c.send(http.MethodPost, path, map[string]any{})
		require.Equal(t, 401, status, path)
	}
}

func TestSitesAndFormsAreBegun(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	post := func(path string, body any) (int, string) {
		status, _, out := c.send(http.MethodPost, path, body)
		return status, string(out)
	}
	status, body := post("/api/sites", map[string]any{"id": "fen", "title": "Marrow Fen Ferry", "address": "http://127.0.0.1:9"})
	require.Less(t, status, 300, body)
	status, body = post("/api/sites", map[string]any{"id": "fen", "address": "http://127.0.0.1:9"})
	require.Equal(t, 409, status, body)
	status, body = post("/api/sites", map[string]any{"id": "other", "address": "nowhere"})
	require.Equal(t, 422, status, body)
	require.Contains(t, body, "must begin with http")
	status, body = post("/api/sites", map[string]any{"id": "other", "address": "http://127.0.0.1:9", "dsn": "x"})
	require.Equal(t, 422, status, body)
	require.Contains(t, body, "DSN cannot be read")
	status, body = post("/api/sites/fen/forms", map[string]any{"id": "pass", "title": "Ferry: a pass", "page": "/pass"})
	require.Less(t, status, 300, body)
	status, body = post("/api/sites/fen/forms", map[string]any{"id": "pass", "page": "/pass"})
	require.Equal(t, 409, status, body)
	status, body = post("/api/sites/none/forms", map[string]any{"id": "pass", "page": "/pass"})
	require.Equal(t, 404, status, body)
	var v struct{ Text string }
	require.Equal(t, 200, c.get("/api/sites/fen/forms/pass/document", &v))
	require.Equal(t, "form: pass\npage: /pass\ntitle: \"Ferry: a pass\"\n", v.Text)
	status, body = post("/api/sites/fen/forms/pass/try", map[string]any{"values": map[string]any{}})
	require.Equal(t, 422, status, body)
	require.Contains(t, body, "has no fields yet")
	status, body = post("/api/sites/fen/forms/pass/imports/page", map[string]any{"html": "<form><label>One <input name=a></label></form><h2>Two</h2><form><input name=b><input name=c></form>"})
	require.Equal(t, 200, status, body)
	require.Contains(t, body, `"form":1`, "the one with most fields")
	status, body = post("/api/sites/fen/forms/pass/imports/page", map[string]any{"html": "<form><input name=a></form>", "form": 7})
	require.Equal(t, 422, status, body)
	require.Contains(t, body, "there is no form 7")
	status, body = post("/api/sites/fen/forms/pass/imports/tables", map[string]any{})
	require.Equal(t, 422, status, body)
	require.Contains(t, body, "names no database")
}

func TestMarkedValuesAreSentOnlyWhereAllowed(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	var settings struct{ Site map[string]any }
	require.Equal(t, 200, c.get("/api/sites/ost/settings", &settings))
	settings.Site["marked_values"] = false
	status, _, body := c.putSettings(settings.Site)
	require.Equal(t, 200, status, string(body))
	status, _, body = c.send(http.MethodPost, joinAt+"/trace", map[string]any{"values": map[string]any{}})
	require.Equal(t, 403, status)
	require.Contains(t, string(body), "do not allow traces")
	settings.Site["marked_values"] = true
	status, _, _ = c.putSettings(settings.Site)
	require.Equal(t, 200, status)
	values := map[string][]string{"username": {"moss-gate-9"}, "email": {"moss9@bed.test"}, "password": {"brook-side-42"}, "again": {"brook-side-42"}, "born": {"1974-03-07"}, "plots": {"2"}, "terms": {"yes"}, "membership": {"OS-0009"}, "heard": {"od"}, "website": {""}}
	status, _, body = c.send(http.MethodPost, joinAt+"/trace", map[string]any{"values": values})
	require.Equal(t, 200, status, string(body))
	var traced struct {
		Accepted bool
		Proposed struct{ Proposals []struct{ Words string } }
	}
	require.NoError(t, json.Unmarshal(body, &traced))
	require.True(t, traced.Accepted)
	require.NotContains(t, string(body), "brook-side-42", "a secret stays where it was entered")
}

func TestTheWholeTextCanBeReplaced(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	_, text := c.document()
	put := func(base int, text string, preview bool) (int, string) {
		status, _, body := c.send(http.MethodPut, joinAt+"/document", map[string]any{"base": base, "text": text, "preview": preview})
		return status, string(body)
	}
	status, body := put(1, strings.Replace(text, "max: 190", "max: 200", 1), true)
	require.Equal(t, 200, status, body)
	require.Contains(t, body, "E-mail, length, max: 200 instead of 190")
	status, body = put(1, text+"colour: red\n", false)
	require.Equal(t, 422, status)
	require.Contains(t, body, "the key \\\"colour\\\" is not known here")
	status, body = put(1, strings.Replace(text, "form: join", "form: other", 1), false)
	require.Equal(t, 422, status, body)
	status, _ = put(1, "# ours\n"+text, false)
	require.Equal(t, 200, status)
	status, _ = put(1, text, false)
	require.Equal(t, 409, status)
	revision, now := c.document()
	require.Equal(t, 2, revision)
	require.Equal(t, "# ours\n"+text, now)
}
