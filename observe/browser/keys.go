package browser

import (
	"context"
	"sync"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
)

// stroke is one input event to be sent.
type stroke func(ctx context.Context, t cdp.Session) error

func key(p *input.DispatchKeyEventParams) stroke {
	return func(ctx context.Context, t cdp.Session) error {
		_, err := call(ctx, t, input.DispatchKeyEvent, *p)
		return err
	}
}

func insert(text string) stroke {
	return func(ctx context.Context, t cdp.Session) error {
		_, err := call(ctx, t, input.InsertText, input.InsertTextParams{Text: text})
		return err
	}
}

// strokesOf types a text: key by key what a keyboard has, and all else as an input method would put it in.
func strokesOf(text string) []stroke {
	var out []stroke
	rest := ""
	flush := func() {
		if rest != "" {
			out = append(out, insert(rest))
			rest = ""
		}
	}
	for _, r := range text {
		switch {
		case r == '\n':
			flush()
			out = append(out, press(kb.Enter)...)
		case r >= ' ' && r < 0x7F:
			flush()
			for _, p := range kb.Encode(r) {
				if p.Type == kb.KeyChar {
					continue
				}
				if p.Type == kb.KeyDown || p.Type == kb.KeyRawDown {
					// one event that brings its character stands for keydown, keypress and input
					p.Type, p.Text, p.UnmodifiedText = kb.KeyDown, string(r), string(r)
				}
				out = append(out, key(p))
			}
		default:
			rest += string(r)
		}
	}
	flush()
	return out
}

// press presses a key of kb once.
func press(name string) []stroke {
	var out []stroke
	for _, r := range name {
		for _, p := range kb.Encode(r) {
			out = append(out, key(p))
		}
	}
	return out
}

// strike sends events in order, each as soon as the one before it is on its way, and waits until all have taken effect.
func (t *tab) strike(ctx context.Context, strokes []stroke) error {
	if len(strokes) == 0 {
		return nil
	}
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	written, stop := t.b.relay.follow(t.target.SessionID, len(strokes))
	defer stop()
	var wg sync.WaitGroup
	for _, s := range strokes {
		wg.Go(func() {
			if err := s(ctx, t.target); err != nil {
				cancel(err)
			}
		})
		select {
		case <-written:
		case <-ctx.Done():
			wg.Wait()
			return context.Cause(ctx)
		}
	}
	wg.Wait()
	return context.Cause(ctx)
}
