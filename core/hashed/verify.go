package hashed

import (
	"bytes"
	"crypto/hmac"
	"crypto/pbkdf2"
	"crypto/sha1" // #nosec G505 -- sites still derive keys so
	"crypto/sha256"
	"crypto/sha512"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"hash"
	"strconv"
	"strings"

	"github.com/GehirnInc/crypt"
	_ "github.com/GehirnInc/crypt/apr1_crypt"   // registers $apr1$
	_ "github.com/GehirnInc/crypt/md5_crypt"    // registers $1$
	_ "github.com/GehirnInc/crypt/sha256_crypt" // registers $5$
	_ "github.com/GehirnInc/crypt/sha512_crypt" // registers $6$
	"golang.org/x/crypto/argon2"
	"golang.org/x/crypto/bcrypt"
	"golang.org/x/crypto/scrypt"
)

// What one verification may cost: a stored hash is foreign input, and says itself how much work it is.
const (
	maxBcryptCost = 14
	maxMemory     = 256 << 20 // bytes, of argon2 and scrypt
	maxPasses     = 64        // over that memory
	maxRounds     = 5_000_000 // of PBKDF2 and the crypt formats
)

// NotVerifiedError says why it cannot be told whether a stored hash is of a text.
type NotVerifiedError struct{ Reason string }

func (e *NotVerifiedError) Error() string { return e.Reason }

func notVerified(format string, args ...any) error {
	return &NotVerifiedError{fmt.Sprintf(format, args...)}
}

// Verify tells whether a stored hash is of a text. The error is a NotVerifiedError where its kind is not known here, where it costs more
// than is spent on it, or where it cannot be read.
func Verify(stored, text string) (bool, error) {
	kind, _ := KindOf(stored)
	switch kind {
	case "bcrypt":
		return verifyBcrypt(stored, text)
	case "argon2id", "argon2i":
		return verifyArgon2(kind, stored, text)
	case "scrypt":
		return verifyScrypt(stored, text)
	case "pbkdf2":
		return verifyPBKDF2(stored, text)
	case "sha512-crypt", "sha256-crypt", "md5-crypt":
		return verifyCrypt(stored, text)
	case "phpass":
		return verifyPhpass(stored, text)
	case "salted digest":
		return verifySalted(stored, text)
	case "":
		return false, notVerified("it is of no kind that is known here")
	}
	return false, notVerified("hashes of the kind %s are not computed here", kind)
}

// verifyBcrypt also takes a hash of the text's digest, and what WordPress writes since 6.8, one of an HMAC of it.
func verifyBcrypt(stored, text string) (bool, error) {
	if rest, is := strings.CutPrefix(stored, "$wp"); is {
		mac := hmac.New(sha512.New384, []byte("wp-sha384"))
		mac.Write([]byte(text))
		stored, text = rest, base64.StdEncoding.EncodeToString(mac.Sum(nil))
	}
	cost, err := bcrypt.Cost([]byte(stored))
	if err != nil {
		return false, notVerified("it cannot be read: %s", err)
	}
	if cost > maxBcryptCost {
		return false, notVerified("its cost is %d, and at most %d is spent on it", cost, maxBcryptCost)
	}
	for _, written := range digested(text) {
		// what is longer than 72 bytes is cut by bcrypt itself
		if bcrypt.CompareHashAndPassword([]byte(stored), []byte(written[:min(len(written), 72)])) == nil {
			return true, nil
		}
	}
	return false, nil
}

// digested are a text and its digests as sites write them that want more than bcrypt's 72 bytes to count.
func digested(text string) []string {
	out := []string{text}
	for _, of := range []func([]byte) []byte{sumSHA256, sumSHA384, sumSHA512} {
		sum := of([]byte(text))
		out = append(out, hex.EncodeToString(sum), base64.StdEncoding.EncodeToString(sum), string(sum))
	}
	return out
}

// verifyArgon2 reads $argon2id$v=19$m=65536,t=3,p=4$salt$hash (RFC 9106, and PHC's string format).
func verifyArgon2(kind, stored, text string) (bool, error) {
	parts := strings.Split(stored, "$")
	if len(parts) == 5 {
		return false, notVerified("it is of an older version than 1.3 of argon2")
	}
	var m, t uint32
	var p uint8
	if len(parts) != 6 || parts[2] != "v=19" {
		return false, notVerified("it cannot be read")
	}
	if n, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &m, &t, &p); n != 3 || err != nil {
		return false, notVerified("its parameters %q cannot be read", parts[3])
	}
	salt, want, ok := saltAndHash(parts[4], parts[5])
	switch {
	case !ok || t == 0 || p == 0:
		return false, notVerified("it cannot be read")
	case uint64(m)<<10 > maxMemory || t > maxPasses:
		return false, notVerified("it takes %d MB and %d passes, more than is spent on it", m>>10, t)
	}
	compute := argon2.IDKey
	if kind == "argon2i" {
		compute = argon2.Key
	}
	return hmac.Equal(compute([]byte(text), salt, t, m, p, uint32(len(want))), want), nil
}

// verifyScrypt reads passlib's $scrypt$ln=16,r=8,p=1$salt$hash and Werkzeug's scrypt:32768:8:1$salt$hash.
func verifyScrypt(stored, text string) (bool, error) {
	var n, r, p int
	var salt, want []byte
	ok := false
	switch parts := strings.Split(stored, "$"); {
	case strings.HasPrefix(stored, "$scrypt$") && len(parts) == 5:
		var ln int
		if k, err := fmt.Sscanf(parts[2], "ln=%d,r=%d,p=%d", &ln, &r, &p); k == 3 && err == nil && ln > 0 && ln < 32 {
			n = 1 << ln
			salt, want, ok = saltAndHash(parts[3], parts[4])
		}
	case strings.HasPrefix(stored, "scrypt:") && len(parts) == 3:
		if k, err := fmt.Sscanf(parts[0], "scrypt:%d:%d:%d", &n, &r, &p); k == 3 && err == nil {
			var bad error
			want, bad = hex.DecodeString(parts[2])
			salt, ok = []byte(parts[1]), bad == nil
		}
	default:
		return false, notVerified("this way to write scrypt is not read here")
	}
	switch {
	case !ok || n <= 1 || r <= 0 || p <= 0:
		return false, notVerified("it cannot be read")
	case r > 64 || n > maxMemory/(128*r) || p > 16:
		return false, notVerified("it takes more memory or time than is spent on it")
	}
	got, err := scrypt.Key([]byte(text), salt, n, r, p, len(want))
	if err != nil {
		return false, notVerified("its parameters are wrong: %s", err)
	}
	return len(want) > 0 && hmac.Equal(got, want), nil
}

// verifyPBKDF2 reads PBKDF2 (RFC 8018, 5.2) as it is usually written: a name with the digest, rounds, salt and hash, with $ or : between
// them, as by Django (pbkdf2_sha256$rounds$salt$hash), Werkzeug (pbkdf2:sha256:rounds$salt$hash), passlib ($pbkdf2-sha256$rounds$salt$hash) and
// the PHC format ($pbkdf2-sha256$i=rounds,l=length$salt$hash). The hash is in hexadecimal digits or base64; the salt is too, or is a text.
func verifyPBKDF2(stored, text string) (bool, error) {
	parts := strings.FieldsFunc(stored, func(c rune) bool { return c == '$' || c == ':' })
	digest := strings.TrimLeft(strings.TrimPrefix(parts[0], "pbkdf2"), "_-")
	parts = parts[1:]
	if digest == "" && len(parts) == 4 {
		digest, parts = parts[0], parts[1:]
	}
	if len(parts) != 3 {
		return false, notVerified("this way to write PBKDF2 is not read here")
	}
	size := map[string]int{"": sha1.Size, "sha1": sha1.Size, "sha256": sha256.Size, "sha512": sha512.Size}[digest]
	compute := map[string]func() hash.Hash{"": sha1.New, "sha1": sha1.New, "sha256": sha256.New, "sha512": sha512.New}[digest]
	rounds, _, _ := strings.Cut(strings.TrimPrefix(parts[0], "i="), ",")
	n, err := strconv.Atoi(rounds)
	want := decodedHash(parts[2], size)
	switch {
	case compute == nil:
		return false, notVerified("PBKDF2 with %q is not computed here", digest)
	case err != nil || n <= 0 || len(want) == 0 || len(want) > 512:
		return false, notVerified("it cannot be read")
	case n > maxRounds:
		return false, notVerified("it takes %d rounds, more than is spent on it", n)
	}
	for _, salt := range saltsOf(parts[1]) {
		got, err := pbkdf2.Key(compute, text, salt, n, len(want))
		if err != nil {
			return false, notVerified("it cannot be computed: %s", err)
		}
		if hmac.Equal(got, want) {
			return true, nil
		}
	}
	return false, nil
}

// decodedHash reads hexadecimal digits or base64: as that of which a digest's size comes, and as base64 where both could be meant.
func decodedHash(text string, size int) []byte {
	digits, err := hex.DecodeString(text)
	if letters := base64Of(text); err != nil || len(digits) != size && letters != nil {
		return letters
	}
	return digits
}

// base64Of reads base64 in any of its alphabets (RFC 4648, and passlib's with dots), with its padding or without; nil for any other text.
func base64Of(text string) []byte {
	text = strings.NewReplacer(".", "+", "-", "+", "_", "/").Replace(strings.TrimRight(text, "="))
	out, err := base64.RawStdEncoding.DecodeString(text)
	if err != nil {
		return nil
	}
	return out
}

// saltsOf are the bytes that a salt may be written for: the text itself, hexadecimal digits, base64.
func saltsOf(text string) [][]byte {
	out := [][]byte{[]byte(text)}
	if digits, err := hex.DecodeString(text); err == nil {
		out = append(out, digits)
	}
	if letters := base64Of(text); letters != nil {
		out = append(out, letters)
	}
	return out
}

// verifyCrypt is of the formats of crypt(3).
func verifyCrypt(stored, text string) (bool, error) {
	if _, about, is := strings.Cut(stored, "rounds="); is {
		about, _, _ = strings.Cut(about, "$")
		if n, err := strconv.Atoi(about); err != nil || n > maxRounds {
			return false, notVerified("it takes %s rounds, more than is spent on it", about)
		}
	}
	// computed anew from what stands before the sum: the library's own comparison fails where rounds are said
	about := stored[:strings.LastIndexByte(stored, '$')]
	got, err := crypt.NewFromHash(stored).Generate([]byte(text), []byte(about))
	if err != nil {
		return false, notVerified("it cannot be read: %s", err)
	}
	return hmac.Equal([]byte(got), []byte(stored)), nil
}

// verifySalted reads LDAP's {SSHA}, and method$salt$digest as Django's older hashers write it.
func verifySalted(stored, text string) (bool, error) {
	if method, coded, is := strings.Cut(strings.TrimPrefix(stored, "{"), "}"); is && strings.HasPrefix(stored, "{") {
		raw, err := base64.StdEncoding.DecodeString(coded)
		compute := map[string]func([]byte) []byte{"SSHA": sumSHA1, "SSHA256": sumSHA256, "SSHA384": sumSHA384, "SSHA512": sumSHA512}[method]
		if err != nil || compute == nil {
			return false, notVerified("it cannot be read")
		}
		size := len(compute(nil))
		if len(raw) < size {
			return false, notVerified("it is too short")
		}
		return hmac.Equal(compute(append([]byte(text), raw[size:]...)), raw[:size]), nil
	}
	parts := strings.SplitN(stored, "$", 3)
	if len(parts) != 3 {
		return false, notVerified("it cannot be read")
	}
	return WithSalt(text, parts[1], parts[2]) != "", nil
}

// saltAndHash decodes both from base64 without padding, in which passlib writes a point for a plus sign.
func saltAndHash(salt, sum string) (s, h []byte, ok bool) {
	decode := func(text string) ([]byte, bool) {
		raw, err := base64.RawStdEncoding.DecodeString(strings.TrimRight(strings.ReplaceAll(text, ".", "+"), "="))
		return raw, err == nil
	}
	s, okS := decode(salt)
	h, okH := decode(sum)
	return s, h, okS && okH && len(h) > 0 && !bytes.Equal(s, nil)
}
