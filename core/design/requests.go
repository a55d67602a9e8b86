package design

import (
	"slices"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// requests are cases about the whole form.
func (s *sheet) requests() {
	p := s.d.p
	form := func(depth Depth, role, title string, at float64, covers []Cover, steps ...Step) {
		s.add(depth, &Case{ID: s.id("form." + role), Title: title, Row: RowForm, Technique: ErrorGuessing, Covers: covers, Mark: Mark{"requests", at, strings.ReplaceAll(role, "_", " ")}, Steps: steps})
	}
	submit := func(step int, replace map[string]Recipe) Step {
		return Step{Do: Submit, Driver: s.driver, Inputs: s.inputs(step, replace)}
	}
	form(Quick, "usual", "everything as asked for", 0, cover(CoversPartition, "form", ValidPoint), submit(0, nil))
	form(Quick, "all_blank", "everything left blank", 1, cover(CoversPartition, "form", "blank"), submit(0, s.allBlank()))
	if len(p.Form.Token) > 0 {
		without := submit(0, nil)
		without.Without = p.Form.Token
		form(Quick, "without_token", "without the token", 2, cover(CoversGuess, "form", "without token"), without)
	}
	s.forged(form, submit)
	if p.Form.Page != "" && p.Form.Rejected.To == "" && p.Form.Submit.Encoding != "json" {
		again := submit(1, nil)
		again.Onward = true
		form(Standard, "after_rejection", "everything put right after a rejection, on the page that says so", 12, cover(CoversGuess, "form", "after rejection"), submit(0, s.allBlank()), again)
	}
	if extra := s.surplus(); len(extra) > 0 {
		more := submit(0, nil)
		more.Extra = extra
		form(Standard, "surplus", "surplus parameters named like other columns", 3, cover(CoversGuess, "form", "surplus parameters"), more)
	}
	if p.Form.Submit.Encoding == "json" && s.driver == oracle.HTTP {
		for i, b := range []struct{ role, body, title string }{
			{"cut_off", `{"`, "a body that is cut off"},
			{"no_object", `[]`, "a list in place of an object"},
			{"empty_body", ``, "an empty body"},
		} {
			depth := Standard
			if i == 0 {
				depth = Quick
			}
			form(depth, b.role, b.title, 6+float64(i), cover(CoversGuess, "form", b.role), Step{Do: Submit, Driver: s.driver, Body: &b.body})
		}
	}
	if redirects := p.Form.Accepted.Status >= 300 && p.Form.Accepted.Status < 400 || p.Form.Accepted.To != ""; redirects {
		form(Quick, "reload", "reload after acceptance", 4, cover(CoversGuess, "form", "reload"), submit(0, nil), Step{Do: Reload, Driver: s.driver})
	}
	if p.Form.Accepted.Again != "" && s.driver == oracle.HTTP {
		same := map[string]Recipe{}
		for _, f := range p.Fields {
			if !f.Kind.Untouched() && f.Kind != spec.Upload {
				same[f.ID] = Recipe{Make: Same, Of: f.ID}
			}
		}
		again := submit(1, same)
		again.Back = true
		form(Quick, "sent_again", "sent once more from the same page", 4.5, cover(CoversGuess, "form", "sent again"), submit(0, nil), again)
	}
	for _, f := range p.Fields {
		if f.Secret && s.d.sets[f.ID] != nil && rule(f, spec.RuleAgrees) == nil && rule(f, spec.RuleMatches) == nil {
			form(Standard, "same_"+f.ID, f.Label+": the same for two visitors", 5, cover(CoversGuess, f.ID, "same secret twice"), submit(0, nil), submit(1, map[string]Recipe{f.ID: {Make: Same, Of: f.ID}}))
		}
	}
}

// forged are requests that no page sends.
func (s *sheet) forged(form func(Depth, string, string, float64, []Cover, ...Step), submit func(int, map[string]Recipe) Step) {
	p := s.d.p
	for i, g := range []struct {
		by     oracle.Forgery
		role   string
		wanted bool
	}{
		{oracle.ForeignToken, "foreign_token", len(p.Form.Token) > 0},
		{oracle.OtherMethod, "other_method", p.Form.Submit.Method != "GET"},
		{oracle.OtherType, "other_type", p.Form.Submit.Method != "GET"},
		{oracle.AsLists, "as_lists", true},
		{oracle.Repeated, "repeated", p.Form.Submit.Encoding != "json"},
	} {
		if !g.wanted {
			continue
		}
		step := submit(0, nil)
		step.Forged = g.by
		form(Standard, g.role, string(g.by), 13+float64(i), cover(CoversGuess, "form", g.role), step)
	}
}

// leftOut sends a field that must be filled not at all.
func (s *sheet) leftOut(f *spec.PreparedField) {
	if f.Kind.Untouched() || f.Kind == spec.Upload || f.Kind == spec.Checkbox || f.Kind == spec.SeveralChoices || rule(f, spec.RuleRequired) == nil {
		return // of one that may be blank, sites may take it either way
	}
	required := rule(f, spec.RuleRequired).Rule.Required
	told := func(m *spec.Message) Depth {
		if m != nil {
			return Standard
		}
		return Thorough
	}
	s.one(told(required.Absent), f, "guess.absent", "the parameter left out", ErrorGuessing, cover(CoversGuess, f.ID, "absent"), Recipe{Make: Absent}, Mark{"guessed", 201, "absent"})
	if s.d.p.Form.Submit.Encoding == "json" {
		s.one(told(required.Null), f, "guess.null", "null", ErrorGuessing, cover(CoversGuess, f.ID, "null"), Recipe{Make: Null}, Mark{"guessed", 202, "null"})
	}
}

func (s *sheet) allBlank() map[string]Recipe {
	out := map[string]Recipe{}
	for _, f := range s.d.p.Fields {
		switch f.Kind {
		case spec.Hidden, spec.Trap:
		case spec.Checkbox:
			out[f.ID] = Recipe{Make: Absent}
		default:
			out[f.ID] = Recipe{Make: Fixed}
		}
	}
	return out
}

// surplus are the stored columns that no field fills, under their own names.
func (s *sheet) surplus() []oracle.Pair {
	names := map[string]bool{}
	for _, f := range s.d.p.Fields {
		names[f.Name] = true
	}
	var out []oracle.Pair
	for i := range s.d.p.Form.Stored {
		st := &s.d.p.Form.Stored[i]
		for _, column := range st.ColumnNames() {
			src := st.Columns[column]
			if src.From == "" && src.Secret == "" && src.Now == "" && !names[column] {
				out = append(out, oracle.Pair{Name: column, Value: surplusValue(src)})
			}
		}
	}
	for _, name := range []string{"is_admin", "id"} {
		if !names[name] && !slices.ContainsFunc(out, func(p oracle.Pair) bool { return p.Name == name }) {
			out = append(out, oracle.Pair{Name: name, Value: "1"})
		}
	}
	return out
}

func surplusValue(s spec.Source) string {
	if s.Null {
		return "2001-01-01 00:00:00"
	}
	if s.Is != nil && *s.Is == "1" {
		return "0"
	}
	return "admin"
}
