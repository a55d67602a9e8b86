package cover_test

import (
	"os"
	"strings"
	"testing"

	"oddtick/core/cover"
	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func designer(t require.TestingT, text string) *design.Designer {
	f, err := spec.ReadForm("form.yaml", []byte(text))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	return d
}

func join(t require.TestingT) *design.Designer {
	text, err := os.ReadFile("../../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	return designer(t, string(text))
}

func byKind(list []cover.Coverage) map[cover.Kind]cover.Coverage {
	out := map[cover.Kind]cover.Coverage{}
	for _, c := range list {
		out[c.Kind] = c
	}
	return out
}

func missing(c cover.Coverage) []string {
	var out []string
	for _, m := range c.Missing {
		out = append(out, m.ID+" <"+m.Case+string(m.Why)+">")
	}
	return out
}

func TestJoinIsCovered(t *testing.T) {
	t.Parallel()
	d := join(t)
	all := d.Design(design.Plan{Depth: testcase.Thorough})

	quick := d.Design(design.Plan{Depth: testcase.Quick})
	assert.LessOrEqual(t, len(quick.Cases), 60)
	got := byKind(cover.Of(d, quick, all, nil))
	assert.Empty(t, missing(got[cover.Rules]))
	assert.Empty(t, missing(got[cover.Columns]))
	assert.NotEmpty(t, missing(got[cover.Boundaries]), "three values at each bound are for standard depth")
	for _, m := range got[cover.Boundaries].Missing {
		assert.True(t, m.Case != "" || m.Why != "", "%s has neither a case nor a reason", m.ID)
	}

	standard := d.Design(design.Plan{Depth: testcase.Standard})
	assert.LessOrEqual(t, len(standard.Cases), 300)
	got = byKind(cover.Of(d, standard, all, nil))
	for _, kind := range []cover.Kind{cover.Rules, cover.Kept, cover.Partitions, cover.Boundaries, cover.Messages, cover.Columns, cover.Tuples} {
		assert.Positive(t, got[kind].Total, kind)
		assert.Equal(t, got[kind].Total, got[kind].Covered, "%s: %v", kind, missing(got[kind]))
	}
	for _, c := range got {
		t.Logf("%s: %d of %d %v", c.Kind, c.Covered, c.Total, missing(c))
	}
}

func TestACaseSwitchedOffUncoversAndTheKeyAddsIt(t *testing.T) {
	t.Parallel()
	d := join(t)
	plan := design.Plan{Depth: testcase.Standard}
	const id = "join/membership.unique.same/http"
	edits := []spec.CaseEdit{}
	for _, other := range []string{id, "join/membership.unique.spaces/http", "join/membership.unique.together/http", "join/membership.unique.same/browser"} {
		edits = append(edits, spec.CaseEdit{Case: other, Skip: "the association renumbers"})
	}
	set := d.Design(plan, edits...)
	all := d.Design(design.Plan{Depth: testcase.Thorough}, edits...)
	got := byKind(cover.Of(d, set, all, nil))
	require.Contains(t, missing(got[cover.Messages]), "membership.unique <"+id+">")

	covers, only := cover.By(d, set, "join/username.length.max+1/http")
	words := func(items []cover.Item) string {
		var out []string
		for _, i := range items {
			out = append(out, string(i.Kind)+" "+i.ID)
		}
		return strings.Join(out, "; ")
	}
	assert.Equal(t, "each rule violated by itself username.length; messages username.length; boundary values username.length max+1", words(covers))
	assert.Equal(t, "boundary values username.length max+1", words(only))
}

func TestWhatCannotBeCoveredIsToldAndNotCounted(t *testing.T) {
	t.Parallel()
	d := designer(t, `form: f
page: /f
fields:
  - name: code
    rules:
      - pattern: {is: '[A-Z]{2}'}
      - length: {min: 2, max: 2}
`)
	set := d.Design(design.Plan{Depth: testcase.Standard})
	got := byKind(cover.Of(d, set, set, nil))
	rules := got[cover.Rules]
	require.Len(t, rules.Missing, 1)
	assert.Equal(t, "code.length", rules.Missing[0].ID)
	assert.Contains(t, rules.Missing[0].Why, "exists")
	assert.Equal(t, 1, rules.Total)
}
