package page

import (
	"bytes"
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"oddtick/core/observation"

	"golang.org/x/net/html"
)

// texts collects a page's texts: each run of inline content of a block is one, and so is each inline element that is set apart
// by a class, an id or a role.
func texts(body *html.Node, tied map[string]*referring, drawn bool) []observation.Text {
	if body == nil {
		return nil
	}
	w := &walker{}
	w.walk(body)
	w.flush(body)
	p := placer{tied: tied, events: w.events, holds: map[*html.Node]string{}, drawn: drawn}
	out := make([]observation.Text, 0, len(w.runs))
	for _, r := range w.runs {
		out = append(out, p.place(r))
	}
	return out
}

// run is a text with the element that holds it and its place among the page's controls and labels.
type run struct {
	text  string
	node  *html.Node
	event int // how many controls and labels stand before it
}

type event struct {
	control string // a control's name, or
	label   string // the id a label is for
	id      string // the control's id
	form    *html.Node
}

// formAround is the form that an element stands in, nil for none.
func formAround(n *html.Node) *html.Node {
	for ; n != nil; n = n.Parent {
		if n.Type == html.ElementNode && n.Data == "form" {
			return n
		}
	}
	return nil
}

type walker struct {
	events []event
	runs   []run
	buffer []byte
	pieces []run
}

var (
	unread = map[string]bool{"script": true, "style": true, "template": true, "noscript": true, "head": true, "textarea": true, "select": true, "svg": true, "iframe": true, "object": true, "datalist": true}
	inline = map[string]bool{"a": true, "abbr": true, "b": true, "bdi": true, "bdo": true, "cite": true, "code": true, "data": true, "em": true, "font": true, "i": true, "kbd": true, "mark": true, "output": true, "q": true, "s": true, "samp": true, "small": true, "span": true, "strong": true, "sub": true, "sup": true, "time": true, "u": true, "var": true, "wbr": true}
)

func (w *walker) walk(n *html.Node) {
	if n.Type == html.TextNode {
		w.buffer = append(w.buffer, n.Data...)
		return
	}
	if n.Type != html.ElementNode {
		return
	}
	if name := attr(n, fieldAttribute); name != "" {
		w.flush(n.Parent)
		w.events = append(w.events, event{control: name, id: attr(n, "id"), form: formAround(n)})
	}
	switch n.Data {
	case "input", "select", "textarea", "button":
		w.flush(n.Parent)
		if name := attr(n, "name"); name != "" && !hasAttr(n, fieldAttribute) && attr(n, "type") != "hidden" && attr(n, "type") != "submit" && n.Data != "button" {
			w.events = append(w.events, event{control: name, id: attr(n, "id"), form: formAround(n)})
		}
	case "label":
		w.flush(n.Parent)
		w.events = append(w.events, event{label: attr(n, "for"), form: formAround(n)})
	}
	if unread[n.Data] {
		return
	}
	if inline[n.Data] {
		start := len(w.buffer)
		w.children(n)
		apart := hasAttr(n, "class") || hasAttr(n, "id") || hasAttr(n, "role")
		if apart && start <= len(w.buffer) {
			if text := w.text(start); text != "" {
				w.pieces = append(w.pieces, run{text, n, len(w.events)})
			}
		}
		return
	}
	w.flush(n.Parent)
	w.children(n)
	w.flush(n)
}

func (w *walker) children(n *html.Node) {
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		w.walk(c)
	}
}

// text is what was gathered since start.
func (w *walker) text(start int) string {
	return observation.Squash(string(bytes.TrimSpace(w.buffer[start:])))
}

// flush ends a run of inline content that block holds.
func (w *walker) flush(block *html.Node) {
	text := w.text(0)
	w.buffer = w.buffer[:0]
	whole := false
	for _, p := range w.pieces {
		whole = whole || p.text == text
	}
	if text != "" && !whole {
		w.runs = append(w.runs, run{text, block, len(w.events)})
	}
	w.runs = append(w.runs, w.pieces...)
	w.pieces = nil
}

type placer struct {
	tied   map[string]*referring
	events []event
	holds  map[*html.Node]string // by element: the one control it holds, "" for none, several for more
	drawn  bool                  // the elements say themselves whether they can be seen
}

// several marks an element that holds more than one control.
const several = "\x00several"

func (p *placer) place(r run) observation.Text {
	t := observation.Text{Text: r.text}
	marking := true
	nearest := ""
	found, referred, inLegend := false, false, false
	var group []string
	for n := r.node; n != nil && n.Type == html.ElementNode; n = n.Parent {
		if by := p.tied[attr(n, "id")]; by != nil && !referred {
			referred = true
			switch {
			case len(by.controls) == 1:
				t.Field, t.Linked = by.controls[0], true
			case len(by.controls) == 0 && len(by.fieldSet) > 0:
				t.Field, t.Group, t.Linked = by.fieldSet[0], by.fieldSet, true
			} // what several controls refer to is the summary
		}
		if !p.drawn && concealed(n) {
			t.Hidden = true
		}
		held := p.controlIn(n)
		marking = marking && held == ""
		if marking && alarming(n) {
			t.Alarm = true
		}
		if !found && held != "" && n.Data != "form" && n.Data != "body" {
			nearest, found = held, true
			if inLegend && n.Data == "fieldset" && t.Alarm && held == several {
				group = namesIn(n)
			}
		}
		inLegend = inLegend || n.Data == "legend"
	}
	if p.drawn {
		if holder := holderOf(r.node); holder != nil {
			t.Unseen = attr(holder, unseenAttribute)
			t.Hidden = t.Unseen != ""
			t.Box = boxOf(attr(holder, boxAttribute))
		}
	}
	switch {
	case referred:
	case len(group) > 0:
		t.Field, t.Group = group[0], group
	case found && nearest != several:
		t.Field = nearest
	default:
		t.Field = p.beside(r)
	}
	if t.Field == "" {
		t.LeadsTo = p.ledTo(r.node)
	}
	return t
}

// ledTo is the control that the one link in an element leads to, by its fragment; "" for none.
func (p *placer) ledTo(n *html.Node) string {
	fragment, links := "", 0
	var look func(n *html.Node)
	look = func(n *html.Node) {
		if n.Type == html.ElementNode && n.Data == "a" {
			links++
			fragment, _ = strings.CutPrefix(attr(n, "href"), "#")
		}
		for c := n.FirstChild; c != nil && links < 2; c = c.NextSibling {
			look(c)
		}
	}
	look(n)
	if links != 1 || fragment == "" || strings.ContainsAny(fragment, "/?") {
		return ""
	}
	for _, e := range p.events {
		if e.control != "" && (e.id == fragment || e.id == "" && e.control == fragment) {
			return e.control
		}
	}
	return ""
}

// The attributes by which a drawn page tells of its texts: why a text cannot be seen, and where it stands.
const (
	unseenAttribute = "data-oddtick-unseen"
	boxAttribute    = "data-oddtick-box"
)

// holderOf is the element that holds a run's text itself.
func holderOf(n *html.Node) *html.Node {
	if n == nil || n.Type == html.ElementNode && hasAttr(n, boxAttribute) {
		return n
	}
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == html.ElementNode {
			if found := holderOf(c); found != nil {
				return found
			}
		}
	}
	return nil
}

// boxOf reads left, top, width and height; nil where they are not told.
func boxOf(text string) []int {
	parts := strings.Fields(text)
	if len(parts) != 4 {
		return nil
	}
	out := make([]int, 4)
	for i, p := range parts {
		n, err := strconv.Atoi(p)
		if err != nil {
			return nil
		}
		out[i] = n
	}
	return out
}

// controlIn names the one control an element holds. Radio buttons of one name count as one.
func (p *placer) controlIn(n *html.Node) string {
	known, ok := p.holds[n]
	if ok {
		return known
	}
	held := ""
	if isControl(n) {
		held = nameOf(n)
	}
	leaf := true
	for c := n.FirstChild; c != nil && held != several && !hasAttr(n, fieldAttribute); c = c.NextSibling {
		if c.Type != html.ElementNode {
			continue
		}
		leaf = false
		if c.Data == "form" { // what holds a whole form is at none of its fields
			held = several
			break
		}
		switch inner := p.controlIn(c); {
		case inner == "" || inner == held:
		case held == "":
			held = inner
		default:
			held = several
		}
	}
	if !leaf {
		p.holds[n] = held
	}
	return held
}

func isControl(n *html.Node) bool {
	if hasAttr(n, fieldAttribute) {
		return true
	}
	switch n.Data {
	case "select", "textarea":
		return true
	case "input":
		switch strings.ToLower(attr(n, "type")) {
		case "hidden", "submit", "button", "reset", "image":
			return false
		}
		return true
	}
	return false
}

// beside is for pages whose controls follow each other without elements of their own: a text right behind a control, or between
// its label and it, stands at that control.
func (p *placer) beside(r run) string {
	if r.event == 0 || !alarming(r.node) {
		return ""
	}
	before := p.events[r.event-1]
	if before.form == nil || before.form != formAround(r.node) {
		return ""
	}
	if before.control != "" {
		return before.control
	}
	if r.event < len(p.events) && before.label != "" && p.events[r.event].id == before.label {
		return p.events[r.event].control
	}
	return ""
}

var hiddenStyle = regexp.MustCompile(`(?i)display\s*:\s*none|visibility\s*:\s*hidden`)

func concealed(n *html.Node) bool {
	for _, a := range n.Attr {
		if a.Key == "hidden" || a.Key == "style" && hiddenStyle.MatchString(a.Val) {
			return true
		}
	}
	return false
}

// alarmWords mark what is wrong. calmWords mark what went well, also where the element is otherwise announced like an error.
var (
	alarmWords = wordsOf("err error errors errormessage errormessages errorlist invalid danger alert alerts warning fail failed failure problem problems")
	calmWords  = wordsOf("success successful info ok done confirm confirmed confirmation thanks")
)

// words are looked for in names such as a class's, whose words are joined by hyphens or underscores.
type words map[string]bool

func wordsOf(list string) words {
	out := words{}
	for w := range strings.FieldsSeq(list) {
		out[w] = true
	}
	return out
}

func (w words) in(name string) bool {
	for word := range strings.FieldsFuncSeq(name, func(r rune) bool { return r == '-' || r == '_' || unicode.IsSpace(r) }) {
		if w[strings.ToLower(word)] {
			return true
		}
	}
	return false
}

// alarming: the element is marked as saying what is wrong.
func alarming(n *html.Node) bool {
	marked := false
	for _, a := range n.Attr {
		switch a.Key {
		case "class":
			if calmWords.in(a.Val) {
				return false
			}
			marked = marked || alarmWords.in(a.Val)
		case "id":
			marked = marked || alarmWords.in(a.Val)
		case "role":
			marked = marked || a.Val == "alert"
		case "aria-live":
			marked = marked || a.Val == "assertive"
		}
	}
	return marked
}
