package observation

import (
	"bytes"
	"encoding/json"
	"html"
	"net/url"
	"slices"
	"strings"
	"unicode/utf8"
)

// minSecret is how long a secret is at least, in bytes, that is masked: shorter ones stand in many a text by chance.
const minSecret = 4

// Mask takes secrets out of a JSON document's strings, as they are and as addresses, forms and HTML write them. Each is replaced by as many
// dots as it has characters.
func Mask(document []byte, secrets []string) []byte {
	masks := masksOf(secrets)
	if masks == nil {
		return document
	}
	var out bytes.Buffer
	for len(document) > 0 {
		start := bytes.IndexByte(document, '"')
		if start < 0 {
			break
		}
		end := start + 1
		for end < len(document) && document[end] != '"' {
			if document[end] == '\\' {
				end++
			}
			end++
		}
		end = min(end+1, len(document))
		out.Write(document[:start])
		out.Write(maskString(document[start:end], masks))
		document = document[end:]
	}
	out.Write(document)
	return out.Bytes()
}

// MaskText is Mask of a text.
func MaskText(text string, secrets []string) string {
	if masks := masksOf(secrets); masks != nil {
		return masks.Replace(text)
	}
	return text
}

// masksOf replaces secrets, nil where there is none to replace.
func masksOf(secrets []string) *strings.Replacer {
	var pairs []string
	for _, secret := range slices.SortedFunc(slices.Values(secrets), func(a, b string) int { return len(b) - len(a) }) {
		if len(secret) < minSecret {
			continue
		}
		dots := strings.Repeat("•", utf8.RuneCountInString(secret))
		for _, form := range []string{secret, url.QueryEscape(secret), url.PathEscape(secret), html.EscapeString(secret)} {
			if !slices.Contains(pairs, form) {
				pairs = append(pairs, form, dots)
			}
		}
	}
	if len(pairs) == 0 {
		return nil
	}
	return strings.NewReplacer(pairs...)
}

// maskString masks a string as JSON writes it, with its quotes.
func maskString(quoted []byte, masks *strings.Replacer) []byte {
	var text string
	if len(quoted) < minSecret+2 || json.Unmarshal(quoted, &text) != nil {
		return quoted
	}
	masked := masks.Replace(text)
	if masked == text {
		return quoted
	}
	out, err := json.Marshal(masked)
	if err != nil {
		return quoted
	}
	return out
}
