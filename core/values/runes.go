package values

import (
	"slices"
	"sort"
	"unicode"
	"unicode/utf8"
)

// Runes is a set of Unicode scalar values as sorted, disjoint, non-adjacent inclusive ranges. Surrogates are never members:
// they cannot be sent in UTF-8.
type Runes []Range

// Range is an inclusive range of code points.
type Range struct{ Lo, Hi rune }

const (
	surrogateMin = 0xD800
	surrogateMax = 0xDFFF
)

// AnyRune holds every Unicode scalar value.
func AnyRune() Runes {
	return Runes{{0, surrogateMin - 1}, {surrogateMax + 1, utf8.MaxRune}}
}

// RunesOf returns the set of the given runes.
func RunesOf(list ...rune) Runes {
	ranges := make(Runes, 0, len(list))
	for _, r := range list {
		ranges = append(ranges, Range{r, r})
	}
	return ranges.normal()
}

func (rs Runes) normal() Runes {
	slices.SortFunc(rs, func(a, b Range) int { return int(a.Lo - b.Lo) })
	out := make(Runes, 0, len(rs))
	for _, r := range rs {
		if n := len(out); n > 0 && r.Lo <= out[n-1].Hi+1 {
			out[n-1].Hi = max(out[n-1].Hi, r.Hi)
			continue
		}
		out = append(out, r)
	}
	return out.withoutSurrogates()
}

func (rs Runes) withoutSurrogates() Runes {
	touched := false
	for _, r := range rs {
		touched = touched || (r.Lo <= surrogateMax && r.Hi >= surrogateMin)
	}
	if !touched {
		return rs
	}
	var out Runes
	for _, r := range rs {
		if r.Lo < surrogateMin {
			out = append(out, Range{r.Lo, min(r.Hi, surrogateMin-1)})
		}
		if r.Hi > surrogateMax {
			out = append(out, Range{max(r.Lo, surrogateMax+1), r.Hi})
		}
	}
	return out
}

// Has reports whether r is a member.
func (rs Runes) Has(r rune) bool {
	i := sort.Search(len(rs), func(i int) bool { return rs[i].Hi >= r })
	return i < len(rs) && rs[i].Lo <= r
}

// Or returns the union.
func (rs Runes) Or(other Runes) Runes {
	return append(slices.Clone(rs), other...).normal()
}

// Not returns the complement.
func (rs Runes) Not() Runes {
	var out Runes
	next := rune(0)
	for _, r := range rs {
		if r.Lo > next {
			out = append(out, Range{next, r.Lo - 1})
		}
		next = r.Hi + 1
	}
	if next <= utf8.MaxRune {
		out = append(out, Range{next, utf8.MaxRune})
	}
	return out.withoutSurrogates()
}

// And returns the intersection.
func (rs Runes) And(other Runes) Runes {
	var out Runes
	for i, j := 0, 0; i < len(rs) && j < len(other); {
		lo, hi := max(rs[i].Lo, other[j].Lo), min(rs[i].Hi, other[j].Hi)
		if lo <= hi {
			out = append(out, Range{lo, hi})
		}
		if rs[i].Hi < other[j].Hi {
			i++
		} else {
			j++
		}
	}
	return out
}

func runesOfTable(table *unicode.RangeTable) Runes {
	var out Runes
	for _, r := range table.R16 {
		out = appendStride(out, rune(r.Lo), rune(r.Hi), rune(r.Stride))
	}
	for _, r := range table.R32 {
		out = appendStride(out, rune(r.Lo), rune(r.Hi), rune(r.Stride))
	}
	return out.normal()
}

func appendStride(out Runes, lo, hi, stride rune) Runes {
	if stride == 1 {
		return append(out, Range{lo, hi})
	}
	for r := lo; r <= hi; r += stride {
		out = append(out, Range{r, r})
	}
	return out
}
