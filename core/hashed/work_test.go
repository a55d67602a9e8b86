package hashed_test

import (
	"strings"
	"testing"

	"oddtick/core/hashed"

	"github.com/stretchr/testify/require"
)

func TestTheWorkOfAGuess(t *testing.T) {
	t.Parallel()
	for stored, want := range map[string]map[string]int{
		"$2b$10$" + strings.Repeat("a", 53):                 {hashed.Cost: 10},
		"$wp$2y$12$" + strings.Repeat("a", 53):              {hashed.Cost: 12},
		"$argon2id$v=19$m=19456,t=2,p=1$c2FsdHNhbHQ$aGFzaA": {hashed.Memory: 19456, hashed.Passes: 2},
		"$scrypt$ln=15,r=8,p=1$c2FsdA$aGFzaA":               {hashed.N: 32768},
		"scrypt:16384:8:1$salt$6861":                        {hashed.N: 16384},
		"$7$CU..../....salt$hash":                           {},
		"pbkdf2_sha256$600000$salt$aGFzaA==":                {hashed.Iterations: 600000},
		"pbkdf2:sha256:260000$salt$6861":                    {hashed.Iterations: 260000},
		"$pbkdf2-sha512$29000$c2FsdA$aGFzaA":                {hashed.Iterations: 29000},
		"$6$rounds=10000$salt$hash":                         {hashed.Iterations: 10000},
		"$5$salt$hash":                                      {hashed.Iterations: 5000},
		"$P$" + strings.Repeat("a", 31):                     {},
		"plain":                                             {},
	} {
		require.Equal(t, want, hashed.Work(stored), stored)
		kind, _ := hashed.KindOf(stored)
		for measure := range want {
			require.Contains(t, hashed.Measures(kind), measure)
		}
	}
}
