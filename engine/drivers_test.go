package engine_test

import (
	"testing"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/engine"

	"github.com/stretchr/testify/require"
)

func TestARunLeavesOutWhatItCannotMake(t *testing.T) {
	t.Parallel()
	step := func(d oracle.Driver) design.Step { return design.Step{Do: design.Submit, Driver: d} }
	plain := &design.Case{ID: "f/a/http", Steps: []design.Step{step(oracle.HTTP)}}
	browser := &design.Case{ID: "f/a/browser", Steps: []design.Step{step(oracle.HTTP), step(oracle.Browser)}}
	off := &design.Case{ID: "f/b/http", Steps: []design.Step{step(oracle.HTTP)}, Edit: &spec.CaseEdit{Off: "later"}}
	made, left := engine.Drivable([]*design.Case{plain, browser, off})
	require.Equal(t, []*design.Case{plain}, made)
	require.Equal(t, []*design.Case{browser, off}, left)
	require.Contains(t, engine.Left(browser), "needs a browser")
	require.Contains(t, engine.Left(off), "later")
}
