package decision

import (
	"maps"
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/testcase"
)

// findWays tries combinations of values of the named fields, and keeps for every combination of conditions the first that shows this
// decision alone, or else the first at all.
func findWays(b *testcase.Builder, x *decision) {
	x.ways = map[uint32]map[string]testcase.Recipe{}
	choices := make([][]testcase.Recipe, len(x.names))
	vars := b.Maker.BaseVars()
	variables := make([][]any, len(x.names))
	texts := make([][]string, len(x.names))
	x.whole = true
	for i, f := range x.names {
		all, whole := b.Maker.Candidates(f, x.expression)
		x.whole = x.whole && whole
		for _, r := range all {
			text, present, ok := b.Maker.ResolveOne(f, r)
			if !ok && r.Make != testcase.Same {
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
	for ; x.tries < maxCombined; x.tries++ {
		for i, f := range x.names {
			vars[f.ID] = variables[i][at[i]]
			if r := &choices[i][at[i]]; r.Make == testcase.Same { // known only together with the other
				if k := slices.IndexFunc(x.names, func(n *spec.PreparedField) bool { return n.ID == r.Of }); k >= 0 {
					v := f.ValueOf(testcase.Shifted(texts[k][at[k]], r.Shift), true)
					vars[f.ID] = f.Var(&v)
				}
			}
		}
		if mask, known := maskOf(x.atoms, vars); known && clean[mask] >= 0 && clean[mask] < 40 {
			pick := map[string]testcase.Recipe{}
			for i, f := range x.names {
				pick[f.ID] = choices[i][at[i]]
			}
			clean[mask]++
			if e, ok := b.Expect(pick); ok && x.clean(e) {
				clean[mask] = -1
				x.ways[mask] = pick
			} else if x.ways[mask] == nil {
				x.ways[mask] = pick
			}
		}
		if !testcase.Next(at, choices) {
			x.tries++
			cleanUp(b, x, clean)
			return
		}
	}
	x.whole = false
	cleanUp(b, x, clean)
}

// cleanUp gives fields that only other rules name such values that those rules hold, where a way breaks them too.
func cleanUp(b *testcase.Builder, x *decision, clean map[uint32]int) {
	for mask, pick := range x.ways {
		if clean[mask] < 0 {
			continue
		}
		e, ok := b.Expect(pick)
		if !ok {
			continue
		}
		var names []*spec.PreparedField
		var choices [][]testcase.Recipe
		for _, r := range b.Maker.Form.Across {
			if !slices.ContainsFunc(e.Failing, func(f oracle.Failure) bool { return f.Rule == r.ID }) {
				continue
			}
			for _, f := range r.Names {
				if _, named := pick[f.ID]; !named && !slices.Contains(names, f) {
					all, _ := b.Maker.Candidates(f, r.Expression)
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
			if e, ok := b.Expect(wider); ok && x.clean(e) {
				x.ways[mask], clean[mask] = wider, -1
				break
			}
			if !testcase.Next(at, choices) {
				break
			}
		}
		if x.acceptedOnly && clean[mask] >= 0 {
			delete(x.ways, mask)
		}
	}
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
