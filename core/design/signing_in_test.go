package design_test

import (
	"fmt"
	"strings"
	"testing"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

const enter = `form: enter
page: /enter
before: {sign_in_with: keeper}
fields:
  - {id: next, name: next, kind: hidden}
  - {id: who, name: who, normalize: [trim], rules: [{required: {}}]}
  - {id: word, name: word, kind: password, rules: [{required: {}}, {matches_secret: {stored: keepers.word, of: who, ignoring: [case], message: No.}}]}
accepted: {status: 303, to: /in, session: {signed_in: keeper, return_to: {field: next, to: /log}, lock: {after: 3, message: Locked.}}}
`

func casesOf(t *testing.T, form string, site *spec.Site) (map[string]*testcase.Case, []testcase.Omission) {
	d, err := design.New(prepared(t, form), site)
	require.NoError(t, err)
	all, omitted := d.Cases(testcase.Standard)
	out := map[string]*testcase.Case{}
	for _, c := range all {
		out[c.ID] = c
	}
	return out, omitted
}

func TestCasesOfSigningIn(t *testing.T) {
	t.Parallel()
	all, omitted := casesOf(t, enter, &spec.Site{Accounts: []spec.Account{{ID: "keeper", MayBeLocked: true}}})
	require.Empty(t, omitted)
	for id, want := range map[string]oracle.Outcome{
		"enter/who.valid/http":                  oracle.Accepted,
		"enter/who.unknown/http":                oracle.RejectedByServer,
		"enter/who.name.case/http":              oracle.Accepted,
		"enter/who.name.around/http":            oracle.Accepted,
		"enter/word.matches_secret.other/http":  oracle.RejectedByServer,
		"enter/word.matches_secret.case/http":   oracle.RejectedByServer,
		"enter/word.matches_secret.around/http": oracle.RejectedByServer,
		"enter/form.onward/http":                oracle.Accepted,
		"enter/form.onward_elsewhere/http":      oracle.Accepted,
		"enter/form.lock/http":                  oracle.RejectedByServer,
	} {
		require.Contains(t, all, id)
		require.Equal(t, want, all[id].Last().Expect, id)
	}
	require.NotContains(t, all, "enter/next.altered/http", "where one wants to go may be any page")
	lock := all["enter/form.lock/http"]
	require.Len(t, lock.Steps, 4)
	require.True(t, lock.LockableAccount)
	require.True(t, lock.Steps[2].SetupOnly)
	require.Equal(t, []string{"locked"}, lock.Last().Breaks)
	_, omitted = casesOf(t, enter, nil)
	require.Len(t, omitted, 1, "without an account that may be locked none is")
	require.Contains(t, omitted[0].Why, "may_be_locked: true")
	spare := &spec.Site{Accounts: []spec.Account{{ID: "keeper", MayBeLocked: true}}}
	all, _ = casesOf(t, strings.Replace(enter, "message: Locked.", "message: Locked., released: 2s", 1), spare)
	require.InDelta(t, 2.5, all["enter/form.lock_released/http"].Last().Wait, 0)
	require.Equal(t, oracle.Accepted, all["enter/form.lock_released/http"].Last().Expect)
	_, omitted = casesOf(t, strings.Replace(enter, "message: Locked.", "message: Locked., released: 15m", 1), spare)
	require.Equal(t, []testcase.Omission{{About: "enter/form.lock_released/http", Role: "form.lock_released", Why: "the lock lasts 15m and a run waits at most 30s; test it by hand"}}, omitted)
}

func TestTheSameFormSentOnceMore(t *testing.T) {
	t.Parallel()
	const form = "form: log\npage: /log\nfields: [{id: what, name: what, rules: [{required: {}}%s]}]\naccepted: {status: 303, resubmitted: %s}\n"
	for again, want := range map[string]struct {
		rule    string
		outcome oracle.Outcome
	}{"rejected": {"", oracle.NothingFurther}, "accepted": {"", oracle.Accepted}, "accepted ": {", {unique: {column: logs.what}}", oracle.RejectedByServer}} {
		all, omitted := casesOf(t, fmt.Sprintf(form, want.rule, again), nil)
		require.Empty(t, omitted)
		sent := all["log/form.sent_again/http"]
		require.True(t, sent.Last().Back)
		require.Equal(t, oracle.Accepted, sent.Steps[0].Expect)
		require.Equal(t, want.outcome, sent.Last().Expect, again)
		require.NotContains(t, all, "log/form.sent_again/browser", "there going back may open the page anew")
	}
	all, _ := casesOf(t, "form: log\npage: /log\nfields: [{id: what, name: what}]\n", nil)
	require.NotContains(t, all, "log/form.sent_again/http", "nothing is said of it")
}

// TestWhereOneWantedToGo: to a page of the site, and never to another site.
func TestWhereOneWantedToGo(t *testing.T) {
	t.Parallel()
	p := prepared(t, enter)
	for to, want := range map[string]string{"": "/in", "/log": "/log", "https://elsewhere.invalid/": "/in", "//elsewhere.invalid": "/in", `/\elsewhere.invalid`: "/in", "log": "/in"} {
		sent := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "next", Value: to}, {Name: "who", Value: "mara"}, {Name: "word", Value: "x"}}}
		e := oracle.Expect(p, &oracle.World{Driver: submission.HTTP, LookupResults: map[string]bool{"word.matches_secret": true}}, sent)
		require.Equal(t, want, e.To, to)
		require.True(t, e.SignedIn)
	}
	locked := oracle.Expect(p, &oracle.World{Driver: submission.HTTP, AccountLocked: true}, &submission.Submission{Driver: submission.HTTP})
	require.Equal(t, "Locked.", locked.Messages[0].Text)
	require.Equal(t, []oracle.Failure{{Rule: "locked", Phase: "lookup", Cause: oracle.AccountLocked, N: 3}}, locked.Failing)
}

const own = `form: own
page: /own
before: {signed_in: keeper}
fields:
  - {id: key, name: key, kind: hidden}
  - {id: rank, name: rank, kind: readonly}
  - {id: mail, name: mail, kind: email, rules: [{required: {}}, {email: {}}, {unique: {column: keepers.mail}}]}
  - {id: present, name: present, kind: password, rules: [{required: {}}, {matches_secret: {stored: keepers.word}}]}
  - {id: next, name: next, kind: password, rules: [{required: {}}, {length: {min: 8, max: 20}}]}
accepted: {session: {others: ended}}
stored: [{update: keepers, row: signed_in, columns: {mail: {from: mail}, word: {secret: next}}}]
`

func TestCasesOfOnesOwnRow(t *testing.T) {
	t.Parallel()
	all, omitted := casesOf(t, own, nil)
	require.Empty(t, omitted)
	require.Equal(t, oracle.Accepted, all["own/mail.unique.own/http"].Last().Expect)
	require.Equal(t, []string{"mail.unique"}, all["own/mail.unique.anothers/http"].Last().Breaks)
	require.NotContains(t, all, "own/mail.unique.same/http", "the second time it is one's own")
	require.NotContains(t, all, "own/mail.unique.together/http", "one row is changed again and again")
	require.True(t, all["own/key.altered/http"].Last().Altered)
	require.True(t, all["own/rank.altered/http"].Last().Altered)
	require.True(t, all["own/form.other_sessions/http"].Last().WithSecondSession)
	require.Equal(t, oracle.Accepted, all["own/form.same_secret/http"].Last().Expect)
	sent := &submission.Submission{Driver: submission.HTTP, Altered: true, Pairs: []submission.Pair{{Name: "mail", Value: "a@b.test"}, {Name: "present", Value: "x"}, {Name: "next", Value: "Another-1"}}}
	e := oracle.Expect(prepared(t, own), &oracle.World{Driver: submission.HTTP, SignedIn: "7", LookupResults: map[string]bool{"present.matches_secret": true}}, sent)
	require.True(t, e.MayRefuse)
	require.Equal(t, "7", e.Rows[0].Key)
	require.True(t, e.OthersEnd)
}
