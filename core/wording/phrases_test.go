package wording_test

import (
	"encoding/json"
	"flag"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording"

	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write the phrase book anew")

func shedForm(t testing.TB) *spec.Prepared {
	form, err := spec.ReadForm("shed.yaml", []byte(`form: shed
page: /shed
fields:
  - {id: name, name: name, label: Name of the shed, rules: [{required: {message: Name it.}}, {length: {max: 9, message: Too long.}}, {pattern: {is: '[a-z]+', message: Small letters.}}]}
  - {id: born, name: born, label: Built on, kind: date}
  - {id: password, name: password, label: Password, kind: password}
accepted: {status: 303, to: /sheds}
stored: [{insert: sheds, columns: {name: {from: name}}}]
`))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	return p
}

// olderCauses are causes of every kind.
func olderCauses(t testing.TB) (out []report.Cause) {
	text, err := os.ReadFile("../report/testdata/older_causes.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(text, &out))
	return out
}

func TestEveryCodeHasWords(t *testing.T) {
	t.Parallel()
	require.Empty(t, wording.Lacking())
}

// TestThePhraseBook: testdata/phrases.txt holds an example of every sentence. After a change it is written anew by
// go test ./core/wording -update, and read.
func TestThePhraseBook(t *testing.T) {
	t.Parallel()
	form := shedForm(t)
	var b strings.Builder
	b.WriteString("Checks\n\n")
	for _, c := range judge.Checks {
		fmt.Fprintf(&b, "%-28s %s\n", c, wording.Check(c))
	}
	b.WriteString("\nCauses: what they are about, their difference, and the headline of a case that shows them\n")
	check := judge.CheckName("")
	for _, c := range olderCauses(t) {
		if c.Check != check {
			check = c.Check
			fmt.Fprintf(&b, "\n%s\n\n", wording.Check(check))
		}
		about := wording.Cause(map[string]string{"born": "Built on", "name": "Name of the shed", "password": "Password"}, &c)
		fmt.Fprintf(&b, "%s: %s\n    %s\n", about.Part, about.Difference, wording.Say(wording.Odd(form, oddPart(&c))))
	}
	b.WriteString("\nWhy a submission fails\n\n")
	broken := wording.BrokenRules()
	for _, kind := range slices.Sorted(maps.Keys(broken)) {
		fmt.Fprintf(&b, "%-28s %s\n", kind, broken[kind])
	}
	b.WriteString("\nSteps\n\n")
	why := judge.Value{Is: judge.Because, Text: "the site cannot be reached"}
	for _, s := range []judge.Judgement{
		{Verdict: judge.AsExpected, Ended: oracle.Accepted},
		{Verdict: judge.AsExpected, Ended: oracle.RejectedByServer},
		{Verdict: judge.AsExpected, Ended: oracle.RejectedByBrowser},
		{Verdict: judge.AsExpected, Ended: oracle.NotAnswered},
		{Verdict: judge.AsExpected, Reloaded: true},
		{Verdict: judge.NotObserved, Ended: oracle.Silent},
		{Verdict: judge.NotObserved, Why: why},
		{Verdict: judge.DoesNotApply, Why: why},
		{Verdict: judge.AsExpected, ByHand: true},
		{Verdict: judge.NotObserved, ByHand: true},
	} {
		wording.Step(form, nil, &s)
		fmt.Fprintf(&b, "%s\n", s.Headline)
	}
	b.WriteString("\nValues: what was expected or observed, and reasons\n\n")
	for _, name := range judge.Term("").Values() {
		for _, v := range examples(judge.Term(name)) {
			fmt.Fprintf(&b, "%-28s %s\n", name, wording.ValueOf(form, &judge.Part{Subject: judge.Subject{Aspect: judge.MessageText, Field: "born", Place: string(spec.AtField)}}, &v))
		}
	}
	require.NotRegexp(t, `\{\w+\}`, b.String(), "a place that is not filled in")
	if *update {
		require.NoError(t, os.WriteFile("testdata/phrases.txt", []byte(b.String()), 0o600))
	}
	want, err := os.ReadFile("testdata/phrases.txt")
	require.NoError(t, err)
	require.Equal(t, string(want), b.String())
}

// examples are values of a term: with little in them, and with all that there can be.
func examples(term judge.Term) []judge.Value {
	plain := judge.Value{Is: term, Text: "fern row", Of: "born", N: 3, Was: "Fern Row", Names: []string{"bcrypt", "argon2id"}, Rows: []judge.ChangedRow{{Table: "sheds", Key: "7", Kind: observation.Inserted}}}
	if term == judge.FlagSet || term == judge.FlagNotSet {
		plain.Of = string(judge.HTTPOnly)
	}
	if wording.TellsMore(&plain) {
		return []judge.Value{{Is: term, Text: map[judge.Term]string{judge.Moment: "2027-03-01 10:00:00"}[term]}, plain}
	}
	return []judge.Value{plain}
}

func oddPart(c *report.Cause) *judge.OddPart {
	o := &judge.OddPart{Check: c.Check, Ended: oracle.RejectedByServer, Part: judge.Part{
		Subject: c.Subject, Difference: c.Difference, Expected: judge.Value{Is: judge.AsText, Text: "fern row"}, Observed: judge.Value{Is: judge.AsText, Text: "fern"},
	}}
	switch {
	case c.Check == judge.Messages && c.Detail != "":
		o.Part.Rule = c.Detail
	case c.Check == judge.StoredData:
		o.Ended = oracle.Accepted
	case c.Check == judge.Outcome && c.Expected != "":
		o.Ended, o.Should = oracle.Outcome(c.Observed), oracle.Outcome(c.Expected)
	case c.Difference == judge.StoredOtherwise:
		o.Ended, o.Part.Observed = oracle.Accepted, judge.Value{Is: judge.Term(c.Observed), Of: c.Of, Text: c.Beside, N: 20}
	case c.Difference == judge.SubmittedAgain:
		o.Reloaded = true
	case c.Subject.Aspect == judge.AllValues:
		o.AllLost = true
	}
	return o
}

// TestNamesDoNotDependOnWords: with every sentence reworded, findings keep their names, and so do known lists and baselines.
func TestNamesDoNotDependOnWords(t *testing.T) { //nolint:paralleltest // it changes the sentences
	form := shedForm(t)
	judged := func() (names []finding.Name, headlines []prose.Text) {
		for _, c := range olderCauses(t) {
			names = append(names, finding.NameOf("shed", c))
			headlines = append(headlines, wording.Say(wording.Odd(form, oddPart(&c))))
		}
		sub := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "name", Value: "fern"}}}
		e := oracle.Expect(form, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub)
		o := &observation.Step{At: time.Now(), Sent: sub, Watched: []string{"sheds"}, After: &observation.Page{URL: "http://site/sheds"}, Changes: []observation.Change{{Table: "sheds", Kind: observation.Inserted, Key: "1", After: []observation.Cell{{Column: "name", Value: "fe"}}}}, Exchanges: []observation.Exchange{{Method: "POST", URL: "http://site/shed", Status: 303, Location: "http://site/sheds"}}}
		r := &report.Result{Case: "shed/name/http", Verdict: judge.Odd, Steps: []report.StepResult{{Expectation: e, Observation: o, Judgement: judge.Judge(form, e, o, nil)}}}
		one := &testcase.Case{ID: "shed/name/http", Row: "name", Steps: []testcase.Step{{}}}
		wording.Result(form, one, r)
		for _, f := range finding.Of(&report.Report{Form: "shed", Cases: []*testcase.Case{one}, Results: map[string]*report.Result{one.ID: r}}) {
			names, headlines = append(names, f.Names...), append(headlines, f.Headline)
		}
		return names, headlines
	}
	names, before := judged()
	require.Len(t, names, len(olderCauses(t))+1)
	restore := wording.Reword(func(sentence string) string { return "In other words, " + sentence })
	defer restore()
	reworded, after := judged()
	require.Equal(t, names, reworded)
	for i := range before {
		require.NotEqual(t, before[i], after[i], "it was not reworded")
	}
}
