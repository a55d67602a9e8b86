package engine_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/engine/sweep"

	"github.com/stretchr/testify/require"
)

// oddAccess are the odd openings and what was odd of sessions, in words.
func oddAccess(r *sweep.AccessReport) []string {
	var out []string
	for _, o := range r.Openings {
		if o.Verdict != judge.AsExpected {
			out = append(out, strings.TrimSpace(fmt.Sprintf("%s: %s %s %s, %s %s", o.Verdict, o.Account, o.Page, o.Expected, o.Observed, o.Why)))
		}
	}
	for _, s := range r.Sessions {
		if s.Verdict != judge.AsExpected {
			out = append(out, strings.TrimSpace(fmt.Sprintf("%s: %s %s %s", s.Verdict, s.What, s.Observed, s.Why)))
		}
	}
	return out
}

func TestWhoMayOpenWhat(t *testing.T) {
	t.Parallel()
	for fault, want := range map[string][]string{
		"":                  nil,
		"members-open":      {"odd: members redirects to /sign-in, opens"},
		"members-either":    {"odd: fern members redirects to /wishes, opens as if member were (signed_in && confirmed_at != null) || wishes instead of signed_in && confirmed_at != null && wishes", "odd: briar members redirects to /awaiting, opens as if member were (signed_in && confirmed_at != null) || wishes instead of signed_in && confirmed_at != null && wishes"},
		"wishes-skipped":    {"odd: fern members redirects to /wishes, opens as if member were signed_in && confirmed_at != null instead of signed_in && confirmed_at != null && wishes"},
		"stewards-open":     {"odd: maple stewards is refused (403), opens", "odd: fern stewards is refused (403), opens", "odd: dew stewards is refused (403), opens", "odd: briar stewards is refused (403), opens", "odd: rowan stewards is refused (403), opens"},
		"other-record":      {"odd: maple record.others is refused (403), opens", "odd: fern record.others is refused (403), opens", "odd: dew record.others is refused (403), opens", "odd: briar record.others is refused (403), opens", "odd: rowan record.others is refused (403), opens"},
		"menu-stewards":     {"odd: menus join, me, members, password, stewards, waiting, wishes stewards is offered on /me", "odd: menus join, me, password, stewards, waiting, wishes stewards is offered on /me", "odd: menus join, me, password, stewards, waiting stewards is offered on /me", "odd: menus join, me, password, stewards, waiting stewards is offered on /me", "odd: menus join, me, members, password, stewards, waiting, wishes stewards is offered on /me"},
		"menu-members-lost": {"odd: menus join, me, password, waiting, wishes members is not offered on any page", "odd: menus join, me, password, waiting, wishes members is not offered on any page"},
		"cookie-trusted":    {"odd: cookie ostlewick with its first character changed opens", "odd: old cookies after signing out opens", "not observed: the back button after signing out the session is still open"},
		"back-shows":        {"odd: the back button after signing out /me is shown"},
		"sign-out-keeps":    {"odd: old cookies after signing out opens", "not observed: the back button after signing out the session is still open"},
	} {
		t.Run(fault, func(t *testing.T) {
			t.Parallel()
			var faults []string
			if fault != "" {
				faults = []string{fault}
			}
			r, err := sweep.Access(t.Context(), ostlewickProject(t, faults...).Site, sweep.Options{Timeout: 10 * time.Second})
			require.NoError(t, err)
			require.Empty(t, r.Lacking, "the accounts tell each slip")
			got := oddAccess(r)
			for i := range got {
				got[i] = strings.ReplaceAll(got[i], "  ", " ")
			}
			require.Len(t, got, len(want), strings.Join(got, "\n"))
			for i := range got {
				require.True(t, strings.HasPrefix(got[i], want[i]), got[i])
			}
		})
	}
}

// TestAnAccountThatCannotSignIn is tried once, and what it would open is not observed; the others are.
func TestAnAccountThatCannotSignIn(t *testing.T) {
	t.Parallel()
	project := ostlewickProject(t)
	project.Site.Accounts[0].Password = "wrong"
	r, err := sweep.Access(t.Context(), project.Site, sweep.Options{Timeout: 10 * time.Second})
	require.NoError(t, err)
	for _, o := range r.Openings {
		if o.Account == "maple" {
			require.Equal(t, judge.NotObserved, o.Verdict)
			require.Contains(t, o.Why, "the account maple cannot be signed in: the sign-in form is shown again: That name and that password")
			continue
		}
		require.Equal(t, judge.AsExpected, o.Verdict, "%s opens %s: %s", o.Account, o.Path, o.Why)
	}
	project.Site.Accounts[1].State = "member" // what is stored says otherwise
	r, err = sweep.Access(t.Context(), project.Site, sweep.Options{Timeout: 10 * time.Second})
	require.NoError(t, err)
	require.Contains(t, strings.Join(oddAccess(r), "\n"), "document: member; stored: confirmed")
}

// TestAnAccountThatMayBeLockedIsLeftOut where it cannot be signed in and another one is in its state; without such one it is not observed.
func TestAnAccountThatMayBeLockedIsLeftOut(t *testing.T) {
	t.Parallel()
	project := ostlewickProject(t)
	at := slices.IndexFunc(project.Site.Accounts, func(a spec.Account) bool { return a.MayBeLocked })
	locked := &project.Site.Accounts[at]
	locked.Password = "wrong"
	r, err := sweep.Access(t.Context(), project.Site, sweep.Options{Timeout: 10 * time.Second})
	require.NoError(t, err)
	require.Len(t, r.LeftOut, 1)
	require.Contains(t, string(r.LeftOut[0]), "the account "+locked.ID+" may be locked")
	require.Zero(t, r.Verdicts()[judge.NotObserved])
	for _, v := range r.Visitors {
		require.NotEqual(t, locked.ID, v.Account)
	}
	project.Site.Accounts = []spec.Account{*locked}
	r, err = sweep.Access(t.Context(), project.Site, sweep.Options{Timeout: 10 * time.Second})
	require.NoError(t, err)
	require.Empty(t, r.LeftOut)
	require.NotZero(t, r.Verdicts()[judge.NotObserved], "nobody else is in its state")
}

// TestAccessWithoutADatabase takes the document's word for each account's state; keys in paths are then not known.
func TestAccessWithoutADatabase(t *testing.T) {
	t.Parallel()
	project := ostlewickProject(t, "members-either")
	project.Site.Databases = nil
	r, err := sweep.Access(t.Context(), project.Site, sweep.Options{Timeout: 10 * time.Second})
	require.NoError(t, err)
	got := strings.Join(oddAccess(r), "\n")
	require.Contains(t, got, "odd: fern members redirects to /wishes, opens")
	require.Contains(t, got, "not observed: maple record")
	require.Contains(t, got, "the key of the account's row is not known")
	project.Site.States = nil
	_, err = sweep.Access(t.Context(), project.Site, sweep.Options{Timeout: time.Second})
	require.ErrorContains(t, err, "has no states or no pages")
}
