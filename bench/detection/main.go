// Command detection plants each of the practice site's faults, one at a time, runs what the fault belongs to, and counts those that
// were found, and what was odd where nothing is wrong.
package main

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"os/signal"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"oddtick/bench/planted"
	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/journey"
	"oddtick/engine/sweep"
	"oddtick/observe/mail"
	"oddtick/practice"
)

// Found is what came of one fault.
type Found struct {
	Fault   string  `json:"fault"`
	Form    string  `json:"form"`
	Check   string  `json:"check"`
	Found   bool    `json:"found"`
	Case    string  `json:"case,omitempty"` // the first that shows it
	Part    string  `json:"part,omitempty"`
	Says    string  `json:"says,omitempty"`
	Cases   int     `json:"cases"`
	Odd     int     `json:"odd"`
	Seconds float64 `json:"seconds"`
	Failure string  `json:"failure,omitempty"`
}

// Report is a whole run.
type Report struct {
	Depth       testcase.Depth `json:"depth"`
	Faults      []Found        `json:"faults"`
	Found       int            `json:"found"`
	Of          int            `json:"of"`
	FalseAlarms []string       `json:"false_alarms"`
	Seconds     float64        `json:"seconds"`
}

// seen is one odd or unobserved part.
type seen struct {
	of, check, part, says string
	verdict               judge.Verdict
}

func main() {
	debug.SetGCPercent(400) // as the command does
	depth := flag.String("depth", "standard", "quick, standard or thorough")
	file := flag.String("json", "", "write the result to this file")
	only := flag.String("only", "", "only faults whose names begin so; none for the forms without faults, \"none keys\" for one")
	pairs := flag.Int("pairs", 0, "plant so many random pairs of faults of different forms or checks instead")
	seed := flag.Uint64("seed", 1, "of the random pairs")
	workers := flag.Int("workers", 3, "faults at once")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	report, err := run(ctx, options{testcase.Depth(*depth), *only, *pairs, *seed, *workers})
	if err != nil {
		fmt.Fprintln(os.Stderr, "detection:", err)
		os.Exit(2)
	}
	if *file != "" {
		text, _ := json.MarshalIndent(report, "", " ") // plain data
		if err := os.WriteFile(*file, append(text, '\n'), 0o600); err != nil {
			fmt.Fprintln(os.Stderr, "detection:", err)
			os.Exit(2)
		}
	}
	fmt.Printf("found %d of %d, false alarms %d, %.0f s\n", report.Found, report.Of, len(report.FalseAlarms), report.Seconds)
	if report.Found < report.Of || len(report.FalseAlarms) > 0 {
		os.Exit(1)
	}
}

type options struct {
	depth   testcase.Depth
	only    string
	pairs   int
	seed    uint64
	workers int
}

// task is a set of faults that are on together, and what is run with them.
type task struct {
	faults []practice.Fault
	forms  []string // ids of forms, access, confirm
}

func run(ctx context.Context, o options) (*Report, error) {
	report := &Report{Depth: o.depth, FalseAlarms: []string{}}
	started := time.Now()
	list := tasks(o)
	var mu sync.Mutex
	err := planted.Each(ctx, len(list), o.workers, func(i int, dsn string) {
		t, begun := list[i], time.Now()
		parts, cases, err := t.run(ctx, dsn, o.depth)
		took := time.Since(begun).Seconds()
		mu.Lock()
		defer mu.Unlock()
		if len(t.faults) == 0 {
			report.faultless(t.forms[0], parts, err)
			return
		}
		for _, f := range t.faults {
			report.add(f, parts, cases, took, err)
		}
	})
	slices.SortStableFunc(report.Faults, func(a, b Found) int { return strings.Compare(a.Form+a.Fault, b.Form+b.Fault) })
	report.Seconds = time.Since(started).Seconds()
	return report, err
}

// tasks are the faultless site with each form and journey, and each fault alone; or random pairs of faults.
func tasks(o options) []task {
	var out []task
	if o.pairs > 0 {
		state := o.seed
		next := func(n int) int {
			state = state*6364136223846793005 + 1442695040888963407
			return int(state >> 33 % uint64(n))
		}
		for len(out) < o.pairs {
			a, b := planted.Faults()[next(len(planted.Faults()))], planted.Faults()[next(len(planted.Faults()))]
			if a.Form == b.Form && a.Check == b.Check || planted.SiteOf(a) != planted.SiteOf(b) {
				continue
			}
			t := task{faults: []practice.Fault{a, b}, forms: []string{a.Form}}
			if b.Form != a.Form {
				t.forms = append(t.forms, b.Form)
			}
			out = append(out, t)
		}
		return out
	}
	known := map[string]bool{}
	for _, f := range planted.Faults() {
		if !known[f.Form] && strings.HasPrefix("none "+f.Form, o.only) {
			out = append(out, task{forms: []string{f.Form}})
		}
		known[f.Form] = true
	}
	for _, f := range planted.Faults() {
		if strings.HasPrefix(f.Name, o.only) {
			out = append(out, task{faults: []practice.Fault{f}, forms: []string{f.Form}})
		}
	}
	return out
}

func (r *Report) faultless(form string, parts []seen, err error) {
	if err != nil {
		r.FalseAlarms = append(r.FalseAlarms, form+": "+err.Error())
	}
	for _, p := range parts {
		r.FalseAlarms = append(r.FalseAlarms, fmt.Sprintf("%s: %s, %s: %s %s", p.of, p.check, p.part, p.verdict, p.says))
	}
	fmt.Printf("%-28s %-10s %s\n", "none", form, map[bool]string{true: "nothing odd", false: "FALSE ALARM"}[len(parts) == 0 && err == nil])
	for _, a := range r.FalseAlarms {
		fmt.Println("    " + a)
	}
}

func (r *Report) add(f practice.Fault, parts []seen, cases int, seconds float64, err error) {
	out := Found{Fault: f.Name, Form: f.Form, Check: f.Check, Cases: cases, Seconds: seconds}
	if err != nil {
		out.Failure = err.Error()
	}
	of := map[string]bool{}
	for _, p := range parts {
		if p.verdict != judge.Odd {
			continue
		}
		of[p.of] = true
		if p.check == f.Check && !out.Found {
			out.Found, out.Case, out.Part, out.Says = true, p.of, p.part, p.says
		}
	}
	out.Odd = len(of)
	r.Of++
	word := "missed"
	if out.Found {
		r.Found++
		word = "found"
	}
	r.Faults = append(r.Faults, out)
	fmt.Printf("%-28s %-10s %-6s %-15s %3d odd of %3d  %5.1f s  %s\n", f.Name, f.Form, word, f.Check, out.Odd, cases, seconds, out.Says+out.Failure)
}

// run starts the practice site on a schema of its own, and runs the task's forms and journeys.
func (t task) run(ctx context.Context, dsn string, depth testcase.Depth) (parts []seen, cases int, err error) {
	site, err := planted.Start(ctx, dsn, t.forms[0], t.faults)
	if err != nil {
		return nil, 0, err
	}
	defer site.Close()
	for _, form := range t.forms {
		var more []seen
		n := 0
		switch form {
		case "access":
			more, n, err = openPages(ctx, site.Project)
		case "confirm":
			more, n, err = walk(ctx, site.Project, site.Mails)
		default:
			more, n, err = runForm(ctx, site, form, depth)
		}
		parts, cases = append(parts, more...), cases+n
		if err != nil {
			return parts, cases, err
		}
	}
	return parts, cases, nil
}

func runForm(ctx context.Context, site *planted.Site, id string, depth testcase.Depth) ([]seen, int, error) {
	r, report, err := site.Form(ctx, id, depth)
	if err != nil {
		return nil, 0, err
	}
	defer r.Close()
	var out []seen
	for _, c := range report.Cases {
		result := report.Results[c.ID]
		if result == nil {
			out = append(out, seen{c.ID, "all", "all", "not run", judge.NotObserved})
			continue
		}
		for _, s := range result.Steps {
			out = append(out, ofStep(c.ID, s.Judgement)...)
		}
	}
	return out, len(report.Cases), nil
}

func ofStep(of string, s *judge.Judgement) []seen {
	var out []seen
	for _, c := range s.Checks {
		for _, p := range c.Parts {
			if p.Verdict == judge.Odd || p.Verdict == judge.NotObserved {
				out = append(out, seen{of, string(c.Check), string(p.Words.Name), string(s.Headline), p.Verdict})
			}
		}
	}
	return out
}

func openPages(ctx context.Context, project *spec.Project) ([]seen, int, error) {
	r, err := sweep.Access(ctx, project.Site, sweep.Options{Timeout: 30 * time.Second})
	if err != nil {
		return nil, 0, err
	}
	var out []seen
	for _, o := range r.Openings {
		if o.Verdict != judge.AsExpected {
			out = append(out, seen{"access/" + o.Account + "," + o.Page, "access", o.Page, fmt.Sprintf("%s, should be: %s", o.Observed, o.Expected), o.Verdict})
		}
	}
	for _, s := range r.Sessions {
		if s.Verdict != judge.AsExpected {
			check := string(judge.Session)
			if s.Look == sweep.LookAtMenus {
				check = "access"
			}
			out = append(out, seen{"access/" + string(s.What), check, string(s.What), string(s.Observed), s.Verdict})
		}
	}
	for _, l := range r.Lacking {
		out = append(out, seen{"access", "access", "accounts", string(l), judge.NotObserved})
	}
	return out, len(r.Openings) + len(r.Sessions), nil
}

func walk(ctx context.Context, project *spec.Project, mails *mail.Receiver) ([]seen, int, error) {
	j, err := journey.Open(ctx, project, mails, time.Now().UnixNano(), 30*time.Second)
	if err != nil {
		return nil, 0, err
	}
	defer j.Close()
	var out []seen
	n := 0
	for i := range project.Site.Journeys {
		r, err := j.Walk(ctx, &project.Site.Journeys[i], nil)
		if err != nil {
			return nil, 0, err
		}
		for _, w := range r.Walks {
			n++
			for _, s := range w.Stations {
				if s.Judgement != nil {
					out = append(out, ofStep(w.ID, s.Judgement)...)
				}
				for _, p := range s.State {
					if p.Verdict != judge.AsExpected {
						check := "access"
						if p.Aspect == judge.InMail {
							check = string(judge.Secrets)
						}
						out = append(out, seen{w.ID, check, string(p.Words.Name), string(s.Headline), p.Verdict})
					}
				}
			}
		}
	}
	return out, n, nil
}
