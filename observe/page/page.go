package page

import (
	"fmt"
	"net/url"
	"strings"

	"oddtick/core/observation"

	"github.com/PuerkitoBio/goquery"
	"golang.org/x/net/html"
)

// Read reads a page. names are the request names of the form under test: the form of the page that has most of them is it.
// Nothing of the page is executed.
func Read(body, address string, names []string) (*observation.Page, error) {
	doc, err := goquery.NewDocumentFromReader(strings.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("read the page %s: %w", address, err)
	}
	base, err := url.Parse(address)
	if err != nil {
		return nil, fmt.Errorf("read the page's address %s: %w", address, err)
	}
	p := &observation.Page{URL: address, Title: strings.TrimSpace(doc.Find("title").First().Text()), Language: doc.Find("html").AttrOr("lang", "")}
	form := formWith(doc, names)
	if form != nil {
		p.Form = readForm(doc, form, base)
	}
	p.Texts = texts(doc)
	return p, nil
}

// Forms describes the forms of a page by their controls' names, for an error that says which there are.
func Forms(body string) []string {
	doc, err := goquery.NewDocumentFromReader(strings.NewReader(body))
	if err != nil {
		return nil
	}
	var out []string
	doc.Find("form").Each(func(_ int, form *goquery.Selection) {
		var names []string
		for _, c := range controlsOf(doc, form) {
			if name := c.AttrOr("name", ""); name != "" {
				names = append(names, name)
			}
		}
		out = append(out, strings.Join(names, ", "))
	})
	return out
}

func formWith(doc *goquery.Document, names []string) *goquery.Selection {
	wanted := map[string]bool{}
	for _, n := range names {
		wanted[n] = true
	}
	var best *goquery.Selection
	most := 0
	doc.Find("form").Each(func(_ int, form *goquery.Selection) {
		found := map[string]bool{}
		for _, c := range controlsOf(doc, form) {
			if name := c.AttrOr("name", ""); wanted[name] {
				found[name] = true
			}
		}
		if len(found) > most {
			best, most = form, len(found)
		}
	})
	return best
}

const controlSelector = "input, select, textarea, button"

// controlsOf are a form's own controls: those inside it that name no other form, and those elsewhere that name it.
func controlsOf(doc *goquery.Document, form *goquery.Selection) []*goquery.Selection {
	id := form.AttrOr("id", "")
	var out []*goquery.Selection
	doc.Find(controlSelector).Each(func(_ int, c *goquery.Selection) {
		owner, named := c.Attr("form")
		inside := c.ParentsFiltered("form").First()
		if named && owner == id && id != "" || !named && inside.Length() > 0 && inside.Get(0) == form.Get(0) {
			out = append(out, c)
		}
	})
	return out
}

func readForm(doc *goquery.Document, form *goquery.Selection, base *url.URL) *observation.Form {
	f := &observation.Form{Method: strings.ToUpper(form.AttrOr("method", "GET")), Encoding: "urlencoded"}
	if strings.EqualFold(form.AttrOr("enctype", ""), "multipart/form-data") {
		f.Encoding = "multipart"
	}
	if f.Method != "POST" {
		f.Method = "GET"
	}
	target, err := base.Parse(form.AttrOr("action", ""))
	if err != nil {
		target = base
	}
	target.Fragment = ""
	f.Action = target.String()
	submits := 0
	for _, c := range controlsOf(doc, form) {
		control := readControl(c)
		if control.Type == "submit" || control.Type == "image" {
			submits++
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

func readControl(c *goquery.Selection) observation.Control {
	_, disabled := c.Attr("disabled")
	out := observation.Control{Name: c.AttrOr("name", ""), Disabled: disabled || c.ParentsFiltered("fieldset[disabled]").Length() > 0, Invalid: c.AttrOr("aria-invalid", "") == "true"}
	switch goquery.NodeName(c) {
	case "select":
		out.Type = "select"
		c.Find("option").Each(func(i int, o *goquery.Selection) {
			value, ok := o.Attr("value")
			if !ok {
				value = strings.Join(strings.Fields(o.Text()), " ")
			}
			out.Offered = append(out.Offered, value)
			if _, selected := o.Attr("selected"); selected || i == 0 {
				out.Value = value
			}
		})
	case "textarea":
		out.Type = "textarea"
		out.Value = strings.TrimPrefix(c.Text(), "\n")
	case "button":
		out.Type = strings.ToLower(c.AttrOr("type", "submit"))
		out.Value = c.AttrOr("value", "")
	default:
		out.Type = strings.ToLower(c.AttrOr("type", "text"))
		out.Value = c.AttrOr("value", "")
		_, out.Checked = c.Attr("checked")
		if (out.Type == "checkbox" || out.Type == "radio") && out.Value == "" {
			if _, given := c.Attr("value"); !given {
				out.Value = "on"
			}
		}
	}
	return out
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
