package engine_test

import (
	"testing"

	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

func TestARunLeavesOutWhatIsSwitchedOff(t *testing.T) {
	t.Parallel()
	step := func(d submission.Driver) testcase.Step { return testcase.Step{Do: testcase.Submit, Driver: d} }
	plain := &testcase.Case{ID: "f/a/http", Steps: []testcase.Step{step(submission.HTTP)}}
	browser := &testcase.Case{ID: "f/a/browser", Steps: []testcase.Step{step(submission.Browser)}}
	off := &testcase.Case{ID: "f/b/http", Steps: []testcase.Step{step(submission.HTTP)}, Edit: &spec.CaseEdit{Skip: "later"}}
	made, left := target.Drivable([]*testcase.Case{plain, browser, off})
	require.Equal(t, []*testcase.Case{plain, browser}, made)
	require.Equal(t, []*testcase.Case{off}, left)
	require.True(t, browser.InBrowser())
	require.False(t, plain.InBrowser())
	require.Contains(t, target.Left(off), "later")

	d := designerOf(t, "form: f\npage: /\nfields: [{name: a}]\n")
	_, err := target.Open(t.Context(), target.Config{Site: &spec.Site{Address: "http://127.0.0.1:1"}, Designer: d, Cases: []*testcase.Case{plain, off}})
	require.ErrorContains(t, err, "the case f/b/http cannot be run")
}
