package browser

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/chromedp/chromedp/kb"
)

// maxTextLength is how long a page may take altogether until its HTML is taken as it is.
const maxTextLength = 40 * time.Second

// Before is what is done before a page is read.
type Before struct {
	// Cookies are the visitor's.
	Cookies []Cookie
	// SignIn signs the visitor in on a page, nil for nobody.
	SignIn func(context.Context, *Visitor) error
	// OpenedBy is the accessible name of what is pressed for the form to appear.
	OpenedBy string
}

// Drawn opens a page and returns its HTML as it stands after its scripts have run. What the lists and calendars of its forms offer once they
// are opened stands in it too. Hosts that are not allowed are not contacted.
func Drawn(ctx context.Context, o Options, before Before) (string, error) {
	if ctx.Err() != nil {
		return "", ctx.Err()
	}
	b, err := Start(o)
	if err != nil {
		return "", err
	}
	defer b.Close()
	ctx, cancel := context.WithTimeout(ctx, maxTextLength)
	defer cancel()
	v, err := b.NewVisitor(ctx)
	if err != nil {
		return "", err
	}
	defer v.Close()
	if err := v.SetCookies(ctx, before.Cookies); err != nil {
		return "", err
	}
	if before.SignIn != nil {
		if err := before.SignIn(ctx, v); err != nil {
			return "", err
		}
	}
	seen, err := v.Open(ctx, o.Address, &Form{OpenedBy: before.OpenedBy})
	if err != nil {
		return "", fmt.Errorf("draw the page: %w", err)
	}
	if seen.Failure != "" {
		return "", errors.New(seen.Failure)
	}
	// scripts may go on for a while after the page has loaded
	if _, err := ask[bool](ctx, v.tab, "quiet", 600, 4000); err != nil {
		return "", v.gone(err)
	}
	if err := v.lookInside(ctx); err != nil {
		return "", v.gone(err)
	}
	s, err := v.sight(ctx)
	if err != nil {
		return "", err
	}
	return s.HTML, nil
}

// maxLists is how many lists and calendars of a page are opened.
const maxLists = 30

// lookInside opens the lists and calendars of a page's forms one after the other, and closes them again; what they offer is kept for the
// page's HTML.
func (v *Visitor) lookInside(ctx context.Context) error {
	for i := range maxLists {
		control, err := ask[*element](ctx, v.tab, "opener", i)
		if err != nil || control == nil {
			return err
		}
		if control.Disabled {
			continue
		}
		if err := v.click(ctx, control); err != nil {
			return err
		}
		if _, err := ask[bool](ctx, v.tab, "quiet", 150, 1000); err != nil {
			return err
		}
		if _, err := ask[any](ctx, v.tab, "inside", i); err != nil {
			return err
		}
		if err := v.tab.strike(ctx, press(kb.Escape)); err != nil {
			return err
		}
		if _, err := ask[bool](ctx, v.tab, "quiet", 60, 1000); err != nil {
			return err
		}
	}
	return nil
}
