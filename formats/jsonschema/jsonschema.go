// Package jsonschema reads what JSON Schema and the request bodies of OpenAPI 3 documents say of a form's fields.
package jsonschema

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/draft"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"

	"github.com/goccy/go-yaml"
)

const (
	// maxFields is how many fields a body may have; maxDepth how deeply its objects may be nested.
	maxFields = 2000
	maxDepth  = 20
)

// Read is what a schema says.
type Read struct {
	Draft *draft.Draft
	// Operations are the requests of an OpenAPI document that have a body, such as POST /bookings; Operation the one that was read.
	Operations []string
	Operation  string
}

// Error is what cannot be read, at a JSON Pointer (RFC 6901).
type Error struct{ Pointer, Problem string }

func (e *Error) Error() string {
	if e.Pointer == "" {
		return e.Problem
	}
	return e.Pointer + ": " + e.Problem
}

// Parse reads a JSON Schema, or one request body of an OpenAPI 3 document; the first where no operation is named. References are
// followed within the document only; nothing is fetched.
func Parse(text []byte, operation string) (*Read, error) {
	root, err := decode(text)
	if err != nil {
		return nil, err
	}
	r := &reader{root: root, draft: &draft.Draft{From: phrases.FromJSONSchema.Text()}}
	out := &Read{Draft: r.draft}
	if _, isAPI := root["openapi"]; !isAPI {
		if root["swagger"] != nil {
			return nil, &Error{"/swagger", "version 2 is not read; convert the document to OpenAPI 3"}
		}
		return out, r.object(root, "", "", false, 0)
	}
	r.draft.From = phrases.FromOpenAPI.Text()
	bodies, err := r.bodies()
	if err != nil {
		return nil, err
	}
	if len(bodies) == 0 {
		return nil, &Error{"/paths", "no request has a body with a schema"}
	}
	for _, b := range bodies {
		out.Operations = append(out.Operations, b.name)
	}
	at := 0
	if operation != "" {
		if at = slices.Index(out.Operations, operation); at < 0 {
			return nil, &Error{"/paths", fmt.Sprintf("there is no request %q with a body", operation)}
		}
	}
	b := bodies[at]
	out.Operation = b.name
	method, path, _ := strings.Cut(b.name, " ")
	r.draft.Say("submit", spec.Submit{Method: method, To: path, Encoding: b.encoding}, part(r.draft.From, b.name))
	return out, r.object(b.schema, b.pointer, "", false, 0)
}

func decode(text []byte) (map[string]any, error) {
	if len(bytes.TrimSpace(text)) == 0 {
		return nil, &Error{"", "the document is empty"}
	}
	asJSON := text
	if !json.Valid(text) {
		converted, err := yaml.YAMLToJSON(text)
		if err != nil {
			var located yaml.Error
			if errors.As(err, &located) && located.GetToken() != nil {
				p := located.GetToken().Position
				return nil, &Error{"", fmt.Sprintf("line %d, column %d: this is neither JSON nor YAML: %s", p.Line, p.Column, located.GetMessage())}
			}
			return nil, &Error{"", "this is neither JSON nor YAML"}
		}
		asJSON = converted
	}
	d := json.NewDecoder(bytes.NewReader(asJSON))
	d.UseNumber()
	var root map[string]any
	if err := d.Decode(&root); err != nil {
		return nil, &Error{"", "a JSON object is expected"}
	}
	return root, nil
}

type reader struct {
	root  map[string]any
	draft *draft.Draft
	open  []string // references that are being followed
}

type body struct {
	name, encoding, pointer string
	schema                  map[string]any
}

var methods = []string{"post", "put", "patch", "delete"}

var encodings = []struct{ media, encoding string }{{"application/json", "json"}, {"application/x-www-form-urlencoded", "urlencoded"}, {"multipart/form-data", "multipart"}}

func (r *reader) bodies() ([]body, error) {
	var out []body
	paths, _ := r.root["paths"].(map[string]any)
	for _, path := range sorted(paths) {
		item, _ := paths[path].(map[string]any)
		for _, method := range methods {
			op, _ := item[method].(map[string]any)
			pointer := "/paths/" + escape(path) + "/" + method + "/requestBody"
			request, _ := op["requestBody"].(map[string]any)
			if request == nil {
				continue
			}
			request, done, err := r.resolve(request, pointer)
			if err != nil {
				return nil, err
			}
			content, _ := request["content"].(map[string]any)
			for _, e := range encodings {
				media, _ := content[e.media].(map[string]any)
				if schema, ok := media["schema"].(map[string]any); ok {
					out = append(out, body{strings.ToUpper(method) + " " + path, e.encoding, pointer + "/content/" + escape(e.media) + "/schema", schema})
					break
				}
			}
			done()
		}
	}
	return out, nil
}

func sorted(m map[string]any) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

func escape(token string) string {
	return strings.NewReplacer("~", "~0", "/", "~1").Replace(token)
}

// resolve follows a schema's reference. done must be called when what it leads to has been read.
func (r *reader) resolve(s map[string]any, pointer string) (to map[string]any, done func(), err error) {
	depth := len(r.open)
	done = func() { r.open = r.open[:depth] }
	for {
		ref, ok := s["$ref"].(string)
		if !ok {
			return s, done, nil
		}
		if slices.Contains(r.open, ref) {
			return nil, done, &Error{pointer, fmt.Sprintf("the reference %s leads back to itself", ref)}
		}
		fragment, local := strings.CutPrefix(ref, "#")
		if !local {
			return nil, done, &Error{pointer, fmt.Sprintf("the reference %s leads out of the document; put what it means into it", ref)}
		}
		r.open = append(r.open, ref)
		var at any = r.root
		for _, token := range strings.Split(strings.TrimPrefix(fragment, "/"), "/") {
			if fragment == "" {
				break
			}
			token = strings.NewReplacer("~1", "/", "~0", "~").Replace(token)
			switch x := at.(type) {
			case map[string]any:
				at = x[token]
			case []any:
				i, err := strconv.Atoi(token)
				if err != nil || i < 0 || i >= len(x) {
					at = nil
				} else {
					at = x[i]
				}
			default:
				at = nil
			}
		}
		next, ok := at.(map[string]any)
		if !ok {
			return nil, done, &Error{pointer, fmt.Sprintf("the reference %s leads nowhere", ref)}
		}
		s, pointer = next, fragment
	}
}

// object reads an object's properties as fields; objects within are named with points.
func (r *reader) object(s map[string]any, pointer, prefix string, optional bool, depth int) error {
	if depth > maxDepth {
		return &Error{pointer, fmt.Sprintf("objects are nested more than %d deep", maxDepth)}
	}
	s, done, err := r.resolve(s, pointer)
	if err != nil {
		return err
	}
	defer done()
	if list, ok := s["allOf"].([]any); ok {
		for i, one := range list {
			if m, ok := one.(map[string]any); ok {
				if err := r.object(m, fmt.Sprintf("%s/allOf/%d", pointer, i), prefix, optional, depth+1); err != nil {
					return err
				}
			}
		}
	}
	properties, _ := s["properties"].(map[string]any)
	if properties == nil && s["allOf"] == nil && depth == 0 {
		return &Error{pointer, "an object with properties is expected"}
	}
	required := map[string]bool{}
	if list, ok := s["required"].([]any); ok {
		for _, n := range list {
			if name, ok := n.(string); ok {
				required[name] = true
			}
		}
	}
	for _, name := range sorted(properties) {
		p, ok := properties[name].(map[string]any)
		if !ok {
			continue
		}
		if err := r.property(p, pointer+"/properties/"+escape(name), prefix+name, required[name] && !optional, depth); err != nil {
			return err
		}
	}
	return nil
}

func (r *reader) property(p map[string]any, pointer, name string, required bool, depth int) error {
	if len(r.draft.Fields) >= maxFields {
		return &Error{pointer, fmt.Sprintf("there are more than %d fields", maxFields)}
	}
	p, done, err := r.resolve(p, pointer)
	if err != nil {
		return err
	}
	defer done()
	kind := typeOf(p)
	if kind == "object" || p["properties"] != nil || p["allOf"] != nil && kind == "" {
		return r.object(p, pointer, name+".", !required, depth+1)
	}
	if p["readOnly"] == true {
		return nil
	}
	from := part(r.draft.From, strings.TrimPrefix(pointer, "/"))
	f := draft.Field{Name: name}
	if title, ok := p["title"].(string); ok && title != "" {
		f.Say("label", title, from)
	}
	if text, ok := p["description"].(string); ok && text != "" {
		f.Notes = append(f.Notes, prose.Text(text))
	}
	if kind == "array" {
		items, _ := p["items"].(map[string]any)
		items, doneItems, err := r.resolve(items, pointer+"/items")
		if err != nil {
			return err
		}
		defer doneItems()
		f.Say("kind", string(spec.MultipleChoice), from)
		if options := optionsOf(items); len(options) > 0 {
			f.Say("options", options, from)
		} else {
			f.Notes = append(f.Notes, phrases.ListOfAnything.With("name", name))
			f.Statements = f.Statements[:len(f.Statements)-1]
		}
	} else {
		r.scalar(&f, p, kind, from)
	}
	if required {
		if kind == "boolean" {
			f.Notes = append(f.Notes, phrases.TrueOrFalse.With("name", name))
		} else {
			f.Rule(spec.Rule{Required: &spec.Required{}}, 1, part(from, "required"))
		}
	}
	r.draft.Fields = append(r.draft.Fields, f)
	return nil
}

// typeOf is a schema's type; of several the first that is not null.
func typeOf(p map[string]any) string {
	switch t := p["type"].(type) {
	case string:
		return t
	case []any:
		for _, one := range t {
			if name, ok := one.(string); ok && name != "null" {
				return name
			}
		}
	}
	return ""
}

func optionsOf(p map[string]any) []map[string]any {
	var out []map[string]any
	if list, ok := p["enum"].([]any); ok {
		for _, v := range list {
			if v != nil && v != "" {
				out = append(out, map[string]any{"value": fmt.Sprint(v)})
			}
		}
	}
	if list, ok := p["oneOf"].([]any); ok { // constants with titles
		for _, v := range list {
			m, _ := v.(map[string]any)
			if m["const"] == nil {
				return nil
			}
			one := map[string]any{"value": fmt.Sprint(m["const"])}
			if title, ok := m["title"].(string); ok {
				one["label"] = title
			}
			out = append(out, one)
		}
	}
	return out
}

var formats = map[string]spec.Kind{"email": spec.Email, "idn-email": spec.Email, "uri": spec.URL, "url": spec.URL, "date": spec.Date, "time": spec.Time, "date-time": spec.DateTime, "password": spec.Password, "binary": spec.Upload}

// part names a part of a source.
func part(source prose.Text, name string) prose.Text {
	return phrases.PartOf.With("source", source, "part", name)
}

func (r *reader) scalar(f *draft.Field, p map[string]any, kind string, from prose.Text) {
	if v := p["default"]; v != nil {
		f.Say("initial", fmt.Sprint(v), part(from, "default"))
	}
	if options := optionsOf(p); len(options) > 0 {
		f.Say("kind", string(spec.SingleChoice), part(from, "enum"))
		f.Say("options", options, part(from, "enum"))
		return
	}
	switch kind {
	case "boolean":
		f.Say("kind", string(spec.Checkbox), from)
		f.Say("value", "true", from)
	case "integer", "number":
		f.Say("kind", string(spec.Number), from)
		r.numbers(f, p, kind == "integer", from)
	default:
		format, _ := p["format"].(string)
		if k, known := formats[format]; known {
			f.Say("kind", string(k), part(from, "format "+format))
			switch k {
			case spec.Email:
				f.Rule(spec.Rule{Email: &spec.EmailRule{}}, 0.8, part(from, "format "+format))
			case spec.URL:
				f.Rule(spec.Rule{URL: &spec.URLRule{}}, 0.8, part(from, "format "+format))
			}
		}
		lo, hasLo := whole(p["minLength"])
		hi, hasHi := whole(p["maxLength"])
		if hasLo && lo > 0 || hasHi {
			l := &spec.Length{Min: lo}
			if hasHi {
				l.Max = &hi
			}
			f.Rule(spec.Rule{Length: l}, 1, from)
		}
		if pattern, ok := p["pattern"].(string); ok && pattern != "" {
			f.Rule(spec.Rule{Pattern: &spec.Pattern{Is: wholeValue(pattern), Dialect: "u"}}, 1, part(from, "pattern"))
		}
	}
}

// wholeValue turns a pattern that may match anywhere into one for the whole value.
func wholeValue(pattern string) string {
	if strings.ContainsAny(strings.TrimSuffix(strings.TrimPrefix(pattern, "^"), "$"), "^$|") {
		return "[^]*(?:" + pattern + ")[^]*"
	}
	begins, ends := "[^]*", "[^]*"
	if strings.HasPrefix(pattern, "^") {
		pattern, begins = pattern[1:], ""
	}
	if strings.HasSuffix(pattern, "$") && !strings.HasSuffix(pattern, `\$`) {
		pattern, ends = pattern[:len(pattern)-1], ""
	}
	return begins + pattern + ends
}

func whole(v any) (int, bool) {
	n, ok := v.(json.Number)
	if !ok {
		return 0, false
	}
	f, err := n.Float64()
	if err != nil || f < 0 || f > math.MaxInt32 || f != math.Trunc(f) {
		return 0, false
	}
	return int(f), true
}

func (r *reader) numbers(f *draft.Field, p map[string]any, integer bool, from prose.Text) {
	text := func(key string) spec.Scalar {
		if n, ok := p[key].(json.Number); ok {
			return spec.Scalar(n.String())
		}
		return ""
	}
	lo, hi := text("minimum"), text("maximum")
	exLo, exHi := text("exclusiveMinimum"), text("exclusiveMaximum")
	if lo != "" || hi != "" {
		exclusive := p["exclusiveMinimum"] == true || p["exclusiveMaximum"] == true // as OpenAPI 3.0 has it
		f.Rule(spec.Rule{Range: &spec.RangeRule{Min: lo, Max: hi, Exclusive: exclusive}}, 1, from)
	}
	if exLo != "" || exHi != "" {
		f.Rule(spec.Rule{Range: &spec.RangeRule{Base: spec.Base{ID: "exclusive_range"}, Min: exLo, Max: exHi, Exclusive: true}}, 1, from)
	}
	step := text("multipleOf")
	if step == "" && integer {
		step = "1"
	}
	if step != "" {
		f.Rule(spec.Rule{Step: &spec.Step{By: step}}, 1, from)
	}
}
