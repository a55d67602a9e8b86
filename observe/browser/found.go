package browser

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"oddtick/core/observation"

	"github.com/chromedp/chromedp/kb"
)

// enterFound sets a control that is found by its role and label, as a person finds it.
func (v *Visitor) enterFound(ctx context.Context, e *Entry, out *observation.Entered) error {
	about, err := ask[*element](ctx, v.tab, "find", e.Name)
	if err != nil {
		return err
	}
	wanted := e.wanted()
	switch {
	case about == nil:
		out.Refuse(wanted, v.noControl(e))
		out.Missing = wanted
		return nil
	case about.Disabled:
		out.Refuse(wanted, "the control is disabled")
		return nil
	case about.ReadOnly:
		out.Refuse(wanted && about.Value != e.Values[0], "the control is read-only")
		return nil
	}
	switch about.Role {
	case "file":
		return v.enterFile(ctx, e)
	case "checkbox", "switch":
		if about.Checked != (len(e.Values) > 0) {
			return v.click(ctx, about)
		}
		return nil
	case "slider":
		return v.slide(ctx, about, strings.Join(e.Values, ""), out)
	case "radiogroup", "group", "toolbar", "listbox":
		if about.Tag == "select" {
			return v.enterList(ctx, e, out)
		}
		return v.enterChoices(ctx, e, out)
	case "button":
		switch {
		case e.Single:
			if about.Checked != (len(e.Values) > 0) {
				return v.click(ctx, about)
			}
			return nil
		case len(e.Choices) > 0:
			return v.enterFromList(ctx, e, about, out)
		}
		return v.enterDay(ctx, e, about, out)
	case "combobox":
		if about.Tag == "select" {
			return v.enterList(ctx, e, out)
		}
		return v.enterFromList(ctx, e, about, out)
	}
	if slices.Contains(pickers, about.Type) {
		stands, err := ask[string](ctx, v.tab, "assign", out.Typed)
		out.Stand(stands)
		return err
	}
	if _, err := ask[any](ctx, v.tab, "focusHeld"); err != nil {
		return err
	}
	return v.enterText(ctx, about, out)
}

// noControl says what was looked for in vain.
func (v *Visitor) noControl(e *Entry) string {
	at := slices.IndexFunc(v.fields, func(f Field) bool { return f.Name == e.Name })
	if at < 0 || e.Role == "" || len(v.fields[at].Labels) == 0 {
		return "the page has no such control"
	}
	return fmt.Sprintf("the page has no %s named %s", v.fields[at].Role, v.fields[at].Labels[0])
}

// enterList chooses from a native list in hand.
func (v *Visitor) enterList(ctx context.Context, e *Entry, out *observation.Entered) error {
	missing, err := ask[[]string](ctx, v.tab, "choose", append([]string{}, e.Values...))
	if len(missing) > 0 {
		out.Refuse(true, "the list does not offer "+strings.Join(missing, ", "))
	}
	return err
}

// labelOf is the label of a value, the value itself where it is none of the choices.
func (e *Entry) labelOf(value string) string {
	for _, c := range e.Choices {
		if c.Value == value && c.Label != "" {
			return c.Label
		}
	}
	return value
}

// enterChoices sets the radio buttons, checkboxes, options or buttons that stay pressed of a group in hand.
func (v *Visitor) enterChoices(ctx context.Context, e *Entry, out *observation.Entered) error {
	chosen := slices.DeleteFunc(slices.Clone(e.Values), func(value string) bool { return value == "" })
	list := append([]Choice{}, e.Choices...)
	for _, value := range chosen {
		if !slices.ContainsFunc(list, func(c Choice) bool { return c.Value == value }) {
			list = append(list, Choice{Value: value})
		}
	}
	if !e.Multiple && len(chosen) == 0 {
		any, err := ask[bool](ctx, v.tab, "anyChosen")
		out.Refuse(any, "what is chosen cannot be taken back")
		return err
	}
	for _, c := range list {
		want := slices.Contains(chosen, c.Value)
		if !want && !e.Multiple {
			continue
		}
		about, err := ask[*element](ctx, v.tab, "choice", c.Value, c.Label)
		switch {
		case err != nil:
			return err
		case about == nil:
			out.Refuse(want, "the page does not offer "+c.Value)
			continue
		case about.Checked == want:
			continue
		case about.Disabled:
			out.Refuse(true, "the control is disabled")
			continue
		}
		if about.Reached {
			err = v.click(ctx, about)
		} else {
			_, err = ask[any](ctx, v.tab, "clickChoice", c.Value, c.Label)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// enterFromList chooses from a list that a control opens; where it takes typing, the list is narrowed down by it.
func (v *Visitor) enterFromList(ctx context.Context, e *Entry, about *element, out *observation.Entered) error {
	value := strings.Join(e.Values, "")
	label := e.labelOf(value)
	typing := about.Tag == "input"
	if value == "" && !typing {
		return nil // of such a list something is always chosen, or nothing yet
	}
	if !about.Open {
		if err := v.click(ctx, about); err != nil {
			return err
		}
	}
	if typing {
		if _, err := ask[any](ctx, v.tab, "focusHeld"); err != nil {
			return err
		}
		strokes := strokesOf(label)
		if value == "" && about.Value != "" {
			strokes = press(kb.Delete)
		}
		if err := v.tab.strike(ctx, strokes); err != nil {
			return err
		}
		if value == "" {
			return nil
		}
	}
	option, err := v.await(ctx, func() (*element, error) { return ask[*element](ctx, v.tab, "option", value, label) })
	if err != nil {
		return err
	}
	if option == nil {
		if !typing {
			out.Refuse(true, "the list does not offer "+value)
			return v.tab.strike(ctx, press(kb.Escape))
		}
		return nil // free text
	}
	return v.click(ctx, option)
}

// How long something that opens is waited for once the page is still.
const opensWithin = 600 * time.Millisecond

// await asks for an element until it is there, once the page is still.
func (v *Visitor) await(ctx context.Context, ask1 func() (*element, error)) (*element, error) {
	for begun := time.Now(); ; {
		if _, err := ask[bool](ctx, v.tab, "quiet", 40, 1000); err != nil {
			return nil, err
		}
		found, err := ask1()
		if err != nil || found != nil || time.Since(begun) > opensWithin {
			return found, err
		}
	}
}

// maxMonths is how many months a calendar is turned.
const maxMonths = 1300

// enterDay chooses a day in a calendar that a button opens.
func (v *Visitor) enterDay(ctx context.Context, e *Entry, about *element, out *observation.Entered) error {
	value := strings.Join(e.Values, "")
	day, err := time.Parse(time.DateOnly, value)
	switch {
	case value == "":
		return nil // nothing was chosen yet
	case err != nil:
		out.Refuse(true, "the calendar does not offer "+value)
		return nil
	}
	type month struct{ Year, Month int }
	shows := func() (*month, error) { return ask[*month](ctx, v.tab, "month") }
	at, err := shows()
	if err != nil {
		return err
	}
	if at == nil {
		if err := v.click(ctx, about); err != nil {
			return err
		}
		if _, err := v.await(ctx, func() (*element, error) {
			at, err = shows()
			if at == nil {
				return nil, err
			}
			return &element{}, err
		}); err != nil {
			return err
		}
	}
	for range maxMonths {
		if at == nil {
			out.Refuse(true, "the control opens no calendar")
			return nil
		}
		away := (day.Year()-at.Year)*12 + int(day.Month()) - 1 - at.Month
		if away == 0 {
			break
		}
		turn, err := ask[*element](ctx, v.tab, "turn", away > 0)
		if err != nil {
			return err
		}
		if turn == nil || turn.Disabled {
			return v.notOffered(ctx, value, out)
		}
		was := *at
		if err := v.click(ctx, turn); err != nil {
			return err
		}
		if _, err := v.await(ctx, func() (*element, error) {
			at, err = shows()
			if at == nil || *at == was {
				return nil, err
			}
			return &element{}, err
		}); err != nil {
			return err
		}
		if at == nil || *at == was {
			return v.notOffered(ctx, value, out)
		}
	}
	button, err := ask[*element](ctx, v.tab, "day", day.Day())
	if err != nil {
		return err
	}
	if button == nil || button.Disabled {
		return v.notOffered(ctx, value, out)
	}
	return v.click(ctx, button)
}

// notOffered closes a calendar that does not let a day be chosen.
func (v *Visitor) notOffered(ctx context.Context, value string, out *observation.Entered) error {
	out.Refuse(true, "the calendar does not offer "+value)
	return v.tab.strike(ctx, press(kb.Escape))
}

// maxSteps is how often a slider's arrow key is pressed.
const maxSteps = 1000

func (v *Visitor) slide(ctx context.Context, about *element, value string, out *observation.Entered) error {
	if value == "" || about.Value == value {
		out.Refuse(value == "" && about.Value != "", "a slider always holds a value")
		return nil
	}
	if _, err := ask[any](ctx, v.tab, "focusHeld"); err != nil {
		return err
	}
	if err := v.tab.strike(ctx, press(kb.Home)); err != nil {
		return err
	}
	before := ""
	for range maxSteps {
		now, err := ask[*element](ctx, v.tab, "again")
		switch {
		case err != nil:
			return err
		case now == nil || now.Value == value:
			return nil
		case now.Value == before:
			out.Refuse(true, fmt.Sprintf("the slider does not come to %s", value))
			return nil
		}
		before = now.Value
		if err := v.tab.strike(ctx, press(kb.ArrowRight)); err != nil {
			return err
		}
	}
	out.Refuse(true, fmt.Sprintf("the slider does not come to %s", value))
	return nil
}

// Press clicks what has an accessible name: a button, a link, a tab. It returns false where there is none.
func (v *Visitor) Press(ctx context.Context, name string) (bool, error) {
	button, err := v.await(ctx, func() (*element, error) { return ask[*element](ctx, v.tab, "press", name) })
	if err != nil || button == nil || button.Disabled {
		return false, v.gone(err)
	}
	return true, v.gone(v.click(ctx, button))
}
