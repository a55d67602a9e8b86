package oracle_test

import (
	"fmt"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
)

// What a submission must lead to follows from the form, the world and what is sent.
func ExampleExpect() {
	form, err := spec.ReadForm("shed.yaml", []byte(`form: shed
page: /shed
fields:
  - {id: name, name: name, label: Name, rules: [{length: {min: 3, max: 20, message: Too short or too long.}}]}
rejected: {status: 422}
`))
	if err != nil {
		panic(err)
	}
	p, err := form.Prepare()
	if err != nil {
		panic(err)
	}
	sent := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "name", Value: "ab"}}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sent)
	fmt.Println(e.Outcome, e.Status, e.Failing[0].Rule)
	fmt.Println(e.Messages[0].Text)
	// Output:
	// rejected by the server 422 name.length
	// Too short or too long.
}
