package document

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"oddtick/core/spec"

	"github.com/goccy/go-yaml"
	"github.com/goccy/go-yaml/ast"
	"github.com/goccy/go-yaml/lexer"
	"github.com/goccy/go-yaml/token"
)

// ruleItem is a rule of a field as its document has it.
type ruleItem struct {
	kind    string // its key
	id      string
	named   bool // the id is written
	details ast.Node
	index   int // in the list
	layers  []string
	// says is all else that is written of it.
	says map[string]any
	// ids are its ids by layer, its own and those of the rules that it has taken in.
	ids map[string]string
}

// rulesOf are the rules of a list that can be read as such.
func rulesOf(list *ast.SequenceNode) []*ruleItem {
	var out []*ruleItem
	count := map[string]int{}
	for i, v := range list.Values {
		entries, _ := spec.MapEntries(spec.Unwrap(v))
		if len(entries) != 1 {
			continue
		}
		r := &ruleItem{kind: entries[0].Key.GetToken().Value, details: spec.Unwrap(entries[0].Value), index: i, layers: []string{string(spec.OnServer)}}
		count[r.kind]++
		var all map[string]any
		if err := yaml.NodeToValue(r.details, &all); err != nil {
			continue
		}
		if r.id, r.named = all["id"].(string); !r.named {
			r.id = defaultID(r.kind, count[r.kind])
		}
		if list, ok := all["layers"].([]any); ok {
			r.layers = nil
			for _, layer := range list {
				r.layers = append(r.layers, fmt.Sprint(layer))
			}
		}
		r.ids = map[string]string{}
		for _, layer := range r.layers {
			r.ids[layer] = r.id
		}
		if _, several := all["ids"]; several || len(r.layers) != 1 {
			r.ids = nil // it is written in the present way
		}
		delete(all, "id")
		delete(all, "layers")
		r.says = all
		out = append(out, r)
	}
	return out
}

// defaultID is the id that the reader gives the n-th rule of a kind in a field, from 1.
func defaultID(kind string, n int) string {
	id := spec.RuleKind(kind).ID()
	if !spec.IsRule(kind) {
		id = spec.Identifier(kind)
	}
	if n > 1 {
		id = fmt.Sprintf("%s_%d", id, n)
	}
	return id
}

// mergeLayers makes one rule of those of a field that say the same in several layers.
func mergeLayers(file string, text []byte) ([]byte, error) {
	docs, err := spec.Documents(file, text)
	if err != nil {
		return nil, err
	}
	m := migration{patcher: patcher{text: string(text)}}
	m.lines()
	for _, doc := range docs {
		if spec.DocumentType(doc) != reflect.TypeFor[spec.Form]() {
			continue
		}
		m.isJSON = isFlow(doc) && isJSON(doc)
		fields, _ := nodeAt(doc, "fields").(*ast.SequenceNode)
		if fields == nil {
			continue
		}
		for _, f := range fields.Values {
			if rules, ok := nodeAt(f, "rules").(*ast.SequenceNode); ok {
				m.mergeRules(rules)
			}
		}
	}
	return m.apply(), nil
}

// nodeAt is what stands behind a key of a map; nil where there is none.
func nodeAt(n ast.Node, key string) ast.Node {
	entries, _ := spec.MapEntries(spec.Unwrap(n))
	for _, e := range entries {
		if e.Key.GetToken().Value == key {
			return spec.Unwrap(e.Value)
		}
	}
	return nil
}

func (m *migration) mergeRules(list *ast.SequenceNode) {
	var kept []*ruleItem
	merged := map[*ruleItem]bool{}
	for _, r := range rulesOf(list) {
		into := samePromise(kept, r)
		if into == nil || list.IsFlowStyle && strings.Contains(m.flowItem(list, r.index), "#") {
			kept = append(kept, r)
			continue
		}
		merged[into] = true
		into.layers = append(into.layers, r.layers...)
		into.ids[r.layers[0]] = r.id
		m.takeOut(list, r.index)
	}
	if len(merged) == 0 {
		return
	}
	count := map[string]int{}
	for _, r := range kept {
		count[r.kind]++
		var add pairs
		if !r.named && defaultID(r.kind, count[r.kind]) != r.id {
			add = append(add, pairs{{"id", r.id}}...) // it was counted with one that is gone
		}
		if merged[r] {
			add = append(add, m.layers(r)...)
		}
		m.putFirst(r.details, add)
	}
}

// samePromise is the rule that says the same in another layer, and whose place another one may take without a change of the order of the
// rules in its layer; nil for none.
func samePromise(kept []*ruleItem, r *ruleItem) *ruleItem {
	if r.ids == nil {
		return nil
	}
	for i := len(kept) - 1; i >= 0; i-- {
		k := kept[i]
		shares := slices.Contains(k.layers, r.layers[0])
		if k.ids != nil && k.kind == r.kind && !shares && reflect.DeepEqual(k.says, r.says) {
			return k
		}
		if shares {
			return nil
		}
	}
	return nil
}

// layers are a rule's layers, and the ids in them that the reader would not make, as far as they are to be added to it.
func (m *migration) layers(r *ruleItem) (add pairs) {
	base := spec.Base{ID: r.id}
	for _, layer := range r.layers {
		base.Layers = append(base.Layers, spec.Layer(layer))
	}
	ids := map[string]string{}
	for _, layer := range base.Layers {
		if made := base.IDIn(layer); made != r.ids[string(layer)] {
			ids[string(layer)] = r.ids[string(layer)]
		}
	}
	if written := nodeAt(r.details, "layers"); written != nil {
		start := m.start(written)
		value, _ := json.Marshal(r.layers) // texts can be written
		m.found = append(m.found, replacement{start, m.end(written, start, 0, true), m.flow(value)})
	} else {
		add = pairs{{"layers", r.layers}}
	}
	if len(ids) > 0 {
		add = append(add, pairs{{"ids", ids}}...)
	}
	return add
}

// flowItem is an item of a list in brackets, with the comma before it.
func (m *migration) flowItem(list *ast.SequenceNode, index int) string {
	from, to := m.flowStretch(list, index)
	return m.text[from:to]
}

func (m *migration) flowStretch(list *ast.SequenceNode, index int) (from, to int) {
	before, item := spec.Unwrap(list.Values[index-1]), spec.Unwrap(list.Values[index])
	start := m.start(item)
	return m.end(before, m.start(before), 0, true), m.end(item, start, 0, true)
}

// takeOut takes an item that is not the first out of a list; its comments stay in its place.
func (m *migration) takeOut(list *ast.SequenceNode, index int) {
	if list.IsFlowStyle {
		from, to := m.flowStretch(list, index)
		m.found = append(m.found, replacement{from, to, ""})
		return
	}
	from, to := m.itemStretch(list, index)
	var comments bytes.Buffer
	for _, t := range lexer.Tokenize(m.text[from:to]) {
		if t.Type == token.CommentType {
			comments.WriteString(strings.Repeat(" ", list.Start.Position.Column-1) + "#" + t.Value + "\n")
		}
	}
	m.found = append(m.found, replacement{from, to, comments.String()})
}
