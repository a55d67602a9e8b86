package engine_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/engine"

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

func TestAMessageCountsWhereAPersonSeesIt(t *testing.T) {
	t.Parallel()
	html, err := os.ReadFile("testdata/traps.html")
	require.NoError(t, err)
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = w.Write(html)
	}))
	defer server.Close()
	var text strings.Builder
	text.WriteString("form: traps\npage: /moorings\nrejected: {report: first of all}\nfields:\n")
	for _, trap := range traps {
		fmt.Fprintf(&text, "  - {id: %[1]s, name: %[1]s, rules: [{required: {layer: browser, say: \"Fill in %[1]s.\"}}]}\n", trap.field)
	}
	d := designerOf(t, text.String())
	var cases []*design.Case
	for _, c := range d.Design(design.Plan{Depth: design.Standard}).Cases {
		if engine.InBrowser(c) && strings.HasSuffix(c.ID, ".blank/browser") {
			cases = append(cases, c)
		}
	}
	require.Len(t, cases, len(traps))
	run, err := engine.Open(context.Background(), engine.Config{Site: &spec.Site{Address: server.URL}, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer run.Close()
	sink := &engine.Collected{}
	require.NoError(t, run.Go(context.Background(), sink, nil))
	for _, trap := range traps {
		t.Run(trap.field, func(t *testing.T) {
			r := sink.Result("traps/" + trap.field + ".required.blank/browser")
			require.NotNil(t, r)
			var odd []judge.Part
			for _, c := range r.Steps[0].Judgement.Checks {
				for _, part := range c.Parts {
					if part.Verdict == judge.Odd || part.Verdict == judge.NotObserved {
						odd = append(odd, part)
					}
				}
			}
			if trap.part == "" {
				require.Empty(t, odd)
				require.Equal(t, judge.AsExpected, r.Verdict)
				return
			}
			require.Len(t, odd, 1, "%v", odd)
			require.Equal(t, "message "+trap.field+".required: "+trap.part, odd[0].Name)
			require.Contains(t, odd[0].Observed, trap.observed)
		})
	}
}
