package engine

import (
	"context"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"sync"

	"oddtick/core/judge"
	"oddtick/core/observation"
)

// usualTexts are what everybody finds on the pages that submissions lead to, by address; kept for a run.
type usualTexts struct {
	mu sync.Mutex
	at map[string][]string
}

// after is the page that came of a step. A form of it that is not the one that was sent is left out.
func (a *attempt) after(o *observation.Step, v *visit) *observation.Page {
	p, err := v.read()
	if err != nil || p == nil {
		return nil // what cannot be read is no page
	}
	if p.Form != nil && o.Before != nil && o.Before.Form != nil && !a.r.sameForm(o.Before.Form, p.Form) {
		p.Form = nil
	}
	return p
}

// sameForm tells whether a form of another page is the one that was opened: it holds most of the fields that a visitor filled in.
func (r *Run) sameForm(opened, found *observation.Form) bool {
	had, has, hidden := 0, 0, true
	for _, f := range r.p.Fields {
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
func (a *attempt) lookForUsual(ctx context.Context, o *observation.Step, address string) {
	path := a.landsOn(o, address)
	if path == "" {
		return
	}
	u := &a.r.landings
	u.mu.Lock()
	texts, known := u.at[path]
	u.mu.Unlock()
	if !known {
		texts = a.textsOf(ctx, path)
		u.mu.Lock()
		if u.at == nil {
			u.at = map[string][]string{}
		}
		u.at[path] = texts
		u.mu.Unlock()
		if a.watch { // what opening a page writes is no other's doing
			_, _ = a.r.foreign(ctx) // the next look tells of a database that has gone
		}
	}
	o.Usual = texts
}

// landsOn is the path of another page than that of the form, to which a redirect of the site led; "" for none. A query often says what
// became of the submission, and is kept only where it is promised.
func (a *attempt) landsOn(o *observation.Step, address string) string {
	u, err := url.Parse(address)
	first := o.First()
	if err != nil || first == nil || o.Before == nil || !a.r.client.Allowed(u.Host) {
		return ""
	}
	before, err := url.Parse(o.Before.URL)
	if err != nil || before.Path == u.Path {
		return ""
	}
	if len(o.Exchanges) < 2 && (o.Drawn == nil || first.URL == address) {
		return "" // it is the answer to the submission itself
	}
	for _, promised := range []string{a.r.p.Form.Accepted.To, a.r.p.Form.Rejected.To} {
		if path, query, has := strings.Cut(promised, "?"); has && path == u.Path && query == u.RawQuery {
			return u.Path + "?" + query
		}
	}
	return u.EscapedPath()
}

// textsOf are a page's texts, none where it cannot be opened.
func (a *attempt) textsOf(ctx context.Context, path string) []string {
	v, err := a.visitor.look(ctx, path)
	if err != nil || v.failure != "" || len(v.exchanges) == 0 || v.exchanges[len(v.exchanges)-1].Status >= 400 {
		return nil
	}
	p, err := v.read()
	if err != nil || p == nil || p.Form != nil && a.r.holdsForm(p) {
		return nil // what stands on the form's own page is known from before
	}
	var out []string
	for i := range p.Texts {
		// a message that a rule promises may stay until the form is sent again
		if text := p.Texts[i].Text; !slices.Contains(out, text) && !judge.IsMessage(a.r.p, text) {
			out = append(out, text)
		}
	}
	return out
}

// whichPage says which page came in place of the form's.
func (r *Run) whichPage(p *observation.Page) string {
	if p == nil {
		return "no page came"
	}
	says := p.URL
	if p.Title != "" {
		says = fmt.Sprintf("%s, %q", p.URL, p.Title)
	}
	if in := r.c.Site.SignIn; in != nil && samePath(p.URL, in.Page) {
		return says + "; it looks like the sign-in page"
	}
	return says
}

// lookBeforeSubmitting takes what signing in and opening the page wrote for none of the case's doing, on a site where they write.
func (a *attempt) lookBeforeSubmitting(ctx context.Context) error {
	if !a.watch || !a.r.arrivingWrites {
		return nil
	}
	_, err := a.r.foreign(ctx)
	return err
}
