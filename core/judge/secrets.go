package judge

import (
	"crypto/md5"
	"crypto/sha1"
	"crypto/sha256"
	"crypto/sha512"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"html"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
)

// shortestSought is the shortest secret searched for; shorter ones stand in pages by chance.
const shortestSought = 8

func (j *judging) secrets() Check {
	c := &Check{Check: Secrets}
	if len(j.e.Secrets) == 0 || j.o.Sent == nil {
		c.irrelevant("secrets", "no secret was sent")
		return c.finish()
	}
	for _, id := range j.e.Secrets {
		f := j.p.Field(id)
		secret, _ := j.o.Sent.Value(f.Name)
		j.seen(c, id, secret)
	}
	for i := range j.e.Rows {
		row := &j.e.Rows[i]
		for k := range row.Columns {
			if col := &row.Columns[k]; col.Source == oracle.HoldsHash {
				j.hash(c, row.Table, col)
			}
		}
	}
	return c.finish()
}

// seen searches answers, redirects and columns for a secret and its common encodings.
func (j *judging) seen(c *Check, id, secret string) {
	if len(secret) < shortestSought || j.innocent(id, secret) {
		c.irrelevant(id+" in the response", "too short, or part of what may be shown")
		return
	}
	forms := encodings(secret)
	where := ""
	for i := range j.o.Exchanges {
		x := &j.o.Exchanges[i]
		if form := find(forms, x.Location); form != "" {
			where = form + " in the redirect to " + pathOf(strings.Split(x.Location, "?")[0])
			break
		}
		for _, h := range x.ResponseHeader {
			if form := find(forms, h.Value); form != "" && where == "" {
				where = form + " in the header " + h.Name
			}
		}
		if form := find(forms, x.Body); form != "" && where == "" {
			where = form + " in the page " + pathOf(strings.Split(x.URL, "?")[0])
		}
	}
	c.compare(where == "", id+" in the response", "shown", "nowhere", orNone(where))
	hashColumns := map[string]bool{}
	for i := range j.p.Form.Stored {
		for _, name := range j.p.Form.Stored[i].ColumnNames() {
			if j.p.Form.Stored[i].Columns[name].Secret != "" {
				hashColumns[j.p.Form.Stored[i].Table()+"."+name] = true
			}
		}
	}
	if len(j.o.Watched) == 0 {
		return
	}
	where = ""
	for _, ch := range j.o.Changes {
		for _, cell := range ch.After {
			name := ch.Table + "." + cell.Column
			if form := find(forms, cell.Value); form != "" && !hashColumns[name] {
				where = form + " in " + name
			}
		}
	}
	c.compare(where == "", id+" in other columns", "stored", "nowhere", orNone(where))
}

// innocent: the secret is part of another value or of the page before, so that seeing it proves nothing.
func (j *judging) innocent(id, secret string) bool {
	for _, f := range j.p.Fields {
		if f.ID == id || f.Secret {
			continue
		}
		if v, _ := j.o.Sent.Value(f.Name); strings.Contains(v, secret) {
			return true
		}
	}
	if j.o.Before != nil {
		for _, t := range j.o.Before.Texts {
			if strings.Contains(t.Text, secret) {
				return true
			}
		}
	}
	return false
}

type form struct{ name, text string }

func encodings(secret string) []form {
	b := []byte(secret)
	list := []form{
		{"plain", secret},
		{"percent-encoded", url.QueryEscape(secret)},
		{"percent-encoded", url.PathEscape(secret)},
		{"as markup", html.EscapeString(secret)},
		{"base64", base64.StdEncoding.EncodeToString(b)},
		{"base64", base64.URLEncoding.EncodeToString(b)},
		{"base64", base64.RawStdEncoding.EncodeToString(b)},
		{"hexadecimal", hex.EncodeToString(b)},
		{"hexadecimal", strings.ToUpper(hex.EncodeToString(b))},
	}
	return append(list, digests(secret)...)
}

func digests(secret string) []form {
	b := []byte(secret)
	m, s1, s2, s5 := md5.Sum(b), sha1.Sum(b), sha256.Sum256(b), sha512.Sum512(b)
	var out []form
	for name, sum := range map[string][]byte{"MD5": m[:], "SHA-1": s1[:], "SHA-256": s2[:], "SHA-512": s5[:]} {
		out = append(out, form{name, hex.EncodeToString(sum)}, form{name, strings.ToUpper(hex.EncodeToString(sum))}, form{name, base64.StdEncoding.EncodeToString(sum)})
	}
	slices.SortFunc(out, func(a, b form) int { return strings.Compare(a.name+a.text, b.name+b.text) })
	return out
}

func find(forms []form, text string) string {
	if text == "" {
		return ""
	}
	for _, f := range forms {
		if strings.Contains(text, f.text) {
			return f.name
		}
	}
	return ""
}

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

func (j *judging) hash(c *Check, table string, want *oracle.Column) {
	name := table + "." + want.Name
	f := j.p.Field(want.Field)
	secret, _ := j.o.Sent.Value(f.Name)
	cell, ok := j.storedCell(j.o, table, want.Name)
	switch {
	case len(j.o.Watched) == 0:
		c.unobserved(name, "no database is watched")
		return
	case !ok:
		c.irrelevant(name, "no row was written")
		return
	}
	class := Classify(secret, cell.Value)
	expected := "a salted slow hash"
	if len(want.As) > 0 {
		expected = strings.Join(want.As, " or ")
	}
	allowed := slices.Contains(want.As, class) || len(want.As) == 0 && slices.ContainsFunc(storedClasses[:9], func(s struct {
		class string
		re    *regexp.Regexp
	},
	) bool {
		return s.class == class
	})
	c.compare(allowed, name, "stored "+class, expected, class)
	for _, before := range j.earlier {
		if before.Sent == nil {
			continue
		}
		old, _ := before.Sent.Value(f.Name)
		if oldCell, ok := j.storedCell(before, table, want.Name); ok && old == secret && allowed {
			c.compare(oldCell.Value != cell.Value, name+": salt", "the same salt", "a fresh salt each time", map[bool]string{true: "the same value was stored twice", false: "stored differently"}[oldCell.Value == cell.Value])
		}
	}
}

func (j *judging) storedCell(o *observation.Step, table, column string) (observation.Cell, bool) {
	for _, ch := range o.Changes {
		if ch.Table == table && ch.Kind != observation.Deleted {
			return observation.CellOf(ch.After, column)
		}
	}
	return observation.Cell{}, false
}
