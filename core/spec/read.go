package spec

import (
	"errors"
	"fmt"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/goccy/go-yaml"
	"github.com/goccy/go-yaml/ast"
	"github.com/goccy/go-yaml/lexer"
	"github.com/goccy/go-yaml/parser"
	"github.com/goccy/go-yaml/token"
)

// source remembers where in a file each path stands.
type source struct {
	file      string
	positions map[string]position
}

type position struct{ line, column int }

// at finds the place of a path, or of the nearest one around it.
func (s *source) at(path string) position {
	for s != nil {
		if p, ok := s.positions[path]; ok {
			return p
		}
		i := strings.LastIndexAny(path, ".[")
		if i < 0 {
			return s.positions[""]
		}
		path = path[:i]
	}
	return position{}
}

func (s *source) problem(path, remedy, format string, args ...any) Problem {
	p := s.at(path)
	file := ""
	if s != nil {
		file = s.file
	}
	return Problem{File: file, Line: p.line, Column: p.column, Path: path, Message: fmt.Sprintf(format, args...), Remedy: remedy}
}

// reader fills Go values from a syntax tree, strictly: unknown keys, wrong types and words outside a list are problems. The keys
// are the json tags, so that YAML, JSON and the API speak of the same things.
type reader struct {
	*source
	problems Problems
}

// Documents parses a file into its documents' trees.
func Documents(file string, text []byte) ([]ast.Node, error) {
	if p := tooMuch(text); p != nil {
		p.File = file
		return nil, Problems{*p}
	}
	tree, err := parser.ParseBytes(text, 0)
	if err != nil {
		p := Problem{File: file, Message: err.Error(), Remedy: "mend the YAML here; nothing was read"}
		var located yaml.Error
		if errors.As(err, &located) {
			p.Message = "this is not YAML: " + located.GetMessage()
			if t := located.GetToken(); t != nil && t.Position != nil {
				p.Line, p.Column = t.Position.Line, t.Position.Column
			}
		}
		return nil, Problems{p}
	}
	var out []ast.Node
	for _, d := range tree.Docs {
		if d.Body != nil && d.Body.Type() != ast.CommentType {
			out = append(out, d.Body)
		}
	}
	return out, nil
}

func (r *reader) fail(path, remedy, format string, args ...any) {
	r.problems = append(r.problems, r.problem(path, remedy, format, args...))
}

func (r *reader) mark(path string, t *token.Token) {
	if t != nil && t.Position != nil {
		r.positions[path] = position{t.Position.Line, t.Position.Column}
	}
}

// ownReader is implemented by types that have more than one form in a file.
type ownReader interface {
	readFrom(r *reader, n ast.Node, path string)
}

func Unwrap(n ast.Node) ast.Node {
	for {
		switch x := n.(type) {
		case *ast.AnchorNode:
			n = x.Value
		case *ast.TagNode:
			n = x.Value
		default:
			return n
		}
	}
}

func nodeKind(n ast.Node) string {
	switch n := n.(type) {
	case *ast.MappingNode, *ast.MappingValueNode:
		return "a map of keys"
	case *ast.SequenceNode:
		return "a list"
	case *ast.NullNode:
		return "nothing"
	case *ast.BoolNode:
		return "a truth value"
	case *ast.IntegerNode, *ast.FloatNode:
		return "the number " + n.GetToken().Value
	default:
		return "a text"
	}
}

func (r *reader) read(n ast.Node, into reflect.Value, path string) {
	n = Unwrap(n)
	if _, known := r.positions[path]; !known {
		r.mark(path, n.GetToken())
	}
	if into.Kind() == reflect.Pointer {
		if n.Type() == ast.NullType {
			r.fail(path, "write {} for one without further words", "nothing stands here")
			return
		}
		into.Set(reflect.New(into.Type().Elem()))
		r.read(n, into.Elem(), path)
		return
	}
	if own, ok := into.Addr().Interface().(ownReader); ok {
		own.readFrom(r, n, path)
		return
	}
	switch into.Kind() {
	case reflect.Struct:
		r.readStruct(n, into, path)
	case reflect.Slice:
		seq, ok := n.(*ast.SequenceNode)
		if !ok {
			r.fail(path, "start each entry with a hyphen, or write [a, b]", "a list is expected, not %s", nodeKind(n))
			return
		}
		into.Set(reflect.MakeSlice(into.Type(), len(seq.Values), len(seq.Values)))
		for i, v := range seq.Values {
			r.read(v, into.Index(i), fmt.Sprintf("%s[%d]", path, i))
		}
	case reflect.Map:
		r.readMap(n, into, path)
	case reflect.String:
		if text, ok := r.text(n, path); ok {
			into.SetString(text)
		}
	case reflect.Int:
		text, err := strconv.Atoi(n.GetToken().Value)
		if n.Type() != ast.IntegerType || err != nil {
			r.fail(path, "write it in digits, without quotation marks", "a whole number is expected, not %s", nodeKind(n))
			return
		}
		into.SetInt(int64(text))
	case reflect.Interface:
		var value any
		if err := yaml.NodeToValue(n, &value); err != nil {
			r.fail(path, "", "%s", err)
			return
		}
		into.Set(reflect.ValueOf(plainValue(value)))
	case reflect.Bool:
		b, ok := n.(*ast.BoolNode)
		if !ok {
			r.fail(path, "write true or false", "true or false is expected, not %s", nodeKind(n))
			return
		}
		into.SetBool(b.Value)
	default:
		panic("spec: cannot read a " + into.Kind().String())
	}
}

// plainValue is a value as JSON has it.
func plainValue(v any) any {
	switch v := v.(type) {
	case map[string]any:
		for key := range v {
			v[key] = plainValue(v[key])
		}
	case []any:
		for i := range v {
			v[i] = plainValue(v[i])
		}
	case uint64:
		return float64(v)
	case int64:
		return float64(v)
	case int:
		return float64(v)
	}
	return v
}

func (r *reader) text(n ast.Node, path string) (string, bool) {
	switch n := n.(type) {
	case *ast.StringNode:
		return n.Value, true
	case *ast.LiteralNode:
		return n.Value.Value, true
	case *ast.IntegerNode, *ast.FloatNode, *ast.BoolNode:
		return n.GetToken().Value, true
	case *ast.MappingNode, *ast.MappingValueNode:
		r.fail(path, "if the text holds a colon or braces, put it into quotation marks", "a text is expected, not a map of keys")
	default:
		r.fail(path, "write the text, in quotation marks if need be", "a text is expected, not %s", nodeKind(n))
	}
	return "", false
}

// entries returns a map's keys in order. It is false when the node is no map.
func (r *reader) entries(n ast.Node, path string) ([]*ast.MappingValueNode, bool) {
	switch n := n.(type) {
	case *ast.MappingNode:
		return n.Values, true
	case *ast.MappingValueNode:
		return []*ast.MappingValueNode{n}, true
	case *ast.NullNode:
		r.fail(path, "write {} for one without further words", "nothing stands here")
	default:
		r.fail(path, "", "a map of keys is expected, not %s", nodeKind(n))
	}
	return nil, false
}

func join(path, key string) string {
	if path == "" {
		return key
	}
	return path + "." + key
}

func (r *reader) readMap(n ast.Node, into reflect.Value, path string) {
	list, ok := r.entries(n, path)
	if !ok {
		return
	}
	into.Set(reflect.MakeMap(into.Type()))
	for _, e := range list {
		key := e.Key.GetToken().Value
		at := join(path, key)
		r.mark(at, e.Key.GetToken())
		v := reflect.New(into.Type().Elem()).Elem()
		r.read(e.Value, v, at)
		into.SetMapIndex(reflect.ValueOf(key).Convert(into.Type().Key()), v)
	}
}

func (r *reader) readStruct(n ast.Node, into reflect.Value, path string) {
	list, ok := r.entries(n, path)
	if !ok {
		return
	}
	fields := StructFields(into.Type())
	for _, e := range list {
		key := e.Key.GetToken().Value
		at := join(path, key)
		r.mark(at, e.Key.GetToken())
		name, f, ok := MemberOf(into.Type(), key)
		if !ok {
			r.fail(at, suggest(key, fields), "the key %q is not known here", key)
			continue
		}
		if name != key {
			r.fail(at, migrateIt, "the key %q is now called %q", key, name)
			continue
		}
		field := into.FieldByIndex(f.Index)
		before := len(r.problems)
		r.read(e.Value, field, at)
		if words := f.Tag.Get("oneof"); words != "" && len(r.problems) == before {
			r.oneOf(field, f, strings.Split(words, ","), at)
		}
		if f.Tag.Get("syntax") == "RE2" && len(r.problems) == before {
			if _, err := regexp.Compile(field.String()); err != nil {
				r.fail(at, `write it in RE2's syntax, with a \ before each sign that stands for itself`, "the pattern cannot be read: %s", err)
			}
		}
	}
}

// migrateIt is what to do about a document with former names.
const migrateIt = "run oddtick migrate with the file; it writes every key and value by its present name"

func (r *reader) oneOf(v reflect.Value, member reflect.StructField, words []string, path string) {
	if v.Kind() == reflect.Slice {
		for i := range v.Len() {
			r.oneOf(v.Index(i), member, words, fmt.Sprintf("%s[%d]", path, i))
		}
		return
	}
	if slices.Contains(words, v.String()) {
		return
	}
	if name, ok := RenamedValue(v.Type(), member, v.String()); ok {
		r.fail(path, migrateIt, "%q is now called %q", v.String(), name)
	} else {
		r.fail(path, "write one of: "+strings.Join(words, ", "), "%q is not known here", v.String())
	}
}

func StructFields(t reflect.Type) map[string]reflect.StructField {
	out := map[string]reflect.StructField{}
	for _, f := range reflect.VisibleFields(t) {
		if name, _, _ := strings.Cut(f.Tag.Get("json"), ","); name != "" && name != "-" && f.IsExported() {
			out[name] = f
		}
	}
	return out
}

func suggest(key string, fields map[string]reflect.StructField) string {
	names := make([]string, 0, len(fields))
	for name := range fields {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		if similar(key, name) {
			return fmt.Sprintf("did you mean %q?", name)
		}
	}
	return "known are: " + strings.Join(names, ", ")
}

// similar: the same letters but for one more, one less, one other or two swapped.
func similar(a, b string) bool {
	a, b = strings.ToLower(a), strings.ToLower(b)
	for len(a) > 0 && len(b) > 0 && a[0] == b[0] {
		a, b = a[1:], b[1:]
	}
	for len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1] {
		a, b = a[:len(a)-1], b[:len(b)-1]
	}
	return len(a) <= 1 && len(b) <= 1 || len(a) == 2 && len(b) == 2 && a[0] == b[1] && a[1] == b[0]
}

func (t *Names) readFrom(r *reader, n ast.Node, path string) {
	if n.Type() == ast.SequenceType {
		var list []string
		r.read(n, reflect.ValueOf(&list).Elem(), path)
		*t = list
		return
	}
	if text, ok := r.text(n, path); ok {
		*t = Names{text}
	}
}

func (k *Kind) readFrom(r *reader, n ast.Node, path string) {
	text, ok := r.text(n, path)
	if !ok {
		return
	}
	*k = Kind(text)
	if name, ok := RenamedValue(reflect.TypeFor[Kind](), reflect.StructField{}, text); ok {
		r.fail(path, migrateIt, "the kind %q is now called %q", text, name)
	} else if !slices.Contains(Kinds, *k) {
		words := make([]string, len(Kinds))
		for i, known := range Kinds {
			words[i] = string(known)
		}
		r.fail(path, "write one of: "+strings.Join(words, ", "), "the kind %q is not known", text)
	}
}

func (m *Message) readFrom(r *reader, n ast.Node, path string) {
	list, isMap := MapEntries(n)
	if !isMap {
		m.Text, _ = r.text(n, path)
		return
	}
	fields := StructFields(reflect.TypeFor[Message]())
	for _, e := range list {
		if _, own := fields[e.Key.GetToken().Value]; own {
			type plain Message
			r.read(n, reflect.ValueOf((*plain)(m)).Elem(), path)
			if m.Pattern != "" {
				m.pattern, _ = regexp.Compile(m.Pattern)
			}
			return
		}
	}
	r.readMap(n, reflect.ValueOf(&m.Texts).Elem(), path)
}

func MapEntries(n ast.Node) ([]*ast.MappingValueNode, bool) {
	switch n := n.(type) {
	case *ast.MappingNode:
		return n.Values, true
	case *ast.MappingValueNode:
		return []*ast.MappingValueNode{n}, true
	}
	return nil, false
}

func (p *Replies) readFrom(r *reader, n ast.Node, path string) {
	if n.Type() == ast.SequenceType {
		var list []Reply
		r.read(n, reflect.ValueOf(&list).Elem(), path)
		*p = list
		return
	}
	if text, ok := r.text(n, path); ok {
		*p = Replies{{Otherwise: text}}
	}
}

func (b *Blank) readFrom(r *reader, n ast.Node, path string) {
	if n.Type() == ast.NullType {
		*b = BlankNull
		return
	}
	if text, ok := r.text(n, path); ok {
		*b = Blank(strings.ToLower(text))
		if *b != BlankNull && *b != BlankEmpty && *b != BlankDefault && *b != BlankUnchanged {
			r.fail(path, "write one of: null, empty, default, unchanged", "%q is not known here", text)
		}
	}
}

func (s *Scalar) readFrom(r *reader, n ast.Node, path string) {
	if text, ok := r.text(n, path); ok {
		*s = Scalar(text)
	}
}

// What a document may be at most. Beyond it nothing is read or computed, as it would take more memory or time than anybody has.
const (
	maxText    = 8 << 20 // bytes of a file
	maxNesting = 100     // levels, one within another

	// MaxLength is the largest length that a rule may name, in its units: values of that length are made.
	MaxLength = 1_000_000
	// MaxAttachment is the largest file that is made and sent, in bytes.
	MaxAttachment = 64 << 20
)

// tooMuch says where a text is longer or nested deeper than is read; nil where it is not.
func tooMuch(text []byte) *Problem {
	if len(text) > maxText {
		return &Problem{Message: fmt.Sprintf("the file has %d bytes, and at most %d are read", len(text), maxText), Remedy: "put forms in files of their own"}
	}
	var columns []int // of the block collections that are open, from the outermost
	flow := 0
	for _, t := range lexer.Tokenize(string(text)) {
		switch t.Type {
		case token.MappingStartType, token.SequenceStartType:
			flow++
		case token.MappingEndType, token.SequenceEndType:
			flow = max(0, flow-1)
		case token.DocumentHeaderType, token.DocumentEndType:
			columns, flow = columns[:0], 0
		case token.CommentType, token.SpaceType:
			continue
		}
		if flow == 0 && t.Position != nil {
			for len(columns) > 0 && columns[len(columns)-1] >= t.Position.Column {
				columns = columns[:len(columns)-1]
			}
			columns = append(columns, t.Position.Column)
		}
		if depth := len(columns) + flow; depth > maxNesting {
			p := &Problem{Message: fmt.Sprintf("more than %d levels stand one within another", maxNesting), Remedy: "no document needs so many; nothing was read"}
			if t.Position != nil {
				p.Line, p.Column = t.Position.Line, t.Position.Column
			}
			return p
		}
	}
	return nil
}
