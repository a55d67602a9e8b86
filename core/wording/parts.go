package wording

import (
	"fmt"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
)

// checks are the names of the seven checks.
var checks = map[judge.CheckName]string{
	judge.Outcome: "Outcome", judge.Response: "Response", judge.Messages: "Messages", judge.RefilledValues: "Refilled values", judge.StoredData: "Stored data",
	judge.Secrets: "Secrets", judge.Session: "Session",
}

// Check is the name of a check.
func Check(c judge.CheckName) prose.Text { return prose.Text(checks[c]) }

// Checks are the names of the seven checks, in their order.
func Checks() []prose.Text {
	out := make([]prose.Text, len(judge.Checks))
	for i, c := range judge.Checks {
		out[i] = Check(c)
	}
	return out
}

// TypeScript are the names of the checks as a module for the front end.
func TypeScript() []byte {
	var b strings.Builder
	b.WriteString("// Made from core/wording by make generate: names of what the API gives as codes.\n\n/** The seven checks, in their order. */\nexport const checks = [\n")
	for _, c := range judge.Checks {
		fmt.Fprintf(&b, "  { check: %q, name: %q },\n", c, Check(c))
	}
	b.WriteString("] as const;\n\nexport const checkName: Record<(typeof checks)[number][\"check\"], string> = {\n")
	for _, c := range judge.Checks {
		fmt.Fprintf(&b, "  %s: %q,\n", c, Check(c))
	}
	b.WriteString("};\n")
	return []byte(b.String())
}

// aspects are the names of parts. Their places are {rule} and {field} for ids, {table}, {column}, {member}, {flag} and {at}.
var aspects = map[judge.Aspect]string{
	judge.Whole: "all", judge.ByHandAspect: "by hand", judge.OutcomeAspect: "outcome", judge.FarTooLong: "outcome of what is far too long",

	judge.Answer: "answer", judge.Button: "button", judge.Status: "status", judge.RedirectHost: "redirect's host", judge.Redirect: "redirect",
	judge.RedirectTarget: "redirect's target", judge.Internals: "program's inside", judge.Scripts: "scripts", judge.ScriptErrors: "script errors",
	judge.FailedRequests: "failed requests", judge.Focus: "focus", judge.SentValues: "sent values", judge.SentValue: "sent {field}", judge.AnswerFormat: "answer",
	judge.AnswerSchema: "answer: schema", judge.SchemaWhenAccepted: "answer: schema when accepted", judge.AnswerHas: "answer: has {member}",
	judge.AnswerLacks: "answer: lacks {member}", judge.AnswerMember: "answer: {member}",

	judge.BeforeSubmitting: "before submitting", judge.MessageText: "message {rule}: text", judge.MessagePlace: "message {rule}: place",
	judge.MessageVisible: "message {rule}: visible", judge.MessageLinked: "message {rule}: tied to its field", judge.MessageComes: "message {rule}: comes",
	judge.MessageGoes: "message {rule}: goes", judge.NoOtherMessage: "no other message", judge.SuccessReply: "success reply", judge.ShownOnce: "shown once",
	judge.ShownValue: "shown on {member} {at}", judge.MessagesCome: "when messages come", judge.MessagesGo: "when messages go", judge.MessagesLanguage: "language of the messages",
	judge.MessagesOfBlank: "messages of what is blank, absent or null", judge.MessagesOfField: "messages of {field}", judge.PlaceOfField: "messages of {field}: place",
	judge.VisibleOfField: "messages of {field}: visible", judge.LinkedOfField: "messages of {field}: tied to its field",

	judge.FormState: "form", judge.ControlValue: "{field}", judge.AllValues: "all values",

	judge.RowWritten: "row in {table}", judge.ColumnValue: "{table}.{column}", judge.OtherColumns: "other columns of {table}", judge.OtherRows: "other rows",

	judge.InResponse: "{field} in the response", judge.InOtherColumns: "{field} in other columns", judge.SecretHash: "{table}.{column}",
	judge.HashedText: "{table}.{column}: of the secret", judge.Salt: "{table}.{column}: salt", judge.InMail: "secret in the mail",

	judge.SessionID: "session id", judge.SignedInAfter: "signed in", judge.Cookie: "cookie {member}", judge.CookieFlag: "cookie {member}: {flag}", judge.OtherSessions: "other sessions",

	judge.PageOpens: "page", judge.VisitorState: "state", judge.PageAccess: "page {member}",
}

// wholes are the names of parts that are all of a check.
var wholes = map[judge.CheckName]string{
	judge.Outcome: "outcome", judge.Response: "answer", judge.Messages: "messages", judge.RefilledValues: "values", judge.StoredData: "rows", judge.Secrets: "secrets", judge.Session: "session",
}

// subject is the name of what a part is about.
func subject(check judge.CheckName, s *judge.Subject) string {
	template := aspects[s.Aspect]
	if s.Aspect == judge.Whole && wholes[check] != "" {
		template = wholes[check]
	}
	return strings.TrimSpace(fill(template, places{
		"rule": s.Rule, "field": s.Field, "table": s.Table, "column": s.Column, "member": s.Member, "flag": flags[s.Attribute], "at": s.Place,
	}))
}

// differences are the names of kinds of differences. Their places are {expected} and {observed} for outcomes and rules, {flag} for a
// cookie's attribute, and {stored} for how a secret is stored.
var differences = map[judge.Difference]string{
	judge.OddByHand: "odd, as a person saw it", judge.OtherOutcome: "expected {expected}, {observed}", judge.SubmittedAgain: "submitted again",

	judge.NoAnswer: "no answer", judge.ButtonStuck: "cannot be pressed again", judge.ServerError: "server error", judge.OtherStatus: "other status", judge.OtherHost: "another host",
	judge.OtherTarget: "other target", judge.TargetMissing: "target does not exist", judge.InternalsShown: "shows its inside", judge.ScriptError: "script error",
	judge.RequestFailed: "a part of the page fails", judge.FocusElsewhere: "elsewhere", judge.Altered: "altered", judge.NotJSON: "no JSON", judge.AgainstSchema: "does not follow the schema",
	judge.MemberMissing: "missing", judge.MemberSurplus: "should not be there", judge.MemberNotStored: "not what is stored",

	judge.ShownBefore: "shown before submitting", judge.OtherText: "other text", judge.OtherLanguage: "other language", judge.OtherBlank: "message of another kind of blank",
	judge.OtherRule: "message of {observed}", judge.Missing: "missing", judge.MissingAccepted: "missing, as it was accepted", judge.MissingNotAccepted: "missing, as it was not accepted",
	judge.OtherPlace: "at another place", judge.Hidden: "hidden", judge.NotLinked: "not tied to its field", judge.TooLate: "too late", judge.TooEarly: "too early", judge.Stays: "stays",
	judge.NotExpected: "not expected", judge.ShownAgain: "shown again", judge.NotShown: "not shown",

	judge.FormGone: "form gone", judge.FormNotGone: "not gone", judge.ControlGone: "control gone", judge.NotRefilled: "not refilled", judge.Filled: "filled", judge.OtherValue: "other value",
	judge.NotBlank: "not blank", judge.NotFilled: "not filled", judge.NotAsOpened: "not as it was opened",

	judge.NoRow: "no row", judge.RowInserted: "a row inserted", judge.RowChanged: "a row changed", judge.RowDeleted: "a row deleted", judge.OtherRowInserted: "another row inserted",
	judge.OtherRowChanged: "another row changed", judge.OtherRowDeleted: "another row deleted", judge.NoColumn: "no such column", judge.IsNull: "NULL", judge.NotNull: "not NULL",
	judge.Emptied: "lost", judge.CutShort: "cut short", judge.SpacesKept: "spaces kept", judge.OtherLineEnds: "other line ends", judge.OtherCapitals: "other case",
	judge.ZerosLost: "leading zeros lost", judge.CharactersLost: "characters lost", judge.StoredAsMarkup: "stored as markup", judge.OtherTime: "other time", judge.NoTime: "no time",
	judge.NotDefault: "not its default", judge.Changed: "changed", judge.OtherKey: "another key", judge.NoNumber: "no number", judge.OtherAddress: "another address", judge.NoUUID: "no UUID",

	judge.SecretShown: "shown", judge.SecretStored: "stored", judge.StoredOtherwise: "stored {stored}", judge.OtherTextHashed: "hash of another text", judge.SaltReused: "the same salt",
	judge.SameHashTwice: "the same salt",

	judge.NotRenewed: "not renewed", judge.NotSignedIn: "not signed in", judge.FlagMissing: "not {flag}", judge.SessionsGoOn: "go on",

	judge.DoesNotOpen: "does not open", judge.OtherState: "another state", judge.OtherAccess: "other access",
}

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
		Name: prose.Text(subject(check, &p.Subject)), Difference: prose.Text(w.difference(p)), Expected: prose.Text(expected), Observed: prose.Text(observed),
		Why: prose.Text(w.value(p, &p.Why)),
	}
	if p.Why.Is == judge.RefusedByThePage {
		p.Words.Why = text("{why}: {signals}", places{"why": string(p.Words.Why), "signals": w.signals(p, "")})
	}
}

func (w writer) difference(p *judge.Part) string {
	return fill(differences[p.Difference], places{"expected": p.Expected.Of, "observed": p.Observed.Of, "flag": flags[p.Attribute], "stored": w.value(p, &p.Observed)})
}

// CauseWords are what a cause is about and its kind of difference, in words.
type CauseWords struct {
	Check      prose.Text `json:"check"`
	Part       prose.Text `json:"part"`
	Difference prose.Text `json:"difference"`
}

// Cause words a cause.
func Cause(c *report.Cause) CauseWords {
	p := judge.Part{Subject: c.Subject, Difference: c.Difference, Expected: judge.Value{Is: judge.OutcomeIs, Of: c.Expected}, Observed: judge.Value{Is: judge.OutcomeIs, Of: c.Observed}}
	if c.Difference == judge.StoredOtherwise {
		p.Observed = judge.Value{Is: judge.Term(c.Observed), Of: c.Of, Text: c.Beside}
	}
	return CauseWords{Check(c.Check), prose.Text(subject(c.Check, &c.Subject)), prose.Text(writer{}.difference(&p))}
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
	return text("{headline}: {where}", places{"headline": string(headline), "where": where})
}
