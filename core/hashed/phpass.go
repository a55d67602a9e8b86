package hashed

import (
	"crypto/hmac"
	"strings"
)

// itoa64 are the digits of phpass and of crypt(3), the least first.
const itoa64 = "./0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"

// maxPhpassCost is the binary logarithm of the most rounds that phpass itself computes.
const maxPhpassCost = 24

// verifyPhpass is of the portable hashes of phpass 0.5 (Openwall): MD5 of salt and text, and again and again of that and the text.
func verifyPhpass(stored, text string) (bool, error) {
	cost := strings.IndexByte(itoa64, stored[3])
	if cost < 7 || cost > maxPhpassCost {
		return false, notVerified("it takes 2 to the power of %d rounds, more than is spent on it", cost)
	}
	sum := sumMD5([]byte(stored[4:12] + text))
	for range 1 << cost {
		sum = sumMD5(append(sum, text...))
	}
	return hmac.Equal([]byte(encode64(sum)), []byte(stored[12:])), nil
}

// encode64 writes three bytes as four digits, the least first.
func encode64(b []byte) string {
	var out strings.Builder
	for i := 0; i < len(b); i += 3 {
		value, n := 0, 0
		for k := i; k < min(i+3, len(b)); k++ {
			value |= int(b[k]) << (8 * n)
			n++
		}
		for k := range n + 1 {
			out.WriteByte(itoa64[value>>(6*k)&63])
		}
	}
	return out.String()
}
