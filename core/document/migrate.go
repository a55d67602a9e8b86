package document

import (
	"cmp"
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"oddtick/core/spec"

	"github.com/goccy/go-yaml/ast"
)

// Migrate rewrites documents that are written with keys and values of former versions of Odd Tick. All else stays byte for byte, comments
// too. Rules of one field that say the same in several layers become one with the layers; the ids stay. migrated tells whether anything
// was changed. Documents that cannot be read as YAML are an error, spec.Problems; what is wrong otherwise is for the reader to find.
func Migrate(file string, text []byte) (out []byte, migrated bool, err error) {
	renamed, err := rename(file, text)
	if err != nil {
		return nil, false, err
	}
	merged, err := mergeLayers(file, renamed)
	if err != nil {
		return nil, false, err
	}
	return merged, string(merged) != string(text), nil
}

// replacement is a stretch of a text with what takes its place.
type replacement struct {
	from, to int
	with     string
}

// migration collects what is renamed in one file.
type migration struct {
	patcher
	found []replacement
}

// rename writes the keys and values of a file by their present names.
func rename(file string, text []byte) ([]byte, error) {
	docs, err := spec.Documents(file, text)
	if err != nil {
		return nil, err
	}
	m := migration{patcher: patcher{text: string(text)}}
	m.lines()
	for _, doc := range docs {
		m.isJSON = isFlow(doc) && isJSON(doc)
		if t := spec.DocumentType(doc); t != nil {
			m.value(doc, place{kind: t, column: -1})
		}
	}
	return m.apply(), nil
}

// apply makes the replacements, from the last to the first, so that their places hold; what is put in goes before what is replaced there.
func (m *migration) apply() []byte {
	slices.SortStableFunc(m.found, func(a, b replacement) int { return cmp.Or(b.from-a.from, b.to-a.to) })
	for _, r := range m.found {
		m.splice(r.from, r.to, r.with)
	}
	return []byte(m.text)
}

// isJSON tells whether a map begins with a key in quotation marks, as JSON has them.
func isJSON(n ast.Node) bool {
	entries, _ := spec.MapEntries(n)
	return len(entries) > 0 && strings.HasPrefix(strings.TrimSpace(entries[0].Key.GetToken().Origin), `"`)
}

// place is what stands somewhere in a document: the type that it is read as, the member that holds it, and what is around it.
type place struct {
	kind   reflect.Type
	member reflect.StructField
	column int // from 0, of what holds it
	inFlow bool
}

func (m *migration) value(n ast.Node, at place) {
	n = spec.Unwrap(n)
	if at.kind.Kind() == reflect.Pointer {
		at.kind = at.kind.Elem()
	}
	at.inFlow = at.inFlow || isFlow(n)
	if seq, ok := n.(*ast.SequenceNode); ok {
		if at.kind.Kind() == reflect.Slice {
			at.kind = at.kind.Elem()
		}
		if !seq.IsFlowStyle {
			at.column = seq.Start.Position.Column - 1
		}
		if at.kind == reflect.TypeFor[spec.Rule]() {
			m.keepIDs(seq)
		}
		for _, v := range seq.Values {
			m.value(v, at)
		}
		return
	}
	entries, isMap := spec.MapEntries(n)
	if !isMap {
		m.scalar(n, at)
		return
	}
	switch at.kind.Kind() {
	case reflect.Map:
		for _, e := range entries {
			m.value(e.Value, place{kind: at.kind.Elem(), column: columnOf(e), inFlow: at.inFlow})
		}
	case reflect.Struct:
		m.members(entries, at)
	}
}

func columnOf(e *ast.MappingValueNode) int { return e.Key.GetToken().Position.Column - 1 }

// members renames the keys of a struct's map, and what stands behind them.
func (m *migration) members(entries []*ast.MappingValueNode, at place) {
	for _, e := range entries {
		key := e.Key.GetToken().Value
		name, field, known := spec.MemberOf(at.kind, key)
		if !known {
			continue
		}
		if name != key {
			start := m.start(e.Key)
			m.replace(start, m.keyEnd(start, key), name)
		}
		m.value(e.Value, place{kind: field.Type, member: field, column: columnOf(e), inFlow: at.inFlow})
	}
}

func (m *migration) keyEnd(start int, key string) int {
	if c := m.text[start]; c == '"' || c == '\'' {
		return m.closing(start)
	}
	return start + len(key)
}

func (m *migration) replace(from, to int, with string) {
	if m.isJSON {
		with = quoteJSON(with)
	}
	m.found = append(m.found, replacement{from, to, with})
}

// scalar renames a value, or writes as a map what a text held before.
func (m *migration) scalar(n ast.Node, at place) {
	text := n.GetToken().Value
	start := m.start(n)
	if name, ok := spec.RenamedValue(at.kind, at.member, text); ok {
		m.replace(start, m.end(n, start, at.column, at.inFlow), name)
		return
	}
	if value := spec.FormerText(at.kind, text); value != nil {
		m.found = append(m.found, replacement{start, m.end(n, start, at.column, at.inFlow), m.flow(value)})
	}
}

// keepIDs writes the ids of rules that had none and were known by the former name of their kind, as cases and findings are.
func (m *migration) keepIDs(rules *ast.SequenceNode) {
	for _, r := range rulesOf(rules) {
		name, _, known := spec.MemberOf(reflect.TypeFor[spec.Rule](), r.kind)
		if known && name != r.kind && !r.named && spec.RuleKind(name).ID() != spec.Identifier(r.kind) {
			m.putFirst(r.details, pairs{{"id", r.id}})
		}
	}
}

// pairs are keys with their values.
type pairs []struct {
	key   string
	value any
}

// putFirst writes keys with their values as the first of a map.
func (m *migration) putFirst(details ast.Node, what pairs) {
	entries, isMap := spec.MapEntries(details)
	if !isMap || len(what) == 0 {
		return
	}
	texts := make([]string, len(what))
	for i, p := range what {
		value, _ := json.Marshal(p.value) // texts, and lists and maps of them, can be written
		texts[i] = m.key(p.key) + m.flow(value)
	}
	start := m.start(details)
	between, after := ", ", ", "
	if !isFlow(details) {
		between = "\n" + strings.Repeat(" ", start-m.starts[m.lineOf(start)])
		after = between
	} else if start++; len(entries) == 0 {
		after = ""
	}
	m.found = append(m.found, replacement{start, start, strings.Join(texts, between) + after})
}
