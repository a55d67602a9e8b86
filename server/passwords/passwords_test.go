package passwords_test

import (
	"context"
	"strings"
	"sync"
	"testing"

	"oddtick/server/passwords"

	"github.com/alexedwards/argon2id"
	"github.com/stretchr/testify/require"
)

func TestWhichPasswordsAreTaken(t *testing.T) {
	t.Parallel()
	for _, good := range []string{"heron lantern moss", "correcthorsebatterystaple", "Vq7#nn2Lk0-pd", strings.Repeat("wren kettle ", 16)} {
		require.NoError(t, passwords.Check(good, "tester"), good)
	}
	for _, bad := range []string{
		"", "short-9!x", "password1234", "qwertyuiop12", "123456789012", strings.Repeat("a", 40), "iloveyou1234", "Passw0rd!Passw0rd!", "oddtickoddtick", "marigold1234", strings.Repeat("wren kettle ", 20),
	} {
		var weak *passwords.Weak
		require.ErrorAs(t, passwords.Check(bad, "marigold"), &weak, bad)
		require.NotContains(t, weak.Why, "marigold", "the password is not repeated")
	}
}

func TestAHashIsOfItsPasswordOnly(t *testing.T) {
	t.Parallel()
	hash, err := passwords.Hash(t.Context(), "heron lantern moss")
	require.NoError(t, err)
	for password, want := range map[string]bool{"heron lantern moss": true, "Heron lantern moss": false, "heron lantern moss ": false, "": false} {
		matches, outdated, err := passwords.Matches(t.Context(), password, hash)
		require.NoError(t, err)
		require.Equal(t, want, matches, password)
		require.False(t, outdated)
	}
	matches, _, err := passwords.Matches(t.Context(), "nobody's", "")
	require.NoError(t, err)
	require.False(t, matches, "where there is no hash nothing matches")
	old, err := argon2id.CreateHash("heron lantern moss", argon2id.DefaultParams)
	require.NoError(t, err)
	matches, outdated, err := passwords.Matches(t.Context(), "heron lantern moss", old)
	require.NoError(t, err)
	require.True(t, matches)
	require.True(t, outdated)
}

func TestWhoeverHasGoneWaitsForNoHash(t *testing.T) {
	t.Parallel()
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	var wait sync.WaitGroup
	for range 20 { // more than are computed at once
		wait.Go(func() { _, _ = passwords.Hash(t.Context(), "heron lantern moss") })
	}
	refused := 0
	for range 50 {
		if _, err := passwords.Hash(gone, "heron lantern moss"); err != nil {
			refused++
		}
	}
	wait.Wait()
	require.Positive(t, refused)
}
