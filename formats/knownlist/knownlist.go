// Package knownlist reads and writes what is known of a form's findings, as YAML: known findings do not fail a pipeline.
package knownlist

import (
	"fmt"
	"regexp"
	"time"

	"oddtick/core/report"

	"github.com/goccy/go-yaml"
)

// List is the file.
type List struct {
	Known []Finding `yaml:"known"`
}

// Finding is a finding that is known.
type Finding struct {
	Finding string `yaml:"finding"`
	Until   string `yaml:"until,omitempty"` // the last day, as year-month-day
	Link    string `yaml:"link,omitempty"`
	Why     string `yaml:"why,omitempty"`
}

// Over tells whether the last day is over.
func (f *Finding) Over(today time.Time) bool {
	return f.Until != "" && f.Until < today.Format(time.DateOnly)
}

var begins = regexp.MustCompile(`(?m)^known\s*:`)

// Is tells whether a file holds such a list.
func Is(text []byte) bool { return begins.Match(text) }

// Read reads a list. An error says what is wrong with which entry.
func Read(text []byte) (*List, error) {
	var l List
	if err := yaml.UnmarshalWithOptions(text, &l, yaml.Strict()); err != nil {
		return nil, err
	}
	for i, k := range l.Known {
		if k.Finding == "" {
			return nil, fmt.Errorf("entry %d under known: names no finding", i+1)
		}
		if _, err := time.Parse(time.DateOnly, k.Until); k.Until != "" && err != nil {
			return nil, fmt.Errorf("the finding %s is known until %q; write the day like 2027-01-31", k.Finding, k.Until)
		}
	}
	return &l, nil
}

// Acceptances are the entries as a result holds them.
func (l *List) Acceptances() []report.Acceptance {
	var out []report.Acceptance
	for _, k := range l.Known {
		out = append(out, report.Acceptance{Finding: k.Finding, Until: k.Until, Link: k.Link, Why: k.Why})
	}
	return out
}

// Text writes a list.
func (l *List) Text() ([]byte, error) { return yaml.Marshal(l) }
