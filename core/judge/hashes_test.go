package judge_test

import (
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"

	bcryptlib "golang.org/x/crypto/bcrypt"
)

// kept judges two submissions of secrets, by what the table holds afterwards, and returns the odd parts of Secrets with what was observed.
func kept(t testing.TB, secrets [2]string, rows [2][]observation.Cell) (odd, all map[string]string) {
	return keptAs(t, "", secrets, rows)
}

// keptAs is kept where more is promised of the hash.
func keptAs(t testing.TB, more string, secrets [2]string, rows [2][]observation.Cell) (odd, all map[string]string) {
	p := prepared(t, "form: f\npage: /\nfields: [{name: word, kind: password}]\naccepted: {status: 303}\nstored: [{insert: keepers, columns: {word: {secret: word"+more+"}}}]\n")
	var earlier []*observation.Step
	odd, all = map[string]string{}, map[string]string{}
	for i, secret := range secrets {
		sub := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "word", Value: secret}}}
		e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub)
		o := &observation.Step{
			Sent: sub, At: time.Now(), Watched: []string{"keepers"}, Changes: []observation.Change{{Table: "keepers", Kind: observation.Inserted, Key: "1", After: rows[i]}},
			Exchanges: ledOn("http://s/", "http://s/d"), Before: &observation.Page{}, After: &observation.Page{},
		}
		for _, part := range worded(p, e, o, earlier).Checks[5].Parts {
			name := part.Subject.Older()
			if part.Subject.Aspect == judge.HashWork {
				name = part.Subject.Member
			}
			all[name] = string(part.Words.Observed)
			if part.Verdict == judge.Odd {
				odd[name] = string(part.Words.Observed)
			}
		}
		earlier = append(earlier, o)
	}
	return odd, all
}

func row(word string, more ...observation.Cell) []observation.Cell {
	return append([]observation.Cell{{Column: "word", Value: word}}, more...)
}

// bcrypted is a hash with a salt of 22 digits of bcrypt's.
func bcrypted(cost int, salt, text string) string {
	hash, err := bcryptlib.GenerateFromPassword([]byte(text), cost)
	if err != nil {
		panic(err)
	}
	if salt == "" {
		return string(hash)
	}
	return string(hash)[:7] + salt + string(hash)[29:] // of no text that is known
}

func TestSaltsAreOfEachRowsOwn(t *testing.T) {
	t.Parallel()
	one, two := "Lamp-oil-77", "Fog-horn-12"
	odd, all := kept(t, [2]string{one, two}, [2][]observation.Cell{row(bcrypted(4, "", one)), row(bcrypted(5, "", two))})
	require.Empty(t, odd)
	require.Equal(t, "bcrypt, cost 05", all["keepers.word"], "the cost is said")
	const salt = "abcdefghijklmnopqrstuu"
	odd, _ = kept(t, [2]string{one, two}, [2][]observation.Cell{row(bcrypted(4, salt, one)), row(bcrypted(4, salt, two))})
	require.Equal(t, "two secrets share one salt", odd["keepers.word: salt"])
	same := bcrypted(4, "", one)
	odd, _ = kept(t, [2]string{one, one}, [2][]observation.Cell{row(same), row(same)})
	require.Equal(t, map[string]string{"keepers.word: salt": "the same value was stored twice"}, odd)
	odd, all = kept(t, [2]string{one, two}, [2][]observation.Cell{row(argon2("saltsalt", one)), row(argon2("saltsalt", two))})
	require.Equal(t, map[string]string{"keepers.word: salt": "two secrets share one salt"}, odd)
	require.Equal(t, "argon2id, cost m=64,t=1,p=1", all["keepers.word"])
}

func TestAHashTakesTheWorkThatIsPromised(t *testing.T) {
	t.Parallel()
	one, two := "Lamp-oil-77", "Fog-horn-12"
	rows := [2][]observation.Cell{row(bcrypted(4, "", one)), row(bcrypted(5, "", two))}
	odd, all := keptAs(t, ", at_least: {bcrypt: {cost: 4}, argon2id: {memory: 19456}}", [2]string{one, two}, rows)
	require.Empty(t, odd)
	require.Equal(t, "5", all["cost"])
	odd, _ = keptAs(t, ", at_least: {bcrypt: {cost: 5}}", [2]string{one, two}, rows)
	require.Equal(t, map[string]string{"cost": "4"}, odd, "of the first one")
	rows = [2][]observation.Cell{row(argon2("saltsalt", one)), row(argon2("othersalt", two))}
	odd, _ = keptAs(t, ", at_least: {argon2id: {memory: 64, passes: 2}}", [2]string{one, two}, rows)
	require.Equal(t, map[string]string{"passes": "1"}, odd)
}

// TestAHashIsOfWhatWasSent, and where it is not, it is told of which text it is.
func TestAHashIsOfWhatWasSent(t *testing.T) {
	t.Parallel()
	const secret = " Lamp-oil-77"
	long := strings.Repeat("Lamp-oil-", 9)
	for name, c := range map[string]struct{ sent, hashed, says string }{
		"right":          {secret, secret, ""},
		"trimmed":        {secret, "Lamp-oil-77", "of the secret without the spaces around it"},
		"small letters":  {secret, " lamp-oil-77", "of the secret in lower case"},
		"cut":            {long, long[:72], "of its first 72 bytes"},
		"blank":          {secret, "", "of the empty text"},
		"something else": {secret, "Fog-horn-12", "of another, unknown text"},
	} {
		odd, _ := kept(t, [2]string{c.sent, c.sent}, [2][]observation.Cell{row(argon2("saltsalt", c.hashed)), row(argon2("othersalt", c.hashed))})
		if c.says == "" {
			require.Empty(t, odd, name)
			continue
		}
		require.Equal(t, map[string]string{"keepers.word: of the secret": c.says}, odd, name)
	}
	odd, _ := kept(t, [2]string{"Lamp-oil-77", "Fog-horn-12"}, [2][]observation.Cell{row(argon2("saltsalt", "Lamp-oil-77")), row(argon2("othersalt", "Lamp-oil-77"))})
	require.Equal(t, map[string]string{"keepers.word: of the secret": "of the one sent before"}, odd)
}

func TestAFastDigestIsNamedWhereverItsSaltIs(t *testing.T) {
	t.Parallel()
	sum := sha256.Sum256([]byte("pepperLamp-oil-77"))
	salted := row(hex.EncodeToString(sum[:]), observation.Cell{Column: "salt", Value: "pepper"})
	odd, _ := kept(t, [2]string{"Lamp-oil-77", "Lamp-oil-77"}, [2][]observation.Cell{salted, salted})
	require.Equal(t, "as a fast hash (SHA-256) with the salt in salt", odd["keepers.word"])
}

// TestACodedSecretIsFoundWhereverItStands in a text: at its beginning, in its midst, at its end, and within a longer stretch of such
// characters; not where a part of it is missing.
func TestACodedSecretIsFoundWhereverItStands(t *testing.T) {
	t.Parallel()
	const secret = "Maple-row-42"
	for form, text := range map[string]string{
		"base64":      base64.RawStdEncoding.EncodeToString([]byte(secret)),
		"hexadecimal": strings.ToUpper(hex.EncodeToString([]byte(secret))),
		"SHA-256":     fmt.Sprintf("%x", sha256.Sum256([]byte(secret))),
	} {
		for _, around := range []string{"%s", "%s is it", "it is %s", "it is <b>%s</b>.", "ab%scd", "short runs, and-then %s."} {
			require.Equal(t, form, judge.Shown(secret, fmt.Sprintf(around, text)), around)
			require.Empty(t, judge.Shown(secret, fmt.Sprintf(around, text[1:])), around)
			require.Empty(t, judge.Shown(secret, fmt.Sprintf(around, text[:8]+" "+text[8:])), around)
		}
	}
}
