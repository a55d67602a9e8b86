package draft

import (
	"oddtick/core/prose"
	"oddtick/core/spec"
)

// Draft is what one source says of a form.
type Draft struct {
	// From names the source in words, such as the page /join.
	From prose.Text `json:"from"`
	// Form are statements about the form as a whole, by path.
	Form []Statement `json:"form,omitempty"`
	// Fields are in the order of the source.
	Fields  []Field  `json:"fields,omitempty"`
	Columns []Column `json:"columns,omitempty"`
	// Notes say what a tester should know and no document can hold.
	Notes []prose.Text `json:"notes,omitempty"`
}

// Statement is one thing said, with where it came from.
type Statement struct {
	Path  string     `json:"path"` // within what it is about
	Value any        `json:"value"`
	From  prose.Text `json:"from"`
	// Certain: it was seen, and what stands there was a guess.
	Certain bool `json:"certain,omitempty"`
}

// Field is what is said of one field, known by its request name or its id.
type Field struct {
	Name string `json:"name"`
	ID   string `json:"id,omitempty"`
	// Statements are about the field's own keys: label, kind, options and so on.
	Statements []Statement  `json:"statements,omitempty"`
	Rules      []Rule       `json:"rules,omitempty"`
	Notes      []prose.Text `json:"notes,omitempty"`
	// Known tells that the source only adds to a field that is there.
	Known bool `json:"known,omitempty"`
}

// Rule is a rule that a source speaks of.
type Rule struct {
	Rule spec.Rule  `json:"rule"`
	From prose.Text `json:"from"`
	// Sure is how certain it is, from 0 to 1.
	Sure float64 `json:"sure"`
	// Inferred: nobody said it of this layer. It is proposed only where the form has no such rule there.
	Inferred bool `json:"inferred,omitempty"`
}

// Column is where a field's value, or something else, is stored.
type Column struct {
	Table  string      `json:"table"`
	Column string      `json:"column"`
	Source spec.Source `json:"source"`
	// Row or Where say which row an update changes: the row of the signed-in user, or the one whose columns hold these values. Both are zero for an insert.
	Row   string            `json:"row,omitempty"`
	Where map[string]string `json:"where,omitempty"`
	From  prose.Text        `json:"from"`
	Sure  float64           `json:"sure"`
}

// Say adds a statement about one of the field's own keys.
func (f *Field) Say(path string, value any, from prose.Text) {
	f.Statements = append(f.Statements, Statement{Path: path, Value: value, From: from})
}

// Rule adds a rule.
func (f *Field) Rule(r spec.Rule, sure float64, from prose.Text) {
	f.Rules = append(f.Rules, Rule{Rule: r, From: from, Sure: sure})
}

// Say adds a statement about the form as a whole.
func (d *Draft) Say(path string, value any, from prose.Text) {
	d.Form = append(d.Form, Statement{Path: path, Value: value, From: from})
}
