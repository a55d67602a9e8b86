package page

import (
	"net/url"
	"slices"
	"strings"

	"golang.org/x/net/html"
)

// maxLinks is how many links of a page are read.
const maxLinks = 500

// Links are the addresses to which a page's links lead, each once and in their order. What is hidden is left out.
func Links(body, address string) []string {
	root, err := html.Parse(strings.NewReader(body))
	base, wrong := url.Parse(address)
	if err != nil || wrong != nil {
		return nil
	}
	var out []string
	var walk func(n *html.Node)
	walk = func(n *html.Node) {
		if n.Type == html.ElementNode {
			if concealed(n) || len(out) >= maxLinks {
				return
			}
			if n.Data == "a" && hasAttr(n, "href") {
				if to, err := base.Parse(attr(n, "href")); err == nil && !slices.Contains(out, to.String()) {
					out = append(out, to.String())
				}
			}
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c)
		}
	}
	walk(root)
	return out
}

// Menus are the addresses to which the links in a page's menus lead: in nav elements, and in elements with the role navigation. What
// is hidden is left out; ok is false where the page has no menu.
func Menus(body, address string) (addresses []*url.URL, ok bool) {
	root, err := html.Parse(strings.NewReader(body))
	base, wrong := url.Parse(address)
	if err != nil || wrong != nil {
		return nil, false
	}
	var walk func(n *html.Node, in bool)
	walk = func(n *html.Node, in bool) {
		if n.Type == html.ElementNode {
			if concealed(n) {
				return
			}
			if n.Data == "nav" || attr(n, "role") == "navigation" {
				in, ok = true, true
			}
			if in && (n.Data == "a" || n.Data == "area") && hasAttr(n, "href") {
				if to, err := base.Parse(attr(n, "href")); err == nil {
					addresses = append(addresses, to)
				}
			}
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c, in)
		}
	}
	walk(root, false)
	return addresses, ok
}
