package browser

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/fetch"
	"github.com/chromedp/cdproto/inspector"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/cdproto/storage"
	"github.com/chromedp/chromedp"
)

// tab is one tab in a browser context of its own, with what it records.
type tab struct {
	b      *Browser
	target *chromedp.Target
	end    context.CancelFunc
	// contextID names the browser context, which holds the cookies and the storage.
	contextID cdp.BrowserContextID
	traffic   *traffic

	mu      sync.Mutex
	worldID runtime.ExecutionContextID
	worlds  chan struct{} // closed and made anew when the world changes
	origins map[string]bool
	crashed bool

	altered   bool // its screen is another one than a new tab's
	replacing atomic.Pointer[replacement]
}

func (b *Browser) openTab(ctx context.Context) (*tab, error) {
	return b.open(ctx, chromedp.WithNewBrowserContext())
}

// openBeside opens another tab of the visitor that has one already.
func (b *Browser) openBeside(ctx context.Context, t *tab) (*tab, error) {
	return b.open(ctx, chromedp.WithExistingBrowserContext(t.contextID))
}

func (b *Browser) open(ctx context.Context, in chromedp.ContextOption) (*tab, error) {
	own, end := chromedp.NewContext(b.ctx, in)
	t := &tab{b: b, end: end, traffic: newTraffic(b.guard.word, &b.lasting), worlds: make(chan struct{}), origins: map[string]bool{}}
	stop := context.AfterFunc(ctx, end)
	defer stop()
	if err := chromedp.Listen(own, t.hear); err != nil {
		end()
		return nil, fmt.Errorf("open a tab: %w", err)
	}
	t.target, t.contextID = chromedp.FromContext(own).Target, chromedp.FromContext(own).BrowserContextID
	t.traffic.frame = cdp.FrameID(t.target.TargetID)
	for _, set := range []func() error{
		func() error {
			_, err := call(ctx, t.target, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: controlsScript + watchScript, WorldName: world, RunImmediately: pointer(true)})
			return err
		},
		func() error {
			_, err := call(ctx, t.target, network.SetExtraHTTPHeaders, network.SetExtraHTTPHeadersParams{Headers: network.Headers{"Accept-Language": b.o.Language}})
			return err
		},
	} {
		if err := set(); err != nil {
			end()
			return nil, fmt.Errorf("prepare a tab: %w", err)
		}
	}
	return t, nil
}

// hear is told of every event of the tab. It must not wait.
func (t *tab) hear(event any) {
	switch e := event.(type) {
	case *network.EventRequestWillBeSent:
		t.traffic.asked(e, t.b.secretHeader)
	case *network.EventResponseReceived:
		t.traffic.answered(e)
	case *network.EventLoadingFinished:
		t.traffic.finished(e.RequestID, e.Timestamp, int(e.EncodedDataLength), "")
	case *network.EventLoadingFailed:
		failure := e.ErrorText
		if e.Canceled && failure == "" {
			failure = "canceled"
		}
		t.traffic.finished(e.RequestID, e.Timestamp, 0, failure)
	case *runtime.EventExecutionContextCreated:
		t.entered(e.Context)
	case *runtime.EventExecutionContextsCleared:
		t.setWorld(0)
	case *runtime.EventExceptionThrown:
		t.traffic.note(func() { t.traffic.errors = append(t.traffic.errors, describeException(e.ExceptionDetails)) })
	case *page.EventJavascriptDialogOpening:
		t.traffic.note(func() { t.traffic.dialogs = append(t.traffic.dialogs, e.Message) })
		go func() { // what waits for an answer blocks the page
			_, _ = call(t.b.ctx, t.target, page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: true})
		}()
	case *fetch.EventRequestPaused:
		go t.paused(e)
	case *inspector.EventTargetCrashed:
		t.mu.Lock()
		t.crashed = true
		t.mu.Unlock()
		t.setWorld(0)
	}
}

func (b *Browser) secretHeader(name string) bool {
	for own := range b.o.Headers {
		if strings.EqualFold(own, name) {
			return true
		}
	}
	return false
}

func (t *tab) entered(c *runtime.ExecutionContextDescription) {
	var about struct {
		Frame cdp.FrameID `json:"frameId"`
	}
	if c.Name != world || json.Unmarshal([]byte(c.AuxData), &about) != nil || about.Frame != t.traffic.frame {
		return
	}
	t.setWorld(c.ID)
}

func (t *tab) setWorld(id runtime.ExecutionContextID) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.worldID = id
	close(t.worlds)
	t.worlds = make(chan struct{})
}

// world is the world of watch.js in the page that is there now; it is waited for where a page is just coming.
func (t *tab) world(ctx context.Context) (runtime.ExecutionContextID, error) {
	timeout := time.NewTimer(worldWait)
	defer timeout.Stop()
	for {
		t.mu.Lock()
		id, changed, crashed := t.worldID, t.worlds, t.crashed
		t.mu.Unlock()
		switch {
		case crashed:
			return 0, errors.New("the page crashed the browser's tab")
		case id != 0:
			return id, nil
		}
		select {
		case <-changed:
		case <-ctx.Done():
			return 0, ctx.Err()
		case <-t.b.ctx.Done():
			return 0, t.b.gone()
		case <-timeout.C:
			return 0, errors.New("the page's document does not come")
		}
	}
}

// wipe leaves nothing of a visitor in the tab.
func (t *tab) wipe(ctx context.Context) error {
	for origin := range t.origins {
		if _, err := call(ctx, t.target, storage.ClearDataForOrigin, storage.ClearDataForOriginParams{Origin: origin, StorageTypes: "local_storage,session_storage,indexeddb,cache_storage,service_workers"}); err != nil {
			return fmt.Errorf("clear the storage of %s: %w", origin, err)
		}
	}
	if _, err := call(ctx, t.target, network.ClearBrowserCookies, cdp.Empty{}); err != nil {
		return fmt.Errorf("clear the cookies: %w", err)
	}
	if _, err := call(ctx, t.target, page.Navigate, page.NavigateParams{URL: "about:blank"}); err != nil {
		return fmt.Errorf("leave the page: %w", err)
	}
	t.origins = map[string]bool{}
	t.traffic.forget()
	return nil
}
