package design_test

import (
	"testing"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

const boxForm = "form: box\npage: /box\nfields:\n  - {name: tag, kind: tel, normalize: [{phone: \"+44\"}], rules: [{required: {}}, {pattern: {is: '\\+44[1-9][0-9]{9}'}}, {unique: {column: boxes.tag}}]}\n  - {name: code, normalize: [{strip: \" -\"}], rules: [{pattern: {is: '[0-9]{6}'}}]}\naccepted: {max_per_minute: 3}\nstored: [{insert: boxes, columns: {tag: {from: tag}}}]\n"

// TestFurtherWaysOfBrowsing: the usual case in each, and the messages on a narrow screen; none where the site does not name them.
func TestFurtherWaysOfBrowsing(t *testing.T) {
	t.Parallel()
	cases, _ := casesOf(t, boxForm, &spec.Site{Site: "s", Address: "http://s.test", Browsing: []spec.Browsing{spec.Narrow, spec.Keyboard}})
	for id, by := range map[string]spec.Browsing{"form.usual.narrow": spec.Narrow, "form.usual.keyboard": spec.Keyboard, "tag.blank.narrow": spec.Narrow} {
		c := cases["box/"+id+"/browser"]
		require.NotNil(t, c, id)
		require.Equal(t, by, c.Browsing)
		require.True(t, c.InBrowser())
	}
	require.Nil(t, cases["box/tag.blank.keyboard/browser"])
	cases, _ = casesOf(t, boxForm, &spec.Site{Site: "s", Address: "http://s.test"})
	for id, c := range cases {
		require.Empty(t, c.Browsing, id)
	}
}

// TestAsManyAsAreAcceptedAndOneMore: the last that is accepted and the first that is not are judged, after a minute in which nothing is sent.
func TestAsManyAsAreAcceptedAndOneMore(t *testing.T) {
	t.Parallel()
	cases, _ := casesOf(t, boxForm, nil)
	c := cases["box/form.too_many/http"]
	require.NotNil(t, c)
	require.Len(t, c.Steps, 4)
	require.Greater(t, c.Steps[0].Wait, 60.0)
	for i, want := range []oracle.Outcome{oracle.Answered, oracle.Answered, oracle.Accepted, oracle.RejectedByServer} {
		require.Equal(t, want, c.Steps[i].Expect, i)
		require.Equal(t, submission.HTTP, c.Steps[i].Driver)
	}
	require.True(t, c.SendsTooMany())
	require.False(t, cases["box/form.usual/http"].SendsTooMany())
}

// TestWhatIsTakenOutIsPutIn: telephone numbers in other forms, and the characters that a step takes out, once more where a value is unique.
func TestWhatIsTakenOutIsPutIn(t *testing.T) {
	t.Parallel()
	cases, _ := casesOf(t, boxForm, nil)
	for id, change := range map[string]string{"tag.phone.national": testcase.OnlyItsZero, "tag.phone.zeros": testcase.TwoZeros, "tag.phone.groups": testcase.InGroups, "code.strip.inside": testcase.SignInside} {
		c := cases["box/"+id+"/http"]
		require.NotNil(t, c, id)
		require.Equal(t, oracle.Accepted, c.Last().Expect, id)
		require.True(t, hasChange(c.Last(), change), id)
	}
	twice := cases["box/tag.unique.national/http"]
	require.NotNil(t, twice)
	require.Equal(t, []string{"tag.unique"}, twice.Last().Breaks)
}

// hasChange tells whether a step changes a value so.
func hasChange(s *testcase.Step, change string) bool {
	for i := range s.Inputs {
		if s.Inputs[i].Recipe.Change == change {
			return true
		}
	}
	return false
}
