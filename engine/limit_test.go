package engine_test

import (
	"fmt"
	"html"
	"math"
	"net/http"
	"net/http/httptest"
	"slices"
	"strconv"
	"testing"
	"time"
	"unicode/utf8"

	"oddtick/core/design"
	"oddtick/core/investigate"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/engine/attempt"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

// limitOf finds a limit on the practice site with a fault.
func limitOf(t *testing.T, form, rule string, end testcase.End, faults ...string) *investigate.Limit {
	return limitIn(t, form, rule, end, func(*spec.Form) {}, faults...)
}

// limitIn changes the form before.
func limitIn(t *testing.T, form, rule string, end testcase.End, change func(*spec.Form), faults ...string) *investigate.Limit {
	r, _ := ostlewickRun(t, form, change, faults...)
	l, err := investigate.FindLimit(t.Context(), r.Config.Designer.Maker, attempt.By(r), rule, end)
	require.NoError(t, err)
	return l
}

// ostlewickRun opens a form of the practice site with faults, changed before.
func ostlewickRun(t *testing.T, form string, change func(*spec.Form), faults ...string) (*target.Target, *design.Designer) {
	project := ostlewickProject(t, faults...)
	at := slices.IndexFunc(project.Forms, func(f *spec.Form) bool { return f.Form == form })
	require.GreaterOrEqual(t, at, 0, "there is no such form")
	change(project.Forms[at])
	p, err := project.Forms[at].Prepare()
	require.NoError(t, err)
	d, err := design.New(p, project.Site)
	require.NoError(t, err)
	r, err := target.Open(t.Context(), target.Config{Site: project.Site, Designer: d, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	t.Cleanup(r.Close)
	return r, d
}

func TestLimitsOfThePracticeSite(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		fault, form, rule string
		end               testcase.End
		says              string
		most              int
	}{
		{"", "join", "username.length", testcase.Upper, "as promised: 20 characters", 2},
		{"username-cut", "join", "username.length", testcase.Upper, "promised 20 characters; accepted up to 190 characters, stored whole only up to 20 characters", 17},
		{"username-two", "join", "username.length", testcase.Lower, "promised 3 characters; accepted up to 2 characters", 4},
		{"plots-five", "join", "plots.range", testcase.Upper, "promised 4; accepted up to 5", 25},
		{"born-day-early", "join", "born.range", testcase.Upper, "promised today - 18 years; accepted up to today - 18 years + 1 day", 20},
		{"harvest-weight-zero", "harvest", "weight.range", testcase.Lower, "promised 0.001; accepted up to 0", 25},
		{"booking-fifteen-days", "join", "username.length", testcase.Lower, "as promised: 3 characters", 2},
	} {
		t.Run(c.fault, func(t *testing.T) {
			t.Parallel()
			var faults []string
			if c.fault != "" {
				faults = []string{c.fault}
			}
			l := limitOf(t, c.form, c.rule, c.end, faults...)
			require.EqualValues(t, c.says, wording.Limit(l), "%+v", l.Probes)
			require.LessOrEqual(t, len(l.Probes), c.most)
		})
	}
}

// TestRandomLimits: on a site whose real limits differ from the promised ones, each is found exactly, in at most the logarithm of what
// lies between plus four submissions.
func TestRandomLimits(t *testing.T) {
	t.Parallel()
	for i, real := range []int{3, 7, 11, 12, 13, 40, 99, 255, 256, 1000, 3999, 5001} {
		for kind, promised := range map[string]int{"characters": 12, "bytes": 12, "number": 12} {
			server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
				w.Header().Set("Content-Type", "text/html; charset=utf-8")
				if r.Method == http.MethodPost {
					v := r.PostFormValue("a")
					n := utf8.RuneCountInString(v)
					switch kind {
					case "bytes":
						n = len(v)
					case "number":
						x, err := strconv.Atoi(v)
						if n = x; err != nil {
							n = math.MaxInt
						}
					}
					if n <= real {
						fmt.Fprint(w, "<p role=status>Thanks.</p>")
						return
					}
					w.WriteHeader(http.StatusUnprocessableEntity)
					fmt.Fprintf(w, `<form method=post><label>A <input name=a value="%s"></label> <span class=error>Too much.</span></form>`, html.EscapeString(v))
					return
				}
				fmt.Fprint(w, `<form method=post><label>A <input name=a></label></form>`)
			}))
			defer server.Close()
			rule, field := "length: {max: 12, in: "+kind+", message: Too much.}", "text"
			if kind == "number" {
				rule, field = "range: {min: -99999, max: 12, message: Too much.}", "number"
			}
			d := designerOf(t, "form: f\npage: /\nfields: [{name: a, kind: "+field+", rules: [{required: {}}, {"+rule+"}]}]\nrejected: {status: 422}\naccepted: {status: 200, reply: Thanks.}\n")
			r, err := target.Open(t.Context(), target.Config{Site: &spec.Site{Address: server.URL}, Designer: d, Number: int64(i + 1)})
			require.NoError(t, err)
			id := "a.length"
			if kind == "number" {
				id = "a.range"
			}
			l, err := investigate.FindLimit(t.Context(), r.Config.Designer.Maker, attempt.By(r), id, testcase.Upper)
			require.NoError(t, err)
			r.Close()
			bracket := 5000.0
			if kind == "number" {
				bracket = 1 << 20
			}
			switch {
			case real > 5000 && kind != "number":
				require.True(t, l.Unlimited, "%d %s: %s", real, kind, wording.Limit(l))
			case real == promised:
				require.True(t, l.AsPromised, "%d %s: %s", real, kind, wording.Limit(l))
			default:
				want := strconv.Itoa(real)
				if kind != "number" {
					want += " " + kind
				}
				require.EqualValues(t, want, l.Found, "%d %s: %s", real, kind, wording.Limit(l))
			}
			require.LessOrEqual(t, float64(len(l.Probes)), math.Log2(bracket)+4, "%d %s", real, kind)
		}
	}
}

// upTo serves a form with one field that takes what may be taken.
func upTo(t *testing.T, may func(string) bool) string {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		v := r.PostFormValue("a")
		switch {
		case r.Method == http.MethodGet:
			fmt.Fprint(w, `<form method=post><label>A <input name=a></label></form>`)
		case may(v):
			fmt.Fprint(w, "<p role=status>Thanks.</p>")
		default:
			w.WriteHeader(http.StatusUnprocessableEntity)
			fmt.Fprintf(w, `<form method=post><label>A <input name=a value="%s"></label> <span class=error>Too much.</span></form>`, html.EscapeString(v))
		}
	}))
	t.Cleanup(server.Close)
	return server.URL
}

func limitAt(t *testing.T, address, field, name string) *investigate.Limit {
	d := designerOf(t, "form: f\npage: /\nfields: [{name: a, "+field+"}]\nrejected: {status: 422}\naccepted: {status: 200, reply: Thanks.}\n")
	r, err := target.Open(t.Context(), target.Config{Site: &spec.Site{Address: address}, Designer: d, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer r.Close()
	l, err := investigate.FindLimit(t.Context(), r.Config.Designer.Maker, attempt.By(r), name, testcase.Upper)
	require.NoError(t, err)
	return l
}

// TestRandomLimitsOfDecimalsAndDays are found as exactly: hundredths of a number, and days.
func TestRandomLimitsOfDecimalsAndDays(t *testing.T) {
	t.Parallel()
	for _, n := range []int{1, 2, 7, 15, 99, 100, 365, 1000, 4095, 4096, 8191, 20000} {
		most := float64(n)/100 + 12
		l := limitAt(t, upTo(t, func(v string) bool {
			x, err := strconv.ParseFloat(v, 64)
			return err == nil && x <= most+1e-9
		}), "kind: number, rules: [{required: {}}, {decimals: {max: 2, message: Too much.}}, {range: {max: 12, message: Too much.}}]", "a.range")
		found, err := strconv.ParseFloat(l.Found, 64)
		require.NoError(t, err, wording.Limit(l))
		require.InDelta(t, most, found, 1e-9, "%d: %s", n, wording.Limit(l))
		require.LessOrEqual(t, float64(len(l.Probes)), math.Log2(1<<20)+4)

		last := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n)
		l = limitAt(t, upTo(t, func(v string) bool {
			day, err := time.Parse(time.DateOnly, v)
			return err == nil && !day.After(last)
		}), "kind: date, rules: [{required: {}}, {range: {max: 2026-03-01, message: Too much.}}]", "a.range")
		require.EqualValues(t, last.Format(time.DateOnly), l.Found, wording.Limit(l))
		require.LessOrEqual(t, float64(len(l.Probes)), math.Log2(1<<20)+4)
	}
}

// TestALimitThatNobodyPromises is looked for by the field's name.
func TestALimitThatNobodyPromises(t *testing.T) {
	t.Parallel()
	shorter := func(than int) func(string) bool {
		return func(v string) bool { return v != "" && utf8.RuneCountInString(v) <= than }
	}
	l := limitAt(t, upTo(t, shorter(190)), "rules: [{required: {}}]", "a")
	require.EqualValues(t, "no limit is promised; accepted up to 190 characters", wording.Limit(l))
	require.False(t, l.AsPromised)
	require.LessOrEqual(t, float64(len(l.Probes)), math.Log2(70_000)+4)
	l = limitAt(t, upTo(t, shorter(1<<20)), "rules: [{required: {}}]", "a")
	require.EqualValues(t, "no limit is promised, and none was found up to 70000 characters", wording.Limit(l))
	require.True(t, l.AsPromised)
	l = limitAt(t, upTo(t, shorter(3)), "rules: [{required: {}}]", "a")
	require.EqualValues(t, "no limit is promised, and not even a typical value is accepted", wording.Limit(l))
	l = limitAt(t, upTo(t, func(v string) bool {
		n, err := strconv.ParseInt(v, 10, 32)
		return err == nil && n > 0
	}), "kind: number, rules: [{required: {}}]", "a")
	require.EqualValues(t, "no limit is promised; accepted up to 2147483647", wording.Limit(l))
}

// TestStoredWholeOnlyTo: a column that is narrower than what the site takes is found by halving, too.
func TestStoredWholeOnlyTo(t *testing.T) {
	t.Parallel()
	l := limitIn(t, "join", "username", testcase.Upper, func(f *spec.Form) {
		rules := &f.Fields[slices.IndexFunc(f.Fields, func(x spec.Field) bool { return x.ID == "username" })].Rules
		*rules = slices.DeleteFunc(*rules, func(r spec.Rule) bool { return r.Length != nil })
	}, "username-cut")
	require.EqualValues(t, "no limit is promised; accepted up to 190 characters, stored whole only up to 20 characters", wording.Limit(l))
	require.False(t, l.AsPromised)
}

func TestLimitsThatThereAreNot(t *testing.T) {
	t.Parallel()
	d := designerOf(t, "form: f\npage: /\nfields: [{name: a, rules: [{length: {min: 2}}, {pattern: {is: '[a-z]+'}}]}, {name: c}, {name: e, rules: [{pattern: {is: '[a-z]{4}'}}]}]\n")
	for rule, says := range map[string]string{"a.pattern": "has no limit at that end", "a.length": "has no limit at that end", "b.length": "the form has no rule b.length"} {
		_, err := investigate.AxisOf(d.Maker, rule, testcase.Upper)
		require.ErrorContains(t, err, says)
	}
	for field, says := range map[string]string{"a": "a has a limit at that end: a.length", "c": "a length has no limit below", "b": "the form has no rule b"} {
		_, err := investigate.AxisOf(d.Maker, field, testcase.Lower)
		require.ErrorContains(t, err, says)
	}
	var open []string
	all, _ := d.Cases(testcase.Quick)
	for _, c := range all {
		if field, ok := investigate.OpenEndOf(d.Maker, c); ok {
			require.Equal(t, "f/"+field+".valid/http", c.ID)
			open = append(open, field)
		}
	}
	require.Equal(t, []string{"a", "c"}, open, "of a only the least length is promised")
	_, err := investigate.AxisOf(d.Maker, "e", testcase.Upper)
	require.ErrorContains(t, err, "no rule bounds the length of e, and yet: 5 characters: ")
	s, err := investigate.AxisOf(d.Maker, "a.length", testcase.Lower)
	require.NoError(t, err)
	require.Equal(t, "1 characters", s.Text(1))
	require.EqualValues(t, 1, s.Far, "a blank value is another rule's")
}
