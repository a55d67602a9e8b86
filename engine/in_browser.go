package engine

import (
	"context"
	"net/http"
	"net/url"
	"slices"
	"time"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/browser"
	"oddtick/observe/page"
	"oddtick/observe/web"
)

// inBrowser is a visitor with a browser.
type inBrowser struct {
	*browser.Visitor
	p      *spec.Prepared
	names  []string
	action string
	// client waits where the site says that there were too many requests; promised: the form itself promises that answer.
	client   *web.Client
	promised bool
}

// tooMany is the answer that there were too many requests, nil for none.
func (v *inBrowser) tooMany(seen *browser.Seen, err error) *observation.Exchange {
	if err != nil || v.promised {
		return nil
	}
	for i := range seen.Exchanges {
		if seen.Exchanges[i].Status == http.StatusTooManyRequests {
			return &seen.Exchanges[i]
		}
	}
	return nil
}

func (v *inBrowser) visit(seen *browser.Seen, err error) (*visit, error) {
	if err != nil {
		return nil, err
	}
	out := &visit{exchanges: seen.Exchanges, drawn: &seen.Drawn, failure: seen.Failure}
	out.read = func() (*observation.Page, error) {
		p, err := page.ReadDrawn(seen.HTML, seen.Address, v.names)
		if err != nil {
			return nil, err
		}
		addNative(p, seen.Drawn.Native)
		for _, text := range seen.Drawn.Dialogs {
			p.Texts = append(p.Texts, observation.Text{Text: text, Alarm: true})
		}
		for _, earlier := range seen.Passing {
			if earlier.Stage != "submitting" {
				continue
			}
			if q, err := page.ReadDrawn(earlier.HTML, seen.Address, v.names); err == nil {
				addGone(p, q.Texts, earlier.At)
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
		t := observation.Text{Text: n.Text, Field: n.Field, Tied: true, Alarm: true, Native: true}
		if !slices.ContainsFunc(p.Texts, func(o observation.Text) bool { return o.Native && o.Field == t.Field && o.Text == t.Text }) {
			p.Texts = append(p.Texts, t)
		}
	}
}

// addGone adds texts that were seen for a while and are not any more.
func addGone(p *observation.Page, texts []observation.Text, at time.Duration) {
	for _, t := range texts {
		if t.Hidden || slices.ContainsFunc(p.Texts, func(o observation.Text) bool { return !o.Hidden && o.Text == t.Text && o.Field == t.Field }) {
			continue
		}
		t.Gone = max(1, int(at.Milliseconds()))
		p.Texts = append(p.Texts, t)
	}
}

func (v *inBrowser) open(ctx context.Context, path string) (*visit, error) {
	for try := 0; ; try++ {
		seen, err := v.Open(ctx, path, v.names)
		x := v.tooMany(seen, err)
		if x == nil {
			return v.visit(seen, err)
		}
		if try == mostTooMany {
			return nil, &web.TooManyError{Times: try}
		}
		if err := v.client.Wait(ctx, web.RetryAfter(x, try)); err != nil {
			return nil, err
		}
	}
}

// mostTooMany is how often a page is opened again that is answered with too many requests.
const mostTooMany = 5

func (v *inBrowser) submit(ctx context.Context, form *observation.Form, sent *oracle.Submission, unchecked bool, held func([]observation.Entered) bool) (*visit, error) {
	var entries []browser.Entry
	var corrected *correction
	for _, f := range v.p.Fields {
		if f.Kind.Untouched() || f.When != "" && len(sent.Values(f.Name)) == 0 {
			continue
		}
		e := entryOf(f, sent.Values(f.Name))
		for i := range sent.Pairs {
			if sent.Pairs[i].Name == f.Name {
				e.File = sent.Pairs[i].File
			}
		}
		if m := sent.Mistake; m != nil && m.Name == f.Name {
			corrected = v.correctionOf(m)
			// a choice only changes to nothing from something
			e.Mistake = &browser.Mistake{Entry: entryOf(f, []string{m.Value}), See: corrected.see, ChooseFirst: f.Kind == spec.OneChoice && m.Value == ""}
		}
		entries = append(entries, e)
	}
	v.action = form.Action
	if to := v.p.Form.Submit.To; to != "" {
		if base, err := url.Parse(form.Action); err == nil {
			if target, err := base.Parse(to); err == nil {
				v.action = target.String()
			}
		}
	}
	seen, err := v.Submit(ctx, v.action, entries, browser.How{Unchecked: unchecked, Replaced: string(sent.Replaced)}, held)
	if x := v.tooMany(seen, err); x != nil { // the case is made again
		if err := v.client.Wait(ctx, web.RetryAfter(x, 0)); err != nil {
			return nil, err
		}
		return nil, &web.TooManyError{Times: 1}
	}
	if err == nil && corrected != nil {
		corrected.seen.Refused = notMade(v.p, seen.Mistaken)
		seen.Drawn.Correction = &corrected.seen
	}
	return v.visit(seen, err)
}

// entryOf is what is entered for a field's values.
func entryOf(f *spec.PreparedField, values []string) browser.Entry {
	e := browser.Entry{Name: f.Name, Values: values, Single: f.Kind == spec.Checkbox}
	if f.Control != nil {
		e.Role, e.Label = f.Control.Role, f.Control.Name
		if e.Label == "" {
			e.Label = f.Label
		}
		for _, o := range f.Options {
			if len(e.Values) == 1 && o.Value == e.Values[0] && o.Label != "" {
				e.Typed = &o.Label
			}
		}
	}
	if f.Mask != nil && len(e.Values) == 1 {
		typed := f.Mask.Unmasked(e.Values[0])
		e.Typed = &typed
	}
	return e
}

func (v *inBrowser) reload(ctx context.Context) (*visit, error) { return v.visit(v.Reload(ctx)) }

func (v *inBrowser) again(ctx context.Context) (*visit, error) {
	return v.visit(v.Again(ctx, v.action))
}

func (v *inBrowser) look(ctx context.Context, path string) (*visit, error) {
	return v.visit(v.Look(ctx, path))
}

func (v *inBrowser) cookies(ctx context.Context) (map[string]string, error) { return v.Cookies(ctx) }

func (v *inBrowser) picture(ctx context.Context) ([]byte, error) { return v.Picture(ctx) }

func (v *inBrowser) close() { v.Close() }
