package spec

import (
	"reflect"
	"slices"
)

// Layer is where a rule is checked.
type Layer string

// The layers.
const (
	InBrowser  Layer = "browser"
	OnServer   Layer = "server"
	InDatabase Layer = "database"
)

// MessageEvent is when a message comes, and goes, as a visitor fills a form in.
type MessageEvent string

// The moments. OnSubmit nothing is said before.
const (
	OnInput  MessageEvent = "input"
	OnBlur   MessageEvent = "blur"
	OnSubmit MessageEvent = "submit"
)

// Base is what every rule has.
type Base struct {
	ID string `json:"id,omitempty"`
	// Layers are where the rule is checked; the server where nothing is said. In each of them it is a rule of its own, with an id of its
	// own: on the server, or in the first layer, the id itself, in another one the id, an underscore and the layer, unless IDs says so.
	Layers  []Layer          `json:"layers,omitempty" was:"layer" oneof:"browser,server,database"`
	IDs     map[Layer]string `json:"ids,omitempty"`
	Message *Message         `json:"message,omitempty" was:"say"`
	// Messages are said in place of Message, the first whose condition holds.
	Messages []MessageWhen `json:"messages,omitempty"`
	Place    Place         `json:"place,omitempty" was:"at" oneof:"field,summary,next_page"`
	// AtField is the field at which the message stands, where it is not the rule's own.
	AtField string `json:"at_field,omitempty"`
	// MessageOn is the event at which the message appears as the user fills the form in: while typing, when the field is left, or only when
	// the form is submitted. Once the value is corrected, it goes. Nothing is tried where it is not said.
	MessageOn MessageEvent `json:"message_on,omitempty" was:"comes" oneof:"input,blur,submit" renamed:"typing=input,leaving=blur,submitting=submit"`
	// When is a condition in CEL; where it is false the rule is skipped.
	When string `json:"when,omitempty"`
	// Rejected says what this rule's rejection does otherwise than the form's.
	Rejected *Rejection `json:"rejected,omitempty"`
	// Requirement is where the rule comes from.
	Requirement *Requirement `json:"requirement,omitempty"`
}

// MessageWhen is what is said where a condition in CEL holds.
type MessageWhen struct {
	When    string   `json:"when"`
	Message *Message `json:"message"`
}

// Requirement is where a rule comes from: its id in the team's own list, and where it can be read.
type Requirement struct {
	ID   string `json:"id"`
	Link string `json:"link,omitempty"`
}

// Rule is one promise about a field; exactly one of its parts is set.
type Rule struct {
	Required      *Required      `json:"required,omitempty"`
	Length        *Length        `json:"length,omitempty"`
	Pattern       *Pattern       `json:"pattern,omitempty"`
	Characters    *Characters    `json:"characters,omitempty"`
	Email         *EmailRule     `json:"email,omitempty"`
	Number        *NumberRule    `json:"number,omitempty"`
	Range         *RangeRule     `json:"range,omitempty"`
	Step          *Step          `json:"step,omitempty"`
	Date          *DateRule      `json:"date,omitempty"`
	OneOfOptions  *OneOfOptions  `json:"one_of_options,omitempty" was:"listed"`
	MustBeChecked *MustBeChecked `json:"must_be_checked,omitempty" was:"ticked"`
	SameAs        *SameAs        `json:"same_as,omitempty" was:"agrees"`
	DifferentFrom *DifferentFrom `json:"different_from,omitempty" was:"differs"`
	Unique        *Unique        `json:"unique,omitempty"`
	URL           *URLRule       `json:"url,omitempty"`
	Decimals      *Decimals      `json:"decimals,omitempty"`
	Time          *TimeRule      `json:"time,omitempty"`
	File          *FileRule      `json:"file,omitempty"`
	ExistsIn      *ExistsIn      `json:"exists_in,omitempty" was:"refers"`
	MatchesSecret *MatchesSecret `json:"matches_secret,omitempty" was:"matches"`
	NoOverlap     *NoOverlap     `json:"no_overlap,omitempty"`

	// Implied: the rule is not written, the field's kind says it.
	Implied bool `json:"-"`
}

// Required: not blank. Where it is told apart, Absent is said of a value that is not sent at all, Null of JSON's null.
type Required struct {
	Base
	Absent *Message `json:"absent,omitempty"`
	Null   *Message `json:"null,omitempty"`
}

// Length bounds a text's length, both ends inclusive.
type Length struct {
	Base
	Min int    `json:"min,omitempty"`
	Max *int   `json:"max,omitempty"`
	In  string `json:"in,omitempty" oneof:"characters,utf-16_units,bytes,graphemes"`
}

// Pattern is a pattern the whole value matches.
type Pattern struct {
	Base
	Is      string `json:"is"`
	Dialect string `json:"dialect,omitempty" oneof:"v,u"`
}

// Characters are those allowed, as a class of a pattern without its brackets: a-z0-9.
type Characters struct {
	Base
	Of string `json:"of"`
}

// EmailRule is HTML's definition of a valid e-mail address.
type EmailRule struct{ Base }

// NumberRule: the value is a number. Implied by the kind.
type NumberRule struct{ Base }

// RangeRule bounds a number or a date, both ends inclusive unless exclusive.
type RangeRule struct {
	Base
	Min       Scalar `json:"min,omitempty"`
	Max       Scalar `json:"max,omitempty"`
	Exclusive bool   `json:"exclusive,omitempty"`
	// Zone is the time zone in which today is meant; UTC by default.
	Zone string `json:"zone,omitempty"`
}

// Step: the number lies on a whole count of steps from the base.
type Step struct {
	Base
	By   Scalar `json:"by"`
	From Scalar `json:"from,omitempty"`
}

// DateRule: the value is a day that exists, year-month-day. Implied by the kind.
type DateRule struct{ Base }

// OneOfOptions: one of the field's options. Implied by options.
type OneOfOptions struct{ Base }

// MustBeChecked: the checkbox must be ticked.
type MustBeChecked struct{ Base }

// SameAs: the value equals another field's.
type SameAs struct {
	Base
	Field string `json:"field" was:"with"`
}

// DifferentFrom: the value is not another field's.
type DifferentFrom struct {
	Base
	Field string `json:"field" was:"from"`
}

// Unique: no row holds the value yet.
type Unique struct {
	Base
	// Column is table.column.
	Column   string   `json:"column"`
	Ignoring []string `json:"ignoring,omitempty" oneof:"case,accents,spaces"`
	// Also are columns of other tables, as table.column, that must not hold the value either.
	Also Names `json:"also,omitempty"`
	// Same says which rows count: those whose columns hold what these fields do. Where one of them is blank, none does.
	Same map[string]string `json:"same,omitempty"`
}

// NoOverlap: no row spans a time, both ends inclusive, that shares a day or moment with the one from this field's value to another's.
type NoOverlap struct {
	Base
	// To is the field with the end.
	To string `json:"to"`
	// Table holds the rows, Begins and Ends are the columns with their ends.
	Table  string `json:"table"`
	Begins string `json:"begins"`
	Ends   string `json:"ends"`
	// Same says which rows count: those whose columns hold what these fields do.
	Same map[string]string `json:"same,omitempty"`
}

// URLRule is HTML's definition of a valid absolute URL.
type URLRule struct{ Base }

// Decimals bounds the digits behind the decimal point.
type Decimals struct {
	Base
	Max int `json:"max"`
}

// TimeRule: the value is a time of day, or a day and a time, that exists. Implied by the kind.
type TimeRule struct{ Base }

// FileRule bounds an uploaded file.
type FileRule struct {
	Base
	// Max is the greatest size in bytes; 0 is no limit.
	Max int `json:"max,omitempty"`
	// Types are media types such as image/png or image/*, or endings such as .png.
	Types []string `json:"types,omitempty"`
}

// ExistsIn: a row holds the value in this column.
type ExistsIn struct {
	Base
	// Column is table.column.
	Column string `json:"column"`
}

// MatchesSecret: the value is the secret that is stored for the signed-in user.
type MatchesSecret struct {
	Base
	// Stored is table.column.
	Stored string `json:"stored"`
	// Of is the field that names whose secret it is, where nobody is signed in; Ignoring is what does not matter in it.
	Of       string `json:"of,omitempty"`
	Ignoring Names  `json:"ignoring,omitempty"`
}

// based is a kind of rule: a struct that embeds Base.
type based[T any] interface {
	*T
	base() *Base
}

func (b *Base) base() *Base { return b }

// baseOf is a kind's common part, nil when the rule is of another kind.
func baseOf[T any, P based[T]](kind P) *Base {
	if kind == nil {
		return nil
	}
	return kind.base()
}

// ID is the rule's id within its field, "" when no or several kinds are set.
func (r *Rule) ID() string {
	if _, base := r.part(); base != nil {
		return base.ID
	}
	return ""
}

// In is a copy of the rule that is checked in these layers.
func (r Rule) In(layers ...Layer) Rule {
	v := reflect.ValueOf(&r).Elem()
	for i := range v.NumField() {
		if kind := v.Field(i); kind.Kind() == reflect.Pointer && !kind.IsNil() {
			copied := reflect.New(kind.Type().Elem())
			copied.Elem().Set(kind.Elem())
			kind.Set(copied)
		}
	}
	if _, base := r.part(); base != nil {
		base.Layers = layers
	}
	return r
}

// Layers are where the rule is checked; the server where nothing is said.
func (r *Rule) Layers() []Layer {
	_, base := r.part()
	return base.layers()
}

func (b *Base) layers() []Layer {
	if b != nil && len(b.Layers) > 0 {
		return b.Layers
	}
	return []Layer{OnServer}
}

// IDIn is the rule's id in one of its layers.
func (b *Base) IDIn(layer Layer) string {
	first := b.layers()[0]
	if slices.Contains(b.layers(), OnServer) {
		first = OnServer
	}
	if id := b.IDs[layer]; id != "" {
		return id
	}
	if layer == first {
		return b.ID
	}
	return b.ID + "_" + string(layer)
}

// RequirementRules are the rules that come from a requirement, by their ids: field.rule, or across.rule.
type RequirementRules struct {
	Requirement
	Rules []string `json:"rules"`
}

// Requirements are where the form's rules come from, in the order in which the document names them.
func (f *Form) Requirements() []RequirementRules {
	var out []RequirementRules
	add := func(of string, base *Base) {
		if base == nil || base.Requirement == nil {
			return
		}
		at := slices.IndexFunc(out, func(r RequirementRules) bool { return r.ID == base.Requirement.ID })
		if at < 0 {
			at, out = len(out), append(out, RequirementRules{Requirement: *base.Requirement})
		}
		if out[at].Link == "" {
			out[at].Link = base.Requirement.Link
		}
		for _, layer := range base.layers() {
			out[at].Rules = append(out[at].Rules, of+"."+base.IDIn(layer))
		}
	}
	for i := range f.Fields {
		for k := range f.Fields[i].Rules {
			_, base := f.Fields[i].Rules[k].part()
			add(f.Fields[i].ID, base)
		}
	}
	for i := range f.Across {
		add("across", &f.Across[i].Base)
	}
	return out
}

// Condition is when the rule is asked, "" for always.
func (r *Rule) Condition() string {
	if _, base := r.part(); base != nil {
		return base.When
	}
	return ""
}

// SetMessage gives the rule a message.
func (r *Rule) SetMessage(text string) {
	if _, base := r.part(); base != nil {
		base.Message = &Message{Text: text}
	}
}

// RejectedWith says that the rule's rejection has a status of its own.
func (r *Rule) RejectedWith(status int) {
	if _, base := r.part(); base != nil {
		base.Rejected = &Rejection{Status: status}
	}
}

// SaidAt says that the rule's message stands at another place than the form's others.
func (r *Rule) SaidAt(place Place) {
	if _, base := r.part(); base != nil {
		base.Place = place
	}
}

// Message is what is said of a value that breaks the rule, nil for nothing.
func (r *Rule) Message() *Message {
	if _, base := r.part(); base != nil {
		return base.Message
	}
	return nil
}
