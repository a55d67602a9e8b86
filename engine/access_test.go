package engine_test

import (
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/engine"

	"github.com/stretchr/testify/require"
)

// oddAccess are the odd openings and what was odd of sessions, in words.
func oddAccess(r *engine.AccessReport) []string {
	var out []string
	for _, o := range r.Openings {
		if o.Verdict != judge.AsExpected {
			out = append(out, strings.TrimSpace(string(o.Verdict)+": "+o.Account+" "+o.Page+" "+o.Expected+", "+o.Observed+" "+o.Why))
		}
	}
	for _, s := range r.Sessions {
		if s.Verdict != judge.AsExpected {
			out = append(out, strings.TrimSpace(string(s.Verdict)+": "+s.What+" "+s.Observed+" "+s.Why))
		}
	}
	return out
}

func TestWhoMayOpenWhat(t *testing.T) {
	t.Parallel()
	for fault, want := range map[string][]string{
		"":               nil,
		"members-open":   {"odd: members leads to /sign-in, opens"},
		"members-either": {"odd: fern members leads to /wishes, opens as if member were (signed_in && confirmed_at != null) || wishes, and not signed_in && confirmed_at != null && wishes", "odd: briar members leads to /awaiting, opens as if member were (signed_in && confirmed_at != null) || wishes, and not signed_in && confirmed_at != null && wishes"},
		"wishes-skipped": {"odd: fern members leads to /wishes, opens as if member were signed_in && confirmed_at != null, and not signed_in && confirmed_at != null && wishes"},
		"stewards-open":  {"odd: maple stewards is forbidden, opens", "odd: fern stewards is forbidden, opens", "odd: dew stewards is forbidden, opens", "odd: briar stewards is forbidden, opens", "odd: rowan stewards is forbidden, opens"},
		"other-record":   {"odd: maple record.others is forbidden, opens", "odd: fern record.others is forbidden, opens", "odd: dew record.others is forbidden, opens", "odd: briar record.others is forbidden, opens", "odd: rowan record.others is forbidden, opens"},
		"cookie-trusted": {"odd: cookie ostlewick, its first character altered opens", "odd: old cookies after signing out opens"},
		"sign-out-keeps": {"odd: old cookies after signing out opens"},
	} {
		t.Run(fault, func(t *testing.T) {
			t.Parallel()
			var faults []string
			if fault != "" {
				faults = []string{fault}
			}
			r, err := engine.SweepAccess(t.Context(), ostlewickProject(t, faults...).Site, 10*time.Second)
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
