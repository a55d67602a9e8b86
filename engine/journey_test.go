package engine_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/engine/journey"
	"oddtick/observe/mail"

	"github.com/stretchr/testify/require"
)

// walked are the walks of the site's first journey, by id.
func walked(t *testing.T, faults ...string) map[string]journey.Walk {
	return walkedWith(t, func(*spec.Site) {}, faults...)
}

// walkedWith changes the site's document before.
func walkedWith(t *testing.T, change func(*spec.Site), faults ...string) map[string]journey.Walk {
	mails, err := mail.Listen("127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { mails.Close() })
	project := ostlewickWith(t, mails.Address(), faults...)
	change(project.Site)
	j, err := journey.Open(t.Context(), project, mails, time.Now().UnixNano(), 10*time.Second)
	require.NoError(t, err)
	defer j.Close()
	told := 0
	r, err := j.Walk(t.Context(), &project.Site.Journeys[0], func(*journey.Walk) { told++ })
	require.NoError(t, err)
	require.Len(t, r.Walks, told)
	out := map[string]journey.Walk{}
	for _, w := range r.Walks {
		out[strings.TrimPrefix(w.ID, "joining/")] = w
	}
	return out
}

// oddParts are what is not as expected in a walk, in words.
func oddParts(w journey.Walk) string {
	var out []string
	for _, s := range w.Stations {
		if s.Judgement != nil {
			for _, c := range s.Judgement.Checks {
				for _, p := range c.Parts {
					if p.Verdict == judge.Odd || p.Verdict == judge.NotObserved {
						out = append(out, fmt.Sprintf("%s: %s, %s: %s%s", s.Words, c.Check, p.Words.Name, p.Words.Observed, p.Words.Why))
					}
				}
			}
		}
		for _, p := range s.State {
			if p.Verdict != judge.AsExpected {
				out = append(out, fmt.Sprintf("%s: %s: %s %s", s.Words, p.Words.Name, p.Words.Observed, p.Words.Why))
			}
		}
	}
	return strings.Join(out, "\n")
}

func TestAJourneyOfAFaultlessSite(t *testing.T) {
	t.Parallel()
	all := walked(t)
	require.Len(t, all, 4)
	for id, w := range all {
		require.Equal(t, judge.AsExpected, w.Verdict, "%s: %s\n%s", id, w.Headline, oddParts(w))
	}
	require.Len(t, all["whole"].Stations, 5)
	require.EqualValues(t, "follow the link again", all["link_twice"].Stations[3].Words)
}

func TestFaultsOfJourneys(t *testing.T) {
	t.Parallel()
	for fault, c := range map[string]struct{ walk, says string }{
		"confirm-twice": {"link_twice", "; it should have been rejected by the server"},
		"confirm-other": {"whole", "follow the link: Accepted, but no row was changed in plot_holders"},
		"mail-secret":   {"whole", "wait for the mail: secret in the mail: plain, expected not found"},
	} {
		t.Run(fault, func(t *testing.T) {
			t.Parallel()
			all := walked(t, fault)
			require.Equal(t, judge.Odd, all[c.walk].Verdict)
			require.Contains(t, all[c.walk].Headline, c.says, oddParts(all[c.walk]))
		})
	}
}

// TestAMailThatNeverComes ends the walk with the reason, and what would come later is not observed.
func TestAMailThatNeverComes(t *testing.T) {
	t.Parallel()
	mails, err := mail.Listen("127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { mails.Close() })
	project := ostlewickWith(t, "") // this site sends none
	j, err := journey.Open(t.Context(), project, mails, time.Now().UnixNano(), 10*time.Second)
	require.NoError(t, err)
	defer j.Close()
	j.Patience = 200 * time.Millisecond
	r, err := j.Walk(t.Context(), &project.Site.Journeys[0], nil)
	require.NoError(t, err)
	whole := r.Walks[0]
	require.Equal(t, judge.NotObserved, whole.Verdict)
	require.Contains(t, whole.Headline, "no mail to ")
	require.Len(t, whole.Stations, 5)
	require.Equal(t, judge.AsExpected, whole.Stations[0].Verdict)
	require.EqualValues(t, "not observed, because the journey ended before this step", whole.Stations[4].Headline)
}

// TestAJourneyThatBeginsOdd: its later parts stand on nothing, and are not observed.
func TestAJourneyThatBeginsOdd(t *testing.T) {
	t.Parallel()
	five := func(s *spec.Site) { s.Journeys[0].Steps[0].With = map[string]string{"plots": "5"} }
	whole := walkedWith(t, five, "plots-five")["whole"]
	require.Equal(t, judge.Odd, whole.Stations[0].Verdict, oddParts(whole))
	for _, s := range whole.Stations[1:] {
		require.Equal(t, judge.NotObserved, s.Verdict)
	}
}

// TestAJourneyGoesOn where a part ended as it should and only a stored value is odd, so that what comes later is seen as well.
func TestAJourneyGoesOn(t *testing.T) {
	t.Parallel()
	all := walked(t, "born-swapped", "confirm-twice")
	require.Equal(t, judge.Odd, all["whole"].Stations[0].Verdict)
	require.Contains(t, all["whole"].Headline, "plot_holders.born")
	for _, s := range all["whole"].Stations[1:] {
		require.Equal(t, judge.AsExpected, s.Verdict, s.Headline)
	}
	again := all["link_twice"].Stations[3]
	require.Equal(t, judge.Odd, again.Verdict)
	require.Contains(t, again.Headline, "; it should have been rejected by the server")
}

func TestJourneysThatCannotBeWalked(t *testing.T) {
	t.Parallel()
	project := ostlewickProject(t)
	project.Site.Journeys[0].Steps[4].Submit = "none"
	_, err := journey.Open(t.Context(), project, nil, 1, time.Second)
	require.ErrorContains(t, err, "journeys[joining].steps[4]: there is no form none")
	project.Site.Journeys = nil
	_, err = journey.Open(t.Context(), project, nil, 1, time.Second)
	require.ErrorContains(t, err, "has no journeys")
}

// TestPlacesInJourneys: a page that is opened later says who was made, and what was written.
func TestPlacesInJourneys(t *testing.T) {
	t.Parallel()
	record := func(message string) func(s *spec.Site) {
		return func(s *spec.Site) {
			j := &s.Journeys[0]
			j.Steps = append(slices.Clone(j.Steps), spec.JourneyStep{Open: "record", Message: &spec.Message{Part: message}})
		}
	}
	whole := walkedWith(t, record("{name}"))["whole"]
	require.Len(t, whole.Stations, 6)
	require.Equal(t, judge.AsExpected, whole.Stations[5].Verdict, oddParts(whole))
	whole = walkedWith(t, record("{name} of {plot_holders.pass_hash}"))["whole"]
	require.Equal(t, judge.Odd, whole.Stations[5].Verdict, "the record shows no hash")
}
