package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"

	"oddtick/bench/planted"
	"oddtick/core/finding"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/practice"
)

// Pair is two faults of one form, of which the first was known: its findings, as it shows alone, are on the list of what is known.
type Pair struct {
	Known string `json:"known"`
	Other string `json:"other"`
	// New are the findings that the list does not cover, in words; Named tells whether one of them is the other's.
	New   []string `json:"new"`
	Named bool     `json:"named"`
}

// lone is what a fault shows alone: the names of its findings, their causes, and the rules in spite of which something was accepted.
type lone struct {
	names  map[string]bool
	causes map[report.Cause]bool
	rules  map[string]bool
}

// has tells whether a cause is one of the fault's: the same, or the same rule broken. Whether a row changes when something is accepted in
// spite of a rule is up to the other fault.
func (l lone) has(c report.Cause) bool { return l.causes[c] || c.Rule != "" && l.rules[c.Rule] }

// drawPairs draws random pairs of faults of one form, of which the known one does not hide the other.
func drawPairs(n int, seed uint64, only string) [][2]practice.Fault {
	byForm := map[string][]practice.Fault{}
	var forms []string
	for _, f := range ofForms(only) {
		if len(byForm[f.Form]) == 1 {
			forms = append(forms, f.Form)
		}
		byForm[f.Form] = append(byForm[f.Form], f)
	}
	rng := rand.New(rand.NewPCG(seed, seed))
	pairs := make([][2]practice.Fault, n)
	for i := range pairs {
		// a form is as likely as it has faults
		at := byForm[forms[0]]
		for k := rng.IntN(len(ofForms(only))); k >= 0; {
			for _, form := range forms {
				if k -= len(byForm[form]); k < 0 {
					at = byForm[form]
					break
				}
			}
		}
		for {
			order := rng.Perm(len(at))
			pairs[i] = [2]practice.Fault{at[order[0]], at[order[1]]}
			if !pairs[i][0].Hides(pairs[i][1]) {
				break
			}
		}
	}
	return pairs
}

// namedPairs reads pairs of faults such as help-mask+help-late,help-switch+help-twice.
func namedPairs(text string) (pairs [][2]practice.Fault, err error) {
	for _, pair := range strings.Split(text, ",") {
		known, other, _ := strings.Cut(pair, "+")
		var p [2]practice.Fault
		for i, name := range []string{known, other} {
			at := slices.IndexFunc(planted.Faults(), func(f practice.Fault) bool { return f.Name == name })
			if at < 0 {
				return nil, fmt.Errorf("there is no fault %q; write pairs like help-mask+help-late,help-switch+help-twice", name)
			}
			p[i] = planted.Faults()[at]
		}
		pairs = append(pairs, p)
	}
	return pairs, nil
}

// measurePairs runs pairs of faults of one form, and tells how often the one that is not known ends a run with 1 and is named.
func measurePairs(ctx context.Context, pairs [][2]practice.Fault, workers int) ([]*Pair, error) {
	n := len(pairs)
	var needed []practice.Fault
	for i := range pairs {
		for _, f := range pairs[i] {
			if !slices.ContainsFunc(needed, func(o practice.Fault) bool { return o.Name == f.Name }) {
				needed = append(needed, f)
			}
		}
	}
	shows := make([]lone, len(needed))
	var failed sync.Map
	run := func(dsn string, faults ...practice.Fault) ([]finding.Finding, *report.Report, error) {
		site, err := planted.Start(ctx, dsn, faults[0].Form, faults)
		if err != nil {
			return nil, nil, err
		}
		defer site.Close()
		r, got, err := site.Form(ctx, faults[0].Form, testcase.Standard)
		if err != nil {
			return nil, nil, err
		}
		r.Close()
		return finding.Of(got), got, nil
	}
	err := planted.Each(ctx, len(needed), workers, func(i int, dsn string) {
		all, got, err := run(dsn, needed[i])
		if err != nil {
			failed.Store(needed[i].Name, err)
			return
		}
		shows[i] = lone{map[string]bool{}, map[report.Cause]bool{}, map[string]bool{}}
		for _, f := range all {
			shows[i].names[f.ID] = true
			for _, id := range f.With {
				shows[i].names[id] = true
			}
		}
		for _, r := range got.Results {
			for _, reason := range r.Reasons() {
				shows[i].causes[reason.Cause] = true
				if reason.Rule != "" {
					shows[i].rules[reason.Rule] = true
				}
			}
		}
	})
	if err != nil {
		return nil, err
	}
	of := func(name string) lone {
		return shows[slices.IndexFunc(needed, func(f practice.Fault) bool { return f.Name == name })]
	}
	out := make([]*Pair, n)
	err = planted.Each(ctx, n, workers, func(i int, dsn string) {
		p := &Pair{Known: pairs[i][0].Name, Other: pairs[i][1].Name}
		all, got, err := run(dsn, pairs[i][0], pairs[i][1])
		if err != nil {
			failed.Store(p.Known+" and "+p.Other, err)
			return
		}
		known, other := of(p.Known), of(p.Other)
		for _, f := range all {
			if f.All(func(id string) bool { return known.names[id] }) {
				continue
			}
			p.New = append(p.New, string(f.Headline))
			for _, id := range f.Cases {
				for _, reason := range got.Results[id].Reasons() {
					p.Named = p.Named || other.has(reason.Cause) && !known.causes[reason.Cause]
				}
			}
		}
		out[i] = p
		fmt.Printf("%-28s known, %-28s new: %v %s\n", p.Known, p.Other, p.Named, strings.Join(p.New, " | "))
	})
	failed.Range(func(what, e any) bool {
		err = fmt.Errorf("%v: %w", what, e.(error))
		return false
	})
	return out, err
}

// printPairs prints how many there were, and those that were hidden.
func printPairs(list []*Pair) {
	ended, named := 0, 0
	for _, p := range list {
		if len(p.New) > 0 {
			ended++
		} else {
			fmt.Printf("hidden: %s, where %s is known\n", p.Other, p.Known)
		}
		if p.Named {
			named++
		} else if len(p.New) > 0 {
			fmt.Printf("not named: %s, where %s is known: %s\n", p.Other, p.Known, strings.Join(p.New, " | "))
		}
	}
	fmt.Printf("pairs of which one is known: the other ends with 1 in %d of %d, and is named in %d\n", ended, len(list), named)
}
