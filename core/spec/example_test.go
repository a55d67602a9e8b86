package spec_test

import (
	"fmt"
	"time"

	"oddtick/core/spec"
)

// A form document is read, prepared once, and then evaluates values.
func ExampleReadForm() {
	form, err := spec.ReadForm("shed.yaml", []byte(`form: shed
page: /shed
fields:
  - {id: name, name: name, label: Name, rules: [{length: {min: 3, max: 20}}]}
`))
	if err != nil {
		panic(err) // it says which line, and what to write there
	}
	p, err := form.Prepare()
	if err != nil {
		panic(err)
	}
	length := p.Rules[0]
	for _, text := range []string{"ab", "fern"} {
		v := p.Field("name").ValueOf(text, true)
		fmt.Println(length.ID, text, length.Passes(&v, time.Now()))
	}
	// Output:
	// name.length ab false
	// name.length fern true
}
