// Package target is what a run works on: a site with its form, its databases and its accounts, checked before anything is submitted.
package target

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"oddtick/core/address"
	"oddtick/core/design"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/template"
	"oddtick/core/testcase"
	"oddtick/engine/driver"
	"oddtick/engine/workers"
	"oddtick/observe/browser"
	"oddtick/observe/database"
	"oddtick/observe/page"
	"oddtick/observe/web"
)

// Config is what a run needs.
type Config struct {
	Site     *spec.Site
	Designer *design.Designer
	Cases    []*testcase.Case
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
	StopAtOdd bool `json:"stop_at_odd,omitempty" doc:"stop at the first odd case"`
	// CleanUp takes back, at the end, what the run changed in the watched tables.
	CleanUp bool `json:"clean_up,omitempty" doc:"at the end, delete the rows that the run wrote and restore those it changed; needs the rights to insert, update and delete"`
	// Parallel is how many cases that should write nothing are made at once; the site's pace where it is 0.
	Parallel int `json:"parallel,omitempty" minimum:"0" maximum:"32" doc:"parallel cases, of those that write nothing; 0 for the site's own setting"`
	// ByHand: a person submits, and the site is not contacted.
	ByHand bool `json:"by_hand,omitempty" doc:"a person submits each case; the site is not contacted"`
	// Environment is where the run is made, by its id in the site's document; empty for the site's own address.
	Environment string `json:"environment,omitempty" maxLength:"60" doc:"id of one of the site's environments; empty for the site's own address"`
	// MaxPerMinute is how many cases are started in a minute at most; 0 is no limit.
	MaxPerMinute float64 `json:"max_per_minute,omitempty" minimum:"0" maximum:"60000" doc:"cases started per minute; 0 for no limit"`
}

// Target is a run that is ready to go.
type Target struct {
	Config    Config
	Form      *spec.Prepared
	Client    *web.Client
	Databases Databases
	Names     []string // request names of the fields
	// Rows are the values that rows hold, by the id of the field that refers to them.
	Rows map[string][]string
	// OnlyOnPage: scripts make the form, and what they send is not known yet, so that it can only be filled in on its page.
	OnlyOnPage bool
	// ByScript: scripts make the form, and the document says what they send.
	ByScript bool
	// Offered are the options of fields that offer a table's rows, by field.
	Offered map[string][]spec.Option
	// columns are what is known of the watched tables' columns, by table.
	columns map[string]columns
	Pages   page.Again
	// OnPage is what the form's controls held when a case that is made by itself opened it last.
	OnPage map[string]string

	// Helpers look ahead for a case that is made by itself; nil where no run is under way.
	Helpers *workers.Pool
	// Looked is when the tables were last looked at, with nothing done since.
	Looked time.Time

	Sent sentValues

	// first is the visitor that signed in first, nil where nobody is to be signed in.
	first *web.Visitor
	// Account is who is signed in before each submission, or signs in by it, nil for nobody; signInsFailed counts failures in a row.
	Account *spec.Account
	// ArrivingWrites: signing in, or opening the page, changes watched tables. oneSession: the site ends an account's session when it signs
	// in again.
	ArrivingWrites, OneSession bool
	Landings                   usualTexts
	Plain                      PlainValues
	verifying                  verifying
	// OwnKey is the key of the account's row, once it is known.
	OwnKey        string
	signInsFailed atomic.Int32
	// prepared are the rows that were written before, as they must exist.
	prepared []observation.Change
	// Journal is what the run's own submissions changed, in their order.
	Journal []observation.Change

	// Mailbox takes the mails that the form promises; nil where it promises none, or none are received.
	Mailbox *Mailbox

	browserMu sync.Mutex
	kept      storage          // of the account that is signed in
	browser   *browser.Browser // nil until a case needs it
}

// CannotRunError says why a run cannot begin, and what to do.
type CannotRunError struct {
	Reason string
	Err    error // what it comes of, nil for nothing
}

func (e *CannotRunError) Error() string { return e.Reason }

func (e *CannotRunError) Unwrap() error { return e.Err }

func Cannot(format string, args ...any) error {
	err := fmt.Errorf(format, args...)
	return &CannotRunError{err.Error(), errors.Unwrap(err)}
}

// leastWait is how long is waited at least where a form promises to refuse after some submissions a minute: a few times, it is a minute.
const leastWait = 15 * time.Second

// Open checks that the site answers, that its page holds the form with all its fields, and that the databases have the tables
// and columns named. Nothing is submitted.
func Open(ctx context.Context, c Config) (*Target, error) {
	r := &Target{Config: c, Form: c.Designer.Prepared(), Rows: map[string][]string{}, Offered: map[string][]spec.Option{}}
	if r.Config.Timeout <= 0 {
		r.Config.Timeout = 30 * time.Second
	}
	for _, f := range r.Form.Fields {
		r.Names = append(r.Names, f.Name)
	}
	if _, left := Drivable(c.Cases); len(left) > 0 {
		return nil, Cannot("the case %s cannot be run: %s", left[0].ID, Left(left[0]))
	}
	if len(r.Names) == 0 && r.Form.Form.Submit.To == "" {
		return nil, Cannot("the form %s has no fields yet; read them from its page, or list them under fields:", r.Form.Form.Form)
	}
	o := WebOptions(c.Site, r.Config.Timeout)
	o.TooManyPromised = promisesTooMany(r.Form)
	if r.Form.Form.Accepted.MaxPerMinute > 0 {
		o.LeastWait = leastWait
	}
	client, err := web.NewClient(o)
	if err != nil {
		return nil, Cannot("%w", err)
	}
	r.Client = client
	if err := r.reset(ctx); err != nil {
		r.Close()
		return nil, err
	}
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
	if err := r.openMails(); err != nil {
		r.Close()
		return nil, err
	}
	return r, nil
}

// reset puts the site into its first state, where its document says how, before a run that begins.
func (t *Target) reset(ctx context.Context) error {
	how := t.Config.Site.Reset
	if how == nil || t.Config.ByHand || len(t.Config.Cases) == 0 || len(t.Config.Begun) > 0 {
		return nil
	}
	base, err := url.Parse(t.Config.Site.Address)
	if err != nil {
		return Cannot("%w", err)
	}
	to, err := base.Parse(how.To)
	if err != nil || !t.Client.NewVisitor().Own(to.String()) {
		return Cannot("reset: %s is of another host than the site", how.To)
	}
	exchanges, err := t.Client.NewVisitor().Submit(ctx, &observation.Form{Method: cmp.Or(how.Method, "POST"), Action: to.String()}, nil, "")
	if err != nil {
		return Cannot("the site could not be reset: %w", err)
	}
	if last := exchanges[len(exchanges)-1]; last.Status >= 400 {
		return Cannot("the site could not be reset: %s answers with status %d", how.To, last.Status)
	}
	return nil
}

// Waited is how often the site answered that there were too many requests, and how long it was waited for.
func (t *Target) Waited() (times int, long time.Duration) { return t.Client.Waited() }

// Close ends the run's connections and its browser.
func (t *Target) Close() {
	t.browserMu.Lock()
	if t.browser != nil {
		t.browser.Close()
	}
	t.browserMu.Unlock()
	if t.Client != nil {
		t.Client.Close()
	}
	t.takeRowsBack()
	t.Mailbox.close()
	_ = t.Databases.Close()
}

func (t *Target) checkPage(ctx context.Context) error {
	path := t.Form.Form.Page
	if path == "" {
		return t.checkEndpoint(ctx)
	}
	visitor := t.Client.NewVisitor()
	if err := t.signedIn(ctx, visitor); err != nil {
		return Cannot("%w", err)
	}
	if err := t.keepsSessions(ctx, path); err != nil {
		return err
	}
	exchanges, err := visitor.Open(ctx, path)
	if err != nil {
		return Cannot("the site %s does not answer: %w; is it running, and is its address right?", t.Config.Site.Address, err)
	}
	last := exchanges[len(exchanges)-1]
	if last.Status >= 400 {
		return Cannot("the page %s answers with status %d; correct page: in the form document", path, last.Status)
	}
	if last.NotFollowed != "" {
		return Cannot("the page %s redirects to another host: %s; add the host under allowed: in the site document", path, last.NotFollowed)
	}
	if driver.SendsJSON(t.Form) {
		if t.Form.Form.Submit.To == "" {
			return Cannot("the form sends JSON, but the document does not say where to; write submit: {to: …}")
		}
		return nil // a script makes its controls
	}
	if page.Scripted(last.Body) {
		t.ByScript = driver.MadeByScript(t.Form, last.Body)
		t.OnlyOnPage = !t.ByScript
		if t.OnlyOnPage && len(t.Config.Cases) > 0 {
			return Cannot("the page %s has its form made by scripts, and the document does not say what they send; trace it, or write submit: {to: …, encoding: …}", path)
		}
		return nil
	}
	p, err := page.Read(last.Body, last.URL, t.Names)
	if err == nil && len(t.Names) == 0 { // a form that is only a button is known by where it is sent
		p.Form, err = page.FormTo(last.Body, last.URL, t.Form.Form.Submit.To)
	}
	if err != nil {
		return Cannot("%w", err)
	}
	if p.Form == nil {
		forms := page.Forms(last.Body)
		if t.SignedInBefore() && t.Config.Site.SignInAt(last.URL) != nil {
			return Cannot("the page %s leads %s to the sign-in page: %s; correct accounts: or page:", path, t.Account.ID, t.WhichPage(p))
		}
		if len(forms) == 0 {
			if frames := page.Frames(last.Body, last.URL); len(frames) > 0 {
				return Cannot("the page %s holds no form, but frames of pages of their own; write page: %s in the form document, if the form is there", path, address.Path(frames[0]))
			}
			return Cannot("the page %s holds no form (%s); correct page: in the form document", path, t.WhichPage(p))
		}
		return Cannot("the page %s holds no form with these fields; its forms have: %s", path, strings.Join(forms, " | "))
	}
	var known, missing []string
	for _, control := range p.Form.Controls {
		known = append(known, control.Name)
	}
	for _, f := range t.Form.Fields {
		if p.Form.ControlAt(f.Name, f.Nth) == nil {
			missing = append(missing, fmt.Sprintf("%s (request name %s)", f.ID, f.Name))
		}
	}
	if len(missing) > 0 {
		return Cannot("the form on %s has no control for %s; its names are: %s. Correct name: of the field", path, strings.Join(missing, ", "), strings.Join(known, ", "))
	}
	driver.WithTokens(p, t.Form.Form.Token, last.Body, visitor)
	for _, token := range t.Form.Form.Token {
		if p.Form.Control(token) == nil {
			return Cannot("the form on %s has no token named %s, and neither has the page in a meta element or a cookie; its names are: %s. Correct token:", path, token, strings.Join(known, ", "))
		}
	}
	return nil
}

// keepsSessions finds out whether an account that signed in before stays signed in when it signs in once more.
func (t *Target) keepsSessions(ctx context.Context, path string) error {
	if !t.SignedInBefore() || t.first == nil {
		return nil
	}
	exchanges, err := t.first.Open(ctx, path)
	if err != nil {
		return Cannot("the site %s does not answer: %w", t.Config.Site.Address, err)
	}
	last := exchanges[len(exchanges)-1]
	if driver.SendsJSON(t.Form) || driver.MadeByScript(t.Form, last.Body) {
		t.OneSession = last.Status >= 400 || t.Config.Site.SignInAt(last.URL) != nil
		return nil
	}
	p, err := page.Read(last.Body, last.URL, t.Names)
	t.OneSession = err != nil || p.Form == nil
	return nil
}

// checkEndpoint checks that the site of a form without a page can be reached, whatever it answers.
func (t *Target) checkEndpoint(ctx context.Context) error {
	if _, err := t.Client.NewVisitor().Open(ctx, "/"); err != nil {
		return Cannot("the site %s does not answer: %w; is it running, and is its address right?", t.Config.Site.Address, err)
	}
	return nil
}

// maxReferred is how many rows a field's value is chosen from.
const maxReferred = 1000

// readOffered reads the labels of options that come from a table.
func (t *Target) readOffered(ctx context.Context) error {
	for _, f := range t.Form.Fields {
		from := f.OptionsFrom
		if from == nil || from.Label == "" || len(f.Options) > 0 || t.Databases.Of(from.Table) == nil {
			continue
		}
		list, err := t.Databases.Of(from.Table).Rows(ctx, from.Table, []string{from.Value, from.Label}, maxReferred)
		if err != nil {
			return err
		}
		for _, row := range list {
			t.Offered[f.ID] = append(t.Offered[f.ID], spec.Option{Value: row[0], Label: row[1]})
		}
	}
	return nil
}

// readRows reads what fields may refer to.
func (t *Target) readRows(ctx context.Context) error {
	if err := t.readOffered(ctx); err != nil {
		return err
	}
	if err := t.readReferred(ctx); err != nil {
		return err
	}
	for _, rule := range t.Form.Rules {
		if err := t.readAlso(ctx, rule); err != nil {
			return err
		}
		switch {
		case rule.Kind == spec.RuleExistsIn:
		case rule.Kind == spec.RuleUnique && t.Config.Designer.Updates(rule):
			if err := t.readTaken(ctx, rule); err != nil {
				return err
			}
			continue
		default:
			continue
		}
		list, err := t.Databases.Of(rule.Table).Rows(ctx, rule.Table, []string{rule.Column}, maxReferred)
		if err != nil {
			return err
		}
		for _, row := range list {
			t.Rows[rule.Field.ID] = append(t.Rows[rule.Field.ID], row[0])
		}
	}
	return nil
}

// alsoOf are the columns of other tables in which a rule's value must not be.
func alsoOf(rule *spec.PreparedRule) []string {
	if rule.Rule == nil || rule.Rule.Unique == nil {
		return nil
	}
	return rule.Rule.Unique.Also
}

// readAlso reads the values of other tables' columns that a unique value must not be either.
func (t *Target) readAlso(ctx context.Context, rule *spec.PreparedRule) error {
	for _, also := range alsoOf(rule) {
		table, column, _ := strings.Cut(also, ".")
		list, err := t.Databases.Of(table).Rows(ctx, table, []string{column}, maxReferred)
		if err != nil {
			return err
		}
		for _, row := range list {
			if passesFormat(rule.Field, row[0]) {
				t.Rows[testcase.AlsoTaken(rule.Field.ID)] = append(t.Rows[testcase.AlsoTaken(rule.Field.ID)], row[0])
			}
		}
	}
	return nil
}

// readReferred reads the keys that the columns of choices may refer to, whatever of them is offered.
func (t *Target) readReferred(ctx context.Context) error {
	known, err := t.Schema(ctx)
	if err != nil || known == nil {
		return nil // other values will do
	}
	for i := range t.Form.Form.Stored {
		st := &t.Form.Form.Stored[i]
		table := known.Table(st.Table())
		for _, c := range st.Sorted() {
			f := t.Form.Field(c.From)
			if table == nil || f == nil || f.OptionsFrom != nil || len(f.Options) == 0 || c.Option != "" {
				continue
			}
			for _, key := range table.Foreign {
				if !slices.Equal(key.Columns, []string{c.Name}) || len(key.References) != 1 || t.Databases.Of(key.Table) == nil {
					continue
				}
				list, err := t.Databases.Of(key.Table).Rows(ctx, key.Table, key.References, maxReferred)
				if err != nil {
					return err
				}
				for _, row := range list {
					t.Rows[testcase.Referred(f.ID)] = append(t.Rows[testcase.Referred(f.ID)], row[0])
				}
			}
		}
	}
	return nil
}

// readTaken reads the values of a unique column that other rows hold than the one that is updated.
func (t *Target) readTaken(ctx context.Context, rule *spec.PreparedRule) error {
	own := t.ownBy(rule.Table)
	if own == nil {
		return nil
	}
	columns := slices.Sorted(maps.Keys(own))
	list, err := t.Databases.Of(rule.Table).Rows(ctx, rule.Table, append([]string{rule.Column}, columns...), maxReferred)
	if err != nil {
		return err
	}
	for _, row := range list {
		isOwn := true
		for i, column := range columns {
			isOwn = isOwn && row[i+1] == own[column]
		}
		if !isOwn && passesFormat(rule.Field, row[0]) {
			t.Rows[rule.Field.ID] = append(t.Rows[rule.Field.ID], row[0])
		}
	}
	return nil
}

// ownBy is what the row of a table that the form updates holds in some columns; nil where that is not known before submitting.
func (t *Target) ownBy(table string) map[string]string {
	for i := range t.Form.Form.Stored {
		st := &t.Form.Form.Stored[i]
		fixed := !slices.ContainsFunc(slices.Collect(maps.Values(st.Where)), func(text string) bool { return len(template.Names(text)) > 0 })
		if st.Update == table && len(st.Where) > 0 && fixed {
			return st.Where
		}
	}
	if visitors := t.Config.Site.VisitorsOf(t.Account); visitors != nil && visitors.Table == table && t.SignedInBefore() {
		return map[string]string{visitors.Name: t.Account.Name}
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

// Connect opens the site's databases; tables that are ignored are not watched.
func (t *Target) Connect(ctx context.Context, ignore []string) error {
	for _, d := range t.Config.Site.Databases {
		if len(d.Exports) > 0 {
			db, err := t.openExports(ctx, &d)
			if err != nil {
				return Cannot("%w", err)
			}
			t.Databases = append(t.Databases, db)
			continue
		}
		if d.DSN == "" {
			continue
		}
		db, err := openDatabase(ctx, &d, ignore)
		if err != nil {
			return Cannot("%w", err)
		}
		t.Databases = append(t.Databases, db)
	}
	return nil
}

// openDatabase connects to a database; tables that its document or ignore names are not watched.
func openDatabase(ctx context.Context, d *spec.Database, ignore []string) (Database, error) {
	ignore = append(slices.Clone(d.Ignore), ignore...)
	if database.HoldsDocuments(d.Kind, d.DSN) {
		return database.OpenDocuments(ctx, d.DSN, ignore)
	}
	return database.Open(ctx, d.Kind, d.DSN, ignore)
}

// openExports reads tables as the site itself gives them.
func (t *Target) openExports(ctx context.Context, d *spec.Database) (Database, error) {
	v := t.Client.NewVisitor()
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

func (t *Target) openDatabases(ctx context.Context) error {
	if err := t.Connect(ctx, t.Form.Form.Ignore); err != nil {
		return err
	}
	if len(t.Databases) == 0 {
		return t.prepareRows(ctx)
	}
	for i := range t.Form.Form.Stored {
		s := &t.Form.Form.Stored[i]
		if err := t.Databases.Of(s.Table()).Require(s.Table(), s.ColumnNames()...); err != nil {
			return Cannot("stored[%d]: %w", i, err)
		}
	}
	for _, rule := range t.Form.Rules {
		if rule.Table != "" {
			columns := []string{rule.Column}
			if o := rule.Rule.NoOverlap; o != nil {
				columns = append(columns, o.Ends)
				columns = slices.AppendSeq(columns, maps.Keys(o.Same))
			}
			if err := t.Databases.Of(rule.Table).Require(rule.Table, columns...); err != nil {
				return Cannot("the rule %s: %w", rule.ID, err)
			}
			for _, also := range alsoOf(rule) {
				table, column, _ := strings.Cut(also, ".")
				if err := t.Databases.Of(table).Require(table, column); err != nil {
					return Cannot("the rule %s: %w", rule.ID, err)
				}
			}
		}
	}
	t.readColumns(ctx)
	if err := t.Databases.Begin(ctx); err != nil {
		return Cannot("%w", err)
	}
	if err := t.prepareRows(ctx); err != nil {
		return err
	}
	if err := t.readRows(ctx); err != nil {
		return Cannot("%w", err)
	}
	return t.arrive(ctx)
}

// arrive signs in and opens the page once, to know what that writes.
func (t *Target) arrive(ctx context.Context) error {
	if t.Config.ByHand || t.Form.Form.Page == "" {
		return nil
	}
	if _, err := t.Foreign(ctx); err != nil {
		return Cannot("%w", err)
	}
	v := t.Client.NewVisitor()
	if err := t.signedIn(ctx, v); err != nil {
		return Cannot("%w", err)
	}
	if _, err := v.Open(ctx, t.Form.Form.Page); err != nil {
		return Cannot("the page %s cannot be opened: %w", t.Form.Form.Page, err)
	}
	changes, err := t.Foreign(ctx)
	if err != nil {
		return Cannot("%w", err)
	}
	t.ArrivingWrites = len(changes) > 0
	return nil
}

func (t *Target) ReadPage(x *observation.Exchange) (*observation.Page, error) {
	return page.Read(x.Body, x.URL, t.Names)
}

// WhichPage says which page came in place of the form's.
func (t *Target) WhichPage(p *observation.Page) string {
	if p == nil {
		return "no page came"
	}
	says := p.URL
	if p.Title != "" {
		says = fmt.Sprintf("%s, %q", p.URL, p.Title)
	}
	if t.Config.Site.SignInAt(p.URL) != nil {
		return says + "; it looks like the sign-in page"
	}
	return says
}
