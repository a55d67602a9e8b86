package running

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"time"

	"oddtick/cmd/oddtick/designing"
	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/reporting"
	"oddtick/cmd/oddtick/usage"
	"oddtick/core/contradiction"
	"oddtick/core/cover"
	"oddtick/core/design"
	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/engine/schedule"
	"oddtick/engine/sweep"
	"oddtick/engine/target"
	"oddtick/formats/markdown"
	"oddtick/formats/result"
	"oddtick/formats/steps"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

type runFlags struct {
	designing.DesignFlags
	reporting.ReportFiles
	pipelineFlags
	site, database, json, form string
	environment, confirm       string
	mail, journey, summary     string
	cases                      []string
	maxPerMinute               float64
	maxWait                    time.Duration
	caseOf                     map[string]string // form by case, of those asked for
	anyway, cleanUp, access    bool
	quiet, verbose             bool
}

// RunCommand runs cases against a site.
func RunCommand() *cobra.Command {
	var f runFlags
	c := &cobra.Command{
		Use:   "run FILE",
		Short: "Run a form document, or a project folder, against a site",
		Long: `Submits the cases to the site, and compares page, message and database row with the document. In a project folder every form is run;
then every page is opened as every account, and the journeys are run.`,
		Example: `  oddtick run examples/ostlewick --form join --depth quick --html report.html
  oddtick run examples/ostlewick --known known.yaml --baseline yesterday.json --only odd`,
		GroupID: usage.Run, Annotations: usage.Exit("everything is as expected", "something is odd", "the run failed, or something was not observed"),
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error { return runProject(cmd, args[0], f) },
	}
	f.addPlace(c)
	f.DesignFlags.Add(c)
	c.Flags().StringVar(&f.form, "form", "", "run only the form with this id")
	c.Flags().StringArrayVar(&f.cases, "case", nil, "run only the case with this id, such as join/username.length.max+1/http; may be repeated")
	c.Flags().Float64Var(&f.maxPerMinute, "max-per-minute", 0, "submit at most this many cases per minute; 0 for no limit")
	c.Flags().BoolVar(&f.access, "access", false, "only check access")
	c.Flags().DurationVar(&f.maxWait, "max-wait", sweep.UsualWait, "with access, wait at most this long at once for a session or token to end")
	c.Flags().StringVar(&f.journey, "journey", "", "only run the journey with this id")
	f.pipelineFlags.add(c)
	c.Flags().StringVar(&f.mail, "mail", "", "receive the site's mail on this host:port of this machine; overrides the site document")
	f.ReportFiles.Add(c)
	c.Flags().StringVar(&f.json, "json", "", "write the result as JSON to this file, - for standard output")
	c.Flags().StringVar(&f.summary, "summary", "", "append a Markdown summary of all forms to this file, for the pipeline's page")
	c.Flags().BoolVar(&f.cleanUp, "delete-written-rows", false, "at the end, delete the rows that the run wrote and restore those it changed; needs the rights to insert, update and delete")
	c.Flags().BoolVar(&f.anyway, "ignore-contradictions", false, "also run a form whose rules no value can satisfy")
	c.Flags().BoolVar(&f.quiet, "quiet", false, "print only the counts of each form")
	c.Flags().BoolVar(&f.verbose, "verbose", false, "print every case as it finishes, with what is odd about it")
	c.MarkFlagsMutuallyExclusive("quiet", "verbose")
	return c
}

// addPlace adds the flags that say where the site and its database are.
func (f *runFlags) addPlace(c *cobra.Command) {
	c.Flags().StringVar(&f.site, "site", "", "address of the site; overrides the site document")
	c.Flags().StringVar(&f.environment, "environment", "", "run in this environment of the site document, by its id")
	c.Flags().StringVar(&f.confirm, "confirm", "", "the id of the environment once more, where the document protects it by confirm")
	c.Flags().StringVar(&f.database, "database", "", "data source name of the watched database; overrides the first one of the site document")
}

// place puts what the flags say of site and database into the project of a path, and the secrets that its documents do not hold themselves.
func (f *runFlags) place(project *spec.Project, path string) error {
	var err error
	if project.Site, err = project.Site.In(f.environment); err != nil {
		return fmt.Errorf("--environment: %w", err)
	}
	if project.Site.Protected() == spec.Confirm && f.confirm != f.environment {
		return fmt.Errorf("the environment %s is protected: add --confirm %s to submit there", f.environment, f.environment)
	}
	if f.site != "" {
		project.Site.Address = f.site
	}
	if project.Site.Address == "" {
		return errors.New("the site's address is needed: --site http://127.0.0.1:4650, or address: in the site document")
	}
	if f.database != "" {
		if len(project.Site.Databases) == 0 {
			project.Site.Databases = []spec.Database{{ID: "main"}}
		}
		project.Site.Databases[0].DSN = f.database
	}
	return documents.TakeSecrets(project.Site, documents.FolderOf(path))
}

func runProject(cmd *cobra.Command, path string, f runFlags) error {
	plan, err := f.Plan()
	if err != nil {
		return err
	}
	if err := f.pipelineFlags.check(); err != nil {
		return err
	}
	if _, err := f.readKnown(); err != nil {
		return err
	}
	if f.maxPerMinute < 0 {
		return fmt.Errorf("--max-per-minute %v is not a rate; write a number of cases, such as 60", f.maxPerMinute)
	}
	project, err := documents.ReadProject(path)
	if err != nil {
		return err
	}
	if err := f.place(project, path); err != nil {
		return err
	}
	if f.mail != "" {
		project.Site.Mail = &spec.Mail{Receive: f.mail}
	}
	several := len(project.Forms) > 1 && f.form == ""
	if err := f.findCases(project, plan); err != nil {
		return err
	}
	reports, unopened, err := f.runForms(cmd, project, plan, several)
	if err != nil {
		return err
	}
	if f.form != "" && len(reports) == 0 {
		return fmt.Errorf("there is no form %q in %s", f.form, path)
	}
	w := cmd.OutOrStdout()
	if slices.Contains([]string{f.json, f.CSV, f.JUnit, f.HTML, f.Markdown, f.XLSX}, "-") {
		w = cmd.ErrOrStderr()
	}
	if f.summary != "" {
		if err := documents.AddTo(f.summary, func(w io.Writer) error { return markdown.WriteSummary(w, reports) }); err != nil {
			return err
		}
	}
	t := verdictOf(w, reports, f.quiet)
	t.unseen += unopened
	still := map[string]bool{}
	if f.baseline != "" {
		for _, r := range reports {
			if err := reporting.AgainstBaseline(w, f.baseline, r, several, still); err != nil {
				return err
			}
		}
	}
	if t.odd, err = f.count(w, reports, still, time.Now()); err != nil {
		return err
	}
	t.odd += f.countUnusual(reports)
	info, err := os.Stat(path)
	if err != nil {
		return err
	}
	whole := f.form == "" && len(f.cases) == 0 && f.whole() && (info.IsDir() || len(project.Forms) > 1) // a form's file alone is that form
	if err := f.beyondForms(cmd.Context(), w, cmd.OutOrStdout(), project, whole, t); err != nil {
		return err
	}
	return t.end()
}

// runForms runs each form that is asked for, and writes its files. unopened is how many could not be run.
func (f *runFlags) runForms(cmd *cobra.Command, project *spec.Project, plan design.Plan, several bool) (reports []*report.Report, unopened int, err error) {
	for _, form := range project.Forms {
		if f.form != "" && form.Form != f.form || f.access || f.journey != "" || !f.hasCase(form.Form) {
			continue
		}
		if err := contradictions(cmd.ErrOrStderr(), project.Site, form, f.anyway); err != nil {
			return nil, 0, err
		}
		r, err := f.runForm(cmd.Context(), cmd.ErrOrStderr(), project, form, plan, several)
		var cannot *target.CannotRunError
		if errors.As(err, &cannot) && len(project.Forms) > 1 && f.form == "" { // the others are run all the same
			fmt.Fprintf(cmd.ErrOrStderr(), "not observed  the form %s: %s\n", form.Form, cannot.Reason)
			unopened++
			continue
		}
		if err != nil {
			return nil, 0, err
		}
		reports = append(reports, r)
		if f.json != "" {
			if err := documents.ToFile(documents.FileOf(f.json, r.Form, several), cmd.OutOrStdout(), func(w io.Writer) error { return result.Write(w, r, project.Site.Passwords()...) }); err != nil {
				return nil, 0, err
			}
		}
		if err := f.ReportFiles.Write(cmd.OutOrStdout(), r, several); err != nil {
			return nil, 0, err
		}
	}
	return reports, unopened, nil
}

// contradictions prints what of a form cannot hold together. What no value can pass ends the command, unless it is to run anyway.
func contradictions(w io.Writer, site *spec.Site, form *spec.Form, anyway bool) error {
	p, err := form.Prepare()
	if err != nil {
		return err
	}
	impassable := false
	for _, c := range contradiction.Find(p, contradiction.Against{Site: site, Now: time.Now()}) {
		word := "contradiction"
		if c.Note {
			word = "note"
		}
		fmt.Fprintf(w, "%s  %s\n", word, c.Problem(form).Error())
		impassable = impassable || c.Impassable()
	}
	if impassable && !anyway {
		return errors.New("no value can satisfy these rules; correct them, or run anyway with --ignore-contradictions")
	}
	return nil
}

func (f *runFlags) runForm(ctx context.Context, progress io.Writer, project *spec.Project, form *spec.Form, plan design.Plan, several bool) (*report.Report, error) {
	d, err := documents.DesignerOf(project, form)
	if err != nil {
		return nil, err
	}
	set := d.Design(plan, project.EditsOf(form.Form)...)
	cases, left := target.Drivable(set.Cases)
	if len(f.cases) > 0 {
		set.Cases, set.Omitted, left = f.only(d.Design(design.Plan{Depth: testcase.Thorough, Strength: plan.Strength, Large: true}, project.EditsOf(form.Form)...).Cases), nil, nil
		cases, left = target.Drivable(set.Cases)
	}
	if cases, err = f.choose(cases, form.Form, several); err != nil {
		return nil, err
	}
	permitted := target.Permitted(project.Site, cases)
	for _, c := range cases {
		if !slices.Contains(permitted, c) {
			left = append(left, c)
		}
	}
	cases = permitted
	started := time.Now()
	r := report.New(form, project.Site)
	r.Site, r.Depth, r.Run, r.Started = project.Site.Address, plan.Depth, started.UnixMilli(), started.UTC()
	r.Cases, r.Left, r.Omitted = cases, left, set.Omitted
	known, err := reporting.ReadKnown(f.known)
	if err != nil {
		return nil, err
	}
	r.Accepted = known.Acceptances()
	run, err := target.Open(ctx, target.Config{Site: project.Site, Designer: d, Cases: cases, Number: r.Run, Options: target.Options{MaxPerMinute: f.maxPerMinute}})
	if err != nil {
		return nil, err
	}
	defer run.Close()
	sink := &schedule.Collected{}
	var p *progressLine
	switch {
	case f.verbose:
		sink.OnDone = func(r *report.Result) { eachCase(progress, r) }
	case !f.quiet:
		p = newProgress(progress, form.Form, len(cases))
		sink.OnDone = p.done
	}
	journal, err := openJournal(f.json, r, several)
	if err != nil {
		return nil, err
	}
	err = schedule.Execute(ctx, run, &journaled{Sink: sink, journal: journal}, nil)
	p.end()
	defer journal.end()
	if f.cleanUp {
		done, failed := run.CleanUp(context.WithoutCancel(ctx), nil)
		if failed != nil {
			return nil, fmt.Errorf("clean up: %w", failed)
		}
		fmt.Fprintln(progress, done)
	}
	r.Complete = err == nil
	if err != nil && !errors.Is(err, context.Canceled) {
		return nil, err
	}
	r.Took = time.Since(started)
	r.Foreign = sink.Foreign
	r.Hashes, r.Verifying = run.Verified()
	r.AskedToWait, r.Waited = run.Waited()
	r.Results = map[string]*report.Result{}
	for _, c := range cases {
		if result := sink.Result(c.ID); result != nil {
			r.Results[c.ID] = result
		}
	}
	r.Coverage = cover.ShownBy(d, set, d.Design(design.Plan{Depth: testcase.Thorough, Strength: plan.Strength, Large: true}), r.Observed)
	return r, nil
}

// hasCase tells whether a case that was asked for is one of a form's; so is every form where none was asked for.
func (f *runFlags) hasCase(form string) bool {
	return len(f.cases) == 0 || slices.ContainsFunc(f.cases, func(id string) bool { return f.caseOf[id] == form })
}

// only leaves the cases that were asked for.
func (f *runFlags) only(all []*testcase.Case) []*testcase.Case {
	return slices.DeleteFunc(slices.Clone(all), func(c *testcase.Case) bool { return !slices.Contains(f.cases, c.ID) })
}

// findCases finds the forms of the cases that were asked for, at whatever depth they are.
func (f *runFlags) findCases(project *spec.Project, plan design.Plan) error {
	if len(f.cases) == 0 {
		return nil
	}
	f.caseOf = map[string]string{}
	for _, form := range project.Forms {
		d, err := documents.DesignerOf(project, form)
		if err != nil {
			return err
		}
		for _, c := range f.only(d.Design(design.Plan{Depth: testcase.Thorough, Strength: plan.Strength, Large: true}, project.EditsOf(form.Form)...).Cases) {
			f.caseOf[c.ID] = form.Form
		}
	}
	for _, id := range f.cases {
		if f.caseOf[id] == "" {
			return fmt.Errorf("there is no case %q; oddtick design lists them", id)
		}
	}
	return nil
}

// verdictOf prints what is odd, a finding for each cause, and what was not observed; quietly, no more than how many.
func verdictOf(w io.Writer, reports []*report.Report, quiet bool) *tally {
	t := &tally{}
	for _, r := range reports {
		count := r.Count()
		t.odd += count[judge.Odd]
		t.unseen += count[judge.NotObserved]
		sum := fmt.Sprintf("%s: %s, %.1f s", r.Form, wording.Counts(r.Tally()), r.Took.Seconds())
		if quiet {
			fmt.Fprintln(w, sum)
			continue
		}
		for _, g := range finding.Of(r) {
			fmt.Fprintf(w, "odd  %-14s %s (%d)  %s\n", cmp.Or(g.Row, "several rows"), steps.OneLine(g.Headline), len(g.Cases), g.ID)
			for _, id := range g.Cases {
				fmt.Fprintf(w, "       %s\n", id)
			}
		}
		for _, c := range r.Cases {
			if r.VerdictOf(c) != judge.NotObserved {
				continue
			}
			if result := r.Results[c.ID]; result != nil {
				fmt.Fprintf(w, "not observed  %s: %s\n", c.ID, steps.OneLine(result.Headline))
			}
		}
		for _, u := range r.Unusual() {
			word := "unusual"
			if u.Decision == spec.Wrong {
				word = "wrong"
			}
			fmt.Fprintf(w, "%s  %s (%d)\n", word, steps.OneLine(wording.Unusual(r.Rows, u.Unusual)), len(u.Cases))
		}
		for _, o := range r.Omitted {
			fmt.Fprintf(w, "no case for %s: %s\n", o.About, o.Why)
		}
		if r.Foreign > 0 {
			fmt.Fprintf(w, "others changed %d rows during the run\n", r.Foreign)
		}
		fmt.Fprintln(w, sum)
		if r.Hashes > 0 && r.Took > 0 {
			fmt.Fprintf(w, "%d stored hashes verified during the run: %.1f s, %.0f %% of its time\n", r.Hashes, r.Verifying.Seconds(), 100*r.Verifying.Seconds()/r.Took.Seconds())
		}
		if r.AskedToWait > 0 {
			fmt.Fprintf(w, "the site answered %d times with 429 (too many requests); waited %.1f s in total\n", r.AskedToWait, r.Waited.Seconds())
		}
		if len(r.Left) > 0 {
			fmt.Fprintf(w, "%d more cases are skipped\n", len(r.Left))
		}
		if !r.Complete {
			fmt.Fprintf(w, "stopped before the end: %s\n", wording.Verdict(r.Tally()))
		}
	}
	return t
}

// eachCase prints a case that is done. Values are left to the reports, which know what is secret.
func eachCase(w io.Writer, r *report.Result) {
	fmt.Fprintf(w, "%-12s %s: %s, %d ms\n", r.Verdict, r.Case, steps.OneLine(r.Headline), r.Took.Milliseconds())
	for i, s := range r.Steps {
		for _, c := range s.Judgement.Checks {
			for _, p := range c.Parts {
				if p.Verdict == judge.Odd {
					fmt.Fprintf(w, "             step %d, %s: %s: %s\n", i+1, wording.Check(c.Check), p.Words.Name, p.Words.Difference)
				}
			}
		}
	}
}

// progressLine is one line rewritten on a terminal, and a plain line now and then elsewhere.
type progressLine struct {
	w        io.Writer
	form     string
	total    int
	n, odd   int
	terminal bool
	last     time.Time
}

func newProgress(w io.Writer, form string, total int) *progressLine {
	f, ok := w.(*os.File)
	return &progressLine{w: w, form: form, total: total, terminal: ok && term.IsTerminal(int(f.Fd())), last: time.Now()}
}

func (p *progressLine) done(r *report.Result) {
	p.n++
	if r.Verdict == judge.Odd {
		p.odd++
	}
	switch {
	case p.terminal:
		fmt.Fprintf(p.w, "\r%s: %d of %d, %d odd ", p.form, p.n, p.total, p.odd)
	case time.Since(p.last) > 5*time.Second:
		p.last = time.Now()
		fmt.Fprintf(p.w, "%s: %d of %d, %d odd\n", p.form, p.n, p.total, p.odd)
	}
}

// end may be called of none.
func (p *progressLine) end() {
	if p != nil && p.terminal {
		fmt.Fprintln(p.w)
	}
}
