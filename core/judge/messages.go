package judge

import (
	"fmt"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// says tells whether a text is a message's, in any of its languages.
func says(m *spec.Message, text string) bool { return saysShown(m, observation.Squash(text)) }

// saysShown is says of a text whose white space is as a page shows it.
func saysShown(m *spec.Message, text string) bool {
	// the promised text is not shorter before its white space is made so
	same := func(promised string) bool { return len(promised) >= len(text) && text == observation.Squash(promised) }
	switch {
	case m.Part != "":
		return strings.Contains(text, observation.Squash(m.Part))
	case m.Pattern != "":
		return m.FoundIn(text)
	case m.Text != "":
		return same(m.Text)
	}
	for _, t := range m.Texts {
		if same(t) {
			return true
		}
	}
	return false
}

func (j *judging) messages() Check {
	c := &Check{Check: Messages}
	j.beforehand(c)
	if j.o.After == nil {
		if j.o.Failure != "" {
			c.unobserved("messages", "no page came back")
		}
		return c.finish()
	}
	used := make([]bool, len(j.texts))
	if j.observed.outcome == oracle.Failed {
		c.irrelevant("messages", "the site failed")
		return c.finish()
	}
	if j.kept() {
		c.irrelevant("messages", "the control does not let the value in, so that there is nothing to be said")
		j.corrected(c) // what was said before is seen all the same
		return c.finish()
	}
	for i := range j.e.Messages {
		j.message(c, &j.e.Messages[i], used)
	}
	j.extra(c, used)
	j.gone(c)
	j.corrected(c)
	if j.e.Outcome == oracle.Accepted {
		j.reply(c)
		j.shown(c)
	}
	return c.finish()
}

// beforehand: no message may stand on the page before anything was submitted, marked as an error.
func (j *judging) beforehand(c *Check) {
	if j.o.Before == nil || len(j.earlier) > 0 {
		return
	}
	for _, t := range j.o.Before.Texts {
		if !t.Hidden && t.Alarm && j.isRuleMessage(t.Text) {
			c.odd("before submitting", "shown before submitting", "no message", t.Text)
			return
		}
	}
	c.asExpected("before submitting", "no message", "none")
}

// isOf tells whether a text is a message's, wherever it stands; field is the request name of the message's field.
func isOf(m *oracle.Message, field string, t *observation.Text) bool {
	switch {
	case m.Text != "":
		return observation.Squash(t.Text) == observation.Squash(m.Text)
	case m.Says != nil:
		return says(m.Says, t.Text)
	}
	return field != "" && t.At(field) || t.Alarm
}

func (j *judging) message(c *Check, m *oracle.Message, used []bool) {
	name := "message " + m.Rule
	var field string
	if f := j.p.Field(m.Field); f != nil {
		field = f.Name
	}
	want := m.Text
	if want == "" && m.Says != nil {
		want = "something like " + m.Says.Part + m.Says.Pattern
	}
	best, elsewhere, hidden := -1, -1, -1
	for i, t := range j.texts {
		switch {
		case used[i] || !isOf(m, field, &t):
		case t.Hidden:
			hidden = i
		case j.inPlace(m, t, field):
			if best < 0 {
				best = i
			}
		case elsewhere < 0:
			elsewhere = i
		}
	}
	place := placeText(m.Place, j.label(m.Field))
	switch {
	case best >= 0:
		used[best] = true
		t := j.texts[best]
		c.asExpected(name+": text", quoted(want), quoted(t.Text))
		c.asExpected(name+": place", place, place)
		if j.o.Drawn != nil {
			seen := "seen"
			if t.Gone > 0 {
				seen = fmt.Sprintf("seen for a while, gone after %d ms", t.Gone)
			}
			c.asExpected(name+": visible", "seen", seen)
		}
		if m.Tied {
			c.compare(t.Tied, name+": tied to its field", "not tied to its field", "the control refers to it", map[bool]string{true: "it does", false: "it does not"}[t.Tied])
		}
	case elsewhere >= 0:
		used[elsewhere] = true
		t := j.texts[elsewhere]
		c.asExpected(name+": text", quoted(want), quoted(t.Text))
		observed := "elsewhere on the page"
		if t.Field != "" {
			observed = "at the control " + t.Field
		}
		c.odd(name+": place", "at another place", place, observed)
	case hidden >= 0:
		used[hidden] = true
		why := "hidden"
		if unseen := j.texts[hidden].Unseen; unseen != "" {
			why = unseen
		}
		c.odd(name+": visible", "hidden", "seen "+place, "in the page, but "+why)
	default:
		j.missing(c, m, name, want, place, field, used)
	}
}

// missing: perhaps another text stands where the message belongs.
func (j *judging) missing(c *Check, m *oracle.Message, name, want, place, field string, used []bool) {
	for i, t := range j.texts {
		if !used[i] && !t.Hidden && j.inPlace(m, t, field) && (t.Field != "" || t.Alarm) && !j.expectedElsewhere(t.Text) {
			used[i] = true
			c.odd(name+": text", j.otherText(m, t.Text), quoted(want)+" "+place, quoted(t.Text))
			return
		}
	}
	kind := "missing"
	if j.observed.outcome == oracle.Accepted {
		kind = "missing, as it was accepted"
	}
	if want == "" {
		want = "some message"
	}
	c.odd(name+": text", kind, quoted(want)+" "+place, "none")
}

// The kinds of texts that stand where another message belongs.
const (
	otherLanguage = "other language"
	otherBlank    = "message of another kind of blank"
	messageOf     = "message of "
)

// otherText is of which kind a text is that stands in a message's place.
func (j *judging) otherText(m *oracle.Message, text string) string {
	text = observation.Squash(text)
	for _, r := range j.p.Rules {
		if r.Message == nil {
			continue
		}
		if said, _ := r.Message.In(j.e.Language); observation.Squash(said) == text {
			continue
		}
		for language, t := range r.Message.Texts {
			if language != j.e.Language && observation.Squash(t) == text {
				return otherLanguage
			}
		}
	}
	for _, r := range j.p.Rules {
		if r.ID == m.Rule && r.Kind == "required" {
			required := r.Rule.Required
			for _, other := range []*spec.Message{required.Absent, required.Null, r.Message} {
				if other != nil && says(other, text) {
					return otherBlank
				}
			}
		}
	}
	for _, r := range j.p.Rules {
		if r.Field != nil && r.Field.ID == m.Field && r.ID != m.Rule && r.Message != nil && r.Message.Text != "" && says(r.Message, text) {
			return messageOf + r.ID
		}
	}
	return "other text"
}

func (j *judging) expectedElsewhere(text string) bool {
	for i := range j.e.Messages {
		if m := &j.e.Messages[i]; m.Text != "" && observation.Squash(m.Text) == observation.Squash(text) {
			return true
		}
	}
	return false
}

func (j *judging) inPlace(m *oracle.Message, t observation.Text, field string) bool {
	switch m.Place {
	case spec.AtField:
		return field == "" || t.At(field)
	case spec.InSummary:
		return t.Field == ""
	default:
		return true
	}
}

func (j *judging) label(id string) string {
	if f := j.p.Field(id); f != nil {
		return f.Label
	}
	return ""
}

func placeText(p spec.Place, label string) string {
	switch {
	case p == spec.AtField && label != "":
		return "at " + label
	case p == spec.OnNextPage:
		return "on the page that follows"
	}
	return "in the summary"
}

func quoted(s string) string {
	if s == "" {
		return ""
	}
	return "“" + s + "”"
}

// extra: no message of another rule, and none at a field that is in order.
func (j *judging) extra(c *Check, used []bool) {
	if j.refusedUnread() {
		c.irrelevant(noOtherMessage, "the request is refused whatever its values are, in words of the site's own")
		return
	}
	wanted := map[string]bool{}
	for i := range j.e.Messages {
		if f := j.p.Field(j.e.Messages[i].Field); f != nil {
			wanted[f.Name] = true
		}
	}
	for i, t := range j.texts {
		if j.o.First() == nil && slices.ContainsFunc(t.Fields(), j.remade) {
			continue // it is of the value that the control made
		}
		if used[i] || t.Hidden || j.expectedElsewhere(t.Text) || j.isReply(t.Text) {
			continue
		}
		if j.isRuleMessage(t.Text) && !j.wantedByPart(&t) || t.Alarm && j.atField(&t) && !slices.ContainsFunc(t.Fields(), func(name string) bool { return wanted[name] }) {
			observed := quoted(t.Text)
			if t.Field != "" {
				observed += " at the control " + t.Field
			}
			c.odd(noOtherMessage, "not expected", "none", observed)
			return
		}
	}
	c.asExpected(noOtherMessage, "none", "none")
}

// refusedUnread: the request is refused for its token or its method, before its values are looked at.
func (j *judging) refusedUnread() bool {
	return slices.ContainsFunc(j.e.Failing, func(f oracle.Failure) bool {
		return f.Rule == "token" || f.Rule == "method" || f.Rule == "again"
	})
}

// wantedByPart: the text is one of the messages that are expected, said in a second place.
func (j *judging) wantedByPart(t *observation.Text) bool {
	return slices.ContainsFunc(j.e.Messages, func(m oracle.Message) bool { return m.Says != nil && says(m.Says, t.Text) })
}

// atField: the text stands at a field of the form that was sent.
func (j *judging) atField(t *observation.Text) bool {
	return j.o.After.Form != nil && slices.ContainsFunc(t.Fields(), j.declared)
}

func (j *judging) declared(name string) bool {
	for _, f := range j.p.Fields {
		if f.Name == name {
			return true
		}
	}
	return false
}

func (j *judging) reply(c *Check) {
	if j.e.Reply == "" {
		return
	}
	if j.o.Drawn == nil && j.o.Sent != nil && j.o.Sent.Encoding == "json" {
		c.irrelevant("success reply", "the page's script says it, over HTTP there is only the answer in JSON")
		return
	}
	if j.observed.outcome == oracle.RejectedByServer || j.observed.outcome == oracle.Silent {
		c.odd("success reply", "missing, as it was not accepted", quoted(j.e.Reply), "none")
		return
	}
	hidden := false
	for _, t := range j.o.After.Texts {
		if strings.Contains(observation.Squash(t.Text), observation.Squash(j.e.Reply)) {
			if !t.Hidden {
				c.asExpected("success reply", quoted(j.e.Reply), quoted(t.Text))
				return
			}
			hidden = true
		}
	}
	if hidden {
		c.odd("success reply", "hidden", quoted(j.e.Reply), "in the page, but hidden")
		return
	}
	observed := "none"
	if final := j.o.Final(); len(j.texts) > 0 && final != nil && final.Location == "" {
		observed = fmt.Sprintf("the page %s without it", pathOf(j.o.After.URL))
	}
	c.odd("success reply", "missing", quoted(j.e.Reply), observed)
}

// gone: what is shown once does not stand on the next page view.
func (j *judging) gone(c *Check) {
	if j.e.Gone == "" {
		return
	}
	for _, t := range j.o.After.Texts {
		if !t.Hidden && strings.Contains(observation.Squash(t.Text), observation.Squash(j.e.Gone)) {
			c.odd("shown once", "shown again", "no longer "+quoted(j.e.Gone), quoted(t.Text))
			return
		}
	}
	c.asExpected("shown once", "no longer "+quoted(j.e.Gone), "none")
}

// shown: saved values are seen where they are promised.
func (j *judging) shown(c *Check) {
	if j.observed.outcome != oracle.Accepted {
		return
	}
	for i, want := range j.e.Shown {
		name := strings.TrimSpace("shown on " + want.Page + " " + want.At)
		if i >= len(j.o.Shown) {
			c.unobserved(name, "the page was not opened")
			continue
		}
		got := j.o.Shown[i]
		if got.Failure != "" {
			c.odd(name, "not shown", quoted(want.Text), got.Failure)
			continue
		}
		found := false
		for _, text := range got.Texts {
			found = found || strings.Contains(observation.Squash(text), observation.Squash(want.Text))
		}
		c.compare(found, name, "not shown", quoted(want.Text), brief(strings.Join(got.Texts, " | ")))
	}
}
