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
	// Role, where it is set, finds the control by role and label. Without it, the control is found by its name first.
	Role string
	// Multiple: it takes several choices. Choices are all that the field offers.
	Multiple bool
	Choices  []Choice
	// Typed is what is typed where it differs from the value: for a masked field, or the label of an option.
	Typed *string
	// Mistake is entered first, and corrected; nil for none.
	Mistake *Mistake
}

// Choice is one of what a field offers.
type Choice struct{ Value, Label string }

// Stage is a step of a form that is filled in on several.
type Stage struct {
	// Fields are the names of those that are filled in on it.
	Fields []string
	// Next is the accessible name of what leads to the next stage, "" on the last, and Back of what leads to the one before.
	Next, Back string
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
	entered, mistaken, ended, err := v.enterStages(ctx, action, entries, how, stop)
	if err != nil {
		return nil, v.gone(err)
	}
	if ended != nil {
		ended.Drawn.Entered, ended.Mistaken = entered, mistaken
		return ended, nil
	}
	button, err := v.submitter(ctx, how.Button)
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
		blocked, err = v.pressButton(ctx, button)
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
	if how.Replaced == slow && len(seen.Exchanges) > 0 {
		seen.Drawn.Times = v.timesSent(&seen.Exchanges[0])
	}
	return seen, nil
}

// submitter is the button that submits the form: the one of a name, or the form's own, nil for none.
func (v *Visitor) submitter(ctx context.Context, name string) (*element, error) {
	if name == "" {
		return ask[*element](ctx, v.tab, "submitter")
	}
	if _, err := ask[any](ctx, v.tab, "leave"); err != nil {
		return nil, err
	}
	button, err := v.await(ctx, func() (*element, error) { return ask[*element](ctx, v.tab, "press", name) })
	if err == nil && button == nil {
		err = &Error{fmt.Errorf("the page has no button named %s", name)}
	}
	return button, err
}

// timesSent is how often a request was made since the last submission.
func (v *Visitor) timesSent(x *observation.Exchange) int {
	n := 0
	for _, h := range v.tab.traffic.since(v.mark) {
		if h.exchange.Method == x.Method && h.exchange.URL == x.URL {
			n++
		}
	}
	return n
}

// enterStages enters values, stage by stage. ended is what is seen where that was the end of it: stop said so, or a stage does not lead to
// the next.
func (v *Visitor) enterStages(ctx context.Context, action string, entries []Entry, how How, stop func([]observation.Entered) bool) (entered []observation.Entered, mistaken *observation.Entered, ended *Seen, err error) {
	stages := how.Stages
	if len(stages) == 0 {
		stages = []Stage{{}}
	}
	for i, stage := range stages {
		own := entries
		if len(how.Stages) > 0 {
			own = slices.DeleteFunc(slices.Clone(entries), func(e Entry) bool { return !slices.Contains(stage.Fields, e.Name) })
		}
		list, wrong, err := v.enterAll(ctx, own)
		if err != nil {
			return nil, nil, nil, err
		}
		if wrong != nil {
			mistaken = wrong
		}
		entered = append(entered, list...)
		if stop(entered) {
			v.mark = v.tab.traffic.mark()
			if ended, err = v.look(ctx, v.mark, action, 0); err == nil {
				ended.Drawn.Blocked = unreached(entered)
			}
			return entered, mistaken, ended, err
		}
		if stage.Next == "" {
			continue
		}
		if ended, err = v.toStage(ctx, action, stages, i, i+1); err != nil || ended != nil {
			return entered, mistaken, ended, err
		}
	}
	if how.BackAndForth {
		ended, err = v.backAndForth(ctx, action, stages)
	}
	return entered, mistaken, ended, err
}

// backAndForth goes from the last stage back as far as the stages say how, and forth again.
func (v *Visitor) backAndForth(ctx context.Context, action string, stages []Stage) (ended *Seen, err error) {
	at := len(stages) - 1
	for at > 0 && stages[at].Back != "" && ended == nil && err == nil {
		ended, err = v.toStage(ctx, action, stages, at, at-1)
		at--
	}
	for at < len(stages)-1 && ended == nil && err == nil {
		ended, err = v.toStage(ctx, action, stages, at, at+1)
		at++
	}
	return ended, err
}

// unreached says which control could not be reached, "" where all could be.
func unreached(list []observation.Entered) string {
	for i := range list {
		if list[i].Unreached {
			return list[i].Name + ": " + list[i].Refused
		}
	}
	return ""
}

// leadsOnWithin is how long a stage may take to lead to the next, as it may be the server that is asked.
const leadsOnWithin = 2 * time.Second

// toStage leads from a stage to the one after or before it. ended is what is seen where it does not.
func (v *Visitor) toStage(ctx context.Context, action string, stages []Stage, from, to int) (ended *Seen, err error) {
	name := stages[from].Next
	if to < from {
		name = stages[from].Back
	}
	if _, err := ask[any](ctx, v.tab, "leave"); err != nil {
		return nil, err
	}
	if _, err := ask[any](ctx, v.tab, "stage", "submitting"); err != nil {
		return nil, err
	}
	button, err := v.await(ctx, func() (*element, error) { return ask[*element](ctx, v.tab, "press", name) })
	switch {
	case err != nil:
		return nil, err
	case button == nil:
		return nil, &Error{fmt.Errorf("the page has no button named %s", name)}
	}
	v.mark = v.tab.traffic.mark()
	blocked := ""
	if button.Disabled {
		blocked = "the button " + button.Text + " is disabled"
	} else if blocked, err = v.pressButton(ctx, button); err != nil {
		return nil, err
	}
	for begun := time.Now(); blocked == ""; {
		if _, err := v.settle(ctx, v.mark, stillBefore); err != nil {
			return nil, err
		}
		on, err := v.isOn(ctx, stages, to)
		if err != nil || on {
			return nil, err
		}
		said, err := ask[bool](ctx, v.tab, "complains")
		if err != nil {
			return nil, err
		}
		if said || time.Since(begun) > leadsOnWithin {
			break
		}
	}
	if ended, err = v.look(ctx, v.mark, action, stillBefore); err != nil {
		return nil, err
	}
	ended.Drawn.Blocked = blocked
	return ended, nil
}

// isOn tells whether the page shows a stage: a field of it is shown or, if it has no fields, no field of the stage before.
func (v *Visitor) isOn(ctx context.Context, stages []Stage, i int) (bool, error) {
	fields, wanted := stages[i].Fields, true
	if len(fields) == 0 {
		fields, wanted = stages[i-1].Fields, false
	}
	for _, name := range fields {
		shown, err := ask[bool](ctx, v.tab, "has", name)
		if err != nil || shown {
			return shown == wanted && err == nil, err
		}
	}
	return !wanted, nil
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

// wanted tells whether something is to be entered.
func (e *Entry) wanted() bool { return len(e.Values) > 0 && e.Values[0] != "" || e.File != nil }

// pickers are controls without typing of their own: what a picker would give them is assigned.
var pickers = []string{"date", "time", "datetime-local", "month", "week", "color", "range"}

func (v *Visitor) enter(ctx context.Context, e *Entry) (*observation.Entered, error) {
	out := &observation.Entered{Name: e.Name, Typed: strings.Join(e.Values, ", ")}
	if e.Typed != nil {
		out.Typed = *e.Typed
	}
	why, err := v.reach(ctx, e)
	switch {
	case err != nil:
		return nil, err
	case why != "" && e.wanted():
		out.Refused, out.Unreached = why, true
		return out, nil
	case e.Role != "":
		return out, v.enterFound(ctx, e, out)
	}
	about, err := ask[*element](ctx, v.tab, "focus", e.Name)
	if err != nil {
		return nil, err
	}
	if about == nil {
		return out, v.enterFound(ctx, e, out)
	}
	wanted := e.wanted()
	kind := about.Type
	if kind == "radio" || kind == "checkbox" {
		return out, v.enterButtons(ctx, e, out)
	}
	switch {
	case about.Disabled:
		out.Refuse(wanted, "the control is disabled")
	case about.ReadOnly:
		out.Refuse(wanted && about.Value != e.Values[0], "the control is read-only")
	case kind == "file": // which is often drawn by something else
		return out, v.enterFile(ctx, e)
	case !about.Shown:
		out.Refuse(wanted, "the control is not shown")
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
		if list[i].Type == "radio" && list[i].Checked && len(e.Values) == 0 {
			out.Stand(list[i].Value) // what is chosen cannot be taken back
		}
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
