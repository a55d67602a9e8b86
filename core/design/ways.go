package design

import (
	"maps"
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// findWays tries combinations of values of the named fields, and keeps for every combination of conditions the first that shows this
// decision alone, or else the first at all.
func (s *sheet) findWays(x *decision) {
	x.ways = map[uint32]map[string]Recipe{}
	choices := make([][]Recipe, len(x.names))
	vars := s.d.baseVars()
	variables := make([][]any, len(x.names))
	texts := make([][]string, len(x.names))
	x.whole = true
	for i, f := range x.names {
		all, whole := s.d.candidates(f, x.expression)
		x.whole = x.whole && whole
		for _, r := range all {
			text, present, ok := s.d.resolveOne(f, r)
			if !ok && r.Make != Same {
				continue
			}
			v := f.ValueOf(text, present)
			choices[i] = append(choices[i], r)
			variables[i], texts[i] = append(variables[i], f.Var(&v)), append(texts[i], text)
		}
		if len(choices[i]) == 0 {
			x.whole = false
			return
		}
	}
	clean := map[uint32]int{} // tries spent on a clean one; -1 when found
	at := make([]int, len(x.names))
	for ; x.tries < mostCombined; x.tries++ {
		for i, f := range x.names {
			vars[f.ID] = variables[i][at[i]]
			if r := &choices[i][at[i]]; r.Make == Same { // known only together with the other
				if k := slices.IndexFunc(x.names, func(n *spec.PreparedField) bool { return n.ID == r.Of }); k >= 0 {
					v := f.ValueOf(shifted(texts[k][at[k]], r.Shift), true)
					vars[f.ID] = f.Var(&v)
				}
			}
		}
		if mask, known := maskOf(x.atoms, vars); known && clean[mask] >= 0 && clean[mask] < 40 {
			pick := map[string]Recipe{}
			for i, f := range x.names {
				pick[f.ID] = choices[i][at[i]]
			}
			clean[mask]++
			if e, ok := s.expect(pick); ok && x.clean(e) {
				clean[mask] = -1
				x.ways[mask] = pick
			} else if x.ways[mask] == nil {
				x.ways[mask] = pick
			}
		}
		if !next(at, choices) {
			x.tries++
			s.cleanUp(x, clean)
			return
		}
	}
	x.whole = false
	s.cleanUp(x, clean)
}

// cleanUp gives fields that only other rules name such values that those rules hold, where a way breaks them too.
func (s *sheet) cleanUp(x *decision, clean map[uint32]int) {
	for mask, pick := range x.ways {
		if clean[mask] < 0 {
			continue
		}
		e, ok := s.expect(pick)
		if !ok {
			continue
		}
		var names []*spec.PreparedField
		var choices [][]Recipe
		for _, r := range s.d.p.Across {
			if !slices.ContainsFunc(e.Failing, func(f oracle.Failure) bool { return f.Rule == r.ID }) {
				continue
			}
			for _, f := range r.Names {
				if _, named := pick[f.ID]; !named && !slices.Contains(names, f) {
					all, _ := s.d.candidates(f, r.Expression)
					names, choices = append(names, f), append(choices, all)
				}
			}
		}
		at := make([]int, len(names))
		for tries := 0; len(names) > 0 && tries < 200; tries++ {
			wider := maps.Clone(pick)
			for i, f := range names {
				wider[f.ID] = choices[i][at[i]]
			}
			if e, ok := s.expect(wider); ok && x.clean(e) {
				x.ways[mask], clean[mask] = wider, -1
				break
			}
			if !next(at, choices) {
				break
			}
		}
		if x.acceptedOnly && clean[mask] >= 0 {
			delete(x.ways, mask)
		}
	}
}

// next counts up, the last place changing fastest; false at the end.
func next(at []int, choices [][]Recipe) bool {
	for i := len(at) - 1; i >= 0; i-- {
		if at[i]++; at[i] < len(choices[i]) {
			return true
		}
		at[i] = 0
	}
	return false
}

// maskOf tells which conditions hold; known is false where one cannot be told.
func maskOf(atoms []*spec.Atom, vars map[string]any) (mask uint32, known bool) {
	for i, a := range atoms {
		truth, ok := a.True(vars)
		if !ok {
			return 0, false
		}
		if truth {
			mask |= 1 << i
		}
	}
	return mask, true
}

// expect asks the oracle what the base with some recipes replaced leads to.
func (s *sheet) expect(replace map[string]Recipe) (*oracle.Expectation, bool) {
	probe := &Case{ID: "probe", Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, replace)}}}
	resolved, err := s.d.Resolve(probe, 0, s.d.referenceEnv(s.drafts))
	if err != nil {
		return nil, false
	}
	sub := s.d.referenceSubmission(&probe.Steps[0], resolved)
	return oracle.Expect(s.d.p, s.d.referenceWorld(sub, nil), sub), true
}
