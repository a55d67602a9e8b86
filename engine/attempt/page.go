package attempt

import (
	"context"
	"net/url"
	"slices"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/observe/page"
)

// foreignToken puts the tokens of another visitor's session into a form. stop says why it cannot.
func (a *Attempt) foreignToken(ctx context.Context, before *observation.Page) (stop *judge.Judgement, err error) {
	own := a.Visitor
	defer func() { a.Visitor = own }()
	if a.Visitor, err = a.Target.NewVisitor(ctx, a.Case); err != nil {
		return nil, err
	}
	defer a.Visitor.Close()
	other, failure, err := a.Open(ctx)
	if err != nil || failure != "" {
		return judge.Unobserved("another visitor's page: " + failure), err
	}
	form := *before.Form
	form.Controls, form.Header = slices.Clone(form.Controls), slices.Clone(form.Header)
	changed := false
	for _, name := range a.Target.Form.Form.Token {
		mine, theirs := form.Control(name), other.Form.Control(name)
		if mine == nil || theirs == nil || mine.Value == theirs.Value {
			continue
		}
		for i := range form.Header {
			if form.Header[i].Value == mine.Value {
				form.Header[i].Value = theirs.Value
			}
		}
		mine.Value, changed = theirs.Value, true
	}
	if !changed {
		return judge.Inapplicable("two sessions have the same token"), nil
	}
	before.Form = &form
	return nil, nil
}

// signedOut lets somebody who is not signed in take the visitor's place until back is called, with the page as the visitor saw it and, where
// the sign-in page holds such tokens, those of their own session.
func (a *Attempt) signedOut(ctx context.Context, before *observation.Page) (back func()) {
	own := a.Visitor
	stranger := a.Target.Stranger()
	a.Visitor = stranger
	if in := a.Target.Config.Site.SignInOf(a.Account); in != nil && len(a.Target.Form.Form.Token) > 0 {
		exchanges, err := stranger.Visitor.Open(ctx, in.Page)
		if err == nil && len(exchanges) > 0 {
			last := &exchanges[len(exchanges)-1]
			if p, err := page.Read(last.Body, last.URL, []string{in.Password}); err == nil && p.Form != nil {
				form := *before.Form
				form.Controls = slices.Clone(form.Controls)
				for _, name := range a.Target.Form.Form.Token {
					if mine, theirs := form.Control(name), p.Form.Control(name); mine != nil && theirs != nil {
						mine.Value = theirs.Value
					}
				}
				before.Form = &form
			}
		}
	}
	return func() { a.Visitor = own }
}

// otherRecord lets a submission go where one about another record goes, and be sent by whom the document names, until back is called.
func (a *Attempt) otherRecord(ctx context.Context, before *observation.Page, record *spec.RecordRequest) (back func(), err error) {
	own := a.Visitor
	back = func() { a.Visitor = own }
	form := *before.Form
	form.Controls = slices.Clone(form.Controls)
	if record.As != "" {
		other, err := a.Target.SignedInAs(ctx, record.As)
		if err != nil {
			return nil, err
		}
		a.Visitor = other
		if page, failure, err := a.Open(ctx); err == nil && failure == "" { // with the tokens of their own session, where the page opens for them
			for _, name := range a.Target.Form.Form.Token {
				if mine, theirs := form.Control(name), page.Form.Control(name); mine != nil && theirs != nil {
					mine.Value = theirs.Value
				}
			}
		}
	}
	if record.To != "" {
		at, err := url.Parse(form.Action)
		if err != nil {
			return nil, err
		}
		if at, err = at.Parse(record.To); err != nil {
			return nil, err
		}
		form.Action = at.String()
	}
	before.Form = &form
	return back, nil
}

// onward is the page that the step before led to. stop says why there is nothing to fill in on it: a rejection on a page of its own, where
// nothing is promised of the form, leaves nothing to correct.
func (a *Attempt) onward() (before *observation.Page, stop *judge.Judgement) {
	n := len(a.seen)
	if n > 0 && a.seen[n-1].After != nil && a.seen[n-1].After.Form != nil {
		return a.seen[n-1].After, nil
	}
	if n > 0 && a.seen[n-1].ByScript() && !a.Case.InBrowser() {
		return nil, judge.Inapplicable("a script makes the form, and its answer over HTTP holds none")
	}
	const why = "the answer to the step before does not hold the form"
	if last := a.Result.Steps; len(last) > 0 {
		step := &last[len(last)-1]
		if e := step.Expectation; e != nil && e.Outcome == oracle.RejectedByServer && len(e.Refilled) == 0 && step.Judgement.Checks[0].Verdict == judge.AsExpected {
			return nil, judge.Inapplicable(why + ", and the document says nothing about it")
		}
	}
	return nil, judge.Unobserved(why)
}

// pageFor is the page on which a step is filled in. stop says why there is none.
func (a *Attempt) pageFor(ctx context.Context, s *testcase.Step) (before *observation.Page, stop *judge.Judgement, err error) {
	if s.OnResultPage {
		before, stop = a.onward()
		return before, stop, nil
	}
	if s.Back && len(a.seen) > 0 {
		return a.seen[len(a.seen)-1].Before, nil, nil
	}
	before, failure, err := a.Open(ctx)
	if failure != "" {
		stop = judge.Unobserved(failure)
	}
	return before, stop, err
}

// address is that of the form's page, in the language that the case asks for by it.
func (a *Attempt) address() string {
	page, choice := a.Target.Form.Form.Page, a.Target.Config.Site.LanguageChoice
	if a.Case == nil || choice == nil { // who tries values makes no case
		return page
	}
	switch a.Case.ChosenBy {
	case spec.ByQuery:
		sign := "?"
		if strings.Contains(page, "?") {
			sign = "&"
		}
		return page + sign + choice.Query + "=" + a.Case.Language
	case spec.ByPath:
		return strings.ReplaceAll(choice.Path, "{language}", a.Case.Language) + page
	}
	return page
}

// language is what the visitor asks for.
func (a *Attempt) language() string {
	if a.Case.Language != "" {
		return a.Case.Language
	}
	return a.Target.Config.Site.BrowserLanguage()
}
