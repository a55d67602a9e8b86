package spec_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"oddtick/core/document"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// shed is a document that is written in several styles, with comments at every place.
const shed = `# top
form: shed # id
page: /shed
fields: # all of them
  # first
  - id: a
    name: a
    rules: # of a
      - required: {} # must
      # how long
      - length: {min: 1, max: 9}
  - {id: b, name: b, rules: [{required: {}}, {length: {max: 4}}]} # in one line
  - id: c
    name: c
    label: >
      folded
      text

  # last
  - id: d
    name: d
# end
`

// model is what the edits should leave: ids of fields, each with its label and its rules' kinds.
type model struct {
	order  []string
	labels map[string]string
	rules  map[string][]string
}

func modelOf(f *spec.Form) model {
	m := model{labels: map[string]string{}, rules: map[string][]string{}}
	for i := range f.Fields {
		x := &f.Fields[i]
		m.order = append(m.order, x.ID)
		m.labels[x.ID] = strings.TrimSpace(x.Label)
		for k := range x.Rules {
			m.rules[x.ID] = append(m.rules[x.ID], string(x.Rules[k].Kind()))
		}
	}
	return m
}

// TestAnySequenceOfEditsLeavesWhatItSays: random edits, made in the text, against the same edits made on plain lists; and the
// comments that stand on lines of their own outside what was taken away are all still there.
func TestAnySequenceOfEditsLeavesWhatItSays(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(rt *rapid.T) {
		text := []byte(shed)
		form, err := spec.ReadForm("f.yaml", text)
		require.NoError(rt, err)
		m := modelOf(form)
		fresh := 0
		for range rapid.IntRange(1, 8).Draw(rt, "edits") {
			id := rapid.SampledFrom(m.order).Draw(rt, "field")
			var edit document.Edit
			switch rapid.IntRange(0, 5).Draw(rt, "do") {
			case 0:
				label := rapid.SampledFrom([]string{"Plain", "With: colon", "It's", `a "b"`, "# no comment", "ünï", " spaced ", "007", "yes"}).Draw(rt, "label")
				edit = document.Edit{Do: document.Set, Path: "fields[" + id + "].label", Value: quotedJSON(label)}
				m.labels[id] = strings.TrimSpace(label)
			case 1:
				kind := rapid.SampledFrom([]string{"email", "pattern"}).Draw(rt, "kind")
				if slices.Contains(m.rules[id], kind) {
					continue
				}
				value := map[string]string{"email": `{"email":{}}`, "pattern": `{"pattern":{"is":"[a-z]+"}}`}[kind]
				at := rapid.IntRange(-1, len(m.rules[id])).Draw(rt, "at")
				edit = document.Edit{Do: document.Insert, Path: "fields[" + id + "].rules", Value: json.RawMessage(value), At: at}
				if at < 0 {
					at = len(m.rules[id])
				}
				m.rules[id] = slices.Insert(slices.Clone(m.rules[id]), at, kind)
			case 2:
				if len(m.rules[id]) == 0 {
					continue
				}
				k := rapid.IntRange(0, len(m.rules[id])-1).Draw(rt, "rule")
				edit = document.Edit{Do: document.Remove, Path: fmt.Sprintf("fields[%s].rules[%s]", id, m.rules[id][k])}
				m.rules[id] = slices.Delete(slices.Clone(m.rules[id]), k, k+1)
			case 3:
				to := rapid.IntRange(0, len(m.order)-1).Draw(rt, "to")
				edit = document.Edit{Do: document.Move, Path: "fields[" + id + "]", At: to}
				from := slices.Index(m.order, id)
				m.order = slices.Insert(slices.Delete(slices.Clone(m.order), from, from+1), to, id)
			case 4:
				fresh++
				name := fmt.Sprintf("n%d", fresh)
				at := rapid.IntRange(-1, len(m.order)).Draw(rt, "at")
				edit = document.Edit{Do: document.Insert, Path: "fields", Value: json.RawMessage(fmt.Sprintf(`{"id":%q,"name":%q,"label":"New","rules":[{"required":{}}]}`, name, name)), At: at}
				if at < 0 {
					at = len(m.order)
				}
				m.order = slices.Insert(slices.Clone(m.order), at, name)
				m.labels[name], m.rules[name] = "New", []string{"required"}
			default:
				if len(m.order) < 2 {
					continue
				}
				edit = document.Edit{Do: document.Remove, Path: "fields[" + id + "]"}
				at := slices.Index(m.order, id)
				m.order = slices.Delete(slices.Clone(m.order), at, at+1)
				delete(m.labels, id)
				delete(m.rules, id)
			}
			next, err := document.Apply(text, []document.Edit{edit})
			require.NoError(rt, err, "%s %s\n%s", edit.Do, edit.Path, text)
			form, err = spec.ReadForm("f.yaml", next)
			require.NoError(rt, err, "%s %s %s at %d\n%s\n->\n%s", edit.Do, edit.Path, edit.Value, edit.At, text, next)
			got := modelOf(form)
			require.Equal(rt, m.order, got.order, "%s", next)
			require.Equal(rt, m.labels, got.labels, "%s", next)
			for _, id := range m.order {
				require.ElementsMatch(rt, m.rules[id], got.rules[id], "%s", next)
				require.Equal(rt, append([]string{}, m.rules[id]...), append([]string{}, got.rules[id]...), "%s", next)
			}
			text = next
		}
		for _, comment := range []string{"# top", "# id", "# end"} {
			require.Contains(rt, string(text), comment)
		}
	})
}

func quotedJSON(s string) json.RawMessage {
	b, _ := json.Marshal(s)
	return b
}
