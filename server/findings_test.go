package server_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"oddtick/core/document"

	"oddtick/core/investigate"
	"oddtick/formats/knownlist"

	"github.com/stretchr/testify/require"
)

type findingsSeen struct {
	Findings []struct {
		ID, Row, Says, Simplest string
		Cases                   []string
		Seen                    []struct {
			Run     int
			Verdict string
		}
		Triage *struct {
			State, Severity, Until, By string
			Lapsed                     bool
		}
	}
	NotShown []struct{ ID string } `json:"not_shown"`
	Trend    []struct{ Run, Findings int }
	Compared *struct {
		With         int
		NewlyOdd     int                              `json:"newly_odd"`
		StillOdd     int                              `json:"still_odd"`
		NoLongerOdd  []struct{ ID, Row, Says string } `json:"no_longer_odd"`
		NotSeenAgain []struct{ ID string }            `json:"not_seen_again"`
		NewlyCovered []string                         `json:"newly_covered"`
	}
}

func (c *client) findings(run int) findingsSeen {
	var v findingsSeen
	require.Equal(c.t, http.StatusOK, c.get(fmt.Sprintf("%s/runs/%d/findings", joinPath, run), &v))
	return v
}

func TestAFindingHasAHistoryAndATriage(t *testing.T) {
	t.Parallel()
	c := start(t, "username-two", "plots-five")
	c.signIn()
	plan := func(rows ...string) map[string]any {
		return map[string]any{"depth": "quick", "driver": "http", "rows": rows}
	}
	first := c.run(plan("plots"))
	c.ended(first)
	second := c.run(plan("username", "plots"))
	c.ended(second)
	v := c.findings(second)
	require.Len(t, v.Findings, 2)
	username, plots := v.Findings[0], v.Findings[1]
	require.Equal(t, "Username", username.Row)
	require.Equal(t, "Username of 2 characters accepted (promised: 3 to 20 characters)", username.Says)
	require.Equal(t, username.Cases[0], username.Simplest)
	require.Len(t, username.Seen, 2)
	require.Equal(t, []string{"not observed", "odd", "odd", "odd"}, []string{username.Seen[0].Verdict, username.Seen[1].Verdict, plots.Seen[0].Verdict, plots.Seen[1].Verdict}, "in the first run no case of the username was run")
	require.Nil(t, username.Triage)

	at := fmt.Sprintf("%s/runs/%d/findings/%s", joinPath, second, username.ID)
	var detail struct {
		Steps       []struct{ Do string }
		Differences []struct{ Check, Observed string }
		Curl        string
		Markdown    string
		History     []struct{ State, Comment, By string }
	}
	require.Equal(t, http.StatusOK, c.get(at, &detail))
	require.True(t, strings.HasPrefix(detail.Steps[0].Do, "Open http://"))
	require.Equal(t, "Outcome", detail.Differences[0].Check)
	require.Contains(t, detail.Curl, "--data-urlencode 'username=")
	require.Contains(t, detail.Markdown, "# Username of 2 characters accepted (promised: 3 to 20 characters)")
	require.Empty(t, detail.History)

	status, _, answer := c.send(http.MethodPost, at+"/investigation", nil)
	require.Equal(t, http.StatusOK, status, string(answer))
	var further struct{ Further struct{ Words string } }
	require.Equal(t, http.StatusOK, c.get(at, &further))
	require.Equal(t, "Reproduced 5 of 5 times. Simplest trigger: an unusual value in Username. Limit: promised 3 characters; accepted up to 2 characters.", further.Further.Words, "it is kept")

	// it can be stopped, and what is known by then stays
	ended := make(chan []byte)
	go func() {
		status, _, answer := c.send(http.MethodPost, at+"/investigation", nil)
		ended <- append(fmt.Appendf(nil, "%d ", status), answer...)
	}()
	var looking struct{ Looking *struct{ Made, Most int } }
	require.Eventually(t, func() bool {
		c.get(at, &looking)
		return looking.Looking != nil && looking.Looking.Made > 0
	}, 10*time.Second, time.Millisecond)
	require.Equal(t, investigate.MaxSubmissions, looking.Looking.Most)
	status, _, _ = c.send(http.MethodDelete, at+"/investigation", nil)
	require.Equal(t, http.StatusNoContent, status)
	require.Contains(t, string(<-ended), `"stopped":true`)
	looking.Looking = nil
	require.Equal(t, http.StatusOK, c.get(at, &looking))
	require.Nil(t, looking.Looking)

	for _, bad := range []map[string]any{
		{"state": "forgotten"},
		{"state": "known", "link": "javascript:alert(1)"},
		{"state": "fixed", "until": "2030-01-01"},
		{"state": "known", "until": "soon"},
		{"state": "open", "severity": "enormous"},
	} {
		c.change(at, at+"/triage", bad, http.StatusUnprocessableEntity)
	}
	for _, word := range []map[string]any{
		{"state": "known", "until": "2020-01-31", "severity": "minor", "comment": "for a while"},
		{"state": "known", "until": "2999-12-31", "severity": "major", "link": "https://tracker.example/412"},
	} {
		c.change(at, at+"/triage", word, http.StatusOK)
	}
	status, _, refused := c.answer(c.ask(http.MethodPost, at+"/triage", `{"state": "fixed"}`, map[string]string{"If-Match": `"0"`}))
	require.Equal(t, http.StatusConflict, status, "somebody said something meanwhile")
	require.Contains(t, string(refused), "tester has marked this finding as known in the meantime")
	require.Equal(t, http.StatusOK, c.get(at, &detail))
	require.Len(t, detail.History, 2, "what was said before stays to be read")
	require.Equal(t, "for a while", detail.History[1].Comment)
	said := c.findings(second).Findings[0].Triage
	require.Equal(t, "known", said.State)
	require.Equal(t, "2999-12-31", said.Until)
	require.Equal(t, "tester", said.By)
	require.False(t, said.Lapsed)
	_, _, list := c.send(http.MethodGet, joinPath+"/known-findings", nil)
	known, err := knownlist.Read(list)
	require.NoError(t, err)
	require.Equal(t, []knownlist.Finding{{Finding: username.ID, Until: "2999-12-31", Link: "https://tracker.example/412"}}, known.Known, "the latest word counts")
	require.Equal(t, username.ID, c.findings(first).NotShown[0].ID, "known, and not shown by that run")
	require.Empty(t, c.findings(second).NotShown)
	require.Equal(t, http.StatusNotFound, c.get(fmt.Sprintf("%s/runs/%d/findings/%s", joinPath, first, username.ID), nil))
	require.Equal(t, http.StatusUnprocessableEntity, c.get(fmt.Sprintf("%s/runs/%d/findings/none", joinPath, first), nil))
}

func TestRunsAreHeldAgainstEachOther(t *testing.T) {
	t.Parallel()
	c := start(t, "username-two", "plots-five")
	c.signIn()
	plan := func(rows ...string) map[string]any {
		return map[string]any{"depth": "quick", "driver": "http", "rows": rows}
	}
	plots := c.run(plan("plots"))
	c.ended(plots)
	both := c.run(plan("username", "plots"))
	c.ended(both)
	against := func(run, with int) findingsSeen {
		var v findingsSeen
		require.Equal(t, http.StatusOK, c.get(fmt.Sprintf("%s/runs/%d/findings?with=%d", joinPath, run, with), &v))
		return v
	}
	v := against(both, plots)
	require.Equal(t, []int{1, 1}, []int{v.Compared.NewlyOdd, v.Compared.StillOdd})
	require.Empty(t, v.Compared.NoLongerOdd)
	require.Contains(t, v.Compared.NewlyCovered, "rule username.length")
	require.Equal(t, []struct{ Run, Findings int }{{plots, 1}, {both, 2}}, v.Trend)
	var sites []struct {
		Forms []struct {
			ID      string
			Changed *struct {
				Since       int
				NewlyOdd    int `json:"newly_odd"`
				NoLongerOdd int `json:"no_longer_odd"`
			}
		}
	}
	require.Equal(t, http.StatusOK, c.get("/api/sites", &sites))
	for _, f := range sites[0].Forms {
		if f.ID == "join" {
			require.Equal(t, []int{plots, 1, 0}, []int{f.Changed.Since, f.Changed.NewlyOdd, f.Changed.NoLongerOdd})
		} else {
			require.Nil(t, f.Changed, "it was never run")
		}
	}
	back := against(plots, both)
	require.Zero(t, back.Compared.NewlyOdd)
	require.Empty(t, back.Compared.NoLongerOdd)
	require.Equal(t, v.Findings[0].ID, back.Compared.NotSeenAgain[0].ID, "its cases were not made: nobody knows whether it is mended")
	require.Nil(t, against(both, 0).Compared)
	require.Equal(t, http.StatusNotFound, c.get(fmt.Sprintf("%s/runs/%d/findings?with=77", joinPath, both), nil))
}

// TestAMessageThatNoRulePromisesIsShownWithItsField, so that it can be given to a rule there.
func TestAMessageThatNoRulePromisesIsShownWithItsField(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	status, body := c.edits(1, false, document.Edit{Do: document.Remove, Path: "fields[membership].rules[pattern]"})
	require.Equal(t, 200, status, string(body))
	run := c.run(map[string]any{"depth": "standard", "driver": "http", "rows": []string{"membership"}})
	c.ended(run)
	seen := map[string]bool{}
	for _, f := range c.findings(run).Findings {
		var detail struct {
			Unpromised []struct{ Field, Text string }
		}
		require.Equal(t, http.StatusOK, c.get(fmt.Sprintf("%s/runs/%d/findings/%s", joinPath, run, f.ID), &detail))
		for _, m := range detail.Unpromised {
			seen[m.Field+": "+m.Text] = true
		}
	}
	require.True(t, seen["membership: A membership number is OS- and four digits."], "%v", seen)
}
