package design

import (
	"slices"
	"strings"

	"oddtick/core/spec"
	"oddtick/core/values"
)

// partitions are the classes of values that a field's rules treat alike: kept, blank, and each rule broken alone.
func (s *sheet) partitions(f *spec.PreparedField) {
	if f.Kind.Untouched() || f.Kind == spec.Upload {
		return
	}
	s.blank(f)
	if !textual(f) {
		s.wrongKind(f)
		return
	}
	if s.d.sets[f.ID] == nil || rule(f, spec.RuleAgrees) != nil {
		return
	}
	usual := s.d.baseRecipe(f)
	if usual.Make == Fixed {
		usual = Recipe{Make: Fresh}
	}
	s.one(Quick, f, "valid", "a usual value", Partitioning, cover(CoversPartition, f.ID, ValidPoint), usual, s.textMark(f, "usual", 0))
	if r := s.d.names(f); r == nil {
		s.normalised(f)
	} else {
		s.one(Quick, f, "unknown", "a name that nobody has", Partitioning, cover(CoversPartition, r.ID, "unknown"), Recipe{Make: Fresh}, s.textMark(f, "unknown", 4))
		if r.IgnoringCase {
			s.one(Quick, f, "name.case", "in the other case", Partitioning, cover(CoversPartition, r.ID, "name in another case"), Recipe{Make: OfAccountName, Change: OtherCase}, s.textMark(f, "other case", 3))
		}
		if slices.Contains(f.Sent, "trim") {
			s.one(Standard, f, "name.around", "spaces around", Partitioning, cover(CoversPartition, r.ID, "name with spaces"), Recipe{Make: OfAccountName, Change: SpacesAround}, s.textMark(f, "spaces around", 2))
		}
	}
	for _, r := range f.Rules {
		switch {
		case r.Kind == spec.RuleMatches:
			covers := cover(CoversPartition, r.ID, BrokenPoint)
			s.one(Quick, f, localID(r)+".other", "another secret", Partitioning, covers, Recipe{Make: Fresh}, Mark{"secret", 1, "another"})
			s.one(Quick, f, localID(r)+".case", "in the other case", Partitioning, covers, Recipe{Make: OfAccount, Change: OtherCase}, Mark{"secret", 2, "other case"})
			s.one(Standard, f, localID(r)+".around", "with spaces around", Partitioning, cover(CoversGuess, f.ID, "spaces around"), Recipe{Make: OfAccount, Change: SpacesAround}, Mark{"secret", 3, "spaces around"})
		case r.Kind == spec.RuleRefers:
			s.one(Quick, f, localID(r)+".no_row", "a value that no row holds", Partitioning, cover(CoversPartition, r.ID, BrokenPoint), Recipe{Make: Fresh}, s.textMark(f, "no row", 4))
		case r.Auto != nil && r.Layer == spec.OnServer:
			s.broken(f, r)
		}
	}
}

func (s *sheet) blank(f *spec.PreparedField) {
	required := rule(f, spec.RuleRequired)
	covers := cover(CoversPartition, f.ID, "blank")
	mark := Mark{Scale: scaleOf(f), At: -1e12, Label: "blank"}
	switch {
	case f.Kind == spec.Checkbox:
		s.one(Quick, f, "unticked", "not ticked", Partitioning, covers, Recipe{Make: Absent}, Mark{"state", 0, "not ticked"})
		s.one(Quick, f, "ticked", "ticked", Partitioning, cover(CoversPartition, f.ID, "ticked"), Recipe{Make: Fixed, Text: f.Value}, Mark{"state", 1, "ticked"})
		return
	case rule(f, spec.RuleAgrees) != nil:
		s.one(Standard, f, "blank", "left blank", Partitioning, covers, Recipe{Make: Fixed}, mark)
		return
	case f.Kind == spec.OneChoice && required == nil && !offersBlank(f):
		// whether no choice can be made at all, only the page can say
		s.one(Standard, f, "blank", "nothing chosen", Partitioning, covers, Recipe{Make: Fixed}, mark)
		return
	}
	s.one(Quick, f, "blank", "left blank", Partitioning, covers, Recipe{Make: Fixed}, mark)
	if slices.Contains(f.Sent, "trim") && textual(f) {
		s.one(Standard, f, "blank.spaces", "nothing but spaces", Partitioning, covers, Recipe{Make: Fixed, Text: "   "}, Mark{scaleOf(f), -1e12 + 1, "spaces"})
	}
}

func offersBlank(f *spec.PreparedField) bool {
	return slices.ContainsFunc(f.Options, func(o spec.Option) bool { return o.Value == "" })
}

// wrongKind are values that are no number, no date, or not offered.
func (s *sheet) wrongKind(f *spec.PreparedField) {
	for _, r := range f.Rules {
		covers := cover(CoversPartition, r.ID, BrokenPoint)
		switch r.Kind {
		case spec.RuleNumber:
			s.one(Quick, f, localID(r)+".words", "letters for a number", Partitioning, covers, Recipe{Make: Fixed, Text: "abc"}, Mark{"no number", 0, "abc"})
			s.one(Standard, f, localID(r)+".two", "two numbers", Partitioning, covers, Recipe{Make: Fixed, Text: "1 2"}, Mark{"no number", 1, "1 2"})
		case spec.RuleDate:
			s.one(Quick, f, localID(r)+".no_such_day", "a day that does not exist", Partitioning, covers, Recipe{Make: Fixed, Text: "2001-02-30"}, Mark{"no date", 0, "2001-02-30"})
			s.one(Standard, f, localID(r)+".words", "letters for a date", Partitioning, covers, Recipe{Make: Fixed, Text: "soon"}, Mark{"no date", 1, "soon"})
		case spec.RuleTime:
			s.one(Quick, f, localID(r)+".words", "letters for a time", Partitioning, covers, Recipe{Make: Fixed, Text: "soon"}, Mark{"no time", 0, "soon"})
		case spec.RuleRefers:
			s.one(Quick, f, localID(r)+".no_row", "a value that no row holds", Partitioning, covers, Recipe{Make: Fixed, Text: s.d.noRow(f)}, Mark{"choice", 1e6, "no row"})
			s.one(Quick, f, localID(r)+".row", "a value that a row holds", Partitioning, cover(CoversPartition, r.ID, "kept"), Recipe{Make: OfRow}, Mark{"choice", 0, "a row"})
		case spec.RuleListed:
			s.one(Quick, f, localID(r)+".not_offered", "a value that is not offered", Partitioning, covers, Recipe{Make: Fixed, Text: notOffered(f)}, Mark{"choice", 1e6, "not offered"})
			if len(f.Options) == 0 {
				continue
			}
			if f.Options[0].Label != "" && f.Options[0].Label != f.Options[0].Value {
				s.one(Standard, f, localID(r)+".label", "a label for its value", Partitioning, covers, Recipe{Make: Fixed, Text: f.Options[0].Label}, Mark{"choice", 1e6 + 1, "a label"})
			}
		}
	}
}

// noRow is a value of the field's kind that is hardly in any row.
func (d *Designer) noRow(f *spec.PreparedField) string {
	if f.Kind == spec.Number {
		return "987654321"
	}
	return notOffered(f)
}

func notOffered(f *spec.PreparedField) string {
	v := "zz"
	for slices.ContainsFunc(f.Options, func(o spec.Option) bool { return o.Value == v }) {
		v += "z"
	}
	return v
}

// normalised are values that are valid only after the server's steps.
func (s *sheet) normalised(f *spec.PreparedField) {
	for _, step := range f.Sent {
		covers := cover(CoversPartition, f.ID, "only valid after "+step)
		switch step {
		case "trim":
			s.one(Quick, f, "trim.around", "spaces around", Partitioning, covers, Recipe{Make: Fresh, Change: SpacesAround}, s.textMark(f, "spaces around", 2))
		case "lower", "upper":
			s.one(Quick, f, step+".other", "in the other case", Partitioning, covers, Recipe{Make: Fresh, Change: OtherCase}, s.textMark(f, "other case", 3))
		}
	}
}

// broken is one rule broken alone: by the nearest misses, and by values of one kind of character.
func (s *sheet) broken(f *spec.PreparedField, r *spec.PreparedRule) {
	sets := s.d.sets[f.ID]
	covers := cover(CoversPartition, r.ID, BrokenPoint)
	id := localID(r)
	before := len(s.cases)
	n := 0
	var misses []values.Miss
	if example, err := sets.member("", nil, values.Want{Length: -1, Hint: sets.hint(0, -1)}); err == nil {
		misses = slices.Collect(sets.misses(id, example)) // else nothing is valid, but something may break this rule alone
	}
	for _, m := range misses {
		depth := Thorough
		if n < 2 {
			depth = Quick
		} else if n < 6 {
			depth = Standard
		}
		n++
		s.one(depth, f, id+".miss."+m.Role, m.Kind, Partitioning, covers, Recipe{Make: Fresh, Breaks: id, Miss: m.Role}, Mark{string(r.Kind), float64(n), missLabel(m)})
	}
	for i, role := range []string{"letters_only", "digits_only", "signs_only"} {
		if (r.Kind == spec.RuleEmail || r.Kind == spec.RuleURL) && i > 0 || !sets.usable(id, soleCharacters[role]) {
			continue
		}
		label := []string{"letters only", "digits only", "signs only"}[i]
		depth := []Depth{Standard, Standard, Thorough}[i]
		if len(s.cases) == before {
			depth = Quick
		}
		s.one(depth, f, id+"."+role, label, Partitioning, covers, Recipe{Make: Fresh, Breaks: id, Miss: role}, Mark{string(r.Kind), 100 + float64(i), label})
	}
	if len(s.cases) == before && sets.usable(id, nil) {
		s.one(Quick, f, id+".broken", "breaks this rule alone", Partitioning, covers, Recipe{Make: Fresh, Breaks: id}, Mark{string(r.Kind), 200, "broken"})
	}
	if len(s.cases) == before {
		s.omitted = append(s.omitted, Omission{About: r.ID, Why: "every value that breaks it breaks another rule too"})
	}
}

func missLabel(m values.Miss) string {
	switch m.Role {
	case "fewer":
		return "one fewer"
	case "lower":
		return "small letter"
	case "upper":
		return "capital"
	case "without_sign":
		return strings.TrimPrefix(m.Kind, "without its ") + " gone"
	}
	return strings.ReplaceAll(strings.TrimSuffix(m.Role, "_more"), "_", " ")
}

// textMark places a valid value of a text on its length scale, by the length it has on the reference day.
func (s *sheet) textMark(f *spec.PreparedField, label string, nth float64) Mark {
	sets := s.d.sets[f.ID]
	v, err := sets.member("", nil, values.Want{Length: -1, Hint: sets.hint(0, -1)})
	if err != nil || rule(f, spec.RuleLength) == nil {
		return Mark{Scale: scaleOf(f), At: nth, Label: label}
	}
	return Mark{Scale: scaleOf(f), At: float64(rule(f, spec.RuleLength).Limit.Unit.Length(v)) + nth/10, Label: label}
}
