package design

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"
	"sync"

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

var guessedKinds = []spec.Kind{spec.Text, spec.MultiLine, spec.Tel, spec.Password}

// guesses are values on which sites stumble, where the field's rules decide what is to happen: all let it pass, or one refuses it.
func (s *sheet) guesses(f *spec.PreparedField) {
	if f.Kind.Untouched() || rule(f, "agrees") != nil {
		return
	}
	for i, g := range s.d.catalogue {
		kinds := g.For
		if len(kinds) == 0 {
			kinds = guessedKinds
		}
		if !slices.Contains(kinds, f.Kind) {
			continue
		}
		recipe, refusedBy, ok := s.guess(f, &g)
		if !ok || g.Refused && refusedBy == nil {
			continue
		}
		depth := Thorough
		if refusedBy == nil && g.Depth != "" {
			depth = Depth(g.Depth)
		}
		s.one(depth, f, "guess."+g.ID, g.Title, ErrorGuessing, []string{"guess " + f.ID + " " + g.ID}, recipe, Mark{"guessed", float64(i), strings.ReplaceAll(g.ID, "_", " ")})
	}
}

// guess makes a recipe of an entry; ok is false where the field's rules do not decide, or what is telling cannot stand.
func (s *sheet) guess(f *spec.PreparedField, g *spec.Guess) (recipe Recipe, refusedBy *spec.PreparedRule, ok bool) {
	recipe = Recipe{Make: Fixed, Text: g.Text}
	value := g.Text
	sets := s.d.sets[f.ID]
	if sets != nil {
		switch at := g.At; at {
		case "", "whole":
			if !g.Refused {
				recipe = Recipe{Make: Fresh, Text: g.Text}
			}
		default:
			recipe = Recipe{Make: Fresh, Change: at + " " + g.Text}
		}
		if recipe.Make == Fresh {
			if value, ok = s.draft(f, recipe); !ok {
				return recipe, nil, false
			}
		}
	}
	if !tells(g, value) {
		return recipe, nil, false
	}
	v := f.ValueOf(value, true)
	if recipe.Make == Fixed && !v.Blank && v.Normal != value || recipe.Change != "" && v.Normal != value {
		return recipe, nil, false // the server's steps take it away
	}
	for _, r := range f.Rules {
		if r.Layer != spec.OnServer || r.Phase != spec.PhaseFormat || r.Passes(&v, ReferenceDay) {
			continue
		}
		if refusedBy != nil {
			return recipe, nil, false
		}
		refusedBy = r
	}
	if refusedBy != nil && refusedBy.Kind == "pattern" && strings.ContainsAny(value, "\r\n") && values.LineEndsMatter(refusedBy.Rule.Pattern.Is, dialectOf(refusedBy)) {
		return recipe, nil, false
	}
	return recipe, refusedBy, true
}

// draft is a value of a recipe of its own field alone.
func (s *sheet) draft(f *spec.PreparedField, recipe Recipe) (string, bool) {
	probe := &Case{ID: "draft", Steps: []Step{{Inputs: []Input{{f.ID, recipe}}}}}
	out, err := s.d.Resolve(probe, 0, &Env{Now: ReferenceDay, drafts: s.drafts})
	if err != nil {
		return "", false
	}
	v, present := out[f.ID]
	return v, present
}

// tells: the value is still about the guess.
func tells(g *spec.Guess, value string) bool {
	if g.Tells == "" {
		return strings.Contains(value, g.Text)
	}
	return telling(g.Tells).Matches(value)
}

var (
	tellingMu sync.Mutex
	tellingOf = map[string]*values.Automaton{}
)

// telling is the automaton of a guess's pattern, which was checked when it was read.
func telling(pattern string) *values.Automaton {
	tellingMu.Lock()
	defer tellingMu.Unlock()
	auto := tellingOf[pattern]
	if auto == nil {
		var err error
		if auto, err = values.Pattern(pattern, values.DialectV); err != nil {
			panic(fmt.Errorf("the catalogue's pattern %s: %w", pattern, err))
		}
		tellingOf[pattern] = auto
	}
	return auto
}
