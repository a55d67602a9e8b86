package spec

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/theory/jsonpath"
)

// PreparedAnswer is what a JSON answer holds, compiled.
type PreparedAnswer struct {
	// Schema is nil where none is promised.
	Schema *jsonschema.Schema
	Has    []Query
	Lacks  []Query
	Equal  []Member
}

// Query is a JSONPath query with its text as it is written.
type Query struct {
	*jsonpath.Path
	Text string
}

// Member is a member of an answer with the column whose value it holds.
type Member struct {
	Query
	Table, Column string
}

// noLoader keeps a schema from reading another one.
type noLoader struct{}

// Load implements jsonschema.URLLoader.
func (noLoader) Load(url string) (any, error) {
	return nil, fmt.Errorf("%s is not read; write the whole schema into the document", url)
}

func (b *builder) answer(path string, a *Answer) *PreparedAnswer {
	if a == nil {
		return nil
	}
	out := &PreparedAnswer{}
	if a.Schema != nil {
		c := jsonschema.NewCompiler()
		c.UseLoader(noLoader{})
		err := c.AddResource("answer", a.Schema)
		if err == nil {
			out.Schema, err = c.Compile("answer")
		}
		if err != nil {
			b.fail(path+".schema", "write a JSON Schema (draft 2020-12)", "the schema cannot be read: %s", schemaFault(err))
		}
	}
	query := func(at, text string) Query {
		p, err := jsonpath.Parse(text)
		if err != nil {
			b.fail(at, "write a JSONPath query (RFC 9535) such as $.id or $..password", "%s", err)
		}
		return Query{p, text}
	}
	for i, text := range a.Has {
		out.Has = append(out.Has, query(fmt.Sprintf("%s.has[%d]", path, i), text))
	}
	for i, text := range a.Lacks {
		out.Lacks = append(out.Lacks, query(fmt.Sprintf("%s.lacks[%d]", path, i), text))
	}
	for _, text := range slices.Sorted(maps.Keys(a.Equal)) {
		table, column, ok := strings.Cut(a.Equal[text], ".")
		if !ok {
			b.fail(path+".equal."+text, "write table.column", "%q names no column", a.Equal[text])
		}
		out.Equal = append(out.Equal, Member{query(path+".equal."+text, text), table, column})
	}
	return out
}

// schemaFault words the first thing that is wrong with a schema.
func schemaFault(err error) string {
	var wrong *jsonschema.SchemaValidationError
	if errors.As(err, &wrong) {
		err = wrong.Err
	}
	_, text, _ := strings.Cut(err.Error(), "\n- ")
	if text == "" {
		return err.Error()
	}
	text, _, _ = strings.Cut(text, "\n")
	return text
}

// Selected is the text or number that a JSONPath query (RFC 9535) selects from a JSON text.
func Selected(query, text string) (string, error) {
	p, err := jsonpath.Parse(query)
	if err != nil {
		return "", fmt.Errorf("the query %s cannot be read: %w", query, err)
	}
	var body any
	if err := json.Unmarshal([]byte(text), &body); err != nil {
		return "", errors.New("it is not JSON")
	}
	found := p.Select(body)
	if len(found) != 1 {
		return "", fmt.Errorf("%s selects %d members, not one", query, len(found))
	}
	switch v := found[0].(type) {
	case string:
		return v, nil
	case float64, json.Number:
		return fmt.Sprint(v), nil
	}
	return "", fmt.Errorf("%s is neither a text nor a number", query)
}
