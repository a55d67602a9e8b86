// Package junit writes a run as JUnit XML, in the form that build servers read (the XML schema of the Ant JUnit task).
package junit

import (
	"encoding/xml"
	"fmt"
	"io"
	"strings"
	"time"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/wording"
)

type suites struct {
	XMLName xml.Name `xml:"testsuites"`
	Suites  []suite  `xml:"testsuite"`
}

type suite struct {
	Name      string `xml:"name,attr"`
	Timestamp string `xml:"timestamp,attr"`
	Hostname  string `xml:"hostname,attr"`
	Tests     int    `xml:"tests,attr"`
	Failures  int    `xml:"failures,attr"`
	Errors    int    `xml:"errors,attr"`
	Skipped   int    `xml:"skipped,attr"`
	Time      string `xml:"time,attr"`
	Cases     []test `xml:"testcase"`
}

type test struct {
	Name      string   `xml:"name,attr"`
	ClassName string   `xml:"classname,attr"`
	Time      string   `xml:"time,attr"`
	Failure   *failure `xml:"failure,omitempty"`
	Skipped   *skipped `xml:"skipped,omitempty"`
}

type failure struct {
	Message string `xml:"message,attr"`
	Type    string `xml:"type,attr"`
	Text    string `xml:",chardata"`
}

type skipped struct {
	Message string `xml:"message,attr"`
}

// One is one thing that was looked at, besides a form's cases: a page that was opened by somebody, a way through a journey.
type One struct {
	Name, Class string
	Verdict     judge.Verdict
	Says        string // in a few words
	Details     string // what was expected and observed, where it is odd
	Took        time.Duration
}

// Write writes the report: an odd case as a failure, one that was not observed, does not apply or was not run as skipped.
func Write(w io.Writer, r *report.Report) error {
	list := make([]One, 0, len(r.Cases))
	for _, c := range r.Cases {
		one := One{Name: c.ID, Class: r.Form + "." + c.Row, Verdict: judge.NotObserved, Says: "not run"}
		if result := r.Results[c.ID]; result != nil {
			one.Verdict, one.Says, one.Took = result.Verdict, string(result.Headline), result.Took
			if result.Verdict == judge.Odd {
				one.Details = oddParts(result)
			}
		}
		list = append(list, one)
	}
	return WriteAll(w, r.Form, r.Site, r.Started, r.Took, list)
}

// WriteAll writes a suite of things that were looked at.
func WriteAll(w io.Writer, name, site string, started time.Time, took time.Duration, list []One) error {
	s := suite{Name: name, Timestamp: started.UTC().Format("2006-01-02T15:04:05"), Hostname: hostOf(site), Tests: len(list), Time: seconds(took)}
	for _, one := range list {
		t := test{Name: clean(one.Name), ClassName: clean(one.Class), Time: seconds(one.Took)}
		switch one.Verdict {
		case judge.Odd:
			t.Failure = &failure{clean(one.Says), "odd", clean(one.Details)}
			s.Failures++
		case judge.NotObserved, judge.DoesNotApply: // neither was seen to be right
			t.Skipped = &skipped{clean(one.Says)}
			s.Skipped++
		}
		s.Cases = append(s.Cases, t)
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	e := xml.NewEncoder(w)
	e.Indent("", "  ")
	if err := e.Encode(suites{Suites: []suite{s}}); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}

func seconds(d time.Duration) string { return fmt.Sprintf("%.3f", d.Seconds()) }

func hostOf(site string) string {
	site = strings.TrimPrefix(strings.TrimPrefix(site, "http://"), "https://")
	host, _, _ := strings.Cut(site, "/")
	if host == "" {
		return "unknown"
	}
	return host
}

func oddParts(r *report.Result) string {
	var b strings.Builder
	for i, s := range r.Steps {
		for _, c := range s.Judgement.Checks {
			for _, p := range c.Parts {
				if p.Verdict == judge.Odd {
					fmt.Fprintf(&b, "step %d, %s, %s\n  expected: %s\n  observed: %s\n", i+1, wording.Check(c.Check), p.Words.Name, p.Words.Expected, p.Words.Observed)
				}
			}
		}
	}
	return b.String()
}

// clean leaves out what XML 1.0 cannot hold.
func clean(s string) string {
	return strings.Map(func(r rune) rune {
		if r == '\t' || r == '\n' || r == '\r' || r >= 0x20 && r != 0xFFFE && r != 0xFFFF {
			return r
		}
		return '\uFFFD'
	}, s)
}
