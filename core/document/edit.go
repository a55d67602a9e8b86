// Package document changes the text of documents in place, so that comments and order stay, and tells how two revisions differ.
package document

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"oddtick/core/spec"

	"github.com/goccy/go-yaml/ast"
)

// Edit is one change of a document, made in its text: all else, comments too, stays as it was.
type Edit struct {
	// Do is set (a key or an item; a missing key is added), insert (an item into a list, before At, at the end for -1), remove or
	// move (an item of a list to At).
	Do EditKind `json:"do" enum:"set,insert,remove,move"`
	// Path leads to what is changed: keys parted by points, items in brackets by their id or their number from 0, such as
	// fields[username].rules[length].max. For insert it is the list.
	Path  string          `json:"path"`
	Value json.RawMessage `json:"value,omitempty"`
	At    int             `json:"at,omitempty"`
}

// EditKind is what an edit does.
type EditKind string

// The kinds of edits.
const (
	Set    EditKind = "set"
	Insert EditKind = "insert"
	Remove EditKind = "remove"
	Move   EditKind = "move"
)

// Apply makes edits one after the other in a document's text. An error names the edit that cannot be made; then none is.
func Apply(text []byte, edits []Edit) ([]byte, error) {
	for i := range edits {
		next, err := applyOne(text, &edits[i])
		if err != nil {
			return nil, fmt.Errorf("%s %s: %w", edits[i].Do, edits[i].Path, err)
		}
		text = next
	}
	return text, nil
}

func applyOne(text []byte, e *Edit) ([]byte, error) {
	docs, err := spec.Documents("", text)
	if err != nil {
		return nil, err
	}
	if len(docs) != 1 {
		return nil, fmt.Errorf("the text holds %d documents, not one", len(docs))
	}
	t := &patcher{text: string(text), isJSON: strings.HasPrefix(strings.TrimSpace(string(text)), "{")}
	t.lines()
	steps, err := spec.SplitPath(e.Path)
	if err != nil {
		return nil, err
	}
	if (e.Do == Set || e.Do == Insert) && !json.Valid(e.Value) {
		return nil, fmt.Errorf("the value is not JSON")
	}
	switch e.Do {
	case Set:
		err = t.set(docs[0], steps, e.Value)
	case Insert:
		err = t.insert(docs[0], steps, e.Value, e.At)
	case Remove:
		err = t.remove(docs[0], steps)
	case Move:
		err = t.move(docs[0], steps, e.At)
	default:
		err = fmt.Errorf("an edit sets, inserts, removes or moves")
	}
	return []byte(t.text), err
}

// patcher changes a text by the places of its syntax tree's nodes.
type patcher struct {
	text   string
	starts []int // offsets of the lines
	isJSON bool
}

func (t *patcher) lines() {
	t.starts = []int{0}
	for i := range len(t.text) {
		// a line ends with LF, CR LF, or CR alone (YAML 1.2.2, 5.4)
		if t.text[i] == '\n' || t.text[i] == '\r' && !strings.HasPrefix(t.text[i+1:], "\n") {
			t.starts = append(t.starts, i+1)
		}
	}
}

// offset is where a token's line and column (in characters, from 1) lie in the text.
func (t *patcher) offset(line, column int) int {
	if line > len(t.starts) {
		return len(t.text) // the parser counts what follows the last line
	}
	at := t.starts[line-1]
	for range column - 1 {
		_, n := utf8.DecodeRuneInString(t.text[at:])
		at += n
	}
	return at
}

func (t *patcher) lineOf(at int) int {
	i, found := slices.BinarySearch(t.starts, at)
	if !found {
		i--
	}
	return i
}

func (t *patcher) lineEnd(line int) int { // before its line end
	if line+1 < len(t.starts) {
		return t.starts[line+1] - 1
	}
	return len(t.text)
}

func (t *patcher) line(i int) string { return t.text[t.starts[i]:t.lineEnd(i)] }

// start is where a node begins.
func (t *patcher) start(n ast.Node) int {
	if m, ok := n.(*ast.MappingNode); ok && !m.IsFlowStyle && len(m.Values) > 0 {
		n = m.Values[0].Key
	} else if m, ok := n.(*ast.MappingValueNode); ok {
		n = m.Key
	}
	switch x := n.(type) {
	case *ast.LiteralNode:
		p := x.Start.Position
		return t.offset(p.Line, p.Column)
	case *ast.AnchorNode:
		return t.offset(x.Start.Position.Line, x.Start.Position.Column)
	case *ast.TagNode:
		return t.offset(x.Start.Position.Line, x.Start.Position.Column)
	}
	p := n.GetToken().Position
	return t.offset(p.Line, p.Column)
}

func isFlow(n ast.Node) bool {
	switch x := n.(type) {
	case *ast.MappingNode:
		return x.IsFlowStyle
	case *ast.SequenceNode:
		return x.IsFlowStyle
	}
	return false
}

// end is where a node that begins at start ends. outer is the column, from 0, of what holds it; inFlow says that braces hold it.
func (t *patcher) end(n ast.Node, start, outer int, inFlow bool) int {
	switch n := n.(type) {
	case *ast.MappingNode, *ast.SequenceNode, *ast.MappingValueNode:
		if isFlow(n) {
			return t.matching(start)
		}
		return t.blockEnd(start, n.Type() == ast.SequenceType)
	case *ast.LiteralNode:
		line := t.lineOf(start)
		last := line
		for i := line + 1; i < len(t.starts); i++ {
			text := t.line(i)
			if strings.TrimSpace(text) == "" {
				continue
			}
			if indentOf(text) <= outer {
				break
			}
			last = i
		}
		return t.lineEnd(last)
	case *ast.NullNode:
		if n.GetToken().Value == "" || !strings.HasPrefix(t.text[start:], n.GetToken().Value) {
			return start
		}
	}
	if c := t.text[start]; c == '"' || c == '\'' {
		return t.closing(start)
	}
	return t.plainEnd(start, outer, inFlow)
}

func (t *patcher) plainEnd(start, outer int, inFlow bool) int {
	stop := func(from, to int) int {
		for i := from; i < to; i++ {
			c := t.text[i]
			if c == '#' && i > from && (t.text[i-1] == ' ' || t.text[i-1] == '\t') || inFlow && (c == ',' || c == ']' || c == '}') {
				return i
			}
		}
		return to
	}
	line := t.lineOf(start)
	at := stop(start, t.lineEnd(line))
	for !inFlow && at == t.lineEnd(line) && line+1 < len(t.starts) {
		text := t.line(line + 1)
		if strings.TrimSpace(text) == "" || indentOf(text) <= outer || strings.HasPrefix(strings.TrimSpace(text), "#") {
			break
		}
		line++
		at = stop(t.starts[line], t.lineEnd(line))
	}
	return start + len(strings.TrimRight(t.text[start:at], " \t\r\n"))
}

// closing is behind the quotation mark that closes the one at start.
func (t *patcher) closing(start int) int {
	mark := t.text[start]
	for i := start + 1; i < len(t.text); i++ {
		switch {
		case t.text[i] == '\\' && mark == '"':
			i++
		case t.text[i] == mark && mark == '\'' && i+1 < len(t.text) && t.text[i+1] == mark:
			i++
		case t.text[i] == mark:
			return i + 1
		}
	}
	return len(t.text)
}

// matching is behind the bracket that closes the one at start.
func (t *patcher) matching(start int) int {
	depth := 0
	for i := start; i < len(t.text); i++ {
		switch c := t.text[i]; {
		case c == '{' || c == '[':
			depth++
		case c == '}' || c == ']':
			if depth--; depth == 0 {
				return i + 1
			}
		case (c == '"' || c == '\'') && strings.ContainsRune(" \t\n{[,:", rune(t.text[i-1])):
			i = t.closing(i) - 1
		case c == '#' && (t.text[i-1] == ' ' || t.text[i-1] == '\n'):
			for i+1 < len(t.text) && t.text[i+1] != '\n' {
				i++
			}
		}
	}
	return len(t.text)
}

func indentOf(line string) int { return len(line) - len(strings.TrimLeft(line, " ")) }

// blockEnd is behind the last line of a block collection that begins at start.
func (t *patcher) blockEnd(start int, sequence bool) int {
	first := t.lineOf(start)
	column := start - t.starts[first]
	last := first
	for i := first + 1; i < len(t.starts); i++ {
		text := t.line(i)
		bare := strings.TrimSpace(text)
		if bare == "" || strings.HasPrefix(bare, "#") {
			continue
		}
		indent := indentOf(text)
		if indent < column || sequence && indent == column && !strings.HasPrefix(bare, "-") || bare == "---" || bare == "..." {
			break
		}
		last = i
	}
	return t.starts[last] + len(strings.TrimRight(t.line(last), " \t\r"))
}

// splice replaces a stretch of the text.
func (t *patcher) splice(from, to int, with string) {
	t.text = t.text[:from] + with + t.text[to:]
}

// found is a node with what holds it.
type found struct {
	node   ast.Node
	parent ast.Node // the mapping or sequence
	entry  *ast.MappingValueNode
	index  int // in the sequence
	inFlow bool
	column int // of what holds it: of the key, or of the hyphen
}

// find follows a path as far as it leads. rest are the steps that lead further.
func (t *patcher) find(root ast.Node, steps []spec.PathStep) (at found, rest []spec.PathStep, err error) {
	at = found{node: spec.Unwrap(root), column: -1}
	list := ""
	for i, s := range steps {
		if isFlow(at.node) {
			at.inFlow = true
		}
		if s.Item {
			seq, ok := at.node.(*ast.SequenceNode)
			if !ok {
				return at, steps[i:], nil
			}
			n := itemIndex(list, seq, s.Key)
			if n < 0 {
				return at, steps[i:], fmt.Errorf("there is no %q in %s", s.Key, list)
			}
			column := 0
			if !seq.IsFlowStyle {
				column = seq.Start.Position.Column - 1
			}
			at = found{node: spec.Unwrap(seq.Values[n]), parent: seq, index: n, inFlow: at.inFlow, column: column}
			if list == "rules" && i+1 < len(steps) {
				at = intoRule(at, steps[i+1].Key)
			}
			continue
		}
		entries, ok := spec.MapEntries(at.node)
		if !ok {
			return at, steps[i:], nil
		}
		n := slices.IndexFunc(entries, func(e *ast.MappingValueNode) bool { return e.Key.GetToken().Value == s.Key })
		if n < 0 {
			return at, steps[i:], nil
		}
		e := entries[n]
		list = s.Key
		at = found{node: spec.Unwrap(e.Value), parent: at.node, entry: e, index: n, inFlow: at.inFlow, column: e.Key.GetToken().Position.Column - 1}
	}
	return at, nil, nil
}

// intoRule goes on from a rule to its details, which its kind holds, unless the next step names the kind itself.
func intoRule(at found, next string) found {
	entries, ok := spec.MapEntries(at.node)
	if !ok || len(entries) != 1 || entries[0].Key.GetToken().Value == next {
		return at
	}
	e := entries[0]
	return found{node: spec.Unwrap(e.Value), parent: at.node, entry: e, inFlow: at.inFlow || isFlow(at.node), column: e.Key.GetToken().Position.Column - 1}
}

// itemIndex finds an item of a list by its number or its id, as the document's reader makes it.
func itemIndex(list string, seq *ast.SequenceNode, key string) int {
	if n, err := strconv.Atoi(key); err == nil {
		if n < 0 || n >= len(seq.Values) {
			return -1
		}
		return n
	}
	count := map[string]int{}
	for i, v := range seq.Values {
		if itemID(list, spec.Unwrap(v), i, count) == key {
			return i
		}
	}
	return -1
}

func itemID(list string, n ast.Node, i int, count map[string]int) string {
	entries, _ := spec.MapEntries(n)
	member := func(name string) string {
		for _, e := range entries {
			if e.Key.GetToken().Value == name {
				return e.Value.GetToken().Value
			}
		}
		return ""
	}
	switch list {
	case "fields":
		if id := member("id"); id != "" {
			return id
		}
		return spec.Identifier(member("name"))
	case "rules":
		if len(entries) == 0 {
			return ""
		}
		kind := entries[0].Key.GetToken().Value
		count[kind]++
		inner, _ := spec.MapEntries(spec.Unwrap(entries[0].Value))
		for _, e := range inner {
			if e.Key.GetToken().Value == "id" {
				return e.Value.GetToken().Value
			}
		}
		return defaultID(kind, count[kind])
	case "across":
		if id := member("id"); id != "" {
			return id
		}
		return fmt.Sprintf("across_%d", i+1)
	case "stored":
		return member("insert") + member("update")
	}
	return member("id")
}

func (t *patcher) set(root ast.Node, steps []spec.PathStep, value json.RawMessage) error {
	if len(steps) > 2 && steps[0].Key == "stored" {
		// a table that nothing is stored in yet is begun with the column, or with the row that is changed
		begun := "insert"
		if steps[2].Key == "row" || steps[2].Key == "where" {
			begun = "update"
		}
		if _, rest, err := t.find(root, steps[:2]); err != nil || len(rest) > 0 {
			for i := len(steps) - 1; i >= 2; i-- {
				value = json.RawMessage(fmt.Sprintf("{%s: %s}", quoteJSON(steps[i].Key), value))
			}
			row := fmt.Sprintf("{%s: %s, %s", quoteJSON(begun), quoteJSON(steps[1].Key), bytes.TrimPrefix(value, []byte("{")))
			return t.insert(root, steps[:1], json.RawMessage(row), -1)
		}
	}
	at, rest, err := t.find(root, steps)
	if err != nil {
		return err
	}
	if len(steps) == 0 {
		return fmt.Errorf("the path is empty")
	}
	if len(rest) == 0 {
		start := t.start(at.node)
		if n, null := at.node.(*ast.NullNode); null && (n.GetToken().Value == "" || !strings.HasPrefix(t.text[start:], n.GetToken().Value)) {
			// key: with nothing behind it
			k := at.entry.Key.GetToken().Position
			colon := t.offset(k.Line, k.Column) + len(at.entry.Key.GetToken().Value)
			colon += strings.IndexByte(t.text[colon:], ':') + 1
			t.splice(colon, colon, " "+t.flow(value))
			return nil
		}
		end := t.end(at.node, start, at.column, at.inFlow)
		text := t.flow(value)
		if t.lineOf(start) != t.lineOf(end) || !isFlow(at.node) && at.entry != nil && t.lineOf(start) != at.entry.Key.GetToken().Position.Line-1 {
			// a block gives way to a block
			if at.entry != nil && !at.inFlow {
				colon := t.offset(at.entry.Key.GetToken().Position.Line, at.entry.Key.GetToken().Position.Column)
				t.splice(colon, end, strings.TrimLeft(t.pair(at.entry.Key.GetToken().Value, value, at.column), " "))
				return nil
			}
			if at.entry == nil && !at.inFlow {
				t.splice(start, end, strings.TrimLeft(t.block(value, at.column+2), " "))
				return nil
			}
		}
		t.splice(start, end, text)
		return nil
	}
	// what is missing is added, from the inside out
	for i := len(rest) - 1; i > 0; i-- {
		if rest[i].Item {
			return fmt.Errorf("there is no %q", rest[i].Key)
		}
		value = json.RawMessage(fmt.Sprintf("{%s: %s}", quoteJSON(rest[i].Key), value))
	}
	if rest[0].Item {
		return fmt.Errorf("there is no %q", rest[0].Key)
	}
	return t.addKey(at, rest[0].Key, value)
}

// addKey adds a key to a mapping.
func (t *patcher) addKey(at found, key string, value json.RawMessage) error {
	start := t.start(at.node)
	switch n := at.node.(type) {
	case *ast.MappingNode:
		if n.IsFlowStyle {
			end := t.end(n, start, at.column, at.inFlow)
			text := t.key(key) + t.flow(value)
			before := end - 1
			for before > start+1 && strings.ContainsRune(" \n\t", rune(t.text[before-1])) {
				before--
			}
			if len(n.Values) > 0 {
				text = ", " + text
			}
			t.splice(before, end-1, text)
			return nil
		}
	case *ast.MappingValueNode:
	case *ast.NullNode:
		return fmt.Errorf("nothing stands here; set the whole of it")
	default:
		return fmt.Errorf("this is not a map of keys, so that %q cannot be added", key)
	}
	column := start - t.starts[t.lineOf(start)]
	end := t.blockEnd(start, false)
	t.splice(end, end, "\n"+t.pair(key, value, column))
	return nil
}

func (t *patcher) insert(root ast.Node, steps []spec.PathStep, value json.RawMessage, index int) error {
	at, rest, err := t.find(root, steps)
	if err != nil {
		return err
	}
	if len(rest) > 0 { // the list itself is missing
		return t.set(root, steps, json.RawMessage("["+string(value)+"]"))
	}
	seq, ok := at.node.(*ast.SequenceNode)
	if !ok {
		return fmt.Errorf("this is not a list")
	}
	if index < 0 || index > len(seq.Values) {
		index = len(seq.Values)
	}
	start := t.start(seq)
	if seq.IsFlowStyle {
		switch {
		case len(seq.Values) == 0:
			if at.entry != nil && !at.inFlow && !t.isJSON { // key: [] makes room for a block
				return t.set(root, steps, json.RawMessage("["+string(value)+"]"))
			}
			t.splice(start+1, start+1, t.flow(value))
		case index < len(seq.Values):
			before := t.start(seq.Values[index])
			t.splice(before, before, t.flow(value)+", ")
		default:
			last := seq.Values[index-1]
			s := t.start(last)
			e := t.end(spec.Unwrap(last), s, at.column, true)
			t.splice(e, e, ", "+t.flow(value))
		}
		return nil
	}
	column := seq.Start.Position.Column - 1
	item := strings.Repeat(" ", column) + "- " + strings.TrimLeft(t.block(value, column+2), " ")
	if index < len(seq.Values) {
		line := t.starts[t.hyphenLine(seq, index)]
		t.splice(line, line, item+"\n")
		return nil
	}
	end := t.blockEnd(start, true)
	t.splice(end, end, "\n"+item)
	return nil
}

// hyphenLine is the line on which an item of a block sequence begins.
func (t *patcher) hyphenLine(seq *ast.SequenceNode, index int) int {
	column := seq.Start.Position.Column - 1
	line := t.lineOf(t.start(spec.Unwrap(seq.Values[index])))
	for line > 0 {
		text := t.line(line)
		if indentOf(text) == column && strings.HasPrefix(text[column:], "-") {
			break
		}
		line--
	}
	return line
}

// itemStretch is the lines of an item of a block sequence, from its hyphen on, with the comments behind it that are indented deeper
// than the sequence; other comments before the next item belong to that.
func (t *patcher) itemStretch(seq *ast.SequenceNode, index int) (from, to int) {
	first := t.hyphenLine(seq, index)
	value := spec.Unwrap(seq.Values[index])
	start := t.start(value)
	end := t.end(value, start, seq.Start.Position.Column-1, false)
	last := t.lineOf(max(end-1, start))
	for i := last + 1; i < len(t.starts); i++ {
		line := t.line(i)
		if !strings.HasPrefix(strings.TrimSpace(line), "#") || indentOf(line) <= seq.Start.Position.Column-1 {
			break
		}
		last = i
	}
	to = len(t.text)
	if last+1 < len(t.starts) {
		to = t.starts[last+1]
	}
	return t.starts[first], to
}

func (t *patcher) remove(root ast.Node, steps []spec.PathStep) error {
	at, rest, err := t.find(root, steps)
	if err != nil {
		return err
	}
	if len(rest) > 0 || at.parent == nil {
		return fmt.Errorf("there is no such place")
	}
	if seq, ok := at.parent.(*ast.SequenceNode); ok {
		if len(seq.Values) == 1 {
			return t.remove(root, steps[:len(steps)-1]) // an empty list says nothing
		}
		if !seq.IsFlowStyle {
			from, to := t.itemStretch(seq, at.index)
			t.splice(from, to, "")
			return nil
		}
		return t.removeFromFlow(at, t.start(at.node))
	}
	entries, _ := spec.MapEntries(at.parent)
	k := at.entry.Key.GetToken().Position
	start := t.offset(k.Line, k.Column)
	if isFlow(at.parent) {
		return t.removeFromFlow(at, start)
	}
	if len(entries) == 1 {
		return fmt.Errorf("it is the only key here; remove what holds it")
	}
	end := start
	if _, null := at.node.(*ast.NullNode); !null {
		valueStart := t.start(at.node)
		end = t.end(at.node, valueStart, at.column, at.inFlow)
	}
	line, last := t.lineOf(start), t.lineOf(max(end-1, start))
	if before := t.text[t.starts[line]:start]; strings.TrimSpace(before) != "" {
		// the first key of an item stands behind its hyphen: the next key moves up
		next := entries[1].Key.GetToken().Position
		t.splice(start, t.offset(next.Line, next.Column), "")
		return nil
	}
	to := len(t.text)
	if last+1 < len(t.starts) {
		to = t.starts[last+1]
	}
	t.splice(t.starts[line], to, "")
	return nil
}

// removeFromFlow takes an entry that begins at start out of braces or brackets, with one of the commas around it.
func (t *patcher) removeFromFlow(at found, start int) error {
	end := start
	if _, null := at.node.(*ast.NullNode); !null || at.node.GetToken().Value != "" {
		end = t.end(at.node, t.start(at.node), at.column, true)
	}
	rest := t.text[end:]
	if trimmed := strings.TrimLeft(rest, " \n\t"); strings.HasPrefix(trimmed, ",") {
		end += len(rest) - len(trimmed) + 1
		end += len(t.text[end:]) - len(strings.TrimLeft(t.text[end:], " "))
	} else if before := strings.TrimRight(t.text[:start], " \n\t"); strings.HasSuffix(before, ",") {
		start = len(before) - 1
	}
	t.splice(start, end, "")
	return nil
}

func (t *patcher) move(root ast.Node, steps []spec.PathStep, to int) error {
	at, rest, err := t.find(root, steps)
	if err != nil {
		return err
	}
	seq, ok := at.parent.(*ast.SequenceNode)
	if len(rest) > 0 || !ok {
		return fmt.Errorf("only an item of a list can be moved")
	}
	if to < 0 || to >= len(seq.Values) {
		return fmt.Errorf("the list has %d items", len(seq.Values))
	}
	if to == at.index {
		return nil
	}
	// all stretches in their new order; what stands between them, such as a comment, stays where it is
	type stretch struct{ from, to int }
	stretches := make([]stretch, len(seq.Values))
	for i, v := range seq.Values {
		if seq.IsFlowStyle {
			s := t.start(v)
			stretches[i] = stretch{s, t.end(spec.Unwrap(v), s, at.column, true)}
		} else {
			stretches[i].from, stretches[i].to = t.itemStretch(seq, i)
		}
	}
	order := make([]int, 0, len(stretches))
	for i := range stretches {
		if i != at.index {
			order = append(order, i)
		}
	}
	order = slices.Insert(order, to, at.index)
	var b strings.Builder
	b.WriteString(t.text[:stretches[0].from])
	for i, from := range order {
		piece := t.text[stretches[from].from:stretches[from].to]
		if !seq.IsFlowStyle && !strings.HasSuffix(piece, "\n") {
			piece += "\n"
		}
		b.WriteString(piece)
		if i+1 < len(stretches) {
			b.WriteString(t.text[stretches[i].to:stretches[i+1].from])
		}
	}
	b.WriteString(t.text[stretches[len(stretches)-1].to:])
	t.text = b.String()
	return nil
}
