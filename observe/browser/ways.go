package browser

import (
	"context"
	"fmt"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
)

// The screen of a phone, in CSS pixels.
const (
	NarrowWidth  = 390
	NarrowHeight = 844
)

// maxTabs is how often the Tab key is pressed for one control.
const maxTabs = 300

// UseNarrowScreen gives the visitor the screen of a phone, and a finger in place of a mouse.
func (v *Visitor) UseNarrowScreen(ctx context.Context) error {
	if _, err := call(ctx, v.tab.target, emulation.SetDeviceMetricsOverride, emulation.SetDeviceMetricsOverrideParams{Width: NarrowWidth, Height: NarrowHeight, DeviceScaleFactor: 1}); err != nil {
		return v.gone(fmt.Errorf("set the width of the screen: %w", err))
	}
	v.tab.altered = true
	if _, err := call(ctx, v.tab.target, emulation.SetTouchEmulationEnabled, emulation.SetTouchEmulationEnabledParams{Enabled: true}); err != nil {
		return v.gone(fmt.Errorf("set the screen to touch: %w", err))
	}
	v.finger = true
	return nil
}

// UseKeyboard makes the visitor reach each control with the Tab key, and press boxes and buttons with the keyboard.
func (v *Visitor) UseKeyboard() { v.keyboard = true }

// tap touches a point.
func (v *Visitor) tap(ctx context.Context, x, y float64) error {
	touch := func(kind input.DispatchTouchEventType, points []*input.TouchPoint) stroke {
		return func(ctx context.Context, t cdp.Session) error {
			_, err := call(ctx, t, input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: kind, TouchPoints: points})
			return err
		}
	}
	return v.tab.strike(ctx, []stroke{touch(input.DispatchTouchEventTypeTouchStart, []*input.TouchPoint{{X: x, Y: y}}), touch(input.DispatchTouchEventTypeTouchEnd, []*input.TouchPoint{})})
}

// reach goes to a field's control as the visitor does. why says that it cannot be reached so; it is "" for one that can be, and for a visitor with
// a mouse, whom nothing keeps from scrolling.
func (v *Visitor) reach(ctx context.Context, e *Entry) (why string, err error) {
	if e.File != nil || !v.finger && !v.keyboard {
		return "", nil // files are given by the system's own dialog
	}
	at, err := ask[*element](ctx, v.tab, "reach", e.Name)
	switch {
	case err != nil || at == nil || at.Disabled || !at.Shown:
		return "", err // which is told where it is entered
	case v.keyboard:
		return v.tabTo(ctx, func() (bool, error) { return ask[bool](ctx, v.tab, "holds", e.Name) })
	case !at.Reached:
		return "something else lies over the control on a narrow screen", nil
	}
	return "", nil
}

// tabTo presses the Tab key until there is true. why says that it never was.
func (v *Visitor) tabTo(ctx context.Context, there func() (bool, error)) (why string, err error) {
	for range maxTabs {
		is, err := there()
		if err != nil || is {
			return "", err
		}
		if err := v.tab.strike(ctx, press(kb.Tab)); err != nil {
			return "", err
		}
	}
	return "the Tab key does not lead to the control", nil
}

// pressButton presses a button as the visitor does. blocked says why that cannot be done.
func (v *Visitor) pressButton(ctx context.Context, button *element) (blocked string, err error) {
	switch {
	case v.finger && !button.Reached:
		return "something else lies over the button " + button.Text + " on a narrow screen", nil
	case !v.keyboard:
		return "", v.click(ctx, button)
	}
	why, err := v.tabTo(ctx, func() (bool, error) { return ask[bool](ctx, v.tab, "holdsHeld") })
	if err != nil {
		return "", err
	}
	if why != "" {
		return "the Tab key does not lead to the button " + button.Text, nil
	}
	return "", v.tab.strike(ctx, press(kb.Enter))
}
