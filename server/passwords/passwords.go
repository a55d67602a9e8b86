// Package passwords checks, hashes and compares the passwords with which testers sign in to Odd Tick.
package passwords

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"github.com/trustelem/zxcvbn"
)

// MinLength and MaxLength bound a new password, in characters.
const (
	MinLength = 12
	MaxLength = 200
)

// minGuesses is how many guesses a new password must withstand, by the estimate of zxcvbn (Wheeler, USENIX Security 2016).
const minGuesses = 1e8

// Weak says, in a sentence for people, why a password cannot be taken.
type Weak struct{ Why string }

func (w *Weak) Error() string { return w.Why }

// Check says why a password cannot be taken for the user of a name; nil where it can.
func Check(password, name string) error {
	switch n := utf8.RuneCountInString(password); {
	case n < MinLength:
		return &Weak{fmt.Sprintf("The password has %d characters; it needs at least %d.", n, MinLength)}
	case n > MaxLength:
		return &Weak{fmt.Sprintf("The password has %d characters; at most %d are allowed.", n, MaxLength)}
	}
	begin := string([]rune(password)[:min(utf8.RuneCountInString(password), 100)]) // what follows costs time and tells little
	if zxcvbn.PasswordStrength(begin, []string{name, "oddtick", "odd tick"}).Guesses < minGuesses {
		return &Weak{"This password is easy to guess: a common one, a name, a keyboard pattern, or made of these. Use a few unrelated words."}
	}
	return nil
}

// params follow the second of OWASP's settings for argon2id: 19 MiB, two passes, one lane.
var params = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// atOnce is how many hashes are computed at once; the others wait. Each takes the memory that its parameters name.
const atOnce = 4

var places = make(chan struct{}, atOnce)

func enter(ctx context.Context) error {
	select {
	case places <- struct{}{}:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// Hash is what is kept of a password.
func Hash(ctx context.Context, password string) (string, error) {
	if err := enter(ctx); err != nil {
		return "", err
	}
	defer func() { <-places }()
	return argon2id.CreateHash(password, params)
}

// nobody is a hash of no password, compared with where there is no such user, so that the answer takes as long.
var nobody = sync.OnceValue(func() string {
	hash, err := argon2id.CreateHash("nobody's", params)
	if err != nil {
		panic(err)
	}
	return hash
})

// Matches tells whether a hash is of a password, and whether it should be made anew with today's parameters. A hash of "" matches
// nothing, and takes as long.
func Matches(ctx context.Context, password, hash string) (matches, outdated bool, err error) {
	if err := enter(ctx); err != nil {
		return false, false, err
	}
	defer func() { <-places }()
	known := hash != ""
	unknown := nobody() // in either case, so that the first answer takes as long as any
	if !known {
		hash = unknown
	}
	matches, used, err := argon2id.CheckHash(password, hash)
	if err != nil {
		return false, false, fmt.Errorf("compare a password with its hash: %w", err)
	}
	return matches && known, *used != *params, nil
}

// FirstLine is a password as it comes from a file or a pipe.
func FirstLine(text string) string {
	line, _, _ := strings.Cut(text, "\n")
	return strings.TrimSuffix(line, "\r")
}
