package judge

import (
	"slices"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/prose"
)

// Verdict is of a part, a check, a step or a case.
type Verdict string

// The verdicts.
const (
	AsExpected   Verdict = "as expected"
	Odd          Verdict = "odd"
	NotObserved  Verdict = "not observed"
	DoesNotApply Verdict = "does not apply"
)

// worstOf: odd if any is odd, else not observed if any was not, else as expected if any is, else it does not apply.
func worstOf(list []Verdict) Verdict {
	for _, v := range []Verdict{Odd, NotObserved, AsExpected} {
		if slices.Contains(list, v) {
			return v
		}
	}
	return DoesNotApply
}

// CheckName is one of the seven checks.
type CheckName string

// The seven checks, in order.
const (
	Outcome        CheckName = "outcome"
	Response       CheckName = "response"
	Messages       CheckName = "messages"
	RefilledValues CheckName = "refilled_values"
	StoredData     CheckName = "stored_data"
	Secrets        CheckName = "secrets"
	Session        CheckName = "session"
)

// Checks lists the seven checks in order.
var Checks = []CheckName{Outcome, Response, Messages, RefilledValues, StoredData, Secrets, Session}

// Aspect is what of a check a part judges.
type Aspect string

// The aspects, by check.
const (
	// Whole is all of a check, where nothing of it can be told apart.
	Whole Aspect = "whole"
	// ByHandAspect is what a person judges.
	ByHandAspect Aspect = "by_hand"

	OutcomeAspect Aspect = "outcome"

	Answer         Aspect = "answer" // that there is one
	Button         Aspect = "button"
	Status         Aspect = "status"
	RedirectHost   Aspect = "redirect_host"
	Redirect       Aspect = "redirect"
	RedirectTarget Aspect = "redirect_target"
	Internals      Aspect = "internals"
	Scripts        Aspect = "scripts"
	ScriptErrors   Aspect = "script_errors"
	FailedRequests Aspect = "failed_requests"
	Focus          Aspect = "focus"
	SentValues     Aspect = "sent_values"
	SentValue      Aspect = "sent_value" // of Field
	AnswerFormat   Aspect = "answer_format"
	AnswerSchema   Aspect = "answer_schema"
	AnswerHas      Aspect = "answer_has"    // Member
	AnswerLacks    Aspect = "answer_lacks"  // Member
	AnswerMember   Aspect = "answer_member" // Member

	BeforeSubmitting Aspect = "before_submitting"
	MessageText      Aspect = "message_text" // of Rule, as the next ones
	MessagePlace     Aspect = "message_place"
	MessageVisible   Aspect = "message_visible"
	MessageLinked    Aspect = "message_linked"
	MessageComes     Aspect = "message_comes"
	MessageGoes      Aspect = "message_goes"
	NoOtherMessage   Aspect = "no_other_message"
	SuccessReply     Aspect = "success_reply"
	ShownOnce        Aspect = "shown_once"
	ShownValue       Aspect = "shown_value" // on the page Member, at Place
	PageTitle        Aspect = "page_title"
	FieldLabel       Aspect = "label"         // of Field
	NamedLanguage    Aspect = "page_language" // as Member names it
	OwnPage          Aspect = "own_page"      // on which a rejection is told, as the next ones
	PageText         Aspect = "page_text"
	PageLink         Aspect = "page_link"
	MailSent         Aspect = "mail" // to Member, as the next ones
	MailSubject      Aspect = "mail_subject"
	MailText         Aspect = "mail_text"
	MailLink         Aspect = "mail_link"
	NoOtherMail      Aspect = "no_other_mail"

	FormState    Aspect = "form"
	ControlValue Aspect = "control" // of Field

	RowWritten   Aspect = "row"           // in Table
	ColumnValue  Aspect = "column"        // Table and Column
	OtherColumns Aspect = "other_columns" // of Table
	OtherRows    Aspect = "other_rows"

	InResponse     Aspect = "in_response"      // the secret of Field
	InOtherColumns Aspect = "in_other_columns" // the secret of Field
	SecretHash     Aspect = "hash"             // Table and Column, as the next ones
	HashedText     Aspect = "hashed_text"
	HashWork       Aspect = "hash_work" // the measure Member
	Salt           Aspect = "salt"
	ResponseHeader Aspect = "header" // Member
	InMail         Aspect = "in_mail"

	SessionID     Aspect = "session_id"
	SignedInAfter Aspect = "signed_in"
	Cookie        Aspect = "cookie" // Member
	CookieFlag    Aspect = "cookie_flag"
	CookieLife    Aspect = "cookie_life" // Member
	NoCookie      Aspect = "no_cookie"
	OtherSessions Aspect = "other_sessions"

	PageOpens    Aspect = "page"
	VisitorState Aspect = "state"
	PageAccess   Aspect = "page_access" // of the page Member
)

// The aspects that only causes have: what is one thing of several parts.
const (
	FarTooLong         Aspect = "outcome_far_too_long"
	AllValues          Aspect = "all_values"
	SchemaWhenAccepted Aspect = "answer_schema_accepted"
	MessagesCome       Aspect = "messages_come"
	MessagesGo         Aspect = "messages_go"
	MessagesLanguage   Aspect = "messages_language"
	MessagesOfBlank    Aspect = "messages_of_blank"
	MessagesOfField    Aspect = "messages_of_field"
	PlaceOfField       Aspect = "messages_of_field_place"
	VisibleOfField     Aspect = "messages_of_field_visible"
	LinkedOfField      Aspect = "messages_of_field_linked"
)

// Difference is a kind of difference, the same for the same kind of fault.
type Difference string

// The differences.
const (
	OddByHand      Difference = "odd_by_hand"
	OtherOutcome   Difference = "other_outcome"
	SubmittedAgain Difference = "submitted_again"

	NoAnswer        Difference = "no_answer"
	ButtonStuck     Difference = "button_stuck"
	SentTwice       Difference = "sent_twice"
	ServerError     Difference = "server_error"
	OtherStatus     Difference = "other_status"
	OtherHost       Difference = "other_host"
	OtherTarget     Difference = "other_target"
	TargetMissing   Difference = "target_missing"
	InternalsShown  Difference = "internals_shown"
	ScriptError     Difference = "script_error"
	RequestFailed   Difference = "request_failed"
	FocusElsewhere  Difference = "focus_elsewhere"
	Altered         Difference = "altered"
	NotJSON         Difference = "not_json"
	AgainstSchema   Difference = "against_schema"
	MemberMissing   Difference = "member_missing"
	MemberSurplus   Difference = "member_surplus"
	MemberNotStored Difference = "member_not_stored"

	ShownBefore        Difference = "shown_before"
	OtherText          Difference = "other_text"
	OtherLanguage      Difference = "other_language"
	OtherBlank         Difference = "other_blank"          // the message of another kind of blank
	OtherRule          Difference = "other_rule"           // the message of another rule of the field
	Missing            Difference = "missing"              // a message or reply
	MissingAccepted    Difference = "missing_accepted"     // a message, as it was accepted
	MissingNotAccepted Difference = "missing_not_accepted" // a reply, as it was not accepted
	OtherPlace         Difference = "other_place"
	Hidden             Difference = "hidden"
	NotLinked          Difference = "not_linked"
	TooLate            Difference = "too_late"
	TooEarly           Difference = "too_early"
	Stays              Difference = "stays"
	NotExpected        Difference = "not_expected"
	ShownAgain         Difference = "shown_again"
	NotShown           Difference = "not_shown"
	NotSent            Difference = "not_sent"
	MailTwice          Difference = "mail_twice"
	MailNotExpected    Difference = "mail_not_expected"
	NoSuchLink         Difference = "no_such_link"
	FormThere          Difference = "form_there"

	FormGone    Difference = "form_gone"
	FormNotGone Difference = "form_not_gone"
	ControlGone Difference = "control_gone"
	NotRefilled Difference = "not_refilled"
	Filled      Difference = "filled"
	OtherValue  Difference = "other_value"
	NotBlank    Difference = "not_blank"
	NotFilled   Difference = "not_filled"
	NotAsOpened Difference = "not_as_opened"

	NoRow            Difference = "no_row"
	RowInserted      Difference = "row_inserted" // where no row is to change
	RowChanged       Difference = "row_changed"
	RowDeleted       Difference = "row_deleted"
	OtherRowInserted Difference = "other_row_inserted" // beside those that are to change
	OtherRowChanged  Difference = "other_row_changed"
	OtherRowDeleted  Difference = "other_row_deleted"
	NoColumn         Difference = "no_column"
	IsNull           Difference = "null"
	NotNull          Difference = "not_null"
	Emptied          Difference = "emptied"
	CutShort         Difference = "cut_short"
	SpacesKept       Difference = "spaces_kept"
	OtherLineEnds    Difference = "other_line_ends"
	OtherCapitals    Difference = "other_capitals"
	ZerosLost        Difference = "leading_zeros_lost"
	CharactersLost   Difference = "characters_lost"
	StoredAsMarkup   Difference = "stored_as_markup"
	OtherTime        Difference = "other_time"
	NoTime           Difference = "no_time"
	NotDefault       Difference = "not_default"
	Changed          Difference = "changed"
	OtherKey         Difference = "other_key"
	NoNumber         Difference = "no_number"
	OtherAddress     Difference = "other_address"
	NoUUID           Difference = "no_uuid"

	SecretShown     Difference = "secret_shown"
	SecretStored    Difference = "secret_stored" // beside its hash
	StoredOtherwise Difference = "stored_otherwise"
	OtherTextHashed Difference = "other_text_hashed"
	TooLittleWork   Difference = "too_little_work"
	OtherHeader     Difference = "other_header"
	SaltReused      Difference = "salt_reused"
	SameHashTwice   Difference = "same_hash_twice"

	NotRenewed    Difference = "not_renewed"
	NotKept       Difference = "not_kept"
	NotEnded      Difference = "not_ended"
	CookieIsSet   Difference = "cookie_set"
	CookieMissing Difference = "cookie_missing"
	OtherLife     Difference = "other_life"
	NotSignedIn   Difference = "not_signed_in"
	FlagMissing   Difference = "flag_missing"
	SessionsGoOn  Difference = "sessions_go_on"

	DoesNotOpen Difference = "does_not_open"
	OtherState  Difference = "other_state"
	OtherAccess Difference = "other_access"
)

// Subject is what a part is about: an aspect of a check, and of which rule, field, column or else.
type Subject struct {
	Aspect Aspect `json:"aspect"`
	// Rule and Field are ids.
	Rule   string `json:"rule,omitempty"`
	Field  string `json:"field,omitempty"`
	Table  string `json:"table,omitempty"`
	Column string `json:"column,omitempty"`
	// Member is a member of an answer, a cookie or a page; Attribute one of the cookie's.
	Member    string          `json:"member,omitempty"`
	Attribute CookieAttribute `json:"attribute,omitempty"`
	// Place is where on a page it is: of a message one of the form's places, of a shown value a selector.
	Place string `json:"place,omitempty"`
}

// Part is one thing judged within a check.
type Part struct {
	Subject
	Verdict Verdict `json:"verdict"`
	// Difference is its kind, "" unless odd.
	Difference Difference `json:"difference,omitempty"`
	Expected   Value      `json:"expected,omitzero"`
	Observed   Value      `json:"observed,omitzero"`
	// Follows: it is odd because another part of the step is.
	Follows bool `json:"follows,omitempty"`
	// Signals are by what an outcome was told.
	Signals []Value `json:"signals,omitempty"`
	// At is where within it the difference is, such as a place in a JSON answer.
	At string `json:"at,omitempty"`
	// Why is the reason of a verdict that needs one.
	Why Value `json:"why,omitzero"`
	// Words are for people; core/wording writes them.
	Words Words `json:"words"`
}

// Words are what a part is about, its difference and the rest of it in words.
type Words struct {
	Name       prose.Text `json:"name"`
	Difference prose.Text `json:"difference,omitempty"`
	Expected   prose.Text `json:"expected,omitempty"`
	Observed   prose.Text `json:"observed,omitempty"`
	Why        prose.Text `json:"why,omitempty"`
}

// Value is what was expected or observed, or a reason: a term, and what it is of.
type Value struct {
	Is Term `json:"is"`
	// Text is as it stood on a page, in a row or in a request; Of is a name, such as a table, a field or a header; N a number.
	Text string `json:"text,omitempty"`
	Of   string `json:"of,omitempty"`
	Was  string `json:"was,omitempty"` // what Text was before
	N    int    `json:"n,omitempty"`
	// Names are several, such as the kinds of hash that are allowed. Rows are rows that changed, a few of them.
	Names []string     `json:"names,omitempty"`
	Rows  []ChangedRow `json:"rows,omitempty"`
}

// ChangedRow names a row and what became of it.
type ChangedRow struct {
	Table string                 `json:"table"`
	Key   string                 `json:"key"`
	Kind  observation.ChangeKind `json:"kind"`
}

// same tells whether two values say the same.
func (v *Value) same(other *Value) bool {
	return v.Is == other.Is && v.Text == other.Text && v.Of == other.Of && v.N == other.N
}

// Check is one of the seven with its parts.
type Check struct {
	Check   CheckName `json:"check"`
	Verdict Verdict   `json:"verdict"`
	Parts   []Part    `json:"parts"`
}

// Step is the verdicts of one step.
type Judgement struct {
	Verdict  Verdict    `json:"verdict"`
	Headline prose.Text `json:"headline"` // core/wording writes it
	// Ended is how it ended; Reloaded that it submitted nothing. Why is the reason of one that was not observed or does not apply.
	Ended    oracle.Outcome `json:"ended,omitempty"`
	Reloaded bool           `json:"reloaded,omitempty"`
	Why      Value          `json:"why,omitzero"`
	ByHand   bool           `json:"by_hand,omitempty"`
	Checks   []Check        `json:"checks"`
	// odd is what is odd of it, and is no consequence of something else; best the one that tells most.
	odd  []OddPart
	best int
}

func (c *Check) add(p Part) { c.Parts = append(c.Parts, p) }

func (c *Check) asExpected(s Subject, expected, observed Value) {
	c.add(Part{Subject: s, Verdict: AsExpected, Expected: expected, Observed: observed})
}

func (c *Check) odd(s Subject, d Difference, expected, observed Value) {
	c.add(Part{Subject: s, Verdict: Odd, Difference: d, Expected: expected, Observed: observed})
}

// compare adds a part that is as expected when same.
func (c *Check) compare(same bool, s Subject, d Difference, expected, observed Value) {
	if same {
		c.asExpected(s, expected, observed)
		return
	}
	c.odd(s, d, expected, observed)
}

func (c *Check) unobserved(s Subject, why Value) {
	c.add(Part{Subject: s, Verdict: NotObserved, Why: why})
}

func (c *Check) notApplicable(s Subject, why Value) {
	c.add(Part{Subject: s, Verdict: DoesNotApply, Why: why})
}

func (c *Check) finish() Check {
	list := make([]Verdict, len(c.Parts))
	for i := range c.Parts {
		list[i] = c.Parts[i].Verdict
	}
	c.Verdict = worstOf(list)
	if c.Parts == nil {
		c.Parts = []Part{}
	}
	return *c
}

// The subjects of parts.
func of(a Aspect) Subject                      { return Subject{Aspect: a} }
func ofField(a Aspect, id string) Subject      { return Subject{Aspect: a, Field: id} }
func ofMember(a Aspect, member string) Subject { return Subject{Aspect: a, Member: member} }
func ofTable(a Aspect, table string) Subject   { return Subject{Aspect: a, Table: table} }

func ofColumn(a Aspect, table, column string) Subject {
	return Subject{Aspect: a, Table: table, Column: column}
}

// is is a value that is told by its term alone.
func is(t Term) Value { return Value{Is: t} }

// asText is a text as it stood, where it holds anything, and else a term for that it does not.
func asText(text string, otherwise Term) Value {
	if text == "" {
		return is(otherwise)
	}
	return Value{Is: AsText, Text: text}
}

func number(n int) Value { return Value{Is: Number, N: n} }

// either is one of two terms.
func either(first bool, a, b Term) Value {
	if first {
		return is(a)
	}
	return is(b)
}
