package contradiction

import (
	"fmt"
	"maps"
	"slices"

	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/values"
)

// stored are the columns that hold a field's value.
type storedIn struct {
	path   string // in the document
	column string // table.column
	source spec.Source
	table  *schema.Table
	def    *schema.Column
}

func (f *finder) storedIn(id string) []storedIn {
	var out []storedIn
	for i := range f.p.Form.Stored {
		s := &f.p.Form.Stored[i]
		for _, name := range slices.Sorted(maps.Keys(s.Columns)) {
			src := s.Columns[name]
			if src.From != id {
				continue
			}
			t, c := f.a.Schema.Column(s.Table() + "." + name)
			if c != nil {
				out = append(out, storedIn{fmt.Sprintf("stored[%s].columns.%s", s.Table(), name), s.Table() + "." + name, src, t, c})
			}
		}
	}
	return out
}

// columns holds a field's rules against the columns its value goes to.
func (f *finder) columns(x *field) {
	for _, s := range f.storedIn(x.ID) {
		f.columnShorter(x, s)
		f.notNull(x, s)
	}
}

func (f *finder) columnShorter(x *field, s storedIn) {
	add := func(path, words, proof string) {
		f.add(Contradiction{Kind: ColumnShorter, Field: x.ID, Path: path, Other: s.column, Words: words, Proof: proof, Remedy: "shorten the rule, or widen the column"})
	}
	switch {
	case x.known && s.def.Length > 0:
		if v, ok := x.beyond(values.Limit{Unit: values.Characters, Min: s.def.Length + 1, Max: -1}); ok {
			add(x.lengthPath(), fmt.Sprintf("%s lets %s through, the column %s holds %d.", x.Label, x.most(values.Characters), s.column, s.def.Length), quoted(v))
		}
	case x.known && s.def.Bytes > 0:
		if v, ok := x.beyond(values.Limit{Unit: values.Bytes, Min: s.def.Bytes + 1, Max: -1}); ok {
			add(x.lengthPath(), fmt.Sprintf("%s lets %s through, the column %s holds %d bytes.", x.Label, x.most(values.Bytes), s.column, s.def.Bytes), quoted(v))
		}
	case x.Kind == spec.OneChoice && s.def.Length > 0:
		for _, o := range x.Options {
			if n := values.Characters.Length(o.Value); n > s.def.Length {
				add(x.path+".options", fmt.Sprintf("The option %s of %s has %d characters, the column %s holds %d.", o.Value, x.Label, n, s.column, s.def.Length), quoted(o.Value))
				return
			}
		}
	case x.Kind == spec.OneChoice && s.def.Class == schema.ClassEnum:
		for _, o := range x.Options {
			if !slices.Contains(s.def.Values, o.Value) && s.source.Option != "label" {
				add(x.path+".options", fmt.Sprintf("The option %s of %s is none of the values of the column %s.", o.Value, x.Label, s.column), quoted(o.Value))
				return
			}
		}
	case x.Kind == spec.Number:
		f.numberTooLarge(x, s, add)
	}
}

// beyond finds a value that the server takes and that lies beyond a column's limit.
func (x *field) beyond(limit values.Limit) (string, bool) {
	if limit.Min > 1_000_000 {
		return "", false // nobody types that much
	}
	if x.rule(spec.RuleLength, spec.OnServer) == nil {
		if _, hi, ok := x.server.Bounds(limit.Unit); ok && hi < 0 {
			return "", false // a field with no limit is told as that
		}
	}
	return member(x.server.Within(limit))
}

func (x *field) lengthPath() string {
	if r := x.rule(spec.RuleLength, spec.OnServer); r != nil {
		return pathOf(r)
	}
	return x.path + ".rules"
}

// most words the longest value the server takes.
func (x *field) most(unit values.Unit) string {
	if r := x.rule(spec.RuleLength, spec.OnServer); r != nil && r.Limit.Max >= 0 {
		return fmt.Sprintf("%d %s", r.Limit.Max, r.Limit.Unit)
	}
	if _, hi, ok := x.server.Bounds(unit); ok && hi >= 0 {
		return fmt.Sprintf("%d %s", hi, unit)
	}
	return "any length"
}

func (f *finder) numberTooLarge(x *field, s storedIn, add func(path, words, proof string)) {
	r := x.rule(spec.RuleRange, spec.OnServer)
	lo, hi, ok := s.def.Range()
	if r == nil || !ok {
		return
	}
	least, errLo := values.ParseDecimal(lo)
	most, errHi := values.ParseDecimal(hi)
	if errLo != nil || errHi != nil {
		return
	}
	if r.MaxNumber != nil && r.MaxNumber.Cmp(most) > 0 {
		add(pathOf(r)+".max", fmt.Sprintf("%s lets %s through, the column %s holds up to %s.", x.Label, r.MaxNumber, s.column, hi), r.MaxNumber.String())
	}
	if r.MinNumber != nil && r.MinNumber.Cmp(least) < 0 {
		add(pathOf(r)+".min", fmt.Sprintf("%s lets %s through, the column %s holds from %s.", x.Label, r.MinNumber, s.column, lo), r.MinNumber.String())
	}
	step := x.rule(spec.RuleStep, spec.OnServer)
	if s.def.Class == schema.ClassInteger && step == nil && r.MinNumber != nil && x.rule(spec.RuleDecimals, spec.OnServer) == nil {
		add(pathOf(r), fmt.Sprintf("%s takes decimals, the column %s holds whole numbers.", x.Label, s.column), r.MinNumber.Add(values.Whole(1).Half()).String())
	}
	if s.def.Class == schema.ClassDecimal && step != nil && step.By.Scale() > s.def.Scale {
		add(pathOf(step), fmt.Sprintf("%s has steps of %s, the column %s keeps %d decimals.", x.Label, step.By, s.column, s.def.Scale), step.By.String())
	}
}

// notNull: a field may stay blank, and its column cannot hold that.
func (f *finder) notNull(x *field, s storedIn) {
	if s.def.Nullable || x.requires() || x.Kind == spec.Checkbox || x.Kind.Untouched() {
		return
	}
	asText := s.def.Class == schema.ClassText || s.def.Class == schema.ClassBinary
	switch {
	case s.source.Blank == spec.BlankNull:
	case s.source.Blank == "" && !asText && s.def.Class != schema.ClassEnum && s.def.Default == nil:
	default:
		return
	}
	f.add(Contradiction{
		Kind: NotNullOptional, Field: x.ID, Path: x.path, Other: s.column, Words: fmt.Sprintf("%s may stay blank, and the column %s is NOT NULL.", x.Label, s.column), Proof: "a blank value cannot be stored as NULL", Remedy: "make the field required, or allow NULL",
	})
}

// tables: columns that must be filled and that nothing fills, and such as do not exist.
func (f *finder) tables() {
	if f.a.Schema == nil {
		return
	}
	for i := range f.p.Form.Stored {
		s := &f.p.Form.Stored[i]
		path := fmt.Sprintf("stored[%s]", s.Table())
		t := f.a.Schema.Table(s.Table())
		if t == nil {
			f.add(Contradiction{Kind: ColumnMissing, Path: path, Other: s.Table(), Words: fmt.Sprintf("There is no table %s.", s.Table()), Proof: fmt.Sprintf("the database has %d tables, none of that name", len(f.a.Schema.Tables)), Remedy: "correct the table's name"})
			continue
		}
		for _, name := range s.ColumnNames() {
			if t.Column(name) == nil {
				f.add(Contradiction{Kind: ColumnMissing, Path: path + ".columns." + name, Other: t.Name, Words: fmt.Sprintf("The table %s has no column %s.", t.Name, name), Proof: "its columns are " + columnNames(t), Remedy: "correct the column's name"})
			}
		}
		if s.Insert == "" {
			continue
		}
		for k := range t.Columns {
			c := &t.Columns[k]
			if _, named := s.Columns[c.Name]; !named && !c.Filled() {
				f.add(Contradiction{
					Kind: NotNullUnfilled, Path: path + ".columns", Other: t.Name + "." + c.Name, Words: fmt.Sprintf("The column %s.%s must be filled, and nothing is said to fill it.", t.Name, c.Name), Proof: "it is NOT NULL and has no default",
					Remedy: "name its source under columns:, or give it a default",
				})
			}
		}
	}
}

func columnNames(t *schema.Table) string {
	out := ""
	for i := range t.Columns {
		if i > 0 {
			out += ", "
		}
		out += t.Columns[i].Name
	}
	return out
}

// limits: a text or a number that no layer bounds.
func (f *finder) limits(x *field) {
	if x.Kind.Untouched() || x.rule(spec.RuleAgrees, spec.OnServer) != nil {
		return
	}
	for _, r := range x.Rules {
		if r.Kind == spec.RuleLength && r.Limit.Max >= 0 || r.Kind == spec.RuleRange && r.Rule.Range.Max != "" {
			return
		}
	}
	if c := f.onPage(x.Name); c != nil && (c.MaxLength != nil || c.Max != "") && !f.a.Page.Unchecked {
		return
	}
	columns := f.storedIn(x.ID)
	for _, s := range columns {
		if s.def.Length > 0 || s.def.Bytes > 0 {
			return
		}
		if _, _, ok := s.def.Range(); ok {
			return
		}
	}
	switch {
	case x.known:
		_, hi, ok := x.server.Bounds(values.Characters)
		if !ok || hi >= 0 {
			return
		}
		f.noLimit(x, columns, "a text of any length keeps its rules")
	case x.Kind == spec.Number:
		f.noLimit(x, columns, "a number of any size keeps its rules")
	}
}

func (f *finder) noLimit(x *field, columns []storedIn, proof string) {
	other := ""
	if len(columns) > 0 {
		other = columns[0].column
	}
	f.add(Contradiction{Kind: NoLimit, Field: x.ID, Path: x.path, Other: other, Words: fmt.Sprintf("%s has no limit in any layer.", x.Label), Proof: proof, Remedy: "add a length or a range"})
}
