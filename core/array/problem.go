package array

import (
	"fmt"
	"math"
	"slices"
)

// Any stands in a required row for a level left open.
const Any = -1

// Row is one level a factor.
type Row []int

// Problem is what is asked for.
type Problem struct {
	// Levels is the number of levels of each factor, 1 or more.
	Levels []int
	// Negative is the number of further levels of each factor that stand alone: each in one row whose other levels are usual ones.
	// They are numbered after the usual levels. Empty for none.
	Negative []int
	// Strength is t: every combination of levels of any t factors is covered. 1 is each choice, 2 pairwise.
	Strength    int
	Constraints []Constraint
	// Required rows come first; Any is filled in.
	Required []Row
	// Effort bounds the search for fewer rows, in steps of some nanoseconds each; 0 is a small bound.
	Effort int
}

// Array is the answer.
type Array struct {
	Rows []Row
	// Alone are the rows that hold a negative level.
	Alone []Row
	// Tuples is the number of combinations covered; Infeasible those that the constraints forbid.
	Tuples, Infeasible int
	// Least is a number of rows below which no array can be.
	Least int
}

// MostTuples is the largest number of combinations computed with: about 130 MB.
const MostTuples = 16_000_000

// TooLargeError refuses a problem before memory is used for it.
type TooLargeError struct {
	Strength    int
	Tuples, Row float64 // combinations, and rows at least
}

func (e *TooLargeError) Error() string {
	return fmt.Sprintf("combinations of strength %d are too many to compute with: %s combinations, at least %s rows; the most is %s combinations. Lower the strength, or leave factors or levels out",
		e.Strength, round(e.Tuples), round(e.Row), round(MostTuples))
}

func round(n float64) string {
	for _, unit := range []struct {
		of   float64
		name string
	}{{1e12, " million million"}, {1e9, " thousand million"}, {1e6, " million"}, {1e3, " thousand"}} {
		if n >= unit.of {
			return fmt.Sprintf("%.3g%s", n/unit.of, unit.name)
		}
	}
	return fmt.Sprintf("%.0f", n)
}

// NoRowError says that the constraints leave no row at all, or none for what is required.
type NoRowError struct{ What string }

func (e *NoRowError) Error() string {
	return "the constraints leave no row " + e.What + "; loosen one of them"
}

// Estimate returns the number of combinations of a strength, and a number of rows below which no array can be.
func Estimate(levels []int, strength int) (tuples, least float64) {
	// the elementary symmetric polynomial of the levels
	sums := make([]float64, strength+1)
	sums[0] = 1
	for _, n := range levels {
		for t := strength; t > 0; t-- {
			sums[t] += sums[t-1] * float64(n)
		}
	}
	sorted := slices.Clone(levels)
	slices.Sort(sorted)
	least = 1
	for i := range min(strength, len(sorted)) {
		least *= float64(sorted[len(sorted)-1-i])
	}
	return sums[strength], least
}

func (p *Problem) check() error {
	if len(p.Levels) == 0 {
		return fmt.Errorf("there is no factor to combine")
	}
	if p.Strength < 1 || p.Strength > len(p.Levels) {
		return fmt.Errorf("the strength is %d; it goes from 1 to the number of factors, %d", p.Strength, len(p.Levels))
	}
	for f, n := range p.Levels {
		if n < 1 || n > math.MaxInt16 {
			return fmt.Errorf("factor %d has %d levels; it needs 1 to %d", f+1, n, math.MaxInt16)
		}
	}
	if len(p.Negative) > 0 && len(p.Negative) != len(p.Levels) {
		return fmt.Errorf("negative levels are given for %d of %d factors", len(p.Negative), len(p.Levels))
	}
	for i, row := range p.Required {
		if len(row) != len(p.Levels) {
			return fmt.Errorf("required row %d has %d levels for %d factors", i+1, len(row), len(p.Levels))
		}
		for f, level := range row {
			if level != Any && (level < 0 || level >= p.Levels[f]) {
				return fmt.Errorf("required row %d: factor %d has no level %d", i+1, f+1, level)
			}
		}
	}
	for i, c := range p.Constraints {
		for _, f := range c.Factors {
			if f < 0 || f >= len(p.Levels) {
				return fmt.Errorf("constraint %d: there is no factor %d", i+1, f)
			}
		}
	}
	if tuples, rows := Estimate(p.Levels, p.Strength); tuples > MostTuples {
		return &TooLargeError{p.Strength, tuples, rows}
	}
	return nil
}
