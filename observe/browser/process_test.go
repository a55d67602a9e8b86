package browser_test

import (
	"fmt"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"oddtick/observe/browser"

	"github.com/stretchr/testify/require"
)

// inProc reads a file of a process, with blanks for what parts its texts.
func inProc(t *testing.T, pid int, name string) string {
	t.Helper()
	text, err := os.ReadFile(filepath.Join("/proc", fmt.Sprint(pid), name))
	require.NoError(t, err)
	return strings.ReplaceAll(string(text), "\x00", " ")
}

func TestAttackTheBrowserIsInASandboxAndNotRoot(t *testing.T) {
	t.Setenv("ODDTICK_TEST_SECRET", "rake-and-hoe")
	h := newHarbour(t, ferryPage)
	b := startOn(t, h.URL)
	visitor(t, b, "/", "name")
	require.NotContains(t, inProc(t, b.Process(), "cmdline"), "--no-sandbox")
	require.NotContains(t, inProc(t, b.Process(), "status"), "Uid:\t0\t")
	require.NotContains(t, inProc(t, b.Process(), "environ"), "rake-and-hoe", "the environment's secrets stay out")
	sandboxed := 0
	for _, pid := range browser.Family(b.Process()) {
		if strings.Contains(inProc(t, pid, "cmdline"), "--type=renderer") {
			require.Contains(t, inProc(t, pid, "status"), "Seccomp:\t2", "a page's process makes few system calls only")
			sandboxed++
		}
	}
	require.Positive(t, sandboxed)
}

func TestAttackTheGuardLetsOnlyItsBrowserIn(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, ferryPage)
	b := startOn(t, h.URL)
	visitor(t, b, "/", "name")
	var guard string
	for _, arg := range strings.Fields(inProc(t, b.Process(), "cmdline")) {
		guard = strings.TrimPrefix(arg, "--proxy-server=")
		if guard != arg {
			break
		}
	}
	proxy, err := url.Parse(guard)
	require.NoError(t, err)
	client := &http.Client{Transport: &http.Transport{Proxy: http.ProxyURL(proxy), DisableKeepAlives: true}}
	res, err := client.Get(h.URL + "/by-somebody-else")
	if err == nil {
		res.Body.Close()
	}
	require.Error(t, err, "another process is not let in")
}

func TestAttackAPageThatTakesTooMuchMemory(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, ferryPage)
	b := startOn(t, h.URL)
	v := visitor(t, b, "/", "name")
	b.WatchMemory(1 << 20) // until it has ended
	_, err := v.Open(t.Context(), "/", []string{"name"})
	require.ErrorIs(t, err, browser.ErrGone)
	require.ErrorContains(t, err, "MB of memory")
}
