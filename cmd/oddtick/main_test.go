package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"

	"oddtick/internal/localdb/dbtest"
	"oddtick/observe/mail"
	"oddtick/practice"

	"github.com/stretchr/testify/require"
)

const join = "../../examples/ostlewick/join.yaml"

func TestMain(m *testing.M) {
	if os.Getenv("ODDTICK_TEST_AS_COMMAND") == "1" {
		main()
		return
	}
	dbtest.Main(m)
}

// oddtick runs this test's own binary as the command.
func oddtick(t testing.TB, args ...string) (code int, out, errs string) {
	cmd := command(args...)
	var stdout, stderr bytes.Buffer
	cmd.Stdout, cmd.Stderr = &stdout, &stderr
	err := cmd.Run()
	if err != nil {
		exit := &exec.ExitError{}
		require.ErrorAs(t, err, &exit)
	}
	return cmd.ProcessState.ExitCode(), stdout.String(), stderr.String()
}

func command(args ...string) *exec.Cmd {
	cmd := exec.Command(os.Args[0], args...)
	cmd.Env = append(os.Environ(), "ODDTICK_TEST_AS_COMMAND=1")
	return cmd
}

func site(t testing.TB, faults ...string) (address, dsn string) {
	dsn = dbtest.DSN(t)
	s, err := practice.Open(context.Background(), practice.Config{DSN: dsn, Faults: faults, HashCost: 8})
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	server := httptest.NewServer(s.Handler(false))
	t.Cleanup(server.Close)
	return server.URL, dsn
}

func TestRunEndsWithZeroWhenAllIsAsExpected(t *testing.T) {
	t.Parallel()
	address, dsn := site(t)
	code, out, errs := oddtick(t, "run", join, "--site", address, "--database", dsn)
	require.Zero(t, code, out+errs)
	require.Regexp(t, `join: \d+ cases, \d+ as expected, 0 odd, 0 not observed`, out)
}

func TestRunSaysAsMuchAsIsAsked(t *testing.T) {
	t.Parallel()
	address, dsn := site(t, "username-cut")
	run := func(more ...string) (out, errs string) {
		code, out, errs := oddtick(t, append([]string{"run", join, "--depth", "quick", "--site", address, "--database", dsn}, more...)...)
		require.Equal(t, 1, code, out+errs)
		return out, errs
	}
	out, errs := run("--quiet")
	require.Regexp(t, `^join: \d+ cases, \d+ as expected, 1 odd, 0 not observed, [\d.]+ s\n$`, out)
	require.Empty(t, errs)
	out, errs = run("--verbose")
	require.Contains(t, out, "odd  username")
	require.Regexp(t, `(?m)^as expected  join/username.length.max/http: Accepted, as expected, \d+ ms$`, errs)
	require.Regexp(t, `(?m)^odd          join/username.length.max\+1/http: Username of 21 characters accepted \(promised: 3 to 20 characters\), stored cut to 20 characters, \d+ ms\n             step 1, Outcome: outcome: `, errs)
	require.NotContains(t, errs, "Maple-row-", "no secret is printed")
	code, _, errs := oddtick(t, "run", join, "--quiet", "--verbose")
	require.Equal(t, 2, code)
	require.Contains(t, errs, "quiet verbose")
}

func TestRunWritesWhatWasFound(t *testing.T) {
	t.Parallel()
	address, dsn := site(t, "username-cut", "membership-zeros")
	dir := t.TempDir()
	file := func(name string) string { return filepath.Join(dir, name) }
	code, out, _ := oddtick(t, "run", join, "--site", address, "--database", dsn, "--junit", file("r.xml"), "--json", file("r.json"), "--csv", file("r.csv"))
	require.Equal(t, 1, code)
	require.Contains(t, out, "odd  username       Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters (1)  rlpomnvc\n       join/username.length.max+1/http")
	require.Regexp(t, `(?m)^odd  (membership|several rows) +Membership number: `, out, "a number of another row may begin with a zero by chance")
	var report struct {
		Complete bool
		Results  map[string]struct{ Verdict string }
	}
	text, err := os.ReadFile(file("r.json"))
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(text, &report))
	require.True(t, report.Complete)
	require.Equal(t, "odd", report.Results["join/username.length.max+1/http"].Verdict)
	text, err = os.ReadFile(file("r.csv"))
	require.NoError(t, err)
	rows, err := csv.NewReader(bytes.NewReader(text)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, len(report.Results)+1)
	require.NotContains(t, string(text), "Maple-row-", "secrets are left out of the sheet")
	text, err = os.ReadFile(file("r.xml"))
	require.NoError(t, err)
	require.Contains(t, string(text), `failures="2"`)
	code, out, errs := oddtick(t, "report", file("r.json"), "--html", file("r.html"))
	require.Zero(t, code, errs)
	require.Empty(t, out)
	text, err = os.ReadFile(file("r.html"))
	require.NoError(t, err)
	require.Contains(t, string(text), "<bdi>Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters</bdi>")
	code, out, _ = oddtick(t, "report", file("r.json"))
	require.Zero(t, code)
	require.Contains(t, out, "# Join the association: not ready to ship: 2 major findings")
	id := regexp.MustCompile("Finding `([a-z2-7]+)`").FindStringSubmatch(out)[1]
	code, out, _ = oddtick(t, "report", file("r.json"), "--finding", id)
	require.Zero(t, code)
	require.Contains(t, out, "# Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters")
	require.NotContains(t, out, "Membership number: “")
	further := func(id string) (int, string, string) {
		return oddtick(t, "investigate", join, id, "--site", address, "--database", dsn)
	}
	code, out, _ = further("join/username.length.max+1/http")
	require.Equal(t, 1, code)
	require.Contains(t, out, "Reproduced 5 of 5 times. Simplest trigger: an unusual value in Username.")
	require.Regexp(t, `Username +\S{21}\n`, out)
	code, out, _ = further("join/username.length.max/http")
	require.Zero(t, code)
	require.Equal(t, "Accepted, as expected\n", out)
	code, _, errs = further("join/none/http")
	require.Equal(t, 2, code)
	require.Contains(t, errs, `the form has no case "join/none/http"`)
	code, _, errs = oddtick(t, "report", file("r.json"), "--finding", "nothing")
	require.Equal(t, 2, code)
	require.Contains(t, errs, `there is no finding "nothing"`)
	code, _, errs = oddtick(t, "report", file("r.json"), "--html", filepath.Join(dir, "no", "such", "folder.html"))
	require.Equal(t, 2, code)
	require.Contains(t, errs, "no such file or directory")
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.Len(t, left, 4, "nothing half written is left behind")
	code, out, errs = oddtick(t, "run", join, "--site", address, "--database", dsn, "--depth", "quick", "--json", "-", "--summary", file("summary.md"))
	require.Equal(t, 1, code)
	require.True(t, json.Valid([]byte(out)), "standard output holds the JSON alone")
	require.Contains(t, errs, "stored cut to 20 characters")
	text, err = os.ReadFile(file("summary.md"))
	require.NoError(t, err)
	require.Contains(t, string(text), "- **Join the association**, Username: Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters (1 case)")
}

// TestRunEndsWithTwoWhenItCannot: each reason is told with place and remedy on standard error.
func TestRunEndsWithTwoWhenItCannot(t *testing.T) {
	t.Parallel()
	address, dsn := site(t)
	write := func(name, text string) string {
		path := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	good, err := os.ReadFile(join)
	require.NoError(t, err)
	for name, c := range map[string]struct {
		args []string
		says string
	}{
		"site down":        {[]string{"run", join, "--site", "http://127.0.0.1:1", "--database", dsn}, "does not answer"},
		"database down":    {[]string{"run", join, "--site", address, "--database", "root@tcp(127.0.0.1:1)/x"}, "cannot be reached"},
		"broken file":      {[]string{"run", write("a.yaml", "form: [x\npage:"), "--site", address}, "a.yaml:2:1: this is not YAML"},
		"unknown key":      {[]string{"run", write("b.yaml", strings.Replace(string(good), "state: guest", "stats: guest", 1)), "--site", address}, `stats: the key "stats" is not known here; did you mean "state"?`},
		"wrong type":       {[]string{"run", write("c.yaml", strings.Replace(string(good), "min: 3,", "min: few,", 1)), "--site", address}, "fields[0].rules[1].length.min: a whole number is expected"},
		"minimum above":    {[]string{"run", write("d.yaml", strings.Replace(string(good), "min: 3,", "min: 33,", 1)), "--site", address}, "d.yaml:17:18: fields[username].rules[length].min: The minimum 33 of Username is above its maximum 20: no value can pass. (33 is more than 20); swap them"},
		"impossible":       {[]string{"run", write("e.yaml", strings.Replace(string(good), `'[A-Za-z0-9\-]+'`, "'[a-z]{40,}'", 1)), "--site", address}, "No text of the allowed length matches the pattern of Username. (what matches has 40 characters or more; 3 to 20 are allowed)"},
		"no such file":     {[]string{"run", "none.yaml", "--site", address}, "none.yaml cannot be read"},
		"no document":      {[]string{"run", t.TempDir(), "--site", address}, "contains no document"},
		"no address":       {[]string{"run", join}, "the site's address is needed: --site"},
		"unknown depth":    {[]string{"run", join, "--site", address, "--depth", "deep"}, `the depth "deep" is not known; write quick, standard or thorough`},
		"unknown form":     {[]string{"run", join, "--site", address, "--form", "none"}, `there is no form "none"`},
		"unknown flag":     {[]string{"run", join, "--colour"}, "has no option --colour"},
		"unwritable":       {[]string{"run", join, "--site", address, "--database", dsn, "--depth", "quick", "--csv", "/none/r.csv"}, "write /none/r.csv"},
		"no database":      {[]string{"practice"}, "practice needs --dsn"},
		"unknown fault":    {[]string{"practice", "--dsn", dsn, "--faults", "none"}, `there is no fault "none"`},
		"not loopback":     {[]string{"practice", "--dsn", dsn, "--addr", "192.0.2.1:80"}, "is not a loopback address"},
		"no place":         {[]string{"practice", "--dsn", dsn, "--addr", "nowhere"}, "is not host:port"},
		"serve without db": {[]string{"serve", "--as-root"}, "ODDTICK_DSN is not set"},
	} {
		code, _, errs := oddtick(t, c.args...)
		require.Equal(t, 2, code, name)
		require.Contains(t, errs, c.says, name)
	}
}

func TestWithoutADatabaseTheExitCodeIsTwo(t *testing.T) {
	t.Parallel()
	address, _ := site(t)
	code, out, _ := oddtick(t, "run", join, "--site", address, "--depth", "quick")
	require.Equal(t, 2, code, "what is stored was not observed")
	require.Contains(t, out, "not observed  join/username.valid/http")
}

func TestDesignPrintsTheSameEveryTime(t *testing.T) {
	t.Parallel()
	code, first, _ := oddtick(t, "design", join, "--json", "-")
	require.Zero(t, code)
	_, second, _ := oddtick(t, "design", join, "--json", "-")
	require.Equal(t, first, second)
	require.True(t, json.Valid([]byte(first)))
	code, out, _ := oddtick(t, "design", filepath.Dir(join), "--depth", "quick")
	require.Zero(t, code)
	require.Contains(t, out, "join/username.length.max+1/http")
	require.Regexp(t, `join: \d+ cases`, out)
}

func TestFaultsAreListedForMachines(t *testing.T) {
	t.Parallel()
	code, out, _ := oddtick(t, "practice", "--list-faults")
	require.Zero(t, code)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, len(practice.Faults))
	for _, line := range lines {
		require.Regexp(t, regexp.MustCompile(`^[a-z0-9-]+\t[a-z_]+\t[a-z_]+\t\S.*$`), line)
	}
}

func TestPracticeServesUntilItIsInterrupted(t *testing.T) {
	t.Parallel()
	cmd := command("practice", "--addr", "127.0.0.1:0", "--dsn", dbtest.DSN(t), "--hash-cost", "8")
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	line := make([]byte, 200)
	n, err := out.Read(line)
	require.NoError(t, err)
	require.Regexp(t, `Ostlewick Allotments is at http://127\.0\.0\.1:\d+`, string(line[:n]))
	require.NoError(t, cmd.Process.Signal(syscall.SIGINT))
	require.NoError(t, cmd.Wait())
}

func TestATakenPortIsNamed(t *testing.T) {
	t.Parallel()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	code, _, errs := oddtick(t, "practice", "--addr", l.Addr().String(), "--dsn", dbtest.DSN(t))
	require.Equal(t, 2, code)
	require.Contains(t, errs, "cannot listen on "+l.Addr().String())
}

func TestAnInterruptedRunSaysSo(t *testing.T) {
	t.Parallel()
	dsn := dbtest.DSN(t)
	s, err := practice.Open(context.Background(), practice.Config{DSN: dsn, HashCost: 8})
	require.NoError(t, err)
	defer s.Close()
	submitted := make(chan struct{}, 1000)
	handler := s.Handler(false)
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost {
			submitted <- struct{}{}
		}
		handler.ServeHTTP(w, r)
	}))
	defer server.Close()
	cmd := command("run", join, "--site", server.URL, "--database", dsn, "--depth", "thorough")
	var out bytes.Buffer
	cmd.Stdout = &out
	require.NoError(t, cmd.Start())
	<-submitted
	require.NoError(t, cmd.Process.Signal(syscall.SIGINT))
	_ = cmd.Wait()
	require.Equal(t, 2, cmd.ProcessState.ExitCode(), "what was not run is not observed")
	require.Contains(t, out.String(), "stopped before the end")
}

func TestTheSchemaIsPrinted(t *testing.T) {
	t.Parallel()
	for _, document := range []string{"form", "site", "result"} {
		code, out, _ := oddtick(t, "schema", document)
		require.Equal(t, 0, code)
		require.True(t, json.Valid([]byte(out)))
		require.Contains(t, out, "https://json-schema.org/draft/2020-12/schema")
	}
	code, _, errs := oddtick(t, "schema", "journey")
	require.Equal(t, 2, code)
	require.Contains(t, errs, "write form, site or result")
}

// TestAContradictoryFormCanStillBeRun: what no value can pass is named and ends with 2, and runs with --ignore-contradictions.
func TestAContradictoryFormCanStillBeRun(t *testing.T) {
	t.Parallel()
	address, dsn := site(t)
	text, err := os.ReadFile(join)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "join.yaml")
	require.NoError(t, os.WriteFile(file, []byte(strings.Replace(string(text), "min: 10, max: 72, in: bytes", "min: 80, max: 72, in: bytes", 1)), 0o600))
	args := []string{"run", file, "--site", address, "--database", dsn, "--depth", "quick"}
	code, _, errs := oddtick(t, args...)
	require.Equal(t, 2, code)
	require.Contains(t, errs, "fields[password].rules[length].min: The minimum 80 of Password is above its maximum 72")
	code, out, _ := oddtick(t, append(args, "--ignore-contradictions")...)
	require.Equal(t, 0, code, "the site rejects whatever is sent, as no value can pass")
	require.Regexp(t, `join: \d\d cases, \d\d as expected, 0 odd`, out)
}

// TestRunLooksBeyondForms: who may open what, and a journey; each alone, and all of a folder.
func TestRunLooksBeyondForms(t *testing.T) {
	t.Parallel()
	const folder = "../../examples/ostlewick"
	mails, err := mail.Listen("127.0.0.1:0")
	require.NoError(t, err)
	address := mails.Address()
	mails.Close() // the command receives there
	dsn := dbtest.DSN(t)
	server := httptest.NewUnstartedServer(nil)
	s, err := practice.Open(context.Background(), practice.Config{DSN: dsn, Faults: []string{"stewards-open", "confirm-twice"}, HashCost: 8, Accounts: true, Mail: address, Public: "http://" + server.Listener.Addr().String()})
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	server.Config.Handler = s.Handler(false)
	server.Start()
	t.Cleanup(server.Close)
	file := filepath.Join(t.TempDir(), "r.json")
	at := []string{"--site", server.URL, "--database", dsn, "--json", file, "--junit", strings.TrimSuffix(file, ".json") + ".xml"}
	code, out, errs := oddtick(t, append([]string{"run", folder, "--access"}, at...)...)
	require.Equal(t, 1, code, errs)
	require.Contains(t, out, "odd  access         /stewards, for maple: opens, should be: is refused (403) as if steward were signed_in")
	require.Contains(t, out, "access: 11 pages as 7 visitors, 83 as expected, 5 odd, 0 not observed")
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	require.True(t, json.Valid(text))
	text, err = os.ReadFile(strings.TrimSuffix(file, ".json") + ".xml")
	require.NoError(t, err)
	require.Contains(t, string(text), `tests="88" failures="5"`)
	require.Contains(t, string(text), `name="/stewards as maple"`)
	code, out, errs = oddtick(t, append([]string{"run", folder, "--journey", "joining", "--mail", address}, at...)...)
	require.Equal(t, 1, code, errs)
	require.Contains(t, out, "odd  journey        joining/link_twice: follow the link again:")
	require.Contains(t, out, "joining: 4 paths, 1 as expected, 3 odd, 0 not observed")
	text, err = os.ReadFile(strings.TrimSuffix(file, ".json") + ".xml")
	require.NoError(t, err)
	require.Contains(t, string(text), `tests="4" failures="3"`)
	_, _, errs = oddtick(t, append([]string{"run", folder, "--journey", "none"}, at...)...)
	require.Contains(t, errs, `there is no journey "none"`)
	code, _, errs = oddtick(t, append([]string{"run", folder, "--journey", "joining", "--mail", "192.0.2.1:25"}, at...)...)
	require.Equal(t, 2, code)
	require.Contains(t, errs, "is not on this machine")
}

// TestRunsAreCompared: with a stored result only what is newly odd counts.
func TestRunsAreCompared(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	file := func(name string) string { return filepath.Join(dir, name) }
	run := func(to string, faults []string, more ...string) (int, string, string) {
		address, dsn := site(t, faults...)
		return oddtick(t, append([]string{"run", join, "--site", address, "--database", dsn, "--depth", "quick", "--json", file(to)}, more...)...)
	}
	code, _, _ := run("one.json", []string{"plots-five"})
	require.Equal(t, 1, code)
	code, out, errs := run("same.json", []string{"plots-five"}, "--baseline", file("one.json"))
	require.Zero(t, code, out+errs)
	require.Contains(t, out, "join: 0 newly odd, 1 still odd, 0 no longer odd, 0 not observed again; 0 cases more, 0 fewer")
	code, out, _ = run("two.json", []string{"message-text"}, "--baseline", file("one.json"))
	require.Equal(t, 1, code)
	require.Contains(t, out, "newly odd       membership")
	require.Contains(t, out, "no longer odd   plots")
	// a known finding does not count, until its last day is over
	id := regexp.MustCompile(`odd  membership .*  ([a-z2-7]{8})\n`).FindStringSubmatch(out)[1]
	for until, want := range map[string]struct {
		code int
		says string
	}{"2999-12-31": {0, "known  " + id + ": Wrong message for Membership number"}, "2020-01-01": {1, "known until 2020-01-01, now over  " + id}} {
		require.NoError(t, os.WriteFile(file("known.yaml"), []byte("known:\n  - {finding: "+id+", until: "+until+"}\n  - {finding: aaaaaaaa, why: mended last year}\n"), 0o600))
		code, out, errs = run("known.json", []string{"message-text"}, "--known", file("known.yaml"), "--only", "odd", "--baseline", file("two.json"))
		require.Zero(t, code, "still odd: "+out+errs)
		require.Regexp(t, `join: [1-9] cases, 0 as expected, [1-9] odd`, out, "only those that were odd are run")
		code, out, _ = run("known.json", []string{"message-text"}, "--known", file("known.yaml"))
		require.Equal(t, want.code, code, out)
		require.Contains(t, out, want.says)
		require.Contains(t, out, "known, not found in this run  aaaaaaaa mended last year")
	}
	// the parts are all cases, each in one of them
	n := 0
	for _, part := range []string{"1/3", "2/3", "3/3"} {
		_, out, _ = run("part.json", nil, "--share", part)
		var cases int
		_, err := fmt.Sscanf(out[strings.LastIndex(out, "join: "):], "join: %d cases", &cases)
		require.NoError(t, err)
		n += cases
	}
	_, out, _ = run("all.json", nil)
	require.Contains(t, out, fmt.Sprintf("join: %d cases", n))
	code, out, _ = run("none.json", nil, "--only", "changed", "--baseline", file("all.json"))
	require.Zero(t, code)
	require.Contains(t, out, "join: 0 cases", "nothing is new or changed")
	require.NoError(t, os.WriteFile(file("wrong.yaml"), []byte("known: [{finding: aaaaaaaa, until_when: never}]"), 0o600))
	for _, c := range []struct {
		says string
		args []string
	}{
		{`--share "5/2" is not a share`, []string{"--share", "5/2"}},
		{`--share "1/2x" is not a share`, []string{"--share", "1/2x"}},
		{"--only odd needs a result to choose by", []string{"--only", "odd"}},
		{`--only is odd or changed, not "all"`, []string{"--only", "all", "--baseline", file("all.json")}},
		{"read the known findings", []string{"--known", file("no.yaml")}},
		{`unknown field "until_when"`, []string{"--known", file("wrong.yaml")}},
	} {
		code, _, errs := run("x.json", nil, c.args...)
		require.Equal(t, 2, code)
		require.Contains(t, errs, c.says)
	}
	code, out, _ = oddtick(t, "compare", file("two.json"), file("one.json"), "--json", file("c.json"))
	require.Equal(t, 1, code)
	require.Contains(t, out, "join: 1 newly odd, 0 still odd, 1 no longer odd")
	text, err := os.ReadFile(file("c.json"))
	require.NoError(t, err)
	require.True(t, json.Valid(text))
	whole, err := os.ReadFile(file("one.json"))
	require.NoError(t, err)
	for name, c := range map[string]struct{ text, says string }{
		"cut.json":     {string(whole[:len(whole)/2]), "cannot be read: it ends in the middle"},
		"foreign.json": {`{"cases": 3}`, "cannot be read"},
		"other.json":   {`{"oddtick_result": 1, "form": "other", "results": {}}`, "compare results of one form"},
		"none.json":    {`{}`, "it is not the result of a form's run"},
	} {
		require.NoError(t, os.WriteFile(file(name), []byte(c.text), 0o600))
		code, _, errs := oddtick(t, "compare", file("one.json"), file(name))
		require.Equal(t, 2, code, name)
		require.Contains(t, errs, c.says, name)
	}
	_, _, errs = oddtick(t, "compare", file("one.json"), file("gone.json"))
	require.Contains(t, errs, "no such file")
}

func TestALimitIsFound(t *testing.T) {
	t.Parallel()
	address, dsn := site(t, "username-cut")
	at := []string{"--site", address, "--database", dsn}
	code, out, errs := oddtick(t, append([]string{"find-limit", join, "username.length"}, at...)...)
	require.Equal(t, 1, code, errs)
	require.Contains(t, out, "taken    21 characters")
	require.Regexp(t, `username.length, max: promised 20 characters; accepted up to 190 characters, stored whole only up to 20 characters \(\d+ submissions\)`, out)
	code, out, _ = oddtick(t, append([]string{"find-limit", join, "plots.range", "--end", "min", "--json", "-"}, at...)...)
	require.Zero(t, code)
	require.True(t, json.Valid([]byte(out)))
	for _, c := range []struct {
		args []string
		says string
	}{
		{[]string{"find-limit", join, "username.pattern"}, "has no limit at that end"},
		{[]string{"find-limit", join, "nothing.length"}, "the form has no rule nothing.length"},
		{[]string{"find-limit", "../../examples/ostlewick", "username.length"}, "choose a form with --form: booking, harvest"},
		{[]string{"find-limit", "../../examples/ostlewick", "username.length", "--form", "none"}, `there is no form "none"`},
	} {
		code, _, errs := oddtick(t, append(c.args, at...)...)
		require.Equal(t, 2, code)
		require.Contains(t, errs, c.says)
	}
}

// TestAFormThatCannotBeOpened does not keep a project's other forms from being run, and is not counted as passed.
func TestAFormThatCannotBeOpened(t *testing.T) {
	t.Parallel()
	address, dsn := site(t)
	dir := t.TempDir()
	text, err := os.ReadFile(join)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "join.yaml"), text, 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "gone.yaml"), []byte("form: gone\npage: /gone\nfields: [{name: a}]\n"), 0o600))
	code, out, errs := oddtick(t, "run", dir, "--site", address, "--database", dsn, "--depth", "quick")
	require.Equal(t, 2, code, out)
	require.Contains(t, errs, "not observed  the form gone: ")
	require.Regexp(t, `join: \d+ cases, \d+ as expected, 0 odd, 0 not observed`, out)
	code, _, _ = oddtick(t, "run", dir, "--form", "gone", "--site", address, "--database", dsn)
	require.Equal(t, 2, code)
}

func TestTheVersionNamesTheCommit(t *testing.T) {
	t.Parallel()
	code, out, _ := oddtick(t, "--version")
	require.Zero(t, code)
	require.Regexp(t, `^oddtick version ([0-9a-f]{12} of \d{4}-\d\d-\d\d(, with changes)?|of an unknown commit)\n$`, out)
}
