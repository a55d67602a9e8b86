package oracle

import (
	"slices"
	"time"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
)

// Outcome is how a submission ends.
type Outcome string

// The outcomes; an expectation holds one of the first six.
const (
	Accepted          Outcome = "accepted"
	RejectedByBrowser Outcome = "rejected by the browser"
	RejectedByServer  Outcome = "rejected by the server"
	// NothingFurther is expected of steps that submit nothing, such as a reload after a redirect.
	NothingFurther Outcome = "nothing further"
	// Answered: whatever the site makes of it, it does not fail. So much is expected of requests that no page sends.
	Answered Outcome = "answered"
	// NotAnswered: no usable answer came, and the page copes with it.
	NotAnswered   Outcome = "not answered"
	Failed        Outcome = "failed"
	Silent        Outcome = "silent"
	Contradictory Outcome = "contradictory"
)

// Expectation is what a submission must lead to, check by check.
type Expectation struct {
	// Language is what the visitor asks for.
	Language string    `json:"language,omitempty"`
	Outcome  Outcome   `json:"outcome"`
	Failing  []Failure `json:"failing,omitempty"`
	// Status is the first response's; 0 is not promised. To is the redirect's target, "" when not promised.
	Status   int                  `json:"status,omitempty"`
	To       string               `json:"to,omitempty"`
	Headers  map[string]string    `json:"headers,omitempty"` // of the first response
	Messages []submission.Message `json:"messages,omitempty"`
	Reply    string               `json:"reply,omitempty"`
	// ReplyExact: the reply is the whole of a text. ReplyPattern, in RE2, is found in it, in place of Reply.
	ReplyExact   bool   `json:"reply_exact,omitempty"`
	ReplyPattern string `json:"reply_pattern,omitempty"`
	// Page is what the page holds that the form is filled in on; nil where it is not looked at.
	Page  *Page   `json:"page,omitempty"`
	Shown []Shown `json:"shown,omitempty"`
	// RefusalPage is the page of its own on which a rejection is told; nil where none is promised.
	RefusalPage *spec.RefusalPage `json:"refusal_page,omitempty"`
	// Mails are those that the site sends; NoMail asks for none.
	Mails  []Mail `json:"mails,omitempty"`
	NoMail bool   `json:"no_mail,omitempty"`
	// Recipients are those of all mails that the form promises under any condition.
	Recipients []string `json:"recipients,omitempty"`
	// Gone is a text that must not be seen any more.
	Gone     string     `json:"gone,omitempty"`
	Refilled []Refilled `json:"refilled,omitempty"`
	// Focus says where the focus goes after a rejection: first wrong field or summary; "" when not promised.
	Focus string `json:"focus,omitempty"`
	// Form is what the form is after acceptance: gone, blank, filled or initial; "" when not promised.
	Form string `json:"form,omitempty"`
	Rows []Row  `json:"rows,omitempty"`
	// Secrets are the fields whose values must not be seen anywhere.
	Secrets []string `json:"secrets,omitempty"`
	// SessionRenewed asks for a new session id.
	SessionRenewed bool `json:"session_renewed,omitempty"`
	// SessionKept asks for the same id, SessionEnded for none; Cookies are those of which something is promised, NoCookies asks for none to be set.
	SessionKept  bool          `json:"session_kept,omitempty"`
	SessionEnded bool          `json:"session_ended,omitempty"`
	Cookies      []spec.Cookie `json:"cookies,omitempty"`
	NoCookies    bool          `json:"no_cookies,omitempty"`
	// SignedIn: the visitor is signed in afterwards. OthersEnd: the account's other sessions are no more.
	SignedIn  bool `json:"signed_in,omitempty"`
	OthersEnd bool `json:"others_end,omitempty"`
	// OnSite: no redirect leads to another host, whatever address the submission names.
	OnSite bool `json:"on_site,omitempty"`
	// MayRefuse: a refusal that changes nothing will do as well.
	MayRefuse bool `json:"may_refuse,omitempty"`
}

// Mail is a mail that must be sent. Its texts are filled in as far as the submission tells.
type Mail struct {
	// Promise is the place of its promise among the form's, from 0.
	Promise int           `json:"promise"`
	To      string        `json:"to"`
	Subject *spec.Message `json:"subject,omitempty"`
	Text    *spec.Message `json:"text,omitempty"`
	Link    string        `json:"link,omitempty"`
	Within  time.Duration `json:"within"` // nanoseconds
}

// Page is what a page holds and says in one language.
type Page struct {
	Title string `json:"title,omitempty"`
	// Labels are those of fields, by their ids.
	Labels map[string]string `json:"labels,omitempty"`
	// HTMLLang and ContentLanguage are the language that the root element and the header name.
	HTMLLang        string `json:"html_lang,omitempty"`
	ContentLanguage string `json:"content_language,omitempty"`
}

// Failure is one rule that fails.
type Failure struct {
	Rule  string       `json:"rule"`
	Phase string       `json:"phase"`
	Cause FailureCause `json:"cause,omitempty"`
	// Of is the name of a token; N the length of a value, or how many wrong passwords there were.
	Of string `json:"of,omitempty"`
	N  int    `json:"n,omitempty"`
	// Why is it in words; core/wording writes it.
	Why prose.Text `json:"why"`
}

// FailureCause is why a submission fails.
type FailureCause string

// The causes.
const (
	RuleBroken     FailureCause = "rule_broken"
	TokenMissing   FailureCause = "token_missing"
	TokenForeign   FailureCause = "token_foreign"
	WrongMethod    FailureCause = "wrong_method"
	WrongType      FailureCause = "wrong_type"
	NotSignedIn    FailureCause = "not_signed_in"
	TooLarge       FailureCause = "too_large"
	Undecodable    FailureCause = "undecodable"
	OtherRecord    FailureCause = "other_record"
	HoneypotFilled FailureCause = "honeypot_filled"
	SentAgain      FailureCause = "sent_again"
	TooMany        FailureCause = "too_many"
	AccountLocked  FailureCause = "account_locked"
	BodyNotJSON    FailureCause = "body_not_json"
	NotTheSites    FailureCause = "not_the_sites" // a link or code
	UsedUp         FailureCause = "used_up"       // a link or code
)

// Values are all causes.
func (FailureCause) Values() []string {
	return []string{
		string(RuleBroken), string(TokenMissing), string(TokenForeign), string(WrongMethod), string(WrongType), string(NotSignedIn), string(TooLarge), string(Undecodable), string(OtherRecord), string(HoneypotFilled), string(SentAgain), string(TooMany), string(AccountLocked), string(BodyNotJSON), string(NotTheSites), string(UsedUp),
	}
}

// Breaks tells whether a rule of a field fails.
func (e *Expectation) Breaks(p *spec.Prepared, f *spec.PreparedField) bool {
	return slices.ContainsFunc(p.Rules, func(r *spec.PreparedRule) bool {
		return r.Field == f && slices.ContainsFunc(e.Failing, func(x Failure) bool { return x.Rule == r.ID })
	})
}

// Shown is a saved value that must be seen on a page.
type Shown struct {
	Page string `json:"page"`
	At   string `json:"at,omitempty"`
	Text string `json:"text"`
}

// Refilled is what one control must hold after a rejection.
type Refilled struct {
	Field string `json:"field"` // id
	// Sent and Normal may both stand in the control; Blank asks for an empty one.
	Sent    string `json:"sent,omitempty"`
	Normal  string `json:"normal,omitempty"`
	Checked bool   `json:"ticked,omitempty"`
	Blank   bool   `json:"blank,omitempty"`
}

// Row is one row that must be inserted or updated.
type Row struct {
	Table   string `json:"table"`
	Updates bool   `json:"updates,omitempty"`
	// Key is that of the row that is updated, where it is known, and KeyColumn the column that holds it, where it is not the table's key.
	Key       string `json:"key,omitempty"`
	KeyColumn string `json:"key_column,omitempty"`
	// Where is what the row that is updated held in some columns, where that is known.
	Where []Condition `json:"where,omitempty"`
	// Each is the field of several choices for one of whose values the row is.
	Each    string   `json:"each,omitempty"`
	Columns []Column `json:"columns"`
}

// Condition is a column and the value by which a row is known.
type Condition struct {
	Column string `json:"column"`
	Value  string `json:"value"`
}

// Column is what one column must hold.
type Column struct {
	Name   string     `json:"name"`
	Source ColumnKind `json:"source"`
	Value  string     `json:"value,omitempty"`
	// Kind is the kind of the field the value comes from; it says how values are compared.
	Kind  spec.Kind `json:"kind,omitempty"`
	Field string    `json:"field,omitempty"` // id
	// As are the kinds of hash allowed for a secret.
	As []string `json:"as,omitempty"`
	// AtLeast is the least work that one guess takes, by kind of hash.
	AtLeast map[string]spec.HashWork `json:"at_least,omitempty"`
	// Pepper: the site adds a secret of its own before hashing.
	Pepper bool `json:"pepper,omitempty"`
	// Within is the tolerance around the time of submitting, in nanoseconds.
	Within time.Duration `json:"within,omitempty"`
	// Zone is the time zone of such a time, "" for any.
	Zone string `json:"zone,omitempty"`
}

// ColumnKind is what a column's value is compared with.
type ColumnKind string

// The kinds of columns.
const (
	HoldsValue   ColumnKind = "value"
	HoldsNull    ColumnKind = "null"
	HoldsHash    ColumnKind = "hash"
	HoldsNow     ColumnKind = "now"
	HoldsDefault ColumnKind = "default"
	HoldsAny     ColumnKind = "any"
	HoldsUUID    ColumnKind = "uuid"
	// HoldsSequence is a number that the server counts up; HoldsKeyOf the key of the row written in the table that Value names;
	// HoldsAddress the visitor's.
	HoldsSequence ColumnKind = "sequence"
	HoldsKeyOf    ColumnKind = "key of"
	HoldsAddress  ColumnKind = "client address"
	// HoldsUntouched: the column's default on insert, what it held before on update.
	HoldsUntouched ColumnKind = "untouched"
	// HoldsUnknown: the promise is known, but what it comes to is not.
	HoldsUnknown ColumnKind = "unknown"
)
