package judge

import (
	"bytes"
	"crypto/md5"
	"crypto/sha1"
	"crypto/sha256"
	"crypto/sha512"
	"encoding/hex"
	"fmt"
	"regexp"
	"slices"
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
	forms := formsOf(secret)
	known := slices.Clone(forms.written[1:])
	for i := range coders {
		known = append(known, form{coders[i].name, forms.code(i)})
	}
	for _, f := range known {
		if strings.EqualFold(f.text, strings.TrimRight(stored, "=")) || strings.EqualFold(f.text, stored) {
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

// digest is a fast hash.
type digest struct {
	name string
	of   func([]byte) []byte
}

var digests = []digest{
	{"MD5", func(b []byte) []byte { s := md5.Sum(b); return s[:] }},
	{"SHA-1", func(b []byte) []byte { s := sha1.Sum(b); return s[:] }},
	{"SHA-256", func(b []byte) []byte { s := sha256.Sum256(b); return s[:] }},
	{"SHA-512", func(b []byte) []byte { s := sha512.Sum512(b); return s[:] }},
}

// withSalt names the fast digest of a secret with a salt before or behind it, stored in hexadecimal; "" where it is none.
func withSalt(secret, salt, stored string) string {
	raw, err := hex.DecodeString(strings.TrimPrefix(stored, "0x"))
	if err != nil || len(raw) < md5.Size {
		return ""
	}
	for _, joined := range []string{salt + secret, secret + salt} {
		for _, d := range digests {
			if bytes.Equal(d.of([]byte(joined)), raw) {
				return d.name
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
