package page

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"oddtick/core/observation"
	"oddtick/core/values"

	"golang.org/x/net/html"
)

// maxFields is how many fields of a form are described.
const maxFields = 2000

// Described is what a page's forms look like, in the order they stand on it.
type Described struct {
	Title    string                   `json:"title,omitempty"`
	Language string                   `json:"language,omitempty"`
	Forms    []observation.FormOnPage `json:"forms"`
}

// Describe reads all forms of a page with their labels and constraints. Nothing of the page is executed. Controls outside every
// form are described as a form without a target, as pages whose scripts submit have them. The error says why the text is no page.
func Describe(body, address string) (*Described, error) {
	if !looksLikeHTML(body) {
		return nil, errors.New("this is not HTML: it holds no element; give the page's address or its HTML")
	}
	root, err := html.Parse(strings.NewReader(body))
	if err != nil { // the parser's only other failure is that of its reader
		return nil, fmt.Errorf("the page %s nests its elements too deeply to be read: %w", address, err)
	}
	base, err := url.Parse(address)
	if err != nil {
		return nil, fmt.Errorf("read the page's address %s: %w", address, err)
	}
	d := newDescriber(root, base)
	out := &Described{Title: observation.Squash(d.title), Language: d.language, Forms: []observation.FormOnPage{}}
	for _, form := range d.forms {
		out.Forms = append(out.Forms, d.form(form))
	}
	if loose := d.fields(nil); len(loose) > 0 {
		out.Forms = append(out.Forms, observation.FormOnPage{
			Title: out.Title, Method: "GET", Action: address, Encoding: "urlencoded", Fields: loose,
			Notes: []string{"These controls stand in no form: only a script can send them."},
		})
	}
	return out, nil
}

var anyTag = regexp.MustCompile(`(?i)<(!doctype|html|head|body|form|input|select|textarea|div|p|table|main|section|label|span|h[1-6]|ul|ol|button|fieldset)[\s>/]`)

func looksLikeHTML(body string) bool { return anyTag.MatchString(body) }

// describer knows the page's elements by id, its labels by what they are for, and its headings.
type describer struct {
	*surveyed
	base   *url.URL
	byID   map[string]*html.Node
	labels map[string][]*html.Node // by id of the control
	roles  []control               // elements that act as controls and are none
	before map[*html.Node]string   // by form: the text of the last heading before it
	// scripted: no control that people fill in has a name, so that it is scripts that send what is entered
	scripted bool
}

func newDescriber(root *html.Node, address *url.URL) *describer {
	d := &describer{surveyed: survey(root), base: address, byID: map[string]*html.Node{}, labels: map[string][]*html.Node{}, before: map[*html.Node]string{}}
	heading := ""
	opened := map[string]bool{} // lists that other controls open
	for n := range root.Descendants() {
		if n.Type == html.ElementNode && attr(n, "role") == "combobox" {
			opened[attr(n, "aria-controls")], opened[attr(n, "aria-owns")] = true, true
		}
	}
	delete(opened, "")
	var walk func(n, form *html.Node)
	walk = func(n, form *html.Node) {
		if n.Type == html.ElementNode {
			if id := attr(n, "id"); id != "" && d.byID[id] == nil {
				d.byID[id] = n
			}
			switch n.Data {
			case "base":
				if target, err := address.Parse(attr(n, "href")); err == nil {
					d.base = target
				}
			case "label":
				if id := attr(n, "for"); id != "" {
					d.labels[id] = append(d.labels[id], n)
				}
			case "h1", "h2", "h3", "h4":
				heading = observation.Squash(textOf(n))
			case "form":
				d.before[n] = heading
				form = n
			}
			if actsAsControl(n) && !opened[attr(n, "id")] && !withinHidden(n) {
				d.roles = append(d.roles, control{node: n, owner: form, disabled: attr(n, "aria-disabled") == "true"})
			}
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c, form)
		}
	}
	walk(root, nil)
	d.scripted = !slices.ContainsFunc(d.controls, func(c control) bool { return isControl(c.node) && attr(c.node, "name") != "" })
	return d
}

var controlRoles = []string{"switch", "combobox", "listbox", "slider", "textbox", "checkbox", "radiogroup", "spinbutton"}

// insideAttribute tells in a drawn page what a control offers once it is opened.
const insideAttribute = "data-oddtick-inside"

// actsAsControl: an element with a control's role that is no control itself and holds none that people see; a button that opens a calendar; a
// group of buttons that stay pressed.
func actsAsControl(n *html.Node) bool {
	switch n.Data {
	case "input", "select", "textarea":
		return false
	}
	role := attr(n, "role")
	switch {
	case hasAttr(n, insideAttribute):
		return true
	case role == "group" || role == "toolbar":
		return len(choicesIn(n)) > 0 && (hasAttr(n, "aria-labelledby") || hasAttr(n, "aria-label"))
	case role == "checkbox" && chosenAmong(n):
		return false
	}
	return slices.Contains(controlRoles, role) && !holdsControl(n)
}

// withinHidden tells whether an element, or what holds it, is not shown for its attribute hidden.
func withinHidden(n *html.Node) bool {
	for ; n != nil; n = n.Parent {
		if n.Type == html.ElementNode && hasAttr(n, "hidden") {
			return true
		}
	}
	return false
}

// choicesIn are what one can choose in an element that is no native list: radio buttons, checkboxes, options, buttons that stay pressed.
func choicesIn(n *html.Node) []*html.Node {
	var out []*html.Node
	for c := range n.Descendants() {
		if c.Type != html.ElementNode || c.Data == "input" {
			continue
		}
		switch role := attr(c, "role"); {
		case role == "radio", role == "checkbox", role == "option", hasAttr(c, "aria-pressed"):
			out = append(out, c)
		}
	}
	return out
}

// chosenAmong: the element is one of several that a group offers.
func chosenAmong(n *html.Node) bool {
	for up := n.Parent; up != nil; up = up.Parent {
		if role := attr(up, "role"); role == "group" || role == "toolbar" {
			return hasAttr(up, "aria-labelledby") || hasAttr(up, "aria-label")
		}
	}
	return false
}

func holdsControl(n *html.Node) bool {
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == html.ElementNode && attr(c, "aria-hidden") != "true" && (isControl(c) || holdsControl(c)) {
			return true
		}
	}
	return false
}

func (d *describer) form(form *html.Node) observation.FormOnPage {
	f := observation.FormOnPage{ID: attr(form, "id"), Name: attr(form, "name"), Method: strings.ToUpper(attr(form, "method")), Encoding: "urlencoded", Unchecked: hasAttr(form, "novalidate")}
	if f.Method != "POST" && f.Method != "DIALOG" {
		f.Method = "GET"
	}
	switch strings.ToLower(attr(form, "enctype")) {
	case "multipart/form-data":
		f.Encoding = "multipart"
	case "text/plain":
		f.Encoding = "text"
		f.Notes = append(f.Notes, "The form is sent as plain text, which few servers read.")
	}
	target, err := d.base.Parse(strings.TrimSpace(attr(form, "action")))
	if err != nil {
		f.Notes = append(f.Notes, fmt.Sprintf("The form's target %q is not an address.", attr(form, "action")))
		target = d.base
	}
	if attr(form, "action") == "" && !d.scripted {
		f.Notes = append(f.Notes, "The form names no target: it is sent to the page's own address.")
	}
	target.Fragment = ""
	f.Action = target.String()
	f.Title = d.formTitle(form)
	f.Fields = d.fields(form)
	for _, c := range d.controls {
		if c.owner != form || c.disabled && attr(c.node, "type") != "submit" || hasAttr(c.node, insideAttribute) {
			continue
		}
		n := c.node
		kind := strings.ToLower(attr(n, "type"))
		if n.Data == "button" && (kind == "" || kind == "submit") || n.Data == "input" && (kind == "submit" || kind == "image") {
			text := observation.Squash(textOf(n))
			for _, other := range []string{attr(n, "value"), attr(n, "aria-label"), attr(n, "alt"), "Submit"} {
				if text == "" {
					text = other
				}
			}
			f.Buttons = append(f.Buttons, text)
			if to := attr(n, "formaction"); to != "" {
				f.Notes = append(f.Notes, fmt.Sprintf("The button %q submits to %s.", text, to))
			}
			f.Unchecked = f.Unchecked || hasAttr(n, "formnovalidate")
		}
	}
	if len(f.Buttons) == 0 {
		f.Notes = append(f.Notes, "The form has no button that submits it.")
	}
	return f
}

func (d *describer) formTitle(form *html.Node) string {
	if text := attr(form, "aria-label"); text != "" {
		return observation.Squash(text)
	}
	if text := d.textOfIDs(attr(form, "aria-labelledby")); text != "" {
		return text
	}
	if h := firstOf(form, "h1", "h2", "h3", "h4"); h != nil {
		return observation.Squash(textOf(h))
	}
	return cmp.Or(d.before[form], observation.Squash(d.title))
}

func firstOf(n *html.Node, tags ...string) *html.Node {
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type != html.ElementNode {
			continue
		}
		if slices.Contains(tags, c.Data) {
			return c
		}
		if found := firstOf(c, tags...); found != nil {
			return found
		}
	}
	return nil
}

func (d *describer) textOfIDs(ids string) string {
	var parts []string
	for _, id := range strings.Fields(ids) {
		if n := d.byID[id]; n != nil {
			if text := observation.Squash(labelText(n)); text != "" {
				parts = append(parts, text)
			}
		}
	}
	return strings.Join(parts, " ")
}

// fields describes a form's fields in page order; form nil are those of no form.
func (d *describer) fields(form *html.Node) []observation.FieldOnPage {
	out := []observation.FieldOnPage{}
	at := map[string]int{} // groups of radio buttons and checkboxes, by type and name
	count := map[string]int{}
	list := d.inOrder(form)
	for _, c := range list {
		if attr(c.node, "type") == "checkbox" {
			count[attr(c.node, "name")]++
		}
	}
	for _, c := range list {
		n := c.node
		kind := typeOf(n)
		name := attr(n, "name")
		if kind == "radio" || kind == "checkbox" && name != "" && count[name] > 1 {
			key := kind + " " + name
			i, known := at[key]
			if !known {
				i = len(out)
				at[key] = i
				out = append(out, d.group(c, kind))
			}
			d.addToGroup(&out[i], c)
			continue
		}
		f := d.field(c, kind)
		if last := len(out) - 1; last >= 0 && out[last].Type == "hidden" && f.Name != "" && out[last].Name == f.Name {
			// the value of an unticked box or of no choice, which a hidden control of the same name sends
			f.Notes = append(f.Notes, fmt.Sprintf("With nothing chosen a hidden control sends %q.", out[last].Value))
			out = out[:last]
		}
		out = append(out, f)
		if len(out) >= maxFields {
			break
		}
	}
	return out
}

// inOrder are a form's controls and what acts as one, in page order, without buttons.
func (d *describer) inOrder(form *html.Node) []control {
	var out []control
	place := map[*html.Node]int{}
	if len(d.roles) > 0 {
		n := 0
		var walk func(x *html.Node)
		walk = func(x *html.Node) {
			place[x] = n
			n++
			for c := x.FirstChild; c != nil; c = c.NextSibling {
				walk(c)
			}
		}
		if d.body != nil {
			walk(d.body)
		}
	}
	for _, c := range slices.Concat(d.controls, d.roles) {
		if c.owner != form || attr(c.node, "aria-hidden") == "true" && attr(c.node, "name") == "" || c.node.Data == "button" && !slices.ContainsFunc(d.roles, func(r control) bool { return r.node == c.node }) {
			continue
		}
		switch typeOf(c.node) {
		case "submit", "image", "button", "reset":
			continue
		}
		out = append(out, c)
	}
	if len(d.roles) > 0 {
		slices.SortStableFunc(out, func(a, b control) int { return place[a.node] - place[b.node] })
		out = slices.CompactFunc(out, func(a, b control) bool { return a.node == b.node })
	}
	return out
}

var inputTypes = []string{"hidden", "text", "search", "tel", "url", "email", "password", "date", "month", "week", "time", "datetime-local", "number", "range", "color", "checkbox", "radio", "file", "submit", "image", "reset", "button"}

// typeOf is the control's type as HTML has it: an unknown one is text.
func typeOf(n *html.Node) string {
	switch n.Data {
	case "select", "textarea":
		return n.Data
	case "input":
		kind := strings.ToLower(strings.TrimSpace(attr(n, "type")))
		if slices.Contains(inputTypes, kind) {
			return kind
		}
		return "text"
	case "button":
		if attr(n, "role") == "" && !hasAttr(n, insideAttribute) {
			return "button"
		}
	}
	return "role"
}

func (d *describer) group(c control, kind string) observation.FieldOnPage {
	n := c.node
	f := observation.FieldOnPage{Name: attr(n, "name"), Type: kind, Options: []observation.OptionOnPage{}}
	if kind == "checkbox" {
		f.Type, f.Multiple = "checkboxes", true
	}
	for up := n.Parent; up != nil && f.Label == ""; up = up.Parent {
		switch {
		case up.Data == "fieldset":
			if legend := firstOf(up, "legend"); legend != nil {
				f.Label, f.LabelFrom = observation.Squash(labelText(legend)), "legend"
			}
		case attr(up, "role") == "radiogroup", attr(up, "role") == "group":
			if f.Label = d.textOfIDs(attr(up, "aria-labelledby")); f.Label != "" {
				f.LabelFrom = "aria-labelledby"
			} else if f.Label = observation.Squash(attr(up, "aria-label")); f.Label != "" {
				f.LabelFrom = "aria-label"
			}
			f.Marked = f.Marked || attr(up, "aria-required") == "true"
		case up.Data == "form":
			up = &html.Node{}
		}
	}
	if f.Label == "" {
		f.Label, f.LabelFrom = cellBefore(n)
	}
	d.finishLabel(&f, n)
	if f.Name == "" {
		f.Notes = append(f.Notes, noName)
	}
	return f
}

const noName = "It has no name: what is entered here never arrives."

func (d *describer) addToGroup(f *observation.FieldOnPage, c control) {
	n := c.node
	label, _ := d.ownLabel(n)
	if l := around(n, "label"); l != nil {
		label = observation.Squash(labelText(l)) // a label elsewhere for the first button is the group's
	}
	value := attr(n, "value")
	if !hasAttr(n, "value") {
		value = "on"
	}
	label, marked := unmarked(label)
	f.Options = append(f.Options, observation.OptionOnPage{Label: cmp.Or(label, value), Value: value, Selected: hasAttr(n, "checked"), Disabled: c.disabled})
	if hasAttr(n, "checked") && f.Type == "radio" {
		f.Value = value
	}
	f.Required = f.Required || f.Type == "radio" && hasAttr(n, "required")
	f.Marked = f.Marked || marked || attr(n, "aria-required") == "true"
	if f.Type == "checkboxes" && hasAttr(n, "required") {
		f.Notes = append(f.Notes, fmt.Sprintf("The box %q must be ticked for itself.", label))
	}
}

func (d *describer) field(c control, kind string) observation.FieldOnPage {
	n := c.node
	f := observation.FieldOnPage{Name: attr(n, "name"), ID: attr(n, "id"), Type: kind, Disabled: c.disabled}
	f.Label, f.LabelFrom = d.ownLabel(n)
	d.finishLabel(&f, n)
	if set := around(n, "fieldset"); set != nil {
		if legend := firstOf(set, "legend"); legend != nil {
			f.Group = observation.Squash(labelText(legend))
		}
	}
	switch kind {
	case "select":
		d.options(n, &f)
	case "textarea":
		f.Value = textOf(n)
	case "role":
		f.Role = attr(n, "role")
		d.offered(n, &f)
		f.Value = cmp.Or(attr(n, "aria-valuenow"), attr(n, "aria-checked"))
		f.Min, f.Max = attr(n, "aria-valuemin"), attr(n, "aria-valuemax")
		f.Required = false
		if f.Name == "" && d.scripted {
			f.Guessed, f.Name = true, guessedName(f.Label)
		} else {
			f.Notes = append(f.Notes, fmt.Sprintf("It is not a native control but acts as a %s; its value is sent by a script.", f.Role))
		}
		return f
	default:
		f.Value = attr(n, "value")
		f.Checked = hasAttr(n, "checked")
		if kind == "checkbox" && !hasAttr(n, "value") {
			f.Value = "on"
		}
	}
	d.constraints(&f, n)
	switch {
	case f.Name == "" && d.scripted && f.Label != "":
		f.Guessed, f.Name = true, guessedName(f.Label)
	case f.Name == "":
		f.Notes = append(f.Notes, noName)
	}
	if f.Disabled {
		f.Notes = append(f.Notes, "It is disabled and not sent as long as it is.")
	}
	if id := attr(n, "list"); id != "" && d.byID[id] != nil {
		var list observation.Control
		readOptions(d.byID[id], &list)
		f.Offers = list.Offered
	}
	f.Token = kind == "hidden" && isToken(f.Name, f.Value)
	f.Honeypot = isTrap(n, kind)
	return f
}

// offered reads what a control that is not native offers, in itself or once it is opened.
func (d *describer) offered(n *html.Node, f *observation.FieldOnPage) {
	var inside struct {
		Options []struct {
			Label string `json:"label"`
			Value string `json:"value"`
		} `json:"options"`
		Calendar bool `json:"calendar"`
	}
	if text := attr(n, insideAttribute); text != "" && json.Unmarshal([]byte(text), &inside) != nil {
		return
	}
	for _, o := range inside.Options {
		f.Options = append(f.Options, observation.OptionOnPage{Label: o.Label, Value: cmp.Or(o.Value, o.Label)})
	}
	switch {
	case inside.Calendar:
		f.Role = "calendar"
	case f.Role == "" && len(f.Options) > 0:
		f.Role = "combobox"
	}
	if f.Role != "radiogroup" && f.Role != "group" && f.Role != "toolbar" && f.Role != "listbox" {
		return
	}
	f.Multiple = f.Role == "listbox" && attr(n, "aria-multiselectable") == "true"
	for _, c := range choicesIn(n) {
		label := observation.Squash(cmp.Or(attr(c, "aria-label"), textOf(c)))
		f.Multiple = f.Multiple || attr(c, "role") == "checkbox" || hasAttr(c, "aria-pressed")
		f.Options = append(f.Options, observation.OptionOnPage{Label: label, Value: cmp.Or(attr(c, "value"), attr(c, "data-value"), label)})
	}
}

// guessedName is what a script may call a field of a label, "" for none: fullName for Full name.
func guessedName(label string) string {
	var b strings.Builder
	for i, word := range strings.FieldsFunc(label, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		word = strings.ToLower(word)
		if i > 0 {
			first, size := utf8.DecodeRuneInString(word)
			word = string(unicode.ToUpper(first)) + word[size:]
		}
		b.WriteString(word)
		if b.Len() > 30 {
			break
		}
	}
	return b.String()
}

// finishLabel takes the mark of a required field off the label.
func (d *describer) finishLabel(f *observation.FieldOnPage, n *html.Node) {
	var marked bool
	f.Label, marked = unmarked(f.Label)
	f.Marked = f.Marked || marked || attr(n, "aria-required") == "true"
}

var requiredMark = regexp.MustCompile(`(?i)\s*(\*+|✱|\((required|erforderlich|pflichtfeld|obligatoire|obligatorio|gofynnol)\))\s*:?\s*$|^\s*\*+\s*`)

// unmarked is a label without colon and the mark that it is required.
func unmarked(label string) (string, bool) {
	bare := requiredMark.ReplaceAllString(label, "")
	return strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(bare), ":")), bare != label
}

// ownLabel finds a control's label as assistive technology does, a placeholder last (HTML-AAM, accessible names).
func (d *describer) ownLabel(n *html.Node) (text, from string) {
	if text := d.textOfIDs(attr(n, "aria-labelledby")); text != "" {
		return text, "aria-labelledby"
	}
	if text := observation.Squash(attr(n, "aria-label")); text != "" {
		return text, "aria-label"
	}
	if id := attr(n, "id"); id != "" && d.byID[id] == n {
		var parts []string
		for _, l := range d.labels[id] {
			if text := observation.Squash(labelText(l)); text != "" {
				parts = append(parts, text)
			}
		}
		if len(parts) > 0 {
			return strings.Join(parts, " "), "label for"
		}
	}
	if l := around(n, "label"); l != nil && (!hasAttr(l, "for") || attr(l, "for") == attr(n, "id")) {
		if text := observation.Squash(labelText(l)); text != "" {
			return text, "label around"
		}
	}
	if text := observation.Squash(attr(n, "title")); text != "" {
		return text, "title"
	}
	if text := observation.Squash(attr(n, "placeholder")); text != "" {
		return text, "placeholder"
	}
	if isControl(n) {
		return cellBefore(n)
	}
	return "", ""
}

// cellBefore is the text of the table cell or term before the one that holds a control: pages laid out as tables have no labels.
func cellBefore(n *html.Node) (text, from string) {
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Data != "td" && up.Data != "dd" {
			continue
		}
		for before := up.PrevSibling; before != nil; before = before.PrevSibling {
			if before.Type == html.ElementNode {
				if holdsControl(before) {
					return "", ""
				}
				if text := observation.Squash(labelText(before)); text != "" {
					return text, "cell before"
				}
			}
		}
		return "", ""
	}
	return "", ""
}

func around(n *html.Node, tag string) *html.Node {
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Type == html.ElementNode && up.Data == tag {
			return up
		}
	}
	return nil
}

// labelText is a label's text without the controls in it, and without what is concealed or said to be an error or a hint.
func labelText(n *html.Node) string {
	if n.Type == html.TextNode {
		return n.Data
	}
	var b strings.Builder
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == html.ElementNode {
			switch c.Data {
			case "input", "select", "textarea", "button", "script", "style", "template", "svg":
				continue
			}
			if concealed(c) || alarming(c) || hintWords.MatchString(attr(c, "class")) {
				continue
			}
			if !inline[c.Data] {
				b.WriteByte(' ')
			}
		}
		b.WriteString(labelText(c))
	}
	return b.String()
}

var hintWords = regexp.MustCompile(`(?i)(^|[-_\s])(hint|help|helper|helptext|description|tooltip|counter)($|[-_\s])`)

func (d *describer) options(n *html.Node, f *observation.FieldOnPage) {
	f.Multiple = hasAttr(n, "multiple")
	var walk func(n *html.Node, group string, disabled bool)
	walk = func(n *html.Node, group string, disabled bool) {
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			if c.Type != html.ElementNode {
				continue
			}
			if c.Data != "option" {
				walk(c, cmp.Or(observation.Squash(attr(c, "label")), group), disabled || hasAttr(c, "disabled"))
				continue
			}
			label := observation.Squash(cmp.Or(attr(c, "label"), textOf(c)))
			value := attr(c, "value")
			if !hasAttr(c, "value") {
				value = observation.Squash(textOf(c))
			}
			f.Options = append(f.Options, observation.OptionOnPage{Label: label, Value: value, Group: group, Selected: hasAttr(c, "selected"), Disabled: disabled || hasAttr(c, "disabled")})
		}
	}
	walk(n, "", false)
	for _, o := range f.Options {
		if o.Selected {
			f.Value = o.Value
		}
	}
	if f.Value == "" && !f.Multiple && len(f.Options) > 0 && !slices.ContainsFunc(f.Options, func(o observation.OptionOnPage) bool { return o.Selected }) {
		f.Value = f.Options[0].Value
	}
}

var (
	lengthTypes  = []string{"text", "search", "url", "tel", "email", "password", "textarea"}
	patternTypes = []string{"text", "search", "url", "tel", "email", "password"}
	rangeTypes   = []string{"date", "month", "week", "time", "datetime-local", "number", "range"}
	// neverRequired are types to which required does not apply (HTML Standard, 4.10.5.3.4).
	neverRequired = []string{"hidden", "range", "color"}
)

// constraints keeps the constraint attributes that apply to the type; one that does not, or that browsers ignore, is noted.
func (d *describer) constraints(f *observation.FieldOnPage, n *html.Node) {
	f.ReadOnly = hasAttr(n, "readonly") && f.Type != "hidden"
	f.Multiple = f.Multiple || hasAttr(n, "multiple") && (f.Type == "email" || f.Type == "file")
	if hasAttr(n, "required") {
		if slices.Contains(neverRequired, f.Type) {
			ignored(f, "required")
		} else {
			f.Required = true
		}
	}
	f.MinLength = d.count(f, n, "minlength")
	f.MaxLength = d.count(f, n, "maxlength")
	if f.MinLength != nil && f.MaxLength != nil && *f.MinLength > *f.MaxLength {
		f.Notes = append(f.Notes, fmt.Sprintf("Its minlength %d is above its maxlength %d: nothing can be entered.", *f.MinLength, *f.MaxLength))
	}
	if p := attr(n, "pattern"); p != "" {
		var wrong *values.PatternError
		switch _, err := values.Pattern(p, values.DialectV); {
		case !slices.Contains(patternTypes, f.Type):
			ignored(f, "pattern")
		case errors.As(err, &wrong) && !wrong.Uncomputed:
			why, _, _ := strings.Cut(wrong.Problem, ";")
			f.Notes = append(f.Notes, fmt.Sprintf("Browsers ignore its pattern %s: at character %d, %s.", p, wrong.Offset+1, why))
		default:
			f.Pattern = p
		}
	}
	for _, a := range []struct {
		name string
		into *string
	}{{"min", &f.Min}, {"max", &f.Max}, {"step", &f.Step}} {
		if v := strings.TrimSpace(attr(n, a.name)); v != "" {
			if slices.Contains(rangeTypes, f.Type) {
				*a.into = v
			} else {
				ignored(f, a.name)
			}
		}
	}
	if f.Type == "file" {
		f.Accept = attr(n, "accept")
	}
}

func ignored(f *observation.FieldOnPage, attribute string) {
	f.Notes = append(f.Notes, fmt.Sprintf("Browsers ignore %s on a field of type %s.", attribute, f.Type))
}

func (d *describer) count(f *observation.FieldOnPage, n *html.Node, name string) *int {
	text := strings.TrimSpace(attr(n, name))
	if text == "" {
		return nil
	}
	v, err := strconv.Atoi(text)
	if err != nil || v < 0 {
		f.Notes = append(f.Notes, fmt.Sprintf("Its %s %q is not a number, so browsers ignore it.", name, text))
		return nil
	}
	if !slices.Contains(lengthTypes, f.Type) {
		ignored(f, name)
		return nil
	}
	return &v
}

var (
	tokenNames = regexp.MustCompile(`(?i)csrf|xsrf|token|nonce|authenticity|requestverification|__viewstate|__eventvalidation|form_build_id|form_key|_state$`)
	randomText = regexp.MustCompile(`^[A-Za-z0-9+/=_\-.:]{20,}$`)
)

// isToken: a hidden field whose name says so, or whose value is long and of mixed letters and digits.
func isToken(name, value string) bool {
	if tokenNames.MatchString(name) {
		return true
	}
	return randomText.MatchString(value) && strings.ContainsAny(value, "0123456789") && strings.ContainsAny(strings.ToLower(value), "abcdefghijklmnopqrstuvwxyz") && !strings.Contains(value, "://")
}

var (
	offStyle  = regexp.MustCompile(`(?i)display\s*:\s*none|visibility\s*:\s*hidden|(left|top|right|bottom|margin-left|text-indent)\s*:\s*-\d{3,}|opacity\s*:\s*0(\.0+)?\s*(;|$)|clip\s*:|(height|width)\s*:\s*[01](px)?\s*(;|$)`)
	trapNames = regexp.MustCompile(`(?i)honey|trap|(^|[_\-\[])hp([_\-\]]|$)|nospam|no_spam|leave.?blank|must.?be.?(blank|empty)`)
	trapClass = regexp.MustCompile(`(?i)(^|[-_\s])(honey(pot)?|trap|hp|ohnohoney|nospam)($|[-_\s])`)
)

// isTrap: a text field that people do not see, by which a site tells machines from people.
func isTrap(n *html.Node, kind string) bool {
	switch kind {
	case "text", "email", "url", "tel", "textarea", "search", "checkbox":
	default:
		return false
	}
	if trapNames.MatchString(attr(n, "name")) {
		return true
	}
	unreachable := attr(n, "tabindex") == "-1"
	for up := n; up != nil && up.Data != "form" && up.Data != "body"; up = up.Parent {
		if up.Type != html.ElementNode {
			continue
		}
		if trapClass.MatchString(attr(up, "class")) || offStyle.MatchString(attr(up, "style")) {
			return true
		}
		if attr(up, "aria-hidden") == "true" && (unreachable || attr(n, "autocomplete") == "off") {
			return true
		}
	}
	return false
}
