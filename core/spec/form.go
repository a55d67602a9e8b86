package spec

import (
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"time"

	"oddtick/core/hashed"
)

// Form is the form document: everything one form promises.
type Form struct {
	Form  string `json:"form"`
	Title string `json:"title,omitempty"`
	// PageTitles are the titles of the form's page, by language tag.
	PageTitles map[string]string `json:"page_titles,omitempty"`
	// Page is the path of the page that holds the form. An endpoint that takes JSON may do without one.
	Page string `json:"page,omitempty"`
	// OpenedBy is the accessible name of the button or link on the page that makes the form appear.
	OpenedBy string `json:"opened_by,omitempty"`
	Submit   Submit `json:"submit,omitzero"`
	// Stages are the steps on which the form is filled in, where they are several.
	Stages []Stage `json:"stages,omitempty"`
	// Token names hidden controls whose value is read from the page before each submission.
	Token Names `json:"token,omitempty"`
	// State is the visitor's state in which the form can be submitted.
	State string `json:"state,omitempty"`
	// Before is what must be true before a submission.
	Before *Before `json:"before,omitempty"`
	Phases string  `json:"phases,omitempty" oneof:"in_order,together"`
	// Ignore lists tables that are not watched for this form.
	Ignore   []string `json:"ignore,omitempty"`
	Fields   []Field  `json:"fields,omitempty"`
	Across   []Across `json:"across,omitempty"`
	Rejected Rejected `json:"rejected,omitzero"`
	Accepted Accepted `json:"accepted,omitzero"`
	Stored   []Stored `json:"stored,omitempty"`
	// OnFailure is what a page whose script sends the form says when no usable answer comes; the values stay, and the form can be
	// sent again.
	OnFailure *OnFailure `json:"on_failure,omitempty" was:"unanswered"`
	// Requests are the answers to requests that no page of the site sends. Without them, such a request must only not make the site fail.
	Requests *Requests `json:"requests,omitempty"`
	// Unusual is what the team makes of what breaks promises that hold on every form.
	Unusual []UnusualDecision `json:"unusual,omitempty"`

	source *source
}

// Requests are how requests are refused that no page of the site sends.
type Requests struct {
	// OtherMethod is GET where the form is sent by POST; OtherType says that the body is plain text.
	OtherMethod *Refusal `json:"other_method,omitempty"`
	OtherType   *Refusal `json:"other_type,omitempty"`
	// MissingToken and ForeignToken are sent without a token, and with that of another session; Resubmitted once more, after going back.
	MissingToken *Refusal `json:"missing_token,omitempty"`
	ForeignToken *Refusal `json:"foreign_token,omitempty"`
	Resubmitted  *Refusal `json:"resubmitted,omitempty"`
	// SignedOut is sent by somebody who is not signed in.
	SignedOut *Refusal `json:"signed_out,omitempty"`
	// TooLarge has more than Over bytes; Undecodable is not in UTF-8.
	TooLarge    *Refusal `json:"too_large,omitempty"`
	Undecodable *Refusal `json:"undecodable,omitempty"`
	// TooMany is one more than are accepted within a minute.
	TooMany *Refusal `json:"too_many,omitempty"`
	// Records are about records that the visitor may not change, or that are not there as they were.
	Records []RecordRequest `json:"records,omitempty"`
}

// RecordRequest is a submission with valid values that is about another record than the page's, or sent by somebody else.
type RecordRequest struct {
	ID    string `json:"id"`
	Title string `json:"title,omitempty"`
	// To is the path that it is sent to in place of the form's.
	To string `json:"to,omitempty"`
	// With are values of parameters in place of those that the page holds or a visitor fills in, by request name.
	With map[string]string `json:"with,omitempty"`
	// As is the account that sends it.
	As      string  `json:"as,omitempty"`
	Refused Refusal `json:"refused"`
}

// Record is the request about a record with an id, nil for none.
func (r *Requests) Record(id string) *RecordRequest {
	if r == nil {
		return nil
	}
	for i := range r.Records {
		if r.Records[i].ID == id {
			return &r.Records[i]
		}
	}
	return nil
}

// TooManyRequests is the status of an answer to one request too many (RFC 6585, 4).
const TooManyRequests = 429

// Refusal is the answer to a request that is refused.
type Refusal struct {
	Status int `json:"status,omitempty"`
	// Over is how many bytes a request has that is too large.
	Over int `json:"over,omitempty"`
	// Headers are the answer's, by name; a list counts in any order.
	Headers map[string]string `json:"headers,omitempty"`
	Message *Message          `json:"message,omitempty"`
}

// Stage is one step of a form with several steps, as in a wizard. The last step's button submits the form.
type Stage struct {
	Title string `json:"title,omitempty"`
	// Fields are ids of fields; a summary has none.
	Fields Names `json:"fields,omitempty"`
	// Next is the accessible name of the button that leads to the next step.
	Next string `json:"next,omitempty"`
	// Back is that of the button that leads to the step before.
	Back string `json:"back,omitempty"`
}

// Submit says how the form is sent. The page's own form is what is submitted; this is what it should be.
type Submit struct {
	Method   string `json:"method,omitempty" oneof:"GET,POST,PUT,PATCH"`
	To       string `json:"to,omitempty"`
	Encoding string `json:"encoding,omitempty" oneof:"urlencoded,multipart,json"`
	// Button is the accessible name of the button that submits the form, where it is not the form's first.
	Button string `json:"button,omitempty"`
}

// Before is what must be true before a submission: who is signed in, and rows that exist.
type Before struct {
	// SignedIn is the account of the site document that is signed in.
	SignedIn string `json:"signed_in,omitempty"`
	// SignInWith is the account of the site document whose name and password are filled in; nobody is signed in before.
	SignInWith string      `json:"sign_in_with,omitempty" was:"account"`
	Rows       []RowBefore `json:"rows,omitempty"`
}

// RowBefore is a row that must exist.
type RowBefore struct {
	Table   string            `json:"table"`
	Columns map[string]Scalar `json:"columns,omitempty"`
	// By is the site's own form by which it is made; nil: it is written into the table.
	By *FilledIn `json:"by,omitempty"`
}

// FilledIn is a form of the site that is filled in and sent, over HTTP.
type FilledIn struct {
	Page string `json:"page"`
	// Fields are values by request name; what is not named stays as the page holds it.
	Fields map[string]Scalar `json:"fields"`
	// As is the account of the site document that is signed in.
	As string `json:"as,omitempty"`
}

// Names is one name or a list of them.
type Names []string

// Field is one field, in page order.
type Field struct {
	ID string `json:"id,omitempty"`
	// Name is the request name; it is the id where it is not said.
	Name  string `json:"name,omitempty"`
	Label string `json:"label,omitempty"`
	// Labels are the label's texts in other languages, by language tag.
	Labels map[string]string `json:"labels,omitempty"`
	Kind   Kind              `json:"kind,omitempty"`
	// When is a condition in CEL; where it is false the field is not filled, its rules are skipped, and it is stored as blank.
	When string `json:"when,omitempty"`
	// Initial is what the control holds when the page is opened.
	Initial *Scalar `json:"initial,omitempty"`
	// Value is what a ticked checkbox sends, or what a hidden field holds.
	Value   string   `json:"value,omitempty"`
	Options []Option `json:"options,omitempty"`
	// OptionsFrom names a table whose rows are the options.
	OptionsFrom *OptionsFrom `json:"options_from,omitempty"`
	// Mask says how the control changes what is typed.
	Mask *Mask `json:"mask,omitempty"`
	// Control says how the field is set when it is no native control.
	Control *ControlRole `json:"control,omitempty"`
	// Secret overrides that passwords are secrets and nothing else is.
	Secret *bool `json:"secret,omitempty"`
	// Usual is unchanged where the usual submission leaves the value as the page holds it, as on a form that edits a row.
	Usual string `json:"usual,omitempty" oneof:"unchanged"`
	// Format is how a day, a time or a number is written on the page and sent: D.M.YYYY, h:mm AM, or an example such as 1.234,50.
	Format string `json:"format,omitempty"`
	// Normalize are the server's normalising steps, in order.
	Normalize []NormalizeStep `json:"normalize,omitempty" was:"sent"`
	// Example is a value the tester knows to be accepted; new values are built to look like it.
	Example string `json:"example,omitempty"`
	Rules   []Rule `json:"rules,omitempty"`
}

// Unchanged: the usual value is the one that the page holds.
const Unchanged = "unchanged"

// Kind is a field's kind of control.
type Kind string

// The kinds of fields.
const (
	Text           Kind = "text"
	Textarea       Kind = "textarea"
	Email          Kind = "email"
	URL            Kind = "url"
	Tel            Kind = "tel"
	Password       Kind = "password"
	Number         Kind = "number"
	Date           Kind = "date"
	Time           Kind = "time"
	DateTime       Kind = "datetime"
	SingleChoice   Kind = "single_choice"
	MultipleChoice Kind = "multiple_choice"
	Checkbox       Kind = "checkbox"
	Upload         Kind = "file"
	Hidden         Kind = "hidden"
	Readonly       Kind = "readonly"
	Honeypot       Kind = "honeypot"
)

// Kinds lists the kinds a document may name.
var Kinds = []Kind{Text, Textarea, Email, URL, Tel, Password, Number, Date, Time, DateTime, SingleChoice, MultipleChoice, Checkbox, Upload, Hidden, Readonly, Honeypot}

// Textual kinds hold free text: their values are strings of a computed set.
func (k Kind) Textual() bool {
	switch k {
	case Text, Textarea, Email, URL, Tel, Password:
		return true
	}
	return false
}

// Untouched kinds are sent as the page holds them, or stay blank.
func (k Kind) Untouched() bool { return k == Hidden || k == Readonly || k == Honeypot }

// Option is one option of a choice: the label shown and the value sent.
type Option struct {
	Label string `json:"label,omitempty"`
	Value string `json:"value"`
}

// OptionsFrom is a table whose rows are a choice's options: those offered must equal them.
type OptionsFrom struct {
	Table string `json:"table"`
	Value string `json:"value"`
	Label string `json:"label,omitempty"`
}

// Mask is what a control makes of what is typed: an example of each of the three.
type Mask struct {
	Typed string `json:"typed"`
	Shown string `json:"shown,omitempty" was:"standing"`
	Sent  string `json:"sent,omitempty"`
}

// ControlRole says how a browser finds a control whose name or label does not tell: its ARIA role, and its accessible name.
type ControlRole struct {
	Role string `json:"role,omitempty" oneof:"switch,checkbox,combobox,listbox,radiogroup,group,slider,spinbutton,textbox,typed_date,calendar"`
	Name string `json:"name,omitempty"`
}

// The roles of our own: a day that is typed, and a month of buttons that another button opens.
const (
	TypedDate    = "typed_date"
	CalendarRole = "calendar"
)

// Across is a rule over several fields.
type Across struct {
	Base
	// MustHold is an expression in CEL over the fields' ids.
	MustHold string `json:"must_hold" was:"holds"`
}

// Place is where a message stands.
type Place string

// The places of messages.
const (
	AtField    Place = "field"
	InSummary  Place = "summary"
	OnNextPage Place = "next_page"
)

// Rejected says what is seen after a rejection.
type Rejected struct {
	// Status is the HTTP status; 0 is not promised.
	Status int    `json:"status,omitempty"`
	To     string `json:"to,omitempty"`
	Place  Place  `json:"place,omitempty" was:"at" oneof:"field,summary,next_page"`
	Report string `json:"report,omitempty" oneof:"every_failing_rule,first_of_each_field,first_of_all"`
	// MessageOn is when the messages of rules of the browser appear that do not say so themselves.
	MessageOn MessageEvent `json:"message_on,omitempty" was:"comes" oneof:"input,blur,submit" renamed:"typing=input,leaving=blur,submitting=submit"`
	// ValuesKept says which values the form still holds.
	ValuesKept string `json:"values_kept,omitempty" was:"refilled" oneof:"all_but_secrets,none" renamed:"nothing=none"`
	// Linked promises that each control refers to its message (aria-describedby or aria-errormessage).
	Linked bool `json:"linked,omitempty" was:"tied"`
	// Focus says where the focus goes.
	Focus string `json:"focus,omitempty" oneof:"first_wrong_field,summary"`
	// Answer is what a JSON answer holds.
	Answer *Answer `json:"answer,omitempty"`
	// Page is a page of its own, without the form, on which the rejection is told.
	Page *RefusalPage `json:"page,omitempty"`
	// Unreadable is what comes of a body that is no JSON object; where it is not said, any status from 400 to 499.
	Unreadable *Unreadable `json:"unreadable,omitempty"`
}

// RefusalPage is a page without the form that tells of a rejection.
type RefusalPage struct {
	Title string   `json:"title,omitempty"`
	Text  *Message `json:"text,omitempty"`
	// Link is the path to which a link on it leads, for what the visitor can do there.
	Link string `json:"link,omitempty"`
}

// Unreadable is the answer to a body that cannot be read.
type Unreadable struct {
	Status  int      `json:"status,omitempty"`
	Message *Message `json:"message,omitempty" was:"say"`
}

// Answer is what a JSON answer holds.
type Answer struct {
	// Schema is a JSON Schema (draft 2020-12) that the answer follows.
	Schema any `json:"schema,omitempty"`
	// Has and Lacks are JSONPath queries (RFC 9535): each of Has selects something, none of Lacks does.
	Has   Names `json:"has,omitempty"`
	Lacks Names `json:"lacks,omitempty"`
	// Equal are JSONPath queries for one member each, with the column of the row written that holds the same: table.column.
	Equal map[string]string `json:"equal,omitempty"`
}

// Rejection is what one rule's rejection does otherwise than the form's.
type Rejection struct {
	Status     int    `json:"status,omitempty"`
	To         string `json:"to,omitempty"`
	ValuesKept string `json:"values_kept,omitempty" was:"refilled" oneof:"all_but_secrets,none" renamed:"nothing=none"`
	Focus      string `json:"focus,omitempty" oneof:"first_wrong_field,summary"`
	// Page is a page of its own, without the form.
	Page *RefusalPage `json:"page,omitempty"`
}

// ResubmittedRejected: a form that is sent once more is rejected.
const ResubmittedRejected = "rejected"

// What is reported of a rejection, and which values are kept.
const (
	EveryFailingRule = "every_failing_rule"
	FirstOfEachField = "first_of_each_field"
	FirstOfAll       = "first_of_all"
	AllButSecrets    = "all_but_secrets"
	NoValues         = "none"
)

// OnFailure are the messages for answers that do not come, or that no script can use. What is not named is not tried.
type OnFailure struct {
	NetworkLost  *Message `json:"network_lost,omitempty"`
	ServerError  *Message `json:"server_error,omitempty"`
	Unauthorized *Message `json:"unauthorized,omitempty" was:"unauthorised"`
	// Slow promises that a form is sent once only, however often its button is pressed while its answer is waited for.
	Slow bool `json:"slow,omitempty"`
}

// Replaced is what a browser is given in place of the site's answer.
type Replaced string

// The replacements. Of a slow answer only the time is another.
const (
	NetworkLost  Replaced = "network_lost"
	ServerError  Replaced = "server_error"
	Unauthorized Replaced = "unauthorized"
	Slow         Replaced = "slow"
)

// Of is what is promised of a replacement; tried is false where nothing is.
func (u *OnFailure) Of(r Replaced) (say *Message, tried bool) {
	if u == nil {
		return nil, false
	}
	say = map[Replaced]*Message{NetworkLost: u.NetworkLost, ServerError: u.ServerError, Unauthorized: u.Unauthorized}[r]
	return say, say != nil || r == Slow && u.Slow
}

// Accepted says what is seen after acceptance.
type Accepted struct {
	Status int     `json:"status,omitempty"`
	To     string  `json:"to,omitempty"`
	Reply  Replies `json:"reply,omitempty"`
	// ReplyOnce promises that the reply is gone on the next page view.
	ReplyOnce bool `json:"reply_once,omitempty" was:"once"`
	// Resubmitted is the promised outcome of going back to the form and submitting it a second time: rejected, or accepted as another
	// submission. Without it, no case submits twice.
	Resubmitted string `json:"resubmitted,omitempty" was:"again" oneof:"rejected,accepted" renamed:"refused=rejected,taken=accepted"`
	// MaxPerMinute is how many submissions of one visitor are accepted within a minute; further ones are refused, with status 429 (RFC 6585)
	// where Requests.TooMany does not say how. 0 promises nothing.
	MaxPerMinute int `json:"max_per_minute,omitempty"`
	// Form is what the form is afterwards; initial is as it was when it was opened.
	Form string `json:"form,omitempty" oneof:"gone,blank,filled,initial"`
	// Reloaded promises that a reload brings the form back as it was when it was opened, and nothing of the reply.
	Reloaded string  `json:"reloaded,omitempty" oneof:"initial"`
	Shown    []Shown `json:"shown,omitempty"`
	// Mails are those that the site sends. Where some are promised, a rejected submission sends none.
	Mails   []SentMail `json:"mails,omitempty"`
	Session *Session   `json:"session,omitempty"`
	// Answer is what a JSON answer holds.
	Answer *Answer `json:"answer,omitempty"`
}

// Replies are the success replies, the first whose condition holds counts. In a file it may be one text.
type Replies []Reply

// Reply is one success reply. It stands within a text of the page, and is the whole of it where Exact says so.
type Reply struct {
	When      string `json:"when,omitempty"`
	Text      string `json:"text,omitempty"`
	Otherwise string `json:"otherwise,omitempty"`
	// Texts is the reply in each language, in place of Text or Otherwise.
	Texts map[string]string `json:"texts,omitempty"`
	Exact bool              `json:"exact,omitempty"`
	// Pattern, in RE2, is found in the text of the page, in place of a text.
	Pattern string `json:"pattern,omitempty" syntax:"RE2"`
}

// Words are all that the reply may be, but for a pattern.
func (r *Reply) Words() []string {
	if len(r.Texts) == 0 {
		return []string{r.Text + r.Otherwise}
	}
	out := make([]string, 0, len(r.Texts))
	for _, language := range slices.Sorted(maps.Keys(r.Texts)) {
		out = append(out, r.Texts[language])
	}
	return out
}

// Shown is a saved value that is shown on a page.
type Shown struct {
	Page     string `json:"page"`
	Selector string `json:"selector,omitempty" was:"at"`
	Text     string `json:"text,omitempty"`
	// Texts is the text in each language.
	Texts map[string]string `json:"texts,omitempty"`
}

// In is the text in a language.
func (s *Shown) In(language string) string { return textIn(s.Text, s.Texts, language) }

// SentMail is a mail that the site sends for an accepted submission. Its texts may have the places of a reply.
type SentMail struct {
	// When is a condition in CEL; where it is false, no such mail is sent.
	When string `json:"when,omitempty"`
	To   string `json:"to"`
	// Subject is all of the subject; Text stands within what is to be read.
	Subject *Message `json:"subject,omitempty"`
	Text    *Message `json:"text,omitempty"`
	// Link is the path of a page of the site, or the address of another, to which a link in it leads.
	Link string `json:"link,omitempty"`
	// Within is how long it may take, such as 30s; 10s where nothing is said.
	Within string `json:"within,omitempty"`
}

// UsualMailTime is how long a mail may take where nothing is said.
const UsualMailTime = 10 * time.Second

// Takes is how long the mail may take.
func (m *SentMail) Takes() time.Duration {
	d, err := time.ParseDuration(m.Within)
	if err != nil {
		return UsualMailTime
	}
	return d
}

// Session says what acceptance does to the session.
type Session struct {
	SignedIn string `json:"signed_in,omitempty"`
	// ID is what becomes of the session's id: a new one, the same, or none any more.
	ID string `json:"id,omitempty" oneof:"renewed,kept,ended"`
	// Others are the account's other sessions.
	Others string  `json:"others,omitempty" oneof:"ended"`
	Cookie *Cookie `json:"cookie,omitempty"`
	// Cookies are further ones, each of which may have a condition. NoCookies: the answer sets none.
	Cookies   []Cookie `json:"cookies,omitempty"`
	NoCookies bool     `json:"no_cookies,omitempty"`
	// ReturnTo is the page that the user wanted to open, and is led to once signed in.
	ReturnTo *ReturnTo `json:"return_to,omitempty" was:"onward"`
	Lock     *Lock     `json:"lock,omitempty"`
}

// Cookie is the one that holds the session's id, with its attributes (RFC 6265).
type Cookie struct {
	Name     string `json:"name"`
	HTTPOnly bool   `json:"http_only,omitempty"`
	Secure   bool   `json:"secure,omitempty"`
	SameSite string `json:"same_site,omitempty" oneof:"strict,lax"`
	// When is a condition in CEL; where it is false nothing is promised of the cookie.
	When string `json:"when,omitempty"`
	// Lasts is how long it is kept, such as 720h; or session, until the browser is closed; or not_set.
	Lasts string `json:"lasts,omitempty"`
}

// What a cookie may be besides kept for a time.
const (
	SessionCookie = "session"
	CookieNotSet  = "not_set"
)

// All are all cookies of which something is promised.
func (s *Session) All() []Cookie {
	if s.Cookie == nil {
		return s.Cookies
	}
	return append([]Cookie{*s.Cookie}, s.Cookies...)
}

// ReturnTo is a hidden field that holds the page that the user wanted to open. The form never leads to a page of another site.
type ReturnTo struct {
	Field string `json:"field"`
	// To is such a page of the site.
	To string `json:"to"`
}

// Lock is what keeps an account from being guessed.
type Lock struct {
	// After is how many wrong passwords in a row lock an account.
	After   int      `json:"after"`
	Message *Message `json:"message,omitempty" was:"say"`
	// Released is after how long the right password is taken again, such as 30s or 15m.
	Released string `json:"released,omitempty"`
}

// Lasts is how long the lock lasts; 0 where nothing is said of it.
func (l *Lock) Lasts() time.Duration {
	d, _ := time.ParseDuration(l.Released) // a wrong one is told by Prepare
	return d
}

// Stored is what acceptance does to one table: it inserts or updates a row, or does nothing.
type Stored struct {
	Insert string `json:"insert,omitempty"`
	Update string `json:"update,omitempty"`
	// Row tells which row is updated: signed_in is that of the user who is signed in.
	Row string `json:"row,omitempty" oneof:"signed_in"`
	// Where finds the row to update: the value of each column. In a value, {signed_in} is the key of the user who is signed in, and the id of
	// a field in braces what was sent for it.
	Where map[string]string `json:"where,omitempty"`
	// Each is a field of several choices: a row is inserted for each that is chosen, and its columns that come from the field hold that one.
	Each string `json:"each,omitempty"`
	// When is a condition in CEL; where it is false the table is left alone.
	When    string            `json:"when,omitempty"`
	Columns map[string]Source `json:"columns,omitempty"`

	sorted []NamedSource
}

// RowSignedIn is the row of the user who is signed in.
const RowSignedIn = "signed_in"

// Table is the table inserted into or updated.
func (s *Stored) Table() string {
	if s.Update != "" {
		return s.Update
	}
	return s.Insert
}

// NamedSource is a column with its source.
type NamedSource struct {
	Name string
	Source
	// Within is how far a column that holds the time of storing may be from it.
	Within time.Duration
}

// Sorted are the named columns in alphabetical order.
func (s *Stored) Sorted() []NamedSource { return s.sorted }

// ColumnNames are the names of the columns in alphabetical order.
func (s *Stored) ColumnNames() []string {
	out := make([]string, len(s.sorted))
	for i := range s.sorted {
		out[i] = s.sorted[i].Name
	}
	return out
}

// Source is where a column's value comes from; one of its parts is set.
// HashWork is the work that one guess at a hash takes: the cost of bcrypt; the memory in KiB and the passes of argon2; the n of scrypt; the
// iterations of PBKDF2 and the crypt formats.
type HashWork struct {
	Cost       int `json:"cost,omitempty"`
	Memory     int `json:"memory,omitempty"`
	Passes     int `json:"passes,omitempty"`
	N          int `json:"n,omitempty"`
	Iterations int `json:"iterations,omitempty"`
}

// Measures are those that are said.
func (w HashWork) Measures() map[string]int {
	out := map[string]int{hashed.Cost: w.Cost, hashed.Memory: w.Memory, hashed.Passes: w.Passes, hashed.N: w.N, hashed.Iterations: w.Iterations}
	maps.DeleteFunc(out, func(_ string, n int) bool { return n == 0 })
	return out
}

type Source struct {
	// From is a field; its normalised value is stored.
	From string `json:"from,omitempty"`
	// AsSent asks for the value as it was sent, before the server's steps.
	AsSent bool `json:"as_sent,omitempty" was:"typed"`
	// Option asks for the chosen option's label instead of its value.
	Option string `json:"option,omitempty" oneof:"label,value"`
	// File asks for a part of an uploaded file.
	File string `json:"file,omitempty" oneof:"name,size,sha-256,content"`
	// Blank says what is stored for a blank field: "null", "empty", "default" or "unchanged".
	Blank Blank `json:"blank,omitempty"`
	// Secret is a secret field, stored only as one of the kinds in As.
	Secret string   `json:"secret,omitempty"`
	As     []string `json:"as,omitempty"`
	// AtLeast is the least work that one guess takes, by kind of hash and its measure.
	AtLeast map[string]HashWork `json:"at_least,omitempty"`
	// Pepper: the site adds a secret of its own to it, so that whose hash it is cannot be verified.
	Pepper bool `json:"pepper,omitempty"`
	// Salt is the other column that holds the secret's salt, where it does not stand in the hash.
	Salt string `json:"salt,omitempty"`
	// KeyOf is a table in which the same case writes a row: its key is stored.
	KeyOf string `json:"key_of,omitempty"`
	// SignedIn stores the signed-in user's key.
	SignedIn bool `json:"signed_in,omitempty"`
	// Generated is an identifier made by site or server.
	Generated string `json:"generated,omitempty" oneof:"uuid,sequence"`
	// Client stores the visitor's address.
	Client bool `json:"client_address,omitempty"`
	// Default says that the column holds its default.
	Default bool `json:"default,omitempty"`
	// Unchanged says that an update leaves the column as it was.
	Unchanged bool `json:"unchanged,omitempty" was:"untouched"`
	// Now: the column holds the time of storing.
	Now *Now `json:"now,omitempty"`
	// Is is a constant.
	Is *Scalar `json:"is,omitempty"`
	// Null says that the column is NULL.
	Null bool `json:"null,omitempty"`
	// Any says that anything may be stored.
	Any bool `json:"any,omitempty"`
	// Cel is an expression over the fields.
	Cel string `json:"cel,omitempty"`
}

// Now is how far a column may be from the time of storing, such as 5s.
type Now struct {
	Within string `json:"within"`
	// Zone is the time zone in which a column without one holds it, such as UTC or Europe/London; where it is not said, any will do.
	Zone string `json:"zone,omitempty"`
}

// tolerance reads how far that is.
func (n *Now) tolerance() (time.Duration, error) {
	if n == nil {
		return 0, nil
	}
	d, err := time.ParseDuration(n.Within)
	if err != nil || d <= 0 {
		return 0, fmt.Errorf("%q is not a tolerance", n.Within)
	}
	if _, err := time.LoadLocation(n.Zone); err != nil {
		return 0, fmt.Errorf("%q is not a time zone", n.Zone)
	}
	return d, nil
}

// Blank is what is stored for a blank field.
type Blank string

// The values of Blank; in a file null may stand for "null".
const (
	BlankNull    Blank = "null"
	BlankEmpty   Blank = "empty"
	BlankDefault Blank = "default"
	// BlankUnchanged: a row that is updated keeps what it held.
	BlankUnchanged Blank = "unchanged"
)

// Scalar is a text, number or truth value, kept as it is written.
type Scalar string

var plainNumber = regexp.MustCompile(`^-?(0|[1-9][0-9]*)(\.[0-9]+)?$`)

// MarshalJSON implements json.Marshaler: a number is written as one.
func (s Scalar) MarshalJSON() ([]byte, error) {
	if plainNumber.MatchString(string(s)) {
		return []byte(s), nil
	}
	return json.Marshal(string(s))
}

// UnmarshalJSON implements json.Unmarshaler.
func (s *Scalar) UnmarshalJSON(b []byte) error {
	var text string
	if json.Unmarshal(b, &text) == nil {
		*s = Scalar(text)
		return nil
	}
	*s = Scalar(b)
	return nil
}

// Labels are the labels of a form's fields by their ids.
func (f *Form) Labels() map[string]string {
	out := map[string]string{}
	for i := range f.Fields {
		if f.Fields[i].Label != "" {
			out[f.Fields[i].ID] = f.Fields[i].Label
		}
	}
	return out
}
