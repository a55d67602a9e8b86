package engine_test

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

const gateForm = "form: gate\npage: /\nfields: [{name: gate, rules: [{required: {message: Which gate?}}]}]\nrejected: {status: 422}\naccepted: {status: 200, reply: The gate is open.}\n"

// gate is a form of one field. trouble may deal with a request in its own way, and tells whether it did.
func gate(t testing.TB, trouble func(w http.ResponseWriter, r *http.Request) bool) string {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if trouble(w, r) {
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		form := `<form method="post"><div><label>Gate <input name="gate" value="` + r.PostFormValue("gate") + `"></label>%s</div>` + strings.Repeat("<p>Mind the geese.</p>", 40) + `<button>Open</button></form>`
		switch {
		case r.Method != http.MethodPost:
			fmt.Fprintf(w, form, "")
		case strings.TrimSpace(r.PostFormValue("gate")) == "":
			w.WriteHeader(http.StatusUnprocessableEntity)
			fmt.Fprintf(w, form, `<p class="error">Which gate?</p>`)
		default:
			fmt.Fprint(w, "<p>The gate is open.</p>")
		}
	}))
	t.Cleanup(server.Close)
	return server.URL
}

// gateCases are the two cases of it: as asked for, and blank, by one driver, so many times.
func gateCases(t testing.TB, d *design.Designer, driver submission.Driver, times int) []*testcase.Case {
	all, _ := d.Cases(testcase.Quick)
	var out []*testcase.Case
	for _, c := range all {
		if strings.HasPrefix(c.ID, "gate/form.usual/") || strings.HasPrefix(c.ID, "gate/form.all_blank/") {
			for n := range times {
				twin := *c
				twin.ID = fmt.Sprintf("%s/%d", c.ID, n)
				twin.Steps = append([]testcase.Step{}, c.Steps...)
				for i := range twin.Steps {
					twin.Steps[i].Driver = driver
				}
				out = append(out, &twin)
			}
		}
	}
	require.NotEmpty(t, out)
	return out
}

func runGate(t testing.TB, address string, driver submission.Driver, times int, timeout time.Duration) (map[judge.Verdict]int, *schedule.Collected, *target.Target) {
	d := designerOf(t, gateForm)
	cases := gateCases(t, d, driver, times)
	run, err := target.Open(context.Background(), target.Config{Site: &spec.Site{Address: address, MaxParallel: 4}, Designer: d, Cases: cases, Number: 1, Timeout: timeout})
	require.NoError(t, err)
	t.Cleanup(run.Close)
	sink := &schedule.Collected{}
	require.NoError(t, schedule.Execute(context.Background(), run, sink, nil))
	count := map[judge.Verdict]int{}
	for _, c := range cases {
		r := sink.Result(c.ID)
		require.NotNil(t, r, c.ID)
		count[r.Verdict]++
		if r.Verdict == judge.Odd {
			t.Log(c.ID, r.Headline)
		}
	}
	return count, sink, run
}

// TestAPageInPiecesIsJudgedWhole: nothing is judged before the document has ended.
func TestAPageInPiecesIsJudgedWhole(t *testing.T) {
	t.Parallel()
	times := rounds("ODDTICK_ROUGH", 8)
	address := gate(t, func(http.ResponseWriter, *http.Request) bool { return false })
	inPieces := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		rec := httptest.NewRecorder()
		proxied, err := http.NewRequest(r.Method, address+r.URL.Path, r.Body)
		if err != nil {
			t.Error(err)
			return
		}
		proxied.Header = r.Header
		res, err := http.DefaultTransport.RoundTrip(proxied)
		if err != nil {
			t.Error(err)
			return
		}
		defer res.Body.Close()
		_, _ = rec.Body.ReadFrom(res.Body)
		w.Header().Set("Content-Type", res.Header.Get("Content-Type"))
		w.WriteHeader(res.StatusCode)
		body := rec.Body.Bytes()
		for i := range 10 {
			_, _ = w.Write(body[len(body)*i/10 : len(body)*(i+1)/10])
			w.(http.Flusher).Flush()
			time.Sleep(4 * time.Millisecond)
		}
	}))
	defer inPieces.Close()
	for _, driver := range []submission.Driver{submission.HTTP, submission.Browser} {
		count, _, _ := runGate(t, inPieces.URL, driver, times/2, 0)
		require.Equal(t, map[judge.Verdict]int{judge.AsExpected: times / 2 * 2}, count, driver)
	}
}

// TestASiteThatAsksToWaitIsWaitedFor: an answer of status 429 says nothing of the form.
func TestASiteThatAsksToWaitIsWaitedFor(t *testing.T) {
	t.Parallel()
	times := rounds("ODDTICK_ROUGH", 8)
	for _, driver := range []submission.Driver{submission.HTTP, submission.Browser} {
		var n atomic.Int32
		address := gate(t, func(w http.ResponseWriter, r *http.Request) bool {
			if strings.HasSuffix(r.URL.Path, ".ico") || n.Add(1)%7 != 0 {
				return false
			}
			w.Header().Set("Retry-After", "0")
			w.WriteHeader(http.StatusTooManyRequests)
			fmt.Fprint(w, `<p class="error">Too many requests</p>`)
			return true
		})
		count, _, run := runGate(t, address, driver, times/2, 0)
		require.Equal(t, map[judge.Verdict]int{judge.AsExpected: times / 2 * 2}, count, driver)
		asked, _ := run.Waited()
		require.Positive(t, asked, "it is said")
	}
	always := gate(t, func(w http.ResponseWriter, r *http.Request) bool {
		if r.Method == http.MethodPost {
			w.Header().Set("Retry-After", "7200")
			w.WriteHeader(http.StatusTooManyRequests)
		}
		return r.Method == http.MethodPost
	})
	count, sink, _ := runGate(t, always, submission.HTTP, 1, 0)
	require.Equal(t, map[judge.Verdict]int{judge.NotObserved: 2}, count, "who asks to wait for hours is not waited for, and not judged")
	require.Contains(t, sink.Result("gate/form.usual/http/0").Headline, "asks to wait 2h0m0s")
}

// TestAServerThatNeverAnswersHoldsNothingUp: it takes connections, and says nothing.
func TestAServerThatNeverAnswersHoldsNothingUp(t *testing.T) {
	t.Parallel()
	times := rounds("ODDTICK_ROUGH", 4)
	for _, driver := range []submission.Driver{submission.HTTP, submission.Browser} {
		silent := make(chan struct{})
		var posts, opened atomic.Int32
		address := gate(t, func(w http.ResponseWriter, r *http.Request) bool {
			stuck := r.Method == http.MethodPost && posts.Add(1)%2 == 0 || r.Method == http.MethodGet && opened.Add(1) > 3 && opened.Load()%3 == 0
			if stuck {
				select {
				case <-silent:
				case <-r.Context().Done():
				}
			}
			return stuck
		})
		started := time.Now()
		count, sink, _ := runGate(t, address, driver, max(1, times/4), time.Second)
		close(silent)
		require.Less(t, time.Since(started), time.Duration(8*times+60)*time.Second)
		require.Equal(t, max(1, times/4)*2, count[judge.AsExpected]+count[judge.Odd]+count[judge.NotObserved])
		for _, c := range gateCases(t, designerOf(t, gateForm), driver, max(1, times/4)) {
			switch r := sink.Result(c.ID); r.Verdict {
			case judge.Odd:
				require.Contains(t, r.Headline, "the site fails", "a submission that is never answered has failed")
			case judge.NotObserved:
				require.Contains(t, r.Headline, "within 1s", "a page that does not come says nothing of the form")
			}
		}
	}
}

// TestAListenerThatTakesNoRequest: the run says so, and does not hang.
func TestAListenerThatTakesNoRequest(t *testing.T) {
	t.Parallel()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	_, err = target.Open(context.Background(), target.Config{Site: &spec.Site{Address: "http://" + l.Addr().String()}, Designer: designerOf(t, gateForm), Number: 1, Timeout: time.Second})
	var cannot *target.CannotRunError
	require.ErrorAs(t, err, &cannot)
	require.ErrorContains(t, err, "does not answer")
}
