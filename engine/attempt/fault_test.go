package attempt

import (
	"context"
	"strings"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/engine/target"
	"oddtick/observe/database"

	"github.com/stretchr/testify/require"
)

// panicking is a database whose look-ups are a fault of the program's own.
type panicking struct{ target.Database }

func (panicking) LookUp(context.Context, submission.Lookup, func(a, b string) bool) (bool, error) {
	panic("no such shelf")
}

// TestAPanicEndsOneCaseOnly: it is not observed, with a reference under which the log tells of it, and is not made again.
func TestAPanicEndsOneCaseOnly(t *testing.T) {
	t.Parallel()
	for _, watched := range []bool{true, false} {
		run, twice, sent := boats(t, false, func() {})
		whole := run.Databases[0]
		run.Databases[0] = panicking{whole}
		require.NoError(t, run.Databases.Begin(t.Context()))
		result := perform(t.Context(), run, twice, 1, watched)
		require.Equal(t, judge.NotObserved, result.Verdict)
		require.Contains(t, result.Headline, "under the reference ")
		require.False(t, result.Broken)
		require.Zero(t, sent.Load())
		run.Databases[0] = whole
		if !watched {
			continue // a batch looks at the tables at its end
		}
		result = perform(t.Context(), run, twice, 2, watched)
		require.Equal(t, judge.AsExpected, result.Verdict, result.Headline)
	}
}

// stubborn is a database in which a row cannot be undone.
type stubborn struct{ target.Database }

func (stubborn) Tables() []string { return []string{"keepers"} }
func (stubborn) Undo(context.Context, []observation.Change) (*database.Undone, error) {
	return &database.Undone{Left: []string{"keepers 1: it is not as it was"}}, nil
}

// TestARunStopsWhereARowCannotBeRestored: the next case would stand on what the last one left.
func TestARunStopsWhereARowCannotBeRestored(t *testing.T) {
	t.Parallel()
	form, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nbefore: {signed_in: mara}\nfields: [{name: word}]\nstored: [{update: keepers, row: signed_in, columns: {word: {from: word}}}]\n"))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	r := &target.Target{Form: p, Account: &spec.Account{ID: "mara"}, Databases: target.Databases{stubborn{}}, Journal: []observation.Change{{Table: "keepers", Kind: observation.Changed, Key: "1"}}}
	err = r.Repair(t.Context(), 0)
	require.ErrorContains(t, err, "cannot be undone")
	require.True(t, strings.Contains(err.Error(), "keepers 1"))
}

// TestAValueSentBeforeIsNoSecret: a page that shows it shows what the run sent in another field.
func TestAValueSentBeforeIsNoSecret(t *testing.T) {
	t.Parallel()
	form, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nfields: [{name: name}, {name: word, kind: password}]\n"))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	send := func(name, word string) *submission.Submission {
		return &submission.Submission{Pairs: []submission.Pair{{Name: "name", Value: name}, {Name: "word", Value: word}}}
	}
	v := &target.PlainValues{}
	require.Empty(t, v.Take(p, send("heron-at-the-pier", "Maple-row-42")))
	require.Equal(t, []string{"word"}, v.Take(p, send("moss", "heron-at-the")))
	require.Empty(t, v.Take(p, send("moss", "heron")), "too short to be looked for")
}
