package browser

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/observe/attachment"

	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp/kb"
)

// Entry is what is to be entered into one field: no value for a choice that is not made or a box that is not ticked.
type Entry struct {
	Name   string
	Values []string
	File   *spec.Attachment
	// Single: it is one checkbox, ticked where there is a value.
	Single bool
	// Role and Label find a control that is not native.
	Role, Label string
	// Typed is what is typed where it differs from the value: for a masked field, or the label of an option.
	Typed *string
	// Mistake is entered first, and corrected; nil for none.
	Mistake *Mistake
}

// Submit enters all values in order and presses the form's button. unchecked switches the browser's own checks off before. Where
// the page does not take a value that must stand, nothing is sent: the observation's Entered say why.
func (v *Visitor) Submit(ctx context.Context, action string, entries []Entry, how How, stop func([]observation.Entered) bool) (*Seen, error) {
	if how.Unchecked {
		if _, err := ask[any](ctx, v.tab, "relax"); err != nil {
			return nil, v.gone(err)
		}
	}
	// early, as the page only hears of it a little later
	var replaced *replacement
	if how.Replaced != "" {
		r, done, err := v.tab.replace(ctx, how.Replaced)
		if err != nil {
			return nil, v.gone(err)
		}
		defer done()
		replaced = r
	}
	entered, mistaken, err := v.enterAll(ctx, entries)
	if err != nil {
		return nil, v.gone(err)
	}
	if stop(entered) {
		v.mark = v.tab.traffic.mark()
		seen, err := v.look(ctx, v.mark, action, 0)
		if err != nil {
			return nil, err
		}
		seen.Drawn.Entered, seen.Mistaken = entered, mistaken
		return seen, nil
	}
	button, err := ask[*element](ctx, v.tab, "submitter")
	if err != nil {
		return nil, v.gone(err)
	}
	if _, err = ask[any](ctx, v.tab, "stage", "submitting"); err != nil {
		return nil, v.gone(err)
	}
	v.mark = v.tab.traffic.mark()
	blocked := ""
	switch {
	case button == nil:
		_, err = ask[any](ctx, v.tab, "request")
	case button.Disabled:
		blocked = "the button " + button.Text + " is disabled"
	default:
		err = v.click(ctx, button)
	}
	if err != nil && !errors.Is(err, errWorldGone) {
		return nil, v.gone(fmt.Errorf("submit: %w", err))
	}
	if replaced != nil {
		replaced.wait(ctx)
	}
	if how.Replaced == slow && blocked == "" && button != nil {
		// pressed once more while the answer is waited for
		time.Sleep(againAfter)
		if err := v.click(ctx, button); err != nil && !errors.Is(err, errWorldGone) {
			return nil, v.gone(fmt.Errorf("press the button again: %w", err))
		}
		time.Sleep(stillBefore) // for a second request to come
	}
	if replaced != nil {
		replaced.held.Wait()
	}
	seen, err := v.look(ctx, v.mark, action, stillBefore)
	if err != nil {
		return nil, err
	}
	seen.Drawn.Entered, seen.Drawn.Blocked, seen.Mistaken = entered, blocked, mistaken
	return seen, nil
}

// enterAll enters values in their order. mistaken is what became of a mistake that was made first.
func (v *Visitor) enterAll(ctx context.Context, entries []Entry) (entered []observation.Entered, mistaken *observation.Entered, err error) {
	entered = make([]observation.Entered, 0, len(entries))
	for i := range entries {
		if _, err := ask[any](ctx, v.tab, "stage", "entering "+entries[i].Name); err != nil {
			return nil, nil, err
		}
		var e *observation.Entered
		if entries[i].Mistake != nil {
			mistaken, e, err = v.correct(ctx, &entries[i])
		} else {
			e, err = v.enter(ctx, &entries[i])
		}
		if err != nil {
			return nil, nil, fmt.Errorf("enter %s: %w", entries[i].Name, err)
		}
		entered = append(entered, *e)
	}
	return entered, mistaken, nil
}

// pickers are controls without typing of their own: what a picker would give them is assigned.
var pickers = []string{"date", "time", "datetime-local", "month", "week", "color", "range"}

func (v *Visitor) enter(ctx context.Context, e *Entry) (*observation.Entered, error) {
	out := &observation.Entered{Name: e.Name, Typed: strings.Join(e.Values, ", ")}
	if e.Typed != nil {
		out.Typed = *e.Typed
	}
	if e.Role != "" {
		return out, v.enterRole(ctx, e, out)
	}
	about, err := ask[*element](ctx, v.tab, "focus", e.Name)
	if err != nil {
		return nil, err
	}
	wanted := len(e.Values) > 0 && e.Values[0] != "" || e.File != nil
	if about == nil {
		out.Refuse(wanted, "the page has no such control")
		out.Missing = wanted
		return out, nil
	}
	kind := about.Type
	if kind == "radio" || kind == "checkbox" {
		return out, v.enterButtons(ctx, e, out)
	}
	switch {
	case about.Disabled:
		out.Refuse(wanted, "the control is disabled")
	case about.ReadOnly:
		out.Refuse(wanted && about.Value != e.Values[0], "the control is read-only")
	case !about.Shown:
		out.Refuse(wanted, "the control is not shown")
	case kind == "file":
		return out, v.enterFile(ctx, e)
	case about.Tag == "select":
		missing, err := ask[[]string](ctx, v.tab, "choose", append([]string{}, e.Values...))
		if len(missing) > 0 {
			out.Refuse(true, "the list does not offer "+strings.Join(missing, ", "))
		}
		return out, err
	case slices.Contains(pickers, kind):
		stands, err := ask[string](ctx, v.tab, "assign", out.Typed)
		out.Stand(stands)
		return out, err
	default:
		return out, v.enterText(ctx, about, out)
	}
	return out, nil
}

func (v *Visitor) enterText(ctx context.Context, about *element, out *observation.Entered) error {
	text := strings.ReplaceAll(out.Typed, "\r\n", "\n")
	if about.Tag != "textarea" {
		text = strings.NewReplacer("\r", "", "\n", "").Replace(text) // a line of text takes no line ends (HTML Standard, 4.10.5.1.2)
	}
	strokes := strokesOf(text)
	if len(strokes) == 0 && about.Value != "" {
		strokes = press(kb.Delete)
	}
	if err := v.tab.strike(ctx, strokes); err != nil {
		return err
	}
	stands, err := ask[string](ctx, v.tab, "standing")
	out.Stand(stands)
	return err
}

// enterButtons sets the radio buttons or checkboxes of one name, by clicking those that stand otherwise.
func (v *Visitor) enterButtons(ctx context.Context, e *Entry, out *observation.Entered) error {
	list, err := ask[[]element](ctx, v.tab, "buttons", e.Name)
	if err != nil {
		return err
	}
	for _, value := range e.Values {
		if !e.Single && value != "" && !slices.ContainsFunc(list, func(b element) bool { return b.Value == value }) {
			out.Refuse(true, "the page does not offer "+value)
			return nil
		}
	}
	for i := range list {
		want := slices.Contains(e.Values, list[i].Value) || e.Single && len(e.Values) > 0
		if list[i].Checked == want || list[i].Type == "radio" && !want {
			continue
		}
		b, err := ask[*element](ctx, v.tab, "button", e.Name, list[i].Value)
		if err != nil {
			return err
		}
		if b == nil || b.Disabled {
			out.Refuse(true, "the control is disabled")
			return nil
		}
		if err := v.click(ctx, b); err != nil {
			return err
		}
	}
	return nil
}

// enterFile gives a control a file of the promised size and type.
func (v *Visitor) enterFile(ctx context.Context, e *Entry) error {
	files := []string{}
	if e.File != nil {
		folder, err := os.MkdirTemp("", "oddtick-file-")
		if err != nil {
			return fmt.Errorf("make a file to send: %w", err)
		}
		v.files = append(v.files, folder)
		name := filepath.Join(folder, filepath.Base(e.File.Name))
		if err := os.WriteFile(name, attachment.Content(*e.File), 0o600); err != nil {
			return fmt.Errorf("make a file to send: %w", err)
		}
		v.b.handOver(folder)
		v.b.handOver(name)
		files = append(files, name)
	}
	id, err := v.tab.world(ctx)
	if err != nil {
		return err
	}
	control, err := call(ctx, v.tab.target, runtime.CallFunctionOn, runtime.CallFunctionOnParams{FunctionDeclaration: "() => oddtick.inHand()", ExecutionContextID: id, Silent: pointer(true)})
	if err != nil {
		return err
	}
	_, err = call(ctx, v.tab.target, dom.SetFileInputFiles, dom.SetFileInputFilesParams{Files: files, ObjectID: control.Result.ObjectID})
	return err
}

// enterRole sets a control that is not native, by its role.
func (v *Visitor) enterRole(ctx context.Context, e *Entry, out *observation.Entered) error {
	role := e.Role
	if role == "typed date" {
		role = "textbox"
	}
	about, err := ask[*element](ctx, v.tab, "role", role, e.Label)
	if err != nil {
		return err
	}
	if about == nil {
		out.Refuse(true, fmt.Sprintf("the page has no %s named %s", role, e.Label))
		out.Missing = true
		return nil
	}
	if about.Disabled {
		out.Refuse(len(e.Values) > 0, "the control is disabled")
		return nil
	}
	value := strings.Join(e.Values, "")
	label := value
	if e.Typed != nil {
		label = *e.Typed
	}
	switch e.Role {
	case "switch":
		if about.Checked != (len(e.Values) > 0) {
			return v.click(ctx, about)
		}
		return nil
	case "slider":
		return v.slide(ctx, e.Label, value, out)
	case "textbox", "typed date":
		if _, err := ask[any](ctx, v.tab, "focusHeld"); err != nil {
			return err
		}
		return v.enterText(ctx, about, out)
	}
	// a list to choose from: opened by a click, narrowed down by typing where it takes typing
	if err := v.click(ctx, about); err != nil {
		return err
	}
	if e.Role == "combobox" && about.Tag == "input" {
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
	}
	if value == "" {
		return nil
	}
	if _, err := ask[bool](ctx, v.tab, "quiet", 60, 1000); err != nil {
		return err
	}
	option, err := ask[*element](ctx, v.tab, "option", value, label)
	if err != nil {
		return err
	}
	if option == nil {
		if e.Role == "combobox" && about.Tag == "input" {
			return nil // free text
		}
		out.Refuse(true, "the list does not offer "+value)
		return nil
	}
	return v.click(ctx, option)
}

// maxSteps is how often a slider's arrow key is pressed.
const maxSteps = 1000

func (v *Visitor) slide(ctx context.Context, label, value string, out *observation.Entered) error {
	if _, err := ask[any](ctx, v.tab, "focusHeld"); err != nil {
		return err
	}
	if err := v.tab.strike(ctx, press(kb.Home)); err != nil {
		return err
	}
	for range maxSteps {
		now, err := ask[*element](ctx, v.tab, "role", "slider", label)
		if err != nil {
			return err
		}
		if now == nil || now.Value == value {
			return nil
		}
		if err := v.tab.strike(ctx, press(kb.ArrowRight)); err != nil {
			return err
		}
	}
	out.Refuse(true, "the slider does not come to "+value)
	return nil
}
