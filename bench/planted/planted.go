// Package planted runs a practice site with faults on, and forms on it, for what measures how faults are found.
package planted

import (
	"context"
	"fmt"
	"io"
	"maps"
	"net/http/httptest"
	"os"
	"slices"
	"sync"
	"time"

	"oddtick/core/design"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/examples"
	"oddtick/internal/localdb"
	"oddtick/observe/mail"
	"oddtick/practice"
	"oddtick/practice/sheds"
)

// Each does something for each number below n, a few at a time, each with a schema of its own of one database server, which is started for it.
func Each(ctx context.Context, n, atOnce int, do func(i int, dsn string)) error {
	folder, err := os.MkdirTemp("", "oddtick-planted-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(folder)
	db, err := localdb.Start(ctx, folder)
	if err != nil {
		return err
	}
	defer db.Stop()
	slots := make(chan struct{}, atOnce)
	var wg sync.WaitGroup
	for i := range n {
		slots <- struct{}{}
		wg.Go(func() {
			defer func() { <-slots }()
			do(i, db.DSN(fmt.Sprintf("planted_%d", i)))
		})
	}
	wg.Wait()
	return ctx.Err()
}

// Faults are the planted faults of both practice sites.
func Faults() []practice.Fault { return slices.Concat(practice.Faults, sheds.Faults) }

// SiteOf is the project of the site that a fault's form is of.
func SiteOf(fault practice.Fault) string {
	if slices.ContainsFunc(sheds.Faults, func(f practice.Fault) bool { return f.Form == fault.Form }) {
		return examples.Sheds
	}
	return examples.Ostlewick
}

// Site is one of the practice sites on a schema of its own, with the project that says what it promises, and a receiver of its mails.
type Site struct {
	Project *spec.Project
	Mails   *mail.Receiver
	// HTTPOnly leaves out the cases of the browser.
	HTTPOnly bool
	site     io.Closer
	server   *httptest.Server
}

// Start begins the site of some faults, with these on, or without faults the one that has a form. Close it when done.
func Start(ctx context.Context, dsn, form string, faults []practice.Fault) (*Site, error) {
	mails, err := mail.Listen("127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	s := &Site{Mails: mails, server: httptest.NewUnstartedServer(nil)}
	var names []string
	for _, f := range faults {
		names = append(names, f.Name)
	}
	project := SiteOf(practice.Fault{Form: form})
	if project == examples.Sheds {
		err = s.startSheds(ctx, dsn, names)
	} else {
		err = s.startAllotments(ctx, dsn, names)
	}
	if err != nil {
		mails.Close()
		return nil, err
	}
	s.server.Start()
	if s.Project, err = readProject(project); err != nil {
		s.Close()
		return nil, err
	}
	s.Project.Site.Address, s.Project.Site.Databases[0].DSN = s.server.URL, dsn
	return s, nil
}

func (s *Site) startAllotments(ctx context.Context, dsn string, faults []string) error {
	site, err := practice.Open(ctx, practice.Config{DSN: dsn, Faults: faults, HashCost: 8, Accounts: true, Mail: s.Mails.Address(), Public: "http://" + s.server.Listener.Addr().String()})
	if err != nil {
		return err
	}
	s.site, s.server.Config.Handler = site, site.Handler(false)
	return nil
}

func (s *Site) startSheds(ctx context.Context, dsn string, faults []string) error {
	site, err := sheds.Open(ctx, sheds.Config{DSN: dsn, Faults: faults})
	if err != nil {
		return err
	}
	s.site, s.server.Config.Handler = site, site.Handler(false)
	return nil
}

// Close ends the site.
func (s *Site) Close() {
	s.server.Close()
	_ = s.site.Close()
	_ = s.Mails.Close()
}

func readProject(name string) (*spec.Project, error) {
	documents, err := examples.Documents(name)
	if err != nil {
		return nil, err
	}
	var files []spec.File
	for _, file := range slices.Sorted(maps.Keys(documents)) {
		files = append(files, spec.File{Name: file, Text: documents[file]})
	}
	return spec.ReadProject(files)
}

// Form runs the cases of a form at a depth. The run is left open, for what looks further; close it.
func (s *Site) Form(ctx context.Context, id string, depth testcase.Depth) (*target.Target, *report.Report, error) {
	i := slices.IndexFunc(s.Project.Forms, func(f *spec.Form) bool { return f.Form == id })
	if i < 0 {
		return nil, nil, fmt.Errorf("there is no form %s", id)
	}
	form := s.Project.Forms[i]
	p, err := form.Prepare()
	if err != nil {
		return nil, nil, err
	}
	d, err := design.New(p, s.Project.Site)
	if err != nil {
		return nil, nil, err
	}
	cases, _ := target.Drivable(d.Design(design.Plan{Depth: depth}).Cases)
	if s.HTTPOnly {
		cases = slices.DeleteFunc(cases, (*testcase.Case).InBrowser)
	}
	run, err := target.Open(ctx, target.Config{Site: s.Project.Site, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	if err != nil {
		return nil, nil, err
	}
	sink := &schedule.Collected{}
	if err := schedule.Execute(ctx, run, sink, nil); err != nil {
		run.Close()
		return nil, nil, err
	}
	report := report.New(form, nil)
	report.Depth, report.Cases, report.Complete = depth, cases, true
	for _, c := range cases {
		if result := sink.Result(c.ID); result != nil {
			report.Results[c.ID] = result
		} else {
			report.Complete = false
		}
	}
	return run, report, nil
}
