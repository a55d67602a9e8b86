package document_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"oddtick/core/document"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

func formerDocument(t testing.TB) []byte {
	text, err := os.ReadFile("testdata/former/plot.yaml")
	require.NoError(t, err)
	return text
}

// TestFormerKeysAndValuesAreRewritten: every key and value that was renamed, in every style of YAML, with the comments in their places.
func TestFormerKeysAndValuesAreRewritten(t *testing.T) {
	t.Parallel()
	want, err := os.ReadFile("testdata/former/plot.migrated.yaml")
	require.NoError(t, err)
	got, migrated, err := document.Migrate("plot.yaml", formerDocument(t))
	require.NoError(t, err)
	require.True(t, migrated)
	require.Equal(t, string(want), string(got))
	again, migrated, err := document.Migrate("plot.yaml", got)
	require.NoError(t, err)
	require.False(t, migrated, "the second time there is nothing to change")
	require.Equal(t, string(got), string(again))
}

// TestFormerKeysAreRefusedWithTheirPresentName, each at its place.
func TestFormerKeysAreRefusedWithTheirPresentName(t *testing.T) {
	t.Parallel()
	_, err := spec.ReadProject([]spec.File{{Name: "plot.yaml", Text: formerDocument(t)}})
	for _, says := range []string{
		`the key "sent" is now called "normalize"`, `the key "agrees" is now called "same_as"`, `the key "signed in" is now called "signed_in"`, `the key "layer" is now called "layers"`,
		`the kind "trap" is now called "honeypot"`, `the key "off" is now called "skip"`, `plot.yaml:4:1: phases: "in order" is now called "in_order"`, "run oddtick migrate with the file",
	} {
		require.ErrorContains(t, err, says)
	}
	now, _, err := document.Migrate("plot.yaml", formerDocument(t))
	require.NoError(t, err)
	_, err = spec.ReadProject([]spec.File{{Name: "plot.yaml", Text: now}})
	require.NotContains(t, err.Error(), "is now called")
	require.NotContains(t, err.Error(), "is not known here")
}

func TestDocumentsInJSONAreMigrated(t *testing.T) {
	t.Parallel()
	got, migrated, err := document.Migrate("f.json", []byte(`{"form": "f", "page": "/", "fields": [{"name": "a", "sent": ["trim", "strip -"], "kind": "one choice",
  "rules": [{"required": {"say": "No."}}, {"required": {"layer": "browser", "say": "No."}}, {"ticked": {}}]}], "unanswered": {"network lost": "Lost."}}`))
	require.NoError(t, err)
	require.True(t, migrated)
	require.JSONEq(t, `{"form": "f", "page": "/", "fields": [{"name": "a", "normalize": ["trim", {"strip": "-"}], "kind": "single_choice",
  "rules": [{"required": {"layers": ["server", "browser"], "ids": {"browser": "required_2"}, "message": "No."}}, {"must_be_checked": {"id": "ticked"}}]}], "on_failure": {"network_lost": "Lost."}}`, string(got))
}

// TestRulesOfSeveralLayersAreMergedOnlyWhereNothingElseChanges: not where they differ, and not where the order in a layer would.
func TestRulesOfSeveralLayersAreMergedOnlyWhereNothingElseChanges(t *testing.T) {
	t.Parallel()
	for name, rules := range map[string][2]string{
		"another message": {"{required: {say: A}}, {required: {layer: browser, say: B}}", "{required: {message: A}}, {required: {layers: [browser], message: B}}"},
		"the same layer":  {"{length: {max: 3}}, {length: {max: 3}}", "{length: {max: 3}}, {length: {max: 3}}"},
		"another order": {
			"{required: {}}, {length: {max: 3}}, {length: {layer: browser, max: 3}}, {required: {layer: browser}}",
			"{required: {}}, {length: {layers: [server, browser], ids: {browser: length_2}, max: 3}}, {required: {layers: [browser]}}",
		},
		"an id that is counted": {
			"{required: {}}, {required: {layer: browser}}, {required: {say: B, when: a}}",
			"{required: {layers: [server, browser], ids: {browser: required_2}}}, {required: {id: required_3, message: B, when: a}}",
		},
		"in three layers": {
			"{required: {layer: browser}}, {required: {}}, {required: {layer: database}}",
			"{required: {ids: {browser: required, database: required_3, server: required_2}, layers: [browser, server, database]}}",
		},
	} {
		got, _, err := document.Migrate("f.yaml", []byte("form: f\npage: /\nfields: [{name: a, rules: ["+rules[0]+"]}]\n"))
		require.NoError(t, err)
		require.Equal(t, "form: f\npage: /\nfields: [{name: a, rules: ["+rules[1]+"]}]\n", string(got), name)
	}
}

// TestMergedRulesKeepTheirIDs: what the reader makes of the one rule is what it made of the several.
func TestMergedRulesKeepTheirIDs(t *testing.T) {
	t.Parallel()
	got, _, err := document.Migrate("f.yaml", []byte("form: f\npage: /\nfields: [{name: a, rules: [{required: {layer: browser, id: first}}, {required: {}}, {required: {when: a == 'x'}}]}]\n"))
	require.NoError(t, err)
	form, err := spec.ReadForm("f.yaml", got)
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	var ids []string
	for _, r := range p.Rules {
		ids = append(ids, r.ID+" "+string(r.Layer))
	}
	require.Equal(t, []string{"a.first browser", "a.required_2 server", "a.required_3 server"}, ids)
}

func TestShippedDocumentsAreNotChanged(t *testing.T) {
	t.Parallel()
	files, err := filepath.Glob("../../examples/ostlewick/*.yaml")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files {
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		_, migrated, err := document.Migrate(file, text)
		require.NoError(t, err)
		require.False(t, migrated, file)
	}
}

// FuzzMigrate: whatever is read as YAML still is, and is changed once only.
func FuzzMigrate(f *testing.F) {
	f.Add(string(formerDocument(f)))
	f.Add("form: a\nfields: [{rules: [ticked: {}, {ticked: }]}]")
	f.Add("site: a\nsign in: &a {page: /}\nsign out: *a")
	f.Fuzz(func(t *testing.T, text string) {
		once, migrated, err := document.Migrate("f.yaml", []byte(text))
		if err != nil || !migrated || strings.Contains(text, "\t") {
			return
		}
		_, err = spec.Documents("f.yaml", once)
		require.NoError(t, err, "%q became %q", text, once)
	})
}
