package browser_test

import (
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
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

// TestAttackTheBrowserIsDrivenByNobodyElse: it listens on no port, by which another program of this machine could drive it.
func TestAttackTheBrowserIsDrivenByNobodyElse(t *testing.T) {
	t.Parallel()
	b := startOn(t, newHarbour(t, ferryPage).URL)
	held := map[string]bool{}
	for _, pid := range browser.Family(b.Process()) {
		files, _ := filepath.Glob(fmt.Sprintf("/proc/%d/fd/*", pid))
		for _, f := range files {
			if to, err := os.Readlink(f); err == nil {
				held[to] = true
			}
		}
	}
	require.NotEmpty(t, held)
	for _, table := range []string{"/proc/net/tcp", "/proc/net/tcp6"} {
		text, err := os.ReadFile(table)
		if errors.Is(err, os.ErrNotExist) {
			continue // a machine without IPv6
		}
		require.NoError(t, err)
		for _, line := range strings.Split(string(text), "\n")[1:] {
			if fields := strings.Fields(line); len(fields) > 9 && fields[3] == "0A" { // it listens, by proc(5)
				require.False(t, held["socket:["+fields[9]+"]"], line)
			}
		}
	}
}

func TestAttackAPageThatTakesTooMuchMemory(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, ferryPage)
	b := startOn(t, h.URL)
	v := visitor(t, b, "/", "name")
	b.WatchMemory(1 << 20) // until it has ended
	_, err := v.Open(t.Context(), "/", formOf("name"))
	require.ErrorIs(t, err, browser.ErrGone)
	require.ErrorContains(t, err, "MB of memory")
}

// TestAttackAPageThatUnpacksWithoutEnd: of 150 MB, that come packed as 150 kB or as they are, no more is drawn than a page may have.
func TestAttackAPageThatUnpacksWithoutEnd(t *testing.T) {
	t.Parallel()
	page := bytes.Repeat([]byte("<p>"+strings.Repeat("Mind the geese. ", 1000)+"</p>"), 150<<20/16_000)
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	_, err := z.Write(page)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	site := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		switch r.URL.Path {
		case "/packed":
			w.Header().Set("Content-Encoding", "gzip")
			_, _ = w.Write(packed.Bytes())
		case "/plain":
			_, _ = w.Write(page) // as far as it is taken
		default:
			http.NotFound(w, r)
		}
	}))
	t.Cleanup(site.Close)
	b := startOn(t, site.URL)
	v, err := b.NewVisitor(t.Context())
	require.NoError(t, err)
	t.Cleanup(v.Close)
	for _, path := range []string{"/packed", "/plain"} {
		seen, err := v.Open(t.Context(), path, formOf("name"))
		if !errors.Is(err, browser.ErrStuck) { // as it may be on a busy machine
			require.NoError(t, err)
			require.Empty(t, seen.Failure)
			require.Less(t, strings.Count(seen.HTML, "<p"), 300)
		}
		require.False(t, b.Gone(), "it takes no more memory than it may")
	}
}
