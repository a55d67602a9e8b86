package engine_test

import (
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/engine/sweep"
	"oddtick/engine/testdata/ordinary"

	"github.com/stretchr/testify/require"
)

func gauges(t *testing.T, fault string) *spec.Site {
	server := httptest.NewServer(ordinary.Gauges.Open(nil, fault, ""))
	t.Cleanup(server.Close)
	project, err := spec.ReadProject([]spec.File{{Name: "gauges.yaml", Text: ordinary.Gauges.Document()}})
	require.NoError(t, err)
	project.Site.Address = server.URL
	return project.Site
}

// TestSessionsEndWhenTheyShould and not before, and a token is renewed by its own refresh token alone.
func TestSessionsEndWhenTheyShould(t *testing.T) {
	t.Parallel()
	faults := map[string]string{"": ""}
	for fault, look := range ordinary.Gauges.Faults {
		faults[fault] = look
	}
	for fault, look := range faults {
		t.Run(fault, func(t *testing.T) {
			t.Parallel()
			r, err := sweep.Access(t.Context(), gauges(t, fault), sweep.Options{Timeout: 10 * time.Second})
			require.NoError(t, err)
			looks := map[sweep.Look]int{}
			for _, s := range r.Sessions {
				looks[s.Look]++
				if s.Verdict == judge.Odd {
					require.Equal(t, look, string(s.Look), "%+v", s)
					look = ""
				}
			}
			require.Empty(t, look, "nothing odd of it\n%s", strings.Join(oddAccess(r), "\n"))
			require.NotZero(t, looks[sweep.StayIdle]*looks[sweep.GrowOld]*looks[sweep.RenewToken])
			if fault == "" {
				require.Equal(t, 3, looks[sweep.StayIdle])
				require.Empty(t, r.LeftOut)
			}
		})
	}
}

// TestATimeoutThatIsTooLongIsSaid, and not waited for.
func TestATimeoutThatIsTooLongIsSaid(t *testing.T) {
	t.Parallel()
	r, err := sweep.Access(t.Context(), gauges(t, ""), sweep.Options{Timeout: 10 * time.Second, MaxWait: time.Second})
	require.NoError(t, err)
	require.Len(t, r.LeftOut, 2)
	require.Contains(t, string(r.LeftOut[0]), "a timeout of 2s, for the account mara, as at most 1s is waited")
	require.Less(t, r.Took, 3*time.Second)
}

// TestAlteredSecretsMeanSomethingElse: what is changed is none of the bits that base64 leaves over at a text's end.
func TestAlteredSecretsMeanSomethingElse(t *testing.T) {
	t.Parallel()
	for _, value := range []string{"fern.aZ0", "eyJhIjoxfQ==", "eyJhIjoxfQ%3D%3d", "deadbeef0", "Y", "0", "u-7"} {
		for _, altered := range sweep.Alterations(value)[:2] {
			require.NotEqual(t, value, altered)
		}
	}
	const inBase64 = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789"
	for at, c := range inBase64 {
		altered := sweep.Alterations("z." + string(c))[1]
		require.NotEqual(t, at>>4, strings.IndexByte(inBase64, altered[2])>>4, "%c becomes %s", c, altered)
	}
	require.Equal(t, "ab40", sweep.Alterations("ab4f")[1])
	require.Equal(t, "fern.8", sweep.Alterations("fern.7")[2])
	require.Empty(t, sweep.Alterations("=="))
}
