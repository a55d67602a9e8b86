package judge

import (
	"encoding/hex"
	"errors"
	"html"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/hashed"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"

	"golang.org/x/text/unicode/norm"
)

// Classify says what a stored secret is: plain, a reversible encoding, a fast hash, or a salted slow hash by its name.
func Classify(secret, stored string) Value {
	if stored == secret {
		return is(PlainText)
	}
	if kind, _ := hashed.KindOf(stored); kind != "" {
		return Value{Is: HashKind, Of: kind}
	}
	forms := formsOf(secret)
	known := slices.Clone(forms.written[1:])
	for i := range coders {
		known = append(known, form{coders[i].name, forms.code(i), coders[i].digest})
	}
	for _, f := range known {
		if strings.EqualFold(f.text, strings.TrimRight(stored, "=")) || strings.EqualFold(f.text, stored) {
			if f.digest {
				return Value{Is: FastHash, Of: f.name}
			}
			return Value{Is: Reversible, Of: f.name}
		}
	}
	if len(secret) >= shortestSought && strings.Contains(stored, secret) {
		return is(PlainWithin)
	}
	if raw, err := hex.DecodeString(stored); err == nil && len(raw) >= 16 {
		return Value{Is: FastOrUnknown, Of: strconv.Itoa(len(raw)), N: len(raw)}
	}
	return is(UnknownForm)
}

var (
	bcryptParts = regexp.MustCompile(`^\$2[abxy]?\$(\d\d)\$([./A-Za-z0-9]{22})`)
	argonParts  = regexp.MustCompile(`^\$argon2(?:id|i|d)\$(?:v=\d+\$)?([a-z]=[^$]*)\$([^$]+)\$`)
	cryptParts  = regexp.MustCompile(`^\$(?:1|5|6|apr1)\$(?:(rounds=\d+)\$)?([^$]+)\$`)
	pbkdf2Parts = regexp.MustCompile(`^(?:\$?pbkdf2[^$]*\$)(\d+)\$([^$]+)\$`)
)

// SaltAndCost are those that a slow hash says of itself; "" where it does not.
func SaltAndCost(stored string) (salt, cost string) {
	for _, p := range []*regexp.Regexp{bcryptParts, argonParts, cryptParts, pbkdf2Parts} {
		if m := p.FindStringSubmatch(stored); m != nil {
			return m[2], m[1]
		}
	}
	return "", ""
}

// otherText is a text whose hash may stand where that of a secret should.
type otherText struct {
	text string
	is   Value
}

// otherTexts are what a site may have hashed in place of a secret.
func otherTexts(j *judging, f *spec.PreparedField, secret string) []otherText {
	list := []otherText{
		{strings.TrimSpace(secret), is(SecretTrimmed)},
		{strings.ToLower(secret), is(SecretLowered)},
		{strings.ToUpper(secret), is(SecretRaised)},
		{secret[:min(len(secret), 72)], Value{Is: SecretBytes, N: 72}},
		{"", is(SecretBlank)},
		{html.EscapeString(secret), is(SecretEscaped)},
		{norm.NFC.String(secret), Value{Is: SecretForm, Of: "C"}},
		{norm.NFKC.String(secret), Value{Is: SecretForm, Of: "KC"}},
	}
	for _, r := range f.Rules {
		if r.Kind == spec.RuleLength && r.Limit.Max > 0 {
			if runes := []rune(secret); len(runes) > r.Limit.Max {
				list = append(list, otherText{string(runes[:r.Limit.Max]), Value{Is: SecretCharacters, N: r.Limit.Max}})
			}
		}
	}
	for _, other := range j.p.Fields {
		if v, present := j.o.Sent.Of(other); present && other != f {
			list = append(list, otherText{v, Value{Is: ValueOfField, Of: other.ID}})
		}
	}
	for _, before := range j.earlier {
		if before.Sent == nil {
			continue
		}
		if v, present := before.Sent.Of(f); present {
			list = append(list, otherText{v, is(SentBefore)})
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
func ofSecret(j *judging, c *Check, hash Subject, want *oracle.Column, f *spec.PreparedField, secret string, cell observation.Cell) {
	hash.Aspect = HashedText
	if want.Pepper {
		c.notApplicable(hash, is(Peppered))
		return
	}
	v := f.ValueOf(secret, true)
	fits, err := j.verify(cell.Value, v.Normal)
	var not *hashed.NotVerifiedError
	switch {
	case errors.As(err, &not):
		c.notApplicable(hash, withText(NotVerified, not.Reason))
		return
	case err != nil:
		c.unobserved(hash, withText(Because, err.Error()))
		return
	case fits:
		c.asExpected(hash, is(WhatWasSent), is(WhatWasSent))
		return
	}
	for _, other := range otherTexts(j, f, v.Normal) {
		if fits, err := j.verifyOther(cell.Value, other.text); err == nil && fits {
			c.odd(hash, OtherTextHashed, is(WhatWasSent), other.is)
			return
		}
	}
	c.odd(hash, OtherTextHashed, is(WhatWasSent), is(UnknownText))
}
