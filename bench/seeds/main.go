// Command seeds runs a seed library written in Python (seeds.py), in two languages and with mails, against what its documents promise: without
// a fault, and with each of those that draw.py draws from the catalogue. It counts the faults that show and what is odd where nothing is wrong.
package main

import (
	"bufio"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
)

const here = "bench/seeds"

// forms are the documents of the site's forms.
var forms = []string{"register", "enter", "offer", "edit", "ask"}

type outcome struct {
	Fault   string   `json:"fault"`
	Found   bool     `json:"found"`
	Cases   int      `json:"cases"`
	Odd     int      `json:"odd"`
	First   string   `json:"first,omitempty"` // the first odd case with its headline
	Seconds float64  `json:"seconds"`
	Alarms  []string `json:"alarms,omitempty"`
	Failure string   `json:"failure,omitempty"`
}

func main() {
	seed := flag.Int("seed", 20261201, "of the faults that are drawn")
	earlier := flag.String("beside", "", "seeds of earlier draws, whose faults are not drawn again")
	rounds := flag.Int("rounds", 1, "runs of each form without a fault")
	only := flag.String("only", "", "only faults whose names begin so; none for the forms without faults")
	browser := flag.Bool("browser", false, "in the browser too")
	file := flag.String("json", "", "write the result to this file")
	workers := flag.Int("workers", 3, "runs at once")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	out, err := all(ctx, append([]string{strconv.Itoa(*seed)}, strings.Fields(*earlier)...), *rounds, *workers, *only, *browser)
	if err == nil && *file != "" {
		text, _ := json.MarshalIndent(out, "", " ") // plain data
		err = os.WriteFile(*file, append(text, '\n'), 0o600)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "seeds:", err)
		os.Exit(2)
	}
}

func all(ctx context.Context, seeds []string, rounds, workers int, only string, browser bool) ([]outcome, error) {
	drawn, err := exec.CommandContext(ctx, "python3", append([]string{filepath.Join(here, "draw.py")}, seeds...)...).Output()
	if err != nil {
		return nil, err
	}
	faults := strings.Fields(string(drawn))
	if only != "" {
		faults = slices.DeleteFunc(faults, func(f string) bool { return !strings.HasPrefix(f, only) })
	}
	if only == "" || only == "none" {
		for range rounds {
			for _, form := range forms {
				faults = append(faults, form+".")
			}
		}
	}
	results := make([]outcome, len(faults))
	slots := make(chan struct{}, workers)
	var wg sync.WaitGroup
	for i, fault := range faults {
		slots <- struct{}{}
		wg.Go(func() {
			defer func() { <-slots }()
			results[i] = one(ctx, fault, browser)
			tell(&results[i])
		})
	}
	wg.Wait()
	found, of, alarms := 0, 0, 0
	for i := range results {
		if strings.HasSuffix(results[i].Fault, ".") {
			alarms += len(results[i].Alarms)
			continue
		}
		if of++; results[i].Found {
			found++
		}
	}
	fmt.Printf("%d of %d faults found, %d false alarms\n", found, of, alarms)
	return results, ctx.Err()
}

func tell(o *outcome) {
	switch {
	case o.Failure != "":
		fmt.Printf("%-32s cannot be run: %s\n", o.Fault, o.Failure)
	case strings.HasSuffix(o.Fault, "."):
		fmt.Printf("%-32s %d cases, %d alarms, %.1f s\n", o.Fault, o.Cases, len(o.Alarms), o.Seconds)
		for _, a := range o.Alarms {
			fmt.Println("    " + a)
		}
	case o.Found:
		fmt.Printf("%-32s found by %d of %d cases: %s\n", o.Fault, o.Odd, o.Cases, o.First)
	default:
		fmt.Printf("%-32s NOT FOUND in %d cases\n", o.Fault, o.Cases)
	}
}

// one runs the form of a fault on a site of its own with the fault planted.
func one(ctx context.Context, fault string, browser bool) outcome {
	o := outcome{Fault: fault}
	begun := time.Now()
	form, kind, _ := strings.Cut(fault, ".")
	r, err := run(ctx, form, fault, kind != "", browser)
	o.Seconds = time.Since(begun).Seconds()
	if err != nil {
		o.Failure = err.Error()
		return o
	}
	o.Cases = len(r.Cases)
	for _, c := range r.Cases {
		result := r.Results[c.ID]
		if result == nil || result.Verdict == judge.AsExpected || result.Verdict == judge.DoesNotApply {
			continue
		}
		if result.Verdict == judge.Odd {
			if o.Odd++; o.First == "" {
				o.First = c.ID + ": " + headline(result)
			}
		}
		if kind == "" {
			o.Alarms = append(o.Alarms, fmt.Sprintf("%s is %s: %s", c.ID, result.Verdict, headline(result)))
		}
	}
	o.Found = o.Odd > 0
	return o
}

func headline(r *report.Result) string {
	for i := range r.Steps {
		if j := r.Steps[i].Judgement; j != nil && j.Verdict == r.Verdict {
			return string(j.Headline)
		}
	}
	return ""
}

func run(ctx context.Context, form, fault string, planted, browser bool) (*report.Report, error) {
	folder, err := os.MkdirTemp("", "oddtick-seeds-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(folder)
	arguments := []string{filepath.Join(here, "seeds.py"), "--folder", folder}
	if planted {
		arguments = append(arguments, "--fault", fault)
	}
	site := exec.CommandContext(ctx, "python3", arguments...)
	site.Stderr = os.Stderr
	printed, err := site.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := site.Start(); err != nil {
		return nil, err
	}
	defer func() {
		_ = site.Process.Kill()
		_ = site.Wait() // it was ended
	}()
	address, err := bufio.NewReader(printed).ReadString('\n')
	if err != nil {
		return nil, fmt.Errorf("the site does not start: %w", err)
	}
	var files []spec.File
	for _, name := range append([]string{"site"}, form) {
		text, err := os.ReadFile(filepath.Join(here, name+".yaml"))
		if err != nil {
			return nil, err
		}
		files = append(files, spec.File{Name: name + ".yaml", Text: text})
	}
	project, err := spec.ReadProject(files)
	if err != nil {
		return nil, err
	}
	project.Site.Address = strings.TrimSpace(address)
	project.Site.Databases[0].DSN = "file:" + filepath.Join(folder, "seeds.db")
	project.Site.Mail.Folder = filepath.Join(folder, "mails")
	p, err := project.Forms[0].Prepare()
	if err != nil {
		return nil, err
	}
	d, err := design.New(p, project.Site)
	if err != nil {
		return nil, err
	}
	cases, _ := target.Drivable(d.Design(design.Plan{Depth: testcase.Standard}).Cases)
	if !browser {
		cases = slices.DeleteFunc(cases, (*testcase.Case).InBrowser)
	}
	t, err := target.Open(ctx, target.Config{Site: project.Site, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	if err != nil {
		return nil, err
	}
	defer t.Close()
	sink := &schedule.Collected{}
	if err := schedule.Execute(ctx, t, sink, nil); err != nil {
		return nil, err
	}
	out := report.New(project.Forms[0], nil)
	out.Cases = cases
	for _, c := range cases {
		if r := sink.Result(c.ID); r != nil {
			out.Results[c.ID] = r
		}
	}
	return out, nil
}
