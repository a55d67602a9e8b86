package design

import (
	"slices"
	"strings"
	"unicode/utf8"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// partitions are the classes of values that a field's rules treat alike: kept, blank, and each rule broken alone.
func partitions(b *testcase.Builder, f *spec.PreparedField) {
	if f.Kind.Untouched() || f.Kind == spec.Upload {
		return
	}
	blank(b, f)
	if !testcase.Textual(f) {
		wrongKind(b, f)
		return
	}
	if b.Maker.Sets[f.ID] == nil || testcase.RuleOf(f, spec.RuleSameAs) != nil {
		return
	}
	usual := b.Maker.BaseRecipe(f)
	if usual.Make == testcase.Fixed {
		usual = testcase.Recipe{Make: testcase.Fresh}
	}
	b.AddFieldCase(testcase.Quick, f, "valid", phrases.UsualValue.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, f.ID, testcase.ValidPoint), usual, textMark(b, f, "usual", 0))
	if r := b.Maker.SecretRuleFor(f); r == nil {
		normalised(b, f)
	} else {
		b.AddFieldCase(testcase.Quick, f, "unknown", phrases.NameOfNobody.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, "unknown"), testcase.Recipe{Make: testcase.Fresh}, textMark(b, f, "unknown", 4))
		if r.IgnoringCase {
			b.AddFieldCase(testcase.Quick, f, "name.case", phrases.OtherCapitals.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, "name in another case"), testcase.Recipe{Make: testcase.OfAccountName, Change: testcase.OtherCase}, textMark(b, f, "other capitals", 3))
		}
		if slices.Contains(f.Normalize, spec.Trim) {
			b.AddFieldCase(testcase.Standard, f, "name.around", phrases.SpacesAround.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, "name with spaces"), testcase.Recipe{Make: testcase.OfAccountName, Change: testcase.SpacesAround}, textMark(b, f, "spaces around", 2))
		}
	}
	for _, r := range f.Rules {
		switch {
		case r.Kind == spec.RuleMatchesSecret:
			covers := testcase.Covering(testcase.CoversPartition, r.ID, testcase.BrokenPoint)
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".other", phrases.AnotherSecret.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fresh}, testcase.Mark{Scale: "secret", At: 1, Label: "another"})
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".case", phrases.OtherCapitals.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.OfAccount, Change: testcase.OtherCase}, testcase.Mark{Scale: "secret", At: 2, Label: "other capitals"})
			b.AddFieldCase(testcase.Standard, f, testcase.LocalID(r)+".longer", phrases.OneCharacterMore.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.OfAccount, Change: testcase.OneMore}, testcase.Mark{Scale: "secret", At: 4, Label: "one more"})
			b.AddFieldCase(testcase.Standard, f, testcase.LocalID(r)+".shorter", phrases.OneCharacterFewer.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.OfAccount, Change: testcase.OneFewer}, testcase.Mark{Scale: "secret", At: 5, Label: "one fewer"})
			b.AddFieldCase(testcase.Standard, f, testcase.LocalID(r)+".around", phrases.WithSpacesAround.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversGuess, f.ID, "spaces around"), testcase.Recipe{Make: testcase.OfAccount, Change: testcase.SpacesAround}, testcase.Mark{Scale: "secret", At: 3, Label: "spaces around"})
		case r.Kind == spec.RuleExistsIn:
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".no_row", phrases.InNoRow.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, testcase.BrokenPoint), testcase.Recipe{Make: testcase.Fresh}, textMark(b, f, "no row", 4))
		case r.Auto != nil && r.Layer == spec.OnServer:
			broken(b, f, r)
		}
	}
}

func blank(b *testcase.Builder, f *spec.PreparedField) {
	required := testcase.RuleOf(f, spec.RuleRequired)
	covers := testcase.Covering(testcase.CoversPartition, f.ID, "blank")
	mark := testcase.Mark{Scale: testcase.ScaleOf(f), At: -1e12, Label: "blank"}
	switch {
	case f.Kind == spec.Checkbox:
		b.AddFieldCase(testcase.Quick, f, "unticked", phrases.NotChecked.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Absent}, testcase.Mark{Scale: "state", At: 0, Label: "not checked"})
		b.AddFieldCase(testcase.Quick, f, "ticked", phrases.Checked.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, f.ID, "ticked"), testcase.Recipe{Make: testcase.Fixed, Text: f.Value}, testcase.Mark{Scale: "state", At: 1, Label: "checked"})
		return
	case testcase.RuleOf(f, spec.RuleSameAs) != nil:
		b.AddFieldCase(testcase.Standard, f, "blank", phrases.LeftBlank.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed}, mark)
		return
	case f.Kind == spec.SingleChoice && required == nil && !offersBlank(f):
		// whether no choice can be made at all, only the page can say
		b.AddFieldCase(testcase.Standard, f, "blank", phrases.NothingChosen.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed}, mark)
		return
	}
	b.AddFieldCase(testcase.Quick, f, "blank", phrases.LeftBlank.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed}, mark)
	if slices.Contains(f.Normalize, spec.Trim) && testcase.Textual(f) {
		b.AddFieldCase(testcase.Standard, f, "blank.spaces", phrases.NothingButSpace.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: "   "}, testcase.Mark{Scale: testcase.ScaleOf(f), At: -1e12 + 1, Label: "spaces"})
	}
}

func offersBlank(f *spec.PreparedField) bool {
	return slices.ContainsFunc(f.Options, func(o spec.Option) bool { return o.Value == "" })
}

// wrongKind are values that are no number, no date, or not offered.
func wrongKind(b *testcase.Builder, f *spec.PreparedField) {
	for _, r := range f.Rules {
		covers := testcase.Covering(testcase.CoversPartition, r.ID, testcase.BrokenPoint)
		switch r.Kind {
		case spec.RuleNumber:
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".words", phrases.LettersForNumber.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: "abc"}, testcase.Mark{Scale: "no number", At: 0, Label: "abc"})
			b.AddFieldCase(testcase.Standard, f, testcase.LocalID(r)+".two", phrases.TwoNumbers.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: "1 2"}, testcase.Mark{Scale: "no number", At: 1, Label: "1 2"})
		case spec.RuleDate:
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".no_such_day", phrases.NoSuchDay.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: "2001-02-30"}, testcase.Mark{Scale: "no date", At: 0, Label: "2001-02-30"})
			b.AddFieldCase(testcase.Standard, f, testcase.LocalID(r)+".words", phrases.LettersForDate.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: "soon"}, testcase.Mark{Scale: "no date", At: 1, Label: "soon"})
		case spec.RuleTime:
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".words", phrases.LettersForTime.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: "soon"}, testcase.Mark{Scale: "no time", At: 0, Label: "soon"})
		case spec.RuleExistsIn:
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".no_row", phrases.InNoRow.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: noRow(b.Maker, f)}, testcase.Mark{Scale: "choice", At: 1e6, Label: "no row"})
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".row", phrases.InARow.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, "kept"), testcase.Recipe{Make: testcase.OfRow}, testcase.Mark{Scale: "choice", At: 0, Label: "a row"})
		case spec.RuleOneOfOptions:
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".not_offered", phrases.ValueNotOffered.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.NotOffered, Text: notOffered(f)}, testcase.Mark{Scale: "choice", At: 1e6, Label: "not an option"})
			if len(f.Options) == 0 {
				continue
			}
			if f.Options[0].Label != "" && f.Options[0].Label != f.Options[0].Value {
				b.AddFieldCase(testcase.Standard, f, testcase.LocalID(r)+".label", phrases.LabelForValue.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: f.Options[0].Label}, testcase.Mark{Scale: "choice", At: 1e6 + 1, Label: "a label"})
			}
		}
	}
}

// noRow is a value of the field's kind that is hardly in any row.
func noRow(m *testcase.Maker, f *spec.PreparedField) string {
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
func normalised(b *testcase.Builder, f *spec.PreparedField) {
	for _, step := range f.Normalize {
		covers := testcase.Covering(testcase.CoversPartition, f.ID, "only valid after "+step.Plain)
		switch {
		case step.Strip != "":
			sign, _ := utf8.DecodeRuneInString(step.Strip)
			changed(b, f, "strip.inside", phrases.SignInside.With("sign", string(sign)), testcase.Recipe{Make: testcase.Fresh, Change: testcase.SignInside, Sign: string(sign)}, 4)
		case step.Phone != "":
			changed(b, f, "phone.national", phrases.NationalNumber.With("code", step.Phone), testcase.Recipe{Make: testcase.Fresh, Change: testcase.OnlyItsZero, Sign: step.Phone}, 5)
			changed(b, f, "phone.zeros", phrases.TwoZeros.Text(), testcase.Recipe{Make: testcase.Fresh, Change: testcase.TwoZeros}, 6)
			changed(b, f, "phone.groups", phrases.DigitsInGroups.Text(), testcase.Recipe{Make: testcase.Fresh, Change: testcase.InGroups}, 7)
		}
		switch step {
		case spec.Trim:
			b.AddFieldCase(testcase.Quick, f, "trim.around", phrases.SpacesAround.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fresh, Change: testcase.SpacesAround}, textMark(b, f, "spaces around", 2))
		case spec.Lower, spec.Upper:
			b.AddFieldCase(testcase.Quick, f, step.Plain+".other", phrases.OtherCapitals.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fresh, Change: testcase.OtherCase}, textMark(b, f, "other capitals", 3))
		}
	}
}

// changed is a case of a valid value that was changed, so that only a step makes it valid again; none where it stays as it was.
func changed(b *testcase.Builder, f *spec.PreparedField, id string, title prose.Text, recipe testcase.Recipe, at float64) {
	if !testcase.Textual(f) {
		return
	}
	was, ok := draft(b, f, testcase.Recipe{Make: recipe.Make})
	if ok && recipe.Changed(was) != was {
		covers := testcase.Covering(testcase.CoversPartition, f.ID, "only valid after "+id)
		b.AddFieldCase(testcase.Standard, f, id, title, testcase.Partitioning, covers, recipe, textMark(b, f, recipe.Change, at))
	}
}

// broken is one rule broken alone: by the nearest misses, and by values of one kind of character.
func broken(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	sets := b.Maker.Sets[f.ID]
	covers := testcase.Covering(testcase.CoversPartition, r.ID, testcase.BrokenPoint)
	id := testcase.LocalID(r)
	before := len(b.Cases)
	n := 0
	var misses []values.Miss
	if example, err := sets.Member("", nil, values.Want{Length: -1, Hint: sets.Hint(0, -1)}); err == nil {
		misses = slices.Collect(sets.Misses(id, example)) // else nothing is valid, but something may break this rule alone
	}
	for _, m := range misses {
		depth := testcase.Thorough
		if n < 2 {
			depth = testcase.Quick
		} else if n < 6 {
			depth = testcase.Standard
		}
		n++
		b.AddFieldCase(depth, f, id+".miss."+m.Role, missed(&m), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fresh, Breaks: id, Miss: m.Role}, testcase.Mark{Scale: string(r.Kind), At: float64(n), Label: missLabel(m)})
	}
	for i, role := range []string{"letters_only", "digits_only", "signs_only"} {
		if (r.Kind == spec.RuleEmail || r.Kind == spec.RuleURL) && i > 0 || !sets.Usable(id, testcase.SoleCharacters[role]) {
			continue
		}
		only := []phrases.Phrase{phrases.LettersOnly, phrases.DigitsOnly, phrases.SignsOnly}[i].Text()
		depth := []testcase.Depth{testcase.Standard, testcase.Standard, testcase.Thorough}[i]
		if len(b.Cases) == before {
			depth = testcase.Quick
		}
		b.AddFieldCase(depth, f, id+"."+role, only, testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fresh, Breaks: id, Miss: role}, testcase.Mark{Scale: string(r.Kind), At: 100 + float64(i), Label: strings.ReplaceAll(role, "_", " ")})
	}
	if len(b.Cases) == before && sets.Usable(id, nil) {
		b.AddFieldCase(testcase.Quick, f, id+".broken", phrases.BreaksAlone.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fresh, Breaks: id}, testcase.Mark{Scale: string(r.Kind), At: 200, Label: "broken"})
	}
	if len(b.Cases) == before {
		b.Omitted = append(b.Omitted, testcase.Omission{About: r.ID, Why: phrases.BreaksAnotherToo.Text()})
	}
}

// missed says what was done to a value so that it misses.
func missed(m *values.Miss) prose.Text {
	return phrases.Misses[string(m.Edit)].With("sign", string(m.Sign.Rune), "character", phrases.Characters[m.Sign.Name].Text())
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
		return string(m.Sign.Rune) + " gone"
	}
	return strings.ReplaceAll(strings.TrimSuffix(m.Role, "_more"), "_", " ")
}

// textMark places a valid value of a text on its length scale, by the length it has on the reference day.
func textMark(b *testcase.Builder, f *spec.PreparedField, label string, nth float64) testcase.Mark {
	sets := b.Maker.Sets[f.ID]
	v, err := sets.Member("", nil, values.Want{Length: -1, Hint: sets.Hint(0, -1)})
	if err != nil || testcase.RuleOf(f, spec.RuleLength) == nil {
		return testcase.Mark{Scale: testcase.ScaleOf(f), At: nth, Label: label}
	}
	return testcase.Mark{Scale: testcase.ScaleOf(f), At: float64(testcase.RuleOf(f, spec.RuleLength).Limit.Unit.Length(v)) + nth/10, Label: label}
}

// choices takes each option once.
func choices(b *testcase.Builder, f *spec.PreparedField) {
	if f.Kind != spec.SingleChoice && f.Kind != spec.MultipleChoice {
		return
	}
	if f.Kind == spec.MultipleChoice && len(f.Options) > 1 {
		all := make([]string, len(f.Options))
		for i, o := range f.Options {
			all[i] = o.Value
		}
		covers := testcase.Covering(testcase.CoversPartition, f.ID, "several")
		b.AddFieldCase(testcase.Quick, f, "several", phrases.AllChosen.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: strings.Join(all, testcase.ChosenTogether)}, testcase.Mark{Scale: "choice", At: float64(len(all)), Label: "all"})
	}
	for i, o := range f.Options {
		if o.Value == "" {
			continue
		}
		label := o.Label
		if label == "" {
			label = o.Value
		}
		b.AddFieldCase(testcase.Quick, f, "option."+o.Value, prose.Text(label), testcase.EachChoice, testcase.Covering(testcase.CoversOption, f.ID, o.Value), testcase.Recipe{Make: testcase.Fixed, Text: o.Value}, testcase.Mark{Scale: "choice", At: float64(i), Label: o.Value, Given: true})
	}
}
