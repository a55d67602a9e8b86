package template_test

import (
	"strings"
	"testing"

	"oddtick/core/template"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestNames(t *testing.T) {
	t.Parallel()
	require.Nil(t, template.Names("Bed taken."))
	require.Equal(t, []string{"bed", "key", "beds.number", "bed"}, template.Names("{bed} {key} {beds.number} {bed} {} { x } {1} {a.b.c}"))
}

func TestFill(t *testing.T) {
	t.Parallel()
	value := func(id string) (string, bool) { return "<" + id + ">", id == "a" || id == "b" }
	for text, want := range map[string]string{"{a} and {b}": "<a> and <b>", "{c} {a": "{c} {a", "plain": "plain", "{}": "{}", "a}{b}": "a}<b>"} {
		require.Equal(t, want, template.Fill(text, value))
	}
}

func TestMatchesAndWithin(t *testing.T) {
	t.Parallel()
	for _, one := range []struct {
		promised, text  string
		matches, within bool
	}{
		{"/beds/{any}", "/beds/12", true, true},
		{"/beds/{any}", "/beds/", true, true},
		{"/beds/{any}", "/sheds/12", false, false},
		{"/beds/{any}/edit", "/beds/12/edit", true, true},
		{"/beds/{any}/edit", "/beds/12/edit/now", false, true},
		{"{any} of {any}", "3 of 4", true, true},
		{"{any} of {any}", "3 from 4", false, false},
		{"{any}ab{any}ab", "xab", false, false},
		{"Bed taken.", "Bed taken.", true, true},
		{"Bed taken.", "Sorry. Bed taken.", false, true},
		{"a{any}a", "a", false, false},
	} {
		require.Equal(t, one.matches, template.Matches(one.promised, one.text), "%s and %s", one.promised, one.text)
		require.Equal(t, one.within, template.Within(one.promised, one.text), "%s within %s", one.promised, one.text)
	}
}

func TestLiteral(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{"": "", "Bed taken.": "Bed taken.", "{bed} is taken by {name}": "is taken by", "{any}": ""} {
		require.Equal(t, want, template.Literal(text))
	}
}

// TestAFilledTextMatches: whatever fills its places, a text matches what it was made from.
func TestAFilledTextMatches(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		promised := strings.Join(rapid.SliceOfN(rapid.SampledFrom([]string{"a", "b", " ", "{any}", "{key}", "/"}), 0, 8).Draw(t, "promised"), "")
		filled := template.Fill(promised, func(string) (string, bool) {
			return rapid.StringMatching("[ab /]{0,3}").Draw(t, "value"), true
		})
		require.True(t, template.Matches(promised, filled))
		require.True(t, template.Within(promised, "before "+filled+" behind"))
	})
}
