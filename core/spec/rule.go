package spec

// Layer is where a rule is checked.
type Layer string

// The layers.
const (
	InBrowser  Layer = "browser"
	OnServer   Layer = "server"
	InDatabase Layer = "database"
)

// Base is what every rule has.
type Base struct {
	ID    string   `json:"id,omitempty"`
	Layer Layer    `json:"layer,omitempty" oneof:"browser,server,database"`
	Say   *Message `json:"say,omitempty"`
	At    Place    `json:"at,omitempty" oneof:"field,summary,next page"`
}

// Rule is one promise about a field; exactly one of its parts is set.
type Rule struct {
	Required   *Required   `json:"required,omitempty"`
	Length     *Length     `json:"length,omitempty"`
	Pattern    *Pattern    `json:"pattern,omitempty"`
	Characters *Characters `json:"characters,omitempty"`
	Email      *EmailRule  `json:"email,omitempty"`
	Number     *NumberRule `json:"number,omitempty"`
	Range      *RangeRule  `json:"range,omitempty"`
	Step       *Step       `json:"step,omitempty"`
	Date       *DateRule   `json:"date,omitempty"`
	Listed     *Listed     `json:"listed,omitempty"`
	Ticked     *Ticked     `json:"ticked,omitempty"`
	Agrees     *Agrees     `json:"agrees,omitempty"`
	Differs    *Differs    `json:"differs,omitempty"`
	Unique     *Unique     `json:"unique,omitempty"`
}

// Required: not blank.
type Required struct{ Base }

// Length bounds a text's length, both ends inclusive.
type Length struct {
	Base
	Min int    `json:"min,omitempty"`
	Max *int   `json:"max,omitempty"`
	In  string `json:"in,omitempty" oneof:"characters,utf-16 units,bytes,graphemes"`
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

// Listed: one of the field's options. Implied by options.
type Listed struct{ Base }

// Ticked: the checkbox must be ticked.
type Ticked struct{ Base }

// Agrees: the value equals another field's.
type Agrees struct {
	Base
	With string `json:"with"`
}

// Differs: the value is not another field's.
type Differs struct {
	Base
	From string `json:"from"`
}

// Unique: no row holds the value yet.
type Unique struct {
	Base
	// Column is table.column.
	Column   string   `json:"column"`
	Ignoring []string `json:"ignoring,omitempty" oneof:"case,accents,spaces"`
}

// Message is what is said when a rule fails. In a file it may be one text or a text per language.
type Message struct {
	// Text is the exact text; Texts the exact text per language.
	Text  string            `json:"text,omitempty"`
	Texts map[string]string `json:"texts,omitempty"`
	// Part is contained in the text; Pattern is found in it.
	Part    string `json:"part,omitempty"`
	Pattern string `json:"pattern,omitempty"`
}

// part returns the kind's name and the rule's common part; the base is nil when no or several kinds are set.
func (r *Rule) part() (kind string, base *Base) {
	add := func(name string, set bool, b func() *Base) {
		if !set {
			return
		}
		if kind != "" {
			kind, base = "several", nil
			return
		}
		kind, base = name, b()
	}
	add("required", r.Required != nil, func() *Base { return &r.Required.Base })
	add("length", r.Length != nil, func() *Base { return &r.Length.Base })
	add("pattern", r.Pattern != nil, func() *Base { return &r.Pattern.Base })
	add("characters", r.Characters != nil, func() *Base { return &r.Characters.Base })
	add("email", r.Email != nil, func() *Base { return &r.Email.Base })
	add("number", r.Number != nil, func() *Base { return &r.Number.Base })
	add("range", r.Range != nil, func() *Base { return &r.Range.Base })
	add("step", r.Step != nil, func() *Base { return &r.Step.Base })
	add("date", r.Date != nil, func() *Base { return &r.Date.Base })
	add("listed", r.Listed != nil, func() *Base { return &r.Listed.Base })
	add("ticked", r.Ticked != nil, func() *Base { return &r.Ticked.Base })
	add("agrees", r.Agrees != nil, func() *Base { return &r.Agrees.Base })
	add("differs", r.Differs != nil, func() *Base { return &r.Differs.Base })
	add("unique", r.Unique != nil, func() *Base { return &r.Unique.Base })
	return kind, base
}

// Kind names the rule's kind, "" when none is set and "several" when more than one is.
func (r *Rule) Kind() string {
	kind, _ := r.part()
	return kind
}

// In returns the text in a language, falling back to the only or the English one; ok is false when no exact text is promised.
func (m *Message) In(language string) (text string, ok bool) {
	if m == nil {
		return "", false
	}
	if m.Text != "" {
		return m.Text, true
	}
	for _, l := range []string{language, "en"} {
		if text, ok := m.Texts[l]; ok {
			return text, true
		}
	}
	return "", false
}
