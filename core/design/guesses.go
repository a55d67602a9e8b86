package design

import (
	"slices"
	"strings"
	"sync"

	"oddtick/core/prose"
	"oddtick/core/testcase"

	_ "embed"
	"oddtick/core/spec"
	"oddtick/core/values"
)

//go:embed catalogue.yaml
var catalogueText []byte

// Catalogue is the catalogue for error guessing that ships.
var Catalogue = sync.OnceValue(func() []spec.Guess {
	list, err := spec.ReadGuesses("catalogue.yaml", catalogueText)
	if err != nil {
		panic(err)
	}
	return list
})

var guessedKinds = []spec.Kind{spec.Text, spec.Textarea, spec.Tel, spec.Password}

// guesses are values on which sites stumble, where the field's rules decide what is to happen: all let it pass, or one refuses it.
func guesses(b *testcase.Builder, f *spec.PreparedField, most testcase.Depth) {
	if f.Kind.Untouched() || testcase.RuleOf(f, spec.RuleSameAs) != nil {
		return
	}
	catalogue := append(slices.Clone(Catalogue()), b.Maker.Guesses...)
	for i, g := range catalogue {
		kinds := g.For
		if len(kinds) == 0 {
			kinds = guessedKinds
		}
		if !slices.Contains(kinds, f.Kind) {
			continue
		}
		depth := testcase.Thorough
		if !g.OnlyIfRejected && g.Depth != "" {
			depth = testcase.Depth(g.Depth)
		}
		if slices.Index(testcase.Depths, depth) > slices.Index(testcase.Depths, most) {
			continue
		}
		recipe, ok := guess(b, f, &g)
		if !ok {
			continue
		}
		b.AddFieldCase(depth, f, "guess."+g.ID, prose.Text(g.Title), testcase.ErrorGuessing, testcase.Covering(testcase.CoversGuess, f.ID, g.ID), recipe, testcase.Mark{Scale: "guessed", At: float64(i), Label: strings.ReplaceAll(g.ID, "_", " ")})
	}
}

// guess makes a recipe of an entry; ok is false where the field's rules do not decide what is to happen: one that sites may take or
// not must be refused by a rule, any other be let pass by all.
func guess(b *testcase.Builder, f *spec.PreparedField, g *spec.Guess) (recipe testcase.Recipe, ok bool) {
	sets := b.Maker.Sets[f.ID]
	if sets == nil {
		v := f.ValueOf(g.Text, true)
		return testcase.Recipe{Make: testcase.Fixed, Text: g.Text}, g.OnlyIfRejected == (len(refusing(f, &v)) == 1) && len(refusing(f, &v)) <= 1
	}
	pattern := g.Pattern()
	recipe = testcase.Recipe{Make: testcase.Fresh, Text: hintOf(g), About: pattern}
	valid, err := sets.About(testcase.Holding{Breaks: "", Pattern: pattern})
	if err != nil {
		return recipe, false
	}
	if l := testcase.RuleOf(f, spec.RuleLength); l != nil && l.Limit.Max >= 0 && strings.ContainsAny(g.Text, "\r\n") {
		// a line end may be counted as one character or as two
		if l.Limit.Max-2 < max(1, l.Limit.Min) {
			return recipe, false
		}
		recipe.Unit, recipe.Length = l.Limit.Unit, min(l.Limit.Max-2, max(12, l.Limit.Min))
	}
	first, passes := valid.Member(values.Want{Length: -1})
	if passes && testcase.RuleOf(f, spec.RuleUnique) != nil && !hasAnother(&valid, first) {
		return recipe, false // there is but one, and it is used up by the first run
	}
	if !g.OnlyIfRejected || passes {
		return recipe, !g.OnlyIfRejected && passes
	}
	for _, r := range f.Rules {
		if r.Auto == nil || r.Layer != spec.OnServer || r.Kind == spec.RulePattern && strings.ContainsAny(g.Text, "\r\n") && values.LineEndsMatter(r.Rule.Pattern.Is, testcase.DialectOf(r)) {
			continue
		}
		broken, err := sets.About(testcase.Holding{Breaks: testcase.LocalID(r), Pattern: pattern})
		if err != nil {
			continue
		}
		if _, ok := broken.Member(values.Want{Length: -1}); ok {
			recipe.Breaks = testcase.LocalID(r)
			return recipe, true
		}
	}
	return recipe, false
}

// hasAnother tells whether a set has other members than the first, by wishes that lead away from it.
func hasAnother(set *values.Set, first string) bool {
	for seed, hint := range []string{"x7", first + "x7"} {
		if other, ok := set.Member(values.Want{Length: -1, Seed: uint64(seed + 1), Hint: hint}); ok && other != first {
			return true
		}
	}
	return false
}

// refusing are the server's rules of one field that a value breaks.
func refusing(f *spec.PreparedField, v *spec.Value) []*spec.PreparedRule {
	var out []*spec.PreparedRule
	for _, r := range f.Rules {
		if r.Layer == spec.OnServer && r.Phase == spec.PhaseFormat && !r.Passes(v, testcase.ReferenceDay) {
			out = append(out, r)
		}
	}
	return out
}

// hintOf is what a value about a guess should look like; "" for a usual one.
func hintOf(g *spec.Guess) string {
	if g.Position == "" || g.Position == "whole" {
		return g.Text
	}
	return ""
}

// draft is a value of a recipe of its own field alone.
func draft(b *testcase.Builder, f *spec.PreparedField, recipe testcase.Recipe) (string, bool) {
	probe := &testcase.Case{ID: "draft", Steps: []testcase.Step{{Inputs: []testcase.Input{{Field: f.ID, Recipe: recipe}}}}}
	out, err := b.Maker.Resolve(probe, 0, &testcase.Env{Now: testcase.ReferenceDay, Drafts: b.Drafts})
	if err != nil {
		return "", false
	}
	v, present := out[f.ID]
	return v, present
}
