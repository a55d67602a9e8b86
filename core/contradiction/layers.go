package contradiction

import (
	"fmt"
	"slices"
	"strings"

	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/wording/promise"
)

// Layers is what browser, server and database say of a field, in words, and where they drift apart.
type Layers struct {
	Field    string   `json:"field"`
	Label    string   `json:"label"`
	Browser  []string `json:"browser"`
	Server   []string `json:"server"`
	Database []string `json:"database"`
	Drift    []string `json:"drift"`
}

// drifting are the kinds of contradictions between layers.
var drifting = []Kind{ColumnShorter, NotNullOptional, BrowserStricter, MarkDiffers, NoLimit}

// SideBySide lists the fields that hold something with their layers. found are the form's contradictions.
func SideBySide(p *spec.Prepared, a Against, found []Contradiction) []Layers {
	f := &finder{p: p, a: a}
	out := []Layers{}
	for _, field := range p.Fields {
		if field.Kind == spec.Trap {
			continue
		}
		l := Layers{Field: field.ID, Label: field.Label, Browser: []string{}, Server: []string{}, Database: []string{}, Drift: []string{}}
		for _, r := range field.Rules {
			words := promise.Rule(r)
			switch {
			case words == "":
			case r.Layer == spec.InBrowser:
				l.Browser = append(l.Browser, words)
			case r.Layer == spec.InDatabase:
				l.Database = append(l.Database, words)
			default:
				l.Server = append(l.Server, words)
			}
		}
		if len(l.Browser) == 0 && a.Page != nil && a.Page.Unchecked {
			l.Browser = append(l.Browser, "nothing: the form says novalidate")
		}
		for _, s := range f.allColumns(field.ID) {
			l.Database = append(l.Database, columnWords(s))
		}
		for _, c := range found {
			if c.Field == field.ID && slices.Contains(drifting, c.Kind) {
				l.Drift = append(l.Drift, fmt.Sprintf("%s (%s)", c.Words, c.Proof))
			}
		}
		out = append(out, l)
	}
	return out
}

// allColumns are the columns of a field's value and of its hash.
func (f *finder) allColumns(id string) []storedIn {
	out := f.storedIn(id)
	for i := range f.p.Form.Stored {
		s := &f.p.Form.Stored[i]
		for _, name := range s.ColumnNames() {
			if s.Columns[name].Secret != id {
				continue
			}
			if t, c := f.a.Schema.Column(s.Table() + "." + name); c != nil {
				out = append(out, storedIn{"", s.Table() + "." + name, s.Columns[name], t, c})
			}
		}
	}
	return out
}

func columnWords(s storedIn) string {
	parts := []string{s.column + " " + s.def.Type}
	if s.source.Secret != "" {
		parts = append(parts, "holds a hash")
	}
	if s.def.Unsigned {
		parts[0] += " unsigned"
	}
	if !s.def.Nullable {
		parts = append(parts, "NOT NULL")
	}
	if s.def.Default != nil {
		parts = append(parts, fmt.Sprintf("default '%s'", *s.def.Default))
	}
	if s.table.UniqueAlone(s.def.Name) {
		parts = append(parts, "unique")
	}
	if s.def.Class == schema.ClassText && s.def.IgnoresCase() {
		parts = append(parts, "ignoring case")
	}
	if n := s.def.MostBytes(); n > 0 && s.def.Length > 0 && n != s.def.Length {
		parts = append(parts, fmt.Sprintf("up to %d bytes in %s", n, s.def.Charset))
	}
	return strings.Join(parts, ", ")
}
