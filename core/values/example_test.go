package values_test

import (
	"fmt"

	"oddtick/core/values"
)

// A pattern and its limits are a set: it tells what belongs to it, makes members, and the nearest texts that do not belong.
func ExampleSet() {
	pattern, err := values.Pattern(`OS-[0-9]{4}`, values.DialectV)
	if err != nil {
		panic(err)
	}
	set := values.NewSet(pattern)
	fmt.Println(set.Has("OS-0042"), set.Has("OS-42"))
	member, _ := set.Member(values.Want{Length: -1, Hint: "OS-1234"})
	fmt.Println(member)
	for miss := range values.NearestMisses(member, func(text string) bool { return !set.Has(text) }) {
		fmt.Printf("%q: %s\n", miss.Value, miss.Edit)
		break
	}
	// Output:
	// true false
	// OS-1234
	// "OS-123": fewer
}
