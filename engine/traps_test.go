package engine_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

// traps are the fields of testdata/traps.html, with the odd parts that each must give: what is said where a person does not see it
// is odd, and what is said in an unusual way is not.
var traps = []struct{ field, part, observed string }{
	{"plain", "", ""},
	{"transparent", "visible", "transparent"},
	{"away", "visible", "off the screen"},
	{"behind", "visible", "covered"},
	{"pale", "visible", "in the background's color"},
	{"small", "visible", "clipped away"},
	{"folded", "visible", "in closed details"},
	{"shadow", "", ""},
	{"sealed", "", ""},
	{"buried", "visible", "transparent"},
	{"brief", "", ""},
	{"dialog", "place", "elsewhere on the page"},
	{"native", "", ""},
	{"titled", "text", "none"},
	{"neighbour", "place", "at the control beside"},
	{"beside", "", ""},
	{"silent", "text", "none"},
	{"tied", "", ""},
	{"faint", "", ""},
}

// ranOnPage serves a page, and something else for what is posted, and runs as many cases as there must be whose ids end so.
func ranOnPage(t *testing.T, file, posted, form, suffix string, many int) *schedule.Collected {
	html, err := os.ReadFile(file)
	require.NoError(t, err)
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		if r.Method == http.MethodPost && posted != "" {
			fmt.Fprint(w, posted)
			return
		}
		_, _ = w.Write(html)
	}))
	defer server.Close()
	d := designerOf(t, form)
	cases, _ := d.Cases(testcase.Standard)
	cases = slices.DeleteFunc(cases, func(c *testcase.Case) bool { return !strings.HasSuffix(c.ID, suffix) })
	require.Len(t, cases, many)
	run, err := target.Open(t.Context(), target.Config{Site: &spec.Site{Address: server.URL}, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer run.Close()
	sink := &schedule.Collected{}
	require.NoError(t, schedule.Execute(t.Context(), run, sink, nil))
	return sink
}

// partsThatAre are a result's parts with some verdicts.
func partsThatAre(r *report.Result, is ...judge.Verdict) (out []judge.Part) {
	for _, c := range r.Steps[0].Judgement.Checks {
		for _, part := range c.Parts {
			if slices.Contains(is, part.Verdict) {
				out = append(out, part)
			}
		}
	}
	return out
}

func TestAMessageCountsWhereAPersonSeesIt(t *testing.T) {
	t.Parallel()
	var text strings.Builder
	text.WriteString("form: traps\npage: /moorings\nrejected: {report: first_of_all}\nfields:\n")
	for _, trap := range traps {
		fmt.Fprintf(&text, "  - {id: %[1]s, name: %[1]s, rules: [{required: {layers: [browser], message: \"Fill in %[1]s.\"}}]}\n", trap.field)
	}
	sink := ranOnPage(t, "testdata/traps.html", "", text.String(), ".blank/browser", len(traps))
	for _, trap := range traps {
		t.Run(trap.field, func(t *testing.T) {
			r := sink.Result("traps/" + trap.field + ".required.blank/browser")
			require.NotNil(t, r)
			odd := partsThatAre(r, judge.Odd, judge.NotObserved)
			if trap.part == "" {
				require.Empty(t, odd)
				require.Equal(t, judge.AsExpected, r.Verdict)
				return
			}
			require.Len(t, odd, 1, "%v", odd)
			require.Equal(t, "message "+trap.field+".required: "+trap.part, odd[0].Subject.Older())
			require.Contains(t, odd[0].Words.Observed, trap.observed)
		})
	}
}
