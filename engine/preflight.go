package engine

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"oddtick/core/design"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/observe/browser"
	"oddtick/observe/database"
	"oddtick/observe/page"
	"oddtick/observe/web"

	"golang.org/x/time/rate"
)

// Config is what a run needs.
type Config struct {
	Site     *spec.Site
	Designer *design.Designer
	Cases    []*design.Case
	// Number makes the run's values new; it must differ from that of every earlier run.
	Number int64
	// Timeout is for one request.
	Timeout time.Duration
	Options
	// Begun says how often cases were submitted already, when a run goes on.
	Begun map[string]int
}

// Options say how a run is made.
type Options struct {
	// StopAtOdd ends the run after the first odd case.
	StopAtOdd bool `json:"stop_at_odd,omitempty" doc:"end after the first odd case"`
	// CleanUp takes back, at the end, what the run changed in the watched tables.
	CleanUp bool `json:"clean_up,omitempty" doc:"take back at the end what the run changed in the watched tables; needs the rights to insert, update and delete"`
	// Parallel is how many cases that should write nothing are made at once; the site's pace where it is 0.
	Parallel int `json:"parallel,omitempty" minimum:"0" maximum:"32" doc:"cases that write nothing at once; the site's own where it is 0"`
	// ByHand: a person submits, and the site is not contacted.
	ByHand bool `json:"by_hand,omitempty" doc:"a person submits each case; the site is not contacted"`
	// MostPerSecond is how many cases are begun in a second at most; 0 is no limit.
	MostPerSecond float64 `json:"most_per_second,omitempty" minimum:"0" maximum:"1000" doc:"cases begun in a second; 0 is no limit"`
}

// Run is a run that is ready to go.
type Run struct {
	c      Config
	p      *spec.Prepared
	client *web.Client
	dbs    databases
	names  []string // request names of the fields
	// rows are the values that rows hold, by the id of the field that refers to them.
	rows map[string][]string
	// columns are what is known of the watched tables' columns, by table.
	columns map[string]columns
	pages   page.Again
	// onPage is what the form's controls held when a case that is made by itself opened it last.
	onPage map[string]string

	// visitors make the cases of a batch; helpers look ahead for a case that is made by itself.
	visitors, helpers *crew
	judging           *judging
	// looked is when the tables were last looked at, with nothing done since.
	looked time.Time

	pace  int
	begin *rate.Limiter // of cases
	sent  sentValues

	// first is the visitor that signed in first, nil where nobody is to be signed in.
	first *web.Visitor
	// account is who is signed in before each submission, or signs in by it, nil for nobody; signInsFailed counts failures in a row.
	account *spec.Account
	// arrivingWrites: signing in, or opening the page, changes watched tables. oneSession: the site ends an account's session when it signs
	// in again.
	arrivingWrites, oneSession bool
	landings                   usualTexts
	plain                      plainValues
	verifying                  verifying
	// ownKey is the key of the account's row, once it is known.
	ownKey        string
	signInsFailed atomic.Int32
	// prepared are the rows that were written before, as they must exist.
	prepared []observation.Change
	// journal is what the run's own submissions changed, in their order.
	journal []observation.Change

	browserMu sync.Mutex
	browser   *browser.Browser // nil until a case needs it
}

// CannotRunError says why a run cannot begin, and what to do.
type CannotRunError struct {
	Reason string
	Err    error // what it comes of, nil for nothing
}

func (e *CannotRunError) Error() string { return e.Reason }

func (e *CannotRunError) Unwrap() error { return e.Err }

func cannot(format string, args ...any) error {
	err := fmt.Errorf(format, args...)
	return &CannotRunError{err.Error(), errors.Unwrap(err)}
}

const defaultPace = 4

// Open checks that the site answers, that its page holds the form with all its fields, and that the databases have the tables
// and columns named. Nothing is submitted.
func Open(ctx context.Context, c Config) (*Run, error) {
	r := &Run{c: c, p: c.Designer.Prepared(), pace: c.Site.Pace, rows: map[string][]string{}}
	if c.Parallel > 0 {
		r.pace = c.Parallel
	}
	if r.pace <= 0 {
		r.pace = defaultPace
	}
	r.begin = rate.NewLimiter(rate.Inf, 1)
	if c.MostPerSecond > 0 {
		r.begin = rate.NewLimiter(rate.Limit(c.MostPerSecond), 1)
	}
	if r.c.Timeout <= 0 {
		r.c.Timeout = 30 * time.Second
	}
	for _, f := range r.p.Fields {
		r.names = append(r.names, f.Name)
	}
	if _, left := Drivable(c.Cases); len(left) > 0 {
		return nil, cannot("the case %s is no part of a run: %s", left[0].ID, Left(left[0]))
	}
	if len(r.names) == 0 {
		return nil, cannot("the form %s has no fields yet; read them from its page, or list them under fields:", r.p.Form.Form)
	}
	o := options(c.Site, r.c.Timeout)
	o.TooManyPromised = promisesTooMany(r.p)
	client, err := web.NewClient(o)
	if err != nil {
		return nil, cannot("%w", err)
	}
	r.client = client
	if err := r.findAccount(ctx); err != nil {
		r.Close()
		return nil, err
	}
	if !c.ByHand {
		if err := r.checkPage(ctx); err != nil {
			r.Close()
			return nil, err
		}
	}
	if err := r.openDatabases(ctx); err != nil {
		r.Close()
		return nil, err
	}
	return r, nil
}

// Waited is how often the site answered that there were too many requests, and how long it was waited for.
func (r *Run) Waited() (times int, long time.Duration) { return r.client.Waited() }

// Close ends the run's connections and its browser.
func (r *Run) Close() {
	r.browserMu.Lock()
	if r.browser != nil {
		r.browser.Close()
	}
	r.browserMu.Unlock()
	if r.client != nil {
		r.client.Close()
	}
	r.takeRowsBack()
	_ = r.dbs.close()
}

func (r *Run) checkPage(ctx context.Context) error {
	path := r.p.Form.Page
	if path == "" {
		return r.checkEndpoint(ctx)
	}
	visitor := r.client.NewVisitor()
	if err := r.signedIn(ctx, visitor); err != nil {
		return cannot("%w", err)
	}
	if err := r.keepsSessions(ctx, path); err != nil {
		return err
	}
	exchanges, err := visitor.Open(ctx, path)
	if err != nil {
		return cannot("the site %s does not answer: %w; is it running, and is its address right?", r.c.Site.Address, err)
	}
	last := exchanges[len(exchanges)-1]
	if last.Status >= 400 {
		return cannot("the page %s answers with status %d; correct page: in the form document", path, last.Status)
	}
	if last.NotFollowed != "" {
		return cannot("the page %s leads elsewhere: %s; add the host under allowed: in the site document", path, last.NotFollowed)
	}
	if sendsJSON(r.p) {
		if r.p.Form.Submit.To == "" {
			return cannot("the form sends JSON, and does not say where to; write submit: {to: …}")
		}
		return nil // a script makes its controls
	}
	p, err := page.Read(last.Body, last.URL, r.names)
	if err != nil {
		return cannot("%w", err)
	}
	if p.Form == nil {
		forms := page.Forms(last.Body)
		if in := r.c.Site.SignIn; r.signs() && in != nil && samePath(last.URL, in.Page) {
			return cannot("the page %s leads %s to the sign-in page: %s; correct accounts: or page:", path, r.account.ID, r.whichPage(p))
		}
		if len(forms) == 0 {
			return cannot("the page %s holds no form (%s); correct page: in the form document", path, r.whichPage(p))
		}
		return cannot("the page %s holds no form with these fields; its forms have: %s", path, strings.Join(forms, " | "))
	}
	var known, missing []string
	for _, control := range p.Form.Controls {
		known = append(known, control.Name)
	}
	for _, f := range r.p.Fields {
		if p.Form.Control(f.Name) == nil {
			missing = append(missing, fmt.Sprintf("%s (request name %s)", f.ID, f.Name))
		}
	}
	if len(missing) > 0 {
		return cannot("the form on %s has no control for %s; its names are: %s. Correct name: of the field", path, strings.Join(missing, ", "), strings.Join(known, ", "))
	}
	withTokens(p, r.p.Form.Token, last.Body, visitor)
	for _, token := range r.p.Form.Token {
		if p.Form.Control(token) == nil {
			return cannot("the form on %s has no token named %s, and neither has the page in a meta element or a cookie; its names are: %s. Correct token:", path, token, strings.Join(known, ", "))
		}
	}
	return nil
}

// keepsSessions finds out whether an account that signed in before stays signed in when it signs in once more.
func (r *Run) keepsSessions(ctx context.Context, path string) error {
	if !r.signs() || r.first == nil {
		return nil
	}
	exchanges, err := r.first.Open(ctx, path)
	if err != nil {
		return cannot("the site %s does not answer: %w", r.c.Site.Address, err)
	}
	last := exchanges[len(exchanges)-1]
	if sendsJSON(r.p) {
		r.oneSession = last.Status >= 400 || r.c.Site.SignIn != nil && samePath(last.URL, r.c.Site.SignIn.Page)
		return nil
	}
	p, err := page.Read(last.Body, last.URL, r.names)
	r.oneSession = err != nil || p.Form == nil
	return nil
}

// checkEndpoint checks that the site of a form without a page can be reached, whatever it answers.
func (r *Run) checkEndpoint(ctx context.Context) error {
	if _, err := r.client.NewVisitor().Open(ctx, "/"); err != nil {
		return cannot("the site %s does not answer: %w; is it running, and is its address right?", r.c.Site.Address, err)
	}
	return nil
}

// mostReferred is how many rows a field's value is chosen from.
const mostReferred = 1000

// readRows reads what fields may refer to.
func (r *Run) readRows(ctx context.Context) error {
	for _, rule := range r.p.Rules {
		switch {
		case rule.Kind == "refers":
		case rule.Kind == "unique" && r.signs():
			if err := r.readTaken(ctx, rule); err != nil {
				return err
			}
			continue
		default:
			continue
		}
		list, err := r.dbs.of(rule.Table).Rows(ctx, rule.Table, []string{rule.Column}, mostReferred)
		if err != nil {
			return err
		}
		for _, row := range list {
			r.rows[rule.Field.ID] = append(r.rows[rule.Field.ID], row[0])
		}
	}
	return nil
}

// readTaken reads the values of a unique column that other rows than the account's hold.
func (r *Run) readTaken(ctx context.Context, rule *spec.PreparedRule) error {
	table := r.c.Site.Visitors
	if table == nil || table.Table != rule.Table {
		return nil
	}
	list, err := r.dbs.of(rule.Table).Rows(ctx, rule.Table, []string{rule.Column, table.Name}, mostReferred)
	if err != nil {
		return err
	}
	for _, row := range list {
		if row[1] != r.account.Name && passesFormat(rule.Field, row[0]) {
			r.rows[rule.Field.ID] = append(r.rows[rule.Field.ID], row[0])
		}
	}
	return nil
}

// passesFormat tells whether a value keeps all rules of a field's form.
func passesFormat(f *spec.PreparedField, value string) bool {
	v := f.ValueOf(value, true)
	return !v.Blank && !slices.ContainsFunc(f.Rules, func(r *spec.PreparedRule) bool {
		return r.Phase == spec.PhaseFormat && r.Layer == spec.OnServer && !r.Passes(&v, time.Now())
	})
}

// connect opens the site's databases; tables that are ignored are not watched.
func (r *Run) connect(ctx context.Context, ignore []string) error {
	for _, d := range r.c.Site.Databases {
		if len(d.Exports) > 0 {
			db, err := r.openExports(ctx, &d)
			if err != nil {
				return cannot("%w", err)
			}
			r.dbs = append(r.dbs, db)
			continue
		}
		if d.DSN == "" {
			continue
		}
		db, err := database.Open(ctx, d.Kind, d.DSN, append(slices.Clone(d.Ignore), ignore...))
		if err != nil {
			return cannot("%w", err)
		}
		r.dbs = append(r.dbs, db)
	}
	return nil
}

// openExports reads tables as the site itself gives them.
func (r *Run) openExports(ctx context.Context, d *spec.Database) (Database, error) {
	v := r.client.NewVisitor()
	return database.OpenExports(ctx, d.Exports, func(ctx context.Context, path string) (string, error) {
		exchanges, err := v.Look(ctx, path)
		if err != nil {
			return "", err
		}
		last := &exchanges[len(exchanges)-1]
		switch {
		case last.NotFollowed != "":
			return "", errors.New(last.NotFollowed)
		case last.Status != 200:
			return "", fmt.Errorf("it answers with status %d", last.Status)
		case last.Truncated:
			return "", fmt.Errorf("it is larger than what is read")
		}
		return last.Body, nil
	})
}

func (r *Run) openDatabases(ctx context.Context) error {
	if err := r.connect(ctx, r.p.Form.Ignore); err != nil {
		return err
	}
	if len(r.dbs) == 0 {
		return r.prepareRows(ctx)
	}
	for i := range r.p.Form.Stored {
		s := &r.p.Form.Stored[i]
		if err := r.dbs.of(s.Table()).Require(s.Table(), s.ColumnNames()...); err != nil {
			return cannot("stored[%d]: %w", i, err)
		}
	}
	for _, rule := range r.p.Rules {
		if rule.Table != "" {
			columns := []string{rule.Column}
			if o := rule.Rule.NoOverlap; o != nil {
				columns = append(columns, o.Ends)
				columns = slices.AppendSeq(columns, maps.Keys(o.Same))
			}
			if err := r.dbs.of(rule.Table).Require(rule.Table, columns...); err != nil {
				return cannot("the rule %s: %w", rule.ID, err)
			}
		}
	}
	r.readColumns(ctx)
	if err := r.dbs.begin(ctx); err != nil {
		return cannot("%w", err)
	}
	if err := r.prepareRows(ctx); err != nil {
		return err
	}
	if err := r.readRows(ctx); err != nil {
		return cannot("%w", err)
	}
	return r.arrive(ctx)
}

// arrive signs in and opens the page once, to know what that writes.
func (r *Run) arrive(ctx context.Context) error {
	if r.c.ByHand || r.p.Form.Page == "" {
		return nil
	}
	if _, err := r.foreign(ctx); err != nil {
		return cannot("%w", err)
	}
	v := r.client.NewVisitor()
	if err := r.signedIn(ctx, v); err != nil {
		return cannot("%w", err)
	}
	if _, err := v.Open(ctx, r.p.Form.Page); err != nil {
		return cannot("the page %s cannot be opened: %w", r.p.Form.Page, err)
	}
	changes, err := r.foreign(ctx)
	if err != nil {
		return cannot("%w", err)
	}
	r.arrivingWrites = len(changes) > 0
	return nil
}
