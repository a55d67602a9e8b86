package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"sync"
	"time"

	"oddtick/core/design"
	"oddtick/core/draft"
	"oddtick/core/investigate"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/universal"
	"oddtick/core/wording"
	"oddtick/engine/attempt"
	"oddtick/engine/learning"
	"oddtick/formats/steps"
	"oddtick/server/forms"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// furtherView is what more is known of a finding, also in words, and how its simplest case is seen.
type furtherView struct {
	*investigate.Investigation
	Words prose.Text   `json:"words"`
	At    time.Time    `json:"at"`
	Steps []steps.Step `json:"steps,omitempty"`
}

// lookingView is how far looking further is: the submissions made, of those it takes at most but for a limit.
type lookingView struct {
	Made int `json:"made"`
	Most int `json:"most"`
}

// lookings are the findings that are looked at further, by what is kept of them.
type lookings struct {
	mu  sync.Mutex
	now map[string]*looked
}

type looked struct {
	made int
	stop context.CancelFunc
}

// longWorkAPI answers requests.
type longWorkAPI struct{ *Server }

func registerLongWork(api huma.API, server *Server) {
	s := longWorkAPI{server}
	huma.Register(api, huma.Operation{OperationID: "investigateFinding", Tags: []string{"findings"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs/{run}/findings/{finding}/investigation", Summary: "Repeat a finding's simplest case, simplify it, and find the site's limit"}, s.lookFurther)
	huma.Register(api, huma.Operation{OperationID: "learnForm", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/learned", Summary: "Submit a form until it is known what the site accepts; what was written is deleted"}, s.learn)
	huma.Register(api, huma.Operation{OperationID: "getLearned", Tags: []string{"values"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/learned", Summary: "What was learned of a form, and how far learning is"}, s.getLearned)
	huma.Register(api, huma.Operation{OperationID: "stopLearning", Tags: []string{"values"}, Method: http.MethodDelete, Path: "/api/sites/{site}/forms/{form}/learned", Summary: "Stop learning a form; what was written is deleted"}, s.stopLearning)
	huma.Register(api, huma.Operation{OperationID: "stopInvestigation", Tags: []string{"findings"}, Method: http.MethodDelete, Path: "/api/sites/{site}/forms/{form}/runs/{run}/findings/{finding}/investigation", Summary: "Stop investigating a finding; what is known so far is kept"}, s.stopLooking)
}

// begin notes that some work has begun. The work goes on when the page that asked for it is closed, and ends when it is stopped.
func (l *lookings) begin(ctx context.Context, kind string) (own context.Context, progress func(int), end func()) {
	own, stop := context.WithCancel(context.WithoutCancel(ctx))
	one := &looked{stop: stop}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.now == nil {
		l.now = map[string]*looked{}
	}
	l.now[kind] = one
	progress = func(made int) {
		l.mu.Lock()
		defer l.mu.Unlock()
		one.made = made
	}
	return own, progress, func() {
		stop()
		l.mu.Lock()
		defer l.mu.Unlock()
		delete(l.now, kind)
	}
}

// of is how far it is; nil where a finding is not looked at further.
func (l *lookings) of(kind string) *lookingView {
	l.mu.Lock()
	defer l.mu.Unlock()
	if one := l.now[kind]; one != nil {
		return &lookingView{one.made, investigate.MaxSubmissions}
	}
	return nil
}

func (l *lookings) stop(kind string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if one := l.now[kind]; one != nil {
		one.stop()
	}
}

// close stops all.
func (l *lookings) close() {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, one := range l.now {
		one.stop()
	}
}

func furtherKind(f *store.Form, finding string) string { return store.FurtherKind(f.Ident, finding) }

// furtherOf is what was found the last time, nil for nothing, and how far it is where it is under way.
func furtherOf(ctx context.Context, s *Server, f *store.Form, finding string) (*furtherView, *lookingView, error) {
	kind := furtherKind(f, finding)
	var v furtherView
	err := s.store.SiteReport(ctx, f.SiteID, "", kind, &v)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return nil, s.lookings.of(kind), nil
	case err != nil:
		return nil, nil, err
	}
	return &v, s.lookings.of(kind), nil
}

type investigateRequest struct {
	FindingPath
	Confirmed
}

// lookFurther submits where the finding's run did.
func (s longWorkAPI) lookFurther(ctx context.Context, in *investigateRequest) (*struct{ Body furtherView }, error) {
	at, err := findingsAPI(s).findFinding(ctx, &in.FindingPath)
	if err != nil {
		return nil, err
	}
	f, d, one := at.form, at.designed, at.finding
	simplest, err := d.Find(ctx, one.Simplest)
	if err != nil {
		return nil, err
	}
	options, err := optionsOf(at.run)
	if err != nil {
		return nil, err
	}
	again, work, done, err := openByHand(ctx, s.Server, f, d.Designer, options.Environment, in.Confirmed)
	if err != nil {
		return nil, err
	}
	defer done()
	kind := furtherKind(f, in.Finding)
	own, progress, end := s.lookings.begin(work, kind)
	defer end()
	further, err := investigate.Investigate(own, again.Config.Designer.Maker, attempt.By(again), simplest, one.Cause, progress)
	switch {
	case err != nil && lostOr(work, nil) != nil:
		return nil, lostOr(work, err)
	case err != nil && own.Err() != nil:
		return nil, huma.Error409Conflict("It was stopped before anything was known.")
	case err != nil:
		return nil, cannotRun(err)
	}
	v := furtherView{Investigation: further, Words: wording.Investigation(again.Config.Designer.Maker.Form, further), At: time.Now().UTC()}
	if further.Simplest != nil {
		v.Steps = steps.Of(at.report, further.Simplest)
	}
	further.Simplest = nil // its evidence is too large to be kept with it
	return &struct{ Body furtherView }{v}, s.store.PutSiteReport(context.WithoutCancel(ctx), f.SiteID, "", kind, &v)
}

func (s longWorkAPI) stopLooking(ctx context.Context, in *FindingPath) (*struct{}, error) {
	f, _, _, err := s.findRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	s.lookings.stop(furtherKind(f, in.Finding))
	return nil, nil
}

// learnedKind is under which what was learned of a form is kept.
func learnedKind(f *store.Form) string { return fmt.Sprintf("learned:%d", f.ID) }

// learned is what was learned of a form, as it is kept.
type learned struct {
	At          time.Time           `json:"at"`
	Submissions int                 `json:"submissions"`
	Draft       *draft.Draft        `json:"draft"`
	Unusual     []universal.Unusual `json:"unusual"`
	// Labels are those of fields, by their ids.
	Labels map[string]string `json:"labels"`
}

// learnView is what was learned of a form the last time, and how far learning is where it is under way.
type learnView struct {
	// At is when; none where nothing was learned yet.
	At          *time.Time    `json:"at,omitempty"`
	Submissions int           `json:"submissions"`
	Unusual     []UnusualView `json:"unusual" nullable:"false"`
	Proposed    Proposals     `json:"proposed"`
	// Under is how many submissions were made so far of one that is under way; none where none is.
	Under *int `json:"under_way,omitempty"`
	// Wanted are fields for which no value was found that the site accepts, each with what it said of the last.
	Wanted []draft.SeenMessage `json:"wanted" nullable:"false"`
}

// UnusualView is what breaks a promise that holds on every form, in words. Its member is exported so that its own are described.
type UnusualView struct {
	universal.Unusual
	Words    prose.Text    `json:"words"`
	Decision spec.Decision `json:"decision,omitempty" enum:"wrong,usual"`
}

func unusualViews(form *spec.Form, site *spec.Site, labels map[string]string, list []universal.Unusual) []UnusualView {
	decided := slices.Clone(form.Unusual)
	if site != nil {
		decided = append(decided, site.Unusual...)
	}
	out := []UnusualView{}
	for _, u := range list {
		out = append(out, UnusualView{u, wording.Unusual(labels, u), spec.Decided(decided, u.Promise, u.Field)})
	}
	return out
}

func (s longWorkAPI) getLearned(ctx context.Context, in *FormPath) (*struct{ Body learnView }, error) {
	f, d, err := s.find(ctx, *in)
	if err != nil {
		return nil, err
	}
	return s.learnedOf(ctx, f, d)
}

// learnedOf is what was learned of a form, compared with what its document says now.
func (s longWorkAPI) learnedOf(ctx context.Context, f *store.Form, d *forms.Design) (*struct{ Body learnView }, error) {
	v := learnView{Unusual: []UnusualView{}, Proposed: Proposals{Proposals: []draft.Proposal{}, Notes: []prose.Text{}}, Wanted: []draft.SeenMessage{}}
	if under := s.lookings.of(learnedKind(f)); under != nil {
		v.Under = &under.Made
	}
	var kept learned
	err := s.store.SiteReport(ctx, f.SiteID, "", learnedKind(f), &kept)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return &struct{ Body learnView }{v}, nil
	case err != nil:
		return nil, err
	}
	site, err := s.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	v.At, v.Submissions, v.Unusual = &kept.At, kept.Submissions, unusualViews(d.Form, site, kept.Labels, kept.Unusual)
	if kept.Draft != nil {
		v.Proposed = propose(d, kept.Draft)
	}
	return &struct{ Body learnView }{v}, nil
}

// learn submits a form until it is known what the site accepts. It goes on when the page that asked for it is closed. What it wrote is deleted.
func (s longWorkAPI) learn(ctx context.Context, in *sendRequest) (*struct{ Body learnView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	site, err := s.siteToContact(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	if !site.MayMark() {
		return nil, huma.Error403Forbidden("The site's settings do not allow made-up values. Allow them there, or write the rules by hand.")
	}
	text, fromPage, designer, err := s.toLearn(ctx, f, d, site)
	if err != nil {
		return nil, err
	}
	run, work, done, err := openByHand(ctx, s.Server, f, designer, in.Environment, in.Confirmed)
	if err != nil {
		return nil, err
	}
	defer done()
	own, progress, end := s.lookings.begin(work, learnedKind(f))
	defer end()
	opened, err := learning.Watched(own, run, text, in.Body.Values)
	var found *learning.Found
	if err == nil {
		if opened.Target != run {
			run = opened.Target
			defer run.Close()
		}
		found, err = learning.Form(own, run, opened.Document, learning.Options{Values: in.Body.Values, FromPage: fromPage, Sent: opened.Sent, First: opened.First, Progress: func(n int, _ string) { progress(n) }})
	}
	if err == nil {
		var asked []universal.Unusual
		asked, err = learning.Requests(own, run.Config.Site, found.Text, time.Now().UnixMilli(), false)
		found.Unusual = universal.Add(found.Unusual, asked...)
		universal.Sort(found.Unusual)
	}
	if len(run.Databases) > 0 {
		if _, failed := run.CleanUp(context.WithoutCancel(own), nil); failed != nil && err == nil {
			err = huma.Error422UnprocessableEntity("What was written cannot be deleted: " + failed.Error() + ".")
		}
	}
	var none *learning.NotAccepted
	switch {
	case errors.As(err, &none):
		v, err := s.learnedOf(ctx, f, d)
		if err == nil {
			v.Body.Wanted = append(v.Body.Wanted, none.Messages...)
		}
		return v, err
	case err != nil && lostOr(work, nil) != nil:
		return nil, lostOr(work, err)
	case err != nil && own.Err() != nil:
		return nil, huma.Error409Conflict("It was stopped, and what was written is deleted.")
	case err != nil:
		return nil, cannotRun(err)
	}
	kept := learned{At: time.Now().UTC(), Submissions: found.Submissions, Draft: found.Draft, Unusual: found.Unusual, Labels: run.Config.Designer.Maker.Form.Form.Labels()}
	if err := s.store.PutSiteReport(context.WithoutCancel(ctx), f.SiteID, "", learnedKind(f), &kept); err != nil {
		return nil, err
	}
	end()
	return s.learnedOf(context.WithoutCancel(ctx), f, d)
}

// toLearn is the document of a form that is to be learned; that of one without fields is read off its page, and comes with it.
func (s longWorkAPI) toLearn(ctx context.Context, f *store.Form, d *forms.Design, site *spec.Site) ([]byte, *learning.Read, *design.Designer, error) {
	if len(d.Form.Fields) > 0 {
		revision, err := s.store.Revision(ctx, f.RevisionID)
		if err != nil {
			return nil, nil, nil, err
		}
		return revision.Source, nil, d.Designer, nil
	}
	as := ""
	if d.Form.Before != nil {
		as = d.Form.Before.SignedIn
	}
	fromPage, err := learning.Page(ctx, site, d.Form.Page, as, d.Form.OpenedBy)
	if err != nil {
		return nil, nil, nil, cannotRun(err)
	}
	form, err := spec.ReadForm("", fromPage.Document)
	if err != nil {
		return nil, nil, nil, err
	}
	prepared, err := form.Prepare()
	if err != nil {
		return nil, nil, nil, err
	}
	designer, err := design.New(prepared, site)
	return fromPage.Document, fromPage, designer, err
}

func (s longWorkAPI) stopLearning(ctx context.Context, in *FormPath) (*struct{}, error) {
	f, err := s.findForm(ctx, *in)
	if err != nil {
		return nil, err
	}
	s.lookings.stop(learnedKind(f))
	return nil, nil
}
