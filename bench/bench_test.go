// Package bench prints ratios against floors that are measured in the same run.
package bench

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"regexp"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/internal/localdb"
	"oddtick/internal/localdb/dbtest"
	"oddtick/observe/database"

	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) {
	debug.SetGCPercent(400) // as the command does
	dbtest.Main(m)
}

func line(name string, value float64, digits int, aim string) {
	fmt.Printf("%s: %.*f (aim: %s)\n", name, digits, value, aim)
}

func joinForm(b testing.TB) *spec.Prepared {
	text, err := os.ReadFile("../examples/ostlewick/join.yaml")
	require.NoError(b, err)
	f, err := spec.ReadForm("join.yaml", text)
	require.NoError(b, err)
	p, err := f.Prepare()
	require.NoError(b, err)
	return p
}

// site starts the practice site as a process of its own, so that its work does not count as Odd Tick's.
func site(b testing.TB, dsn string) string {
	port, err := localdb.FreePort()
	require.NoError(b, err)
	address := fmt.Sprintf("127.0.0.1:%d", port)
	cmd := exec.Command("../bin/oddtick", "practice", "--addr", address, "--dsn", dsn, "--hash-cost", "8")
	require.NoError(b, cmd.Start(), "make build first")
	b.Cleanup(func() {
		_ = cmd.Process.Signal(syscall.SIGTERM)
		_ = cmd.Wait()
	})
	for range 200 {
		if res, err := http.Get("http://" + address + "/"); err == nil {
			res.Body.Close()
			return "http://" + address
		}
		time.Sleep(50 * time.Millisecond)
	}
	require.Fail(b, "the practice site does not answer")
	return ""
}

const pace = 4

// prepared is a case's submissions with their values already made, for the bare loop.
type prepared struct {
	writes bool
	steps  [][]submission.Pair
	needs  [][]submission.Lookup
	reload []bool
	token  []bool
}

func prepare(b testing.TB, d *design.Designer, cases []*testcase.Case, run int64) []prepared {
	var out []prepared
	for _, c := range cases {
		p := prepared{writes: c.Writes()}
		env := &testcase.Env{Run: run, Now: time.Now(), OnPage: map[string]string{"ref": "web"}}
		for i := range c.Steps {
			s := &c.Steps[i]
			p.reload = append(p.reload, s.Do == testcase.Reload)
			p.token = append(p.token, len(s.Without) == 0)
			if s.Do == testcase.Reload {
				p.steps, p.needs = append(p.steps, nil), append(p.needs, nil)
				continue
			}
			values, err := d.Resolve(c, i, env)
			require.NoError(b, err)
			env.Earlier = append(env.Earlier, values)
			sub := d.Submission(s, values)
			p.steps, p.needs = append(p.steps, sub.Pairs), append(p.needs, oracle.Needs(d.Prepared(), sub))
		}
		out = append(out, p)
	}
	return out
}

var token = regexp.MustCompile(`name="_token" value="([0-9a-f]+)"`)

// bare sends what a run sends, header by header, and reads what a run reads, and does nothing else.
type bare struct {
	b         testing.TB
	address   string
	watch     *database.Watcher
	transport *http.Transport
}

// ok ends the benchmark at an error. It costs nothing where there is none.
func (l *bare) ok(err error) {
	if err != nil {
		require.NoError(l.b, err)
	}
}

func (l *bare) fetch(c *http.Client, method, path, body string) string {
	req, err := http.NewRequest(method, l.address+path, strings.NewReader(body))
	l.ok(err)
	req.Header.Set("User-Agent", "OddTick")
	req.Header.Set("Accept", "text/html,application/xhtml+xml;q=0.9,*/*;q=0.8")
	req.Header.Set("Accept-Language", "en")
	if body != "" {
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set("Origin", l.address)
	}
	res, err := c.Do(req)
	l.ok(err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	l.ok(err)
	if to := res.Header.Get("Location"); to != "" { // the client itself would send headers more
		return l.fetch(c, http.MethodGet, to, "")
	}
	return string(text)
}

// visitor is somebody who was never here, as a run has one for each case.
func (l *bare) visitor() *http.Client {
	jar, _ := cookiejar.New(nil)
	return &http.Client{Jar: jar, Transport: l.transport, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
}

func (l *bare) changes() {
	_, err := l.watch.Changes(context.Background())
	l.ok(err)
}

func (l *bare) one(p prepared, watch bool) {
	c := l.visitor()
	for i, pairs := range p.steps {
		if p.reload[i] {
			l.fetch(c, http.MethodGet, "/waiting-list", "")
		} else {
			page := l.fetch(c, http.MethodGet, "/join", "")
			for _, need := range p.needs[i] {
				_, err := l.watch.LookUp(context.Background(), need, func(x, y string) bool { return x == y })
				l.ok(err)
			}
			var body strings.Builder
			if p.token[i] {
				body.WriteString("_token=" + token.FindStringSubmatch(page)[1])
			}
			for _, pair := range pairs {
				body.WriteString("&" + url.QueryEscape(pair.Name) + "=" + url.QueryEscape(pair.Value))
			}
			l.fetch(c, http.MethodPost, "/join", body.String())
		}
		if watch {
			l.changes()
		}
	}
}

func (l *bare) all(list []prepared) {
	var reading, writing []prepared
	for _, p := range list {
		if p.writes {
			writing = append(writing, p)
		} else {
			reading = append(reading, p)
		}
	}
	for batch := range slices.Chunk(reading, 12) {
		l.changes()
		var wg sync.WaitGroup
		slots := make(chan struct{}, pace)
		for _, p := range batch {
			slots <- struct{}{}
			wg.Go(func() {
				defer func() { <-slots }()
				l.one(p, false)
			})
		}
		wg.Wait()
		l.changes()
	}
	l.changes()
	for _, p := range writing { // each begins where the one before was looked at
		l.one(p, true)
	}
}

func cpu() time.Duration {
	var u syscall.Rusage
	_ = syscall.Getrusage(syscall.RUSAGE_SELF, &u)
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

func median(list []float64) float64 {
	slices.Sort(list)
	return list[len(list)/2]
}

// casesBy are the cases of standard depth that are wanted.
func casesBy(d *design.Designer, wanted func(*testcase.Case) bool) []*testcase.Case {
	all, _ := d.Cases(testcase.Standard)
	drivable, _ := target.Drivable(all)
	return slices.DeleteFunc(drivable, func(c *testcase.Case) bool { return !wanted(c) })
}

// plain: its steps are what the bare loop does too, a page opened, filled in and sent by one visitor.
func plain(c *testcase.Case) bool {
	return !slices.ContainsFunc(c.Steps, func(s testcase.Step) bool {
		return s.Concurrent || s.OnResultPage || s.WithSecondSession || s.SetupOnly || s.Forged != ""
	})
}

// BenchmarkRun compares a run with a bare loop, in turn, each on tables that grow alike: of all cases, and of those by themselves that
// are made several at once and one by one.
func BenchmarkRun(b *testing.B) {
	p := joinForm(b)
	d, err := design.New(p, nil)
	require.NoError(b, err)
	cases := casesBy(d, func(c *testcase.Case) bool { return !c.InBrowser() && plain(c) })
	dsn := dbtest.DSN(b)
	address := site(b, dsn)
	watch, err := database.Open(context.Background(), "mariadb", dsn, nil)
	require.NoError(b, err)
	defer watch.Close()
	require.NoError(b, watch.Begin(context.Background()))
	loop := &bare{b, address, watch, &http.Transport{MaxIdleConnsPerHost: 16}}
	ratio, perCase, own := loop.compare(d, cases, dsn)
	line("cases a second, as a share of a bare loop's", ratio, 2, "0.9")
	line("own CPU time per case in microseconds", perCase, 0, "none set")
	line("of it above the bare loop's", own, 0, "none set")
	for _, kind := range []struct {
		name   string
		writes bool
	}{{"of cases that write nothing alone", false}, {"of cases that write alone", true}} {
		ratio, _, _ := loop.compare(d, slices.DeleteFunc(slices.Clone(cases), func(c *testcase.Case) bool { return c.Writes() != kind.writes }), dsn)
		line(kind.name, ratio, 2, "none set")
	}
}

// settling is how long the database is left alone after rows were deleted, so that neither side meets its purging.
const settling = 100 * time.Millisecond

// compare is the rate of a run's cases as a share of the loop's, and its processor time a case, whole and above the loop's, in
// microseconds; the medians of thirty rounds.
func (l *bare) compare(d *design.Designer, cases []*testcase.Case, dsn string) (ratio, perCase, own float64) {
	var ratios, whole, above []float64
	for round := range 31 {
		number := time.Now().UnixNano()
		list := prepare(l.b, d, cases, number+1)
		dbtest.Exec(l.b, dsn, "DELETE FROM plot_holders WHERE id > 100")
		l.changes()
		time.Sleep(settling)
		started, used := time.Now(), cpu()
		l.all(list)
		floor, floorCPU := time.Since(started), cpu()-used

		dbtest.Exec(l.b, dsn, "DELETE FROM plot_holders WHERE id > 100")
		run, err := target.Open(context.Background(), target.Config{Site: &spec.Site{Address: l.address, Databases: []spec.Database{{ID: "main", DSN: dsn}}}, Designer: d, Cases: cases, Number: number})
		require.NoError(l.b, err)
		time.Sleep(settling)
		started, used = time.Now(), cpu()
		require.NoError(l.b, schedule.Execute(context.Background(), run, &schedule.Collected{}, nil))
		took, usedCPU := time.Since(started), cpu()-used
		run.Close()
		if round == 0 {
			continue // warming up
		}
		ratios = append(ratios, floor.Seconds()/took.Seconds())
		whole = append(whole, usedCPU.Seconds()*1e6/float64(len(cases)))
		above = append(above, (usedCPU-floorCPU).Seconds()*1e6/float64(len(cases)))
	}
	return median(ratios), median(whole), median(above)
}

// expectations is how many the oracle computes a second, the median of several stretches.
func expectations(p *spec.Prepared, subs []*submission.Submission) float64 {
	w := &oracle.World{Now: time.Now(), Driver: submission.HTTP, LookupResults: map[string]bool{}}
	var rates []float64
	for range 5 {
		n, started := 0, time.Now()
		for time.Since(started) < 400*time.Millisecond {
			for _, sub := range subs {
				oracle.Expect(p, w, sub)
			}
			n += len(subs)
		}
		rates = append(rates, float64(n)/time.Since(started).Seconds())
	}
	return median(rates)
}

func BenchmarkExpectations(b *testing.B) {
	p := joinForm(b)
	d, err := design.New(p, nil)
	require.NoError(b, err)
	cases, _ := d.Cases(testcase.Standard)
	var subs []*submission.Submission
	for _, c := range cases {
		env := &testcase.Env{Run: 1, Now: time.Now(), OnPage: map[string]string{"ref": "web"}}
		values, err := d.Resolve(c, 0, env)
		require.NoError(b, err)
		sub := d.Submission(&c.Steps[0], values)
		sub.Pairs = append(sub.Pairs, submission.Pair{Name: "_token", Value: "t"})
		subs = append(subs, sub)
	}
	line("expectations a second on one core", expectations(p, subs), 0, "200000")
}

func BenchmarkDesign(b *testing.B) {
	p := joinForm(b)
	var ratios []float64
	for range 7 {
		started := time.Now()
		d, err := design.New(p, nil)
		require.NoError(b, err)
		cases, _ := d.Cases(testcase.Standard)
		designed := time.Since(started)
		started = time.Now()
		const writes = 10
		for range writes {
			_, err := json.Marshal(cases)
			require.NoError(b, err)
		}
		ratios = append(ratios, designed.Seconds()/(time.Since(started).Seconds()/writes))
	}
	line("time to design the Join form's cases over time to write them as JSON", median(ratios), 1, "under 20")
}
