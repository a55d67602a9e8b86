package draft

import (
	"cmp"
	"regexp"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Mapping is a field with the column its values seem to go to.
type Mapping struct {
	Field  string  `json:"field"` // id
	Column string  `json:"column"`
	Sure   float64 `json:"sure"`
}

// leastSure is below what a likeness of names is no hint.
const leastSure = 0.3

// Tables ranks a database's tables by how many fields of a form could be stored in them, the likeliest first.
func Tables(db *schema.Database, form *spec.Form) []string {
	type ranked struct {
		name string
		sum  float64
	}
	var list []ranked
	for i := range db.Tables {
		sum := 0.0
		for _, m := range Map(&db.Tables[i], form) {
			sum += m.Sure
		}
		sum += similarity(db.Tables[i].Name, form.Form) / 2
		list = append(list, ranked{db.Tables[i].Name, sum})
	}
	slices.SortStableFunc(list, func(a, b ranked) int { return cmp.Compare(b.sum, a.sum) })
	out := make([]string, len(list))
	for i := range list {
		out[i] = list[i].name
	}
	return out
}

// Map proposes the column of each field by likeness of names and types, the surest pairs first, each column once.
func Map(t *schema.Table, form *spec.Form) []Mapping {
	type pair struct {
		field, column int
		sure          float64
		exact         bool // the names are the same, not only alike
	}
	var pairs []pair
	confirmed := map[string]bool{} // a second field for the same thing, such as a password again
	for i := range form.Fields {
		f := &form.Fields[i]
		if f.Kind == spec.Honeypot || slices.ContainsFunc(f.Rules, func(r spec.Rule) bool { return r.SameAs != nil }) {
			confirmed[f.ID] = true
			continue
		}
		for k := range t.Columns {
			c := &t.Columns[k]
			if c.Auto || c.Generated != "" {
				continue
			}
			fit := fits(f, c)
			if fit == 0 {
				continue
			}
			sure := max(similarity(f.Name, c.Name), similarity(f.ID, c.Name), 0.95*similarity(f.Label, c.Name), 0.9*similarity(f.Label, c.Comment))
			if again(f) {
				sure *= 0.8
			}
			if sure >= leastSure {
				pairs = append(pairs, pair{i, k, min(sure*fit, 0.99), strings.EqualFold(f.Name, c.Name) || strings.EqualFold(f.ID, c.Name)})
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b pair) int {
		if c := cmp.Compare(b.sure, a.sure); c != 0 || a.exact == b.exact {
			return c
		}
		if a.exact {
			return -1
		}
		return 1
	})
	taken, placed := map[int]bool{}, map[int]bool{}
	var out []Mapping
	for _, p := range pairs {
		if taken[p.column] || placed[p.field] || p.sure < leastSure {
			continue
		}
		taken[p.column], placed[p.field] = true, true
		out = append(out, Mapping{form.Fields[p.field].ID, t.Name + "." + t.Columns[p.column].Name, p.sure})
	}
	return out
}

// present are words of fields that ask for the secret that an account has already.
var present = regexp.MustCompile(`(?i)(?:\b|_)(present|current|old|existing|aktuelle[sn]?|bisherige[sn]?|altes|derzeitige[sn]?|jetzige[sn]?)(?:\b|_)`)

// AsksForPresent tells of a form of somebody who is signed in whether a field asks for the secret that the account has already.
func AsksForPresent(f *spec.Field) bool {
	return f.IsSecret() && (present.MatchString(f.Label) || present.MatchString(f.Name))
}

// again: the field's name or label says that it repeats another.
func again(f *spec.Field) bool {
	switch f.Kind {
	case spec.Text, spec.Email, spec.Tel, spec.Password, spec.Number, "":
	default:
		return false // "I confirm that …" repeats nothing
	}
	text := strings.ToLower(f.Name + " " + f.Label)
	return slices.ContainsFunc(repeating, func(word string) bool { return strings.Contains(text, word) })
}

// repeating are parts of words that say that a field repeats another.
var repeating = []string{"again", "repeat", "confirm", "retype", "re-type", "re-enter", "reenter", "wiederhol", "bestätig"}

// fits is how well a kind of field goes with a class of column: 0 not at all, 1 just so.
func fits(f *spec.Field, c *schema.Column) float64 {
	switch f.Kind {
	case spec.Date:
		return fitting(c, schema.ClassDate, schema.ClassDateTime, schema.ClassText)
	case spec.Time:
		return fitting(c, schema.ClassTime, schema.ClassText, schema.ClassDateTime)
	case spec.DateTime:
		return fitting(c, schema.ClassDateTime, schema.ClassText)
	case spec.Number:
		return fitting(c, schema.ClassInteger, schema.ClassDecimal, schema.ClassFloat, schema.ClassText, schema.ClassBoolean)
	case spec.Checkbox:
		return fitting(c, schema.ClassBoolean, schema.ClassInteger, schema.ClassText, schema.ClassBinary)
	case spec.SingleChoice:
		return fitting(c, schema.ClassEnum, schema.ClassText, schema.ClassInteger, schema.ClassBoolean)
	case spec.MultipleChoice:
		return fitting(c, schema.ClassSet, schema.ClassJSON, schema.ClassText, schema.ClassInteger)
	case spec.Upload:
		return fitting(c, schema.ClassBinary, schema.ClassText)
	}
	return fitting(c, schema.ClassText, schema.ClassEnum, schema.ClassUUID, schema.ClassInteger, schema.ClassDecimal, schema.ClassBinary, schema.ClassDate, schema.ClassDateTime, schema.ClassJSON, schema.ClassTime)
}

func fitting(c *schema.Column, classes ...schema.Class) float64 {
	switch i := slices.Index(classes, c.Class); {
	case i < 0:
		return 0
	case i == 0:
		return 1
	default:
		return 0.9 - 0.05*float64(i)
	}
}

// FromSchema is what a table says of a form that stores into it.
func FromSchema(db *schema.Database, table string, form *spec.Form) *Draft {
	t := db.Table(table)
	if t == nil {
		return &Draft{From: phrases.FromTable.With("table", table), Notes: []prose.Text{phrases.NoTable.With("table", table)}}
	}
	from := phrases.FromTable.With("table", t.Name)
	d := &Draft{From: from, Notes: notesOf(db.Notes)}
	mapped := map[string]string{}
	for _, m := range Map(t, form) {
		f := fieldOf(form, m.Field)
		_, c := db.Column(m.Column)
		mapped[c.Name] = m.Field
		why := phrases.NamedAlike.With("source", from, "column", c.Name)
		d.Columns = append(d.Columns, Column{Table: t.Name, Column: c.Name, Source: sourceOf(f, c), From: why, Sure: m.Sure})
		d.Fields = append(d.Fields, Field{Name: f.Name, ID: f.ID, Known: true, Rules: columnRules(t, c, f, from, m.Sure)})
	}
	for i := range t.Columns {
		c := &t.Columns[i]
		if mapped[c.Name] != "" || c.Auto || c.Generated != "" {
			continue
		}
		switch {
		case c.Class == schema.ClassDateTime && !c.Nullable || c.Class == schema.ClassDateTime && c.Computed:
			d.Columns = append(d.Columns, Column{Table: t.Name, Column: c.Name, Source: spec.Source{Now: &spec.Now{Within: "5s"}}, From: phrases.TimeToFill.With("source", from), Sure: 0.6})
		case c.Default != nil:
			value := spec.Scalar(*c.Default)
			d.Columns = append(d.Columns, Column{Table: t.Name, Column: c.Name, Source: spec.Source{Is: &value}, From: phrases.ItsDefault.With("source", from), Sure: 0.6})
		case !c.Filled():
			d.Notes = append(d.Notes, phrases.UnfilledColumn.With("column", t.Name+"."+c.Name))
		}
	}
	for _, u := range t.Uniques {
		if len(u.Columns) > 1 && !d.uniqueTogether(t, form, u.Columns, mapped, from) {
			d.Notes = append(d.Notes, phrases.UniqueTogether.With("table", t.Name, "columns", strings.Join(u.Columns, ", ")))
		}
	}
	for _, c := range t.Checks {
		d.Notes = append(d.Notes, phrases.CheckConstraint.With("table", t.Name, "expression", c.Expression))
	}
	for _, tr := range t.Triggers {
		d.Notes = append(d.Notes, phrases.TriggerOnTable.With("table", t.Name, "trigger", tr.Name, "when", tr.When))
	}
	return d
}

// uniqueTogether proposes that a value is unique among rows that hold the same, where several columns are unique together and each is a
// field's: of the first field that is no choice. proposed is false where they are not.
func (d *Draft) uniqueTogether(t *schema.Table, form *spec.Form, columns []string, mapped map[string]string, from prose.Text) (proposed bool) {
	at := -1
	for i, column := range columns {
		f := fieldOf(form, mapped[column])
		switch {
		case f == nil:
			return false
		case at < 0 && f.Kind.Textual():
			at = i
		}
	}
	if at < 0 {
		return false
	}
	u := &spec.Unique{Column: t.Name + "." + columns[at], Same: map[string]string{}}
	for i, column := range columns {
		if i != at {
			u.Same[column] = mapped[column]
		}
	}
	for i := range d.Fields {
		if d.Fields[i].ID == mapped[columns[at]] {
			d.Fields[i].Rules = append(d.Fields[i].Rules, Rule{Rule: spec.Rule{Unique: u}, From: phrases.IsUnique.With("source", from), Sure: 0.9})
		}
	}
	return true
}

func fieldOf(form *spec.Form, id string) *spec.Field {
	for i := range form.Fields {
		if form.Fields[i].ID == id {
			return &form.Fields[i]
		}
	}
	return nil
}

func sourceOf(f *spec.Field, c *schema.Column) spec.Source {
	if f.IsSecret() {
		return spec.Source{Secret: f.ID, As: []string{"argon2id", "bcrypt"}}
	}
	s := spec.Source{From: f.ID}
	if f.Kind == spec.Checkbox {
		return s
	}
	required := slices.ContainsFunc(f.Rules, func(r spec.Rule) bool { return r.Required != nil && slices.Contains(r.Layers(), spec.OnServer) })
	if !required && c.Nullable && f.Kind != spec.Hidden {
		s.Blank = spec.BlankNull
	}
	return s
}

// columnRules are the rules that a column holds its field to. Those of the database's layer are not chosen beforehand, as what a
// column can hold is no promise to a visitor; uniqueness and what must be filled are.
func columnRules(t *schema.Table, c *schema.Column, f *spec.Field, from prose.Text, sure float64) []Rule {
	why := phrases.ItsColumn.With("source", from, "column", c.Name)
	base := spec.Base{Layers: []spec.Layer{spec.InDatabase}}
	var out []Rule
	switch {
	case f.IsSecret(): // its hash is stored, not the value
	case c.Length > 0 && f.Kind.Textual():
		most := c.Length
		out = append(out, Rule{Rule: spec.Rule{Length: &spec.Length{Base: base, Max: &most}}, From: phrases.HoldsCharacters.With("source", why, "n", c.Length), Sure: 0.4 * sure})
	case c.Bytes > 0 && f.Kind.Textual():
		most := c.Bytes
		out = append(out, Rule{Rule: spec.Rule{Length: &spec.Length{Base: base, Max: &most, In: "bytes"}}, From: phrases.HoldsBytes.With("source", why, "n", c.Bytes), Sure: 0.4 * sure})
	case f.Kind == spec.Number:
		if lo, hi, ok := c.Range(); ok {
			out = append(out, Rule{Rule: spec.Rule{Range: &spec.RangeRule{Base: base, Min: spec.Scalar(lo), Max: spec.Scalar(hi)}}, From: phrases.HoldsRange.With("source", why, "min", lo, "max", hi), Sure: 0.4 * sure})
		}
		if c.Class == schema.ClassDecimal {
			out = append(out, Rule{Rule: spec.Rule{Decimals: &spec.Decimals{Base: base, Max: c.Scale}}, From: phrases.KeepsDecimals.With("source", why, "n", c.Scale), Sure: 0.4 * sure})
		}
	}
	if t.UniqueAlone(c.Name) {
		u := &spec.Unique{Column: t.Name + "." + c.Name}
		if c.IgnoresCase() && !slices.Contains(f.Normalize, spec.Lower) && !slices.Contains(f.Normalize, spec.Upper) && f.Kind != spec.Number && f.Kind != spec.Date {
			u.Ignoring = []string{"case"}
		}
		out = append(out, Rule{Rule: spec.Rule{Unique: u}, From: phrases.IsUnique.With("source", why), Sure: sure})
	}
	if !c.Filled() && f.Kind != spec.Checkbox && f.Kind != spec.Hidden && f.Kind != spec.Honeypot {
		out = append(out, Rule{Rule: spec.Rule{Required: &spec.Required{}}, From: phrases.MustBeFilled.With("source", why), Sure: sure})
	}
	return out
}
