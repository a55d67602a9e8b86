package hashed_test

import (
	"crypto/hmac"
	"crypto/pbkdf2"
	"crypto/sha1"
	"crypto/sha256"
	"crypto/sha512"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"testing"

	"oddtick/core/hashed"

	"github.com/GehirnInc/crypt"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/argon2"
	"golang.org/x/crypto/bcrypt"
	"golang.org/x/crypto/scrypt"
)

func b64(b []byte) string { return base64.RawStdEncoding.EncodeToString(b) }

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

func crypted(kind crypt.Crypt, salt string) func(string) string {
	return func(text string) string { return must(kind.New().Generate([]byte(text), []byte(salt))) }
}

// formats write the hash of a text as each format does, by code of others than the one under test.
var formats = map[string]func(text string) string{
	"bcrypt": func(text string) string {
		return string(must(bcrypt.GenerateFromPassword([]byte(text[:min(len(text), 72)]), bcrypt.MinCost)))
	},
	"bcrypt of a digest": func(text string) string {
		return string(must(bcrypt.GenerateFromPassword(fmt.Appendf(nil, "%x", sha256.Sum256([]byte(text))), bcrypt.MinCost)))
	},
	"bcrypt of WordPress": func(text string) string {
		mac := hmac.New(sha512.New384, []byte("wp-sha384"))
		mac.Write([]byte(text))
		return "$wp" + string(must(bcrypt.GenerateFromPassword([]byte(base64.StdEncoding.EncodeToString(mac.Sum(nil))), bcrypt.MinCost)))
	},
	"argon2id": func(text string) string {
		return "$argon2id$v=19$m=64,t=2,p=1$" + b64([]byte("saltsalt")) + "$" + b64(argon2.IDKey([]byte(text), []byte("saltsalt"), 2, 64, 1, 32))
	},
	"argon2i": func(text string) string {
		return "$argon2i$v=19$m=64,t=3,p=2$" + b64([]byte("saltsalt")) + "$" + b64(argon2.Key([]byte(text), []byte("saltsalt"), 3, 64, 2, 32))
	},
	"scrypt of passlib": func(text string) string {
		return "$scrypt$ln=4,r=8,p=1$" + b64([]byte("saltsalt")) + "$" + b64(must(scrypt.Key([]byte(text), []byte("saltsalt"), 16, 8, 1, 32)))
	},
	"scrypt of Werkzeug": func(text string) string {
		return "scrypt:16:8:1$saltsalt$" + hex.EncodeToString(must(scrypt.Key([]byte(text), []byte("saltsalt"), 16, 8, 1, 64)))
	},
	"PBKDF2 of Django": func(text string) string {
		return "pbkdf2_sha256$100$saltsalt$" + base64.StdEncoding.EncodeToString(must(pbkdf2.Key(sha256.New, text, []byte("saltsalt"), 100, 32)))
	},
	"PBKDF2 of Werkzeug": func(text string) string {
		return "pbkdf2:sha512:100$saltsalt$" + hex.EncodeToString(must(pbkdf2.Key(sha512.New, text, []byte("saltsalt"), 100, 64)))
	},
	"PBKDF2 in hexadecimal digits behind Django's name": func(text string) string {
		return "pbkdf2_sha256$100$73616c7473616c74$" + hex.EncodeToString(must(pbkdf2.Key(sha256.New, text, []byte("73616c7473616c74"), 100, 32)))
	},
	"PBKDF2 with a salt in hexadecimal digits": func(text string) string {
		return "pbkdf2:sha256:100:73616c7473616c74:" + hex.EncodeToString(must(pbkdf2.Key(sha256.New, text, []byte("saltsalt"), 100, 32)))
	},
	"PBKDF2 of the PHC format": func(text string) string {
		return "$pbkdf2-sha256$i=100,l=32$" + b64([]byte("saltsalt")) + "$" + b64(must(pbkdf2.Key(sha256.New, text, []byte("saltsalt"), 100, 32)))
	},
	"PBKDF2 of passlib": func(text string) string {
		sum := must(pbkdf2.Key(sha256.New, text, []byte("saltsalt"), 100, 32))
		return "$pbkdf2-sha256$100$" + b64([]byte("saltsalt")) + "$" + strings.ReplaceAll(b64(sum), "+", ".")
	},
	"SHA-512 crypt": crypted(crypt.SHA512, "$6$rounds=1000$saltsalt"),
	"SHA-256 crypt": crypted(crypt.SHA256, "$5$rounds=1000$saltsalt"),
	"MD5 crypt":     crypted(crypt.MD5, "$1$saltsalt"),
	"Apache's MD5":  crypted(crypt.APR1, "$apr1$saltsalt"),
	"LDAP's salted SHA-1": func(text string) string {
		sum := sha1.Sum([]byte(text + "salt"))
		return "{SSHA}" + base64.StdEncoding.EncodeToString(append(sum[:], "salt"...))
	},
	"salted SHA-256": func(text string) string {
		return fmt.Sprintf("sha256$pepper$%x", sha256.Sum256([]byte("pepper"+text)))
	},
}

func TestHashesAreVerifiedInEveryFormat(t *testing.T) {
	t.Parallel()
	const secret = " Maple-row-42"
	long := strings.Repeat("Maple-row-", 8)
	for name, of := range formats {
		kind, _ := hashed.KindOf(of(secret))
		require.Contains(t, hashed.Kinds(), kind, name)
		for text, fits := range map[string]bool{secret: true, "Maple-row-42": false, " maple-row-42": false, " MAPLE-ROW-42": false, "": false, secret + "x": false} {
			got, err := hashed.Verify(of(secret), text)
			require.NoError(t, err, name)
			require.Equal(t, fits, got, "%s, %q", name, text)
		}
		cut, err := hashed.Verify(of(long), long[:72])
		require.NoError(t, err, name)
		require.Equal(t, name == "bcrypt", cut, "%s: only bcrypt does not tell what is behind 72 bytes", name)
		blank, err := hashed.Verify(of(""), "")
		require.NoError(t, err, name)
		require.True(t, blank, name)
	}
}

// TestPhpassIsThatOfItsAuthor: the example of phpass's own test.
func TestPhpassIsThatOfItsAuthor(t *testing.T) {
	t.Parallel()
	const stored = "$P$9IQRaTwmfeRo7ud9Fh4E2PdI0S3r.L0"
	is, err := hashed.Verify(stored, "test12345")
	require.NoError(t, err)
	require.True(t, is)
	is, err = hashed.Verify(stored, "test12346")
	require.NoError(t, err)
	require.False(t, is)
}

// TestWhatCostsTooMuchIsNotVerified: a stored hash is foreign, and says itself how much work it is.
func TestWhatCostsTooMuchIsNotVerified(t *testing.T) {
	t.Parallel()
	for _, stored := range []string{
		"$2a$31$abcdefghijklmnopqrstuu0123456789012345678901234567890", "$argon2id$v=19$m=4194304,t=1,p=1$c2FsdHNhbHQ$AAAA", "$argon2id$v=19$m=64,t=100000,p=1$c2FsdHNhbHQ$AAAA",
		"$argon2id$v=16$m=64,t=1,p=1$c2FsdHNhbHQ$AAAA", "$argon2id$x", "$scrypt$ln=30,r=8,p=1$c2FsdA$AAAA", "scrypt:1:0:0$salt$00", "scrypt:16:8:1$salt$zz", "pbkdf2_sha256$999999999$salt$AAAA",
		"pbkdf2_md9$1$salt$AAAA", "pbkdf2:sha256$salt$00", "$6$rounds=999999999$salt$x", "$y$j9T$x$y", "{SSHA}AAAA", "{SSHA}!", "$7$x", "$pbkdf2$x$y", "$P$zabcdefghijklmnopqrstuvwxyz12345", "plain", "",
	} {
		is, err := hashed.Verify(stored, "Maple-row-42")
		require.False(t, is, stored)
		require.True(t, errors.As(err, new(*hashed.NotVerifiedError)), stored)
		require.NotEmpty(t, err.Error())
	}
}

func TestADigestWithASaltIsNamed(t *testing.T) {
	t.Parallel()
	sum := sha256.Sum256([]byte("word" + "salt"))
	require.Equal(t, "SHA-256", hashed.WithSalt("word", "salt", hex.EncodeToString(sum[:])))
	require.Equal(t, "SHA-256", hashed.WithSalt("word", "salt", base64.StdEncoding.EncodeToString(sum[:])))
	require.Empty(t, hashed.WithSalt("word", "salt", hex.EncodeToString(sum[1:])))
	require.Empty(t, hashed.WithSalt("word", "salt", "no digest"))
}
