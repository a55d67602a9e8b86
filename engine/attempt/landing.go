package attempt

import (
	"context"
	"net/url"
	"slices"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/engine/driver"
	"oddtick/engine/target"
)

// after is the page that came of a step. A form of it that is not the one that was sent is left out.
func (a *Attempt) after(o *observation.Step, v *driver.Visit) *observation.Page {
	p, err := v.Page()
	if err != nil || p == nil {
		return nil // what cannot be read is no page
	}
	if p.Form != nil && o.Before != nil && o.Before.Form != nil && !sameForm(a.Target, o.Before.Form, p.Form) {
		p.Form = nil
	}
	return p
}

// sameForm tells whether a form of another page is the one that was opened: it holds most of the fields that a visitor filled in.
func sameForm(t *target.Target, opened, found *observation.Form) bool {
	for _, stage := range t.Form.Form.Stages {
		if len(stage.Fields) > 0 && !slices.ContainsFunc(stage.Fields, func(id string) bool {
			f := t.Form.Field(id)
			return f != nil && f.When == "" && found.Control(f.Name) == nil
		}) {
			return true
		}
	}
	had, has, hidden := 0, 0, true
	for _, f := range t.Form.Fields {
		if f.Kind.Untouched() {
			hidden = hidden && found.Control(f.Name) != nil
			continue
		}
		if opened.Control(f.Name) != nil {
			had++
			if found.Control(f.Name) != nil {
				has++
			}
		}
	}
	if had == 0 {
		return hidden
	}
	return 2*has > had || has == had
}

// lookForUsual opens the page that a submission led to once more, by the same visitor and without submitting: what stands there too says
// nothing of the submission. It is done once a run for each address.
func (a *Attempt) lookForUsual(ctx context.Context, o *observation.Step, address string) {
	path := a.landsOn(o, address)
	if path == "" {
		return
	}
	texts, known := a.Target.Landings.On(path)
	if !known {
		texts = a.textsOf(ctx, path)
		a.Target.Landings.Keep(path, texts)
		if a.Watch { // what opening a page writes is no other's doing
			_, _ = a.Target.Foreign(ctx) // the next look tells of a database that has gone
		}
	}
	o.Usual = texts
}

// landsOn is the path of another page than that of the form, to which a redirect of the site led; "" for none. A query often says what
// became of the submission, and is kept only where it is promised.
func (a *Attempt) landsOn(o *observation.Step, address string) string {
	u, err := url.Parse(address)
	first := o.First()
	if err != nil || first == nil || o.Before == nil || !a.Target.Client.Allowed(u.Host) {
		return ""
	}
	before, err := url.Parse(o.Before.URL)
	if err != nil || before.Path == u.Path {
		return ""
	}
	if len(o.Exchanges) < 2 && (o.Drawn == nil || first.URL == address) {
		return "" // it is the answer to the submission itself
	}
	for _, promised := range []string{a.Target.Form.Form.Accepted.To, a.Target.Form.Form.Rejected.To} {
		if path, query, has := strings.Cut(promised, "?"); has && path == u.Path && query == u.RawQuery {
			return u.Path + "?" + query
		}
	}
	return u.EscapedPath()
}

// textsOf are a page's texts, none where it cannot be opened.
func (a *Attempt) textsOf(ctx context.Context, path string) []string {
	v, err := a.Visitor.Look(ctx, path)
	if err != nil || v.Failure != "" || len(v.Exchanges) == 0 || v.Exchanges[len(v.Exchanges)-1].Status >= 400 {
		return nil
	}
	p, err := v.Page()
	if err != nil || p == nil || p.Form != nil && a.Target.HoldsForm(p) {
		return nil // what stands on the form's own page is known from before
	}
	var out []string
	for i := range p.Texts {
		// a message that a rule promises may stay until the form is sent again
		if text := p.Texts[i].Text; !slices.Contains(out, text) && !judge.IsMessage(a.Target.Form, text) {
			out = append(out, text)
		}
	}
	return out
}

// lookBeforeSubmitting takes what signing in and opening the page wrote for none of the case's doing, on a site where they write.
func (a *Attempt) lookBeforeSubmitting(ctx context.Context) error {
	if !a.Watch || !a.Target.ArrivingWrites {
		return nil
	}
	_, err := a.Target.Foreign(ctx)
	return err
}
