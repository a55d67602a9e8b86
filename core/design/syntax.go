package design

import (
	"slices"
	"strconv"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// syntax are values that tell a field's pattern apart from its likely mistakes: one that only the mistaken pattern takes, or one that
// it refuses. Those about numbers of repetitions that the pattern names, other than 0 and 1, belong to depth standard.
func syntax(b *testcase.Builder, f *spec.PreparedField, most testcase.Depth) {
	if b.Maker.Sets[f.ID] == nil || testcase.RuleOf(f, spec.RuleSameAs) != nil {
		return
	}
	for _, r := range f.Rules {
		if r.Kind != spec.RulePattern || r.Layer != spec.OnServer {
			continue
		}
		list, err := testcase.Mutants(b.Maker.Sets[f.ID], r)
		if err != nil {
			b.Omitted = append(b.Omitted, testcase.Omission{About: r.ID, Why: prose.Text(err.Error())})
			continue
		}
		id := testcase.LocalID(r)
		for i, m := range list {
			depth := testcase.Thorough
			if m.Counted {
				depth = testcase.Standard
			}
			if slices.Index(testcase.Depths, depth) > slices.Index(testcase.Depths, most) {
				continue
			}
			about := testcase.Covering(testcase.CoversMutant, r.ID, m.Role)
			invalid := testcase.Recipe{Make: testcase.Fresh, Breaks: id, Mutant: m.Role, OfRule: id}
			valid := testcase.Recipe{Make: testcase.Fresh, Mutant: m.Role, OfRule: id}
			mark := testcase.Mark{Scale: string(r.Kind), At: 300 + float64(i), Label: strings.ReplaceAll(m.Role, "_", " ")}
			if _, ok := draft(b, f, invalid); ok {
				b.AddFieldCase(depth, f, id+".mutant."+m.Role, phrases.WouldPass.With("change", slip(&m)), testcase.Syntax, about, invalid, mark)
			} else if _, ok := draft(b, f, valid); ok {
				b.AddFieldCase(depth, f, id+".mutant."+m.Role, phrases.WouldRefuse.With("change", slip(&m)), testcase.Syntax, about, valid, mark)
			}
		}
	}
}

// slip says which mistake a mutant is.
func slip(m *values.Mutant) prose.Text {
	characters := phrases.CharacterRange.With("first", string(m.Of.Lo), "last", string(m.Of.Hi))
	if m.Of.Lo == m.Of.Hi {
		characters = prose.Text(strconv.QuoteRune(m.Of.Lo))
	}
	return phrases.Slips[string(m.Mistake)].With("characters", characters)
}
