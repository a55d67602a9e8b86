package engine_test

import (
	"testing"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

func TestARunLeavesOutWhatIsSwitchedOff(t *testing.T) {
	t.Parallel()
	step := func(d oracle.Driver) design.Step { return design.Step{Do: design.Submit, Driver: d} }
	plain := &design.Case{ID: "f/a/http", Steps: []design.Step{step(oracle.HTTP)}}
	browser := &design.Case{ID: "f/a/browser", Steps: []design.Step{step(oracle.Browser)}}
	off := &design.Case{ID: "f/b/http", Steps: []design.Step{step(oracle.HTTP)}, Edit: &spec.CaseEdit{Off: "later"}}
	made, left := target.Drivable([]*design.Case{plain, browser, off})
	require.Equal(t, []*design.Case{plain, browser}, made)
	require.Equal(t, []*design.Case{off}, left)
	require.True(t, browser.InBrowser())
	require.False(t, plain.InBrowser())
	require.Contains(t, target.Left(off), "later")

	d := designerOf(t, "form: f\npage: /\nfields: [{name: a}]\n")
	_, err := target.Open(t.Context(), target.Config{Site: &spec.Site{Address: "http://127.0.0.1:1"}, Designer: d, Cases: []*design.Case{plain, off}})
	require.ErrorContains(t, err, "the case f/b/http is no part of a run")
}
