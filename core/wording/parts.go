package wording

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
	"oddtick/core/wording/promise"
)

// checks are the names of the seven checks.
var checks = phrases.Registered("check.", map[judge.CheckName]string{
	judge.Outcome: "Outcome", judge.Response: "Response", judge.Messages: "Messages", judge.RefilledValues: "Values kept", judge.StoredData: "Stored data",
	judge.Secrets: "Secrets", judge.Session: "Session",
})

// Check is the name of a check.
func Check(c judge.CheckName) prose.Text { return checks[c].Text() }

// Checks are the names of the seven checks, in their order.
func Checks() []prose.Text {
	out := make([]prose.Text, len(judge.Checks))
	for i, c := range judge.Checks {
		out[i] = Check(c)
	}
	return out
}

// TypeScript are the names of the checks, and of the kinds of fields and of rules, as a module for the front end, in every language.
func TypeScript() []byte {
	var b strings.Builder
	b.WriteString("// Made from core/wording by make generate: names of what the API gives as codes.\n\nimport { language } from \"../words\";\n")
	b.WriteString("\n/** The codes of the seven checks, in their order. */\nconst codes = [")
	for i, c := range judge.Checks {
		if i > 0 {
			b.WriteString(", ")
		}
		fmt.Fprintf(&b, "%q", c)
	}
	b.WriteString("] as const;\n\ntype Check = (typeof codes)[number];\ntype Names = {\n  check: Record<Check, string>;\n  verdict: Record<string, string>;\n  fieldKind: Record<string, string>;\n  ruleKind: Record<string, string>;\n  mark: Record<string, string>;\n  markVariant: Record<string, string>;\n  scale: Record<string, string>;\n};\n\nconst names: Record<string, Names> = {\n")
	for _, language := range phrases.Languages() {
		texts := map[string]string{}
		if language != phrases.Languages()[0] {
			texts, _ = phrases.Texts(language) // a test reads each
		}
		list := func(name string, of []string, phrase func(string) phrases.Phrase) {
			fmt.Fprintf(&b, "    %s: {\n", name)
			for _, code := range of {
				p := phrase(code)
				fmt.Fprintf(&b, "      %s: %q,\n", member(code), cmp.Or(texts[p.Code], p.English))
			}
			b.WriteString("    },\n")
		}
		fmt.Fprintf(&b, "  %s: {\n", language)
		list("check", judge.CheckName("").Values(), func(code string) phrases.Phrase { return checks[judge.CheckName(code)] })
		list("verdict", slices.Sorted(maps.Keys(phrases.Verdicts)), func(code string) phrases.Phrase { return phrases.Verdicts[code] })
		list("fieldKind", fieldKinds(), func(code string) phrases.Phrase { return promise.KindPhrase(spec.Kind(code)) })
		list("ruleKind", spec.RuleKind("").Values(), func(code string) phrases.Phrase { return promise.RuleKindPhrase(spec.RuleKind(code)) })
		for _, of := range []struct {
			name  string
			words map[string]phrases.Phrase
		}{{"mark", phrases.Marks}, {"markVariant", phrases.MarkVariants}, {"scale", phrases.Scales}} {
			list(of.name, slices.Sorted(maps.Keys(of.words)), func(code string) phrases.Phrase { return of.words[code] })
		}
		b.WriteString("  },\n")
	}
	b.WriteString("};\n\nconst used = names[language()] as Names;\n\n/** The seven checks, in their order. */\nexport const checks = codes.map((check) => ({ check, name: used.check[check] }));\n\n")
	b.WriteString("export const checkName = used.check;\nexport const verdictName = used.verdict;\nexport const fieldKindName = used.fieldKind;\nexport const ruleKindName = used.ruleKind;\n")
	b.WriteString("\n/** What a scale is called; that of a field or a rule has its own name. */\nexport const scaleName = (s: { name: string; given?: boolean }): string =>\n  s.given ? s.name : (used.scale[s.name] ?? s.name);\n")
	b.WriteString("\n/** The label of a tick: a value, or a word by its code. */\nexport function tickLabel(t: { label: string; given?: boolean; variant?: string }): string {\n")
	b.WriteString("  const label = t.given ? t.label : (used.mark[t.label] ?? t.label);\n  return t.variant ? (used.markVariant[t.variant] ?? \"{label}\").replace(\"{label}\", label) : label;\n}\n")
	return []byte(b.String())
}

// Mark is the label of a tick: a value, or a word.
func Mark(m testcase.Mark) string {
	label := m.Label
	if IsWord(m) {
		label = phrases.Marks[m.Label].Template()
	}
	if variant, is := phrases.MarkVariants[m.Variant]; is {
		return fill(variant.Template(), places{"label": label})
	}
	return label
}

// IsWord tells whether the label of a tick is a word, and not a value.
func IsWord(m testcase.Mark) bool {
	_, is := phrases.Marks[m.Label]
	return is && !m.Given
}

// Scale is what the scale of a mark is called.
func Scale(m testcase.Mark) string {
	if words, own := phrases.Scales[m.Scale]; own && m.Name == "" {
		return words.Template()
	}
	return cmp.Or(m.Name, m.Scale)
}

// member is a code as the name of an object's member.
func member(code string) string {
	if code == "" || strings.ContainsFunc(code, func(r rune) bool { return !unicode.IsLetter(r) && r != '_' }) {
		return strconv.Quote(code)
	}
	return code
}

func fieldKinds() []string {
	out := make([]string, len(spec.Kinds))
	for i, k := range spec.Kinds {
		out[i] = string(k)
	}
	return out
}

// aspects are the names of parts. Their places are {label} for the label of the field, {rule} for the rule in short, {table}, {column},
// {member}, {flag} and {at}.
var aspects = phrases.Registered("aspect.", map[judge.Aspect]string{
	judge.Whole: "everything", judge.ByHandAspect: "judged by hand", judge.OutcomeAspect: "outcome", judge.FarTooLong: "outcome of a value that is far too long",

	judge.Answer: "answer", judge.Button: "submit button", judge.Status: "status", judge.RedirectHost: "host of the redirect", judge.Redirect: "redirect",
	judge.RedirectTarget: "page behind the redirect", judge.Internals: "stack trace or server internals", judge.Scripts: "scripts", judge.ScriptErrors: "script errors",
	judge.FailedRequests: "parts of the page that do not load", judge.Focus: "focus", judge.SentValues: "values sent", judge.SentValue: "{label} as sent", judge.AnswerFormat: "format of the answer",
	judge.AnswerSchema: "schema of the answer", judge.SchemaWhenAccepted: "schema of the answer when accepted", judge.AnswerHas: "{member} in the answer",
	judge.AnswerLacks: "no {member} in the answer", judge.AnswerMember: "value of {member} in the answer",

	judge.BeforeSubmitting: "messages before submitting", judge.MessageText: "message for {rule}", judge.MessagePlace: "message for {rule}: place",
	judge.MessageVisible: "message for {rule}: visible", judge.MessageLinked: "message for {rule}: linked to its field", judge.MessageComes: "message for {rule}: when it comes",
	judge.MessageGoes: "message for {rule}: when it goes", judge.NoOtherMessage: "other messages", judge.SuccessReply: "success reply", judge.ShownOnce: "success reply after a reload",
	judge.ShownValue: "saved value on {member} {at}", judge.MessagesCome: "when messages come", judge.MessagesGo: "when messages go", judge.MessagesLanguage: "language of the messages",
	judge.PageTitle: "title of the page", judge.FieldLabel: "label of {label}", judge.NamedLanguage: "language named by {member}",
	judge.OwnPage: "page of its own", judge.PageText: "text of the page", judge.PageLink: "link on the page",
	judge.MailSent: "mail to {member}", judge.MailSubject: "subject of the mail to {member}", judge.MailText: "text of the mail to {member}",
	judge.MailLink: "link in the mail to {member}", judge.NoOtherMail: "other mails",
	judge.MessagesOfBlank: "messages for blank, missing or null values", judge.MessagesOfField: "messages for {label}", judge.PlaceOfField: "messages for {label}: place",
	judge.VisibleOfField: "messages for {label}: visible", judge.LinkedOfField: "messages for {label}: linked to its field",

	judge.FormState: "form", judge.ControlValue: "{label}", judge.AllValues: "all values",

	judge.RowWritten: "row in {table}", judge.ColumnValue: "{table}.{column}", judge.OtherColumns: "other columns of {table}", judge.OtherRows: "rows that should not change",

	judge.InResponse: "{label} in the response", judge.InOtherColumns: "{label} in other columns", judge.SecretHash: "{table}.{column}: how it is stored",
	judge.HashedText: "{table}.{column}: what the hash is of", judge.HashWork: "{table}.{column}: {member} of the hash", judge.Salt: "{table}.{column}: salt", judge.ResponseHeader: "header {member}", judge.InMail: "secret in the mail",

	judge.SessionID: "session id", judge.SignedInAfter: "signed in afterwards", judge.Cookie: "cookie {member}", judge.CookieFlag: "cookie {member}: {flag}", judge.CookieLife: "cookie {member}: how long it is kept", judge.NoCookie: "cookies set", judge.OtherSessions: "other sessions",

	judge.PageOpens: "page", judge.VisitorState: "visitor's state", judge.PageAccess: "page {member}",
})

// wholes are the names of parts that are all of a check.
var wholes = phrases.Registered("whole.", map[judge.CheckName]string{
	judge.Outcome: "outcome", judge.Response: "answer", judge.Messages: "messages", judge.RefilledValues: "values", judge.StoredData: "rows", judge.Secrets: "secrets", judge.Session: "session",
})

// subject is the name of what a part is about.
func (w writer) subject(check judge.CheckName, s *judge.Subject) string {
	template := aspects[s.Aspect].Template()
	if s.Aspect == judge.Whole && wholes[check].Code != "" {
		template = wholes[check].Template()
	}
	return strings.TrimSpace(fill(template, places{
		"rule": w.ruleOfField(s), "label": w.label(s.Field), "table": s.Table, "column": s.Column, "member": s.Member, "flag": flags[s.Attribute].Template(), "at": s.Place,
	}))
}

// ruleOfField is a rule with the label of its field.
func (w writer) ruleOfField(s *judge.Subject) string {
	switch s.Rule {
	case oracle.UnansweredMessage:
		return phrases.MissingAnswer.Template()
	case oracle.BodyMessage:
		return phrases.UnreadableBody.Template()
	}
	if w.form != nil {
		if r := w.form.Rule(s.Rule); r != nil && r.Field != nil {
			return fill("{label} ({rule})", places{"label": r.Field.Label, "rule": string(promise.Rule(r))})
		}
	}
	return s.Rule
}

// differences are the names of kinds of differences. Their places are {expected} and {observed} for outcomes and rules, {flag} for a
// cookie's attribute, and {stored} for how a secret is stored.
var differences = phrases.Registered("difference.", map[judge.Difference]string{
	judge.OddByHand: "judged odd by hand", judge.OtherOutcome: "{observed} instead of {expected}", judge.SubmittedAgain: "submitted again",

	judge.NoAnswer: "no answer", judge.ButtonStuck: "cannot be pressed again", judge.SentTwice: "sent more than once", judge.ServerError: "server error", judge.OtherStatus: "another status", judge.OtherHost: "another host",
	judge.OtherTarget: "another page", judge.TargetMissing: "page does not exist", judge.InternalsShown: "shown", judge.ScriptError: "script error",
	judge.RequestFailed: "does not load", judge.FocusElsewhere: "elsewhere", judge.Altered: "changed by the browser", judge.NotJSON: "not JSON", judge.AgainstSchema: "does not follow the schema",
	judge.MemberMissing: "missing", judge.MemberSurplus: "should not be there", judge.MemberNotStored: "not what is stored",

	judge.ShownBefore: "shown before submitting", judge.OtherText: "another text", judge.OtherLanguage: "another language", judge.OtherBlank: "message for another kind of blank",
	judge.OtherRule: "message of {observed}", judge.Missing: "missing", judge.MissingAccepted: "missing, because it was accepted", judge.MissingNotAccepted: "missing, because it was not accepted",
	judge.OtherPlace: "at the wrong place", judge.Hidden: "hidden", judge.NotLinked: "not linked to its field", judge.TooLate: "too late", judge.TooEarly: "too early", judge.Stays: "stays",
	judge.NotExpected: "not expected", judge.ShownAgain: "shown again", judge.NotShown: "not shown",
	judge.NotSent: "not sent", judge.MailTwice: "sent more than once", judge.MailNotExpected: "sent", judge.NoSuchLink: "no such link", judge.FormThere: "the form is there",

	judge.FormGone: "form is gone", judge.FormNotGone: "form is still there", judge.ControlGone: "gone from the page", judge.NotRefilled: "lost", judge.Filled: "still filled in", judge.OtherValue: "another value",
	judge.NotBlank: "not blank", judge.NotFilled: "not filled in", judge.NotAsOpened: "not as it was opened",

	judge.NoRow: "no row", judge.RowInserted: "a row inserted", judge.RowChanged: "a row changed", judge.RowDeleted: "a row deleted", judge.OtherRowInserted: "one row too many inserted",
	judge.OtherRowChanged: "another row changed", judge.OtherRowDeleted: "another row deleted", judge.NoColumn: "no such column", judge.IsNull: "NULL", judge.NotNull: "not NULL",
	judge.Emptied: "lost", judge.CutShort: "cut short", judge.SpacesKept: "spaces kept", judge.OtherLineEnds: "other line ends", judge.OtherCapitals: "other capitals",
	judge.ZerosLost: "leading zeros lost", judge.CharactersLost: "characters lost", judge.StoredAsMarkup: "stored escaped for HTML", judge.OtherTime: "another time", judge.NoTime: "not a time",
	judge.NotDefault: "not its default", judge.Changed: "changed", judge.OtherKey: "key of another row", judge.NoNumber: "not a number", judge.OtherAddress: "another address", judge.NoUUID: "not a UUID",

	judge.SecretShown: "shown", judge.SecretStored: "stored", judge.StoredOtherwise: "stored {stored}", judge.OtherTextHashed: "hash of another text", judge.TooLittleWork: "too little work", judge.OtherHeader: "another header", judge.SaltReused: "the same salt",
	judge.SameHashTwice: "the same salt",

	judge.NotRenewed: "not renewed", judge.NotKept: "not the same", judge.NotEnded: "goes on", judge.CookieIsSet: "set", judge.CookieMissing: "not set", judge.OtherLife: "another time", judge.NotSignedIn: "not signed in", judge.FlagMissing: "not {flag}", judge.SessionsGoOn: "go on",

	judge.DoesNotOpen: "does not open", judge.OtherState: "another state", judge.OtherAccess: "other access",
})

// Part words a part: what it is about, and what was expected and observed.
func (w writer) part(check judge.CheckName, e *oracle.Expectation, p *judge.Part) {
	expected, observed := w.value(p, &p.Expected), w.value(p, &p.Observed)
	if p.Expected.Is == judge.OutcomeIs && e != nil {
		expected = fill("{outcome}. {reason}", places{"outcome": expected, "reason": string(Reason(e))})
	}
	if len(p.Signals) > 0 {
		observed = w.signals(p, observed)
	}
	p.Words = judge.Words{
		Name: prose.Text(w.subject(check, &p.Subject)), Difference: prose.Text(w.difference(p)), Expected: prose.Text(expected), Observed: prose.Text(observed),
		Why: prose.Text(w.value(p, &p.Why)),
	}
	if p.Why.Is == judge.RefusedByThePage {
		p.Words.Why = text("{why}: {signals}", places{"why": string(p.Words.Why), "signals": w.signals(p, "")})
	}
}

func (w writer) difference(p *judge.Part) string {
	return fill(differences[p.Difference].Template(), places{"expected": p.Expected.Of, "observed": p.Observed.Of, "flag": flags[p.Attribute].Template(), "stored": w.value(p, &p.Observed)})
}

// CauseWords are what a cause is about and its kind of difference, in words.
type CauseWords struct {
	Check      prose.Text `json:"check"`
	Part       prose.Text `json:"part"`
	Difference prose.Text `json:"difference"`
}

// Cause words a cause, with the fields' labels by their ids.
func Cause(labels map[string]string, c *report.Cause) CauseWords {
	w := writer{labels: labels}
	p := judge.Part{Subject: c.Subject, Difference: c.Difference, Expected: judge.Value{Is: judge.OutcomeIs, Of: c.Expected}, Observed: judge.Value{Is: judge.OutcomeIs, Of: c.Observed}}
	if c.Difference == judge.StoredOtherwise {
		p.Observed = judge.Value{Is: judge.Term(c.Observed), Of: c.Of, Text: c.Beside}
	}
	return CauseWords{Check(c.Check), prose.Text(w.subject(c.Check, &c.Subject)), prose.Text(w.difference(&p))}
}

// State words the parts of a journey's station that tell where its visitor is.
func State(parts []judge.Part) {
	for i := range parts {
		writer{}.part("", nil, &parts[i])
	}
}

// Station is a part of a station as its headline.
func Station(p *judge.Part) prose.Text {
	w := &p.Words
	return prose.Text(strings.TrimSpace(fill("{name}: {observed}, expected {expected} {why}", places{
		"name": string(w.Name), "observed": string(w.Observed), "expected": string(w.Expected), "why": string(w.Why),
	})))
}

// Titled is a sentence behind what it is about.
func Titled(what string, says prose.Text) prose.Text {
	return text("{what}: {says}", places{"what": what, "says": string(says)})
}

// Behind is a headline with where on a scale it shows.
func Behind(headline prose.Text, where string) prose.Text {
	return text("{headline} ({where})", places{"headline": string(headline), "where": where})
}
