package document

import (
	"bytes"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"oddtick/core/spec"
)

// member is a key with its value, in the order they were written.
type member struct {
	key   string
	value json.RawMessage
}

// membersOf are an object's members in order; ok is false for what is no object.
func membersOf(value json.RawMessage) (out []member, ok bool) {
	d := json.NewDecoder(bytes.NewReader(value))
	first, err := d.Token()
	if err != nil || first != json.Delim('{') {
		return nil, false
	}
	for d.More() {
		key, err := d.Token()
		if err != nil {
			return nil, false
		}
		var v json.RawMessage
		if err := d.Decode(&v); err != nil {
			return nil, false
		}
		name, _ := key.(string)
		out = append(out, member{name, v})
	}
	return out, true
}

func itemsOf(value json.RawMessage) (out []json.RawMessage, ok bool) {
	if trimmed := bytes.TrimSpace(value); len(trimmed) == 0 || trimmed[0] != '[' {
		return nil, false
	}
	return out, json.Unmarshal(value, &out) == nil
}

// flow writes a value on one line, as YAML or, in a JSON document, as JSON.
func (t *patcher) flow(value json.RawMessage) string {
	if t.isJSON {
		var b bytes.Buffer
		if json.Compact(&b, value) != nil {
			return string(value)
		}
		return b.String()
	}
	if members, ok := membersOf(value); ok {
		parts := make([]string, len(members))
		for i, m := range members {
			parts[i] = t.key(m.key) + t.flow(m.value)
		}
		return "{" + strings.Join(parts, ", ") + "}"
	}
	if items, ok := itemsOf(value); ok {
		parts := make([]string, len(items))
		for i, v := range items {
			parts[i] = t.flow(v)
		}
		return "[" + strings.Join(parts, ", ") + "]"
	}
	var text string
	if json.Unmarshal(value, &text) == nil && bytes.TrimSpace(value)[0] == '"' {
		return scalar(text)
	}
	return string(bytes.TrimSpace(value))
}

func (t *patcher) key(name string) string {
	if t.isJSON {
		return quoteJSON(name) + ": "
	}
	if name == "null" {
		return "null: "
	}
	return scalar(name) + ": "
}

// pair writes a key of a block mapping with its value, indented by a column. Lists of objects, and objects of objects, take a line
// an entry.
func (t *patcher) pair(key string, value json.RawMessage, column int) string {
	pad := strings.Repeat(" ", column)
	if t.isJSON {
		return pad + t.key(key) + t.flow(value)
	}
	if items, ok := itemsOf(value); ok && len(items) > 0 && slices.ContainsFunc(items, isObject) {
		var b strings.Builder
		b.WriteString(pad + scalar(key) + ":")
		for _, v := range items {
			b.WriteString("\n" + pad + "  - " + strings.TrimLeft(t.block(v, column+4), " "))
		}
		return b.String()
	}
	if members, ok := membersOf(value); ok && len(members) > 0 && (key == "columns" || len(members) > 1 && !slices.ContainsFunc(members, func(m member) bool { return !isObject(m.value) })) {
		return pad + scalar(key) + ":\n" + t.block(value, column+2)
	}
	return pad + t.key(key) + t.flow(value)
}

// holdsObjects tells whether a value is worth lines of its own.
func holdsObjects(v json.RawMessage) bool {
	items, _ := itemsOf(v)
	return isObject(v) || slices.ContainsFunc(items, isObject)
}

func isObject(v json.RawMessage) bool { return bytes.HasPrefix(bytes.TrimSpace(v), []byte("{")) }

// block writes a value as lines indented by a column; what is no object, and a rule, is written on one line.
func (t *patcher) block(value json.RawMessage, column int) string {
	pad := strings.Repeat(" ", column)
	members, ok := membersOf(value)
	switch {
	case !ok || t.isJSON || len(members) == 0:
		return pad + t.flow(value)
	case isRule(members):
		return pad + t.key(members[0].key) + t.flow(members[0].value)
	case len(t.flow(value)) <= 90 && !isField(members) && !slices.ContainsFunc(members, func(m member) bool { return holdsObjects(m.value) }):
		return pad + t.flow(value)
	}
	lines := make([]string, len(members))
	for i, m := range members {
		lines[i] = t.pair(m.key, m.value, column)
	}
	return strings.Join(lines, "\n")
}

// isField: a field that people see takes a line a key, as rules will follow.
func isField(members []member) bool {
	has := func(key string) bool {
		return slices.ContainsFunc(members, func(m member) bool { return m.key == key })
	}
	return has("id") && has("name") && has("label")
}

// isRule: a kind of rule with its details.
func isRule(members []member) bool {
	return len(members) == 1 && spec.IsRule(members[0].key)
}

// Rule is the rule as documents write it: what identifies it first, its message last, a message that is one text as that.
func Rule(r *spec.Rule) json.RawMessage {
	b, err := json.Marshal(r)
	if err != nil {
		panic("spec: a rule cannot be written: " + err.Error()) // it is plain data
	}
	kinds, _ := membersOf(b)
	if len(kinds) != 1 {
		return b
	}
	details, _ := membersOf(kinds[0].value)
	details = slices.DeleteFunc(details, func(m member) bool { // what is so anyway
		return m.key == "id" && string(m.value) == quoteJSON(kinds[0].key) || m.key == "layers" && string(m.value) == "["+quoteJSON(string(spec.OnServer))+"]"
	})
	rank := func(m member) int {
		return slices.Index([]string{"id", "layers", "ids", "", "message", "place", "message_on", "when", "rejected"}, m.key)
	}
	slices.SortStableFunc(details, func(a, b member) int {
		x, y := rank(a), rank(b)
		if x < 0 {
			x = 2
		}
		if y < 0 {
			y = 2
		}
		return x - y
	})
	var out bytes.Buffer
	out.WriteString("{" + quoteJSON(kinds[0].key) + ":{")
	for i, m := range details {
		if i > 0 {
			out.WriteByte(',')
		}
		out.WriteString(quoteJSON(m.key) + ":")
		if parts, ok := membersOf(m.value); ok && m.key == "message" && len(parts) == 1 && (parts[0].key == "text" || parts[0].key == "texts") {
			m.value = parts[0].value
		}
		out.Write(m.value)
	}
	out.WriteString("}}")
	return out.Bytes()
}

var (
	plainText = regexp.MustCompile(`^[0-9]+(ms|s|m|h)$|^[A-Za-z_/][\p{L}\p{N}_./+-]*( [\p{L}\p{N}_./+-]+)*$`)
	otherType = regexp.MustCompile(`(?i)^(true|false|null|yes|no|on|off|y|n|nan)$`)
)

// scalar writes a text so that YAML reads it as one.
func scalar(text string) string {
	switch {
	case plainText.MatchString(text) && !otherType.MatchString(text) && !strings.HasSuffix(text, ":"):
		return text
	case strings.ContainsFunc(text, func(r rune) bool {
		return r < 0x20 || r == 0x7f || r == 0x85 || r == 0x2028 || r == 0x2029 || r == 0xfeff
	}):
		return quoteJSON(text)
	case strings.ContainsAny(text, `\"`):
		return "'" + strings.ReplaceAll(text, "'", "''") + "'"
	}
	return `"` + text + `"`
}

func quoteJSON(s string) string {
	b, _ := json.Marshal(s) // a string can always be written
	return string(b)
}

// WriteCases writes the document as YAML, an edit a line.
func WriteCases(d *spec.CaseDocument) ([]byte, error) {
	t := &patcher{}
	var b bytes.Buffer
	fmt.Fprintf(&b, "cases: %s\nedits:\n", scalar(d.Cases))
	for i := range d.Edits {
		value, err := json.Marshal(&d.Edits[i])
		if err != nil {
			return nil, err
		}
		fmt.Fprintf(&b, "  - %s\n", t.flow(value))
	}
	return b.Bytes(), nil
}

// DifferentParts names the keys of the site document in which two sites differ.
func DifferentParts(a, b *spec.Site) []string {
	var out []string
	one, other := written(a), written(b)
	for _, m := range one {
		if i := slices.IndexFunc(other, func(o member) bool { return o.key == m.key }); i < 0 || !bytes.Equal(other[i].value, m.value) {
			out = append(out, m.key)
		}
	}
	for _, m := range other {
		if !slices.ContainsFunc(one, func(o member) bool { return o.key == m.key }) {
			out = append(out, m.key)
		}
	}
	return out
}

// RewriteSite changes a site document's text to what a site now is; what did not change keeps its bytes. Without a text one is begun.
func RewriteSite(s *spec.Site, text []byte) ([]byte, error) {
	was := []member{}
	if len(text) == 0 {
		text = []byte("site: " + s.Site + "\n")
	}
	before, err := spec.ReadProject([]spec.File{{Name: s.Site + ".yaml", Text: text}})
	if err != nil {
		return nil, err
	}
	if before.Site != nil {
		was = written(before.Site)
	}
	is := written(s)
	var edits []Edit
	for _, m := range is {
		i := slices.IndexFunc(was, func(old member) bool { return old.key == m.key })
		if i < 0 || !bytes.Equal(was[i].value, m.value) {
			edits = append(edits, Edit{Do: Set, Path: m.key, Value: m.value})
		}
	}
	for _, m := range was {
		if !slices.ContainsFunc(is, func(now member) bool { return now.key == m.key }) {
			edits = append(edits, Edit{Do: Remove, Path: m.key})
		}
	}
	return Apply(text, edits)
}

func written(v any) []member {
	b, err := json.Marshal(v)
	if err != nil {
		panic("spec: a document cannot be written: " + err.Error()) // it is plain data
	}
	out, _ := membersOf(b)
	return out
}
