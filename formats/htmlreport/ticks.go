package htmlreport

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/core/wording/phrases"
)

// ticks are SVG paths, one for all ticks of a kind, so that many take little room.
type ticks struct {
	Upright, Lean, Feet, Dotted, Rings string
}

// height is a tick's in pixels, lean how far an odd one leans.
const (
	height = 14
	lean   = 6
)

func (t *ticks) add(v judge.Verdict, x, y int) {
	switch v {
	case judge.AsExpected:
		t.Upright += fmt.Sprintf("M%d %dv%d", x, y+1, height-2)
	case judge.Odd:
		t.Lean += fmt.Sprintf("M%d %dl%d -%d", x, y+height-3, lean, height-4)
		t.Feet += fmt.Sprintf("M%d %dh0", x, y+height-3)
	case judge.NotObserved:
		t.Dotted += fmt.Sprintf("M%d %dv%d", x, y+1, height-2)
	default:
		t.Rings += fmt.Sprintf("M%d %da2.6 2.6 0 1 0 5.2 0a2.6 2.6 0 1 0 -5.2 0", x-2, y+height/2)
	}
}

// cell is the ticks of one row under one check.
type cell struct {
	ticks
	Width, Height int
	Words         string
}

const (
	perLine = 15
	stepX   = 6
	stepY   = 16
)

func cellOf(r *report.Report, cases []*testcase.Case, check int) cell {
	var b cell
	n := map[judge.Verdict]int{}
	for i, c := range cases {
		v := judge.NotObserved
		if result := r.Results[c.ID]; result != nil && check < len(result.Checks) {
			v = result.Checks[check]
		}
		n[v]++
		b.add(v, 4+i%perLine*stepX, i/perLine*stepY)
	}
	if n[judge.DoesNotApply] == len(cases) {
		b.ticks = ticks{}
		b.add(judge.DoesNotApply, 4, 0)
		b.Width, b.Height = stepX*2, stepY
	} else {
		b.Width, b.Height = perLine*stepX+8, (len(cases)+perLine-1)/perLine*stepY
	}
	b.Words = words(n)
	return b
}

// words count ticks for those who do not see them.
func words(n map[judge.Verdict]int) string {
	var parts []string
	for _, v := range []judge.Verdict{judge.Odd, judge.NotObserved, judge.AsExpected, judge.DoesNotApply} {
		if n[v] > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n[v], phrases.Verdicts[string(v)].Text()))
		}
	}
	return strings.Join(parts, ", ")
}

// scale is a line of ticks by their places, with a band where input is expected to be accepted.
type scale struct {
	Name   string
	Width  int
	Bands  string
	Labels []text
	ticks
	Words string
}

type text struct {
	X    int
	Text string
	Odd  bool
}

// A place on a scale is at least least and at most most pixels from the next; scales are wide at most where there is room for it.
const (
	wide, least, most, margin = 880, 12, 72, 24
	letter                    = 6 // how wide one is, about
)

// place is one or more cases with one label.
type place struct {
	label    string
	verdict  judge.Verdict
	accepted bool
}

func scalesOf(r *report.Report, cases []*testcase.Case) []scale {
	var names []string
	by := map[string][]*testcase.Case{}
	for _, c := range cases {
		if _, known := by[c.Mark.Scale]; !known {
			names = append(names, c.Mark.Scale)
		}
		by[c.Mark.Scale] = append(by[c.Mark.Scale], c)
	}
	var out []scale
	for _, name := range names {
		if name != "" {
			out = append(out, scaleOf(wording.Scale(by[name][0].Mark), placesOf(r, by[name])))
		}
	}
	return out
}

// placesOf are the places of a scale in their order; the worst verdict of a place is seen.
func placesOf(r *report.Report, cases []*testcase.Case) []place {
	cases = slices.Clone(cases)
	slices.SortStableFunc(cases, func(a, b *testcase.Case) int { return cmp.Compare(a.Mark.At, b.Mark.At) })
	rank := map[judge.Verdict]int{judge.DoesNotApply: 0, judge.AsExpected: 1, judge.NotObserved: 2, judge.Odd: 3}
	var out []place
	for _, c := range cases {
		v := r.VerdictOf(c)
		if n := len(out); n > 0 && out[n-1].label == wording.Mark(c.Mark) {
			if rank[v] > rank[out[n-1].verdict] {
				out[n-1].verdict = v
			}
			continue
		}
		out = append(out, place{wording.Mark(c.Mark), v, c.Last().Expect == oracle.Accepted})
	}
	return out
}

func scaleOf(name string, places []place) scale {
	step := min(most, max(least, (wide-2*margin)/max(1, len(places))))
	s := scale{Name: name, Width: 2*margin + step*(len(places)-1) + most}
	n := map[judge.Verdict]int{}
	taken := make([]bool, s.Width/letter+2)
	write := func(i int) {
		p := places[i]
		from := (margin + i*step) / letter
		to := from + len([]rune(p.label)) + 2 // with room to the next
		if to > len(taken) || slices.Contains(taken[from:to], true) {
			return
		}
		for k := from; k < to; k++ {
			taken[k] = true
		}
		s.Labels = append(s.Labels, text{margin + i*step, p.label, p.verdict == judge.Odd})
	}
	for i, p := range places {
		n[p.verdict]++
		s.add(p.verdict, margin+i*step, 4)
		if p.accepted {
			s.Bands += fmt.Sprintf("M%d 0h%dv%dh-%dz", margin+i*step-step/2, step, height+8, step)
		}
		if p.verdict == judge.Odd {
			write(i)
		}
	}
	for i, p := range places {
		if p.verdict != judge.Odd {
			write(i)
		}
	}
	s.Words = words(n)
	return s
}
