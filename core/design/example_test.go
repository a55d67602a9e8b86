package design_test

import (
	"fmt"
	"strings"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"
)

// The cases of a form are computed from what it promises. Their ids stay the same while the rules do.
func ExampleDesigner_Cases() {
	form, err := spec.ReadForm("shed.yaml", []byte(`form: shed
page: /shed
fields:
  - {id: name, name: name, label: Name, rules: [{length: {min: 3, max: 20}}]}
`))
	if err != nil {
		panic(err)
	}
	p, err := form.Prepare()
	if err != nil {
		panic(err)
	}
	d, err := design.New(p, nil)
	if err != nil {
		panic(err)
	}
	cases, _ := d.Cases(testcase.Quick)
	for _, c := range cases {
		if strings.HasPrefix(c.ID, "shed/name.length.m") {
			fmt.Println(c.ID, c.Last().Expect)
		}
	}
	// Output:
	// shed/name.length.min-1/http rejected by the server
	// shed/name.length.min/http accepted
	// shed/name.length.max/http accepted
	// shed/name.length.max+1/http rejected by the server
}
