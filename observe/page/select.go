package page

import (
	"fmt"
	"strings"

	"github.com/andybalholm/cascadia"
	"golang.org/x/net/html"
)

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
		out = append(out, squash(textOf(n)))
	}
	return out, nil
}
