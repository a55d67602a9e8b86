package contradiction

import (
	"slices"

	"oddtick/core/prose"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
	"oddtick/core/wording/promise"
)

// Layers is what browser, server and database say of a field, in words, and where they drift apart.
type Layers struct {
	Field    string       `json:"field"`
	Label    string       `json:"label"`
	Browser  []prose.Text `json:"browser"`
	Server   []prose.Text `json:"server"`
	Database []prose.Text `json:"database"`
	Drift    []prose.Text `json:"drift"`
}

// drifting are the kinds of contradictions between layers.
var drifting = []Kind{ColumnShorter, NotNullOptional, BrowserStricter, MarkDiffers, NoLimit}

// SideBySide lists the fields that hold something with their layers. found are the form's contradictions.
func SideBySide(p *spec.Prepared, a Against, found []Contradiction) []Layers {
	f := &finder{p: p, a: a}
	out := []Layers{}
	for _, field := range p.Fields {
		if field.Kind == spec.Honeypot {
			continue
		}
		l := Layers{Field: field.ID, Label: field.Label, Browser: []prose.Text{}, Server: []prose.Text{}, Database: []prose.Text{}, Drift: []prose.Text{}}
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
			l.Browser = append(l.Browser, phrases.Unchecked.Text())
		}
		for _, s := range f.allColumns(field.ID) {
			l.Database = append(l.Database, columnWords(s))
		}
		for _, c := range found {
			if c.Field == field.ID && slices.Contains(drifting, c.Kind) {
				l.Drift = append(l.Drift, phrases.Drifting.With("what", c.Words, "proof", c.Proof))
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

func columnWords(s storedIn) prose.Text {
	kind := s.column + " " + s.def.Type
	if s.def.Unsigned {
		kind += " unsigned"
	}
	parts := []prose.Text{prose.Text(kind)}
	if s.source.Secret != "" {
		parts = append(parts, phrases.HoldsHash.Text())
	}
	if !s.def.Nullable {
		parts = append(parts, phrases.NotNull.Text())
	}
	if s.def.Default != nil {
		parts = append(parts, phrases.DefaultOf.With("value", *s.def.Default))
	}
	if s.table.UniqueAlone(s.def.Name) {
		parts = append(parts, phrases.Unique.Text())
	}
	if s.def.Class == schema.ClassText && s.def.IgnoresCase() {
		parts = append(parts, phrases.IgnoringCase.Text())
	}
	if n := s.def.MostBytes(); n > 0 && s.def.Length > 0 && n != s.def.Length {
		parts = append(parts, phrases.BytesInCharset.With("n", n, "charset", s.def.Charset))
	}
	return prose.Join(parts, ", ")
}
