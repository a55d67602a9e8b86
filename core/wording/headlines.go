package wording

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
	"oddtick/core/wording/promise"
)

// Say is a sentence in words.
func Say(s *prose.Sentence) prose.Text {
	with := places{}
	for name, text := range s.Places {
		with[name] = text
	}
	if s.Input != nil {
		with["subject"] = fill(phrases.Inputs[s.Input.Code].Template(), s.Input.Places)
	}
	template := phrases.Headlines[s.Code].Template()
	if strings.HasPrefix(template, "{of}") || strings.HasPrefix(template, "{member}") {
		return text(template, with) // names of columns and members are written as they are
	}
	return prose.Text(capitalized(fill(template, with)))
}

// Stretch names the values from one to another, with their unit, such as "21 to 190 characters".
func Stretch(least, most, unit string) string {
	return fill(phrases.Stretch.Template(), places{"least": least, "most": most, "unit": unit})
}

// OfStretch is a sentence that names a stretch of values in place of one: where is the stretch, and isLength that it is of lengths. A
// sentence that names no input, or one that is not on a scale, stays as it is.
func OfStretch(s *prose.Sentence, where string, isLength bool) (out *prose.Sentence, says bool) {
	if s == nil || s.Input == nil || !strings.Contains(phrases.Headlines[s.Code].Template(), "{subject}") {
		return s, false
	}
	code := "values"
	if isLength {
		code = "lengths"
	}
	of := *s
	of.Input = &prose.Sentence{Code: code, Places: places{"label": s.Input.Places["label"], "where": where}}
	return &of, true
}

// capitalized begins with a capital letter.
func capitalized(s string) string {
	first, size := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(first)) + s[size:]
}

// occasion is what a headline is about besides the odd part: the case, and what its submission sent. Both are nil where only a step is known.
type occasion struct {
	c    *testcase.Case
	sent *submission.Submission
	rule string // the only one that is broken, "" where none or several are
	// variant is which of the rule's ends or variants the case is about.
	variant string
}

// Odd is the headline of what is odd: what happened, to what, by which input.
func Odd(form *spec.Prepared, o *judge.OddPart) *prose.Sentence {
	return writer{form: form}.odd(o, &occasion{})
}

// odd returns the headline of an odd part: its code, and what stands in its places.
func (w writer) odd(o *judge.OddPart, about *occasion) *prose.Sentence {
	p := &o.Part
	if o.Should != "" || p.Difference == judge.OtherOutcome {
		return w.outcome(o, about)
	}
	code := string(p.Difference)
	field := w.fieldOf(p)
	switch {
	case p.Aspect == judge.ByHandAspect:
		code = "odd_by_hand"
		if p.Observed.Text != "" {
			code = "odd_with_note"
		}
	case slices.Contains(ofPageOrMail, p.Aspect):
		code = "judged_differently"
	case o.AllLost:
		code = "all_lost"
	case p.Difference == judge.CutShort && o.OutcomeOdd && about.rule != "":
		return w.accepted(o, about)
	case p.Difference == judge.CutShort && field == nil:
		code = "cut_short_column"
	case p.Difference == judge.CutShort && field.Kind == spec.MultipleChoice:
		code = string(judge.OtherValue)
	case field == nil && p.Column != "" && ofColumn[p.Difference] != "":
		code = ofColumn[p.Difference]
	case p.Difference == judge.OtherTarget && p.Observed.Is == judge.None:
		code = "no_redirect"
	case p.Difference == judge.FocusElsewhere && p.Observed.Is == judge.None:
		code = "focus_nowhere"
	case p.Difference == judge.NoRow && p.Expected.Is == judge.OneChangedRow:
		code = "no_row_changed"
	case p.Difference == judge.RowInserted && about.c != nil && w.form.Field(about.c.Row) == nil:
		code = "row_inserted_case"
	case p.Aspect == judge.SuccessReply && p.Difference == judge.Missing:
		code = "reply_missing"
	case p.Aspect == judge.SuccessReply && p.Difference == judge.Hidden:
		code = "reply_hidden"
	case p.Difference == judge.OtherValue && o.Check == judge.RefilledValues:
		code = "refilled"
	case o.Check == judge.RefilledValues && p.Field == "" && (p.Difference == judge.Filled || p.Difference == judge.NotBlank):
		code = "form_filled"
	case o.Check == judge.RefilledValues && p.Field == "" && p.Difference == judge.NotFilled:
		code = "form_unfilled"
	case o.Check == judge.RefilledValues && p.Difference == judge.NotBlank:
		code = string(judge.Filled)
	}
	if _, own := phrases.Headlines[code]; !own {
		code = "judged_differently"
	}
	return &prose.Sentence{Code: code, Places: w.headlinePlaces(o, field, about), Input: w.input(field, about)}
}

// ofPageOrMail are the aspects that are no message's and no value's, though their differences are of the same kinds.
var ofPageOrMail = []judge.Aspect{judge.PageTitle, judge.FieldLabel, judge.NamedLanguage, judge.OwnPage, judge.PageText, judge.PageLink, judge.MailSent, judge.MailSubject, judge.MailText, judge.MailLink, judge.NoOtherMail}

// ofColumn are the headlines of columns that come from no field.
var ofColumn = map[judge.Difference]string{
	judge.OtherValue: "other_value_column", judge.NotNull: "not_null_column", judge.NotBlank: "not_blank_column", judge.Changed: "changed_column",
}

// quoted is a value as a headline holds it: a text within quotation marks, all else in its words.
func quoted(v *judge.Value, words string) string {
	if v.Is == judge.AsText || v.Is == judge.ShortText {
		return "“" + short(words) + "”"
	}
	return short(words)
}

// headlinePlaces returns what stands in the places of a headline, except for the input.
func (w writer) headlinePlaces(o *judge.OddPart, field *spec.PreparedField, about *occasion) places {
	p := &o.Part
	expected, observed := w.value(p, &p.Expected), w.value(p, &p.Observed)
	if p.Difference == judge.OtherRule {
		observed = p.Observed.Of
	}
	out := places{
		"label": w.subjectLabel(&p.Subject), "of": p.Table + "." + p.Column, "table": p.Table, "member": p.Member, "page": p.Member, "expected": expected, "observed": observed,
		"sent": quoted(&p.Expected, expected), "stored": quoted(&p.Observed, observed), "name": w.subject(o.Check, &p.Subject), "flag": flags[p.Attribute].Template(), "note": p.Observed.Text,
		"rows": changedRows(&p.Observed), "ended": ended(o.Ended, o.Reloaded), "after": after(o), "n": number(utf8.RuneCountInString(p.Observed.Text)), "rule": w.ruleName(p.Observed.Of),
	}
	if about.c != nil {
		out["title"] = string(about.c.Title)
	}
	if field != nil {
		out["label"] = field.Label
	} else if p.Column != "" {
		out["label"] = phrases.SomeValue.Template()
	}
	out["subject"] = out["label"]
	return out
}

func after(o *judge.OddPart) string {
	switch {
	case o.Reloaded:
		return phrases.Afters["reloaded"].Template()
	case o.Ended == oracle.Accepted:
		return phrases.Afters["accepted"].Template()
	case o.Ended == oracle.RejectedByServer || o.Ended == oracle.RejectedByBrowser:
		return phrases.Afters["rejected"].Template()
	}
	return phrases.Afters["otherwise"].Template()
}

// outcomes are the headlines of outcomes by how the step ended: of a field, and of the whole case.
var outcomes = map[oracle.Outcome][2]string{
	oracle.Failed: {"failed", "failed_case"}, oracle.Silent: {"silent", "silent_case"}, oracle.Contradictory: {"contradictory", "contradictory_case"},
	oracle.NotAnswered: {"not_answered", "not_answered"}, oracle.RejectedByServer: {"rejected_field", "rejected_case"}, oracle.RejectedByBrowser: {"rejected_field", "rejected_case"},
	oracle.Accepted: {"accepted_case", "accepted_case"},
}

// contradictory are the headlines of a contradictory outcome by the signal that contradicts another: of a field, and of the whole case.
var contradictory = []struct {
	signal judge.Term
	codes  [2]string
}{
	{judge.NoRowIsWritten, [2]string{"success_without_row", "success_without_row_case"}},
	{judge.NoAnswerCame, [2]string{"success_without_answer", "success_without_answer_case"}},
	{judge.OtherRowsWritten, [2]string{"other_rows_written", "other_rows_written_case"}},
	{judge.PageSays, [2]string{"error_with_row", "error_with_row_case"}},
}

// codesOf are the headlines of how a step ended: of a field, and of the whole case; not own where none is its own.
func codesOf(o *judge.OddPart) (codes [2]string, own bool) {
	codes, own = outcomes[o.Ended]
	if o.Ended != oracle.Contradictory {
		return codes, own
	}
	for _, x := range contradictory {
		if slices.ContainsFunc(o.Signals, func(v judge.Value) bool { return v.Is == x.signal }) {
			return x.codes, true
		}
	}
	return codes, own
}

// outcome is the headline where a step ended otherwise than it should.
func (w writer) outcome(o *judge.OddPart, about *occasion) *prose.Sentence {
	with := places{"ended": ended(o.Ended, o.Reloaded), "should": outcomeName(o.Should)}
	if o.Should == "" {
		with["should"] = outcomeName(oracle.Outcome(o.Part.Expected.Of))
	}
	if about.c == nil {
		return &prose.Sentence{Code: "step_outcome", Places: with}
	}
	with["title"], with["why"], with["rows"] = string(about.c.Title), w.why(&o.Part), rowsOf(o.Signals)
	field := w.form.Field(about.c.Row)
	rejected := o.Ended == oracle.RejectedByServer || o.Ended == oracle.RejectedByBrowser
	switch {
	case o.Ended == oracle.Accepted && about.rule != "":
		return w.accepted(o, about)
	case rejected && o.Refused != nil && w.form.Field(o.Refused.Field) != nil:
		field = w.form.Field(o.Refused.Field)
		if r := w.form.Rule(o.Refused.Rule); r != nil && r.Field == field && r.Kind == spec.RuleUnique && about.recipe(field).Make == testcase.OnPage {
			return &prose.Sentence{Code: "rejected_own", Places: with, Input: w.sent(field, about)}
		} else if r != nil && r.Field == field {
			with["promise"] = string(promise.Rule(r))
			return &prose.Sentence{Code: "rejected", Places: with, Input: w.sent(field, about)}
		}
	}
	codes, own := codesOf(o)
	if o.Should == oracle.RejectedByBrowser && o.Ended == oracle.RejectedByServer {
		codes = [2]string{"not_stopped", "not_stopped_case"}
		if r := w.form.Rule(about.rule); r != nil && r.Field != nil {
			field, with["promise"] = r.Field, string(promise.Rule(r))
		} else {
			field = nil
		}
	}
	switch {
	case !own || o.Should == oracle.Failed:
		return &prose.Sentence{Code: "other_outcome", Places: with}
	case field == nil || o.Ended == oracle.Accepted:
		return &prose.Sentence{Code: codes[1], Places: with}
	}
	return &prose.Sentence{Code: codes[0], Places: with, Input: w.input(field, about)}
}

// rowsOf names the rows of the first signal that has some.
func rowsOf(signals []judge.Value) string {
	for i := range signals {
		if len(signals[i].Rows) > 0 {
			return changedRows(&signals[i])
		}
	}
	return ""
}

// why tells by what signals an outcome was told.
func (w writer) why(p *judge.Part) string {
	var out []string
	for i := range p.Signals {
		out = append(out, w.value(p, &p.Signals[i]))
	}
	return strings.Join(out, ", ")
}

// accepted is the headline where an input was accepted although it breaks a rule.
func (w writer) accepted(o *judge.OddPart, about *occasion) *prose.Sentence {
	r := w.form.Rule(about.rule)
	out := &prose.Sentence{Code: "accepted_case", Places: places{"title": string(about.c.Title)}}
	if r != nil && r.Field == nil {
		out.Code, out.Places["promise"] = "accepted_across", string(promise.Named(r))
	}
	if r == nil || r.Field == nil {
		return out
	}
	out.Places["label"], out.Places["promise"] = r.Field.Label, string(promise.Rule(r))
	switch r.Kind {
	case spec.RuleUnique:
		if code, own := twice[about.variant]; own {
			out.Code = code
		}
		return out
	case spec.RuleNoOverlap:
		return out
	case spec.RuleMatchesSecret:
		out.Code = "accepted_secret"
		if code, own := ofSecret[about.recipe(r.Field).Change]; own {
			out.Code = code
		}
		return out
	case spec.RuleSameAs:
		switch made := about.recipe(r.Field); {
		case made.Change == testcase.OtherCase:
			out.Code = "accepted_differs_capitals"
		case made.Make == testcase.Fresh:
			out.Code = "accepted_differs"
		default:
			out.Code, out.Input = "accepted", w.sent(r.Field, about)
		}
		out.Places["other"] = r.Other.Label
		return out
	case spec.RuleRequired:
		out.Code = "accepted_required"
	case spec.RuleMustBeChecked:
		out.Code = "accepted_unchecked"
	case spec.RuleOneOfOptions:
		out.Code = "accepted_not_offered"
	default:
		out.Code = "accepted"
	}
	if o.Part.Difference == judge.CutShort && r.Field.Kind != spec.Upload { // of a file other things are stored than its content
		out.Code, out.Places["n"] = "accepted_cut", number(utf8.RuneCountInString(o.Part.Observed.Text))
	}
	out.Input = w.sent(r.Field, about)
	return out
}

// ofSecret are the headlines of a wrong secret that was accepted, by what was done to the right one.
var ofSecret = map[string]string{testcase.OtherCase: "accepted_secret_capitals", testcase.SpacesAround: "accepted_secret_spaces", testcase.OneMore: "accepted_secret_longer", testcase.OneFewer: "accepted_secret_shorter"}

// twice are the headlines of a value that was accepted twice, by the rule's variant.
var twice = map[string]string{"same": "accepted_twice", "case": "accepted_twice_capitals", "spaces": "accepted_twice_spaces", "signs": "accepted_twice_signs", "national": "accepted_twice_national", "together": "accepted_at_once"}

// fieldOf is the field that a part is about: its own, that of its rule, or that from which its column comes; nil for none.
func (w writer) fieldOf(p *judge.Part) *spec.PreparedField {
	if w.form == nil {
		return nil
	}
	if f := w.form.Field(p.Field); f != nil {
		return f
	}
	if r := w.form.Rule(p.Rule); r != nil && r.Field != nil {
		return r.Field
	}
	for i := range w.form.Form.Stored {
		st := &w.form.Form.Stored[i]
		if source, named := st.Columns[p.Column]; named && st.Table() == p.Table {
			if f := w.form.Field(source.From); f != nil {
				return f
			}
			return w.form.Field(source.Secret)
		}
	}
	return nil
}

// ruleName is what a rule of the form is called: its kind.
func (w writer) ruleName(id string) string {
	if w.form == nil {
		return id
	}
	if r := w.form.Rule(id); r != nil {
		return string(promise.Rule(r))
	}
	return id
}

// input is a field with what was sent in it, where the case is about the field, and else the field alone.
func (w writer) input(f *spec.PreparedField, about *occasion) *prose.Sentence {
	if f == nil {
		return nil
	}
	if about.c == nil || about.c.Row != f.ID {
		return &prose.Sentence{Code: "field", Places: places{"label": f.Label}}
	}
	return w.sent(f, about)
}

// sent is a field with what was sent in it. Of secrets and of long texts it names the length.
func (w writer) sent(f *spec.PreparedField, about *occasion) *prose.Sentence {
	out := &prose.Sentence{Code: "field", Places: places{"label": f.Label}}
	if about.sent == nil {
		return out
	}
	value, present := about.sent.Of(f)
	if f.Kind == spec.MultipleChoice {
		value = strings.Join(about.sent.Values(f.Name), ", ")
	}
	length := testcase.RuleOf(f, spec.RuleLength)
	switch n := utf8.RuneCountInString(value); {
	case f.Kind == spec.Checkbox && present:
		out.Code = "checked"
	case f.Kind == spec.Checkbox:
		out.Code = "unchecked"
	case !present:
		out.Code = "missing"
	case value == "":
		out.Code = "empty"
	case strings.TrimSpace(value) == "":
		out.Code = "spaces"
	case length != nil && (about.rule == length.ID || about.isLength()):
		out.Code = "length"
		out.Places["n"], out.Places["unit"] = number(length.Limit.Unit.Length(f.Normal(value))), phrases.UnitOf(string(length.Limit.Unit), length.Limit.Unit.Length(f.Normal(value))).Template()
	case f.IsSecret() || n > maxShown:
		out.Code = "length"
		out.Places["n"], out.Places["unit"] = number(n), phrases.UnitOf(string(values.Characters), n).Template()
	case f.Kind == spec.Number || f.Kind == spec.Date || f.Kind == spec.Time || f.Kind == spec.DateTime:
		out.Code, out.Places["value"] = "value", value
	default:
		out.Code, out.Places["value"] = "text", value
	}
	return out
}

// maxShown is how many characters of a value stand in a headline.
const maxShown = 40

// recipe is how the case makes the value of a field, in the first of its steps that does; empty where none does.
func (a *occasion) recipe(f *spec.PreparedField) testcase.Recipe {
	if a.c == nil {
		return testcase.Recipe{}
	}
	for i := range a.c.Steps {
		for _, input := range a.c.Steps[i].Inputs {
			if input.Field == f.ID {
				return input.Recipe
			}
		}
	}
	return testcase.Recipe{}
}

// isLength tells whether the case is about a length.
func (a *occasion) isLength() bool {
	if a.c == nil {
		return false
	}
	_, is := a.c.Mark.Length()
	for _, what := range a.c.Covers {
		if is && what.Kind == testcase.CoversBoundary {
			return true
		}
	}
	return false
}

// Reasons are the causes of what is odd in a case, the most telling first, in words.
func Reasons(form *spec.Prepared, c *testcase.Case, r *report.Result) []report.Reason {
	var steps []*judge.Judgement
	for i := range r.Steps {
		steps = append(steps, r.Steps[i].Judgement)
	}
	reasons := report.ReasonsOf(c, steps)
	for i := range reasons {
		x := &reasons[i]
		about := &occasion{c: c}
		if o := r.Steps[x.Step].Observation; o != nil {
			about.sent = o.Sent
		}
		about.rule, about.variant = report.BrokenBy(c, x.Step)
		x.Sentence = writer{form: form}.odd(x.Odd, about)
		x.Headline = Say(x.Sentence)
	}
	return reasons
}
