package browser

import (
	"context"
	"errors"
	"fmt"
	"time"
)

// maxTextLength is how long a page may take altogether until its HTML is taken as it is.
const maxTextLength = 40 * time.Second

// Drawn opens a page, with cookies, and returns its HTML as it stands after its scripts have run. Hosts that are not allowed are not
// contacted.
func Drawn(ctx context.Context, o Options, cookies ...Cookie) (string, error) {
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
	if err := v.SetCookies(ctx, cookies); err != nil {
		return "", err
	}
	seen, err := v.Open(ctx, o.Address, nil)
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
	s, err := v.sight(ctx)
	if err != nil {
		return "", err
	}
	return s.HTML, nil
}
