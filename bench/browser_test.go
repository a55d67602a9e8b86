package bench

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/internal/localdb/dbtest"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// typist submits in one tab, and looks at nothing.
type typist struct {
	b       testing.TB
	ctx     context.Context
	address string
}

func (t *typist) do(step func(ctx context.Context, tab *chromedp.Target) error) {
	require.NoError(t.b, chromedp.Do(t.ctx, chromedp.Func(step)))
}

// one opens the page as somebody new, types every pair and presses the button.
func (t *typist) one(p prepared) {
	t.do(func(ctx context.Context, tab *chromedp.Target) error {
		_, err := cdp.Call(ctx, tab, network.ClearBrowserCookies, cdp.Empty{})
		return err
	})
	require.NoError(t.b, chromedp.Do(t.ctx, chromedp.Navigate(t.address+"/join")))
	for _, pair := range p.steps[0] {
		kind, err := chromedp.Run(t.ctx, chromedp.Evaluate[string](`(() => { const e = document.forms[0].elements["`+pair.Name+`"]; if (!e || e.type === "hidden") return "none"; if (e.type === "date" || e.tagName === "SELECT") { e.value = "`+pair.Value+`"; return "set" } if (e.type === "checkbox") { e.click(); return "set" } e.focus(); e.select(); return "typed" })()`))
		require.NoError(t.b, err)
		if kind != "typed" {
			continue
		}
		t.do(func(ctx context.Context, tab *chromedp.Target) error {
			for _, r := range pair.Value {
				for _, k := range kb.Encode(r) {
					if k.Type == kb.KeyChar {
						continue
					}
					if k.Type != kb.KeyUp {
						k.Type, k.Text, k.UnmodifiedText = kb.KeyDown, string(r), string(r)
					}
					if _, err := cdp.Call(ctx, tab, input.DispatchKeyEvent, *k); err != nil {
						return err
					}
				}
			}
			return nil
		})
	}
	loaded := chromedp.Events(t.ctx, page.LoadEventFired)
	_, err := chromedp.Run(t.ctx, chromedp.Evaluate[any](`document.querySelector("main form button").click()`))
	require.NoError(t.b, err)
	for _, err := range loaded {
		require.NoError(t.b, err)
		break
	}
}

// BenchmarkBrowser compares a run in the browser, one case at a time, with a bare loop that types and submits the same over the same
// protocol.
func BenchmarkBrowser(b *testing.B) {
	p := joinForm(b)
	d, err := design.New(p, nil)
	require.NoError(b, err)
	cases := casesBy(d, func(c *testcase.Case) bool { return c.InBrowser() && len(c.Steps) == 1 })
	dsn := dbtest.DSN(b)
	address := site(b, dsn)
	ctx, end := chromedp.NewContext(context.Background())
	defer end()
	loop := &typist{b, ctx, address}
	var ratios []float64
	for round := range 4 {
		number := time.Now().UnixNano()
		list := prepare(b, d, cases, number+1)
		started := time.Now()
		for _, one := range list {
			loop.one(one)
		}
		floor := time.Since(started)
		run, err := target.Open(context.Background(), target.Config{Site: &spec.Site{Address: address, Databases: []spec.Database{{ID: "main", DSN: dsn}}}, Designer: d, Cases: cases, Number: number, Options: target.Options{Parallel: 1}})
		require.NoError(b, err)
		started = time.Now()
		require.NoError(b, schedule.Execute(context.Background(), run, &schedule.Collected{}, nil))
		took := time.Since(started)
		run.Close()
		if round > 0 {
			ratios = append(ratios, floor.Seconds()/took.Seconds())
		}
	}
	line("browser cases a second, as a share of a bare loop's", median(ratios), 2, "0.6")
}

// worked is how long each process that there is has run, in seconds: the run, the site and its database (proc_pid_stat(5), in
// hundredths of a second).
func worked(b testing.TB) map[string]float64 {
	list, err := filepath.Glob("/proc/[0-9]*/stat")
	require.NoError(b, err)
	out := map[string]float64{}
	for _, file := range list {
		text, err := os.ReadFile(file)
		if err != nil {
			continue // it has ended
		}
		_, fields, _ := strings.Cut(string(text), ") ") // a name may hold spaces
		var state string
		var n, user, system float64
		_, err = fmt.Sscan(fields, &state, &n, &n, &n, &n, &n, &n, &n, &n, &n, &n, &user, &system)
		require.NoError(b, err)
		out[file] = (user + system) / 100
	}
	return out
}

// workedSince is how long the processes that are still there have run since then, in seconds.
func workedSince(b testing.TB, before map[string]float64) float64 {
	var sum float64
	for file, now := range worked(b) {
		sum += now - before[file]
	}
	return sum
}

// BenchmarkParallel compares cases that write nothing, several at once, with the same one at a time. Processors that are busy with one
// at a time cannot be won by more.
func BenchmarkParallel(b *testing.B) {
	p := joinForm(b)
	d, err := design.New(p, nil)
	require.NoError(b, err)
	cases := casesBy(d, func(c *testcase.Case) bool { return !c.InBrowser() && !c.Writes() })
	dsn := dbtest.DSN(b)
	address := site(b, dsn)
	var ratios []float64
	const most = 8
	var seconds, busy [most + 1]float64
	took := func(parallel int) float64 {
		run, err := target.Open(context.Background(), target.Config{Site: &spec.Site{Address: address, Databases: []spec.Database{{ID: "main", DSN: dsn}}}, Designer: d, Cases: cases, Number: time.Now().UnixNano(), Options: target.Options{Parallel: parallel}})
		require.NoError(b, err)
		defer run.Close()
		started, before := time.Now(), worked(b)
		require.NoError(b, schedule.Execute(context.Background(), run, &schedule.Collected{}, nil))
		took := time.Since(started).Seconds()
		seconds[parallel] += took
		busy[parallel] += workedSince(b, before)
		return took
	}
	for round := range 31 {
		one, several := took(1), took(most)
		if round > 0 {
			ratios = append(ratios, one/several)
		}
	}
	line("cases that write nothing, eight at once over one at a time", median(ratios), 2, "1.5")
	line("processors busy with one at a time", busy[1]/seconds[1], 2, "none set")
	line("processors busy with eight at once", busy[most]/seconds[most], 2, "none set")
}
