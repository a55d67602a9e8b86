package spec

import "time"

// Form is the form document: everything one form promises.
type Form struct {
	Form  string `json:"form"`
	Title string `json:"title,omitempty"`
	// Page is the path of the page that holds the form.
	Page   string `json:"page"`
	Submit Submit `json:"submit,omitzero"`
	// Token names hidden controls whose value is read from the page before each submission.
	Token  Names  `json:"token,omitempty"`
	State  string `json:"state,omitempty"`
	Phases string `json:"phases,omitempty" oneof:"in order,together"`
	// Ignore lists tables that are not watched for this form.
	Ignore   []string `json:"ignore,omitempty"`
	Fields   []Field  `json:"fields"`
	Across   []Across `json:"across,omitempty"`
	Rejected Rejected `json:"rejected,omitzero"`
	Accepted Accepted `json:"accepted,omitzero"`
	Stored   []Stored `json:"stored,omitempty"`

	source *source
}

// Submit says how the form is sent. The page's own form is what is submitted; this is what it should be.
type Submit struct {
	Method   string `json:"method,omitempty" oneof:"GET,POST"`
	To       string `json:"to,omitempty"`
	Encoding string `json:"encoding,omitempty" oneof:"urlencoded,multipart"`
}

// Names is one name or a list of them.
type Names []string

// Field is one field, in page order.
type Field struct {
	ID string `json:"id,omitempty"`
	// Name is the request name; it is the id where it is not said.
	Name  string `json:"name,omitempty"`
	Label string `json:"label,omitempty"`
	Kind  Kind   `json:"kind,omitempty"`
	// Value is what a ticked checkbox sends, or what a hidden field holds.
	Value   string   `json:"value,omitempty"`
	Options []Option `json:"options,omitempty"`
	// Secret overrides that passwords are secrets and nothing else is.
	Secret *bool `json:"secret,omitempty"`
	// Sent are the server's normalising steps, in order: trim, lower, upper, collapse, nfc.
	Sent []string `json:"sent,omitempty"`
	// Example is a value the tester knows to be accepted; new values are built to look like it.
	Example string `json:"example,omitempty"`
	Rules   []Rule `json:"rules,omitempty"`
}

// Kind is a field's kind of control.
type Kind string

// The kinds of fields.
const (
	Text      Kind = "text"
	MultiLine Kind = "multi-line"
	Email     Kind = "email"
	Password  Kind = "password"
	Number    Kind = "number"
	Date      Kind = "date"
	OneChoice Kind = "one choice"
	Checkbox  Kind = "checkbox"
	Hidden    Kind = "hidden"
	Trap      Kind = "trap"
)

// Kinds lists the kinds a document may name.
var Kinds = []Kind{Text, MultiLine, Email, Password, Number, Date, OneChoice, Checkbox, Hidden, Trap}

// Option is one option of a choice: the label shown and the value sent.
type Option struct {
	Label string `json:"label,omitempty"`
	Value string `json:"value"`
}

// Across is a rule over several fields.
type Across struct {
	Base
	// Holds is an expression in CEL over the fields' ids.
	Holds string `json:"holds"`
}

// Place is where a message stands.
type Place string

// The places of messages.
const (
	AtField    Place = "field"
	InSummary  Place = "summary"
	OnNextPage Place = "next page"
)

// Rejected says what is seen after a rejection.
type Rejected struct {
	// Status is the HTTP status; 0 is not promised.
	Status int    `json:"status,omitempty"`
	To     string `json:"to,omitempty"`
	At     Place  `json:"at,omitempty" oneof:"field,summary,next page"`
	Report string `json:"report,omitempty" oneof:"every failing rule,first of each field,first of all"`
	// Refilled says which values the form still holds.
	Refilled string `json:"refilled,omitempty" oneof:"all but secrets,nothing"`
	// Tied promises that each control refers to its message (aria-describedby or aria-errormessage).
	Tied bool `json:"tied,omitempty"`
}

// The ways of reporting and refilling.
const (
	EveryFailingRule = "every failing rule"
	FirstOfEachField = "first of each field"
	FirstOfAll       = "first of all"
	AllButSecrets    = "all but secrets"
	Nothing          = "nothing"
)

// Accepted says what is seen after acceptance.
type Accepted struct {
	Status  int      `json:"status,omitempty"`
	To      string   `json:"to,omitempty"`
	Reply   Replies  `json:"reply,omitempty"`
	Form    string   `json:"form,omitempty" oneof:"gone,blank,filled"`
	Shown   []Shown  `json:"shown,omitempty"`
	Session *Session `json:"session,omitempty"`
}

// Replies are the success replies, the first whose condition holds counts. In a file it may be one text.
type Replies []Reply

// Reply is one success reply.
type Reply struct {
	When      string `json:"when,omitempty"`
	Text      string `json:"text,omitempty"`
	Otherwise string `json:"otherwise,omitempty"`
}

// Shown is a saved value that is shown on a page.
type Shown struct {
	Page string `json:"page"`
	At   string `json:"at,omitempty"`
	Text string `json:"text"`
}

// Session says what acceptance does to the session.
type Session struct {
	SignedIn string `json:"signed in,omitempty"`
	ID       string `json:"id,omitempty" oneof:"renewed"`
}

// Stored is what acceptance does to one table.
type Stored struct {
	Insert  string            `json:"insert"`
	Columns map[string]Source `json:"columns,omitempty"`

	sorted []NamedSource
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
type Source struct {
	// From is a field; its normalised value is stored.
	From string `json:"from,omitempty"`
	// Typed asks for the value as sent, before the server's steps.
	Typed bool `json:"typed,omitempty"`
	// Blank says what is stored for a blank field: "null", "empty" or "default".
	Blank Blank `json:"blank,omitempty"`
	// Secret is a secret field, stored only as one of the kinds in As.
	Secret string   `json:"secret,omitempty"`
	As     []string `json:"as,omitempty"`
	// Now is a tolerance: "within 5s".
	Now string `json:"now,omitempty"`
	// Is is a constant.
	Is *Scalar `json:"is,omitempty"`
	// Null says that the column is NULL.
	Null bool `json:"null,omitempty"`
	// Any says that anything may be stored.
	Any bool `json:"any,omitempty"`
	// Cel is an expression over the fields.
	Cel string `json:"cel,omitempty"`
}

// Blank is what is stored for a blank field.
type Blank string

// The values of Blank; in a file null may stand for "null".
const (
	BlankNull    Blank = "null"
	BlankEmpty   Blank = "empty"
	BlankDefault Blank = "default"
)

// Scalar is a text, number or truth value, kept as it is written.
type Scalar string
