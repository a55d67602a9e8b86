package design

import (
	"cmp"
	"regexp"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// requests are cases about the whole form.
func requests(b *testcase.Builder) {
	p := b.Maker.Form
	form := func(depth testcase.Depth, role string, title prose.Text, at float64, covers []testcase.Cover, steps ...testcase.Step) {
		b.Add(depth, &testcase.Case{ID: b.ID("form." + role), Title: title, Row: testcase.RowForm, Technique: testcase.ErrorGuessing, Covers: covers, Mark: testcase.Mark{Scale: "requests", At: at, Label: strings.ReplaceAll(role, "_", " ")}, Steps: steps})
	}
	submit := func(step int, replace map[string]testcase.Recipe) testcase.Step {
		return testcase.Step{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(step, replace)}
	}
	form(testcase.Quick, "usual", phrases.AllAsAskedFor.Text(), 0, testcase.Covering(testcase.CoversPartition, "form", testcase.ValidPoint), submit(0, nil))
	if len(p.Fields) == 0 {
		forged(b, form, submit)
		return
	}
	form(testcase.Quick, "all_blank", phrases.AllBlank.Text(), 1, testcase.Covering(testcase.CoversPartition, "form", "blank"), submit(0, allBlank(b)))
	if len(p.Form.Token) > 0 {
		without := submit(0, nil)
		without.Without = p.Form.Token
		form(testcase.Quick, "without_token", phrases.WithoutToken.Text(), 2, testcase.Covering(testcase.CoversGuess, "form", "without token"), without)
	}
	forged(b, form, submit)
	tooMany(b)
	if p.Form.Page != "" && p.Form.Rejected.To == "" && p.Form.Submit.Encoding != "json" {
		again := submit(1, nil)
		again.OnResultPage = true
		form(testcase.Standard, "after_rejection", phrases.PutRight.Text(), 12, testcase.Covering(testcase.CoversGuess, "form", "after rejection"), submit(0, allBlank(b)), again)
	}
	if extra := surplus(b); len(extra) > 0 {
		more := submit(0, nil)
		more.Extra = extra
		form(testcase.Standard, "surplus", phrases.Surplus.Text(), 3, testcase.Covering(testcase.CoversGuess, "form", "surplus parameters"), more)
	}
	if p.Form.Submit.Encoding == "json" && b.Driver == submission.HTTP {
		for i, other := range []struct {
			role, body string
			title      phrases.Phrase
		}{
			{"cut_off", `{"`, phrases.CutOffBody},
			{"no_object", `[]`, phrases.ListForObject},
			{"empty_body", ``, phrases.EmptyBody},
		} {
			depth := testcase.Standard
			if i == 0 {
				depth = testcase.Quick
			}
			form(depth, other.role, other.title.Text(), 6+float64(i), testcase.Covering(testcase.CoversGuess, "form", other.role), testcase.Step{Do: testcase.Submit, Driver: b.Driver, Body: &other.body})
		}
	}
	if redirects := p.Form.Accepted.Status >= 300 && p.Form.Accepted.Status < 400 || p.Form.Accepted.To != ""; redirects {
		form(testcase.Quick, "reload", phrases.ReloadAfter.Text(), 4, testcase.Covering(testcase.CoversGuess, "form", "reload"), submit(0, nil), testcase.Step{Do: testcase.Reload, Driver: b.Driver})
	}
	if p.Form.Accepted.Resubmitted != "" && b.Driver == submission.HTTP {
		same := map[string]testcase.Recipe{}
		for _, f := range p.Fields {
			if !f.Kind.Untouched() && f.Kind != spec.Upload {
				same[f.ID] = testcase.Recipe{Make: testcase.Same, Of: f.ID}
			}
		}
		again := submit(1, same)
		again.Back = true
		form(testcase.Quick, "sent_again", phrases.SentAgain.Text(), 4.5, testcase.Covering(testcase.CoversGuess, "form", "sent again"), submit(0, nil), again)
	}
	for i, f := range p.Fields {
		if f.Kind == spec.Honeypot && b.Driver == submission.HTTP {
			form(testcase.Standard, "filled."+f.ID, phrases.OfField.With("label", f.Label, "what", phrases.HoneypotFilled.Text()), 50+float64(i), testcase.Covering(testcase.CoversGuess, f.ID, "filled"), submit(0, map[string]testcase.Recipe{f.ID: {Make: testcase.Fixed, Text: "https://example.test/"}}))
		}
		if f.Secret && b.Maker.Sets[f.ID] != nil && testcase.RuleOf(f, spec.RuleSameAs) == nil && testcase.RuleOf(f, spec.RuleMatchesSecret) == nil {
			form(testcase.Standard, "same_"+f.ID, phrases.SameForTwo.With("label", f.Label), 5, testcase.Covering(testcase.CoversGuess, f.ID, "same secret twice"), submit(0, nil), submit(1, map[string]testcase.Recipe{f.ID: {Make: testcase.Same, Of: f.ID}}))
		}
	}
}

// forged are requests that no page sends.
func forged(b *testcase.Builder, form func(testcase.Depth, string, prose.Text, float64, []testcase.Cover, ...testcase.Step), submit func(int, map[string]testcase.Recipe) testcase.Step) {
	p := b.Maker.Form
	for i, g := range []struct {
		by     submission.Forgery
		role   string
		wanted bool
	}{
		{submission.ForeignToken, "foreign_token", len(p.Form.Token) > 0},
		{submission.OtherMethod, "other_method", p.Form.Submit.Method != "GET"},
		{submission.OtherType, "other_type", p.Form.Submit.Method != "GET"},
		{submission.AsLists, "as_lists", true},
		{submission.Repeated, "repeated", p.Form.Submit.Encoding != "json"},
		{submission.AsObjects, "as_objects", p.Form.Submit.Encoding == "json"},
		{submission.AsBooleans, "as_booleans", p.Form.Submit.Encoding == "json"},
		{submission.MembersTwice, "members_twice", p.Form.Submit.Encoding == "json"},
		{submission.OverridesMethod, "overrides_method", p.Form.Submit.Method != "GET" && p.Form.Submit.Encoding != "json"},
		{submission.TooLarge, "too_large", p.Form.Requests != nil && p.Form.Requests.TooLarge != nil},
		{submission.Undecodable, "undecodable", p.Form.Requests != nil && p.Form.Requests.Undecodable != nil},
		{submission.SignedOut, "signed_out", p.Form.Before != nil && p.Form.Before.SignedIn != ""},
	} {
		if !g.wanted {
			continue
		}
		step := submit(0, nil)
		step.Forged = g.by
		form(testcase.Standard, g.role, phrases.Forgeries[string(g.by)].Text(), 13+float64(i), testcase.Covering(testcase.CoversGuess, "form", g.role), step)
	}
	if p.Form.Requests == nil || b.Driver != submission.HTTP {
		return
	}
	for i, r := range p.Form.Requests.Records {
		step := submit(0, nil)
		step.Forged, step.Record = submission.OtherRecord, r.ID
		title := phrases.OtherRecord.With("record", cmp.Or(r.Title, strings.ReplaceAll(r.ID, "_", " ")))
		form(testcase.Quick, "record."+r.ID, title, 40+float64(i), testcase.Covering(testcase.CoversGuess, "form", "record "+r.ID), step)
	}
}

// leftOut sends a field that must be filled not at all.
func leftOut(b *testcase.Builder, f *spec.PreparedField) {
	if f.Kind.Untouched() || f.Kind == spec.Upload || f.Kind == spec.Checkbox || f.Kind == spec.MultipleChoice || testcase.RuleOf(f, spec.RuleRequired) == nil {
		return // of one that may be blank, sites may take it either way
	}
	required := testcase.RuleOf(f, spec.RuleRequired).Rule.Required
	told := func(m *spec.Message) testcase.Depth {
		if m != nil {
			return testcase.Standard
		}
		return testcase.Thorough
	}
	b.AddFieldCase(told(required.Absent), f, "guess.absent", phrases.Absent.Text(), testcase.ErrorGuessing, testcase.Covering(testcase.CoversGuess, f.ID, "absent"), testcase.Recipe{Make: testcase.Absent}, testcase.Mark{Scale: "guessed", At: 201, Label: "not sent"})
	if b.Maker.Form.Form.Submit.Encoding == "json" {
		b.AddFieldCase(told(required.Null), f, "guess.null", phrases.Null.Text(), testcase.ErrorGuessing, testcase.Covering(testcase.CoversGuess, f.ID, "null"), testcase.Recipe{Make: testcase.Null}, testcase.Mark{Scale: "guessed", At: 202, Label: "null"})
	}
}

func allBlank(b *testcase.Builder) map[string]testcase.Recipe {
	out := map[string]testcase.Recipe{}
	for _, f := range b.Maker.Form.Fields {
		switch f.Kind {
		case spec.Hidden, spec.Honeypot:
		case spec.Checkbox:
			out[f.ID] = testcase.Recipe{Make: testcase.Absent}
		default:
			out[f.ID] = testcase.Recipe{Make: testcase.Fixed}
		}
	}
	return out
}

// surplus are the stored columns that no field fills, under their own names.
func surplus(b *testcase.Builder) []submission.Pair {
	names := map[string]bool{}
	for _, f := range b.Maker.Form.Fields {
		names[f.Name] = true
	}
	var out []submission.Pair
	for i := range b.Maker.Form.Form.Stored {
		st := &b.Maker.Form.Form.Stored[i]
		for _, column := range st.ColumnNames() {
			src := st.Columns[column]
			if src.From == "" && src.Secret == "" && src.Now == nil && !names[column] {
				out = append(out, submission.Pair{Name: column, Value: surplusValue(src)})
			}
		}
	}
	for _, name := range []string{"is_admin", "id"} {
		if !names[name] && !slices.ContainsFunc(out, func(p submission.Pair) bool { return p.Name == name }) {
			out = append(out, submission.Pair{Name: name, Value: "1"})
		}
	}
	named := naming(b.Maker.Form)
	for i := range out {
		out[i].Name = named(out[i].Name)
	}
	return out
}

// nested are the ways in which frameworks name a member of a record in a request: member[role], member.role.
var nested = regexp.MustCompile(`^([A-Za-z_]\w*)(\[\w+\]|\.\w+)$`)

// naming is how the form names its parameters: as those of one record, where most are.
func naming(p *spec.Prepared) func(string) string {
	count := map[[2]string]int{}
	for _, f := range p.Fields {
		if m := nested.FindStringSubmatch(f.Name); m != nil {
			count[[2]string{m[1], m[2][:1]}]++
		}
	}
	for of, n := range count {
		if 2*n <= len(p.Fields) {
			continue
		}
		if of[1] == "[" {
			return func(name string) string { return of[0] + "[" + name + "]" }
		}
		return func(name string) string { return of[0] + "." + name }
	}
	return func(name string) string { return name }
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
