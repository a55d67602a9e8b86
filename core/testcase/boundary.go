package testcase

import "fmt"

// End is an end of a rule's range.
type End string

// The ends.
const (
	Lower End = "min"
	Upper End = "max"
)

// Boundary is a point on an end of a rule's range, or next to it.
type Boundary struct {
	End End
	// Offset is how many steps above the end it lies: -1, 0 or 1.
	Offset int
	// Depth is the least depth that tries it.
	Depth Depth
}

// The points of each end.
var (
	LowerBoundaries = []Boundary{{Lower, -1, Quick}, {Lower, 0, Quick}, {Lower, 1, Standard}}
	UpperBoundaries = []Boundary{{Upper, -1, Standard}, {Upper, 0, Quick}, {Upper, 1, Quick}}
)

// Role names the point in ids of cases and in what they cover: "min-1", "min", "max+1".
func (b Boundary) Role() string {
	if b.Offset == 0 {
		return string(b.End)
	}
	return fmt.Sprintf("%s%+d", b.End, b.Offset)
}
