package judge

import (
	"regexp"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/template"
)

// says tells whether a text is a message's, in any of its languages.
func says(m *spec.Message, text string) bool { return saysShown(m, observation.Squash(text)) }

// saysShown is says of a text whose white space is as a page shows it.
func saysShown(m *spec.Message, text string) bool {
	switch {
	case m.Part != "":
		return template.Within(observation.Squash(m.Part), text)
	case m.Pattern != "":
		return m.FoundIn(text)
	case m.Text != "":
		return isText(m.Text, text)
	}
	for _, t := range m.Texts {
		if isText(t, text) {
			return true
		}
	}
	return false
}

// isText tells whether a text, whose white space is as a page shows it, is a promised one. Any text may stand in a place that is not filled.
func isText(promised, text string) bool {
	if strings.Contains(promised, "{") {
		return template.Matches(observation.Squash(promised), text)
	}
	// the promised text is not shorter before its white space is made so
	return len(promised) >= len(text) && text == observation.Squash(promised)
}

func (j *judging) messages() Check {
	c := &Check{Check: Messages}
	j.beforehand(c)
	j.page(c)
	mails(j, c)
	if j.o.After == nil {
		if j.o.Failure != "" {
			c.unobserved(of(Whole), is(NoPageCame))
		}
		return c.finish()
	}
	used := make([]bool, len(j.texts))
	if j.observed.outcome == oracle.Failed {
		c.notApplicable(of(Whole), is(SiteFailed))
		return c.finish()
	}
	if j.kept() {
		c.notApplicable(of(Whole), is(ControlKeptOut))
		corrected(j, c) // what was said before is seen all the same
		return c.finish()
	}
	for i := range j.e.Messages {
		j.message(c, &j.e.Messages[i], used)
	}
	j.refusalPage(c)
	j.extra(c, used)
	j.gone(c)
	corrected(j, c)
	if j.e.Outcome == oracle.Accepted {
		j.reply(c)
		j.shown(c)
	}
	return c.finish()
}

// refusalPage: the page of its own on which a rejection is told.
func (j *judging) refusalPage(c *Check) {
	want, got := j.e.RefusalPage, j.o.After
	if want == nil || j.observed.outcome != j.e.Outcome {
		return
	}
	c.compare(got.Form == nil, of(OwnPage), FormThere, is(WithoutForm), either(got.Form == nil, WithoutForm, TheForm))
	if want.Title != "" {
		c.compare(isText(want.Title, observation.Squash(got.Title)), of(PageTitle), OtherText, withText(Quoted, want.Title), asText(got.Title, None))
	}
	if m := want.Text; m != nil {
		shown := slices.ContainsFunc(got.Texts, func(t observation.Text) bool { return !t.Hidden && saysOf(j, m, t.Text) })
		observed := withText(PageWithoutIt, pathOf(got.URL))
		if shown {
			observed = is(AsPromised)
		}
		c.compare(shown, of(PageText), NotShown, promisedText(j, m), observed)
	}
	if want.Link != "" {
		leads := slices.ContainsFunc(j.o.Links, func(l string) bool { return j.leadsTo(l, want.Link) })
		c.compare(leads, of(PageLink), NoSuchLink, withText(LeadsTo, want.Link), asText(strings.Join(j.o.Links, ", "), None))
	}
}

// beforehand: no message may stand on the page before anything was submitted, marked as an error.
func (j *judging) beforehand(c *Check) {
	if j.o.Before == nil || len(j.earlier) > 0 {
		return
	}
	for _, t := range j.o.Before.Texts {
		if !t.Hidden && t.Alarm && j.isRuleMessage(t.Text) {
			c.odd(of(BeforeSubmitting), ShownBefore, is(NoMessage), withText(AsText, t.Text))
			return
		}
	}
	c.asExpected(of(BeforeSubmitting), is(NoMessage), is(None))
}

// page: the page that the form was filled in on is in the language that was asked for.
func (j *judging) page(c *Check) {
	want, got := j.e.Page, j.o.Before
	if want == nil || got == nil {
		return
	}
	if want.Title != "" {
		c.compare(isText(want.Title, observation.Squash(got.Title)), of(PageTitle), OtherText, withText(Quoted, want.Title), asText(got.Title, None))
	}
	for _, f := range j.p.Fields {
		label := want.Labels[f.ID]
		if label == "" {
			continue
		}
		shown := slices.ContainsFunc(got.Texts, func(t observation.Text) bool {
			return strings.Contains(observation.Squash(t.Text), observation.Squash(label))
		})
		c.compare(shown, ofField(FieldLabel, f.ID), NotShown, withText(Quoted, label), either(shown, AsPromised, None))
	}
	named := func(by, want, got string) {
		if want != "" {
			c.compare(inLanguage(want, got), Subject{Aspect: NamedLanguage, Member: by}, OtherLanguage, withText(AsText, want), asText(got, None))
		}
	}
	named("<html lang>", want.HTMLLang, got.Language)
	named("Content-Language", want.ContentLanguage, got.ContentLanguage)
}

// inLanguage tells whether a tag names a language, in whatever region (RFC 4647, 3.3.1).
func inLanguage(language, tag string) bool {
	return strings.EqualFold(tag, language) || len(tag) > len(language) && tag[len(language)] == '-' && strings.EqualFold(tag[:len(language)], language)
}

// isOf tells whether a text is a message's, wherever it stands; field is the request name of the message's field.
func isOf(m *submission.Message, field string, t *observation.Text) bool {
	switch {
	case inItsWords(m, field, t):
		return true
	case m.Text != "":
		return isText(m.Text, observation.Squash(t.Text))
	case m.Says != nil:
		return says(m.Says, t.Text)
	}
	return field != "" && t.At(field) || t.Alarm
}

// inItsWords: the browser says in its own words what a rule of both layers promises.
func inItsWords(m *submission.Message, field string, t *observation.Text) bool {
	return m.OrBrowsers && t.Native && !t.Worded && field != "" && t.At(field)
}

func (j *judging) message(c *Check, m *submission.Message, used []bool) {
	var field string
	if f := j.p.Field(m.Field); f != nil {
		field = f.Name
	}
	want := wanted(m)
	best, elsewhere, hidden := -1, -1, -1
	for i, t := range j.texts {
		switch {
		case used[i] || !isOf(m, field, &t):
		case t.Hidden:
			hidden = i
		case j.standsRight(m, t, field):
			if best < 0 {
				best = i
			}
		case elsewhere < 0:
			elsewhere = i
		}
	}
	place := is(PromisedPlace)
	switch {
	case best >= 0:
		used[best] = true
		t := j.texts[best]
		if inItsWords(m, field, &t) {
			want = is(SomeMessage)
		}
		c.asExpected(ofMessage(MessageText, m), want, withText(Quoted, t.Text))
		c.asExpected(ofMessage(MessagePlace, m), place, place)
		if j.o.Drawn != nil {
			c.asExpected(ofMessage(MessageVisible, m), is(Seen), Value{Is: Seen, N: t.Gone})
		}
		if m.Linked {
			c.compare(t.Linked, ofMessage(MessageLinked, m), NotLinked, is(RefersToIt), either(t.Linked, RefersToIt, DoesNotRefer))
		}
	case elsewhere >= 0:
		used[elsewhere] = true
		t := j.texts[elsewhere]
		c.asExpected(ofMessage(MessageText, m), want, withText(Quoted, t.Text))
		observed := is(Elsewhere)
		switch {
		case t.Field != "":
			observed = Value{Is: AtControl, Of: t.Field}
		case m.Place == spec.AtField && j.o.Drawn == nil && j.o.ByScript() && j.p.Form.Page != "":
			c.notApplicable(ofMessage(MessagePlace, m), is(OnlyJSON)) // and the browser tells where
			return
		}
		c.odd(ofMessage(MessagePlace, m), OtherPlace, place, observed)
	case hidden >= 0:
		used[hidden] = true
		c.odd(ofMessage(MessageVisible, m), Hidden, is(SeenInPlace), withText(ButHidden, j.texts[hidden].Unseen))
	default:
		j.missing(c, m, want, field, used)
	}
}

// wanted is a promised message: its text, or what it is to hold; nothing where any will do.
func wanted(m *submission.Message) Value {
	switch {
	case m.Text != "":
		return withText(Quoted, m.Text)
	case m.Says != nil:
		return withText(SomethingLike, m.Says.Part+m.Says.Pattern)
	}
	return is(SomeMessage)
}

// ofMessage is an aspect of a message.
func ofMessage(a Aspect, m *submission.Message) Subject {
	return Subject{Aspect: a, Rule: m.Rule, Field: m.Field, Place: string(m.Place)}
}

// missing: perhaps another text stands where the message belongs.
func (j *judging) missing(c *Check, m *submission.Message, want Value, field string, used []bool) {
	if j.blocked() && (want.Is == SomeMessage || j.turnedAway()) {
		c.notApplicable(ofMessage(MessageText, m), is(ButtonDisabled)) // which says that something is missing
		return
	}
	for i, t := range j.texts {
		if !used[i] && !t.Hidden && j.standsRight(m, t, field) && (t.Field != "" || t.Alarm) && !j.expectedElsewhere(t.Text) {
			used[i] = true
			kind, rule := j.otherText(m, t.Text)
			c.odd(ofMessage(MessageText, m), kind, inPlace(want), Value{Is: Quoted, Text: t.Text, Of: rule})
			return
		}
	}
	kind := Missing
	if j.observed.outcome == oracle.Accepted {
		kind = MissingAccepted
	}
	c.odd(ofMessage(MessageText, m), kind, inPlace(want), is(None))
}

// inPlace is a promised message in its promised place.
func inPlace(want Value) Value {
	want.Is = map[Term]Term{Quoted: QuotedInPlace, SomethingLike: LikeInPlace, SomeMessage: SomeInPlace}[want.Is]
	return want
}

// otherText tells what kind of text stands where a message should: rule is the id of the rule whose message it is, where it is that of
// another rule of the field.
func (j *judging) otherText(m *submission.Message, text string) (kind Difference, rule string) {
	text = observation.Squash(text)
	for _, r := range j.p.Rules {
		if r.Message == nil {
			continue
		}
		if said, _ := r.Message.In(j.e.Language); isText(said, text) {
			continue
		}
		for language, t := range r.Message.Texts {
			if language != j.e.Language && isText(t, text) {
				return OtherLanguage, ""
			}
		}
	}
	for _, r := range j.p.Rules {
		if r.ID == m.Rule && r.Kind == spec.RuleRequired {
			for _, other := range []*spec.Message{r.Absent, r.Null, r.Message} {
				if other != nil && says(other, text) {
					return OtherBlank, ""
				}
			}
		}
	}
	for _, r := range j.p.Rules {
		if r.Field != nil && r.Field.ID == m.Field && r.ID != m.Rule && r.Message != nil && r.Message.Text != "" && says(r.Message, text) {
			return OtherRule, r.ID
		}
	}
	return OtherText, ""
}

func (j *judging) expectedElsewhere(text string) bool {
	for i := range j.e.Messages {
		if m := &j.e.Messages[i]; m.Text != "" && isText(m.Text, observation.Squash(text)) {
			return true
		}
	}
	return false
}

func (j *judging) standsRight(m *submission.Message, t observation.Text, field string) bool {
	if inItsWords(m, field, &t) {
		return true // a browser shows it at the control, wherever the page shows its own
	}
	switch m.Place {
	case spec.AtField:
		return field == "" || t.At(field)
	case spec.InSummary:
		return t.Field == ""
	default:
		return true
	}
}

// extra: no message of another rule, and none at a field that is in order.
func (j *judging) extra(c *Check, used []bool) {
	if j.refusedUnread() {
		c.notApplicable(of(NoOtherMessage), is(RefusedUnread))
		return
	}
	wanted := map[string]bool{}
	for i := range j.e.Messages {
		if f := j.p.Field(j.e.Messages[i].Field); f != nil {
			wanted[f.Name] = true
		}
	}
	for i, t := range j.texts {
		if used[i] || t.Hidden || t.Gone != 0 || j.expectedElsewhere(t.Text) {
			continue
		}
		if j.observed.outcome == oracle.RejectedByServer && j.e.Outcome == oracle.RejectedByServer && j.isWholeReply(t.Text) {
			c.odd(of(NoOtherMessage), NotExpected, is(None), withText(Quoted, t.Text))
			return
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
			observed := withText(Quoted, t.Text)
			if t.Field != "" {
				observed = Value{Is: QuotedAtControl, Text: t.Text, Of: t.Field}
			}
			c.odd(of(NoOtherMessage), NotExpected, is(None), observed)
			return
		}
	}
	c.asExpected(of(NoOtherMessage), is(None), is(None))
}

// refusedUnread: the request is refused for its token or its method, before its values are looked at.
func (j *judging) refusedUnread() bool {
	return slices.ContainsFunc(j.e.Failing, func(f oracle.Failure) bool {
		return slices.Contains(beforeReading, f.Cause)
	})
}

// beforeReading are the causes for which a request is refused before its values are looked at.
var beforeReading = []oracle.FailureCause{
	oracle.TokenMissing, oracle.TokenForeign, oracle.WrongMethod, oracle.WrongType, oracle.NotSignedIn, oracle.TooLarge, oracle.Undecodable, oracle.OtherRecord, oracle.SentAgain, oracle.TooMany,
}

// wantedByPart: the text is one of the messages that are expected, said in a second place.
func (j *judging) wantedByPart(t *observation.Text) bool {
	return slices.ContainsFunc(j.e.Messages, func(m submission.Message) bool { return m.Says != nil && says(m.Says, t.Text) })
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
	if j.e.Reply == "" && j.e.ReplyPattern == "" {
		return
	}
	said, unknown := j.withRows(j.e.Reply)
	reply, want := of(SuccessReply), withText(Quoted, said)
	if j.e.ReplyPattern != "" {
		want = withText(MatchesPattern, j.e.ReplyPattern)
	}
	if j.o.Drawn == nil && j.o.ByScript() {
		c.notApplicable(reply, is(OnlyJSON))
		return
	}
	if j.observed.outcome == oracle.RejectedByServer || j.observed.outcome == oracle.Silent {
		c.odd(reply, MissingNotAccepted, want, is(None))
		return
	}
	hidden := false
	for _, t := range j.o.After.Texts {
		if saysReply(said, j.e.ReplyPattern, j.e.ReplyExact, observation.Squash(t.Text)) {
			switch {
			case t.Hidden:
				hidden = true
			case unknown != "":
				c.unobserved(reply, Value{Is: NoRowSeen, Of: unknown})
				return
			default:
				c.asExpected(reply, want, withText(Quoted, t.Text))
				return
			}
		}
	}
	if hidden {
		c.odd(reply, Hidden, want, is(ButHidden))
		return
	}
	observed := is(None)
	if final := j.o.Final(); len(j.texts) > 0 && final != nil && final.Location == "" {
		observed = withText(PageWithoutIt, pathOf(j.o.After.URL))
	}
	c.odd(reply, Missing, want, observed)
}

// saysReply tells whether a text is a promised reply, or contains one that need not be all of it.
func saysReply(said, pattern string, exact bool, text string) bool {
	switch {
	case pattern != "":
		re, err := regexp.Compile(pattern)
		return err == nil && re.MatchString(text)
	case exact:
		return isText(said, text)
	}
	return template.Within(observation.Squash(said), text)
}

// gone: what is shown once does not stand on the next page view.
func (j *judging) gone(c *Check) {
	if j.e.Gone == "" {
		return
	}
	for _, t := range j.o.After.Texts {
		if !t.Hidden && template.Within(observation.Squash(j.e.Gone), observation.Squash(t.Text)) {
			c.odd(of(ShownOnce), ShownAgain, withText(NoLonger, j.e.Gone), withText(Quoted, t.Text))
			return
		}
	}
	c.asExpected(of(ShownOnce), withText(NoLonger, j.e.Gone), is(None))
}

// shown: saved values are seen where they are promised.
func (j *judging) shown(c *Check) {
	if j.observed.outcome != oracle.Accepted {
		return
	}
	for i, want := range j.e.Shown {
		shown := Subject{Aspect: ShownValue, Member: want.Page, Place: want.At}
		if i >= len(j.o.Shown) {
			c.unobserved(shown, is(PageNotOpened))
			continue
		}
		got := j.o.Shown[i]
		said, unknown := j.withRows(want.Text)
		if _, of := j.withRows(want.Page); of != "" {
			unknown = of
		}
		found := slices.ContainsFunc(got.Texts, func(text string) bool {
			return template.Within(observation.Squash(said), observation.Squash(text))
		})
		switch {
		case unknown != "" && (found || got.Failure != ""):
			c.unobserved(shown, Value{Is: NoRowSeen, Of: unknown})
		case got.Failure != "":
			c.odd(shown, NotShown, withText(Quoted, said), withText(FailedWith, got.Failure))
		default:
			c.compare(found, shown, NotShown, withText(Quoted, said), withText(ShortText, strings.Join(got.Texts, " | ")))
		}
	}
}
