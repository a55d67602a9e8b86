package engine_test

import (
	"fmt"
	"html"
	"math"
	"net/http"
	"net/http/httptest"
	"strconv"
	"testing"
	"time"
	"unicode/utf8"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/engine"

	"github.com/stretchr/testify/require"
)

// limitOf finds a limit on the practice site with a fault.
func limitOf(t *testing.T, form, rule string, end design.End, faults ...string) *engine.Limit {
	project := ostlewickProject(t, faults...)
	for _, f := range project.Forms {
		if f.Form != form {
			continue
		}
		p, err := f.Prepare()
		require.NoError(t, err)
		d, err := design.New(p, project.Site)
		require.NoError(t, err)
		r, err := engine.Open(t.Context(), engine.Config{Site: project.Site, Designer: d, Number: time.Now().UnixNano()})
		require.NoError(t, err)
		defer r.Close()
		l, err := r.FindLimit(t.Context(), rule, end)
		require.NoError(t, err)
		return l
	}
	require.Fail(t, "there is no such form")
	return nil
}

func TestLimitsOfThePracticeSite(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		fault, form, rule string
		end               design.End
		says              string
		most              int
	}{
		{"", "join", "username.length", design.Upper, "as promised: 20 characters", 2},
		{"username-cut", "join", "username.length", design.Upper, "promised 20 characters; taken to 190 characters, and stored whole only to 20 characters", 17},
		{"username-two", "join", "username.length", design.Lower, "promised 3 characters; taken to 2 characters", 4},
		{"plots-five", "join", "plots.range", design.Upper, "promised 4; taken to 5", 25},
		{"born-day-early", "join", "born.range", design.Upper, "promised today - 18 years; taken to today - 18 years + 1 day", 20},
		{"harvest-weight-zero", "harvest", "weight.range", design.Lower, "promised 0.001; taken to 0", 25},
		{"booking-fifteen-days", "join", "username.length", design.Lower, "as promised: 3 characters", 2},
	} {
		t.Run(c.fault, func(t *testing.T) {
			t.Parallel()
			var faults []string
			if c.fault != "" {
				faults = []string{c.fault}
			}
			l := limitOf(t, c.form, c.rule, c.end, faults...)
			require.Equal(t, c.says, l.Words(), "%+v", l.Probes)
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
			rule, field := "length: {max: 12, in: "+kind+", say: Too much.}", "text"
			if kind == "number" {
				rule, field = "range: {min: -99999, max: 12, say: Too much.}", "number"
			}
			d := designerOf(t, "form: f\npage: /\nfields: [{name: a, kind: "+field+", rules: [{required: {}}, {"+rule+"}]}]\nrejected: {status: 422}\naccepted: {status: 200, reply: Thanks.}\n")
			r, err := engine.Open(t.Context(), engine.Config{Site: &spec.Site{Address: server.URL}, Designer: d, Number: int64(i + 1)})
			require.NoError(t, err)
			id := "a.length"
			if kind == "number" {
				id = "a.range"
			}
			l, err := r.FindLimit(t.Context(), id, design.Upper)
			require.NoError(t, err)
			r.Close()
			bracket := 5000.0
			if kind == "number" {
				bracket = 1 << 20
			}
			switch {
			case real > 5000 && kind != "number":
				require.True(t, l.Unlimited, "%d %s: %s", real, kind, l.Words())
			case real == promised:
				require.True(t, l.AsPromised, "%d %s: %s", real, kind, l.Words())
			default:
				want := strconv.Itoa(real)
				if kind != "number" {
					want += " " + kind
				}
				require.Equal(t, want, l.Found, "%d %s: %s", real, kind, l.Words())
			}
			require.LessOrEqual(t, float64(len(l.Probes)), math.Log2(bracket)+4, "%d %s", real, kind)
		}
	}
}

func TestLimitsThatThereAreNot(t *testing.T) {
	t.Parallel()
	d := designerOf(t, "form: f\npage: /\nfields: [{name: a, rules: [{length: {min: 2}}, {pattern: {is: '[a-z]+'}}]}]\n")
	for rule, says := range map[string]string{"a.pattern": "has no limit at that end", "a.length": "has no limit at that end", "b.length": "the form has no rule b.length"} {
		_, err := d.AxisOf(rule, design.Upper)
		require.ErrorContains(t, err, says)
	}
	s, err := d.AxisOf("a.length", design.Lower)
	require.NoError(t, err)
	require.Equal(t, "1 characters", s.Text(1))
	require.EqualValues(t, 1, s.Far, "a blank value is another rule's")
}
