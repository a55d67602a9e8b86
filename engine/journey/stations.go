package journey

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"oddtick/core/access"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/template"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/engine/attempt"
	"oddtick/engine/driver"
	"oddtick/engine/sweep"
	"oddtick/engine/target"
)

// submit sends a form with usual values but for those that the step gives, and keeps who it makes. A code that is used up, or altered, is
// refused.
func (w *walk) submit(ctx context.Context, step wayStep, out *Station, n int) (why string, err error) {
	if step.SendsCode() && w.code == "" {
		return "no code has been read; wait for a mail with code:, or read it from a table with read:", nil
	}
	r := w.j.forms[step.Submit]
	if w.j.mails != nil {
		w.seen = w.j.mails.Count()
	}
	if _, err := r.AwaitForeign(ctx); err != nil {
		return "", err
	}
	c := usualCase(r, w.id)
	if c == nil {
		return "the form " + step.Submit + " has no typical submission", nil
	}
	if why := w.fillIn(r, c, step); why != "" {
		return why, nil
	}
	a := &attempt.Attempt{Target: r, Case: c, Number: 1, Watch: true, Visitor: r.OverHTTP(w.visitor), Result: &report.Result{Case: c.ID}}
	a.Env = testcase.Env{Run: r.Config.Number + int64(n), Rows: r.Rows}
	if w.signed {
		a.Account, a.Own = &w.person, true
		a.Env.Name, a.Env.Password = w.person.Name, w.person.Password
		r.OwnKey = w.key
	}
	if step.again || step.altered {
		a.Instead = refusal(step, w.j.site.BrowserLanguage(), "code")
	}
	result, err := a.Step(ctx, 0)
	if err != nil {
		return "", err
	}
	out.Judgement = result.Judgement
	wording.Step(r.Form, result.Expectation, out.Judgement)
	if result.Observation != nil {
		out.Changes = result.Observation.Changes
		w.keepWritten(out.Changes)
		w.remember(r, result.Observation)
	}
	return "", nil
}

// fillIn gives the usual submission what the step fills in.
func (w *walk) fillIn(r *target.Target, c *testcase.Case, step wayStep) (why string) {
	code := w.code
	if step.altered {
		code = altered(code)
	}
	first := &c.Steps[0]
	first.Inputs = slices.Clone(first.Inputs)
	for id, text := range step.With {
		fixed := testcase.Input{Field: id, Recipe: testcase.Recipe{Make: testcase.Fixed, Text: strings.ReplaceAll(text, spec.TheCode, code)}}
		at := slices.IndexFunc(first.Inputs, func(in testcase.Input) bool { return in.Field == id })
		switch {
		case r.Form.Field(id) == nil:
			return fmt.Sprintf("the form %s has no field %s, which the journey fills in", step.Submit, id)
		case at < 0:
			first.Inputs = append(first.Inputs, fixed)
		default:
			first.Inputs[at] = fixed
		}
	}
	return ""
}

// codeIn is the first text that a pattern finds in a mail; of a pattern with a group, what the group holds.
func codeIn(text, pattern string) (code, why string) {
	p, err := regexp.Compile(pattern)
	if err != nil {
		return "", fmt.Sprintf("the code's pattern cannot be read: %s", err)
	}
	found := p.FindStringSubmatch(text)
	if found == nil {
		return "", fmt.Sprintf("nothing in the mail matches %s", pattern)
	}
	return found[min(1, len(found)-1)], ""
}

// readCode reads a code from the row of whomever the journey has made.
func (w *walk) readCode(ctx context.Context, at *spec.CodeRow) (why string, err error) {
	table, column, _ := strings.Cut(at.Column, ".")
	r := w.any()
	if r == nil {
		return "the code is in a table, but no database is watched", nil
	}
	db, can := r.Databases.Of(table).(target.Finder)
	if !can {
		return "the table " + table + " can be compared, but no row of it be looked up", nil
	}
	is := strings.NewReplacer("{key}", w.key, "{name}", w.person.Name, "{mail}", w.person.Mail).Replace(cmp.Or(at.Is, "{key}"))
	row, err := db.Find(ctx, table, observation.Cell{Column: at.Where, Value: is})
	if err != nil {
		return "", err
	}
	cell, ok := observation.CellOf(row, column)
	if !ok || cell.Null || cell.Value == "" {
		return fmt.Sprintf("%s holds no code where %s is %s", at.Column, at.Where, is), nil
	}
	w.code = cell.Value
	return "", nil
}

// usualCase is the case of a form's usual submission, whose values are another's in each walk; nil where there is none.
func usualCase(t *target.Target, walk string) *testcase.Case {
	all, _ := t.Config.Designer.Cases(testcase.Quick)
	for _, c := range all {
		if c.Last().Driver == submission.HTTP && c.CoversThis(testcase.CoversPartition, "form", testcase.ValidPoint) {
			mine := *c
			mine.ID += "#" + walk
			return &mine
		}
	}
	return nil
}

// remember takes from an accepted submission who the visitor is: name, secret and address, and the key of the row.
func (w *walk) remember(r *target.Target, o *observation.Step) {
	normal := func(f *spec.PreparedField) string {
		if f == nil {
			return ""
		}
		text, present := o.Sent.Of(f)
		v := f.ValueOf(text, present)
		return v.Normal
	}
	for _, f := range r.Form.Fields {
		if f.Kind == spec.Email {
			w.person.Mail = normal(f)
		}
	}
	table := w.j.site.Visitors
	if table == nil {
		return
	}
	for i := range r.Form.Form.Stored {
		st := &r.Form.Form.Stored[i]
		if st.Insert != table.Table {
			continue
		}
		for _, c := range st.Sorted() {
			if c.Name == table.Name && c.From != "" {
				w.person.ID, w.person.Name = spec.NewMember, normal(r.Form.Field(c.From))
			}
			if f := r.Form.Field(c.Secret); f != nil {
				w.person.Password, _ = o.Sent.Of(f)
				w.secret = w.person.Password
			}
		}
		for _, ch := range o.Changes {
			if key, ok := observation.CellOf(ch.After, table.Key); ok && ch.Table == table.Table && ch.Kind == observation.Inserted {
				w.key = key.Value
			}
		}
	}
}

// wait waits for the mail, and looks for secrets in it.
func (w *walk) wait(ctx context.Context, out *Station) (why string) {
	if w.j.mails == nil {
		return "no mail is received; write mail: with receive: 127.0.0.1:PORT in the site document, and let the site send its mail there"
	}
	ctx, stop := context.WithTimeout(ctx, w.j.Patience)
	defer stop()
	m, ok := w.j.mails.Wait(ctx, w.seen, w.person.Mail)
	if !ok {
		return fmt.Sprintf("no mail to %s came within %s", w.person.Mail, w.j.Patience)
	}
	w.mailed = &m
	if m.Failure != "" {
		return "the mail cannot be read: " + m.Failure
	}
	form := judge.Shown(w.secret, m.Subject+"\n"+m.Text)
	nowhere := judge.Value{Is: judge.Nowhere}
	p := judge.Part{Subject: judge.Subject{Aspect: judge.InMail}, Verdict: judge.AsExpected, Expected: nowhere, Observed: nowhere}
	if form != "" {
		p.Verdict, p.Difference, p.Observed = judge.Odd, judge.SecretShown, judge.Value{Is: judge.InMailText, Of: form}
	}
	out.State = append(out.State, p)
	return ""
}

// open opens a page, or follows the mail's link, and judges what that does.
func (w *walk) open(ctx context.Context, s wayStep, out *Station) (why string, err error) {
	target := s.Open
	if s.Open == spec.TheLink {
		if target, why = w.link(); why != "" {
			return why, nil
		}
		if s.altered {
			target = altered(target)
		}
	} else {
		for _, p := range w.j.site.Pages {
			if p.ID == s.Open {
				target = p.Path
			}
		}
		target = w.fill(target)
	}
	r := w.any()
	if r != nil {
		if _, err := r.AwaitForeign(ctx); err != nil {
			return "", err
		}
	}
	exchanges, err := w.visitor.Open(ctx, target)
	o := &observation.Step{At: time.Now().UTC(), Exchanges: exchanges, Changes: []observation.Change{}, CookiesAfter: w.visitor.CookieDigests()}
	if err != nil {
		o.Failure = err.Error()
		if len(exchanges) == 0 {
			o.Exchanges = []observation.Exchange{}
		}
	} else {
		at := &driver.OverHTTP{Visitor: w.visitor}
		v, _ := at.Visited(exchanges, nil)
		o.After, _ = v.Page() // what cannot be read is no page
	}
	if r != nil {
		o.Watched = r.Databases.Tables()
		if o.Changes, err = r.Changes(ctx); err != nil {
			return "", err
		}
		if o.Changes == nil {
			o.Changes = []observation.Change{}
		}
	}
	out.Changes = o.Changes
	p, err := w.stationForm(s.JourneyStep)
	if err != nil {
		return "", err
	}
	if len(s.Stored) == 0 && s.Message == nil && !s.again && !s.altered {
		return w.merely(o, out), nil
	}
	o.Sent = &submission.Submission{Driver: submission.HTTP}
	e := oracle.Expect(p, &oracle.World{Now: o.At, Language: w.j.site.BrowserLanguage(), Driver: submission.HTTP, SignedIn: w.key}, o.Sent)
	if s.again || s.altered {
		e = refusal(s, w.j.site.BrowserLanguage(), "link")
	}
	out.Judgement = judge.Judge(p, e, o, nil)
	wording.Step(p, e, out.Judgement)
	return "", nil
}

// merely: of a page that is only opened, no more is judged than that it is answered.
func (w *walk) merely(o *observation.Step, out *Station) (why string) {
	if o.Failure != "" {
		return o.Failure
	}
	final := o.Final()
	p := judge.Part{Subject: judge.Subject{Aspect: judge.PageOpens}, Verdict: judge.AsExpected, Expected: judge.Value{Is: judge.APage}, Observed: judge.Value{Is: judge.StatusIs, N: final.Status}}
	if final.Status >= 400 {
		p.Verdict, p.Difference = judge.Odd, judge.DoesNotOpen
	}
	out.State = append(out.State, p)
	return ""
}

// stationForm is a step that opens a page as a form without fields, so that it is judged as one.
func (w *walk) stationForm(s *spec.JourneyStep) (*spec.Prepared, error) {
	step := *s
	if s.Message != nil {
		m := *s.Message
		m.Text, m.Part, m.Texts = w.fill(m.Text), w.fill(m.Part), maps.Clone(m.Texts)
		for language, text := range m.Texts {
			m.Texts[language] = w.fill(text)
		}
		step.Message = &m
	}
	return step.AsForm().Prepare()
}

// fill puts what the journey knows into a text's places.
func (w *walk) fill(text string) string {
	return template.Fill(text, func(name string) (string, bool) {
		value, known := map[string]string{"key": w.key, "name": w.person.Name, "mail": w.person.Mail}[name]
		if !known {
			value, known = w.wrote[name]
		}
		return value, known && value != ""
	})
}

// keepWritten keeps what was written, for the places of later steps.
func (w *walk) keepWritten(changes []observation.Change) {
	if w.wrote == nil {
		w.wrote = map[string]string{}
	}
	for i := range changes {
		for _, cell := range changes[i].After {
			if !cell.Null {
				w.wrote[changes[i].Table+"."+cell.Column] = cell.Value
			}
		}
	}
}

// refusal is what comes of a link or code that is used up, or not one of the site's: nothing changes, and something is said.
func refusal(s wayStep, language, what string) *oracle.Expectation {
	cause := oracle.NotTheSites
	e := &oracle.Expectation{Outcome: oracle.RejectedByServer}
	if s.again {
		cause = oracle.UsedUp
	}
	if s.MessageIfInvalid != nil && (s.again || what == "code") {
		m := submission.Message{Rule: what, Place: spec.OnNextPage, Says: s.MessageIfInvalid}
		m.Text, _ = s.MessageIfInvalid.In(language)
		e.Messages = []submission.Message{m}
	}
	e.Failing = []oracle.Failure{{Rule: what, Phase: spec.PhaseLookup.String(), Cause: cause}}
	return e
}

// link is the first link of the mail that leads to the site, as a path.
func (w *walk) link() (path, why string) {
	if w.mailed == nil {
		return "", "no mail with a link has arrived"
	}
	for _, l := range w.mailed.Links {
		u, err := url.Parse(l)
		if err == nil && w.j.client.Allowed(u.Host) {
			return l, ""
		}
	}
	return "", "the mail has no link to the site: " + strings.Join(w.mailed.Links, ", ")
}

// altered changes the last letter or digit of a link or code.
func altered(text string) string {
	for i := len(text) - 1; i > 0; i-- {
		if sweep.Alphanumeric(text[i]) {
			return text[:i] + sweep.Alterations(text[i : i+1])[0] + text[i+1:]
		}
	}
	return text
}

// any is some form's run, for its databases; nil where there is none.
func (w *walk) any() *target.Target {
	for _, s := range w.journey.Steps {
		if r := w.j.forms[s.Submit]; r != nil && len(r.Databases) > 0 {
			return r
		}
	}
	return nil
}

func (w *walk) signIn(ctx context.Context, id string) (why string) {
	who := &w.person
	if id != spec.NewMember {
		for i := range w.j.site.Accounts {
			if w.j.site.Accounts[i].ID == id {
				who = &w.j.site.Accounts[i]
			}
		}
	}
	if who.Name == "" {
		return "no user was created on this journey; name the table that holds visitors and the column of their name"
	}
	if err := target.SignInAs(ctx, w.visitor, w.j.site, who); err != nil {
		return "signing in: " + err.Error()
	}
	w.person, w.signed = *who, true
	return ""
}

// reached judges whether the visitor is in a state now: by what is stored, and, for whoever is signed in, by the pages that open.
func (w *walk) reached(ctx context.Context, state string, out *Station) {
	var dbs target.Databases
	if r := w.any(); r != nil {
		dbs = r.Databases
	}
	v := access.Visitor{Account: w.person.ID, State: state}
	sw := sweep.AsOne(w.j.site, w.j.matrix, w.j.client, dbs, v, w.key, w.visitor)
	if w.person.Name != "" && w.j.site.Visitors != nil && len(dbs) > 0 {
		facts, err := sw.Facts(ctx, &w.person)
		part := judge.Part{Subject: judge.Subject{Aspect: judge.VisitorState}, Expected: judge.Value{Is: judge.StateIs, Of: state}}
		is := access.Visitor{Account: w.person.ID}
		w.j.matrix.Place(&is, facts, "")
		switch {
		case err != nil:
			part.Verdict, part.Why = judge.NotObserved, judge.Value{Is: judge.Because, Text: err.Error()}
		case is.State == "":
			part.Verdict, part.Why = judge.NotObserved, judge.Value{Is: judge.VisitorNotKnown}
		case is.State == state:
			part.Verdict, part.Observed = judge.AsExpected, judge.Value{Is: judge.StateIs, Of: is.State}
		default:
			part.Verdict, part.Difference, part.Observed = judge.Odd, judge.OtherState, judge.Value{Is: judge.StateIs, Of: is.State}
		}
		out.State = append(out.State, part)
	}
	if !w.signed {
		return
	}
	for _, p := range w.j.matrix.Pages() {
		if p.Others {
			continue
		}
		o := sw.Open(ctx, &v, p)
		part := judge.Part{Subject: judge.Subject{Aspect: judge.PageAccess, Member: p.ID}, Verdict: o.Verdict, Expected: wording.Value(judge.OpensAs, o.Expected), Observed: wording.Value(judge.OpensAs, o.Observed)}
		if o.Why != "" {
			part.Why = wording.Value(judge.Because, o.Why)
		}
		if o.Verdict == judge.Odd {
			part.Difference = judge.OtherAccess
		}
		out.State = append(out.State, part)
	}
}
