package engine

import (
	"context"
	"net/http"
	"slices"

	"oddtick/core/design"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// visitor makes the steps of a case, over HTTP or in a browser.
type visitor interface {
	open(ctx context.Context, path string) (*visit, error)
	// submit enters and sends; held tells, of what the page made of the values, whether it is not to be sent.
	submit(ctx context.Context, form *observation.Form, sent *oracle.Submission, unchecked bool, held func([]observation.Entered) bool) (*visit, error)
	reload(ctx context.Context) (*visit, error)
	// again looks once more at what came of the last submission; nil where nothing can have changed.
	again(ctx context.Context) (*visit, error)
	// look opens a page beside the one the visitor sees.
	look(ctx context.Context, path string) (*visit, error)
	cookies(ctx context.Context) (map[string]string, error)
	// picture is the page as it is drawn, nil where nothing is drawn.
	picture(ctx context.Context) ([]byte, error)
	close()
}

// visit is what came of a visitor's step.
type visit struct {
	exchanges []observation.Exchange
	read      func() (*observation.Page, error)
	drawn     *observation.Drawn
	failure   string
}

// newVisitor is somebody new, by the driver of a case's steps.
func (r *Run) newVisitor(ctx context.Context, c *design.Case) (visitor, error) {
	driver := oracle.HTTP
	if InBrowser(c) {
		driver = oracle.Browser
	}
	return r.visitorBy(ctx, driver, c.Language)
}

func (r *Run) visitorBy(ctx context.Context, driver oracle.Driver, language string) (visitor, error) {
	w := r.client.NewVisitor()
	if language != "" {
		w.Speak(language)
	}
	if err := r.signedIn(ctx, w); err != nil {
		return nil, err
	}
	if driver != oracle.Browser {
		return &overHTTP{w, r.p, r.names, r.c.Site.Address, &r.pages}, nil
	}
	v, err := r.browserVisitor(ctx)
	if err != nil {
		return nil, err
	}
	if err := v.Hold(ctx, inBrowserCookies(w)); err != nil {
		v.Close()
		return nil, err
	}
	return &inBrowser{Visitor: v, p: r.p, names: r.names, client: r.client, promised: promisesTooMany(r.p)}, nil
}

// promisesTooMany tells whether the form itself promises the answer that there were too many requests.
func promisesTooMany(p *spec.Prepared) bool {
	const tooMany = http.StatusTooManyRequests
	return p.Form.Rejected.Status == tooMany || p.Form.Accepted.Status == tooMany || slices.ContainsFunc(p.Rules, func(r *spec.PreparedRule) bool {
		return r.Rejection != nil && r.Rejection.Status == tooMany
	})
}
