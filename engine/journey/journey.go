// Package journey walks through several forms and pages as one visitor, as it is meant and with steps left out.
package journey

import (
	"context"
	"fmt"
	"slices"
	"time"

	"oddtick/core/access"
	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording"
	"oddtick/core/wording/phrases"
	"oddtick/core/wording/promise"
	"oddtick/engine/target"
	"oddtick/observe/database"
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
	Title    prose.Text    `json:"title"`
	Verdict  judge.Verdict `json:"verdict"`
	Headline prose.Text    `json:"headline"`
	Stations []Station     `json:"stations"`
}

// Station is one step of a walk, and what was judged of it.
type Station struct {
	// Step is the place of the journey's step that it makes, from 0.
	Step     int           `json:"step"`
	Words    prose.Text    `json:"words"`
	Then     string        `json:"then,omitempty"` // the state that is expected then
	Verdict  judge.Verdict `json:"verdict"`
	Headline prose.Text    `json:"headline"`
	// Judgement is that of a step that sends a request, by the seven checks; State what was judged of where the visitor is then.
	Judgement *judge.Judgement     `json:"judgement,omitempty"`
	State     []judge.Part         `json:"state,omitempty"`
	Changes   []observation.Change `json:"changes,omitempty"`
}

// Journeys walks a site's journeys.
type Journeys struct {
	// Patience is how long a mail is waited for.
	Patience time.Duration

	site    *spec.Site
	forms   map[string]*target.Target
	matrix  *access.Matrix
	client  *web.Client
	mails   *mail.Receiver
	timeout time.Duration
	number  int64
}

// usualPatience is how long a mail is waited for, where nothing else is said.
const usualPatience = 20 * time.Second

// Open makes a project's journeys ready: the forms that they submit, the databases, and the receiver of mails where the site
// document names one. Nothing is submitted. mails may be a receiver that is open already. Close it when done.
func Open(ctx context.Context, project *spec.Project, mails *mail.Receiver, number int64, timeout time.Duration) (*Journeys, error) {
	site := project.Site
	if site == nil || len(site.Journeys) == 0 {
		return nil, target.Cannot("the site document has no journeys")
	}
	j := &Journeys{Patience: usualPatience, site: site, forms: map[string]*target.Target{}, timeout: timeout, number: number, mails: mails}
	matrix, err := access.New(site)
	if err != nil {
		return nil, target.Cannot("%w", err)
	}
	j.matrix = matrix
	if j.client, err = web.NewClient(target.WebOptions(site, timeout)); err != nil {
		return nil, target.Cannot("%w", err)
	}
	for _, journey := range site.Journeys {
		for i, step := range journey.Steps {
			if err := j.prepare(ctx, project, &step); err != nil {
				j.Close()
				return nil, target.Cannot("journeys[%s].steps[%d]: %w", journey.ID, i, err)
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
		r, err := target.Open(ctx, target.Config{Site: j.site, Designer: d, Number: j.number, Timeout: j.timeout, Options: target.Options{ByHand: true}})
		if err != nil {
			return err
		}
		r.Config.ByHand = false
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
	code   string // read last
	seen   int    // mails before the journey's last submission
	secret string
	wrote  map[string]string // by table.column, of the rows that the journey's submissions inserted last
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
	id    string
	title prose.Text
	steps []wayStep
}

// wayStep is a step with how it is made.
type wayStep struct {
	*spec.JourneyStep
	place int // among the journey's steps
	// again: a link or code that is used up; altered: one that is not the site's own. Both are refused.
	again, altered bool
	// stays is the state that the visitor stays in, as a step before was left out; "" where the step's own state is reached.
	stays string
}

func waysOf(journey *spec.Journey) []way {
	var all []wayStep
	for i := range journey.Steps {
		all = append(all, wayStep{JourneyStep: &journey.Steps[i], place: i})
	}
	out := []way{{"whole", phrases.WholeWay.Text(), all}}
	for i := range journey.Steps {
		step := &journey.Steps[i]
		if step.Open == spec.TheLink {
			twice := append(append([]wayStep{}, all[:i+1]...), wayStep{JourneyStep: step, place: i, again: true})
			out = append(out, way{"link_twice", phrases.LinkTwice.Text(), twice})
			altered := append(append([]wayStep{}, all[:i]...), wayStep{JourneyStep: step, place: i, altered: true})
			out = append(out, way{"link_altered", phrases.LinkAltered.Text(), altered})
		}
		if step.Submit != "" && step.SendsCode() {
			twice := append(append([]wayStep{}, all[:i+1]...), wayStep{JourneyStep: step, place: i, again: true})
			out = append(out, way{"code_twice", phrases.CodeTwice.Text(), twice})
			altered := append(append([]wayStep{}, all[:i]...), wayStep{JourneyStep: step, place: i, altered: true})
			out = append(out, way{"code_altered", phrases.CodeAltered.Text(), altered})
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
			out = append(out, way{fmt.Sprintf("without_%d", i+1), phrases.WithoutStep.With("step", promise.Step(step)), left})
		}
	}
	return out
}

// station makes a step; false ends the walk, as the rest has nothing to stand on.
func (w *walk) station(ctx context.Context, s wayStep, n int) bool {
	station := Station{Step: s.place, Words: promise.Step(s.JourneyStep), Verdict: judge.AsExpected}
	switch {
	case s.again:
		station.Words = phrases.StepAgain.With("step", station.Words)
	case s.altered:
		station.Words = phrases.StepAltered.With("step", station.Words)
	}
	var err error
	var why string
	switch {
	case s.Submit != "":
		why, err = w.submit(ctx, s, &station, n)
	case s.WaitFor != "":
		if why = w.wait(ctx, &station); why == "" && s.Code != "" {
			w.code, why = codeIn(w.mailed.Text, s.Code)
		}
	case s.Read != nil:
		why, err = w.readCode(ctx, s.Read)
	case s.Open != "":
		why, err = w.open(ctx, s, &station)
	case s.SignIn != "":
		why = w.signIn(ctx, s.SignIn)
	}
	if err != nil {
		why = err.Error()
	}
	if why != "" {
		station.Verdict, station.Headline = judge.NotObserved, prose.Text(why)
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
	w.describe(&station)
	w.out.Stations = append(w.out.Stations, station)
	return station.stands()
}

// stands tells whether what follows has something to stand on: the step ended as it should, and the visitor is where they should be.
// An odd message or stored value, or a secret in a mail, does not take that away.
func (s *Station) stands() bool {
	if s.Judgement != nil && s.Judgement.Checks[0].Verdict == judge.Odd {
		return false
	}
	return !slices.ContainsFunc(s.State, func(p judge.Part) bool { return p.Verdict == judge.Odd && p.Aspect != judge.InMail })
}

// describe gives a station its headline.
func (w *walk) describe(s *Station) {
	wording.State(s.State)
	if s.Judgement != nil && s.Judgement.Verdict == judge.Odd {
		s.Headline = s.Judgement.Headline
		return
	}
	for _, p := range s.State {
		if p.Verdict == judge.Odd || p.Verdict == judge.NotObserved && s.Verdict == judge.NotObserved {
			s.Headline = wording.Station(&p)
			return
		}
	}
	s.Headline = phrases.AsExpected.Text()
	if s.Judgement != nil {
		s.Headline = s.Judgement.Headline
	}
}

func (w *walk) fold(way way) {
	w.out.Verdict, w.out.Headline = judge.AsExpected, phrases.AsExpected.Text()
	for _, s := range w.out.Stations {
		if s.Verdict == judge.Odd || s.Verdict == judge.NotObserved {
			w.out.Verdict, w.out.Headline = s.Verdict, wording.Titled(fmt.Sprint(s.Words), s.Headline)
			break
		}
	}
	if left := len(way.steps) - len(w.out.Stations); left > 0 {
		for _, s := range way.steps[len(w.out.Stations):] {
			w.out.Stations = append(w.out.Stations, Station{Step: s.place, Words: promise.Step(s.JourneyStep), Then: s.Then, Verdict: judge.NotObserved, Headline: phrases.EndedBeforehand.Text()})
		}
	}
}

// CleanUp takes back what walks changed, the newest first.
func (j *Journeys) CleanUp(ctx context.Context, reports []*JourneyReport) (*database.Undone, error) {
	var all []observation.Change
	for _, r := range reports {
		for i := range r.Walks {
			for k := range r.Walks[i].Stations {
				all = append(all, r.Walks[i].Stations[k].Changes...)
			}
		}
	}
	for _, r := range j.forms {
		r.Journal = nil // the walks tell of it, in their order
	}
	for _, r := range j.forms {
		return r.CleanUp(ctx, all)
	}
	return &database.Undone{}, nil
}
