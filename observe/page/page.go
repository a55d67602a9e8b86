package page

import (
	"encoding/json"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"oddtick/core/observation"

	"golang.org/x/net/html"
)

// Read reads a page. names are the request names of the form under test: the form of the page that has most of them is it.
// Nothing of the page is executed.
func Read(body, address string, names []string) (*observation.Page, error) {
	return read(body, address, names, false)
}

// ReadDrawn reads a page as a browser has drawn it: its HTML says of each text why it cannot be seen, and where it stands.
func ReadDrawn(body, address string, names []string) (*observation.Page, error) {
	return read(body, address, names, true)
}

func read(body, address string, names []string, drawn bool) (*observation.Page, error) {
	root, err := html.Parse(strings.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("read the page %s: %w", address, err)
	}
	base, err := url.Parse(address)
	if err != nil {
		return nil, fmt.Errorf("read the page's address %s: %w", address, err)
	}
	s := survey(root)
	p := &observation.Page{URL: address, Title: observation.Squash(s.title), Language: s.language}
	if form := s.formWith(names); form != nil || drawn && s.looseWith(names) {
		p.Form = s.readForm(form, base)
	}
	p.Texts = texts(s.body, s.tied, drawn)
	return p, nil
}

// Scripted tells whether a page holds no form and no control, and has scripts, which make them.
func Scripted(body string) bool {
	root, err := html.Parse(strings.NewReader(body))
	if err != nil {
		return false
	}
	s := survey(root)
	if len(s.forms) > 0 || len(s.controls) > 0 {
		return false
	}
	for n := range root.Descendants() {
		if n.Type == html.ElementNode && n.Data == "script" {
			return true
		}
	}
	return false
}

// FormTo is the form of a page that leads to a path, nil where there is none.
func FormTo(body, address, path string) (*observation.Form, error) {
	root, err := html.Parse(strings.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("read the page %s: %w", address, err)
	}
	base, err := url.Parse(address)
	if err != nil {
		return nil, fmt.Errorf("read the page's address %s: %w", address, err)
	}
	s := survey(root)
	for _, form := range s.forms {
		f := s.readForm(form, base)
		if to, err := url.Parse(f.Action); err == nil && to.Path == path {
			return f, nil
		}
	}
	return nil, nil
}

// Forms describes the forms of a page by their controls' names, for an error that says which there are.
func Forms(body string) []string {
	root, err := html.Parse(strings.NewReader(body))
	if err != nil {
		return nil
	}
	s := survey(root)
	var out []string
	for _, form := range s.forms {
		var names []string
		for _, c := range s.controls {
			if name := attr(c.node, "name"); c.owner == form && name != "" {
				names = append(names, name)
			}
		}
		out = append(out, strings.Join(names, ", "))
	}
	return out
}

// maxFrames is how many frames of a page are named.
const maxFrames = 8

// Frames are the addresses of a page's frames on the same scheme, host and port, in their order, each once.
func Frames(body, address string) []string {
	root, err := html.Parse(strings.NewReader(body))
	base, bad := url.Parse(address)
	if err != nil || bad != nil {
		return nil
	}
	var out []string
	for n := range root.Descendants() {
		if n.Type != html.ElementNode || n.Data != "iframe" && n.Data != "frame" || len(out) == maxFrames {
			continue
		}
		to, err := base.Parse(strings.TrimSpace(attr(n, "src")))
		if err != nil || to.Scheme != base.Scheme || to.Host != base.Host || attr(n, "src") == "" {
			continue
		}
		to.Fragment = ""
		if at := to.String(); at != address && !slices.Contains(out, at) {
			out = append(out, at)
		}
	}
	return out
}

// surveyed is what one walk over a page's tree finds.
type surveyed struct {
	title, language string
	body            *html.Node
	forms           []*html.Node
	controls        []control
	// tied maps the ids that controls and field sets refer to as their description or error to what refers to them.
	tied map[string]*referring
}

// referring are the names of the controls that refer to an element. A field set speaks for all its controls.
type referring struct {
	controls []string
	fieldSet []string
}

func (r *referring) add(to *[]string, name string) {
	if name != "" && !slices.Contains(*to, name) {
		*to = append(*to, name)
	}
}

// control is a control with the form that owns it: the one around it, or the one it names.
type control struct {
	node     *html.Node
	owner    *html.Node
	disabled bool
}

func survey(root *html.Node) *surveyed {
	s := &surveyed{tied: map[string]*referring{}}
	byID := map[string]*html.Node{}
	refer := func(n *html.Node) []*referring {
		var out []*referring
		for _, id := range strings.Fields(attr(n, "aria-describedby") + " " + attr(n, "aria-errormessage")) {
			if s.tied[id] == nil {
				s.tied[id] = &referring{}
			}
			out = append(out, s.tied[id])
		}
		return out
	}
	var walk func(n, form *html.Node, disabled bool)
	walk = func(n, form *html.Node, disabled bool) {
		if n.Type == html.ElementNode {
			switch n.Data {
			case "html":
				s.language = attr(n, "lang")
			case "body":
				s.body = n
			case "title":
				if s.title == "" {
					s.title = textOf(n)
				}
			case "form":
				form = n
				s.forms = append(s.forms, n)
				byID[attr(n, "id")] = n
			case "fieldset":
				disabled = disabled || hasAttr(n, "disabled")
				for _, r := range refer(n) {
					for _, name := range namesIn(n) {
						r.add(&r.fieldSet, name)
					}
				}
			case "input", "select", "textarea", "button":
				s.controls = append(s.controls, control{n, form, disabled || hasAttr(n, "disabled")})
				for _, r := range refer(n) {
					r.add(&r.controls, nameOf(n))
				}
			default:
				if hasAttr(n, fieldAttribute) {
					s.controls = append(s.controls, control{n, form, disabled || attr(n, "aria-disabled") == "true"})
					for _, r := range refer(n) {
						r.add(&r.controls, nameOf(n))
					}
				}
			}
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c, form, disabled)
		}
	}
	walk(root, nil, false)
	for i := range s.controls {
		if id := attr(s.controls[i].node, "form"); id != "" {
			s.controls[i].owner = byID[id]
		}
	}
	return s
}

// namesIn are the names of the controls in an element.
func namesIn(n *html.Node) []string {
	var out []string
	for c := range n.Descendants() {
		if c.Type == html.ElementNode && isControl(c) && nameOf(c) != "" && !slices.Contains(out, nameOf(c)) {
			out = append(out, nameOf(c))
		}
	}
	return out
}

func (s *surveyed) formWith(names []string) *html.Node {
	wanted := map[string]bool{}
	for _, n := range names {
		wanted[n] = true
	}
	var best *html.Node
	most := 0
	for _, form := range s.forms {
		found := map[string]bool{}
		for _, c := range s.controls {
			if name := nameOf(c.node); c.owner == form && wanted[name] {
				found[name] = true
			}
		}
		if len(found) > most {
			best, most = form, len(found)
		}
	}
	return best
}

// looseWith tells whether controls that stand in no form have one of the names: a script may send them.
func (s *surveyed) looseWith(names []string) bool {
	return slices.ContainsFunc(s.controls, func(c control) bool {
		return c.owner == nil && isControl(c.node) && slices.Contains(names, nameOf(c.node))
	})
}

// readForm reads a form; form nil stands for the controls of no form.
func (s *surveyed) readForm(form *html.Node, base *url.URL) *observation.Form {
	f := &observation.Form{Method: "GET", Encoding: "urlencoded"}
	target := base
	if form != nil {
		if strings.EqualFold(attr(form, "method"), "post") {
			f.Method = "POST"
		}
		if strings.EqualFold(attr(form, "enctype"), "multipart/form-data") {
			f.Encoding = "multipart"
		}
		if to, err := base.Parse(attr(form, "action")); err == nil {
			target = to
		}
	}
	to := *target
	to.Fragment = ""
	f.Action = to.String()
	submits := 0
	for _, c := range s.controls {
		if c.owner != form {
			continue
		}
		if hasAttr(c.node, fieldAttribute) {
			f.Controls = append(f.Controls, readFound(c)...)
			continue
		}
		control := readControl(c)
		if control.Type == "submit" || control.Type == "image" {
			submits++
			f.Buttons = append(f.Buttons, buttonOf(c.node, control, base))
			if submits > 1 {
				continue // only the first button is pressed
			}
		}
		if control.Name != "" && control.Type != "button" && control.Type != "reset" {
			f.Controls = append(f.Controls, control)
		}
	}
	return f
}

// buttonOf is a button that submits a form.
func buttonOf(n *html.Node, c observation.Control, base *url.URL) observation.Button {
	b := observation.Button{Label: observation.Squash(textOf(n)), Name: c.Name, Value: c.Value}
	for _, other := range []string{attr(n, "aria-label"), attr(n, "value"), attr(n, "alt")} {
		if b.Label == "" {
			b.Label = observation.Squash(other)
		}
	}
	if to := attr(n, "formaction"); to != "" {
		if target, err := base.Parse(to); err == nil {
			b.Action = target.String()
		}
	}
	return b
}

// The attributes by which a drawn page tells of a control that carries no name and was found by role and label: its field's name in the
// request, and what it holds.
const (
	fieldAttribute  = "data-oddtick-field"
	standsAttribute = "data-oddtick-stands"
)

// nameOf is a control's name in the request.
func nameOf(n *html.Node) string {
	if name := attr(n, fieldAttribute); name != "" {
		return name
	}
	return attr(n, "name")
}

// readFound reads a control that was found by role and label, as the native controls that would hold the same.
func readFound(c control) []observation.Control {
	n := c.node
	out := observation.Control{Name: nameOf(n), Type: "text", Disabled: c.disabled, Invalid: attr(n, "aria-invalid") == "true"}
	var stands struct {
		Type   string   `json:"type"`
		Values []string `json:"values"`
		Chosen []bool   `json:"chosen"`
	}
	if json.Unmarshal([]byte(attr(n, standsAttribute)), &stands) == nil && stands.Type != "" {
		out.Type = stands.Type
	}
	if n.Data == "select" {
		readOptions(n, &out)
		out.Type = "select"
	}
	if len(stands.Values) == 0 {
		return []observation.Control{out}
	}
	var list []observation.Control
	for i, value := range stands.Values {
		one := out
		one.Value, one.Checked = value, i < len(stands.Chosen) && stands.Chosen[i]
		list = append(list, one)
	}
	return list
}

func readControl(c control) observation.Control {
	n := c.node
	out := observation.Control{Name: nameOf(n), Disabled: c.disabled, Invalid: attr(n, "aria-invalid") == "true"}
	switch n.Data {
	case "select":
		out.Type = "select"
		readOptions(n, &out)
	case "textarea":
		out.Type = "textarea"
		out.Value = textOf(n) // the parser has dropped a leading line end
	case "button":
		out.Type = strings.ToLower(attr(n, "type"))
		if out.Type == "" {
			out.Type = "submit"
		}
		out.Value = attr(n, "value")
	default:
		out.Type = strings.ToLower(attr(n, "type"))
		if out.Type == "" {
			out.Type = "text"
		}
		out.Value = attr(n, "value")
		out.Checked = hasAttr(n, "checked")
		if (out.Type == "checkbox" || out.Type == "radio") && !hasAttr(n, "value") {
			out.Value = "on"
		}
	}
	return out
}

func readOptions(n *html.Node, out *observation.Control) {
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type != html.ElementNode {
			continue
		}
		if c.Data != "option" {
			readOptions(c, out)
			continue
		}
		value := attr(c, "value")
		if !hasAttr(c, "value") {
			value = observation.Squash(textOf(c))
		}
		out.Offered = append(out.Offered, value)
		if hasAttr(c, "selected") || len(out.Offered) == 1 {
			out.Value = value
		}
	}
}

func textOf(n *html.Node) string {
	if n.Type == html.TextNode {
		return n.Data
	}
	var b strings.Builder
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		b.WriteString(textOf(c))
	}
	return b.String()
}

func attr(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

func hasAttr(n *html.Node, name string) bool {
	for _, a := range n.Attr {
		if a.Key == name {
			return true
		}
	}
	return false
}
