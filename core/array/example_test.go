package array_test

import (
	"fmt"

	"oddtick/core/array"
)

// Four factors of two levels each: every pair of levels is in one of a few rows, where all combinations are sixteen.
func ExampleCover() {
	a, err := array.Cover(array.Problem{Levels: []int{2, 2, 2, 2}, Strength: 2})
	if err != nil {
		panic(err)
	}
	fmt.Println(len(a.Rows) < 16, len(a.Rows[0]))
	// Output: true 4
}
