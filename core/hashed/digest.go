package hashed

import (
	"bytes"
	"crypto/md5"  // #nosec G501 -- sites still keep passwords so, and it is told
	"crypto/sha1" // #nosec G505 -- the same
	"crypto/sha256"
	"crypto/sha512"
	"encoding/base64"
	"encoding/hex"
	"strings"
)

func sumMD5(b []byte) []byte    { s := md5.Sum(b); return s[:] }  // #nosec G401 -- compared with what a site keeps
func sumSHA1(b []byte) []byte   { s := sha1.Sum(b); return s[:] } // #nosec G401 -- the same
func sumSHA256(b []byte) []byte { s := sha256.Sum256(b); return s[:] }
func sumSHA384(b []byte) []byte { s := sha512.Sum384(b); return s[:] }
func sumSHA512(b []byte) []byte { s := sha512.Sum512(b); return s[:] }

// Digest is a fast hash.
type Digest struct {
	Name string
	Of   func([]byte) []byte
}

// Digests are the fast hashes that are looked for.
var Digests = []Digest{{"MD5", sumMD5}, {"SHA-1", sumSHA1}, {"SHA-256", sumSHA256}, {"SHA-512", sumSHA512}}

// WithSalt names the fast digest of a text with a salt before or behind it, stored in hexadecimal or base64; "" where it is none.
func WithSalt(text, salt, stored string) string {
	raw, err := hex.DecodeString(strings.TrimPrefix(stored, "0x"))
	if err != nil {
		raw, err = base64.StdEncoding.DecodeString(stored)
	}
	if err != nil || len(raw) < md5.Size {
		return ""
	}
	for _, joined := range []string{salt + text, text + salt} {
		for _, d := range Digests {
			if bytes.Equal(d.Of([]byte(joined)), raw) {
				return d.Name
			}
		}
	}
	return ""
}
