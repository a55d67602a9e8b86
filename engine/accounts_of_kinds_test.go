package engine_test

import (
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"

	"oddtick/engine/target"
	"oddtick/engine/testdata/ordinary"

	"github.com/stretchr/testify/require"
)

// TestASessionFromElsewhereOpensThePage, while it lasts.
func TestASessionFromElsewhereOpensThePage(t *testing.T) {
	t.Parallel()
	i := slices.IndexFunc(ordinary.Families, func(f ordinary.Family) bool { return f.Name == "behind" })
	site := ordinarySite(t, &ordinary.Families[i], "").Site
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	answer, err := client.PostForm(site.Address+"/in", url.Values{"nick": {"mara"}, "pass": {"over the bar"}})
	require.NoError(t, err)
	answer.Body.Close()
	cookie, _, _ := strings.Cut(answer.Header.Get("Set-Cookie"), ";")
	mara := &site.Accounts[0]
	mara.Password, mara.Session = "", cookie
	for _, scripts := range []bool{false, true} {
		text, _, err := target.FetchPage(t.Context(), site, "/yard/boat", "mara", scripts, "", 1<<20)
		require.NoError(t, err)
		require.Contains(t, text, `name="boat"`)
	}
	mara.Session = "yard=over"
	_, _, err = target.FetchPage(t.Context(), site, "/yard/boat", "mara", false, "", 1<<20)
	require.ErrorContains(t, err, "leads to the sign-in page /in")
	require.NotContains(t, err.Error(), "over")
}
