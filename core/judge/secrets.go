package judge

import (
	"encoding/base64"
	"encoding/hex"
	"html"
	"maps"
	"math"
	"net/url"
	"slices"
	"strings"

	"oddtick/core/hashed"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// shortestSought is the shortest secret searched for; shorter ones stand in pages by chance.
const shortestSought = 8

func (j *judging) secrets() Check {
	c := &Check{Check: Secrets}
	if len(j.e.Secrets) == 0 || j.o.Sent == nil {
		c.notApplicable(of(Whole), is(NoSecretSent))
		return c.finish()
	}
	for _, id := range j.e.Secrets {
		f := j.p.Field(id)
		secret, _ := j.o.Sent.Of(f)
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
	if len(secret) < shortestSought || slices.Contains(j.o.Known, id) || j.innocent(id, secret) {
		c.notApplicable(ofField(InResponse, id), is(ShortOrInnocent))
		return
	}
	forms := j.formsOf(secret)
	found := is(Nowhere)
	for i := range j.o.Mails {
		if form := forms.find(j.o.Mails[i].Subject + "\n" + j.o.Mails[i].Text); form != "" {
			found = Value{Is: InMailText, Of: form}
		}
	}
	for i := range j.o.Exchanges {
		x := &j.o.Exchanges[i]
		if form := forms.find(x.Location); form != "" {
			found = Value{Is: InRedirect, Of: form, Text: pathOf(strings.Split(x.Location, "?")[0])}
			break
		}
		for _, h := range x.ResponseHeader {
			if form := forms.find(h.Value); form != "" && found.Is == Nowhere {
				found = Value{Is: InHeader, Of: form, Text: h.Name}
			}
		}
		if form := forms.find(x.Body); form != "" && found.Is == Nowhere {
			found = Value{Is: InPage, Of: form, Text: pathOf(strings.Split(x.URL, "?")[0])}
		}
	}
	c.compare(found.Is == Nowhere, ofField(InResponse, id), SecretShown, is(Nowhere), found)
	if len(j.o.Watched) == 0 {
		return
	}
	found = is(Nowhere)
	for _, ch := range j.o.Changes {
		for _, cell := range ch.After {
			if j.keepsSecret(ch.Table, cell.Column) {
				continue
			}
			if form := forms.find(cell.Value); form != "" {
				found = Value{Is: InColumn, Of: form, Text: ch.Table + "." + cell.Column}
			}
		}
	}
	c.compare(found.Is == Nowhere, ofField(InOtherColumns, id), SecretStored, is(Nowhere), found)
}

// keepsSecret tells whether a column is where a secret is to be stored.
func (j *judging) keepsSecret(table, column string) bool {
	return slices.ContainsFunc(j.p.Form.Stored, func(s spec.Stored) bool { return s.Table() == table && s.Columns[column].Secret != "" })
}

// formsOf keeps the forms of the last secret: a password is often sent twice.
func (j *judging) formsOf(secret string) *forms {
	if j.sought == nil || j.sought.secret != secret {
		j.sought = formsOf(secret)
	}
	return j.sought
}

// innocent: the secret is part of another value or of the page before, so that seeing it proves nothing.
func (j *judging) innocent(id, secret string) bool {
	for _, f := range j.p.Fields {
		if f.ID == id || f.Secret {
			continue
		}
		if v, _ := j.o.Sent.Of(f); strings.Contains(v, secret) {
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

// Shown says in which form a secret stands in a text; "" where it does not, or is too short to tell.
func Shown(secret, text string) string {
	if len(secret) < shortestSought {
		return ""
	}
	return formsOf(secret).find(text)
}

type form struct {
	name, text string
	digest     bool
}

// forms are what a secret may look like. Those of codes hold no other characters than those of coded; each is made when a stretch of a
// text is long enough for it.
type forms struct {
	secret  string
	written []form
	codes   []string // by the place among coders
	// shortest is the length of the shortest of codes.
	shortest int
}

// coder writes bytes as a code; length is that of n bytes.
type coder struct {
	name   string
	length func(n int) int
	of     func([]byte) string
	digest bool
}

var coders = func() []coder {
	out := []coder{
		{"base64", base64.RawStdEncoding.EncodedLen, base64.RawStdEncoding.EncodeToString, false},
		{"base64", base64.RawURLEncoding.EncodedLen, base64.RawURLEncoding.EncodeToString, false},
		{"hexadecimal", hex.EncodedLen, hex.EncodeToString, false},
		{"hexadecimal", hex.EncodedLen, upperHex, false},
	}
	for _, d := range hashed.Digests {
		for _, of := range []func([]byte) string{hex.EncodeToString, upperHex, base64.StdEncoding.EncodeToString} {
			length := len(of(d.Of(nil)))
			out = append(out, coder{d.Name, func(int) int { return length }, func(b []byte) string { return of(d.Of(b)) }, true})
		}
	}
	return out
}()

func upperHex(b []byte) string { return strings.ToUpper(hex.EncodeToString(b)) }

func formsOf(secret string) *forms {
	f := &forms{secret: secret, written: []form{{"plain", secret, false}}, codes: make([]string, len(coders)), shortest: math.MaxInt}
	for _, w := range []form{{"percent-encoded", url.QueryEscape(secret), false}, {"percent-encoded", url.PathEscape(secret), false}, {"as markup", html.EscapeString(secret), false}} {
		if w.text != secret {
			f.written = append(f.written, w)
		}
	}
	for i := range coders {
		f.shortest = min(f.shortest, coders[i].length(len(secret)))
	}
	return f
}

// code is the secret's code by a coder.
func (f *forms) code(i int) string {
	if f.codes[i] == "" {
		f.codes[i] = coders[i].of([]byte(f.secret))
	}
	return f.codes[i]
}

// find names the form in which the secret stands in a text, "" where it does not.
func (f *forms) find(text string) string {
	for _, w := range f.written {
		if strings.Contains(text, w.text) {
			return w.name
		}
	}
	// few stretches of a page are long enough for a coded form
	for from := 0; from+f.shortest <= len(text); {
		// looked at from the end of the shortest stretch that could begin here, most characters need not be looked at
		at := from + f.shortest - 1
		for at >= from && coded[text[at]] {
			at--
		}
		if at >= from {
			from = at + 1
			continue
		}
		to := from + f.shortest
		for to < len(text) && coded[text[to]] {
			to++
		}
		for i := range coders {
			if to-from >= coders[i].length(len(f.secret)) && strings.Contains(text[from:to], f.code(i)) {
				return coders[i].name
			}
		}
		from = to
	}
	return ""
}

// coded are the characters of base64, its form for URLs, and hexadecimal digits.
var coded = func() (set [256]bool) {
	for _, c := range []byte("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/-_=") {
		set[c] = true
	}
	return set
}()

func (j *judging) hash(c *Check, table string, want *oracle.Column) {
	hash := ofColumn(SecretHash, table, want.Name)
	f := j.p.Field(want.Field)
	hash.Field = f.ID
	secret, _ := j.o.Sent.Of(f)
	cell, ok := j.storedCell(j.o, table, want.Name)
	switch {
	case len(j.o.Watched) == 0:
		c.unobserved(hash, is(NoDatabaseWatched))
		return
	case !ok:
		c.notApplicable(hash, is(NoRowIsWritten))
		return
	}
	class := Classify(secret, cell.Value)
	if column, digest := j.saltBeside(table, want.Name, secret, cell.Value); digest != "" {
		class = Value{Is: FastHashSalted, Of: digest, Text: column}
	}
	expected := is(SlowHash)
	if len(want.As) > 0 {
		expected = Value{Is: OneOf, Names: want.As}
	}
	_, slow := hashed.KindOf(cell.Value)
	allowed := class.Is == HashKind && slices.Contains(want.As, class.Of) || len(want.As) == 0 && slow
	salt, cost := SaltAndCost(cell.Value)
	if class.Is == HashKind {
		class.Text = cost
	}
	c.compare(allowed, hash, StoredOtherwise, expected, class)
	if !allowed {
		return
	}
	enoughWork(c, hash, want.AtLeast[class.Of].Measures(), hashed.Work(cell.Value))
	ofSecret(j, c, hash, want, f, secret, cell)
	hash.Aspect = Salt
	for _, before := range j.earlier {
		if before.Sent == nil {
			continue
		}
		old, _ := before.Sent.Of(f)
		oldCell, ok := j.storedCell(before, table, want.Name)
		if oldSalt, _ := SaltAndCost(oldCell.Value); ok && old != secret && salt != "" {
			c.compare(oldSalt != salt, hash, SaltReused, is(FreshSalt), either(oldSalt == salt, SharedSalt, AnotherSalt))
		}
		if ok && old == secret {
			same := oldCell.Value == cell.Value
			c.compare(!same, hash, SameHashTwice, is(FreshSalt), either(same, StoredSameTwice, StoredDifferently))
		}
	}
}

// enoughWork compares the work that one guess at a hash takes with the least that is promised.
func enoughWork(c *Check, hash Subject, least, work map[string]int) {
	hash.Aspect = HashWork
	for _, measure := range slices.Sorted(maps.Keys(least)) {
		hash.Member = measure
		n, known := work[measure]
		if !known {
			c.unobserved(hash, is(WorkNotRead))
			continue
		}
		c.compare(n >= least[measure], hash, TooLittleWork, Value{Is: AtLeast, N: least[measure]}, number(n))
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

// saltBeside finds another column of the row with whose value the stored secret is a fast digest, and the digest's name.
func (j *judging) saltBeside(table, column, secret, stored string) (beside, digest string) {
	for _, ch := range j.o.Changes {
		if ch.Table != table || ch.Kind == observation.Deleted {
			continue
		}
		for _, cell := range ch.After {
			if cell.Column == column || cell.Value == "" || cell.Null {
				continue
			}
			if name := hashed.WithSalt(secret, cell.Value, stored); name != "" {
				return cell.Column, name
			}
		}
	}
	return "", ""
}
