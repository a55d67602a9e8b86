package engine_test

import (
	"fmt"
	"html"
	"net/http"
	"net/http/httptest"
	"slices"
	"sync/atomic"
	"testing"
	"time"
	"unicode/utf8"

	"oddtick/core/investigate"
	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/engine/attempt"
	"oddtick/engine/schedule"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

const shelfForm = `form: shelf
page: /
fields:
  - {name: a, label: A, rules: [{required: {}}, {length: {max: 12, message: Too long.}}]}
  - {name: b, label: B, kind: number, rules: [{required: {}}, {range: {min: 1, max: 9, message: Out of range.}}]}
  - {name: c, label: C, kind: single_choice, options: [{label: X, value: x}, {label: Y, value: y}], rules: [{required: {}}]}
rejected: {status: 422}
accepted: {status: 200, reply: Thanks.}
`

// shelf serves the form; wrong tells of each submission whether it is taken although it breaks a rule, or fails although it breaks none.
func shelf(t testing.TB, wrong func(a, b, c string) bool) *httptest.Server {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		a, b, c := r.PostFormValue("a"), r.PostFormValue("b"), r.PostFormValue("c")
		said := ""
		if r.Method == http.MethodPost {
			switch number := len(b) == 1 && b >= "1"; {
			case a == "" || b == "" || c == "":
				said = "Needed."
			case utf8.RuneCountInString(a) > 12:
				said = "Too long."
			case !number:
				said = "Out of range."
			}
			if wrong(a, b, c) {
				if said == "" {
					w.WriteHeader(http.StatusInternalServerError)
					return
				}
				said = ""
			}
			if said == "" {
				fmt.Fprint(w, "<p>Thanks.</p>")
				return
			}
			w.WriteHeader(http.StatusUnprocessableEntity)
			said = `<p class="error">` + said + `</p>`
		}
		chosen := map[bool]string{true: " selected"}
		fmt.Fprintf(w, `<form method=post>%s<input name=a value="%s"><input name=b value="%s"><select name=c><option value="">-</option><option value=x%s>X</option><option value=y%s>Y</option></select></form>`, said, html.EscapeString(a), html.EscapeString(b), chosen[c == "x"], chosen[c == "y"])
	}))
	t.Cleanup(server.Close)
	return server
}

// further runs a form's cases and looks further at the first odd one that is wanted.
func further(t testing.TB, server *httptest.Server, wanted func(*testcase.Case) bool) (*investigate.Investigation, *testcase.Case) {
	d := designerOf(t, shelfForm)
	all, _ := d.Cases(testcase.Standard)
	drivable, _ := target.Drivable(all)
	cases := slices.DeleteFunc(drivable, func(c *testcase.Case) bool { return c.InBrowser() || !wanted(c) })
	run, err := target.Open(t.Context(), target.Config{Site: &spec.Site{Address: server.URL}, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer run.Close()
	var found schedule.Collected
	require.NoError(t, schedule.Execute(t.Context(), run, &found, nil))
	for _, c := range cases {
		if r := found.Result(c.ID); r != nil && r.Verdict == judge.Odd {
			told := 0
			f, err := investigate.Investigate(t.Context(), run.Config.Designer.Maker, attempt.By(run), c, *r.Cause, func(int) { told++ })
			require.NoError(t, err)
			require.Equal(t, f.Submissions, told)
			probes := 0
			if f.Limit != nil {
				probes = len(f.Limit.Probes)
			}
			require.LessOrEqual(t, f.Submissions, investigate.MaxSubmissions+probes)
			return f, c
		}
	}
	require.Fail(t, "nothing is odd")
	return nil, nil
}

func TestAnOddCaseIsMadeSmaller(t *testing.T) {
	t.Parallel()
	server := shelf(t, func(a, _, _ string) bool { return utf8.RuneCountInString(a) > 12 })
	f, _ := further(t, server, func(c *testcase.Case) bool { return c.ID == "shelf/a.length.max.far/http" })
	require.EqualValues(t, "Reproduced 5 of 5 times. Simplest trigger: an unusual value in a. Limit: promised 12 characters; no limit was found up to 5000 characters.", wording.Investigation(nil, f))
	sent, _ := f.Simplest.Steps[0].Observation.Sent.Value("a")
	require.Equal(t, 13, utf8.RuneCountInString(sent), "the shortest that shows it")
	require.Equal(t, *f.Simplest.Cause, f.Cause)

	// of a combination only what matters stays
	server = shelf(t, func(_, b, c string) bool { return b == "9" && c == "y" })
	f, c := further(t, server, func(c *testcase.Case) bool { return c.Technique == testcase.Combination })
	require.Subset(t, []string{"b", "c"}, f.Fields, "of %s", c.ID)
	require.NotEmpty(t, f.Fields)
}

func TestWhatShowsNowAndThenIsCalledSo(t *testing.T) {
	t.Parallel()
	var n atomic.Int32
	server := shelf(t, func(a, _, _ string) bool {
		return utf8.RuneCountInString(a) > 12 && n.Add(1)%5 == 1 // the first, and then one time in five
	})
	f, _ := further(t, server, func(c *testcase.Case) bool { return c.ID == "shelf/a.length.max+1/http" })
	require.Equal(t, 25, f.Times)
	require.Equal(t, 5, f.Odd)
	require.EqualValues(t, "Intermittent: reproduced 5 of 25 times.", wording.Investigation(nil, f)[:len("Intermittent: reproduced 5 of 25 times.")])
	n.Store(0)
	once := shelf(t, func(a, _, _ string) bool { return utf8.RuneCountInString(a) > 12 && n.Add(1) == 1 })
	f, _ = further(t, once, func(c *testcase.Case) bool { return c.ID == "shelf/a.length.max+1/http" })
	require.EqualValues(t, "Not reproduced (0 of 25 times), which does not prove that it is fixed.", wording.Investigation(nil, f))
}

// TestARepeatedCaseSendsNoValueTwice, even where the site's rows do not show what it has taken: numbers that lost their leading zeros are
// not found, but the site finds them.
func TestARepeatedCaseSendsNoValueTwice(t *testing.T) {
	t.Parallel()
	run, d := ostlewickRun(t, "join", func(*spec.Form) {}, "membership-zeros")
	all, _ := d.Cases(testcase.Standard)
	zeros := all[slices.IndexFunc(all, func(c *testcase.Case) bool { return c.ID == "join/membership.guess.zeros/http" })]
	for range 12 {
		r, err := attempt.Once(t.Context(), run, zeros)
		require.NoError(t, err)
		require.Equal(t, "membership", r.Cause.Subject.Column, r.Headline)
	}
}
