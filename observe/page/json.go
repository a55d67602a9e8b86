package page

import (
	"encoding/json"
	"slices"
	"strings"

	"oddtick/core/observation"
)

// ReadJSON reads a JSON answer as a page: every text in it is one, at the field whose name leads to it, or which a member beside it
// names, as a name, a JSON Pointer (RFC 6901) or a JSONPath (RFC 9535). ok is false where the text is no JSON.
func ReadJSON(body, address string, names []string) (p *observation.Page, ok bool) {
	var value any
	if json.Unmarshal([]byte(body), &value) != nil {
		return nil, false
	}
	r := &jsonReader{names: names, page: &observation.Page{URL: address}}
	r.walk(value, "", false)
	return r.page, true
}

type jsonReader struct {
	names []string
	page  *observation.Page
}

// maxDepth is how deep an answer is read.
const maxDepth = 60

func (r *jsonReader) walk(value any, field string, alarm bool, path ...string) {
	if len(path) > maxDepth {
		return
	}
	switch v := value.(type) {
	case string:
		if text := observation.Squash(v); text != "" {
			r.page.Texts = append(r.page.Texts, observation.Text{Text: text, Field: field, Linked: field != "", Alarm: alarm})
		}
	case []any:
		for _, one := range v {
			r.walk(one, field, alarm, append(path, "")...)
		}
	case map[string]any:
		naming := ""
		for _, name := range sortedKeys(v) {
			if text, isText := v[name].(string); isText && naming == "" && alarm {
				if f := r.named(text); f != "" && !slices.Contains(r.names, name) {
					naming, field = name, f
				}
			}
		}
		for _, name := range sortedKeys(v) {
			if name == naming {
				continue
			}
			at := field
			if slices.Contains(r.names, name) {
				at = name
			} else if f := r.named(name); f != "" {
				at = f
			}
			r.walk(v[name], at, alarm || alarmWords.in(name) || name == "detail", append(path, name)...)
		}
	}
}

// named is the field that a text names: its request name itself, or as the last step of a pointer or path.
func (r *jsonReader) named(text string) string {
	if slices.Contains(r.names, text) {
		return text
	}
	if !strings.HasPrefix(text, "/") && !strings.HasPrefix(text, "$") && !strings.Contains(text, ".") {
		return ""
	}
	last := text[strings.LastIndexAny(text, "/.[")+1:]
	last = strings.Trim(last, `]'"`)
	if slices.Contains(r.names, last) {
		return last
	}
	return ""
}

func sortedKeys(m map[string]any) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}
