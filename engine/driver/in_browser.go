package driver

import (
	"context"
	"net/http"
	"net/url"
	"slices"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/observe/browser"
	"oddtick/observe/page"
	"oddtick/observe/web"
)

// InBrowser is a visitor with a browser.
type InBrowser struct {
	*browser.Visitor
	Form  *spec.Prepared
	Names []string
	// Offered are the options of fields that offer a table's rows, by field.
	Offered map[string][]spec.Option
	action  string
	// Client waits where the site says that there were too many requests; promised: the form itself promises that answer.
	Client          *web.Client
	TooManyPromised bool
}

// browserForm is how a browser tells a form from all else on its page.
func browserForm(p *spec.Prepared) *browser.Form {
	out := &browser.Form{OpenedBy: p.Form.OpenedBy, Await: true}
	for _, f := range p.Fields {
		if f.Kind == spec.Hidden || f.Kind == spec.Honeypot {
			out.Fields = append(out.Fields, browser.Field{Name: f.ControlName(), SentAs: f.Name, Nth: f.Nth, Labels: []string{}})
			continue
		}
		b := browser.Field{Name: f.ControlName(), SentAs: f.Name, Nth: f.Nth, Kind: string(f.Kind), Labels: []string{f.Label}, OtherName: SendsJSON(p)}
		for _, label := range f.Labels {
			b.Labels = append(b.Labels, label)
		}
		if f.Control != nil {
			b.Role, b.OtherName = f.Control.Role, true
			if f.Control.Name != "" {
				b.Labels = []string{f.Control.Name}
			}
			if b.Role == spec.TypedDate || b.Role == spec.CalendarRole {
				b.Role = map[string]string{spec.TypedDate: "textbox", spec.CalendarRole: "button"}[b.Role]
			}
		}
		out.Fields = append(out.Fields, b)
	}
	return out
}

// stagesOf are the steps on which a form is filled in, by request names.
func stagesOf(p *spec.Prepared) []browser.Stage {
	var out []browser.Stage
	for _, stage := range p.Form.Stages {
		s := browser.Stage{Next: stage.Next, Back: stage.Back}
		for _, id := range stage.Fields {
			if f := p.Field(id); f != nil {
				s.Fields = append(s.Fields, f.ControlName())
			}
		}
		out = append(out, s)
	}
	return out
}

// tooMany is the answer that there were too many requests, nil for none.
func (v *InBrowser) tooMany(seen *browser.Seen, err error) *observation.Exchange {
	if err != nil || v.TooManyPromised {
		return nil
	}
	for i := range seen.Exchanges {
		if seen.Exchanges[i].Status == http.StatusTooManyRequests {
			return &seen.Exchanges[i]
		}
	}
	return nil
}

func (v *InBrowser) visit(seen *browser.Seen, err error) (*Visit, error) {
	if err != nil {
		return nil, err
	}
	out := &Visit{Exchanges: seen.Exchanges, Drawn: &seen.Drawn, Failure: seen.Failure}
	out.Page = func() (*observation.Page, error) {
		p, err := page.ReadDrawn(seen.HTML, seen.Address, v.Names)
		if err != nil {
			return nil, err
		}
		asSent(v, p.Form)
		addNative(p, seen.Drawn.Native)
		for _, text := range seen.Drawn.Dialogs {
			p.Texts = append(p.Texts, observation.Text{Text: text, Alarm: true})
		}
		for _, earlier := range seen.Passing {
			if earlier.Stage != "submitting" {
				continue
			}
			if q, err := page.ReadDrawn(earlier.HTML, seen.Address, v.Names); err == nil {
				AddGone(p, q.Texts, earlier.At)
			}
		}
		return p, nil
	}
	return out, nil
}

// addNative adds the browser's own messages to a page's texts. They are seen where the browser shows one; it shows the next when
// the first is corrected.
func addNative(p *observation.Page, list []observation.Native) {
	if !slices.ContainsFunc(list, func(n observation.Native) bool { return n.Shown }) {
		return
	}
	for _, n := range list {
		t := observation.Text{Text: n.Text, Field: n.Field, Linked: true, Alarm: true, Native: true, Worded: n.Custom}
		if !slices.ContainsFunc(p.Texts, func(o observation.Text) bool { return o.Native && o.Field == t.Field && o.Text == t.Text }) {
			p.Texts = append(p.Texts, t)
		}
	}
}

// AddGone adds texts that were seen for a while and are not any more.
func AddGone(p *observation.Page, texts []observation.Text, at time.Duration) {
	for _, t := range texts {
		if t.Hidden || slices.ContainsFunc(p.Texts, func(o observation.Text) bool { return !o.Hidden && o.Text == t.Text && o.Field == t.Field }) {
			continue
		}
		t.Gone = max(1, int(at.Milliseconds()))
		p.Texts = append(p.Texts, t)
	}
}

func (v *InBrowser) Open(ctx context.Context, path string) (*Visit, error) {
	for try := 0; ; try++ {
		seen, err := v.Visitor.Open(ctx, path, browserForm(v.Form))
		x := v.tooMany(seen, err)
		if x == nil {
			return v.visit(seen, err)
		}
		if try == maxTooMany {
			return nil, &web.TooManyError{Times: try}
		}
		if err := v.Client.Wait(ctx, web.RetryAfter(x, try)); err != nil {
			return nil, err
		}
	}
}

// maxTooMany is how often a page is opened again that is answered with too many requests.
const maxTooMany = 5

func (v *InBrowser) Submit(ctx context.Context, form *observation.Form, sent *submission.Submission, unchecked bool, held func([]observation.Entered) bool) (*Visit, error) {
	var entries []browser.Entry
	var corrected *correction
	for _, f := range v.Form.Fields {
		if f.Kind.Untouched() || f.When != "" && len(sent.AllOf(f)) == 0 {
			continue
		}
		e := entryOf(v, f, sent.AllOf(f))
		for i := range sent.Pairs {
			if sent.Pairs[i].Name == f.Name {
				e.File = sent.Pairs[i].File
			}
		}
		if m := sent.Mistake; m != nil && m.Name == f.ControlName() {
			corrected = v.correctionOf(m)
			// a choice only changes to nothing from something
			e.Mistake = &browser.Mistake{Entry: entryOf(v, f, []string{m.Value}), See: corrected.see, ChooseFirst: f.Kind == spec.SingleChoice && m.Value == ""}
		}
		entries = append(entries, e)
	}
	v.action = form.Action
	if to := v.Form.Form.Submit.To; to != "" {
		if base, err := url.Parse(form.Action); err == nil {
			if target, err := base.Parse(to); err == nil {
				v.action = target.String()
			}
		}
	}
	seen, err := v.Visitor.Submit(ctx, v.action, entries, browser.How{Unchecked: unchecked, Replaced: string(sent.Replaced), BackAndForth: sent.BackAndForth, Stages: stagesOf(v.Form), Button: v.Form.Form.Submit.Button}, held)
	if x := v.tooMany(seen, err); x != nil { // the case is made again
		if err := v.Client.Wait(ctx, web.RetryAfter(x, 0)); err != nil {
			return nil, err
		}
		return nil, &web.TooManyError{Times: 1}
	}
	if err == nil && corrected != nil {
		corrected.seen.Refused = notMade(v.Form, seen.Mistaken)
		seen.Drawn.Correction = &corrected.seen
	}
	return v.visit(seen, err)
}

// options are what a field offers.
func (v *InBrowser) options(f *spec.PreparedField) []spec.Option {
	if len(f.Options) > 0 {
		return f.Options
	}
	return v.Offered[f.ID]
}

// entryOf is what is entered for a field's values.
func entryOf(v *InBrowser, f *spec.PreparedField, values []string) browser.Entry {
	e := browser.Entry{Name: f.ControlName(), Values: values, Single: f.Kind == spec.Checkbox, Multiple: f.Kind == spec.MultipleChoice}
	if f.Control != nil {
		e.Role = f.Control.Role
	}
	for _, o := range v.options(f) {
		e.Choices = append(e.Choices, browser.Choice{Value: o.Value, Label: o.Label})
	}
	if f.Mask != nil && len(e.Values) == 1 {
		typed := f.Mask.Unmasked(e.Values[0])
		e.Typed = &typed
	}
	return e
}

func (v *InBrowser) Reload(ctx context.Context) (*Visit, error) {
	return v.visit(v.Visitor.Reload(ctx))
}

func (v *InBrowser) Again(ctx context.Context) (*Visit, error) {
	return v.visit(v.Visitor.Again(ctx, v.action))
}

func (v *InBrowser) Look(ctx context.Context, path string) (*Visit, error) {
	return v.visit(v.Visitor.Look(ctx, path))
}

func (v *InBrowser) Cookies(ctx context.Context) (map[string]string, error) {
	return v.Visitor.Cookies(ctx)
}

func (v *InBrowser) Picture(ctx context.Context) ([]byte, error) { return v.Visitor.Picture(ctx) }

func (v *InBrowser) Close() { v.Visitor.Close() }

// correction sees what comes and goes while a mistake is made and corrected.
type correction struct {
	m     *submission.Mistake
	names []string
	seen  observation.Correction
}

func (v *InBrowser) correctionOf(m *submission.Mistake) *correction {
	return &correction{m: m, names: v.Names, seen: observation.Correction{Name: m.Name}}
}

// notMade says why a control did not let a mistake be made, "" where it did.
func notMade(p *spec.Prepared, wrong *observation.Entered) string {
	switch {
	case wrong == nil:
		return "the field was not reached"
	case wrong.Refused != "":
		return wrong.Refused
	case Remade(FieldNamed(p, wrong.Name), wrong):
		return MadeOf(wrong)
	}
	return ""
}

// How long what is promised is waited for, as it may be the server that is asked; and what is not promised, as scripts often check a
// little after the last key.
const (
	promisedWithin = 2 * time.Second
	otherwise      = 400 * time.Millisecond
)

// see keeps what stands at a moment, and tells how long another look is worth it.
func (c *correction) see(moment browser.Moment, html, address string) (within time.Duration) {
	p, err := page.ReadDrawn(html, address, c.names)
	if err != nil {
		return 0
	}
	texts := []observation.Text{}
	said := false
	for _, t := range p.Texts {
		if t.At(c.m.Name) || t.Alarm {
			texts = append(texts, t)
			said = said || judge.SaidOf(c.m, &t)
		}
	}
	promised := c.m.MessageOn == spec.OnInput
	switch moment {
	case browser.Typed:
		c.seen.Typed = texts
	case browser.Left:
		c.seen.Left, promised = texts, c.m.MessageOn != spec.OnSubmit
	case browser.LeftAgain:
		c.seen.LeftAgain, said, promised = texts, !said, true // that it is no longer said
	}
	switch {
	case said:
		return 0
	case promised:
		return promisedWithin
	}
	return otherwise
}
