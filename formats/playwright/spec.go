// Package playwright writes cases as a Playwright test file in TypeScript that runs without Odd Tick: it opens the page, sends the same
// parameters, and looks for the promised messages, the reply and, where it is given the database, the rows.
package playwright

import (
	"encoding/json"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strings"
	"text/template"

	"oddtick/core/submission"
	"oddtick/core/testcase"

	_ "embed"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	places "oddtick/core/template"
	"oddtick/core/wording"
)

//go:embed spec.ts.tmpl
var text string

var file = template.Must(template.New("spec").Funcs(template.FuncMap{"js": js}).Parse(text))

// js writes a value as a JavaScript literal that no HTML or line end inside it can break.
func js(v any) (string, error) {
	out, err := json.Marshal(v)
	return strings.NewReplacer("\u2028", `\u2028`, "\u2029", `\u2029`).Replace(string(out)), err
}

type view struct {
	Form, Site string
	Unique     []string
	Tests      []test
}

// test is one case; Skip says why it cannot be made this way.
type test struct {
	ID, Title, Skip string
	Steps           []step
}

type step struct {
	Path     string
	Send     map[string]string
	Pairs    [][]string // name, value, and how the value comes about: as it is, held by the page, or new in every run
	Reason   string
	Messages []string
	Reply    string
	Rows     []row
	Tables   []string // that stay as they are
}

type row struct {
	Table   string         `json:"table"`
	Columns map[string]any `json:"columns"` // texts, json.Number for what is compared as a number, nil for NULL
}

// Write writes the named cases of a result.
func Write(w io.Writer, r *report.Report, ids []string) error {
	v := view{Form: r.Form, Site: strings.TrimSuffix(r.Site, "/"), Unique: r.Unique}
	for _, id := range ids {
		i := slices.IndexFunc(r.Cases, func(c *testcase.Case) bool { return c.ID == id })
		if i < 0 {
			return fmt.Errorf("the result has no case %s", id)
		}
		t := test{ID: id, Title: string(r.Cases[i].Title)}
		if r.NeedsSecret {
			t.Skip = "it needs the secret of an account, which no file holds"
		} else {
			t.Steps, t.Skip = stepsOf(r, r.Cases[i])
		}
		v.Tests = append(v.Tests, t)
	}
	return file.Execute(w, &v)
}

func stepsOf(r *report.Report, c *testcase.Case) (out []step, skip string) {
	result := r.Results[c.ID]
	if result == nil {
		return nil, "it was not run"
	}
	for i := range result.Steps {
		o, e := result.Steps[i].Observation, result.Steps[i].Expectation
		if i >= len(c.Steps) || o == nil || e == nil || o.Sent == nil || o.Before == nil || o.Before.Form == nil || o.Sent.Body != nil || o.Sent.Encoding == "json" {
			return nil, "its step " + fmt.Sprint(i+1) + " is not a form that is filled in and sent"
		}
		s := &c.Steps[i]
		if s.Concurrent || s.Forged != "" || s.WithSecondSession || s.SetupOnly || s.Back || s.BackAndForth || s.Replaced != "" || s.Mistake != nil || s.OnResultPage || slices.ContainsFunc(o.Sent.Pairs, func(p submission.Pair) bool { return p.File != nil }) {
			return nil, "what it does is not to be done this way"
		}
		one, why := stepOf(r, o, e)
		if why != "" {
			return nil, why
		}
		out = append(out, one)
	}
	return out, ""
}

func stepOf(r *report.Report, o *observation.Step, e *oracle.Expectation) (s step, skip string) {
	page, err := url.Parse(o.Before.URL)
	if err != nil {
		return s, "its page has no address"
	}
	action, err := url.Parse(o.Before.Form.Action)
	if err != nil {
		return s, "its form leads nowhere"
	}
	s = step{Path: page.RequestURI(), Reason: string(wording.Reason(e)), Send: map[string]string{"to": action.RequestURI(), "method": o.Before.Form.Method, "encoding": o.Before.Form.Encoding}}
	for _, p := range o.Sent.Pairs {
		how := "as it is"
		switch c := o.Before.Form.Control(p.Name); {
		case c != nil && c.Type == "hidden" && c.Value == p.Value && p.Value != "":
			how = "held"
		case slices.Contains(r.Unique, p.Name):
			how = "new"
		}
		s.Pairs = append(s.Pairs, []string{p.Name, p.Value, how})
	}
	for i := range e.Messages {
		if text := e.Messages[i].Text; text != "" && len(places.Names(text)) == 0 { // what changes each time cannot be looked for as a whole
			s.Messages = append(s.Messages, text)
		}
	}
	s.Reply = places.Literal(e.Reply)
	switch e.Outcome {
	case oracle.Accepted:
		for i := range e.Rows {
			if one := rowOf(&e.Rows[i]); one != nil {
				s.Rows = append(s.Rows, *one)
			}
		}
	case oracle.RejectedByServer, oracle.RejectedByBrowser:
		s.Tables = append(s.Tables, o.Watched...)
	}
	return s, ""
}

// rowOf is a row that must be there once more: the columns whose values are known.
func rowOf(e *oracle.Row) *row {
	if e.Updates {
		return nil
	}
	out := row{e.Table, map[string]any{}}
	for i := range e.Columns {
		c := &e.Columns[i]
		switch c.Source {
		case oracle.HoldsNull:
			out.Columns[c.Name] = nil
		case oracle.HoldsValue:
			switch {
			case c.Kind == spec.Checkbox:
				out.Columns[c.Name] = map[bool]int{true: 1}[c.Value == "true"]
			case c.Kind == spec.Number && json.Valid([]byte(c.Value)):
				out.Columns[c.Name] = json.Number(c.Value)
			case c.Kind != spec.Number && c.Kind != spec.Time && c.Kind != spec.DateTime:
				out.Columns[c.Name] = c.Value
			}
		}
	}
	return &out
}
