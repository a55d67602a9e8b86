package observation_test

import (
	"testing"

	"oddtick/core/observation"

	"github.com/stretchr/testify/require"
)

func texts(list ...string) *observation.Page {
	p := &observation.Page{}
	for _, text := range list {
		p.Texts = append(p.Texts, observation.Text{Text: text})
	}
	return p
}

// TestNewTextsAreThoseThatCameWithTheAnswer: help that comes back where an error stood is none, nor is what everybody finds there.
func TestNewTextsAreThoseThatCameWithTheAnswer(t *testing.T) {
	t.Parallel()
	said := func(s *observation.Step, earlier ...*observation.Step) (out []string) {
		for _, text := range s.NewTexts(earlier...) {
			out = append(out, text.Text)
		}
		return out
	}
	first := &observation.Step{Before: texts("As on the lantern", "Optional"), After: texts("A lantern needs a name.", "Optional")}
	require.Equal(t, []string{"A lantern needs a name."}, said(first))
	second := &observation.Step{Before: first.After, After: texts("As on the lantern", "No such walk.")}
	require.Equal(t, []string{"As on the lantern", "No such walk."}, said(second))
	require.Equal(t, []string{"No such walk."}, said(second, first), "it stood on the page as it was opened")
	twice := &observation.Step{Before: texts("Optional"), After: texts("Optional", "Optional")}
	require.Equal(t, []string{"Optional"}, said(twice))
	landed := &observation.Step{Before: texts(), After: texts("Welcome.", "The beach is closed."), Usual: []string{"The beach is closed."}}
	require.Equal(t, []string{"Welcome."}, said(landed))
	require.Nil(t, said(&observation.Step{}))
}
