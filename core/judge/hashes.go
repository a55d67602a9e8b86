package judge

import (
	"encoding/hex"
	"errors"
	"fmt"
	"html"
	"regexp"
	"slices"
	"strings"

	"oddtick/core/hashed"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"

	"golang.org/x/text/unicode/norm"
)

// Classify names what a stored secret is: plain, a reversible encoding, a fast hash, or a salted slow hash by its name.
func Classify(secret, stored string) string {
	if stored == secret {
		return "plain"
	}
	if kind, _ := hashed.KindOf(stored); kind != "" {
		return kind
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

// otherText is a text whose hash may stand where that of a secret should.
type otherText struct{ text, words string }

// otherTexts are what a site may have hashed in place of a secret.
func (j *judging) otherTexts(f *spec.PreparedField, secret string) []otherText {
	list := []otherText{
		{strings.TrimSpace(secret), "it without the spaces around it"},
		{strings.ToLower(secret), "it in small letters"},
		{strings.ToUpper(secret), "it in capitals"},
		{secret[:min(len(secret), 72)], "its first 72 bytes"},
		{"", "the empty text"},
		{html.EscapeString(secret), "it escaped for HTML"},
		{norm.NFC.String(secret), "it in Unicode form C"},
		{norm.NFKC.String(secret), "it in Unicode form KC"},
	}
	for _, r := range f.Rules {
		if r.Kind == "length" && r.Limit.Max > 0 {
			if runes := []rune(secret); len(runes) > r.Limit.Max {
				list = append(list, otherText{string(runes[:r.Limit.Max]), fmt.Sprintf("its first %d characters", r.Limit.Max)})
			}
		}
	}
	for _, other := range j.p.Fields {
		if v, present := j.o.Sent.Value(other.Name); present && other != f {
			list = append(list, otherText{v, "what " + other.Label + " holds"})
		}
	}
	for _, before := range j.earlier {
		if before.Sent == nil {
			continue
		}
		if v, present := before.Sent.Value(f.Name); present {
			list = append(list, otherText{v, "what was sent before"})
		}
	}
	var out []otherText
	for _, o := range list {
		if o.text != secret && !slices.ContainsFunc(out, func(has otherText) bool { return has.text == o.text }) {
			out = append(out, o)
		}
	}
	return out
}

// ofSecret: a stored hash is that of the secret that was sent, as it is normalised.
func (j *judging) ofSecret(c *Check, name string, want *oracle.Column, f *spec.PreparedField, secret string, cell observation.Cell) {
	part := name + ": of the secret"
	if want.Pepper {
		c.irrelevant(part, "the site adds a secret of its own to it")
		return
	}
	v := f.ValueOf(secret, true)
	fits, err := j.verify(cell.Value, v.Normal)
	var not *hashed.NotVerifiedError
	switch {
	case errors.As(err, &not):
		c.irrelevant(part, "it is not verified: "+not.Reason)
		return
	case err != nil:
		c.unobserved(part, err.Error())
		return
	case fits:
		c.asExpected(part, "of what was sent", "of what was sent")
		return
	}
	for _, other := range j.otherTexts(f, v.Normal) {
		if is, err := j.verifyOther(cell.Value, other.text); err == nil && is {
			c.odd(part, ofAnotherText, "of what was sent", "of "+other.words)
			return
		}
	}
	c.odd(part, ofAnotherText, "of what was sent", "of another text, which is not known")
}

// ofAnotherText is the kind of difference of a stored hash that is not that of the secret sent.
const ofAnotherText = "hash of another text"
