package judge

import (
	"encoding/json"
	"maps"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/prose"
)

// Results and names of findings used to be made of sentences (format 1). This file maps those to what they are now, and back: results and
// stored causes are read by it, and known lists, baselines and what testers said of findings are matched by the older names of causes. The
// sentences here stay as they were, however things are worded now.

var olderChecks = map[CheckName]string{
	Outcome: "Outcome", Response: "Response", Messages: "Messages", RefilledValues: "Refilled values", StoredData: "Stored data",
	Secrets: "Secrets", Session: "Session",
}

var newerChecks = swapped(olderChecks)

// olderAspects are the names of parts that name nothing else.
var olderAspects = map[Aspect]string{
	ByHandAspect: "by hand", OutcomeAspect: "outcome", FarTooLong: "outcome of what is far too long", Answer: "answer", Button: "button",
	Status: "status", RedirectHost: "redirect's host", Redirect: "redirect", RedirectTarget: "redirect's target", Internals: "program's inside",
	Scripts: "scripts", ScriptErrors: "script errors", FailedRequests: "failed requests", Focus: "focus", SentValues: "sent values",
	AnswerFormat: "answer", AnswerSchema: "answer: schema", SchemaWhenAccepted: "answer: schema when accepted", BeforeSubmitting: "before submitting",
	NoOtherMessage: "no other message", SuccessReply: "success reply", ShownOnce: "shown once", MessagesCome: "when messages come",
	MessagesGo: "when messages go", MessagesLanguage: "language of the messages", MessagesOfBlank: "messages of what is blank, absent or null",
	FormState: "form", AllValues: "all values", OtherRows: "other rows", InMail: "secret in the mail", SessionID: "session id",
	SignedInAfter: "signed in", OtherSessions: "other sessions", PageOpens: "page", VisitorState: "state",
}

// olderWholes are the names of parts that are all of a check.
var olderWholes = []string{"all", "rows", "values", "messages", "secrets", "session"}

// olderDifferences are the kinds of differences that name nothing else.
var olderDifferences = map[Difference]string{
	OddByHand: "odd, as a person saw it", SubmittedAgain: "submitted again", NoAnswer: "no answer", ButtonStuck: "cannot be pressed again",
	ServerError: "server error", OtherStatus: "other status", OtherHost: "another host", OtherTarget: "other target",
	TargetMissing: "target does not exist", InternalsShown: "shows its inside", ScriptError: "script error", RequestFailed: "a part of the page fails",
	FocusElsewhere: "elsewhere", Altered: "altered", NotJSON: "no JSON", AgainstSchema: "does not follow the schema", MemberMissing: "missing",
	MemberSurplus: "should not be there", MemberNotStored: "not what is stored", ShownBefore: "shown before submitting", OtherText: "other text",
	OtherLanguage: "other language", OtherBlank: "message of another kind of blank", Missing: "missing", MissingAccepted: "missing, as it was accepted",
	MissingNotAccepted: "missing, as it was not accepted", OtherPlace: "at another place", Hidden: "hidden", NotLinked: "not tied to its field",
	TooLate: "too late", TooEarly: "too early", Stays: "stays", NotExpected: "not expected", ShownAgain: "shown again", NotShown: "not shown",
	FormGone: "form gone", FormNotGone: "not gone", ControlGone: "control gone", NotRefilled: "not refilled", Filled: "filled",
	OtherValue: "other value", NotBlank: "not blank", NotFilled: "not filled", NotAsOpened: "not as it was opened", NoRow: "no row",
	RowInserted: "a row inserted", RowChanged: "a row changed", RowDeleted: "a row deleted", OtherRowInserted: "another row inserted",
	OtherRowChanged: "another row changed", OtherRowDeleted: "another row deleted", NoColumn: "no such column", IsNull: "NULL", NotNull: "not NULL",
	Emptied: "lost", CutShort: "cut short", SpacesKept: "spaces kept", OtherLineEnds: "other line ends", OtherCapitals: "other case",
	ZerosLost: "leading zeros lost", CharactersLost: "characters lost", StoredAsMarkup: "stored as markup", OtherTime: "other time", NoTime: "no time",
	NotDefault: "not its default", Changed: "changed", OtherKey: "another key", NoNumber: "no number", OtherAddress: "another address",
	NoUUID: "no UUID", SecretShown: "shown", SecretStored: "stored", OtherTextHashed: "hash of another text", SaltReused: "the same salt",
	SameHashTwice: "the same salt", NotRenewed: "not renewed", NotSignedIn: "not signed in", SessionsGoOn: "go on", DoesNotOpen: "does not open",
	OtherState: "another state", OtherAccess: "other access",
}

// olderFlags are a cookie's attributes.
var olderFlags = map[CookieAttribute]string{HTTPOnly: "http only", Secure: "secure", SameSiteLax: "same site lax", SameSiteStrict: "same site strict"}

// OlderCheck is the name of a check as it was written before.
func OlderCheck(c CheckName) string { return olderChecks[c] }

// NewerCheck is the check of an older name; ok is false where it is none.
func NewerCheck(older string) (c CheckName, ok bool) {
	c, ok = newerChecks[older]
	return c, ok
}

// OlderDifference is a kind of difference as it was written before, where it named nothing else.
func OlderDifference(d Difference) string { return olderDifferences[d] }

// OlderFlag is a cookie's attribute as it was written before.
func OlderFlag(a CookieAttribute) string { return olderFlags[a] }

// OlderOfField reads an aspect of all messages of a field.
func OlderOfField(older string) (a Aspect, ok bool) {
	a, ok = swapped(olderOfField)[older]
	return a, ok
}

func swapped[K, V comparable](m map[K]V) map[V]K {
	out := make(map[V]K, len(m))
	for k, v := range m {
		out[v] = k
	}
	return out
}

// olderMessages are the parts of a message, by their aspects.
var olderMessages = map[Aspect]string{
	MessageText: "text", MessagePlace: "place", MessageVisible: "visible", MessageLinked: "tied to its field", MessageComes: "comes", MessageGoes: "goes",
}

// olderOfField are the aspects of all messages of a field.
var olderOfField = map[Aspect]string{PlaceOfField: "place", VisibleOfField: "visible", LinkedOfField: "tied to its field"}

// Older is the name of a part as it was written before.
func (s *Subject) Older() string {
	column := s.Table + "." + s.Column
	switch s.Aspect {
	case Whole:
		return "all"
	case SentValue:
		return "sent " + s.Field
	case AnswerHas:
		return "answer: has " + s.Member
	case AnswerLacks:
		return "answer: lacks " + s.Member
	case AnswerMember:
		return "answer: " + s.Member
	case MessageText, MessagePlace, MessageVisible, MessageLinked, MessageComes, MessageGoes:
		return "message " + s.Rule + ": " + olderMessages[s.Aspect]
	case ShownValue:
		return strings.TrimSpace("shown on " + s.Member + " " + s.Place)
	case MessagesOfField:
		return "messages of " + s.Field
	case PlaceOfField, VisibleOfField, LinkedOfField:
		return "messages of " + s.Field + ": " + olderOfField[s.Aspect]
	case ControlValue:
		return s.Field
	case RowWritten:
		return "row in " + s.Table
	case OtherColumns:
		return "other columns of " + s.Table
	case ColumnValue, SecretHash:
		return column
	case HashedText:
		return column + ": of the secret"
	case Salt:
		return column + ": salt"
	case InResponse:
		return s.Field + " in the response"
	case InOtherColumns:
		return s.Field + " in other columns"
	case Cookie:
		return "cookie " + s.Member
	case CookieFlag:
		return "cookie " + s.Member + ": " + olderFlags[s.Attribute]
	case PageAccess:
		return "page " + s.Member
	}
	return olderAspects[s.Aspect]
}

// OlderPart is a part as it was written before.
type OlderPart struct {
	Name     string  `json:"name"`
	Verdict  Verdict `json:"verdict"`
	Kind     string  `json:"kind"`
	Expected string  `json:"expected"`
	Observed string  `json:"observed"`
	At       string  `json:"at"`
	Why      string  `json:"why"`
}

// Newer is the part as it is now. What was expected and observed stays in the words in which it was written.
func (o *OlderPart) Newer(check CheckName) Part {
	p := Part{Subject: olderSubject(check, o), Verdict: o.Verdict, At: o.At, Words: Words{
		Name: prose.Text(o.Name), Difference: prose.Text(o.Kind), Expected: prose.Text(o.Expected), Observed: prose.Text(o.Observed), Why: prose.Text(o.Why),
	}}
	as := func(text string) Value {
		if text == "" {
			return Value{}
		}
		return Value{Is: AsText, Text: text}
	}
	p.Expected, p.Observed = as(o.Expected), as(o.Observed)
	if o.Why != "" {
		p.Why = Value{Is: Because, Text: o.Why}
	}
	if o.Kind != "" {
		p.olderDifference(check, o)
	}
	return p
}

func olderSubject(check CheckName, o *OlderPart) Subject {
	name := o.Name
	if slices.Contains(olderWholes, name) {
		return of(Whole)
	}
	for _, a := range slices.Sorted(maps.Keys(olderAspects)) {
		if olderAspects[a] == name && (a != Answer || o.Kind != "no JSON" && o.Observed != "JSON") && (a != AnswerFormat || o.Kind == "no JSON" || o.Observed == "JSON") {
			return of(a)
		}
	}
	rest := func(prefix string) string { return strings.TrimPrefix(name, prefix) }
	begins := func(prefix string) bool { return strings.HasPrefix(name, prefix) }
	switch {
	case check == Response && begins("sent "):
		return ofField(SentValue, rest("sent "))
	case check == Response && begins("answer: has "):
		return ofMember(AnswerHas, rest("answer: has "))
	case check == Response && begins("answer: lacks "):
		return ofMember(AnswerLacks, rest("answer: lacks "))
	case check == Response && begins("answer: "):
		return ofMember(AnswerMember, rest("answer: "))
	case check == Messages && begins("shown on "):
		page, at, _ := strings.Cut(rest("shown on "), " ")
		return Subject{Aspect: ShownValue, Member: page, Place: at}
	case check == Messages:
		rule, aspect, _ := strings.Cut(rest("message "), ": ")
		field, _, ofField := strings.Cut(rule, ".")
		if !ofField {
			field = ""
		}
		return Subject{Aspect: swapped(olderMessages)[aspect], Rule: rule, Field: field}
	case check == RefilledValues:
		return ofField(ControlValue, name)
	case begins("row in "):
		return ofTable(RowWritten, rest("row in "))
	case begins("other columns of "):
		return ofTable(OtherColumns, rest("other columns of "))
	case begins("page "):
		return ofMember(PageAccess, rest("page "))
	case begins("cookie "):
		cookie, flag, _ := strings.Cut(rest("cookie "), ": ")
		if flag == "" {
			return ofMember(Cookie, cookie)
		}
		return Subject{Aspect: CookieFlag, Member: cookie, Attribute: swapped(olderFlags)[flag]}
	case strings.HasSuffix(name, " in the response"):
		return ofField(InResponse, strings.TrimSuffix(name, " in the response"))
	case strings.HasSuffix(name, " in other columns"):
		return ofField(InOtherColumns, strings.TrimSuffix(name, " in other columns"))
	}
	aspect := ColumnValue
	column, of, _ := strings.Cut(name, ": ")
	if check == Secrets {
		aspect = map[string]Aspect{"": SecretHash, "salt": Salt, "of the secret": HashedText}[of]
	}
	table, column, _ := strings.Cut(column, ".")
	return ofColumn(aspect, table, column)
}

func (p *Part) olderDifference(check CheckName, o *OlderPart) {
	for _, d := range slices.Sorted(maps.Keys(olderDifferences)) {
		if olderDifferences[d] == o.Kind && (d == MemberMissing) == (check == Response && o.Kind == "missing") && (d != SaltReused || strings.HasPrefix(o.Observed, "two")) {
			p.Difference = d
			return
		}
	}
	expected, isOutcome := strings.CutPrefix(o.Kind, "expected ")
	rule, isRule := strings.CutPrefix(o.Kind, "message of ")
	stored, isStored := strings.CutPrefix(o.Kind, "stored ")
	switch {
	case isOutcome:
		expected, observed, _ := strings.Cut(expected, ", ")
		p.Difference, p.Expected, p.Observed = OtherOutcome, outcomeValue(oracle.Outcome(expected)), outcomeValue(oracle.Outcome(observed))
	case isRule:
		p.Difference, p.Observed.Of = OtherRule, rule
	case isStored:
		p.Difference, p.Observed = StoredOtherwise, olderHash(stored)
	case p.Attribute != "":
		p.Difference = FlagMissing
	}
}

// olderHash is how a secret was said to be stored.
func olderHash(words string) Value {
	switch words {
	case "plain":
		return is(PlainText)
	case "plain, with more around it":
		return is(PlainWithin)
	case "of an unknown form":
		return is(UnknownForm)
	}
	if kind, is := strings.CutPrefix(words, "reversible ("); is {
		return Value{Is: Reversible, Of: strings.TrimSuffix(kind, ")")}
	}
	if kind, is := strings.CutPrefix(words, "a fast hash without salt ("); is {
		return Value{Is: FastHash, Of: strings.TrimSuffix(kind, ")")}
	}
	if n, is := strings.CutPrefix(words, "a fast hash or an unknown one ("); is {
		n = strings.TrimSuffix(n, " bytes)")
		count, _ := strconv.Atoi(n) // it was written as a number
		return Value{Is: FastOrUnknown, Of: n, N: count}
	}
	if kind, is := strings.CutPrefix(words, "a fast hash ("); is {
		kind, column, _ := strings.Cut(kind, ") with the salt in ")
		return Value{Is: FastHashSalted, Of: kind, Text: column}
	}
	return Value{Is: HashKind, Of: words}
}

// UnmarshalJSON reads a check, also of format 1.
func (c *Check) UnmarshalJSON(text []byte) error {
	type plain Check
	var name struct {
		Check string `json:"check"`
	}
	if err := json.Unmarshal(text, &name); err != nil {
		return err
	}
	check, older := newerChecks[name.Check]
	if !older {
		return json.Unmarshal(text, (*plain)(c))
	}
	var list struct {
		Verdict Verdict     `json:"verdict"`
		Parts   []OlderPart `json:"parts"`
	}
	if err := json.Unmarshal(text, &list); err != nil {
		return err
	}
	*c = Check{Check: check, Verdict: list.Verdict, Parts: []Part{}}
	for i := range list.Parts {
		c.Parts = append(c.Parts, list.Parts[i].Newer(check))
	}
	return nil
}
