package engine_test

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

// record keeps what a site was sent.
type record struct {
	mu   sync.Mutex
	seen []string
}

func (r *record) add(line string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.seen = append(r.seen, line)
}

// runOn runs a form without a database and returns results by case.
func runOn(t testing.TB, address, formText string) map[string]*report.Result {
	d := designerOf(t, formText)
	all, _ := d.Cases(testcase.Standard)
	cases, _ := target.Drivable(all)
	run, err := target.Open(context.Background(), target.Config{Site: &spec.Site{Address: address}, Designer: d, Cases: cases, Number: time.Now().UnixNano(), Timeout: 500 * time.Millisecond})
	require.NoError(t, err)
	defer run.Close()
	sink := &schedule.Collected{}
	require.NoError(t, schedule.Execute(context.Background(), run, sink, nil))
	out := map[string]*report.Result{}
	for _, c := range cases {
		out[c.ID] = sink.Result(c.ID)
	}
	return out
}

// TestWhatIsSentIsWhatABrowserWouldSend: the page's own controls go along, in their order; disabled and unticked ones do not.
func TestWhatIsSentIsWhatABrowserWouldSend(t *testing.T) {
	t.Parallel()
	var got record
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost {
			body := make([]byte, r.ContentLength)
			_, _ = r.Body.Read(body)
			got.add(string(body))
			http.Redirect(w, r, "/done", http.StatusSeeOther)
			return
		}
		fmt.Fprint(w, `<form method=post><input type=hidden name=key value=k1><input name=b><input name=off value=1 disabled><input type=checkbox name=news>
			<input type=radio name=r value=1><input type=radio name=r value=2 checked><select name=s><option value=x>X<option value=y selected>Y</select>
			<input name=a value=old><textarea name=note>as it is</textarea><input type=file name=f><button name=act value=save>Save</button><button name=act value=drop>Drop</button></form>`)
	}))
	defer server.Close()
	runOn(t, server.URL, "form: f\npage: /\nfields: [{name: a, rules: [{length: {max: 4}}]}, {name: b, kind: honeypot}]\naccepted: {to: /done}\nstored: [{insert: t, columns: {role: {is: x}}}]\n")
	require.Contains(t, got.seen, "key=k1&b=&r=2&s=y&a=&note=as+it+is&act=save", "left blank")
	i := slices.IndexFunc(got.seen, func(s string) bool { return strings.Contains(s, "role=admin") })
	require.GreaterOrEqual(t, i, 0)
	require.True(t, strings.HasSuffix(got.seen[i], "&act=save&role=admin&is_admin=1&id=1"), "what is surplus comes last: %s", got.seen[i])
}

func TestEachCaseIsAVisitorOfItsOwn(t *testing.T) {
	t.Parallel()
	var got record
	n := 0
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if c, err := r.Cookie("who"); err == nil && r.Method == http.MethodPost {
			got.add(c.Value)
		}
		if _, err := r.Cookie("who"); err != nil {
			got.mu.Lock()
			n++
			http.SetCookie(w, &http.Cookie{Name: "who", Value: fmt.Sprint(n), Path: "/"})
			got.mu.Unlock()
		}
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprint(w, `<form method=post><input name=a></form>`)
	}))
	defer server.Close()
	results := runOn(t, server.URL, "form: f\npage: /\nfields: [{name: a, rules: [{length: {min: 2, max: 4}}]}]\naccepted: {status: 200}\n")
	slices.Sort(got.seen)
	seen := slices.Compact(got.seen)
	reached := 0 // by its submission; the request by another method is none
	for id := range results {
		if id != "f/form.other_method/http" {
			reached++
		}
	}
	require.Len(t, seen, reached, "two cases shared a session")
}

func TestFormsSentByGETAndMultipart(t *testing.T) {
	t.Parallel()
	for method, encoding := range map[string]string{"get": "", "post": `enctype="multipart/form-data"`} {
		server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			_ = r.ParseMultipartForm(1 << 20)
			sent := r.FormValue("q")
			message := ""
			if r.Form.Has("q") && len(sent) > 5 {
				message = `<p role=alert>Too long.</p>`
			} else if r.Form.Has("q") {
				message = `<p>Found ` + sent + `.</p>`
			}
			fmt.Fprintf(w, `<form method=%s %s><input name=q value=%q></form>%s`, method, encoding, sent, message)
		}))
		defer server.Close()
		form := "form: f\npage: /\nfields: [{name: q, rules: [{required: {}}, {pattern: {is: '[a-z]*'}}, {length: {max: 5, message: Too long., place: summary}}]}]\naccepted: {status: 200, reply: 'Found {q}.'}\n"
		results := runOn(t, server.URL, form)
		for _, id := range []string{"f/q.length.max/http", "f/q.length.max+1/http", "f/q.length.max.far/http"} {
			require.Equal(t, judge.AsExpected, results[id].Verdict, "%s %s: %s", method, id, results[id].Headline)
		}
		require.Equal(t, judge.Odd, results["f/q.blank/http"].Verdict, "a blank value is taken, though it is required")
	}
}

func TestWithoutADatabaseAFaultlessSiteGivesNoOddTick(t *testing.T) {
	t.Parallel()
	address, _ := ostlewick(t)
	for id, r := range runOn(t, address, joinText(t)) {
		require.NotEqual(t, judge.Odd, r.Verdict, "%s: %s", id, r.Headline)
		if e := r.Steps[len(r.Steps)-1].Expectation; e != nil && e.Outcome == oracle.Answered {
			continue // nothing is promised of it
		}
		require.Equal(t, judge.NotObserved, r.Checks[4], "what is stored is not counted as passed")
	}
}

// TestSitesThatBreakDown: whatever a site does, every case ends with a verdict and a reason.
func TestSitesThatBreakDown(t *testing.T) {
	t.Parallel()
	const page = `<form method=post><input name=a></form>`
	for name, c := range map[string]struct {
		answer  http.HandlerFunc
		outcome string
	}{
		"cuts the connection": {func(w http.ResponseWriter, _ *http.Request) {
			conn, _, err := w.(http.Hijacker).Hijack()
			if err == nil {
				conn.Close()
			}
		}, "failed: POST /: EOF"},
		"does not answer in time": {func(http.ResponseWriter, *http.Request) { time.Sleep(700 * time.Millisecond) }, "failed: POST /: "},
		"answers with an error":   {func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusBadGateway) }, "failed: status 502"},
		"shows its inside":        {func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "Fatal error: Uncaught Error") }, "failed: the page shows server internals"},
		"redirects without end":   {func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/loop", http.StatusFound) }, "silent"},
		"streams without end": {func(w http.ResponseWriter, r *http.Request) {
			for r.Context().Err() == nil {
				fmt.Fprint(w, "<p>more</p>")
				_ = http.NewResponseController(w).Flush()
				time.Sleep(20 * time.Millisecond)
			}
		}, "failed: POST /: "},
		"sends 50 MB": {func(w http.ResponseWriter, _ *http.Request) {
			line := bytes.Repeat([]byte("<!-- moss moss moss moss moss moss moss moss moss -->"), 20_000)
			for range 50 {
				if _, err := w.Write(line); err != nil {
					return
				}
			}
		}, "silent"},
		"sends broken UTF-8": {func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "text/html; charset=utf-8")
			_, _ = w.Write([]byte("<p>a\xff\xfeb</p>"))
		}, "silent"},
		"sends what is no page": {func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte{0xff, 0x00, '<'}) }, "silent"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
				switch {
				case r.Method == http.MethodPost || r.URL.Path == "/loop":
					c.answer(w, r)
				default:
					w.Header().Set("Content-Type", "text/html; charset=utf-8")
					fmt.Fprint(w, page)
				}
			}))
			defer server.Close()
			results := runOn(t, server.URL, "form: f\npage: /\nfields: [{name: a, rules: [{required: {}}]}]\naccepted: {to: /done}\n")
			r := results["f/a.valid/http"]
			require.Equal(t, judge.Odd, r.Verdict)
			require.Contains(t, r.Steps[0].Judgement.Checks[0].Parts[0].Words.Observed, c.outcome)
			drawn := results["f/a.blank/browser"]
			require.Contains(t, []judge.Verdict{judge.Odd, judge.NotObserved}, drawn.Verdict, drawn.Headline)
		})
	}
}

// TestChoicesThatOfferNoBlank: of radio buttons none is sent when none is chosen; a list without a blank option cannot be left blank.
func TestChoicesThatOfferNoBlank(t *testing.T) {
	t.Parallel()
	var got record
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost {
			_ = r.ParseForm()
			got.add(r.PostForm.Encode())
			if share := r.PostForm.Get("share"); share != "" && share != "h" && share != "w" {
				fmt.Fprint(w, `<form method=post><input type=radio name=share value=h><input type=radio name=share value=w><select name=area><option value=b>B</select></form><p class=error>No.</p>`)
				return
			}
			http.Redirect(w, r, "/done", http.StatusSeeOther)
			return
		}
		if r.URL.Path == "/done" {
			fmt.Fprint(w, `<ul><li class=mine>h</li></ul>`)
			return
		}
		fmt.Fprint(w, `<form method=post><input type=radio name=share value=h><input type=radio name=share value=w checked><select name=area><option value=b>B</select></form>`)
	}))
	defer server.Close()
	results := runOn(t, server.URL, `form: f
page: /
fields:
  - {name: share, kind: single_choice, options: [{value: h}, {value: w}]}
  - {name: area, kind: single_choice, options: [{value: b}]}
accepted: {to: /done, shown: [{page: /done, selector: li.mine, text: "{share}"}]}
`)
	require.Contains(t, got.seen, "area=b", "no radio button is chosen")
	require.Equal(t, judge.DoesNotApply, results["f/area.blank/http"].Verdict)
	require.Contains(t, results["f/area.blank/http"].Headline, "the page offers no blank option for area")
	require.Equal(t, judge.AsExpected, results["f/share.option.h/http"].Verdict, results["f/share.option.h/http"].Headline)
	require.Equal(t, judge.Odd, results["f/share.option.w/http"].Verdict, "the page shows another value than was saved")
}
