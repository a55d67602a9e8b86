package document_test

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"

	"oddtick/core/document"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

//go:embed testdata/shed.yaml
var commented string

func TestEditsKeepAllElse(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		do, path, value string
		at              int
		was, is         string // the only difference
	}{
		{"set", "fields[who].rules[length].max", "60", 0, "max: 40}", "max: 60}"},
		{"set", "fields[who].rules[length].in", `"bytes"`, 0, "max: 40}", "max: 40, in: bytes}"},
		{"set", "fields[who].label", `"Your name"`, 0, `label: Name & "title"`, "label: Your name"},
		{"set", "fields[who].name", `"who[0]"`, 0, `"who"   #`, `"who[0]"   #`},
		{"set", "fields[who].rules[pattern].is", `"\\d+"`, 0, "'[A-Z].*'", `'\d+'`},
		{"set", "fields[note].label", `"Note: short"`, 0, "label: >-\n      A long\n      label\n", "label: \"Note: short\"\n"},
		{"set", "fields[note].normalize", `["trim"]`, 0, "kind: textarea\n", "kind: textarea\n    normalize: [trim]\n"},
		{"set", "fields[tool].options[0].label", `"Garden spade"`, 0, "label: Spade,", "label: Garden spade,"},
		{"set", "fields[tool].rules", `[{"required":{}}]`, 0, "{value: fk}]}", "{value: fk}], rules: [{required: {}}]}"},
		{"set", "accepted.to", `"/thanks"`, 0, "to: /done", "to: /thanks"},
		{"set", "accepted.form", `"gone"`, 0, "to: /done\n", "to: /done\n  form: gone\n"},
		{"set", "title", `"yes"`, 0, "tool_code: {from: tool}\n", "tool_code: {from: tool}\ntitle: \"yes\"\n"},
		{"set", "stored[loans].columns.who", `{"from":"who","blank":null}`, 0, "{from: who} ", "{from: who, blank: null} "},
		{"set", "stored[loans].columns.made", `{"now":{"within":"5s"}}`, 0, "{from: tool}\n", "{from: tool}\n      made: {now: {within: 5s}}\n"},
		{"insert", "fields[who].rules", `{"unique":{"column":"loans.who"}}`, -1, "capital, first'}\n", "capital, first'}\n      - unique: {column: loans.who}\n"},
		{"insert", "fields[who].rules", `{"email":{}}`, 1, "      - length", "      - email: {}\n      - length"},
		{"insert", "fields", `{"id":"on","name":"on","kind":"date","rules":[{"required":{}}]}`, 2, "\n  - id: note", "\n  - id: \"on\"\n    name: \"on\"\n    kind: date\n    rules:\n      - required: {}\n  - id: note"},
		{"insert", "fields[tool].options", `{"value":"rk"}`, -1, "{value: fk}]", "{value: fk}, {value: rk}]"},
		{"insert", "across", `{"must_hold":"who != \"x\""}`, -1, "tool_code: {from: tool}\n", "tool_code: {from: tool}\nacross:\n  - {must_hold: 'who != \"x\"'}\n"},
		{"remove", "fields[who].rules[length]", "", 0, "      - length: {min: 2, max: 40}\n", ""},
		{"remove", "fields[who].rules[length].min", "", 0, "{min: 2, max", "{max"},
		{"remove", "fields[who].rules[length].max", "", 0, "2, max: 40}", "2}"},
		{"remove", "fields[who].label", "", 0, "    label: Name & \"title\"\n", ""},
		{"remove", "fields[tool]", "", 0, "  - {id: tool, name: tool, kind: single_choice, options: [{label: Spade, value: sp}, {value: fk}]} # a short one\n", ""},
		{"remove", "accepted", "", 0, "accepted:\n  status: 303\n  to: /done\n", ""},
		{"remove", "rejected.status", "", 0, "{status: 422}", "{}"},
	} {
		after, err := document.Apply([]byte(commented), []document.Edit{{Do: document.EditKind(c.do), Path: c.path, Value: json.RawMessage(c.value), At: c.at}})
		require.NoError(t, err, c.path)
		require.Equal(t, 1, strings.Count(commented, c.was), c.was)
		require.Equal(t, strings.Replace(commented, c.was, c.is, 1), string(after), "%s %s", c.do, c.path)
		_, err = spec.ReadForm("f.yaml", after)
		if c.path != "fields[tool]" {
			require.NoError(t, err, "%s %s:\n%s", c.do, c.path, after)
		}
	}
}

func TestItemsMove(t *testing.T) {
	t.Parallel()
	move := func(path string, to int) string {
		after, err := document.Apply([]byte(commented), []document.Edit{{Do: document.Move, Path: path, At: to}})
		require.NoError(t, err)
		return string(after)
	}
	require.Contains(t, move("fields[who].rules[pattern]", 0), "rules:\n      - pattern: {is: '[A-Z].*', message: 'It''s a capital, first'}\n      - required: {message: \"Who are you?\"}  # asked first\n")
	require.Contains(t, move("fields[tool].options[1]", 0), "options: [{value: fk}, {label: Spade, value: sp}]")
	moved, err := spec.ReadForm("f.yaml", []byte(move("fields[note]", 0)))
	require.NoError(t, err)
	require.Equal(t, "note", moved.Fields[0].ID)
	require.Equal(t, commented, move("fields[who]", 0), "to its own place")
}

func TestEditsOfJSON(t *testing.T) {
	t.Parallel()
	const text = "{\n  \"form\": \"borrow\", \"page\": \"/borrow\",\n  \"fields\": [\n    {\"name\": \"who\", \"rules\": [{\"length\": {\"max\": 40}}]}\n  ]\n}\n"
	after, err := document.Apply([]byte(text), []document.Edit{
		{Do: document.Set, Path: "fields[who].rules[length].min", Value: json.RawMessage("2")},
		{Do: document.Insert, Path: "fields", At: -1, Value: json.RawMessage(`{"name":"note"}`)},
	})
	require.NoError(t, err)
	require.Equal(t, "{\n  \"form\": \"borrow\", \"page\": \"/borrow\",\n  \"fields\": [\n    {\"name\": \"who\", \"rules\": [{\"length\": {\"max\": 40, \"min\": 2}}]}, {\"name\":\"note\"}\n  ]\n}\n", string(after))
}

func TestWhatCannotBeEditedIsSaid(t *testing.T) {
	t.Parallel()
	for path, says := range map[string]string{"fields[whom].label": `no "whom"`, "fields[who].label.max": "not a map", "fields[who": "]", "": "empty", "form.x": "not a map"} {
		after, err := document.Apply([]byte(commented), []document.Edit{{Do: document.Set, Path: path, Value: json.RawMessage("1")}})
		require.ErrorContains(t, err, says, path)
		require.Nil(t, after)
	}
	_, err := document.Apply([]byte(commented), []document.Edit{{Do: document.Set, Path: "title", Value: json.RawMessage("{")}})
	require.ErrorContains(t, err, "not JSON")
}

// TestAnyTextSurvives: whatever a tester writes into a label or a message is read back as it was, and nothing else changes.
func TestAnyTextSurvives(t *testing.T) {
	t.Parallel()
	join, err := os.ReadFile("../../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		label := rapid.StringMatching(`[ -~äé🌱\n\t]{0,30}`).Draw(t, "label")
		source := rapid.SampledFrom([]string{commented, string(join)}).Draw(t, "source")
		before, err := spec.ReadForm("f.yaml", []byte(source))
		require.NoError(t, err)
		i := rapid.IntRange(0, len(before.Fields)-1).Draw(t, "field")
		value, err := json.Marshal(label)
		require.NoError(t, err)
		path := fmt.Sprintf("fields[%s].label", before.Fields[i].ID)
		text, err := document.Apply([]byte(source), []document.Edit{{Do: document.Set, Path: path, Value: value}})
		require.NoError(t, err)
		after, err := spec.ReadForm("f.yaml", text)
		require.NoError(t, err, "%s", text)
		if label == "" {
			label = before.Fields[i].Name
		}
		require.Equal(t, label, after.Fields[i].Label)
		before.Fields[i].Label = label
		was, err := json.Marshal(before)
		require.NoError(t, err)
		is, err := json.Marshal(after)
		require.NoError(t, err)
		require.JSONEq(t, string(was), string(is))
	})
}

// TestLinesOfAnyKindAreEdited: documents come with LF, CR LF, and CR alone.
func TestLinesOfAnyKindAreEdited(t *testing.T) {
	t.Parallel()
	for _, end := range []string{"\n", "\r\n", "\r"} {
		text := strings.ReplaceAll("form: f\npage: /\nfields:\n  - id: a\n    name: a\n  - id: b\n    name: b\n", "\n", end)
		for _, e := range []document.Edit{
			{Do: document.Set, Path: "title", Value: []byte(`"Plots"`)},
			{Do: document.Set, Path: "fields[b].label", Value: []byte(`"B"`)},
			{Do: document.Set, Path: "fields[a].name", Value: []byte(`"c"`)},
			{Do: document.Remove, Path: "fields[a]"},
			{Do: document.Insert, Path: "fields", Value: []byte(`{"name": "d"}`), At: -1},
		} {
			out, err := document.Apply([]byte(text), []document.Edit{e})
			require.NoError(t, err, "%q %v", end, e)
			_, err = spec.ReadForm("f.yaml", out)
			require.NoError(t, err, "%q %q", e.Path, out)
		}
	}
}

func FuzzApply(f *testing.F) {
	f.Add(commented, "fields[who].rules[length].max", "60")
	f.Add(commented, "fields[tool].options[0]", `{"value":"x"}`)
	f.Add(`{"form":"a","page":"/","fields":[{"name":"b"}]}`, "fields[b].label", `"B"`)
	f.Add("\r\x00", "fi@].deVe.deVel", `"F"`)
	f.Fuzz(func(t *testing.T, text, path, value string) {
		for _, do := range []document.EditKind{document.Set, document.Insert, document.Remove, document.Move} {
			if out, err := document.Apply([]byte(text), []document.Edit{{Do: do, Path: path, Value: []byte(value), At: -1}}); err == nil && out == nil {
				t.Fatal("neither a text nor an error")
			}
		}
	})
}
