package universal

import (
	"html"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/values"

	"golang.org/x/text/unicode/norm"
)

func status(n int) string { return strconv.Itoa(n) }

// shortestSought is the shortest secret that is looked for; shorter ones stand in rows and pages by chance.
const shortestSought = 8

// secrets looks for secrets in answers, mails and rows.
func (s *Submitted) secrets() (out []Unusual) {
	o := s.Step
	sought := map[string]bool{} // a secret that is sent twice is looked for once
	for _, f := range s.Form.Fields {
		secret, sent := o.Sent.Of(f)
		if !f.Secret || !sent || len(secret) < shortestSought || sought[secret] || s.innocent(f, secret) {
			continue
		}
		sought[secret] = true
		if at := shownAt(o, secret); at != "" {
			out = append(out, Unusual{Promise: SecretShown, Field: f.ID, Seen: at})
		}
		for _, ch := range o.Changes {
			for _, cell := range ch.After {
				if u, is := storedSecret(f, secret, ch, cell); is {
					out = Add(out, u)
				}
			}
		}
	}
	return out
}

// innocent: the secret stands in another value that was sent, or on the page before, so that seeing it proves nothing.
func (s *Submitted) innocent(f *spec.PreparedField, secret string) bool {
	for _, o := range s.Form.Fields {
		if v, _ := s.Step.Sent.Of(o); o.ID != f.ID && !o.Secret && strings.Contains(v, secret) {
			return true
		}
	}
	before := s.Step.Before
	return slices.Contains(s.Step.Known, f.ID) || before != nil && slices.ContainsFunc(before.Texts, func(t observation.Text) bool { return strings.Contains(t.Text, secret) })
}

// shownAt is where a secret is shown: mail, the address of a redirect or a page; "" for nowhere.
func shownAt(o *observation.Step, secret string) string {
	for i := range o.Mails {
		if judge.Shown(secret, o.Mails[i].Subject+"\n"+o.Mails[i].Text) != "" {
			return "mail"
		}
	}
	for i := range o.Exchanges {
		if judge.Shown(secret, o.Exchanges[i].Location) != "" {
			return "address"
		}
	}
	for i := range o.Exchanges {
		if judge.Shown(secret, o.Exchanges[i].Body) != "" {
			return "page"
		}
	}
	return ""
}

// storedSecret tells whether a cell holds a secret in a way from which it can be found.
func storedSecret(f *spec.PreparedField, secret string, ch observation.Change, cell observation.Cell) (Unusual, bool) {
	u := Unusual{Field: f.ID, Column: ch.Table + "." + cell.Column}
	if cell.Null || cell.Value == "" {
		return u, false
	}
	switch class := judge.Classify(secret, cell.Value); class.Is {
	case judge.PlainText:
		u.Promise = SecretPlain
	case judge.PlainWithin:
		u.Promise = SecretElsewhere
	case judge.Reversible:
		u.Promise, u.Seen = SecretReversible, class.Of
	case judge.FastHash:
		u.Promise, u.Seen = SecretFast, class.Of
	default:
		return u, false
	}
	return u, true
}

// Writes finds what is unusual of the rows that submissions wrote, as far as it is known which column holds what.
func Writes(list []*Submitted) (out []Unusual) {
	for _, s := range list {
		if s.Ending != Accepted {
			continue
		}
		if s.Rule != "" && s.counts() {
			out = Add(out, Unusual{Promise: PageLimitIgnored, Field: s.Field, Rule: s.Rule, Sent: s.sentFor(s.Field)})
		}
		changed := map[string]int{}
		for _, c := range s.Step.Changes {
			if c.Kind == observation.Changed {
				changed[c.Table]++
			}
		}
		for _, column := range s.Columns {
			table, _, _ := strings.Cut(column, ".")
			if changed[table] > 1 {
				out = Add(out, Unusual{Promise: OtherRowsChanged, Column: table})
			}
		}
		out = Add(out, s.stored()...)
	}
	return out
}

// Holds tells whether a cell holds what was sent for a field of a kind, written in whatever way.
func Holds(kind spec.Kind, sent string, cell observation.Cell) bool {
	if cell.Null || strings.TrimSpace(cell.Value) == "" {
		return false
	}
	switch kind {
	case spec.Number:
		a, isNumber := decimalOf(strings.TrimSpace(sent))
		b, alsoNumber := decimalOf(cell.Value)
		return isNumber && alsoNumber && a.Cmp(b) == 0
	case spec.SingleChoice:
		return sent == cell.Value
	case spec.Text, spec.Textarea, spec.Email, spec.URL, spec.Tel:
		return otherText(sent, cell.Value) == ""
	case spec.Date, spec.Time:
		return strings.Contains(cell.Value, sent)
	}
	return false
}

// OfKind tells whether a cell holds a day or a time of day, for fields of these kinds.
func OfKind(kind spec.Kind, cell observation.Cell) bool {
	switch kind {
	case spec.Date:
		_, err := values.ParseDate(cell.Value)
		return err == nil
	case spec.Time:
		return minutes(cell.Value) != ""
	}
	return false
}

// stored compares what columns hold with what was sent and accepted.
func (s *Submitted) stored() (out []Unusual) {
	for _, f := range s.Form.Fields {
		column := s.Columns[f.ID]
		sent, was := s.Step.Sent.Of(f)
		cell, known := s.cell(column)
		if column == "" || !was || f.Secret || !known || cell.Null || strings.TrimSpace(sent) == "" {
			continue
		}
		if id := differs(f.Kind, sent, cell.Value); id != "" {
			out = append(out, Unusual{Promise: id, Field: f.ID, Column: column, Sent: shortened(sent), Seen: shortened(cell.Value)})
		}
	}
	return out
}

// cell is what a column of a row that was written holds.
func (s *Submitted) cell(column string) (observation.Cell, bool) {
	table, name, _ := strings.Cut(column, ".")
	for _, ch := range s.Step.Changes {
		if ch.Table == table && ch.Kind != observation.Deleted {
			return observation.CellOf(ch.After, name)
		}
	}
	return observation.Cell{}, false
}

// differs says how a stored value is another than the one that was sent; "" where it is the same, written in another way.
func differs(kind spec.Kind, sent, stored string) ID {
	switch kind {
	case spec.Number:
		a, err := values.ParseDecimal(strings.ReplaceAll(strings.TrimSpace(sent), ",", "."))
		b, otherErr := values.ParseDecimal(strings.TrimSpace(stored))
		if err == nil && otherErr == nil && a.Cmp(b) != 0 {
			return StoredRounded
		}
	case spec.Date:
		a, err := values.ParseDate(strings.TrimSpace(sent))
		b, otherErr := values.ParseDate(stored[:min(len(stored), len(values.DateLayout))])
		if err == nil && otherErr == nil && !a.Equal(b) {
			return StoredOtherDay
		}
	case spec.Time:
		if clock := minutes(sent); clock != "" && minutes(stored) != "" && clock != minutes(stored) {
			return StoredOtherTime
		}
	case spec.Text, spec.Textarea, spec.Email, spec.URL, spec.Tel:
		return otherText(sent, stored)
	}
	return ""
}

// minutes is the hour and minute of a text such as 14:30:00, "" of what is none.
func minutes(text string) string {
	hours, rest, found := strings.Cut(strings.TrimSpace(text), ":")
	if !found || len(hours) == 0 || len(hours) > 2 || len(rest) < 2 || strings.Trim(hours+rest[:2], "0123456789") != "" {
		return ""
	}
	return strings.TrimLeft(hours, "0") + ":" + rest[:2]
}

// otherText compares texts but for what sites often do to them: capitals, spaces around and doubled, line ends, Unicode forms, and
// what separates the parts of a number or a name.
func otherText(sent, stored string) ID {
	a, b := plain(sent), plain(stored)
	switch {
	case a == b || b == "" && strings.TrimSpace(stored) != "":
		return ""
	case a == plain(html.UnescapeString(stored)):
		return StoredAltered
	}
	if x, isNumber := decimalOf(a); isNumber && !leadingZero(a) {
		if y, isNumber := decimalOf(b); isNumber {
			if x.Cmp(y) == 0 {
				return "" // written in another way
			}
			return StoredRounded
		}
	}
	switch {
	case b != "" && strings.HasPrefix(a, b):
		return StoredCut
	case signs(a) == signs(b):
		return ""
	}
	return StoredAltered
}

// leadingZero: a text of digits that begins with a zero is no number but a code.
func leadingZero(text string) bool {
	return len(text) > 1 && text[0] == '0' && text[1] >= '0' && text[1] <= '9'
}

// decimalOf reads a number with a point or a comma.
func decimalOf(text string) (values.Decimal, bool) {
	d, err := values.ParseDecimal(strings.ReplaceAll(text, ",", "."))
	return d, err == nil
}

// plain is a text without what sites often change.
func plain(text string) string {
	return strings.Join(strings.Fields(strings.ToLower(norm.NFKC.String(text))), " ")
}

// signs are a text's letters and digits, and what is beyond the first plane.
func signs(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r > 0xffff {
			return r
		}
		return -1
	}, text)
}
