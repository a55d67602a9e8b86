// Command learn measures how much of the practice site's documents is learned from the addresses of its forms alone, and what else is
// learned.
package main

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"os/signal"
	"slices"
	"syscall"
	"time"

	"oddtick/bench/planted"
	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/judge"
	"oddtick/core/learn"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/universal"
	"oddtick/engine/learning"
	"oddtick/formats/recorded"
	"oddtick/practice"
)

// Learned is what came of a form.
type Learned struct {
	Form        string  `json:"form"`
	Fields      int     `json:"fields"`
	Submissions int     `json:"submissions"`
	Seconds     float64 `json:"seconds"`
	// Found is how many of the document's statements were learned, Missed are the others, and More are those that were learned and that the
	// document does not make, true or not.
	Found  int      `json:"found"`
	Of     int      `json:"of"`
	Missed []string `json:"missed"`
	More   []string `json:"more"`
	// Unusual are the promises that hold on every form and that it breaks.
	Unusual []universal.Unusual `json:"unusual"`
	// Odd are the cases of the learned document, over HTTP at standard depth, that are odd on the site that it was learned from; Cases are all.
	Cases int      `json:"cases"`
	Odd   []string `json:"odd"`
	// Failure says why it was not learned.
	Failure string `json:"failure,omitempty"`
}

func main() {
	only := flag.String("only", "", "only this form")
	file := flag.String("json", "", "write the result to this file")
	faults := flag.String("faults", "", "plant the faults that show without rules and whose names begin so, all for every one, instead")
	rounds := flag.Int("rounds", 1, "with faults, how often the faultless forms are learned")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if *faults != "" {
		if missed := plant(ctx, *faults, *rounds); missed > 0 {
			os.Exit(1)
		}
		return
	}
	if err := run(ctx, *only, *file); err != nil {
		fmt.Fprintln(os.Stderr, "learn:", err)
		os.Exit(2)
	}
}

func run(ctx context.Context, only, file string) error {
	var forms []string
	for _, f := range planted.Faults() {
		if f.Form != "access" && f.Form != "confirm" && !slices.Contains(forms, f.Form) && (only == "" || f.Form == only) {
			forms = append(forms, f.Form)
		}
	}
	list := make([]*Learned, len(forms))
	err := planted.Each(ctx, len(forms), 1, func(i int, dsn string) {
		list[i] = form(ctx, dsn, forms[i], nil)
		l := list[i]
		fmt.Printf("%-10s %2d fields %4d submissions %5.1f s  %3d of %3d statements, %d more, %d of %d cases odd  %s\n", l.Form, l.Fields, l.Submissions, l.Seconds, l.Found, l.Of, len(l.More), len(l.Odd), l.Cases, l.Failure)
		for _, s := range l.Missed {
			fmt.Println("    missed", s)
		}
		for _, s := range l.More {
			fmt.Println("    more  ", s)
		}
		for _, s := range l.Odd {
			fmt.Println("    odd   ", s)
		}
		for _, u := range l.Unusual {
			fmt.Printf("    unusual %+v\n", u)
		}
	})
	if err != nil || file == "" {
		return err
	}
	text, err := json.MarshalIndent(list, "", " ")
	if err != nil {
		return err
	}
	return os.WriteFile(file, append(text, '\n'), 0o600)
}

// form learns one form of a site with faults on, and compares with its document.
func form(ctx context.Context, dsn, id string, faults []practice.Fault) *Learned {
	out := &Learned{Form: id}
	err := func() error {
		site, err := planted.Start(ctx, dsn, id, faults)
		if err != nil {
			return err
		}
		defer site.Close()
		shipped := site.Project.Forms[slices.IndexFunc(site.Project.Forms, func(f *spec.Form) bool { return f.Form == id })]
		as := ""
		if shipped.Before != nil {
			as = shipped.Before.SignedIn
		}
		begun := time.Now()
		var read *learning.Read
		if shipped.Page == "" {
			read, err = endpoint(shipped)
		} else {
			read, err = learning.Page(ctx, site.Project.Site, shipped.Page, as, shipped.OpenedBy)
		}
		if err != nil {
			return err
		}
		t, err := learning.Open(ctx, site.Project.Site, read.Document, nil)
		if err != nil {
			return err
		}
		defer t.Close()
		found, err := learning.Form(ctx, t.Target, t.Document, learning.Options{Sent: t.Sent, First: t.First})
		if err != nil {
			return err
		}
		if _, err := t.CleanUp(ctx, nil); err != nil {
			return err
		}
		out.Submissions, out.Seconds = found.Submissions, time.Since(begun).Seconds()
		out.Unusual = universal.Add(found.Unusual, read.Unusual...)
		asked, err := learning.Requests(ctx, site.Project.Site, found.Text, time.Now().UnixMilli(), false)
		if err != nil {
			return err
		}
		out.Unusual = universal.Add(out.Unusual, asked...)
		universal.Sort(out.Unusual)
		learned, err := spec.ReadForm("", found.Text)
		if err != nil {
			return err
		}
		if os.Getenv("SHOW") != "" {
			fmt.Println(string(found.Text))
		}
		out.compare(shipped, learned)
		if faults == nil {
			return out.check(ctx, site, learned)
		}
		return nil
	}()
	if err != nil {
		out.Failure = err.Error()
	}
	return out
}

// endpoint is what a recorded request tells of a form without a page: where it is sent, how, and the fields' names.
func endpoint(shipped *spec.Form) (*learning.Read, error) {
	r := recorded.Request{Method: shipped.Submit.Method, URL: shipped.Submit.To, Encoding: shipped.Submit.Encoding}
	for i := range shipped.Fields {
		m := recorded.Member{Name: shipped.Fields[i].Name, Value: ""}
		if shipped.Fields[i].Kind == spec.Date {
			m.Value = time.Now().AddDate(0, 0, 3).Format(time.DateOnly)
		}
		r.Members = append(r.Members, m)
	}
	text := fmt.Appendf(nil, "form: %s\nsubmit: {method: %s, to: %s, encoding: %s}\n", shipped.Form, r.Method, r.URL, r.Encoding)
	form, err := spec.ReadForm("", text)
	if err != nil {
		return nil, err
	}
	for _, p := range draft.Propose(form, r.Draft("")) {
		if text, err = document.Apply(text, p.Edits); err != nil {
			return nil, err
		}
	}
	return &learning.Read{Document: text}, nil
}

// check runs what was learned against the site that it was learned from.
func (l *Learned) check(ctx context.Context, site *planted.Site, learned *spec.Form) error {
	learned.Form = l.Form + "_learned"
	site.Project.Forms, site.HTTPOnly = append(site.Project.Forms, learned), true
	run, of, err := site.Form(ctx, learned.Form, testcase.Standard)
	if err != nil {
		return err
	}
	defer run.Close()
	l.Cases = len(of.Cases)
	for _, c := range of.Cases {
		if r := of.Results[c.ID]; r != nil && r.Verdict == judge.Odd {
			l.Odd = append(l.Odd, c.ID+": "+string(r.Headline))
		}
	}
	return nil
}

// compare counts the statements about each field that both documents have. Ids do not count, nor do rules of browser and database, and
// rules under a condition.
func (l *Learned) compare(shipped, learned *spec.Form) {
	for i := range shipped.Fields {
		f := &shipped.Fields[i]
		if f.Kind.Untouched() {
			continue
		}
		l.Fields++
		at := slices.IndexFunc(learned.Fields, func(o spec.Field) bool { return o.Name == f.Name })
		if at < 0 {
			l.Of++
			l.Missed = append(l.Missed, f.Name)
			continue
		}
		want, got := learn.Statements(shipped, f), learn.Statements(learned, &learned.Fields[at])
		for _, s := range want {
			l.Of++
			if slices.Contains(got, s) {
				l.Found++
			} else {
				l.Missed = append(l.Missed, f.Name+" "+s)
			}
		}
		for _, s := range got {
			if !slices.Contains(want, s) {
				l.More = append(l.More, f.Name+" "+s)
			}
		}
	}
}
