// Package driver is somebody who opens a page, fills its form in and sends it: over HTTP, or in a browser.
package driver

import (
	"context"

	"oddtick/core/observation"
	"oddtick/core/submission"
)

// Visitor makes the steps of a case, over HTTP or in a browser.
type Visitor interface {
	Open(ctx context.Context, path string) (*Visit, error)
	// Submit enters and sends; held tells, of what the page made of the values, whether it is not to be sent.
	Submit(ctx context.Context, form *observation.Form, sent *submission.Submission, unchecked bool, held func([]observation.Entered) bool) (*Visit, error)
	Reload(ctx context.Context) (*Visit, error)
	// Again looks once more at what came of the last submission; nil where nothing can have changed.
	Again(ctx context.Context) (*Visit, error)
	// Look opens a page beside the one the visitor sees.
	Look(ctx context.Context, path string) (*Visit, error)
	Cookies(ctx context.Context) (map[string]string, error)
	// Picture is the page as it is drawn, nil where nothing is drawn.
	Picture(ctx context.Context) ([]byte, error)
	Close()
}

// Visit is what came of a visitor's step.
type Visit struct {
	Exchanges []observation.Exchange
	Page      func() (*observation.Page, error)
	Drawn     *observation.Drawn
	Failure   string
}
