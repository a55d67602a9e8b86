package learn

import (
	"slices"
)

// edge finds the last number from good, which is accepted, towards bad, which is not, that is accepted. Likely numbers are tried first: one
// that is accepted while its neighbour is not ends the search after as many submissions as halving the list takes. What is accepted is
// taken to be in one piece.
func edge(good, bad int, likely []int, accepted func(int) (bool, error)) (int, error) {
	step := 1
	if bad < good {
		step = -1
	}
	between := func(n int) bool { return (n-good)*step > 0 && (bad-n)*step > 0 }
	list := slices.DeleteFunc(slices.Clone(likely), func(n int) bool { return !between(n) })
	slices.SortFunc(list, func(a, b int) int { return (a - b) * step })
	list = slices.Compact(list)
	for len(list) > 0 {
		n := list[len(list)/2]
		ok, err := accepted(n)
		if err != nil {
			return 0, err
		}
		if !ok {
			bad = n
			list = list[:len(list)/2]
			continue
		}
		good = n
		list = list[len(list)/2+1:]
	}
	// the last likely number that is accepted is probably the limit itself
	for first := true; (bad-good)*step > 1; first = false {
		n := good + (bad-good)/2
		if first {
			n = good + step
		}
		ok, err := accepted(n)
		if err != nil {
			return 0, err
		}
		if ok {
			good = n
		} else {
			bad = n
		}
	}
	return good, nil
}

// likelyLengths are limits of texts that forms often have.
var likelyLengths = []int{1, 2, 3, 4, 5, 6, 8, 10, 12, 15, 16, 20, 24, 25, 30, 32, 35, 40, 45, 50, 60, 64, 70, 72, 80, 90, 100, 120, 128, 140, 150, 160, 180, 190, 191, 200, 250, 254, 255, 256, 280, 300, 400, 500, 512, 1000, 1024, 2000, 2048, 4000, 4096}

// likelyNumbers are bounds of numbers that forms often have.
var likelyNumbers = []int{-1000, -100, -10, -1, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 14, 15, 16, 18, 20, 21, 24, 25, 30, 31, 36, 40, 48, 50, 60, 64, 65, 70, 75, 80, 90, 99, 100, 120, 125, 127, 128, 130, 140, 150, 200, 250, 255, 256, 300, 365, 400, 500, 600, 750, 800, 900, 999, 1000, 2000, 5000, 9999, 10000, 50000, 65535, 99999, 100000, 999999, 1000000}
