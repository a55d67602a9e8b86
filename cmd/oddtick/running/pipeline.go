package running

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"slices"
	"time"

	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/reporting"
	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/formats/knownlist"
	"oddtick/formats/steps"

	"github.com/spf13/cobra"
)

// pipelineFlags choose among a form's cases, and say what of a run's findings ends the command with 1.
type pipelineFlags struct {
	part, pick, baseline, known, failOn string

	n, of int // the part
}

func (f *pipelineFlags) add(c *cobra.Command) {
	c.Flags().StringVar(&f.part, "share", "", "run a share of the cases, to spread them over machines: 2/5 is the second of five")
	c.Flags().StringVar(&f.pick, "only", "", "run only the cases that were odd in the baseline (--only odd), or that are new or changed since (--only changed)")
	c.Flags().StringVar(&f.baseline, "baseline", "", "compare with this result (a file that run --json wrote): exit code 1 only for what is newly odd")
	c.Flags().StringVar(&f.failOn, "fail-on", "odd", "what ends the command with exit code 1: odd, or unusual for what breaks promises that hold on every form, too")
	c.Flags().StringVar(&f.known, "known", "", "findings listed in this YAML file do not count for exit code 1, such as: known: [{finding: k3v7q2za, until: 2027-01-31, why: accepted}]")
}

// check reads the flags, before anything is run.
func (f *pipelineFlags) check() error {
	if f.part != "" {
		if n, err := fmt.Sscanf(f.part, "%d/%d", &f.n, &f.of); n != 2 || err != nil || f.n < 1 || f.n > f.of || f.part != fmt.Sprintf("%d/%d", f.n, f.of) {
			return fmt.Errorf("--share %q is not a share; write it like 2/5, the second of five", f.part)
		}
	}
	if f.failOn != "odd" && f.failOn != "unusual" {
		return fmt.Errorf("--fail-on is odd or unusual, not %q", f.failOn)
	}
	switch f.pick {
	case "":
	case "odd", "changed":
		if f.baseline == "" {
			return fmt.Errorf("--only %s needs a result to choose by: --baseline FILE", f.pick)
		}
	default:
		return fmt.Errorf("--only is odd or changed, not %q", f.pick)
	}
	return nil
}

// whole tells whether this machine also looks at what is beyond forms: only the first part does.
func (f *pipelineFlags) whole() bool { return f.n <= 1 }

// choose leaves of a form's cases those that are to be run.
func (f *pipelineFlags) choose(cases []*testcase.Case, form string, several bool) ([]*testcase.Case, error) {
	if f.pick != "" {
		before, err := reporting.ReadResult(documents.FileOf(f.baseline, form, several))
		if err != nil {
			return nil, err
		}
		was := map[string]*testcase.Case{}
		for _, c := range before.Cases {
			was[c.ID] = c
		}
		cases = slices.DeleteFunc(slices.Clone(cases), func(c *testcase.Case) bool {
			if f.pick == "odd" {
				r := before.Results[c.ID]
				return r == nil || r.Verdict != judge.Odd
			}
			return sameCase(was[c.ID], c)
		})
	}
	if f.of == 0 {
		return cases, nil
	}
	var out []*testcase.Case
	for i, c := range cases {
		if i%f.of == f.n-1 {
			out = append(out, c)
		}
	}
	return out, nil
}

// sameCase tells whether a case is made as it was before.
func sameCase(before, now *testcase.Case) bool {
	if before == nil {
		return false
	}
	a, errA := json.Marshal(before)
	b, errB := json.Marshal(now)
	return errA == nil && errB == nil && bytes.Equal(a, b)
}

// readKnown reads what is known, by the findings' names; nothing where no file is named.
func (f *pipelineFlags) readKnown() (map[string]knownlist.Finding, error) {
	list, err := reporting.ReadKnown(f.known)
	if err != nil {
		return nil, err
	}
	out := map[string]knownlist.Finding{}
	for _, k := range list.Known {
		out[k.Finding] = k
	}
	return out, nil
}

// countUnusual counts what breaks promises that hold on every form, as far as it ends the command with 1: what documents call wrong, and all of
// it where that is asked for.
func (f *pipelineFlags) countUnusual(reports []*report.Report) (n int) {
	for _, r := range reports {
		for _, u := range r.Unusual() {
			if f.failOn == "unusual" || u.Decision == spec.Wrong {
				n++
			}
		}
	}
	return n
}

// count counts the odd cases that end the command with 1, and says of each known finding what became of it. Of the findings in still,
// which the baseline shows too, none counts.
func (f *pipelineFlags) count(w io.Writer, reports []*report.Report, still map[string]bool, today time.Time) (odd int, err error) {
	known, err := f.readKnown()
	if err != nil {
		return 0, err
	}
	shown := map[string]bool{}
	for _, r := range reports {
		for _, one := range finding.Of(r) {
			over := ""
			is := one.All(func(id string) bool {
				k, is := known[id]
				if is && k.Over(today) {
					over = k.Until
				}
				return is
			})
			for _, name := range one.Names {
				shown[name.ID], shown[name.Older] = true, true
			}
			switch {
			case still[one.ID]:
			case !is:
				odd += len(one.Cases)
			case over != "":
				fmt.Fprintf(w, "known until %s, now over  %s: %s\n", over, one.ID, steps.OneLine(one.Headline))
				odd += len(one.Cases)
			default:
				fmt.Fprintf(w, "known  %s: %s %s\n", one.ID, steps.OneLine(one.Headline), known[one.ID].Link)
			}
		}
	}
	all := !slices.ContainsFunc(reports, func(r *report.Report) bool { return r.Tally().NotRun > 0 }) && f.pick == "" && f.part == ""
	for _, id := range slices.Sorted(maps.Keys(known)) {
		switch k := known[id]; {
		case shown[id]:
		case all:
			fmt.Fprintf(w, "known, not found in this run  %s %s %s\n", id, k.Why, k.Link)
		default:
			fmt.Fprintf(w, "known, perhaps not run  %s %s %s\n", id, k.Why, k.Link)
		}
	}
	return odd, nil
}
