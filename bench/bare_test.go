package bench

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"oddtick/core/observation"
	"oddtick/core/submission"
	"oddtick/observe/web"

	"github.com/stretchr/testify/require"
)

// TestTheBareLoopSendsWhatARunSends, header by header: what they are compared by is the same work for the site.
func TestTheBareLoopSendsWhatARunSends(t *testing.T) {
	t.Parallel()
	type request struct {
		method, path, body string
		header             http.Header
	}
	var got []request
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		path := r.URL.Path
		if err := r.ParseForm(); err != nil {
			t.Error(err)
		}
		got = append(got, request{r.Method, path, r.PostForm.Encode(), r.Header})
		http.SetCookie(w, &http.Cookie{Name: "session", Value: "one", Path: "/"})
		if r.Method == http.MethodPost {
			http.Redirect(w, r, "/waiting-list", http.StatusSeeOther)
			return
		}
		fmt.Fprint(w, "<form method=post></form>")
	}))
	defer server.Close()
	client, err := web.NewClient(web.Options{Address: server.URL, Timeout: 5 * time.Second})
	require.NoError(t, err)
	defer client.Close()
	v := client.NewVisitor()
	_, err = v.Open(t.Context(), "/join")
	require.NoError(t, err)
	_, err = v.Submit(t.Context(), &observation.Form{Method: http.MethodPost, Action: server.URL + "/join", Encoding: "urlencoded"}, []submission.Pair{{Name: "name", Value: "Moss"}}, "")
	require.NoError(t, err)
	run := got

	got = nil
	loop := &bare{b: t, address: server.URL, transport: &http.Transport{}}
	c := loop.visitor()
	loop.fetch(c, http.MethodGet, "/join", "")
	loop.fetch(c, http.MethodPost, "/join", "name=Moss")
	require.Len(t, got, 3)
	require.Equal(t, run, got)
}
