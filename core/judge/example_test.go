package judge_test

import (
	"fmt"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/wording"
)

// What was observed is compared with what was expected, part by part; core/wording makes sentences of it.
func ExampleJudge() {
	form, err := spec.ReadForm("shed.yaml", []byte(`form: shed
page: /shed
fields:
  - {id: name, name: name, label: Name}
accepted: {status: 303, to: /sheds}
stored: [{insert: sheds, columns: {name: {from: name}}}]
`))
	if err != nil {
		panic(err)
	}
	p, err := form.Prepare()
	if err != nil {
		panic(err)
	}
	sent := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "name", Value: "fern row"}}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sent)
	observed := &observation.Step{
		At: time.Now(), Sent: sent, Watched: []string{"sheds"}, After: &observation.Page{URL: "http://site/sheds"},
		Exchanges: []observation.Exchange{{Method: "POST", URL: "http://site/shed", Status: 303, Location: "http://site/sheds"}},
		Changes:   []observation.Change{{Table: "sheds", Kind: observation.Inserted, Key: "1", After: []observation.Cell{{Column: "name", Value: "fern"}}}},
	}
	step := judge.Judge(p, e, observed, nil)
	for _, part := range step.Checks[4].Parts {
		fmt.Printf("%s: %s\n", part.Aspect, part.Verdict)
	}
	wording.Step(p, e, step)
	fmt.Println(step.Headline)
	// Output:
	// row: as expected
	// column: odd
	// other_rows: as expected
	// Name stored cut to 4 characters (sheds.name)
}
