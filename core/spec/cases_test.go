package spec_test

import (
	"testing"

	"oddtick/core/document"
	"oddtick/core/spec"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestEditsOfCasesAreReadAndWritten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.OneOf(rapid.StringMatching(`[ -~]{0,12}`), rapid.SampledFrom([]string{"null", "true", "1e3", "- x", "a: b", "#", "\x00\x07", "lines\r\nand\n", "“quoted”", "moss 🌱", "0x1F", "~", " padded ", "2001-01-01"}))
		d := &spec.CaseDocument{Cases: "patch"}
		for _, id := range rapid.SliceOfNDistinct(rapid.StringMatching(`patch/[a-z.:=,<>!]{1,20}/http`), 0, 4, rapid.ID).Draw(t, "ids") {
			e := spec.CaseEdit{Case: id, Skip: text.Draw(t, "off"), Title: text.Draw(t, "title"), EveryDepth: rapid.Bool().Draw(t, "kept"), Added: rapid.Bool().Draw(t, "own"), Note: text.Draw(t, "note")}
			if rapid.Bool().Draw(t, "typed") {
				e.Inputs = map[string]string{"crop": text.Draw(t, "value"), "note": text.Draw(t, "value")}
				e.Absent = []string{"beds"}
				e.Tags = []string{"a", text.Draw(t, "tag")}
			}
			d.Edits = append(d.Edits, e)
		}
		written, err := document.WriteCases(d)
		require.NoError(t, err)
		if len(d.Edits) == 0 {
			return
		}
		p, err := spec.ReadProject([]spec.File{{Name: "patch.yaml", Text: []byte(patch)}, {Name: "patch.cases.yaml", Text: written}})
		require.NoError(t, err, "%s", written)
		require.Equal(t, d.Edits, p.EditsOf("patch"), "%s", written)
	})
}

func TestWhatIsWrongWithEditsAndGuessesIsToldWithItsPlace(t *testing.T) {
	for text, want := range map[string]string{
		"cases: patch\nedits:\n  - {case: patch/a/http, inputs: {weeds: \"1\"}}\n": `e.yaml:3:35: edits[0].inputs.weeds: the form patch has no field "weeds"`,
		"cases: patch\nedits: [{skip: why}]\n":                                     "e.yaml:2:9: edits[0]: the edit names no case",
		"cases: patch\nedits:\n  - {case: a}\n  - {case: a, skip: x}\n":            "e.yaml:4:6: edits[1].case: the case a is edited twice",
		"cases: beds\nedits: []\n":                                                 `e.yaml:1:1: cases: there is no form "beds" whose cases are edited`,
		"site: s\nguesses:\n  - {id: A, text: x}\n":                                `e.yaml:3:6: guesses[0].id: "A" is not an id`,
		"site: s\nguesses:\n  - {id: a, text: x, pattern: '('}\n":                  "e.yaml:3:22: guesses[0].pattern",
		"site: s\nguesses:\n  - {id: a, text: x, for: [texts]}\n":                  `the kind "texts" is not known`,
		"site: s\nguesses:\n  - {id: a, text: x, position: middle}\n":              `"middle" is not known here; write one of: whole, start, inside, end`,
		"site: s\nguesses: [{id: a, text: x}, {id: a, text: y}]\n":                 "two guesses have the id a",
		"site: s\nguesses: [{id: a}]\n":                                            "the guess a has no text",
		"site: s\nguesses: [{id: a, txt: x}]\n":                                    `did you mean "text"?`,
	} {
		_, err := spec.ReadProject([]spec.File{{Name: "patch.yaml", Text: []byte(patch)}, {Name: "e.yaml", Text: []byte(text)}})
		if assert.Error(t, err, text) {
			assert.Contains(t, err.Error(), want)
		}
	}
	_, err := spec.ReadGuesses("g.yaml", []byte("guesses:\n  - {id: a, text: x, depth: deep}\n"))
	require.ErrorContains(t, err, `g.yaml:2:22: guesses[0].depth: "deep" is not known here`)
}

func FuzzReadGuesses(f *testing.F) {
	f.Add("guesses: [{id: a, text: x, pattern: '[a-z]*', for: [text]}]\n")
	f.Add("cases: a\nedits: [{case: b, inputs: {c: d}}]\n")
	f.Fuzz(func(t *testing.T, text string) {
		_, _ = spec.ReadGuesses("g.yaml", []byte(text))
		if p, err := spec.ReadProject([]spec.File{{Name: "e.yaml", Text: []byte(text)}}); err == nil {
			for _, d := range p.Cases {
				if _, err := document.WriteCases(d); err != nil {
					t.Fatal(err)
				}
			}
		}
	})
}
