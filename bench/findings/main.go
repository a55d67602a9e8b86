// Command findings measures on the practice sites how findings answer to faults: whether each planted fault is one finding, whether
// the findings of random sets of faults have one cause each, and how far looking further makes their inputs smaller.
package main

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"os/signal"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"
	"unicode/utf8"

	"oddtick/engine/attempt"

	"oddtick/bench/planted"
	"oddtick/core/finding"
	"oddtick/core/investigate"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/practice"
)

// One is what came of a fault alone.
type One struct {
	Fault    string   `json:"fault"`
	Findings []string `json:"findings"` // their names
	Says     []string `json:"says"`
	// Headlines are those of its findings.
	Headlines []string `json:"headlines"`
	// Further is what looking further at its finding came to; Smallest tells whether the known smallest input was
	// reached, within 60 submissions.
	Further     string   `json:"further,omitempty"`
	Fields      []string `json:"fields,omitempty"`
	Submissions int      `json:"submissions,omitempty"`
	Smallest    bool     `json:"smallest"`
	Why         string   `json:"why,omitempty"`
	causes      map[report.Cause]bool
}

// Set is what came of several faults at once.
type Set struct {
	Faults []string `json:"faults"`
	// Findings is how many there were; OneCause, of how many the cause is that of one of the faults; Split, by fault, how many it has.
	Findings int            `json:"findings"`
	OneCause int            `json:"one_cause"`
	Other    []string       `json:"other,omitempty"` // what is no single fault's
	Split    map[string]int `json:"split"`
}

// Report is all of it.
type Report struct {
	Ones    []*One  `json:"faults"`
	Sets    []*Set  `json:"sets"`
	Seconds float64 `json:"seconds"`
}

func main() {
	debug.SetGCPercent(400) // as the command does
	sets := flag.Int("sets", 10, "random sets of four faults")
	seed := flag.Uint64("seed", 1, "of the sets")
	pairs := flag.Int("pairs", 0, "in place of that, random pairs of faults of one form, one of each known")
	chosen := flag.String("chosen", "", "in place of that, these pairs, such as help-mask+help-late,help-switch+help-twice")
	only := flag.String("only", "", "only faults whose names begin so")
	workers := flag.Int("workers", 3, "sites at once")
	file := flag.String("json", "", "write the result to this file")
	headlines := flag.String("headlines", "", "write the headlines of each fault's findings as Markdown to this file")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if *pairs > 0 || *chosen != "" {
		drawn := drawPairs(*pairs, *seed, *only)
		var err error
		if *chosen != "" {
			drawn, err = namedPairs(*chosen)
		}
		var list []*Pair
		if err == nil {
			list, err = measurePairs(ctx, drawn, *workers)
		}
		if err != nil {
			fmt.Fprintln(os.Stderr, "findings:", err)
			os.Exit(2)
		}
		printPairs(list)
		return
	}
	r, err := measure(ctx, *sets, *seed, *only, *workers)
	if err != nil {
		fmt.Fprintln(os.Stderr, "findings:", err)
		os.Exit(2)
	}
	if *file != "" {
		text, _ := json.MarshalIndent(r, "", " ") // plain data
		if err := os.WriteFile(*file, append(text, '\n'), 0o600); err != nil {
			fmt.Fprintln(os.Stderr, "findings:", err)
			os.Exit(2)
		}
	}
	if *headlines != "" {
		if err := os.WriteFile(*headlines, headlinesOf(r), 0o600); err != nil {
			fmt.Fprintln(os.Stderr, "findings:", err)
			os.Exit(2)
		}
	}
	r.print()
}

// ofForms are the faults of single forms.
func ofForms(only string) []practice.Fault {
	var out []practice.Fault
	for _, f := range planted.Faults() {
		if f.Form != "access" && f.Form != "confirm" && strings.HasPrefix(f.Name, only) {
			out = append(out, f)
		}
	}
	return out
}

func measure(ctx context.Context, sets int, seed uint64, only string, workers int) (*Report, error) {
	started := time.Now()
	faults := ofForms(only)
	r := &Report{Ones: make([]*One, len(faults)), Sets: make([]*Set, sets)}
	var failed sync.Map
	each := func(n int, do func(i int, dsn string) error) error {
		return planted.Each(ctx, n, workers, func(i int, dsn string) {
			if err := do(i, dsn); err != nil {
				failed.Store(i, err)
			}
		})
	}
	err := each(len(faults), func(i int, dsn string) (err error) {
		r.Ones[i], err = alone(ctx, dsn, faults[i])
		return err
	})
	if err != nil {
		return nil, err
	}
	rng := rand.New(rand.NewPCG(seed, seed))
	names := map[string]map[report.Cause]bool{}
	for i, one := range r.Ones {
		if one == nil {
			continue
		}
		names[faults[i].Name] = one.causes
	}
	var picked [][]practice.Fault
	for range sets {
		picked = append(picked, four(rng, faults))
	}
	err = each(sets, func(i int, dsn string) (err error) {
		r.Sets[i], err = together(ctx, dsn, picked[i], names)
		return err
	})
	r.Seconds = time.Since(started).Seconds()
	failed.Range(func(_, e any) bool {
		err = e.(error)
		return false
	})
	return r, err
}

// four are faults of one site, no two of which belong to the same check of the same form.
func four(rng *rand.Rand, faults []practice.Fault) []practice.Fault {
	var out []practice.Fault
	for _, i := range rng.Perm(len(faults)) {
		f := faults[i]
		if !slices.ContainsFunc(out, func(o practice.Fault) bool {
			return o.Form == f.Form && o.Check == f.Check || planted.SiteOf(o) != planted.SiteOf(f)
		}) {
			out = append(out, f)
		}
		if len(out) == 4 {
			break
		}
	}
	return out
}

// alone runs the fault's form, and looks further at the first finding in its check.
func alone(ctx context.Context, dsn string, f practice.Fault) (*One, error) {
	site, err := planted.Start(ctx, dsn, f.Form, []practice.Fault{f})
	if err != nil {
		return nil, err
	}
	defer site.Close()
	run, got, err := site.Form(ctx, f.Form, testcase.Standard)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", f.Name, err)
	}
	defer run.Close()
	one := &One{Fault: f.Name, causes: map[report.Cause]bool{}}
	for _, r := range got.Results {
		for _, reason := range r.Reasons() {
			one.causes[reason.Cause] = true
		}
	}
	all := finding.Of(got)
	// the one in the fault's check, or else the first
	best := max(0, slices.IndexFunc(all, func(found finding.Finding) bool { return string(found.Cause.Check) == f.Check }))
	for i, found := range all {
		one.Findings, one.Says = append(one.Findings, found.ID), append(one.Says, fmt.Sprintf("%s: %s", inWords(&found), found.Headline))
		one.Headlines = append(one.Headlines, string(found.Headline))
		if i != best {
			continue
		}
		at := slices.IndexFunc(got.Cases, func(c *testcase.Case) bool { return c.ID == found.Simplest })
		further, err := investigate.Investigate(ctx, run.Config.Designer.Maker, attempt.By(run), got.Cases[at], found.Cause, nil)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
		one.Further, one.Fields, one.Submissions = string(wording.Investigation(run.Config.Designer.Maker.Form, further)), further.Fields, further.Submissions
		want, known := smallest[f.Name]
		if !known {
			want = smallestInput{fields: 1}
		}
		switch {
		case further.Odd < further.Times || further.Submissions > 60:
			one.Why = string(wording.Investigation(run.Config.Designer.Maker.Form, further))
		case len(further.Fields) > want.fields:
			one.Why = fmt.Sprintf("%d unusual fields, %d would do", len(further.Fields), want.fields)
		case want.length > 0:
			text, _ := further.Simplest.Steps[len(further.Simplest.Steps)-1].Observation.Sent.Value(want.of)
			if n := utf8.RuneCountInString(text); n != want.length {
				one.Why = fmt.Sprintf("%d characters, %d would do", n, want.length)
			}
		}
		one.Smallest = one.Why == ""
	}
	fmt.Printf("%-28s %d findings, %s %v %d submissions %s\n", f.Name, len(one.Findings), one.Further, one.Fields, one.Submissions, one.Why)
	if len(all) != 1 {
		fmt.Println("    " + strings.Join(one.Says, "\n    "))
	}
	return one, nil
}

// smallestInput is how many fields of a submission must have another than their usual value for a fault to show, and, where the length
// is what matters, the shortest that shows it and the name of the field.
type smallestInput struct {
	fields int
	length int
	of     string
}

// smallest are those of faults that take no unusual field, more than one, or a length; of all others one field is enough.
var smallest = map[string]smallestInput{
	"username-cut":            {1, 21, "username"},
	"username-two":            {1, 2, "username"},
	"help-browser-lax":        {1, 61, "name"},
	"help-browser-strict":     {1, 41, "name"},
	"terms-reversed":          {},
	"message-first-only":      {fields: 2},
	"reply-again":             {},
	"reply-missing":           {},
	"secret-plain":            {},
	"secret-base64":           {},
	"secret-fast-hash":        {},
	"secret-one-salt":         {},
	"secret-in-redirect":      {},
	"no-redirect":             {},
	"redirect-nowhere":        {},
	"token-unchecked":         {},
	"token-any":               {},
	"get-joins":               {},
	"list-fails":              {},
	"role-taken":              {},
	"harvest-again":           {},
	"help-thanks":             {},
	"help-script-error":       {},
	"help-state-kept":         {},
	"help-thanks-without-row": {},
	"help-network-silent":     {},
	"help-button-stuck":       {},
	"help-twice":              {},
	"booking-malformed":       {},
	"booking-id-text":         {},
	"booking-day-off":         {},
	"booking-internal":        {},
	"booking-status":          {},
	"session-kept":            {},
	"cookie-readable":         {},
	"never-locked":            {},
	"me-second-row":           {},
	"me-touches":              {},
	"password-hash-kept":      {},
	"sessions-stay":           {},
	"present-unchecked":       {fields: 2},
	"booking-touching":        {fields: 2},
}

// together runs the forms of several faults at once, and tells whose each finding is by the causes that each fault alone shows. A fault
// of a shared table shows in other forms too.
func together(ctx context.Context, dsn string, faults []practice.Fault, names map[string]map[report.Cause]bool) (*Set, error) {
	site, err := planted.Start(ctx, dsn, faults[0].Form, faults)
	if err != nil {
		return nil, err
	}
	defer site.Close()
	out := &Set{Split: map[string]int{}}
	var forms []string
	for _, f := range faults {
		out.Faults = append(out.Faults, f.Name)
		if !slices.Contains(forms, f.Form) {
			forms = append(forms, f.Form)
		}
	}
	for _, form := range forms {
		run, got, err := site.Form(ctx, form, testcase.Standard)
		if err != nil {
			return nil, err
		}
		run.Close()
		for _, found := range finding.Of(got) {
			out.Findings++
			owners := 0
			for _, f := range faults {
				if names[f.Name][found.Cause] {
					owners++
					out.Split[f.Name]++
				}
			}
			if owners == 1 {
				out.OneCause++
			} else {
				out.Other = append(out.Other, fmt.Sprintf("%s, %s: %s", found.Cause.Row, inWords(&found), found.Headline))
			}
		}
	}
	fmt.Printf("%v: %d findings, of one cause %d, by fault %v %v\n", out.Faults, out.Findings, out.OneCause, out.Split, out.Other)
	return out, nil
}

func (r *Report) print() {
	one, small, looked := 0, 0, 0
	for _, o := range r.Ones {
		if len(o.Findings) == 1 {
			one++
		}
		if o.Further != "" {
			looked++
		}
		if o.Smallest {
			small++
		}
	}
	fmt.Printf("faults that are one finding: %d of %d\n", one, len(r.Ones))
	fmt.Printf("known smallest input reached: %d of %d, looked further at %d\n", small, len(r.Ones), looked)
	findings, single, most := 0, 0, 0
	for _, s := range r.Sets {
		findings, single = findings+s.Findings, single+s.OneCause
		for _, n := range s.Split {
			most = max(most, n)
		}
	}
	fmt.Printf("%d sets of four faults: %d findings, of one cause %d, a fault in %d findings at most; %.0f s\n", len(r.Sets), findings, single, most, r.Seconds)
}

// inWords says what a finding is about.
func inWords(f *finding.Finding) string {
	about := wording.Cause(nil, &f.Cause)
	return fmt.Sprintf("%s, %s", about.Check, about.Part)
}
