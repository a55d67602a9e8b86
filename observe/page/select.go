package page

import (
	"fmt"
	"strings"

	"oddtick/core/observation"

	"github.com/andybalholm/cascadia"
	"golang.org/x/net/html"
)

// Meta is the content of a page's meta element of a name, "" where there is none.
func Meta(body, name string) string {
	root, err := html.Parse(strings.NewReader(body))
	if err != nil {
		return ""
	}
	for _, n := range cascadia.QueryAll(root, metas) {
		if attribute(n, "name") == name {
			return attribute(n, "content")
		}
	}
	return ""
}

var metas = cascadia.MustCompile("meta[name][content]")

func attribute(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

// TextsAt returns the text of every element that a CSS selector finds; without a selector, that of the whole body.
func TextsAt(body, selector string) ([]string, error) {
	if selector == "" {
		selector = "body"
	}
	match, err := cascadia.ParseGroup(selector)
	if err != nil {
		return nil, fmt.Errorf("the selector %q cannot be read: %w", selector, err)
	}
	root, err := html.Parse(strings.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("read the page: %w", err)
	}
	var out []string
	for _, n := range cascadia.QueryAll(root, match) {
		out = append(out, observation.Squash(textOf(n)))
	}
	return out, nil
}
