package gate

import (
	"errors"
	"testing"
	"testing/synctest"
	"time"

	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

func wrongAttempt() error { return store.ErrNotFound }

func rightAttempt() error { return nil }

// TestOnlyWrongPasswordsAreCounted: right ones never slow anybody down, nor does a database that does not answer.
func TestOnlyWrongPasswordsAreCounted(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		s := newThrottle()
		silent := errors.New("it does not answer")
		for range 100 {
			require.NoError(t, s.Attempt("warden", "127.0.0.1", rightAttempt))
			require.ErrorIs(t, s.Attempt("warden", "127.0.0.1", func() error { return silent }), silent)
		}
		for range 5 {
			require.ErrorIs(t, s.Attempt("warden", "127.0.0.1", wrongAttempt), store.ErrNotFound)
		}
		require.ErrorContains(t, s.Attempt("Warden", "127.0.0.1", rightAttempt), "Try again in 10 seconds", "the name's capitals do not matter")
		require.NoError(t, s.Attempt("keeper", "127.0.0.1", rightAttempt))
		require.NoError(t, s.Attempt("warden", "127.0.0.2", rightAttempt))
		time.Sleep(11 * time.Second)
		require.NoError(t, s.Attempt("warden", "127.0.0.1", rightAttempt))
	})
}

func TestAPlaceIsFreeAgainWhateverHappens(t *testing.T) {
	s := newThrottle()
	for range maxAttempts + 1 {
		require.Panics(t, func() { _ = s.Attempt("warden", "127.0.0.1", func() error { panic("a fault of ours") }) })
	}
	require.NoError(t, s.Attempt("warden", "127.0.0.1", rightAttempt))
}
