package contradiction

import (
	"fmt"
	"maps"
	"slices"

	"oddtick/core/prose"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
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
	add := func(path string, says *phrases.Clash, places ...any) {
		f.add(Contradiction{Kind: ColumnShorter, Field: x.ID, Path: path, Other: prose.Text(s.column)}, says, append(places, "label", x.Label, "column", s.column)...)
	}
	switch {
	case x.known && s.def.Length > 0:
		if v, ok := x.beyond(values.Limit{Unit: values.Characters, Min: s.def.Length + 1, Max: -1}); ok {
			add(x.lengthPath(), &phrases.ColumnShorter, "most", x.most(values.Characters), "n", s.def.Length, "value", quoted(v))
		}
	case x.known && s.def.Bytes > 0:
		if v, ok := x.beyond(values.Limit{Unit: values.Bytes, Min: s.def.Bytes + 1, Max: -1}); ok {
			add(x.lengthPath(), &phrases.ColumnFewerBytes, "most", x.most(values.Bytes), "n", s.def.Bytes, "value", quoted(v))
		}
	case x.Kind == spec.SingleChoice && s.def.Length > 0:
		for _, o := range x.Options {
			if n := values.Characters.Length(o.Value); n > s.def.Length {
				add(x.path+".options", &phrases.OptionTooLong, "option", o.Value, "n", n, "most", s.def.Length, "value", quoted(o.Value))
				return
			}
		}
	case x.Kind == spec.SingleChoice && s.def.Class == schema.ClassEnum:
		for _, o := range x.Options {
			if !slices.Contains(s.def.Values, o.Value) && s.source.Option != "label" {
				add(x.path+".options", &phrases.OptionNotInColumn, "option", o.Value, "value", quoted(o.Value))
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
func (x *field) most(unit values.Unit) prose.Text {
	if r := x.rule(spec.RuleLength, spec.OnServer); r != nil && r.Limit.Max >= 0 {
		return phrases.LengthOfUnit.With("n", r.Limit.Max, "unit", phrases.UnitOf(string(r.Limit.Unit), r.Limit.Max).Text())
	}
	if _, hi, ok := x.server.Bounds(unit); ok && hi >= 0 {
		return phrases.LengthOfUnit.With("n", hi, "unit", phrases.UnitOf(string(unit), hi).Text())
	}
	return phrases.AnyLength.Text()
}

func (f *finder) numberTooLarge(x *field, s storedIn, add func(path string, says *phrases.Clash, places ...any)) {
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
		add(pathOf(r)+".max", &phrases.NumberAbove, "n", r.MaxNumber, "most", hi)
	}
	if r.MinNumber != nil && r.MinNumber.Cmp(least) < 0 {
		add(pathOf(r)+".min", &phrases.NumberBelow, "n", r.MinNumber, "least", lo)
	}
	step := x.rule(spec.RuleStep, spec.OnServer)
	if s.def.Class == schema.ClassInteger && step == nil && r.MinNumber != nil && x.rule(spec.RuleDecimals, spec.OnServer) == nil {
		add(pathOf(r), &phrases.DecimalsLost, "n", r.MinNumber.Add(values.Whole(1).Half()))
	}
	if s.def.Class == schema.ClassDecimal && step != nil && step.By.Scale() > s.def.Scale {
		add(pathOf(step), &phrases.StepLost, "step", step.By, "n", s.def.Scale)
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
	f.add(Contradiction{Kind: NotNullOptional, Field: x.ID, Path: x.path, Other: prose.Text(s.column)}, &phrases.NotNullOptional, "label", x.Label, "column", s.column)
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
			f.add(Contradiction{Kind: ColumnMissing, Path: path, Other: prose.Text(s.Table())}, &phrases.TableMissing, "table", s.Table(), "n", len(f.a.Schema.Tables))
			continue
		}
		for _, name := range s.ColumnNames() {
			if t.Column(name) == nil {
				f.add(Contradiction{Kind: ColumnMissing, Path: path + ".columns." + name, Other: prose.Text(t.Name)}, &phrases.ColumnMissing, "table", t.Name, "column", name, "columns", columnNames(t))
			}
		}
		if s.Insert == "" {
			continue
		}
		for k := range t.Columns {
			c := &t.Columns[k]
			if _, named := s.Columns[c.Name]; !named && !c.Filled() {
				column := t.Name + "." + c.Name
				f.add(Contradiction{Kind: NotNullUnfilled, Path: path + ".columns", Other: prose.Text(column)}, &phrases.NotNullUnfilled, "column", column)
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
	if x.Kind.Untouched() || x.rule(spec.RuleSameAs, spec.OnServer) != nil {
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
		f.noLimit(x, columns, &phrases.NoLimitOfText)
	case x.Kind == spec.Number:
		f.noLimit(x, columns, &phrases.NoLimitOfNumber)
	}
}

func (f *finder) noLimit(x *field, columns []storedIn, says *phrases.Clash) {
	other := ""
	if len(columns) > 0 {
		other = columns[0].column
	}
	f.add(Contradiction{Kind: NoLimit, Field: x.ID, Path: x.path, Other: prose.Text(other)}, says, "label", x.Label)
}
