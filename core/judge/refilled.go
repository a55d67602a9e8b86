package judge

import (
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

func (j *judging) refilled() Check {
	c := &Check{Check: RefilledValues}
	if j.o.Drawn == nil && j.o.ByScript() {
		c.notApplicable(of(Whole), is(JSONHasNoForm))
		return c.finish()
	}
	if j.e.Form == "initial" && (j.e.Outcome == oracle.NothingFurther || j.observed.outcome == oracle.Accepted) {
		j.asOpened(c)
		return c.finish()
	}
	if j.e.Outcome == oracle.Accepted && j.e.Form != "" && j.observed.outcome == oracle.Accepted {
		j.formAfterwards(c)
		return c.finish()
	}
	if j.e.Outcome != oracle.RejectedByServer && j.e.Outcome != oracle.RejectedByBrowser && j.e.Outcome != oracle.NotAnswered || len(j.e.Refilled) == 0 || j.kept() {
		c.notApplicable(of(Whole), is(NothingPromisedOfValues))
		return c.finish()
	}
	if j.observed.outcome != j.e.Outcome && j.observed.outcome != oracle.Silent {
		c.notApplicable(of(Whole), is(OutcomeDiffers))
		return c.finish()
	}
	if j.o.After == nil || j.o.After.Form == nil {
		c.odd(of(FormState), FormGone, is(FormFilledIn), is(PageWithoutForm))
		return c.finish()
	}
	for i := range j.e.Refilled {
		j.control(c, &j.e.Refilled[i])
	}
	return c.finish()
}

func (j *judging) control(c *Check, want *oracle.Refilled) {
	f := j.p.Field(want.Field)
	value := ofField(ControlValue, f.ID)
	control := j.o.After.Form.ControlAt(f.Name, f.Nth)
	if control == nil && f.Control != nil {
		c.notApplicable(value, is(NotNative))
		return
	}
	if control == nil && j.onOtherStep(f) {
		c.notApplicable(value, is(OnOtherStep))
		return
	}
	if control == nil {
		c.odd(value, ControlGone, Value{Is: TheControl, Of: f.Name}, is(None))
		return
	}
	if j.o.First() == nil && j.remade(f.Name) {
		c.notApplicable(value, is(ControlRemade))
		return
	}
	if f.Kind == spec.Checkbox {
		c.compare(control.Checked == want.Checked, value, NotRefilled, ticked(want.Checked), ticked(control.Checked))
		return
	}
	if f.Kind == spec.MultipleChoice || control.Type == "radio" {
		j.group(c, f, want, NotRefilled)
		return
	}
	if len(control.Offered) > 0 && !want.Blank && !slices.Contains(control.Offered, want.Sent) {
		c.notApplicable(value, is(NotOffered))
		return
	}
	if want.Blank && j.stayed() {
		c.notApplicable(value, is(NotLoadedAnew))
		return
	}
	if want.Blank {
		c.compare(j.asFirst(f, control), value, Filled, is(Blank), holds(f, control.Value))
		return
	}
	same := standsFor(f, control.Value, want.Sent, want.Normal)
	kind := OtherValue
	if control.Value == "" {
		kind = NotRefilled
	}
	c.compare(same, value, kind, orBlank(want.Sent), orBlank(control.Value))
}

// standsFor tells whether what a control holds is how the page writes a value that was sent.
func standsFor(f *spec.PreparedField, holds, sent, normal string) bool {
	return f.Mask != nil && f.Mask.Made(sent, holds) || f.Control != nil && holds == labelOf(f, sent) ||
		holds == sent || holds == normal || parsed(holds) == parsed(sent)
}

// asFirst: a control that is not filled in again is blank, or holds what it held when the form was opened; a list has its first option.
func (j *judging) asFirst(f *spec.PreparedField, control *observation.Control) bool {
	if control.Value == "" || len(control.Offered) > 0 && control.Value == control.Offered[0] {
		return true
	}
	if f.Secret || j.o.Before == nil || len(j.earlier) > 0 {
		return false
	}
	was := j.o.Before.Form.ControlAt(f.Name, f.Nth)
	return was != nil && was.Value == control.Value
}

// group compares what is chosen among the buttons or boxes of one name, or in a list of several choices.
func (j *judging) group(c *Check, f *spec.PreparedField, want *oracle.Refilled, kind Difference) {
	value := ofField(ControlValue, f.ID)
	var chosen, offered []string
	for i := range j.o.After.Form.Controls {
		control := &j.o.After.Form.Controls[i]
		if control.Name != f.Name {
			continue
		}
		if control.Type == "select" {
			c.unobserved(value, is(ListNotRead))
			return
		}
		offered = append(offered, control.Value)
		if control.Checked {
			chosen = append(chosen, control.Value)
		}
	}
	var sent []string
	if !want.Blank {
		for _, v := range j.o.Sent.Values(f.Name) {
			switch {
			case slices.Contains(offered, v):
				sent = append(sent, v)
			case v != "":
				c.notApplicable(value, is(NotOffered))
				return
			}
		}
	}
	if len(sent) == 0 && f.Kind == spec.SingleChoice {
		c.notApplicable(value, is(NothingChosen))
		return
	}
	slices.Sort(chosen)
	slices.Sort(sent)
	c.compare(slices.Equal(chosen, sent), value, kind, orBlank(strings.Join(sent, ", ")), orBlank(strings.Join(chosen, ", ")))
}

// formAfterwards: after acceptance the form is gone, blank or filled, as promised.
func (j *judging) formAfterwards(c *Check) {
	form := j.o.After.Form
	if j.e.Form == "gone" || form == nil {
		c.compare((form == nil) == (j.e.Form == "gone"), of(FormState), notAs[j.e.Form], Value{Is: FormIs, Of: j.e.Form}, either(form == nil, Gone, There))
		return
	}
	kind := notAs[j.e.Form]
	for _, f := range j.p.Fields {
		control := form.ControlAt(f.Name, f.Nth)
		if control == nil || f.Kind.Untouched() || f.Secret && j.e.Form == "filled" {
			continue
		}
		value := ofField(ControlValue, f.ID)
		sent, present := j.o.Sent.Of(f)
		v := f.ValueOf(sent, present)
		switch {
		case f.Kind == spec.Checkbox:
			want := j.e.Form == "filled" && present
			c.compare(control.Checked == want, value, kind, ticked(want), ticked(control.Checked))
		case j.e.Form == "blank" && len(control.Offered) > 0:
			c.compare(control.Value == control.Offered[0], value, kind, orBlank(control.Offered[0]), orBlank(control.Value))
		case j.e.Form == "blank":
			c.compare(control.Value == "" || f.Kind == spec.SingleChoice && !control.Checked, value, kind, is(Blank), holds(f, control.Value))
		case f.Kind == spec.MultipleChoice || control.Type == "radio":
			j.group(c, f, &oracle.Refilled{Field: f.ID, Sent: v.Sent, Normal: v.Normal, Blank: v.Blank}, kind)
		default:
			c.compare(standsFor(f, control.Value, v.Sent, v.Normal), value, kind, orBlank(v.Sent), orBlank(control.Value))
		}
	}
}

// notAs is the difference where a form is not as it is promised to be afterwards.
var notAs = map[string]Difference{"gone": FormNotGone, "blank": NotBlank, "filled": NotFilled}

// asOpened: the form is as it was when the visitor opened it first.
func (j *judging) asOpened(c *Check) {
	opened := j.o.Before
	if len(j.earlier) > 0 {
		opened = j.earlier[0].Before
	}
	if j.o.After == nil || j.o.After.Form == nil || opened == nil || opened.Form == nil {
		c.compare(j.o.After != nil && j.o.After.Form != nil, of(FormState), FormGone, is(FormAsOpened), is(PageWithoutForm))
		return
	}
	for _, f := range j.p.Fields {
		if f.Kind == spec.Hidden || f.Kind == spec.Honeypot {
			continue
		}
		was, now := standing(opened.Form, f.Name), standing(j.o.After.Form, f.Name)
		c.compare(was == now, ofField(ControlValue, f.ID), NotAsOpened, orBlank(was), holds(f, now))
	}
}

// standing is what the controls of a name hold.
func standing(form *observation.Form, name string) string {
	var out []string
	for i := range form.Controls {
		c := &form.Controls[i]
		switch {
		case c.Name != name:
		case c.Type == "checkbox" || c.Type == "radio":
			if c.Checked {
				out = append(out, c.Value)
			}
		default:
			out = append(out, c.Value)
		}
	}
	return strings.Join(out, ", ")
}

// stayed: the visitor is still on the page that was filled in, so that what stands in it was not put there by the site.
func (j *judging) stayed() bool {
	if j.o.Drawn == nil {
		return false
	}
	first := j.o.First()
	return first == nil || j.o.After != nil && j.o.Before != nil && j.o.After.URL == j.o.Before.URL && !strings.Contains(first.Body, "<html") && !strings.Contains(first.Body, "<form")
}

// labelOf is the label of an option, "" for none.
func labelOf(f *spec.PreparedField, value string) string {
	for _, o := range f.Options {
		if o.Value == value {
			return o.Label
		}
	}
	return ""
}

func ticked(yes bool) Value { return either(yes, Checked, NotChecked) }

func orBlank(text string) Value { return asText(text, Blank) }

// holds is what a control holds; of a secret only that it holds something.
func holds(f *spec.PreparedField, text string) Value {
	if f.Secret && text != "" {
		return is(FilledIn)
	}
	return orBlank(text)
}

// parsed is a value as it comes back from a page: an HTML parser replaces NUL (HTML Standard, 13.2.5), and line ends may be written
// either way.
func parsed(s string) string {
	return strings.NewReplacer("\r", "", "\x00", "\uFFFD").Replace(s)
}

// onOtherStep tells whether a field stands on a step of the form that is not shown.
func (j *judging) onOtherStep(f *spec.PreparedField) bool {
	for _, stage := range j.p.Form.Stages {
		if slices.Contains(stage.Fields, f.ID) {
			return !slices.ContainsFunc(stage.Fields, func(id string) bool {
				other := j.p.Field(id)
				return other != nil && j.o.After.Form.Control(other.Name) != nil
			})
		}
	}
	return false
}
