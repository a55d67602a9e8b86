package access_test

import (
	"fmt"
	"slices"
	"testing"

	"oddtick/core/access"
	"oddtick/core/spec"
	"oddtick/core/wording/promise"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func ids(paths []access.Path) []string {
	var out []string
	for _, p := range paths {
		out = append(out, p.ID)
	}
	return out
}

func TestStatesOfASite(t *testing.T) {
	t.Parallel()
	p, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte(`site: hives
pages: [{id: home, path: /}, {id: log, path: /log}]
states:
  - {id: guest, may_open: [home], denied: /enter}
  - {id: waiting, may_open: [home], denied: /wait}
  - {id: keeper, may_open: [home, log]}
  - {id: warden}
journeys:
  - id: begin
    steps: [{submit: apply, then: waiting}, {wait_for: confirm, then: keeper}, {submit: leave, then: guest}]
`)}, {Name: "apply.yaml", Text: []byte("form: apply\npage: /apply\nstate: guest\nfields: [{name: a}]\n")}})
	require.NoError(t, err)
	s := access.StatesOf(p.Site, p.Forms, promise.Step)
	assert.Equal(t, []access.Access{
		{State: "guest", Page: "/", May: true},
		{State: "guest", Page: "/log", To: "/enter"},
		{State: "waiting", Page: "/", May: true},
		{State: "waiting", Page: "/log", To: "/wait"},
		{State: "keeper", Page: "/", May: true},
		{State: "keeper", Page: "/log", May: true},
		{State: "warden", Page: "/"},
		{State: "warden", Page: "/log"},
	}, s.Access)
	assert.Equal(t, []string{"state:guest", "state:waiting", "state:keeper"}, ids(s.All))
	assert.Equal(t, []string{"warden"}, s.Unreached)
	assert.Equal(t, []string{"transition:guest,submit apply", "transition:waiting,wait_for confirm", "transition:keeper,submit leave"}, ids(s.Each))
	assert.Equal(t, []string{"pair:guest,submit apply,waiting,wait_for confirm", "pair:waiting,wait_for confirm,keeper,submit leave", "pair:keeper,submit leave,guest,submit apply"}, ids(s.Pairs))
	assert.Equal(t, []string{"invalid:guest,submit leave", "invalid:waiting,submit apply", "invalid:waiting,submit leave", "invalid:keeper,submit apply"}, ids(s.Invalid))
	assert.Empty(t, access.StatesOf(&spec.Site{}, nil, promise.Step).All)
}

// On random journeys every state, transition and pair that can be reached is on a path, each path is a way that exists, and an
// invalid one differs in its last step only.
func TestPathsCoverRandomJourneys(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		site := &spec.Site{}
		n := rapid.IntRange(1, 5).Draw(t, "states")
		for i := range n {
			site.States = append(site.States, spec.State{ID: fmt.Sprintf("s%d", i)})
		}
		for range rapid.IntRange(0, 3).Draw(t, "journeys") {
			var j spec.Journey
			for range rapid.IntRange(1, 4).Draw(t, "steps") {
				j.Steps = append(j.Steps, spec.JourneyStep{Submit: rapid.SampledFrom([]string{"a", "b", "c"}).Draw(t, "form"), Then: fmt.Sprintf("s%d", rapid.IntRange(0, n-1).Draw(t, "then"))})
			}
			site.Journeys = append(site.Journeys, j)
		}
		s := access.StatesOf(site, nil, promise.Step)
		reached := map[string]bool{"s0": true}
		for range n {
			for _, tr := range s.Transitions {
				if reached[tr.From] {
					reached[tr.To] = true
				}
			}
		}
		require.Len(t, s.All, len(reached))
		pairs, each := 0, 0
		for _, a := range s.Transitions {
			if !reached[a.From] {
				continue
			}
			each++
			for _, b := range s.Transitions {
				if a.To == b.From {
					pairs++
				}
			}
		}
		require.Len(t, s.Each, each)
		require.Len(t, s.Pairs, pairs)
		seen := map[string]bool{}
		for _, p := range slices.Concat(s.All, s.Each, s.Pairs, s.Invalid) {
			require.False(t, seen[p.ID], p.ID)
			seen[p.ID] = true
			at := "s0"
			for i, step := range p.Steps {
				require.Equal(t, at, step.From, p.ID)
				last := i == len(p.Steps)-1
				require.Equal(t, !(p.Refused && last), slices.Contains(s.Transitions, step), p.ID)
				at = step.To
			}
		}
	})
}
