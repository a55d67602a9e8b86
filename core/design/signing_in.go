package design

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"oddtick/core/address"
	"oddtick/core/spec"
)

// signingIn are cases about a form that signs in or changes a secret: where one goes afterwards, the account's other sessions, and
// its lock.
func (s *sheet) signingIn() {
	p := s.d.p
	submit := func(replace map[string]Recipe) Step {
		return Step{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, replace)}
	}
	form := func(depth Depth, role, title string, at float64, steps ...Step) {
		s.add(depth, &Case{ID: s.id("form." + role), Title: title, Row: RowForm, Technique: ErrorGuessing, Covers: cover(CoversGuess, "form", role), Mark: Mark{"session", at, role}, Steps: steps})
	}
	s.newSecretIsTheOld(form, submit)
	session := p.Form.Accepted.Session
	if session == nil {
		return
	}
	if o := session.Onward; o != nil {
		to := func(page string) Step { return submit(map[string]Recipe{o.Field: {Make: Fixed, Text: page}}) }
		form(Standard, "onward", "to the page that was wanted", 1, to(o.To))
		for i, e := range elsewhere {
			depth := Standard
			if i == 0 {
				depth = Quick
			}
			form(depth, "onward_"+e.role, "never to another site, written "+e.title, 2+float64(i)/10, to(e.address))
		}
	}
	if session.Others == "ended" {
		beside := submit(nil)
		beside.Beside = true
		form(Quick, "other_sessions", "another session of the account stands by", 4, beside)
	}
	s.lock(session.Lock)
}

// elsewhere are ways to write another site's address that a browser follows, or that a site may make one of.
var elsewhere = []struct{ role, title, address string }{
	{"elsewhere", "whole", "https://elsewhere.invalid/"},
	{"slashes", "with two slashes", "//elsewhere.invalid/"},
	{"backslash", "with a backslash", `/\elsewhere.invalid/`},
	{"backslashes", "with two backslashes", `\\elsewhere.invalid/`},
	{"no_slashes", "without slashes", "https:elsewhere.invalid/"},
	{"tab", "with a tab between the slashes", "/\t/elsewhere.invalid/"},
	{"encoded", "with encoded slashes", "%2F%2Felsewhere.invalid/"},
	{"user", "behind a name that looks like the site", "//site@elsewhere.invalid/"},
}

// newSecretIsTheOld: where the present secret is asked for beside a new one, the new may be the same again, and is stored with
// another salt.
func (s *sheet) newSecretIsTheOld(form func(Depth, string, string, float64, ...Step), submit func(map[string]Recipe) Step) {
	for _, st := range s.d.p.Form.Stored {
		for _, c := range st.Sorted() {
			f := s.d.p.Field(c.Secret)
			asked := slices.ContainsFunc(s.d.p.Rules, func(r *spec.PreparedRule) bool {
				return r.Kind == spec.RuleMatches && r.Table == st.Table() && r.Column == c.Name
			})
			if f != nil && asked && st.Update != "" && rule(f, spec.RuleDiffers) == nil {
				form(Standard, "same_secret", f.Label+": the present one again", 5, submit(map[string]Recipe{f.ID: {Make: OfAccount}}))
				return
			}
		}
	}
}

// lock gives an account that may be locked so many wrong passwords that the right one is not taken any more.
func (s *sheet) lock(lock *spec.Lock) {
	if lock == nil {
		return
	}
	i := slices.IndexFunc(s.d.p.Rules, func(r *spec.PreparedRule) bool { return r.Kind == spec.RuleMatches && r.Other != nil })
	if i < 0 {
		return
	}
	if !s.d.spare {
		s.omitted = append(s.omitted, Omission{About: s.id("form.lock"), Why: "the site document names no account that may be locked; say spare: true at one"})
		return
	}
	secret := s.d.p.Rules[i].Field
	var steps []Step
	for range lock.After {
		steps = append(steps, Step{Do: Submit, Driver: s.driver, Aside: true, Inputs: s.inputs(0, map[string]Recipe{secret.ID: {Make: Fresh}})})
	}
	right := Step{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, nil)}
	add := func(depth Depth, role, title string, at float64, last Step) {
		s.add(depth, &Case{
			ID: s.id("form." + role), Title: title, Row: RowForm, Technique: Transitions, Spare: true,
			Covers: cover(CoversGuess, "form", role), Mark: Mark{"session", at, strings.ReplaceAll(role, "_", " ")}, Steps: append(slices.Clone(steps), last),
		})
	}
	locked := right
	locked.Locked = true
	add(Quick, "lock", fmt.Sprintf("the right password after %d wrong ones", lock.After), 6, locked)
	switch lasts := lock.Lasts(); {
	case lasts > longestWait:
		s.omitted = append(s.omitted, Omission{About: s.id("form.lock_released"), Why: fmt.Sprintf("the lock lasts %s, and a run waits %s at most; try it by hand", lock.Released, longestWait)})
	case lasts > 0:
		right.Wait = (lasts + waitedBeyond).Seconds()
		add(Standard, "lock_released", fmt.Sprintf("the right password %s after %d wrong ones", lock.Released, lock.After), 7, right)
	}
}

// longestWait is how long a case waits at most, and waitedBeyond how much longer than is promised: a server's clock counts from a
// little later.
const (
	longestWait  = 30 * time.Second
	waitedBeyond = time.Second / 2
)

// leadsOn are the usual names of hidden fields that hold the page one comes to afterwards.
var leadsOn = []string{"next", "return", "return_to", "returnto", "return_url", "returnurl", "redirect", "redirect_to", "redirect_url", "redirect_uri", "goto", "url", "continue", "back", "backurl", "dest", "destination", "target", "forward", "success_url", "referer", "referrer"}

// addresses puts another site's address into hidden fields that hold one: a site refuses it, or stays where it is.
func (s *sheet) addresses() {
	session := s.d.p.Form.Accepted.Session
	for _, f := range s.d.p.Fields {
		onward := session != nil && session.Onward != nil && session.Onward.Field == f.ID
		holds := address.IsAddress(f.Value) || slices.Contains(leadsOn, strings.ToLower(f.Name)) || slices.Contains(leadsOn, strings.ToLower(f.ID))
		if f.Kind != spec.Hidden || onward || !holds {
			continue
		}
		for i, e := range elsewhere {
			s.alteration(Standard, f, "altered_"+e.role, "another site's address, written "+e.title, 204+float64(i), map[string]Recipe{f.ID: {Make: Fixed, Text: e.address}})
		}
	}
}

// altered changes values that the page does not let a visitor change: a site refuses them, or lets them be. A hidden value that says
// whose record is meant is also sent without the read-only ones, which may say so too and would give it away.
func (s *sheet) altered() {
	var readOnly []string
	for _, f := range s.d.p.Fields {
		if f.Kind == spec.ReadOnly && s.onlySent(f) {
			readOnly = append(readOnly, f.ID)
		}
	}
	for _, f := range s.d.p.Fields {
		if f.Kind != spec.ReadOnly && f.Kind != spec.Hidden || !s.onlySent(f) {
			continue
		}
		changes := map[string]Recipe{f.ID: {Make: OnPage, Change: Another}}
		s.alteration(Quick, f, "altered", "altered, though the page does not let one", 203, changes)
		if f.Kind == spec.Hidden && len(readOnly) > 0 {
			for _, id := range readOnly {
				changes[id] = Recipe{Make: Absent}
			}
			s.alteration(Standard, f, "altered_alone", "altered, and what is read-only left out", 203.5, changes)
		}
	}
}

func (s *sheet) alteration(depth Depth, f *spec.PreparedField, role, title string, at float64, changes map[string]Recipe) {
	step := Step{Do: Submit, Driver: s.driver, Altered: true, Inputs: s.inputs(0, changes)}
	s.add(depth, &Case{
		ID: s.id(f.ID + "." + role), Title: f.Label + ": " + title, Row: f.ID, Technique: ErrorGuessing,
		Covers: cover(CoversGuess, f.ID, role), Mark: Mark{"guessed", at, strings.ReplaceAll(role, "_", " ")}, Steps: []Step{step},
	})
}

// onlySent: the field's value goes along with the submission, and nothing stored is promised to be it.
func (s *sheet) onlySent(f *spec.PreparedField) bool {
	session := s.d.p.Form.Accepted.Session
	return !(session != nil && session.Onward != nil && session.Onward.Field == f.ID) &&
		!slices.ContainsFunc(s.d.p.Form.Stored, func(st spec.Stored) bool {
			return slices.ContainsFunc(st.Sorted(), func(c spec.NamedSource) bool { return c.From == f.ID })
		})
}
