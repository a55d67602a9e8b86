package design

import (
	"slices"
	"strings"
	"time"

	"oddtick/core/address"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// signingIn are cases about a form that signs in or changes a secret: where one goes afterwards, the account's other sessions, and
// its lock.
func signingIn(b *testcase.Builder) {
	p := b.Maker.Form
	submit := func(replace map[string]testcase.Recipe) testcase.Step {
		return testcase.Step{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, replace)}
	}
	form := func(depth testcase.Depth, role string, title prose.Text, at float64, steps ...testcase.Step) {
		b.Add(depth, &testcase.Case{ID: b.ID("form." + role), Title: title, Row: testcase.RowForm, Technique: testcase.ErrorGuessing, Covers: testcase.Covering(testcase.CoversGuess, "form", role), Mark: testcase.Mark{Scale: "session", At: at, Label: strings.ReplaceAll(role, "_", " ")}, Steps: steps})
	}
	newSecretIsTheOld(b, form, submit)
	session := p.Form.Accepted.Session
	if session == nil {
		return
	}
	if o := session.ReturnTo; o != nil {
		to := func(page string) testcase.Step {
			return submit(map[string]testcase.Recipe{o.Field: {Make: testcase.Fixed, Text: page}})
		}
		form(testcase.Standard, "onward", phrases.ToWantedPage.Text(), 1, to(o.To))
		for i, e := range elsewhere {
			depth := testcase.Standard
			if i == 0 {
				depth = testcase.Quick
			}
			form(depth, "onward_"+e.role, phrases.NeverElsewhere.With("how", e.how.Text()), 2+float64(i)/10, to(e.address))
		}
	}
	if session.Others == "ended" {
		beside := submit(nil)
		beside.WithSecondSession = true
		form(testcase.Quick, "other_sessions", phrases.OtherSession.Text(), 4, beside)
	}
	lock(b, session.Lock)
}

// elsewhere are ways to write another site's address that a browser follows, or that a site may make one of.
var elsewhere = []struct {
	role    string
	how     phrases.Phrase
	address string
}{
	{"elsewhere", phrases.WrittenWhole, "https://elsewhere.invalid/"},
	{"slashes", phrases.WrittenSlashes, "//elsewhere.invalid/"},
	{"backslash", phrases.WrittenBackslash, `/\elsewhere.invalid/`},
	{"backslashes", phrases.TwoBackslashes, `\\elsewhere.invalid/`},
	{"no_slashes", phrases.WithoutSlashes, "https:elsewhere.invalid/"},
	{"tab", phrases.WithTab, "/\t/elsewhere.invalid/"},
	{"encoded", phrases.EncodedSlashes, "%2F%2Felsewhere.invalid/"},
	{"user", phrases.BehindAName, "//site@elsewhere.invalid/"},
}

// newSecretIsTheOld: where the present secret is asked for beside a new one, the new may be the same again, and is stored with
// another salt.
func newSecretIsTheOld(b *testcase.Builder, form func(testcase.Depth, string, prose.Text, float64, ...testcase.Step), submit func(map[string]testcase.Recipe) testcase.Step) {
	for _, st := range b.Maker.Form.Form.Stored {
		for _, c := range st.Sorted() {
			f := b.Maker.Form.Field(c.Secret)
			asked := slices.ContainsFunc(b.Maker.Form.Rules, func(r *spec.PreparedRule) bool {
				return r.Kind == spec.RuleMatchesSecret && r.Table == st.Table() && r.Column == c.Name
			})
			if f != nil && asked && st.Update != "" && testcase.RuleOf(f, spec.RuleDifferentFrom) == nil {
				form(testcase.Standard, "same_secret", phrases.PresentOneAgain.With("label", f.Label), 5, submit(map[string]testcase.Recipe{f.ID: {Make: testcase.OfAccount}}))
				return
			}
		}
	}
}

// lock gives an account that may be locked so many wrong passwords that the right one is not taken any more.
func lock(b *testcase.Builder, lock *spec.Lock) {
	if lock == nil {
		return
	}
	i := slices.IndexFunc(b.Maker.Form.Rules, func(r *spec.PreparedRule) bool { return r.Kind == spec.RuleMatchesSecret && r.Other != nil })
	if i < 0 {
		return
	}
	if !b.Maker.HasLockableAccount {
		b.OmitCase("form.lock", phrases.NoAccountToLock.Text())
		return
	}
	secret := b.Maker.Form.Rules[i].Field
	var steps []testcase.Step
	for range lock.After {
		steps = append(steps, testcase.Step{Do: testcase.Submit, Driver: b.Driver, SetupOnly: true, Inputs: b.Inputs(0, map[string]testcase.Recipe{secret.ID: {Make: testcase.Fresh}})})
	}
	right := testcase.Step{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, nil)}
	add := func(depth testcase.Depth, role string, title prose.Text, at float64, last testcase.Step) {
		b.Add(depth, &testcase.Case{
			ID: b.ID("form." + role), Title: title, Row: testcase.RowForm, Technique: testcase.Transitions, LockableAccount: true,
			Covers: testcase.Covering(testcase.CoversGuess, "form", role), Mark: testcase.Mark{Scale: "session", At: at, Label: strings.ReplaceAll(role, "_", " ")}, Steps: append(slices.Clone(steps), last),
		})
	}
	locked := right
	locked.AccountLocked = true
	add(testcase.Quick, "lock", phrases.LockedOut.With("n", lock.After), 6, locked)
	switch lasts := lock.Lasts(); {
	case lasts > maxWait:
		b.OmitCase("form.lock_released", phrases.LockTooLong.With("time", lock.Released, "most", maxWait))
	case lasts > 0:
		right.Wait = (lasts + waitedBeyond).Seconds()
		add(testcase.Standard, "lock_released", phrases.LockReleased.With("time", lock.Released, "n", lock.After), 7, right)
	}
}

// maxToSend is how many submissions a case makes within a minute.
const maxToSend = 60

// tooMany submits as often as is accepted within a minute, and once more. It begins after a minute in which nothing is submitted.
func tooMany(b *testcase.Builder) {
	n := b.Maker.Form.Form.Accepted.MaxPerMinute
	switch {
	case n <= 0 || b.Driver != submission.HTTP:
		return
	case n > maxToSend:
		b.OmitCase("form.too_many", phrases.TooManyToSend.With("n", n, "most", maxToSend))
		return
	}
	steps := make([]testcase.Step, n+1)
	for i := range steps {
		steps[i] = testcase.Step{Do: testcase.Submit, Driver: b.Driver, SetupOnly: i < n-1, Inputs: b.Inputs(i, nil)}
	}
	steps[0].Wait = (time.Minute + waitedBeyond).Seconds()
	steps[n].TooMany = true
	b.Add(testcase.Standard, &testcase.Case{
		ID: b.ID("form.too_many"), Title: phrases.TooManyAccepted.With("n", n), Row: testcase.RowForm, Technique: testcase.Boundaries,
		Covers: testcase.Covering(testcase.CoversGuess, "form", "too many"), Mark: testcase.Mark{Scale: "requests", At: 60, Label: "too many"}, Steps: steps,
	})
}

// maxWait is how long a case waits at most, and waitedBeyond how much longer than is promised: a server's clock counts from a
// little later.
const (
	maxWait      = 30 * time.Second
	waitedBeyond = time.Second / 2
)

// leadsOn are the usual names of hidden fields that hold the page one comes to afterwards.
var leadsOn = []string{"next", "return", "return_to", "returnto", "return_url", "returnurl", "redirect", "redirect_to", "redirect_url", "redirect_uri", "goto", "url", "continue", "back", "backurl", "dest", "destination", "target", "forward", "success_url", "referer", "referrer"}

// addresses puts another site's address into hidden fields that hold one: a site refuses it, or stays where it is.
func addresses(b *testcase.Builder) {
	session := b.Maker.Form.Form.Accepted.Session
	for _, f := range b.Maker.Form.Fields {
		onward := session != nil && session.ReturnTo != nil && session.ReturnTo.Field == f.ID
		holds := address.IsAddress(f.Value) || slices.Contains(leadsOn, strings.ToLower(f.Name)) || slices.Contains(leadsOn, strings.ToLower(f.ID))
		if f.Kind != spec.Hidden || onward || !holds {
			continue
		}
		for i, e := range elsewhere {
			alteration(b, testcase.Standard, f, "altered_"+e.role, phrases.AddressElsewhere.With("how", e.how.Text()), 204+float64(i), map[string]testcase.Recipe{f.ID: {Make: testcase.Fixed, Text: e.address}})
		}
	}
}

// altered changes values that the page does not let a visitor change: a site refuses them, or lets them be. A hidden value that says
// whose record is meant is also sent without the read-only ones, which may say so too and would give it away.
func altered(b *testcase.Builder) {
	var readOnly []string
	for _, f := range b.Maker.Form.Fields {
		if f.Kind == spec.Readonly && onlySent(b, f) {
			readOnly = append(readOnly, f.ID)
		}
	}
	for _, f := range b.Maker.Form.Fields {
		if f.Kind != spec.Readonly && f.Kind != spec.Hidden || !onlySent(b, f) {
			continue
		}
		changes := map[string]testcase.Recipe{f.ID: {Make: testcase.OnPage, Change: testcase.Another}}
		alteration(b, testcase.Quick, f, "altered", phrases.Altered.Text(), 203, changes)
		if f.Kind == spec.Hidden && len(readOnly) > 0 {
			for _, id := range readOnly {
				changes[id] = testcase.Recipe{Make: testcase.Absent}
			}
			alteration(b, testcase.Standard, f, "altered_alone", phrases.AlteredAlone.Text(), 203.5, changes)
		}
	}
}

func alteration(b *testcase.Builder, depth testcase.Depth, f *spec.PreparedField, role string, title prose.Text, at float64, changes map[string]testcase.Recipe) {
	step := testcase.Step{Do: testcase.Submit, Driver: b.Driver, Altered: true, Inputs: b.Inputs(0, changes)}
	b.Add(depth, &testcase.Case{
		ID: b.ID(f.ID + "." + role), Title: phrases.OfField.With("label", f.Label, "what", title), Row: f.ID, Technique: testcase.ErrorGuessing,
		Covers: testcase.Covering(testcase.CoversGuess, f.ID, role), Mark: testcase.Mark{Scale: "guessed", At: at, Label: strings.ReplaceAll(role, "_", " ")}, Steps: []testcase.Step{step},
	})
}

// onlySent: the field's value goes along with the submission, and nothing stored is promised to be it.
func onlySent(b *testcase.Builder, f *spec.PreparedField) bool {
	session := b.Maker.Form.Form.Accepted.Session
	return !(session != nil && session.ReturnTo != nil && session.ReturnTo.Field == f.ID) &&
		!slices.ContainsFunc(b.Maker.Form.Form.Stored, func(st spec.Stored) bool {
			return slices.ContainsFunc(st.Sorted(), func(c spec.NamedSource) bool { return c.From == f.ID })
		})
}
