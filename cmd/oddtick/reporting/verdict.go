package reporting

import (
	"cmp"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"oddtick/cmd/oddtick/documents"
	"oddtick/core/finding"
	"oddtick/core/readiness"
	"oddtick/core/report"
	"oddtick/core/wording/phrases"
	"oddtick/formats/knownlist"
	"oddtick/formats/steps"
)

// sayVerdict writes whether a result's form may ship: a line with the reasons, a line for each open finding, what is accepted, and the
// requirements where there are any. The error holds the exit code: 1 for not ready, 2 for not known.
func sayVerdict(w io.Writer, r *report.Report, known string, now time.Time) error {
	list, err := ReadKnown(known)
	if err != nil {
		return err
	}
	facts := readiness.FactsOf(r, finding.Of(r), readiness.AcceptedIn(append(list.Acceptances(), r.Accepted...), now))
	v := readiness.Of(r.ReadyWhen, facts, now)
	fmt.Fprintf(w, "%s: %s\n", steps.OneLine(cmp.Or(r.Title, r.Form)), steps.OneLine(v.Headline))
	for _, f := range facts.Findings {
		until := phrases.Report("accepted_here")
		if f.Until != "" {
			until += " " + phrases.Report("accepted_until", "day", f.Until)
		}
		if !f.Accepted {
			until = phrases.Severities[string(f.Severity)].Text()
		}
		fmt.Fprintf(w, "  %s  %s (%s)\n", f.ID, steps.OneLine(f.Headline), until)
	}
	for _, one := range facts.Requirements {
		fmt.Fprintf(w, "  %s  %s, %s: %s\n", steps.OneLine(one.ID), phrases.RequirementStates[string(one.State)].Text(), phrases.Report("of_total", "n", one.Observed, "total", one.Cases), strings.Join(one.Rules, ", "))
	}
	switch v.State {
	case readiness.NotReady:
		return &documents.ExitError{Code: 1}
	case readiness.NotKnown:
		return &documents.ExitError{Code: 2}
	}
	return nil
}

// ReadKnown reads a list of known findings; an empty one where no file is named.
func ReadKnown(file string) (*knownlist.List, error) {
	if file == "" {
		return &knownlist.List{}, nil
	}
	text, err := os.ReadFile(file)
	if err != nil {
		return nil, fmt.Errorf("read the known findings: %w", err)
	}
	list, err := knownlist.Read(text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	return list, nil
}
