package browser

import (
	"context"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	jsonv2 "github.com/chromedp/cdproto/cdp/jsonv2"
	"github.com/chromedp/cdproto/runtime"
)

// The scripts that run in a world of their own beside the page's: how controls are found, and what is seen of the page.
var (
	//go:embed controls.js
	controlsScript string
	//go:embed watch.js
	watchScript string
)

// world is the name of the world that watch.js runs in.
const world = "oddtick"

// element is what watch.js says of a control.
type element struct {
	Tag      string  `json:"tag"`
	Type     string  `json:"type"`
	Value    string  `json:"value"`
	Text     string  `json:"text"`
	Checked  bool    `json:"checked"`
	Disabled bool    `json:"disabled"`
	ReadOnly bool    `json:"readonly"`
	Shown    bool    `json:"shown"`
	X        float64 `json:"x"`
	Y        float64 `json:"y"`
	Reached  bool    `json:"reached"`
	// Role is that of a control that was found by it, and Open that its list or calendar is open.
	Role string `json:"role"`
	Open bool   `json:"open"`
}

// sight is the page as it stands, with what came and went.
type sight struct {
	HTML string `json:"html"`
	// HoldsForm: a field of the form is on the page.
	HoldsForm bool   `json:"holdsForm"`
	Address   string `json:"address"`
	Shots     []struct {
		Stage string `json:"stage"`
		At    int    `json:"at"`
		HTML  string `json:"html"`
	} `json:"shots"`
	Invalid []struct {
		Name  string `json:"name"`
		Text  string `json:"text"`
		Shown bool   `json:"shown"`
		// Custom: a script of the page worded it.
		Custom bool `json:"custom"`
	} `json:"invalid"`
	// Loading: the document is not parsed to its end, and nothing else is said.
	Loading bool   `json:"loading"`
	Focused string `json:"focused"`
	Stuck   bool   `json:"stuck"`
	Height  int    `json:"height"`
}

// errWorldGone says that the page left while it was asked.
var errWorldGone = errors.New("the page left")

// ErrStuck says that a page does not answer: its own scripts, or its size, keep it busy.
var ErrStuck = errors.New("the page does not answer within 10 s")

// askWait is how long a page may take to answer.
const askWait = 10 * time.Second

// worldWait is how long a page may take until its world is there.
const worldWait = 10 * time.Second

// ask calls a function of watch.js in the page that is there now.
func ask[T any](ctx context.Context, t *tab, name string, args ...any) (T, error) {
	var out T
	id, err := t.world(ctx)
	if err != nil {
		return out, err
	}
	p := runtime.CallFunctionOnParams{
		FunctionDeclaration: "(...a) => oddtick." + name + "(...a)", ExecutionContextID: id,
		ReturnByValue: pointer(true), AwaitPromise: pointer(true), Silent: pointer(true),
	}
	for _, a := range args {
		text, err := json.Marshal(a)
		if err != nil {
			return out, fmt.Errorf("ask the page for %s: %w", name, err)
		}
		p.Arguments = append(p.Arguments, &runtime.CallArgument{Value: jsonv2.Value(text)})
	}
	within, cancel := context.WithTimeout(ctx, askWait)
	defer cancel()
	r, err := cdp.Call(within, t.target, runtime.CallFunctionOn, p)
	if err != nil {
		if within.Err() != nil && ctx.Err() == nil {
			return out, ErrStuck
		}
		if leftMeanwhile(err) {
			return out, errWorldGone
		}
		return out, fmt.Errorf("ask the page for %s: %w", name, err)
	}
	if r.ExceptionDetails != nil {
		return out, fmt.Errorf("ask the page for %s: %s", name, describeException(r.ExceptionDetails))
	}
	if r.Result == nil || len(r.Result.Value) == 0 {
		return out, nil
	}
	if err := json.Unmarshal([]byte(r.Result.Value), &out); err != nil {
		return out, fmt.Errorf("read what the page says of %s: %w", name, err)
	}
	return out, nil
}

func describeException(d *runtime.ExceptionDetails) string {
	text := d.Text
	if d.Exception != nil && d.Exception.Description != "" {
		text = d.Exception.Description
	}
	first, _, _ := strings.Cut(text, "\n")
	if d.URL != "" {
		first += fmt.Sprintf(" (%s:%d)", d.URL, d.LineNumber+1)
	}
	return first
}

func pointer[T any](v T) *T { return &v }
