package server_test

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

type runSeen struct {
	Run struct {
		State, Reason string
		Done, Total   int
		Odd           int
		NotObserved   int  `json:"not_observed"`
		ByHand        bool `json:"by_hand"`
	}
	Marks []struct{ Case, Verdict, Headline string }
}

func (c *client) until(run int, state string) runSeen {
	var got runSeen
	require.Eventually(c.t, func() bool {
		return c.get(joinPath+"/runs/"+itoa(run), &got) == http.StatusOK && got.Run.State == state
	}, 60*time.Second, 50*time.Millisecond)
	return got
}

func itoa(n int) string {
	text, _ := json.Marshal(n)
	return string(text)
}

func TestARunTakesItsChoiceOfCases(t *testing.T) {
	t.Parallel()
	c := start(t, "username-two")
	c.signIn()
	first := c.until(c.run(map[string]any{"depth": "quick", "driver": "http", "rows": []string{"username"}}), "finished")
	require.Positive(t, first.Run.Odd)
	require.Equal(t, first.Run.Total, first.Run.Done)
	for _, m := range first.Marks {
		require.Regexp(t, "^join/username.*/http$", m.Case)
	}
	odd := c.until(c.run(map[string]any{"depth": "quick", "only": "odd"}), "finished")
	require.Equal(t, first.Run.Odd, odd.Run.Total, "those that were odd before")
	fresh := c.until(c.run(map[string]any{"depth": "quick", "only": "new", "driver": "http", "rows": []string{"username", "plots"}}), "finished")
	for _, m := range fresh.Marks {
		require.Regexp(t, "^join/plots", m.Case)
	}
	early := c.until(c.run(map[string]any{"depth": "quick", "driver": "http", "rows": []string{"username"}, "stop_at_odd": true}), "finished")
	require.Positive(t, early.Run.Odd)
	require.LessOrEqual(t, early.Run.Done, first.Run.Done)
	started := time.Now()
	paced := c.until(c.run(map[string]any{"depth": "quick", "driver": "http", "rows": []string{"plots"}, "max_per_minute": 600}), "finished")
	require.Greater(t, time.Since(started).Seconds(), float64(paced.Run.Total-1)/10-0.05, "no more than ten a second")
	status, _, answer := c.send(http.MethodPost, joinPath+"/runs", map[string]any{"depth": "quick", "only": "not_observed"})
	require.Equal(t, http.StatusUnprocessableEntity, status)
	require.Contains(t, string(answer), "No case matches")
	status, _, answer = c.send(http.MethodPost, joinPath+"/runs", map[string]any{"depth": "quick", "driver": "by post"})
	require.Equal(t, http.StatusUnprocessableEntity, status, string(answer))
	status, _, answer = c.send(http.MethodPost, joinPath+"/runs/1/resume", nil)
	require.Equal(t, http.StatusConflict, status)
	require.Contains(t, string(answer), "this one is finished")
}

func TestAStoppedRunGoesOn(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	run := c.run(map[string]any{"depth": "standard", "driver": "http", "max_per_minute": 2400})
	time.Sleep(300 * time.Millisecond)
	status, _, _ := c.send(http.MethodPost, joinPath+"/runs/"+itoa(run)+"/stop", nil)
	require.Equal(t, http.StatusNoContent, status)
	stopped := c.until(run, "stopped")
	require.Less(t, stopped.Run.Done, stopped.Run.Total)
	status, _, answer := c.send(http.MethodPost, joinPath+"/runs/"+itoa(run)+"/resume", nil)
	require.Equal(t, http.StatusOK, status, string(answer))
	done := c.until(run, "finished")
	require.Equal(t, done.Run.Total, done.Run.Done)
	require.Zero(t, done.Run.Odd+done.Run.NotObserved)
	cases := map[string]int{}
	for _, m := range done.Marks {
		cases[m.Case]++
	}
	require.Len(t, cases, done.Run.Total, "none is lost")
	require.Len(t, done.Marks, done.Run.Total, "none is doubled")
}

func TestAPersonsRun(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	run := c.run(map[string]any{"depth": "standard", "rows": []string{"plots"}, "by_hand": true})
	at := joinPath + "/runs/" + itoa(run)
	status, _, answer := c.send(http.MethodPost, joinPath+"/runs", map[string]any{"depth": "quick"})
	require.Equal(t, http.StatusConflict, status, string(answer))
	var cases struct {
		Rows []struct{ Cases []string }
	}
	require.Equal(t, http.StatusOK, c.get(at, &cases))
	ids := cases.Rows[0].Cases
	require.GreaterOrEqual(t, len(ids), 2)
	say := func(body map[string]any, wanted int) string {
		status, _, answer := c.send(http.MethodPost, at+"/manual-verdict", body)
		require.Equal(t, wanted, status, string(answer))
		return string(answer)
	}
	require.Contains(t, say(map[string]any{"case": ids[0], "verdict": "odd"}, 409), "was not opened")
	open := func(id string, wanted int) (h struct {
		Values      []struct{ Field, Value string }
		Expectation struct{ Outcome string }
	},
	) {
		status, _, answer := c.send(http.MethodPost, at+"/manual-case?case="+url.QueryEscape(id), nil)
		require.Equal(t, wanted, status, string(answer))
		if status == http.StatusOK {
			require.NoError(t, json.Unmarshal(answer, &h))
		}
		return h
	}
	open("join/none/http", 404)
	first := open(ids[0], 200)
	require.Equal(t, first, open(ids[0], 200), "it is the same until it is done")
	require.NotEmpty(t, first.Values)
	require.Contains(t, say(map[string]any{"case": ids[0], "verdict": "odd", "picture": base64.StdEncoding.EncodeToString([]byte("<html>"))}, 422), "The picture cannot be read")
	require.Contains(t, say(map[string]any{"case": ids[0], "verdict": "fine"}, 422), "verdict")
	png := "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
	say(map[string]any{"case": ids[0], "verdict": "odd", "note": "no word of it", "picture": png}, 200)
	for _, id := range ids[1:] {
		open(id, 200)
		say(map[string]any{"case": id, "verdict": "not observed"}, 200)
	}
	done := c.until(run, "finished")
	require.True(t, done.Run.ByHand)
	require.Equal(t, 1, done.Run.Odd)
	require.Equal(t, len(ids)-1, done.Run.NotObserved)
	require.Equal(t, "Judged odd by hand: no word of it", done.Marks[0].Headline)
	status, head, _ := c.send(http.MethodGet, at+"/picture?case="+url.QueryEscape(ids[0])+"&name=1", nil)
	require.Equal(t, http.StatusOK, status)
	require.Contains(t, head.Get("Content-Type"), "image/")
	status, _, _ = c.send(http.MethodGet, at+"/picture?case="+url.QueryEscape(ids[0])+"&name=2", nil)
	require.Equal(t, http.StatusNotFound, status)
	status, _, answer = c.send(http.MethodGet, at+"/archive?case="+url.QueryEscape(ids[0]), nil)
	require.Equal(t, http.StatusOK, status)
	require.Contains(t, string(answer), `"version": "1.2"`)
	status, _, answer = c.send(http.MethodPost, joinPath+"/runs", map[string]any{"rows": []string{"form"}, "depth": "quick", "by_hand": true})
	require.Contains(t, []int{201, 422}, status, string(answer))
}

// TestEvidenceHasABudget: what is as expected goes without answers first; nothing of what was judged is lost.
func TestEvidenceHasABudget(t *testing.T) {
	t.Parallel()
	c := start(t, "username-two")
	c.signIn()
	plan := map[string]any{"depth": "quick", "driver": "http", "rows": []string{"username"}}
	// kept counts the cases with answers, by verdict, and left those without
	look := func(run runSeen, number int) (kept, left map[string]int) {
		kept, left = map[string]int{}, map[string]int{}
		for _, m := range run.Marks {
			var v struct {
				Result struct {
					LeftOut string `json:"left_out"`
					Steps   []struct {
						Observation struct{ Exchanges []struct{ Body string } }
						Judgement   struct{ Verdict string }
					}
				}
			}
			require.Equal(t, http.StatusOK, c.get(joinPath+"/case?run="+itoa(number)+"&id="+url.QueryEscape(m.Case), &v))
			bodies := ""
			for _, s := range v.Result.Steps {
				require.NotEmpty(t, s.Judgement.Verdict)
				for _, x := range s.Observation.Exchanges {
					bodies += x.Body
				}
			}
			if require.Equal(t, bodies == "", v.Result.LeftOut != "", m.Case); bodies == "" {
				left[m.Verdict]++
				require.Contains(t, v.Result.LeftOut, "has reached its limit")
			} else {
				kept[m.Verdict]++
			}
		}
		return kept, left
	}
	number := c.run(plan)
	whole, left := look(c.until(number, "finished"), number)
	require.Empty(t, left)
	require.Positive(t, whole["odd"])
	c.server.KeepEvidence(6000)
	number = c.run(plan)
	kept, left := look(c.until(number, "finished"), number)
	require.Positive(t, kept["as expected"], "the first are kept")
	require.Positive(t, left["as expected"])
	require.Equal(t, whole["odd"], kept["odd"]+left["odd"])
	c.server.KeepEvidence(0)
	number = c.run(plan)
	kept, left = look(c.until(number, "finished"), number)
	require.Empty(t, kept)
	require.Equal(t, whole, left)
}

// TestLimitsAreOfferedWhereThereIsOneToFind: at a bound, and at a usual value of which nothing is promised.
func TestLimitsAreOfferedWhereThereIsOneToFind(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	type bound struct {
		Rule, End string
		Open      bool
	}
	for id, want := range map[string]*bound{
		"join/username.length.max+1/http": {"username.length", "max", false},
		"join/born.range.min/http":        {"born.range", "min", false},
		"join/username.valid/http":        nil,
		"join/membership.valid/http":      nil, // its pattern bounds its length
		"join/username.blank/http":        nil,
	} {
		var v struct{ Bound *bound }
		require.Equal(t, http.StatusOK, c.get(joinPath+"/case?id="+url.QueryEscape(id), &v))
		require.Equal(t, want, v.Bound, id)
	}
}

// TestWhatIsOddInMostCasesIsSetApart: it is said once, and the ticks of a field's own fault are told from it.
func TestWhatIsOddInMostCasesIsSetApart(t *testing.T) {
	t.Parallel()
	c := start(t, "refill-lost", "username-cut")
	c.signIn()
	number := c.run(map[string]any{"depth": "quick"})
	c.ended(number)
	var v struct {
		Run struct {
			Done, Odd  int
			Widespread []struct {
				Finding, Headline string
				Cases             int
			}
		}
		Marks []struct{ Case, Verdict, Checks string }
	}
	require.Equal(t, http.StatusOK, c.get(fmt.Sprintf("%s/runs/%d", joinPath, number), &v))
	require.Len(t, v.Run.Widespread, 1)
	require.Greater(t, v.Run.Widespread[0].Cases, v.Run.Done/3)
	leaning, upright := 0, 0
	for _, m := range v.Marks {
		switch {
		case m.Case == "join/username.length.max+1/http":
			require.Equal(t, "o", m.Checks[:1], "its outcome is odd for a reason of its own")
		case strings.Contains(m.Checks, "o"):
			leaning++
		case strings.Contains(m.Checks, "w"):
			require.Equal(t, "odd", m.Verdict)
			upright++
		}
	}
	require.Zero(t, leaning)
	require.Equal(t, v.Run.Odd-1, upright)
	var cases struct {
		Cases map[string]struct {
			Verdict    string
			Widespread bool
		}
	}
	require.Equal(t, http.StatusOK, c.get(joinPath+"/cases?depth=quick", &cases))
	require.False(t, cases.Cases["join/username.length.max+1/http"].Widespread)
	require.True(t, cases.Cases["join/username.blank/http"].Widespread)
	var sites []struct{ Forms []struct{ ID, Strip string } }
	require.Equal(t, http.StatusOK, c.get("/api/sites", &sites))
	require.Equal(t, 1, strings.Count(sites[0].Forms[0].Strip, "o"))
	var found struct{ Findings []struct{ ID string } }
	require.Equal(t, http.StatusOK, c.get(fmt.Sprintf("%s/runs/%d/findings", joinPath, number), &found))
	require.Contains(t, []string{found.Findings[0].ID, found.Findings[1].ID}, v.Run.Widespread[0].Finding, "it leads to its finding")
}
