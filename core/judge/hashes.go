package judge

import (
	"crypto/md5"
	"crypto/sha1"
	"crypto/sha256"
	"crypto/sha512"
	"encoding/hex"
	"fmt"
	"regexp"
	"strings"
)

// storedClasses are the forms that salted slow hashes are written in.
var storedClasses = []struct {
	class string
	re    *regexp.Regexp
}{
	{"argon2id", regexp.MustCompile(`^\$argon2id\$`)},
	{"argon2i", regexp.MustCompile(`^\$argon2i\$`)},
	{"argon2d", regexp.MustCompile(`^\$argon2d\$`)},
	{"bcrypt", regexp.MustCompile(`^\$2[abxy]?\$\d\d\$[./A-Za-z0-9]{53}$`)},
	{"scrypt", regexp.MustCompile(`^(\$7\$|\$scrypt\$|scrypt:|SCRYPT)`)},
	{"yescrypt", regexp.MustCompile(`^\$y\$`)},
	{"pbkdf2", regexp.MustCompile(`^(\$pbkdf2|pbkdf2[_:$])`)},
	{"sha512-crypt", regexp.MustCompile(`^\$6\$`)},
	{"sha256-crypt", regexp.MustCompile(`^\$5\$`)},
	{"md5-crypt", regexp.MustCompile(`^\$(1|apr1)\$`)},
}

// Classify names what a stored secret is: plain, a reversible encoding, a fast hash, or a salted slow hash by its name.
func Classify(secret, stored string) string {
	if stored == secret {
		return "plain"
	}
	for _, s := range storedClasses {
		if s.re.MatchString(stored) {
			return s.class
		}
	}
	for _, f := range encodings(secret)[1:] {
		if strings.EqualFold(f.text, stored) && f.text != secret {
			if strings.HasPrefix(f.name, "MD") || strings.HasPrefix(f.name, "SHA") {
				return "a fast hash without salt (" + f.name + ")"
			}
			return "reversible (" + f.name + ")"
		}
	}
	if len(secret) >= shortestSought && strings.Contains(stored, secret) {
		return "plain, with more around it"
	}
	if raw, err := hex.DecodeString(stored); err == nil && len(raw) >= 16 {
		return fmt.Sprintf("a fast hash or an unknown one (%d bytes)", len(raw))
	}
	return "of an unknown form"
}

// withSalt names the fast digest of a secret with a salt before or behind it; "" where it is none.
func withSalt(secret, salt, stored string) string {
	for _, joined := range []string{salt + secret, secret + salt} {
		b := []byte(joined)
		m, s1, s2, s5 := md5.Sum(b), sha1.Sum(b), sha256.Sum256(b), sha512.Sum512(b)
		for name, sum := range map[string][]byte{"MD5": m[:], "SHA-1": s1[:], "SHA-256": s2[:], "SHA-512": s5[:]} {
			if strings.EqualFold(hex.EncodeToString(sum), stored) || strings.EqualFold("0x"+hex.EncodeToString(sum), stored) {
				return name
			}
		}
	}
	return ""
}

var (
	bcryptParts = regexp.MustCompile(`^\$2[abxy]?\$(\d\d)\$([./A-Za-z0-9]{22})`)
	argonParts  = regexp.MustCompile(`^\$argon2(?:id|i|d)\$(?:v=\d+\$)?([a-z]=[^$]*)\$([^$]+)\$`)
	cryptParts  = regexp.MustCompile(`^\$(?:1|5|6|apr1)\$(?:(rounds=\d+)\$)?([^$]+)\$`)
	pbkdf2Parts = regexp.MustCompile(`^(?:\$?pbkdf2[^$]*\$)(\d+)\$([^$]+)\$`)
)

// saltAndCost are those that a slow hash says of itself; "" where it does not.
func saltAndCost(stored string) (salt, cost string) {
	for _, p := range []*regexp.Regexp{bcryptParts, argonParts, cryptParts, pbkdf2Parts} {
		if m := p.FindStringSubmatch(stored); m != nil {
			return m[2], m[1]
		}
	}
	return "", ""
}
