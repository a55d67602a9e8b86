package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestFiveRunsInAPipeline: faults appear and vanish from one run to the next, each held against the one before.
func TestFiveRunsInAPipeline(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	file := func(name string) string { return filepath.Join(dir, name) }
	known := func(id string) {
		require.NoError(t, os.WriteFile(file("known.yaml"), []byte("known:\n  - {finding: "+id+", until: 2999-12-31, link: 'https://tracker.example/7'}\n"), 0o600))
	}
	run := func(name string, faults []string, more ...string) (int, string) {
		address, dsn := site(t, faults...)
		code, out, errs := oddtick(t, append([]string{"run", join, "--site", address, "--database", dsn, "--depth", "quick", "--json", file(name)}, more...)...)
		require.Empty(t, errs)
		return code, out
	}
	lists := func(before, after string) map[string][]string {
		code, out, errs := oddtick(t, "compare", file(before), file(after), "--json", "-")
		require.NotEqual(t, 2, code, errs)
		var c map[string]json.RawMessage
		require.NoError(t, json.Unmarshal([]byte(out), &c))
		found := map[string][]string{}
		for _, list := range []string{"newly_odd", "still_odd", "no_longer_odd", "not_seen_again"} {
			var of []struct{ Row string }
			require.NoError(t, json.Unmarshal(c[list], &of))
			for _, f := range of {
				found[list] = append(found[list], f.Row)
			}
		}
		return found
	}

	code, out := run("1.json", []string{"username-cut", "plots-five"})
	require.Equal(t, 1, code)
	id := regexp.MustCompile(`odd  username .*\)  ([a-z2-7]{8})`).FindStringSubmatch(out)[1]
	code, _ = run("2.json", []string{"username-cut", "plots-five"}, "--baseline", file("1.json"))
	require.Zero(t, code, "all of it was odd before")
	require.Equal(t, map[string][]string{"still_odd": {"username", "plots"}}, lists("1.json", "2.json"))
	code, out = run("3.json", []string{"username-cut", "message-text"}, "--baseline", file("2.json"))
	require.Equal(t, 1, code, "a message is newly odd")
	require.Contains(t, out, "no longer odd   plots")
	require.Equal(t, map[string][]string{"newly_odd": {"membership"}, "still_odd": {"username"}, "no_longer_odd": {"plots"}}, lists("2.json", "3.json"))
	code, _ = run("4.json", nil, "--baseline", file("3.json"))
	require.Zero(t, code)
	require.Equal(t, map[string][]string{"no_longer_odd": {"username", "membership"}}, lists("3.json", "4.json"))
	known("aaaaaaaa")
	code, out = run("5.json", []string{"username-cut"}, "--baseline", file("4.json"), "--known", file("known.yaml"))
	require.Equal(t, 1, code, "it is back")
	require.Contains(t, out, "aaaaaaaa", "a known finding that no case shows is said")
	require.Equal(t, map[string][]string{"newly_odd": {"username"}}, lists("4.json", "5.json"))
	known(id)
	code, out = run("5.json", []string{"username-cut"}, "--baseline", file("4.json"), "--known", file("known.yaml"))
	require.Zero(t, code, "what is known does not count: %s", out)
	require.Contains(t, out, id, "its name is the same as in the first run")

	// whether it may ship, by what is known
	verdict := func(code int, says string, more ...string) {
		t.Helper()
		got, out, errs := oddtick(t, append([]string{"report", file("5.json"), "--verdict"}, more...)...)
		require.Equal(t, code, got, "%s%s", out, errs)
		require.Contains(t, out+errs, says)
	}
	verdict(0, "Join the association: ready to ship, 1 finding accepted")
	code, _ = run("6.json", []string{"username-cut"})
	require.Equal(t, 1, code)
	require.NoError(t, os.Rename(file("6.json"), file("5.json")))
	verdict(1, "Join the association: not ready to ship: 1 major finding\n  "+id+"  Username of 21 characters accepted")
	verdict(0, "accepted for now until 2999-12-31", "--known", file("known.yaml"))
	known("aaaaaaaa")
	verdict(1, "not ready to ship: 1 major finding", "--known", file("known.yaml"))
	code, _, errs := oddtick(t, "report", file("5.json"), "--known", file("known.yaml"))
	require.Equal(t, 2, code)
	require.Contains(t, errs, "--known says what counts for --verdict")

	// a disk that is full
	for _, to := range []string{"--html", "--markdown", "--junit", "--csv", "--xlsx"} {
		code, _, errs := oddtick(t, "report", file("5.json"), to, "/dev/full")
		require.Equal(t, 2, code, to)
		require.True(t, strings.HasPrefix(errs, "write /dev/full: ") || strings.Contains(errs, "write /dev/full"), errs)
		require.Contains(t, errs, "no space left on device", to)
	}
}

// TestRunInAnEnvironment: a protected one is confirmed, or gets only the cases that should write nothing.
func TestRunInAnEnvironment(t *testing.T) {
	t.Parallel()
	address, dsn := site(t)
	dir := t.TempDir()
	text, err := os.ReadFile(join)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "join.yaml"), text, 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "site.yaml"), []byte("site: ostlewick\naddress: http://127.0.0.1:1\nenvironments:\n"+
		"  - {id: live, address: "+address+", protected: confirm, databases: [{id: main, kind: mariadb, dsn: \""+dsn+"\"}]}\n"+
		"  - {id: seen, address: "+address+", protected: no_writes, databases: [{id: main, kind: mariadb, dsn: \""+dsn+"\"}]}\n"), 0o600))
	for flags, want := range map[string]string{
		"--environment gone":                      "--environment: the site ostlewick has no environment \"gone\"; it has live, seen",
		"--environment live":                      "the environment live is protected: add --confirm live to submit there",
		"--environment live --confirm production": "the environment live is protected",
	} {
		code, _, errs := oddtick(t, append([]string{"run", dir, "--depth", "quick"}, strings.Fields(flags)...)...)
		require.Equal(t, 2, code)
		require.Contains(t, errs, want)
	}
	results := func(flags ...string) map[string]any {
		file := filepath.Join(t.TempDir(), "r.json")
		code, _, errs := oddtick(t, append([]string{"run", dir, "--form", "join", "--depth", "quick", "--json", file}, flags...)...)
		require.Zero(t, code, errs)
		var r struct {
			Site    string
			Results map[string]any
		}
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(text, &r))
		require.Equal(t, address, r.Site)
		return r.Results
	}
	all := results("--environment", "live", "--confirm", "live")
	const cut, usual = "join/username.length.max+1/http", "join/username.length.max/http"
	require.True(t, all[cut] != nil && all[usual] != nil)
	seen := results("--environment", "seen")
	require.True(t, seen[cut] != nil && seen[usual] == nil, "only what should be rejected")
	require.NotEmpty(t, seen)
	require.Less(t, len(seen), len(all))
}
