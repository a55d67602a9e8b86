// Command load lets many use one Odd Tick at once, and prints how much memory it takes, how long it takes to answer, and whether a request
// is lost.
package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"
)

func main() {
	signIns := flag.Int("sign-ins", 24, "how many sign in at once")
	streams := flag.Int("streams", 300, "how many event streams are open at once")
	testers := flag.Int("testers", 40, "how many testers click")
	last := flag.Duration("for", time.Minute, "how long they click")
	program := flag.String("program", "bin/oddtick", "the program")
	flag.Parse()
	if err := run(*program, *signIns, *streams, *testers, *last); err != nil {
		fmt.Fprintln(os.Stderr, "load:", err)
		os.Exit(1)
	}
}

const join = "/api/sites/ostlewick/forms/join"

func run(program string, signIns, streams, testers int, last time.Duration) error {
	d, err := start(program)
	if err != nil {
		return err
	}
	defer d.end()

	people := make([]*person, max(signIns, testers))
	for i := range people {
		jar, _ := cookiejar.New(nil)
		people[i] = &person{d: d, http: &http.Client{Jar: jar, Timeout: time.Minute, Transport: &http.Transport{MaxIdleConnsPerHost: 4, MaxConnsPerHost: 0}}}
	}
	before := d.memory()
	began := time.Now()
	signedIn := 0
	var all sync.WaitGroup
	var mu sync.Mutex
	for _, p := range people[:signIns] {
		all.Go(func() {
			if p.signIn() == nil {
				mu.Lock()
				signedIn++
				mu.Unlock()
			}
		})
	}
	all.Wait()
	fmt.Printf("%d of %d signed in at once, in %.1f s; memory %d MB before, %d MB at most\n", signedIn, signIns, time.Since(began).Seconds(), before, d.peak())
	if signedIn < signIns {
		return fmt.Errorf("%d could not sign in", signIns-signedIn)
	}
	for _, p := range people[signIns:] {
		if err := p.signIn(); err != nil {
			return err
		}
	}

	var started struct{ Run int }
	if err := people[0].ask(http.MethodPost, join+"/runs", `{"depth": "thorough", "driver": "http", "max_per_minute": 180}`, &started); err != nil {
		return fmt.Errorf("start a run: %w", err)
	}
	following, stop := context.WithCancel(context.Background())
	defer stop()
	var open, events atomic.Int64
	for i := range streams {
		go people[i%len(people)].follow(following, started.Run, &open, &events)
	}
	for range 300 {
		if open.Load() == int64(streams) {
			break
		}
		time.Sleep(100 * time.Millisecond)
	}
	fmt.Printf("%d of %d event streams are open; memory %d MB\n", open.Load(), streams, d.memory())

	until := time.Now().Add(last)
	var took []time.Duration
	failed := map[string]int{}
	for _, p := range people[:testers] {
		all.Go(func() {
			for time.Now().Before(until) {
				path := views[rand.IntN(len(views))]
				began := time.Now()
				err := p.ask(http.MethodGet, path, "", nil)
				mu.Lock()
				took = append(took, time.Since(began))
				if err != nil {
					failed[err.Error()]++
				}
				mu.Unlock()
				time.Sleep(time.Duration(100+rand.IntN(400)) * time.Millisecond)
			}
		})
	}
	all.Wait()
	slices.Sort(took)
	at := func(share float64) float64 { return took[int(share*float64(len(took)-1))].Seconds() * 1000 }
	fmt.Printf("%d testers made %d requests in %s: median %.0f ms, 95 %% within %.0f ms, the slowest %.0f ms; %d of %d streams still open, %d events; memory %d MB, %d MB at most\n",
		testers, len(took), last, at(0.5), at(0.95), at(1), open.Load(), streams, events.Load(), d.memory(), d.peak())
	for why, n := range failed {
		fmt.Printf("lost %d: %s\n", n, why)
	}
	if len(failed) > 0 || open.Load() < int64(streams) {
		return fmt.Errorf("requests were lost")
	}
	return nil
}

// views are what testers look at.
var views = []string{
	"/api/sites", join, join + "/cases", join + "/cases?depth=thorough", join + "/case?id=join/username.length.max/http", join + "/coverage", join + "/techniques",
	join + "/runs/0", join + "/contradictions", join + "/revisions", "/api/sites/ostlewick/settings", "/api/sites/ostlewick/forms/sign_in/cases", "/api/session", "/",
}

// demo is a running Odd Tick with demo data.
type demo struct {
	cmd     *exec.Cmd
	folder  string
	address string
}

var addressLine = regexp.MustCompile(`Odd Tick is at (http://\S+)`)

func start(program string) (*demo, error) {
	folder, err := os.MkdirTemp("", "oddtick-load-")
	if err != nil {
		return nil, err
	}
	program, err = filepath.Abs(program)
	if err != nil {
		return nil, err
	}
	d := &demo{folder: folder, cmd: exec.Command(program, "demo")}
	d.cmd.Env = append(os.Environ(), "ODDTICK_DATA="+folder, "ODDTICK_ADDR=127.0.0.1:0")
	d.cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGTERM}
	d.cmd.Stderr = os.Stderr
	out, err := d.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := d.cmd.Start(); err != nil {
		return nil, fmt.Errorf("%w; make build first", err)
	}
	for lines := bufio.NewScanner(out); lines.Scan(); {
		if found := addressLine.FindStringSubmatch(lines.Text()); found != nil {
			d.address = found[1]
			go func() { _, _ = io.Copy(io.Discard, out) }()
			return d, nil
		}
	}
	d.end()
	return nil, fmt.Errorf("the demo ended before it said where it is")
}

func (d *demo) end() {
	_ = d.cmd.Process.Signal(syscall.SIGTERM)
	_ = d.cmd.Wait()
	_ = os.RemoveAll(d.folder)
}

// memory is how many megabytes the program takes now, and peak how many it took at most.
func (d *demo) memory() int { return d.status("VmRSS:") }

func (d *demo) peak() int { return d.status("VmHWM:") }

func (d *demo) status(key string) int {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", d.cmd.Process.Pid))
	if err != nil {
		return 0
	}
	_, rest, _ := strings.Cut(string(text), key)
	n, _ := strconv.Atoi(strings.Fields(rest + " 0")[0])
	return n / 1024
}

type person struct {
	d     *demo
	http  *http.Client
	token string
}

func (p *person) signIn() error {
	var session struct{ Token string }
	err := p.ask(http.MethodPost, "/api/session", `{"name": "tester", "password": "brook-side-42"}`, &session)
	p.token = session.Token
	return err
}

func (p *person) ask(method, path, body string, into any) error {
	req, err := http.NewRequest(method, p.d.address+path, strings.NewReader(body))
	if err != nil {
		return err
	}
	if body != "" {
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("X-Oddtick-Token", p.token)
	}
	res, err := p.http.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	if err != nil {
		return err
	}
	if res.StatusCode >= 300 {
		return fmt.Errorf("%s %s: %d %s", method, path, res.StatusCode, bytes.TrimSpace(text[:min(200, len(text))]))
	}
	if into != nil {
		return json.Unmarshal(text, into)
	}
	return nil
}

// follow reads a run's event stream until it ends.
func (p *person) follow(ctx context.Context, run int, open, events *atomic.Int64) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, fmt.Sprintf("%s%s/runs/%d/events", p.d.address, join, run), nil)
	if err != nil {
		return
	}
	client := &http.Client{Jar: p.http.Jar, Transport: p.http.Transport}
	res, err := client.Do(req)
	if err != nil {
		return
	}
	defer res.Body.Close()
	open.Add(1)
	defer open.Add(-1)
	for lines := bufio.NewScanner(res.Body); lines.Scan(); {
		if strings.HasPrefix(lines.Text(), "data:") {
			events.Add(1)
		}
	}
}
