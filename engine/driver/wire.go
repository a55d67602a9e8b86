package driver

import (
	"context"
	"encoding/json"
	"io"
	"mime"
	"mime/multipart"
	"net/url"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"
)

// AsSent reads from a request what it sent; nil where its body is of no form that is known.
func AsSent(x *observation.Exchange, driver submission.Driver) *submission.Submission {
	out := &submission.Submission{Driver: driver}
	contentType := ""
	for _, h := range x.RequestHeader {
		if strings.EqualFold(h.Name, "Content-Type") {
			contentType = h.Value
		}
	}
	kind, params, _ := mime.ParseMediaType(contentType)
	switch {
	case x.Method == "GET":
		u, err := url.Parse(x.URL)
		if err != nil {
			return nil
		}
		out.Encoding, out.Pairs = "urlencoded", pairsOf(u.RawQuery)
	case kind == "application/x-www-form-urlencoded":
		out.Encoding, out.Pairs = "urlencoded", pairsOf(x.RequestBody)
	case kind == "multipart/form-data":
		out.Encoding = "multipart"
		parts := multipart.NewReader(strings.NewReader(x.RequestBody), params["boundary"])
		for {
			part, err := parts.NextPart()
			if err == io.EOF {
				break
			}
			if err != nil {
				return nil
			}
			content, err := io.ReadAll(part)
			if err != nil {
				return nil
			}
			p := submission.Pair{Name: part.FormName(), Value: string(content)}
			if part.FileName() != "" {
				p.Value = part.FileName()
			}
			out.Pairs = append(out.Pairs, p)
		}
	case strings.HasSuffix(kind, "json"):
		out.Encoding = "json"
		var object map[string]any
		if json.Unmarshal([]byte(x.RequestBody), &object) != nil {
			return nil
		}
		for name, value := range object {
			addMember(out, name, value)
		}
		slices.SortFunc(out.Pairs, func(a, b submission.Pair) int { return strings.Compare(a.Name, b.Name) })
	default:
		return nil
	}
	return out
}

func addMember(out *submission.Submission, name string, value any) {
	switch v := value.(type) {
	case nil:
	case string:
		out.Pairs = append(out.Pairs, submission.Pair{Name: name, Value: v})
	case []any:
		for _, one := range v {
			addMember(out, name, one)
		}
	default:
		if text, err := json.Marshal(v); err == nil {
			out.Pairs = append(out.Pairs, submission.Pair{Name: name, Value: string(text)})
		}
	}
}

// pairsOf reads application/x-www-form-urlencoded in its order.
func pairsOf(text string) []submission.Pair {
	var out []submission.Pair
	for _, part := range strings.Split(text, "&") {
		if part == "" {
			continue
		}
		name, value, _ := strings.Cut(part, "=")
		n, errN := url.QueryUnescape(name)
		v, errV := url.QueryUnescape(value)
		if errN != nil || errV != nil {
			n, v = name, value
		}
		out = append(out, submission.Pair{Name: n, Value: v})
	}
	return out
}

// jsonBody writes a submission as a JSON object in the order of its pairs: numbers as numbers, checkboxes as true and false, several
// choices as a list, a blank number or date as null. What is absent is left out.
func jsonBody(p *spec.Prepared, sent *submission.Submission) string {
	var b strings.Builder
	b.WriteByte('{')
	written := map[string]bool{}
	member := func(name, value string) {
		if written[name] {
			return
		}
		written[name] = true
		times := 1
		if FieldNamed(p, name) != nil {
			switch sent.Forged {
			case submission.AsObjects:
				value = `{"value":` + value + `}`
			case submission.AsBooleans:
				value = "true"
			case submission.MembersTwice:
				times = 2
			}
		}
		for range times {
			if b.Len() > 1 {
				b.WriteByte(',')
			}
			b.WriteString(quoteJSON(name) + ":" + value)
		}
	}
	for i := range sent.Pairs {
		pair := &sent.Pairs[i]
		f := FieldNamed(p, pair.Name)
		values := sent.Values(pair.Name)
		switch {
		case f != nil && sent.AsNull(f, pair):
			member(pair.Name, "null")
		case f == nil && len(values) == 1:
			member(pair.Name, quoteJSON(pair.Value))
		case f != nil && f.Kind == spec.Checkbox:
			member(pair.Name, "true")
		case f != nil && f.Kind != spec.MultipleChoice && len(values) == 1 && sent.Forged != submission.AsLists:
			member(pair.Name, jsonValue(f, pair.Value))
		default:
			list := make([]string, len(values))
			for k, v := range values {
				list[k] = quoteJSON(v)
			}
			member(pair.Name, "["+strings.Join(list, ",")+"]")
		}
	}
	for _, f := range p.Fields {
		if f.Kind == spec.Checkbox && !written[f.Name] {
			member(f.Name, "false")
		}
	}
	b.WriteByte('}')
	return b.String()
}

func jsonValue(f *spec.PreparedField, value string) string {
	if f.Kind == spec.Number && json.Valid([]byte(value)) {
		return value
	}
	return quoteJSON(value)
}

func quoteJSON(text string) string {
	out, _ := json.Marshal(text) // a text can always be written
	return string(out)
}

func (v *OverHTTP) Reload(ctx context.Context) (*Visit, error) {
	return v.Visited(v.Visitor.Reload(ctx))
}

func (v *OverHTTP) Again(context.Context) (*Visit, error) { return nil, nil }

func (v *OverHTTP) Look(ctx context.Context, path string) (*Visit, error) {
	return v.Visited(v.Visitor.Look(ctx, path))
}

func (v *OverHTTP) Cookies(context.Context) (map[string]string, error) {
	return v.Visitor.CookieDigests(), nil
}

func (v *OverHTTP) Picture(context.Context) ([]byte, error) { return nil, nil }

func (v *OverHTTP) Close() {}
