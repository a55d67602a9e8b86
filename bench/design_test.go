package bench

import (
	"fmt"
	"runtime"
	"strings"
	"testing"
	"time"

	"oddtick/core/array"
	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

// generated is a form of n fields of several kinds, with some 16 rules for each five of them, and a rule across fields for each five.
func generated(tb testing.TB, n int) *spec.Prepared {
	var text strings.Builder
	text.WriteString("form: season\npage: /season\nfields:\n")
	for i := range n {
		id := fmt.Sprintf("f%d", i)
		switch i % 5 {
		case 0:
			fmt.Fprintf(&text, "  - {id: %s, name: %s, normalize: [trim], rules: [{required: {}}, {length: {min: 3, max: 30}}, {pattern: {is: '[A-Za-z ]+'}}]}\n", id, id)
		case 1:
			fmt.Fprintf(&text, "  - {id: %s, name: %s, kind: number, rules: [{required: {}}, {number: {}}, {range: {min: 1, max: 40}}, {step: {by: 1}}]}\n", id, id)
		case 2:
			fmt.Fprintf(&text, "  - {id: %s, name: %s, kind: date, rules: [{required: {}}, {date: {}}, {range: {min: 2020-01-01, max: today}}]}\n", id, id)
		case 3:
			fmt.Fprintf(&text, "  - {id: %s, name: %s, kind: single_choice, options: [{value: north}, {value: south}, {value: east}], rules: [{required: {}}, {one_of_options: {}}]}\n", id, id)
		default:
			fmt.Fprintf(&text, "  - {id: %s, name: %s, kind: email, rules: [{required: {}}, {email: {}}, {length: {max: 190}}]}\n", id, id)
		}
	}
	text.WriteString("across:\n")
	for i := 0; i+4 < n; i += 5 {
		fmt.Fprintf(&text, "  - {id: x%d, must_hold: 'f%d <= 20 || f%d != \"east\"'}\n", i, i+1, i+3)
	}
	f, err := spec.ReadForm("season.yaml", []byte(text.String()))
	require.NoError(tb, err)
	p, err := f.Prepare()
	require.NoError(tb, err)
	return p
}

// designed is the least time of several to design a form at a depth, and what came of it.
func designed(tb testing.TB, p *spec.Prepared, depth testcase.Depth) (time.Duration, *design.Set) {
	best, set := time.Hour, (*design.Set)(nil)
	for range 4 {
		d, err := design.New(p, nil)
		require.NoError(tb, err)
		started := time.Now()
		set = d.Design(design.Plan{Depth: depth})
		best = min(best, time.Since(started))
	}
	return best, set
}

func BenchmarkDesignOfManyFields(b *testing.B) {
	p := generated(b, 25)
	require.InDelta(b, 80, len(p.Rules), 5)
	quick, _ := designed(b, p, testcase.Quick)
	runtime.GC()
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	standard, set := designed(b, p, testcase.Standard)
	runtime.GC()
	runtime.ReadMemStats(&after)
	line(fmt.Sprintf("25 fields, %d rules: cases at standard depth", len(p.Rules)), float64(len(set.Cases)), 0, "none set")
	line("25 fields: time of standard depth over quick depth", standard.Seconds()/quick.Seconds(), 1, "none set")
	line("25 fields: kilobytes that the cases hold", float64(after.HeapAlloc-before.HeapAlloc)/1024, 0, "none set")
	runtime.KeepAlive(set)

	d, err := design.New(p, nil)
	require.NoError(b, err)
	var subs []*submission.Submission
	for _, c := range set.Cases {
		values, err := d.Resolve(c, 0, &testcase.Env{Run: 1, Now: time.Now(), OnPage: map[string]string{}})
		require.NoError(b, err)
		subs = append(subs, d.Submission(&c.Steps[0], values))
	}
	line("25 fields: expectations a second on one core", expectations(p, subs), 0, "100000")
}

func BenchmarkDesignGrowth(b *testing.B) {
	var last time.Duration
	for _, n := range []int{10, 20, 40} {
		took, set := designed(b, generated(b, n), testcase.Standard)
		if last > 0 {
			line(fmt.Sprintf("time of standard depth, %d fields over %d (%d cases)", n, n/2, len(set.Cases)), took.Seconds()/last.Seconds(), 1, "at most 4, that is n²")
		}
		last = took
	}
}

// BenchmarkArrays compares the rows with the most that are wished for.
func BenchmarkArrays(b *testing.B) {
	for _, a := range []struct {
		levels         string
		strength, most int
	}{
		{"3^4", 2, 9}, {"3^13", 2, 18}, {"2^100", 2, 12}, {"10^20", 2, 210}, {"4^15 3^17 2^29", 2, 36}, {"4 3^39 2^35", 2, 27}, {"2^10", 3, 14}, {"4^6", 3, 110},
	} {
		levels, err := array.ParseLevels(a.levels)
		require.NoError(b, err)
		started := time.Now()
		out, err := array.Cover(array.Problem{Levels: levels, Strength: a.strength, Effort: array.Thorough})
		require.NoError(b, err)
		line(fmt.Sprintf("array %s, strength %d, %d rows in %.1f s: over the %d wished for", a.levels, a.strength, len(out.Rows), time.Since(started).Seconds(), a.most), float64(len(out.Rows))/float64(a.most), 2, "at most 1")
	}
}
