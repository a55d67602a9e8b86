package engine

import (
	"context"
	"fmt"
	"net/url"
	"strings"
	"time"

	"oddtick/core/access"
	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/mail"
	"oddtick/observe/web"
)

// JourneyReport is a journey as it was walked: once as it is meant, and once for each way in which a step is left out, made twice or
// with another link.
type JourneyReport struct {
	Journey string        `json:"journey"`
	Title   string        `json:"title"`
	Started time.Time     `json:"started"`
	Took    time.Duration `json:"took"` // nanoseconds
	Walks   []Walk        `json:"walks"`
}

// Walk is one way through a journey.
type Walk struct {
	ID       string        `json:"id"`
	Title    string        `json:"title"`
	Verdict  judge.Verdict `json:"verdict"`
	Headline string        `json:"headline"`
	Stations []Station     `json:"stations"`
}

// Station is one step of a walk, and what was judged of it.
type Station struct {
	Words    string        `json:"words"`
	Then     string        `json:"then,omitempty"` // the state that is expected then
	Verdict  judge.Verdict `json:"verdict"`
	Headline string        `json:"headline"`
	// Judgement is that of a step that sends a request, by the seven checks; State what was judged of where the visitor is then.
	Judgement *judge.Step          `json:"judgement,omitempty"`
	State     []judge.Part         `json:"state,omitempty"`
	Changes   []observation.Change `json:"changes,omitempty"`
}

// Journeys walks a site's journeys.
type Journeys struct {
	// Patience is how long a mail is waited for.
	Patience time.Duration

	site    *spec.Site
	forms   map[string]*Run
	matrix  *access.Matrix
	client  *web.Client
	mails   *mail.Receiver
	timeout time.Duration
	number  int64
}

// usualPatience is how long a mail is waited for, where nothing else is said.
const usualPatience = 20 * time.Second

// OpenJourneys makes a project's journeys ready: the forms that they submit, the databases, and the receiver of mails where the site
// document names one. Nothing is submitted. mails may be a receiver that is open already. Close it when done.
func OpenJourneys(ctx context.Context, project *spec.Project, mails *mail.Receiver, number int64, timeout time.Duration) (*Journeys, error) {
	site := project.Site
	if site == nil || len(site.Journeys) == 0 {
		return nil, cannot("the site document names no journeys")
	}
	j := &Journeys{Patience: usualPatience, site: site, forms: map[string]*Run{}, timeout: timeout, number: number, mails: mails}
	matrix, err := access.New(site)
	if err != nil {
		return nil, cannot("%s", err)
	}
	j.matrix = matrix
	if j.client, err = web.NewClient(options(site, timeout)); err != nil {
		return nil, cannot("%s", err)
	}
	for _, journey := range site.Journeys {
		for i, step := range journey.Steps {
			if err := j.prepare(ctx, project, &step); err != nil {
				j.Close()
				return nil, cannot("journeys[%s].steps[%d]: %s", journey.ID, i, err)
			}
		}
	}
	return j, nil
}

// prepare opens the run of a form that a step submits. Who is signed in is the journey's own business.
func (j *Journeys) prepare(ctx context.Context, project *spec.Project, step *spec.JourneyStep) error {
	if step.Submit == "" || j.forms[step.Submit] != nil {
		return nil
	}
	for _, f := range project.Forms {
		if f.Form != step.Submit {
			continue
		}
		alone := *f
		alone.Before, alone.State = nil, ""
		p, err := alone.Prepare()
		if err != nil {
			return err
		}
		d, err := design.New(p, j.site)
		if err != nil {
			return err
		}
		r, err := Open(ctx, Config{Site: j.site, Designer: d, Number: j.number, Timeout: j.timeout, Options: Options{ByHand: true}})
		if err != nil {
			return err
		}
		r.c.ByHand = false
		j.forms[step.Submit] = r
		return nil
	}
	return fmt.Errorf("there is no form %s", step.Submit)
}

// Close ends all connections. A receiver that was handed in stays open.
func (j *Journeys) Close() {
	for _, r := range j.forms {
		r.Close()
	}
	j.client.Close()
}

// walk is one walk under way.
type walk struct {
	j       *Journeys
	journey *spec.Journey
	id      string
	visitor *web.Visitor
	// person is whom the journey has made, with the row's key once it is known.
	person spec.Account
	key    string
	signed bool
	mailed *mail.Mail
	seen   int // mails before the journey's last submission
	secret string
	out    *Walk
}

// Walk walks one journey in all its ways. each is told of every walk that is done.
func (j *Journeys) Walk(ctx context.Context, journey *spec.Journey, each func(*Walk)) (*JourneyReport, error) {
	report := &JourneyReport{Journey: journey.ID, Title: journey.Title, Started: time.Now().UTC()}
	for n, way := range waysOf(journey) {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		w := &walk{j: j, journey: journey, id: way.id, visitor: j.client.NewVisitor(), out: &Walk{ID: journey.ID + "/" + way.id, Title: way.title}}
		for _, s := range way.steps {
			if !w.station(ctx, s, n) {
				break
			}
		}
		w.fold(way)
		report.Walks = append(report.Walks, *w.out)
		if each != nil {
			each(w.out)
		}
	}
	report.Took = time.Since(report.Started)
	return report, nil
}

// way is one way through a journey.
type way struct {
	id, title string
	steps     []wayStep
}

// wayStep is a step with how it is made.
type wayStep struct {
	*spec.JourneyStep
	// again: a link that is used up; altered: one that is not the site's own. Both are refused.
	again, altered bool
	// stays is the state that the visitor stays in, as a step before was left out; "" where the step's own state is reached.
	stays string
}

func waysOf(journey *spec.Journey) []way {
	var all []wayStep
	for i := range journey.Steps {
		all = append(all, wayStep{JourneyStep: &journey.Steps[i]})
	}
	out := []way{{"whole", "the whole way", all}}
	for i := range journey.Steps {
		step := &journey.Steps[i]
		if step.Open == spec.TheLink {
			twice := append(append([]wayStep{}, all[:i+1]...), wayStep{JourneyStep: step, again: true})
			out = append(out, way{"link_twice", "the link of the mail a second time", twice})
			altered := append(append([]wayStep{}, all[:i]...), wayStep{JourneyStep: step, altered: true})
			out = append(out, way{"link_altered", "the link of the mail with one character changed", altered})
		}
		if step.Then == "" || step.SignIn != "" || i+1 == len(journey.Steps) || i == 0 {
			continue
		}
		// without it, whatever comes later leaves the visitor in the state that was reached before
		before := ""
		for _, s := range journey.Steps[:i] {
			if s.Then != "" {
				before = s.Then
			}
		}
		left := append([]wayStep{}, all[:i]...)
		for k := i + 1; k < len(all); k++ {
			if s := all[k]; s.SignIn != "" {
				s.stays = before
				left = append(left, s)
				break
			}
		}
		if before != "" && len(left) > i {
			out = append(out, way{fmt.Sprintf("without_%d", i+1), "without: " + StepWords(step), left})
		}
	}
	return out
}

// StepWords say a step of a journey.
func StepWords(s *spec.JourneyStep) string {
	switch {
	case s.Submit != "":
		return "submit " + s.Submit
	case s.WaitFor != "":
		return "wait for the mail"
	case s.Open == spec.TheLink:
		return "follow the link"
	case s.Open != "":
		return "open " + s.Open
	case s.SignIn == spec.Joined:
		return "sign in as who has joined"
	}
	return "sign in as " + s.SignIn
}

// station makes a step; false ends the walk, as the rest has nothing to stand on.
func (w *walk) station(ctx context.Context, s wayStep, n int) bool {
	station := Station{Words: StepWords(s.JourneyStep), Verdict: judge.AsExpected}
	switch {
	case s.again:
		station.Words += " again"
	case s.altered:
		station.Words += ", altered"
	}
	var err error
	var why string
	switch {
	case s.Submit != "":
		err = w.submit(ctx, s.JourneyStep, &station, n)
	case s.WaitFor != "":
		why = w.wait(ctx, &station)
	case s.Open != "":
		why, err = w.open(ctx, s, &station)
	case s.SignIn != "":
		why = w.signIn(ctx, s.SignIn)
	}
	if err != nil {
		why = err.Error()
	}
	if why != "" {
		station.Verdict, station.Headline = judge.NotObserved, why
		w.out.Stations = append(w.out.Stations, station)
		return false
	}
	then := s.Then
	if s.stays != "" {
		then = s.stays
	}
	if !s.again && !s.altered {
		station.Then = then
	}
	if station.Then != "" && station.Verdict != judge.Odd {
		w.reached(ctx, then, &station)
	}
	if station.Judgement != nil && station.Judgement.Verdict != judge.AsExpected && station.Verdict != judge.Odd {
		station.Verdict = station.Judgement.Verdict
	}
	for _, p := range station.State {
		if p.Verdict == judge.Odd {
			station.Verdict = judge.Odd
		}
		if p.Verdict == judge.NotObserved && station.Verdict == judge.AsExpected {
			station.Verdict = judge.NotObserved
		}
	}
	w.word(&station)
	w.out.Stations = append(w.out.Stations, station)
	return station.Verdict != judge.Odd
}

// word gives a station its headline.
func (w *walk) word(s *Station) {
	if s.Headline != "" {
		return
	}
	if s.Judgement != nil && s.Judgement.Verdict == judge.Odd {
		s.Headline = s.Judgement.Headline
		return
	}
	for _, p := range s.State {
		if p.Verdict == judge.Odd || p.Verdict == judge.NotObserved && s.Verdict == judge.NotObserved {
			s.Headline = strings.TrimSpace(fmt.Sprintf("%s: %s, expected %s %s", p.Name, p.Observed, p.Expected, p.Why))
			return
		}
	}
	s.Headline = "As expected"
	if s.Judgement != nil {
		s.Headline = s.Judgement.Headline
	}
}

func (w *walk) fold(way way) {
	w.out.Verdict, w.out.Headline = judge.AsExpected, "As expected"
	for _, s := range w.out.Stations {
		if s.Verdict == judge.Odd || s.Verdict == judge.NotObserved {
			w.out.Verdict, w.out.Headline = s.Verdict, s.Words+": "+s.Headline
			break
		}
	}
	if left := len(way.steps) - len(w.out.Stations); left > 0 {
		for _, s := range way.steps[len(w.out.Stations):] {
			w.out.Stations = append(w.out.Stations, Station{Words: StepWords(s.JourneyStep), Then: s.Then, Verdict: judge.NotObserved, Headline: "not observed, as the journey ended before"})
		}
	}
}

// submit sends a form with usual values, and keeps who it makes.
func (w *walk) submit(ctx context.Context, step *spec.JourneyStep, out *Station, n int) error {
	r := w.j.forms[step.Submit]
	if w.j.mails != nil {
		w.seen = w.j.mails.Count()
	}
	if err := r.rebase(ctx, &Collected{}); err != nil {
		return err
	}
	c := r.usual(w.id)
	a := &attempt{r: r, c: c, number: 1, watch: true, visitor: &overHTTP{w.visitor, r.p, r.names, w.j.site.Address, &r.pages}, result: &judge.Result{Case: c.ID}}
	a.env = design.Env{Run: r.c.Number + int64(n), Rows: r.rows}
	if w.signed {
		a.account, a.own = &w.person, true
		a.env.Name, a.env.Password = w.person.Name, w.person.Password
		r.ownKey = w.key
	}
	result, err := a.step(ctx, 0)
	if err != nil {
		return err
	}
	out.Judgement = result.Judgement
	if result.Observation == nil {
		return nil
	}
	out.Changes = result.Observation.Changes
	w.learn(r, result.Observation)
	return nil
}

// usual is the case of a form's usual submission, whose values are another's in each walk.
func (r *Run) usual(walk string) *design.Case {
	all, _ := r.c.Designer.Cases(design.Quick)
	for _, c := range all {
		if strings.HasSuffix(c.ID, "/form.usual/http") {
			mine := *c
			mine.ID += "#" + walk
			return &mine
		}
	}
	return nil
}

// learn takes from an accepted submission who the visitor is: name, secret and address, and the key of the row.
func (w *walk) learn(r *Run, o *observation.Step) {
	normal := func(f *spec.PreparedField) string {
		if f == nil {
			return ""
		}
		text, present := o.Sent.Value(f.Name)
		v := f.ValueOf(text, present)
		return v.Normal
	}
	for _, f := range r.p.Fields {
		if f.Kind == spec.Email {
			w.person.Mail = normal(f)
		}
	}
	table := w.j.site.Visitors
	if table == nil {
		return
	}
	for i := range r.p.Form.Stored {
		st := &r.p.Form.Stored[i]
		if st.Insert != table.Table {
			continue
		}
		for _, c := range st.Sorted() {
			if c.Name == table.Name && c.From != "" {
				w.person.ID, w.person.Name = spec.Joined, normal(r.p.Field(c.From))
			}
			if f := r.p.Field(c.Secret); f != nil {
				w.person.Password, _ = o.Sent.Value(f.Name)
				w.secret = w.person.Password
			}
		}
		for _, ch := range o.Changes {
			if key, ok := observation.CellOf(ch.After, table.Key); ok && ch.Table == table.Table && ch.Kind == observation.Inserted {
				w.key = key.Value
			}
		}
	}
}

// wait waits for the mail, and looks for secrets in it.
func (w *walk) wait(ctx context.Context, out *Station) (why string) {
	if w.j.mails == nil {
		return "no mails are received; write mail: with receive: 127.0.0.1:PORT in the site document, and point the site at it"
	}
	ctx, stop := context.WithTimeout(ctx, w.j.Patience)
	defer stop()
	m, ok := w.j.mails.Wait(ctx, w.seen, w.person.Mail)
	if !ok {
		return fmt.Sprintf("no mail to %s came within %s", w.person.Mail, w.j.Patience)
	}
	w.mailed = &m
	if m.Failure != "" {
		return "the mail cannot be read: " + m.Failure
	}
	form := judge.Shown(w.secret, m.Subject+"\n"+m.Text)
	p := judge.Part{Name: "secret in the mail", Verdict: judge.AsExpected, Expected: "nowhere", Observed: "nowhere"}
	if form != "" {
		p.Verdict, p.Kind, p.Observed = judge.Odd, "shown", form
	}
	out.State = append(out.State, p)
	return ""
}

// open opens a page, or follows the mail's link, and judges what that does.
func (w *walk) open(ctx context.Context, s wayStep, out *Station) (why string, err error) {
	target := s.Open
	if s.Open == spec.TheLink {
		if target, why = w.link(); why != "" {
			return why, nil
		}
		if s.altered {
			target = alteredLink(target)
		}
	}
	for _, p := range w.j.site.Pages {
		if p.ID == s.Open {
			target = p.Path
		}
	}
	r := w.any()
	if r != nil {
		if err := r.rebase(ctx, &Collected{}); err != nil {
			return "", err
		}
	}
	exchanges, err := w.visitor.Open(ctx, target)
	o := &observation.Step{At: time.Now().UTC(), Exchanges: exchanges, Changes: []observation.Change{}, CookiesAfter: w.visitor.Cookies()}
	if err != nil {
		o.Failure = err.Error()
		if len(exchanges) == 0 {
			o.Exchanges = []observation.Exchange{}
		}
	} else {
		at := &overHTTP{Visitor: w.visitor}
		v, _ := at.visit(exchanges, nil)
		o.After, _ = v.read() // what cannot be read is no page
	}
	if r != nil {
		o.Watched = r.dbs.tables()
		if o.Changes, err = r.changes(ctx); err != nil {
			return "", err
		}
		if o.Changes == nil {
			o.Changes = []observation.Change{}
		}
	}
	out.Changes = o.Changes
	p, err := stationForm(s.JourneyStep)
	if err != nil {
		return "", err
	}
	if len(s.Stored) == 0 && s.Says == nil && !s.again && !s.altered {
		return w.merely(o, out), nil
	}
	o.Sent = &oracle.Submission{Driver: oracle.HTTP}
	e := oracle.Expect(p, &oracle.World{Now: o.At, Language: w.j.site.Spoken(), Driver: oracle.HTTP, SignedIn: w.key}, o.Sent)
	if s.again || s.altered {
		e = refusal(s.JourneyStep, w.j.site.Spoken(), s.again)
	}
	out.Judgement = judge.Judge(p, e, o, nil)
	return "", nil
}

// merely: of a page that is only opened, no more is judged than that it is answered.
func (w *walk) merely(o *observation.Step, out *Station) (why string) {
	if o.Failure != "" {
		return o.Failure
	}
	final := o.Final()
	p := judge.Part{Name: "page", Verdict: judge.AsExpected, Expected: "a page", Observed: fmt.Sprintf("status %d", final.Status)}
	if final.Status >= 400 {
		p.Verdict, p.Kind = judge.Odd, "does not open"
	}
	out.State = append(out.State, p)
	return ""
}

// stationForm is a step that opens a page as a form without fields, so that it is judged as one.
func stationForm(s *spec.JourneyStep) (*spec.Prepared, error) {
	return s.AsForm().Prepare()
}

// refusal is what comes of a link that is used up, or not one of the site's: nothing changes, and something is said.
func refusal(s *spec.JourneyStep, language string, again bool) *oracle.Expectation {
	why := "The link is not one of the site's."
	e := &oracle.Expectation{Outcome: oracle.RejectedByServer}
	if again {
		why = "The link is used up."
		if s.Refused != nil {
			m := oracle.Message{Rule: "link", Place: spec.OnNextPage, Says: s.Refused}
			m.Text, _ = s.Refused.In(language)
			e.Messages = []oracle.Message{m}
		}
	}
	e.Failing = []oracle.Failure{{Rule: "link", Phase: spec.PhaseLookup.String(), Why: why}}
	return e
}

// link is the first link of the mail that leads to the site, as a path.
func (w *walk) link() (path, why string) {
	if w.mailed == nil {
		return "", "no mail has come whose link could be followed"
	}
	for _, l := range w.mailed.Links {
		u, err := url.Parse(l)
		if err == nil && w.j.client.Allowed(u.Host) {
			return l, ""
		}
	}
	return "", "the mail holds no link to the site: " + strings.Join(w.mailed.Links, ", ")
}

// alteredLink changes the last letter or digit of a link.
func alteredLink(link string) string {
	for i := len(link) - 1; i > 0; i-- {
		if alphanumeric(link[i]) {
			return link[:i] + alterations(link[i : i+1])[0] + link[i+1:]
		}
	}
	return link
}

// any is some form's run, for its databases; nil where there is none.
func (w *walk) any() *Run {
	for _, s := range w.journey.Steps {
		if r := w.j.forms[s.Submit]; r != nil && len(r.dbs) > 0 {
			return r
		}
	}
	return nil
}

func (w *walk) signIn(ctx context.Context, id string) (why string) {
	who := &w.person
	if id != spec.Joined {
		for i := range w.j.site.Accounts {
			if w.j.site.Accounts[i].ID == id {
				who = &w.j.site.Accounts[i]
			}
		}
	}
	if who.Name == "" {
		return "nobody has joined on this journey; say which table holds visitors, and which column their name"
	}
	if err := signInAs(ctx, w.visitor, w.j.site, who); err != nil {
		return "signing in: " + err.Error()
	}
	w.person, w.signed = *who, true
	return ""
}

// reached judges whether the visitor is in a state now: by what is stored, and, for whoever is signed in, by the pages that open.
func (w *walk) reached(ctx context.Context, state string, out *Station) {
	sw := &sweep{site: w.j.site, m: w.j.matrix, client: w.j.client, keys: map[string]string{w.person.ID: w.key}, signed: map[string]*web.Visitor{w.person.ID: w.visitor}, failed: map[string]string{}, report: &AccessReport{}}
	if r := w.any(); r != nil {
		sw.dbs = r.dbs
	}
	v := access.Visitor{Account: w.person.ID, State: state}
	if w.person.Name != "" && w.j.site.Visitors != nil && len(sw.dbs) > 0 {
		facts, err := sw.facts(ctx, &w.person)
		part := judge.Part{Name: "state", Expected: state}
		is := access.Visitor{Account: w.person.ID}
		w.j.matrix.Place(&is, facts, "")
		switch {
		case err != nil:
			part.Verdict, part.Why = judge.NotObserved, err.Error()
		case is.State == "":
			part.Verdict, part.Why = judge.NotObserved, "what is stored about the visitor is not known"
		case is.State == state:
			part.Verdict, part.Observed = judge.AsExpected, is.State
		default:
			part.Verdict, part.Kind, part.Observed = judge.Odd, "another state", is.State
		}
		out.State = append(out.State, part)
	}
	if !w.signed {
		return
	}
	sw.report.Visitors = []access.Visitor{v}
	for _, p := range w.j.matrix.Pages() {
		if p.Others {
			continue
		}
		o := sw.open(ctx, &v, p)
		out.State = append(out.State, judge.Part{Name: "page " + p.ID, Verdict: o.Verdict, Expected: o.Expected, Observed: o.Observed, Why: o.Why, Kind: map[bool]string{true: "other access"}[o.Verdict == judge.Odd]})
	}
}
