package hashed

import (
	"regexp"
	"strconv"
	"strings"
)

// The measures of the work that one guess takes.
const (
	Cost       = "cost"       // of bcrypt: the logarithm of its rounds
	Memory     = "memory"     // of argon2, in KiB
	Passes     = "passes"     // of argon2 over its memory
	N          = "n"          // of scrypt: its cost parameter, a power of two
	Iterations = "iterations" // of PBKDF2 and the crypt formats
)

// Measures are those of the work that hashes of a kind take; none where it is not read here.
func Measures(kind string) []string {
	switch kind {
	case "bcrypt":
		return []string{Cost}
	case "argon2id", "argon2i", "argon2d":
		return []string{Memory, Passes}
	case "scrypt":
		return []string{N}
	case "pbkdf2", "sha512-crypt", "sha256-crypt":
		return []string{Iterations}
	}
	return nil
}

var (
	bcryptCost   = regexp.MustCompile(`^(?:\$wp)?\$2[abxy]?\$(\d\d)\$`)
	argonWork    = regexp.MustCompile(`\$m=(\d+),t=(\d+),p=\d+\$`)
	scryptLog    = regexp.MustCompile(`^\$scrypt\$ln=(\d+),`)
	scryptN      = regexp.MustCompile(`^scrypt:(\d+):`)
	pbkdf2Rounds = regexp.MustCompile(`^\$?pbkdf2(?:[-_:$]\w+)?[:$](?:i=)?(\d+)[$:,]`)
	cryptRounds  = regexp.MustCompile(`^\$[56]\$rounds=(\d+)\$`)
)

// usualRounds are those of the crypt formats where a hash does not say its own.
const usualRounds = 5000

// Work is what one guess at a stored hash takes, by its measures; a measure that cannot be read is left out.
func Work(stored string) map[string]int {
	kind, _ := KindOf(stored)
	out := map[string]int{}
	read := func(form *regexp.Regexp, measures ...string) bool {
		m := form.FindStringSubmatch(stored)
		if m == nil {
			return false
		}
		for i, measure := range measures {
			if n, err := strconv.Atoi(m[i+1]); err == nil {
				out[measure] = n
			}
		}
		return true
	}
	switch kind {
	case "bcrypt":
		read(bcryptCost, Cost)
	case "argon2id", "argon2i", "argon2d":
		read(argonWork, Memory, Passes)
	case "scrypt":
		if read(scryptLog, N) && out[N] < 63 {
			out[N] = 1 << out[N]
		} else if !strings.HasPrefix(stored, "$scrypt$") {
			read(scryptN, N)
		}
	case "pbkdf2":
		read(pbkdf2Rounds, Iterations)
	case "sha512-crypt", "sha256-crypt":
		if !read(cryptRounds, Iterations) {
			out[Iterations] = usualRounds
		}
	}
	return out
}
