// Package formats_test checks that what is written can be read by strict readers.
package formats_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/formats/junit"
	"oddtick/formats/result"
	"oddtick/formats/sheet"

	"github.com/stretchr/testify/require"
)

// element is what the schema in testdata says of an element: its attributes with their types, all required, and its children.
type element struct {
	Attributes map[string]string
	Children   []string
	Most       int
	Text       bool
}

var types = map[string]*regexp.Regexp{
	"token":     regexp.MustCompile(`^\S(.*\S)?$`),
	"any":       regexp.MustCompile(`(?s)^.*$`),
	"count":     regexp.MustCompile(`^[0-9]+$`),
	"seconds":   regexp.MustCompile(`^[0-9]+\.[0-9]{3}$`),
	"date-time": regexp.MustCompile(`^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d$`),
}

// readStrictly reads JUnit XML and refuses every element, attribute, type or count that the schema does not have.
func readStrictly(text []byte) (names []string, err error) {
	raw, err := os.ReadFile("junit/testdata/junit-schema.json")
	if err != nil {
		return nil, err
	}
	var schema map[string]element
	if err := json.Unmarshal(raw, &schema); err != nil {
		return nil, err
	}
	d := xml.NewDecoder(bytes.NewReader(text))
	d.Strict = true
	type open struct {
		name     string
		children int
	}
	var stack []open
	counts := map[string]int{}
	var said map[string]string
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
		switch x := token.(type) {
		case xml.StartElement:
			e, known := schema[x.Name.Local]
			if !known || len(stack) == 0 && x.Name.Local != "testsuites" {
				return nil, fmt.Errorf("the element %s is not known here", x.Name.Local)
			}
			if n := len(stack); n > 0 {
				parent := schema[stack[n-1].name]
				stack[n-1].children++
				if !slices.Contains(parent.Children, x.Name.Local) || parent.Most > 0 && stack[n-1].children > parent.Most {
					return nil, fmt.Errorf("%s may not hold %s", stack[n-1].name, x.Name.Local)
				}
			}
			attributes := map[string]string{}
			for _, a := range x.Attr {
				kind, known := e.Attributes[a.Name.Local]
				if !known || !types[kind].MatchString(a.Value) {
					return nil, fmt.Errorf("%s: the attribute %s=%q is not right", x.Name.Local, a.Name.Local, a.Value)
				}
				attributes[a.Name.Local] = a.Value
			}
			if len(attributes) != len(e.Attributes) {
				return nil, fmt.Errorf("%s lacks attributes: %v", x.Name.Local, attributes)
			}
			counts[x.Name.Local]++
			if x.Name.Local == "testsuite" {
				said = attributes
			}
			if x.Name.Local == "testcase" {
				names = append(names, attributes["name"])
			}
			stack = append(stack, open{name: x.Name.Local})
		case xml.EndElement:
			stack = stack[:len(stack)-1]
		case xml.CharData:
			if n := len(stack); strings.TrimSpace(string(x)) != "" && (n == 0 || !schema[stack[n-1].name].Text) {
				return nil, fmt.Errorf("text where none may be: %q", x)
			}
		}
	}
	for attribute, name := range map[string]string{"tests": "testcase", "failures": "failure", "errors": "error", "skipped": "skipped"} {
		if said[attribute] != strconv.Itoa(counts[name]) {
			return nil, fmt.Errorf("%s=%s, but there are %d", attribute, said[attribute], counts[name])
		}
	}
	return names, nil
}

func sample() *report.Report {
	one := func(id string) *testcase.Case {
		return &testcase.Case{ID: id, Title: prose.Text("Title of " + id), Row: "user", Technique: testcase.Boundaries, Steps: []testcase.Step{{Do: testcase.Submit, Expect: oracle.RejectedByServer}}}
	}
	got := func(id string, v judge.Verdict, headline prose.Text) *report.Result {
		checks := make([]judge.Verdict, 7)
		for i := range checks {
			checks[i] = v
		}
		return &report.Result{Case: id, Verdict: v, Checks: checks, Headline: headline, Took: 1500 * time.Microsecond, Steps: []report.StepResult{{
			Expectation: &oracle.Expectation{Outcome: oracle.RejectedByServer, Failing: []oracle.Failure{{Why: "User is too long."}}},
			Observation: &observation.Step{Sent: &submission.Submission{Pairs: []submission.Pair{{Name: "user", Value: "=1+1"}, {Name: "pass", Value: "hidden"}, {Name: "note", Value: strings.Repeat("x", 5000)}}}},
			Judgement:   &judge.Judgement{Verdict: v, Checks: []judge.Check{{Check: judge.Outcome, Verdict: v, Parts: []judge.Part{{Subject: judge.Subject{Aspect: judge.OutcomeAspect}, Verdict: v, Words: judge.Words{Name: "outcome", Expected: "a\x00<b>\uFFFE", Observed: "]]> & \"q\"\r\n"}}}}}},
		}}}
	}
	r := &report.Report{Form: "join", Title: "Join", Site: "http://127.0.0.1:1/x", Secrets: []string{"pass"}, Labels: map[string]string{"user": "Login <name>"}, Rows: map[string]string{"user": "Login <name>"}, Started: time.Date(2026, 11, 25, 1, 2, 3, 0, time.UTC), Took: time.Second}
	r.Cases = []*testcase.Case{one("join/a/http"), one("join/b/http"), one("join/c/http"), one("join/d/http")}
	r.Results = map[string]*report.Result{"join/a/http": got("join/a/http", judge.AsExpected, "fine"), "join/b/http": got("join/b/http", judge.Odd, "=odd \x07"), "join/c/http": got("join/c/http", judge.NotObserved, "why")}
	return r
}

func TestJUnitIsReadByAStrictReader(t *testing.T) {
	t.Parallel()
	var b bytes.Buffer
	require.NoError(t, junit.Write(&b, sample()))
	names, err := readStrictly(b.Bytes())
	require.NoError(t, err, b.String())
	require.Equal(t, []string{"join/a/http", "join/b/http", "join/c/http", "join/d/http"}, names)
	for broken, text := range map[string]string{
		"an unknown element":   strings.Replace(b.String(), "<skipped", "<ignored", 1),
		"a wrong count":        strings.Replace(b.String(), `failures="1"`, `failures="2"`, 1),
		"an unknown attribute": strings.Replace(b.String(), "classname=", "class=", 1),
		"a wrong type":         strings.Replace(b.String(), `time="1.000"`, `time="1"`, 1),
		"no XML":               b.String()[:60],
	} {
		_, err := readStrictly([]byte(text))
		require.Error(t, err, "the strict reader lets %s pass", broken)
	}
}

func TestJUnitOfWhatIsNoCaseIsReadByAStrictReader(t *testing.T) {
	t.Parallel()
	var b bytes.Buffer
	require.NoError(t, junit.WriteAll(&b, "access", "http://127.0.0.1:1", time.Now(), time.Second, []junit.One{
		{Name: "/members as guest", Class: "access.members", Verdict: judge.Odd, Says: "opens \x00", Details: "expected: is forbidden\n"},
		{Name: "/members as maple", Class: "access.members", Verdict: judge.NotObserved, Says: "cannot be signed in"},
		{Name: "/ as guest", Class: "access.home", Verdict: judge.AsExpected, Says: "opens"},
	}))
	names, err := readStrictly(b.Bytes())
	require.NoError(t, err, b.String())
	require.Equal(t, []string{"/members as guest", "/members as maple", "/ as guest"}, names)
	require.Contains(t, b.String(), `failures="1"`)
	require.Contains(t, b.String(), `skipped="1"`)
}

func TestTheSheetHoldsWhatTestersKnow(t *testing.T) {
	t.Parallel()
	var b bytes.Buffer
	require.NoError(t, sheet.Write(&b, sample()))
	text, marked := strings.CutPrefix(b.String(), "\ufeff")
	require.True(t, marked, "spreadsheet programs take it for UTF-8")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 5)
	require.Equal(t, []string{"case", "title", "technique", "input", "expected", "observed", "verdict", "what is odd", "Outcome", "Response", "Messages", "Values kept", "Stored data", "Secrets", "Session"}, rows[0])
	odd := rows[2]
	require.Equal(t, "odd", odd[6])
	require.Equal(t, "rejected by the server. User is too long.", odd[4])
	require.Contains(t, odd[3], "user==1+1\npass=…\nnote=xxx")
	require.Contains(t, odd[3], "(5000 characters)")
	require.Equal(t, "'=odd \x07", odd[7], "a cell is never a formula")
	require.Equal(t, "not observed", rows[4][6], "what was not run is not counted as passed")
}

func TestJSONRoundTrip(t *testing.T) {
	t.Parallel()
	var b bytes.Buffer
	require.NoError(t, result.Write(&b, sample()))
	back, err := result.Read(&b)
	require.NoError(t, err)
	require.Equal(t, sample().Count(), back.Count())
	require.Equal(t, sample().Results["join/b/http"].Steps[0].Observation.Sent, back.Results["join/b/http"].Steps[0].Observation.Sent)
	var written bytes.Buffer
	require.NoError(t, result.Write(&written, sample()))
	whole := written.String()
	for broken, c := range map[string]struct{ text, says string }{
		"truncated":        {whole[:len(whole)/2], "ends in the middle"},
		"of a later time":  {strings.Replace(whole, `"oddtick_result": 2`, `"oddtick_result": 7`, 1), "version 7"},
		"of no version":    {strings.Replace(whole, `"oddtick_result": 2`, `"x": 1`, 1), "version 0"},
		"something else":   {"{}", "not the result"},
		"no JSON":          {"<html>", "invalid character"},
		"another type":     {strings.Replace(whole, `"site": "http`, `"site": 4, "y": "http`, 1), "member"},
		"a case without":   {strings.Replace(whole, `"id": "join/a/http"`, `"id": ""`, 1), "case 1 has no id"},
		"another's result": {strings.Replace(whole, `"case": "join/b/http"`, `"case": "join/z/http"`, 1), "of another case"},
	} {
		_, err := result.Read(strings.NewReader(c.text))
		require.ErrorContains(t, err, c.says, broken)
	}
	_, err = result.Read(strings.NewReader(strings.Replace(whole, "{", `{"added later": [1, {}],`, 1)))
	require.NoError(t, err, "members that are not known are passed over")
}
