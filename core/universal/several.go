package universal

import (
	"slices"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/spec"
)

// Several finds what only several submissions of one form show. They are in the order in which they were made.
func Several(list []*Submitted) (out []Unusual) {
	for _, s := range list {
		if len(s.Form.Fields) == 0 || s.Step == nil || s.Step.First() == nil {
			continue
		}
		out = Add(out, saltShared(list, s)...)
	}
	out = Add(out, Writes(list)...)
	out = Add(out, accepted(list)...)
	return Add(out, messages(list)...)
}

// saltShared compares the stored hashes of other secrets with that of one submission.
func saltShared(list []*Submitted, s *Submitted) (out []Unusual) {
	seen := map[string]bool{} // a secret that is sent twice is looked at once
	for _, f := range s.Form.Fields {
		secret, sent := s.secretOf(f)
		if !sent || seen[secret] {
			continue
		}
		seen[secret] = true
		for _, ch := range s.Step.Changes {
			for _, cell := range ch.After {
				salt, _ := judge.SaltAndCost(cell.Value)
				if salt == "" {
					continue
				}
				shared := slices.ContainsFunc(list, func(o *Submitted) bool {
					other, sent := o.secretOf(f)
					return o != s && sent && other != secret && slices.ContainsFunc(o.Step.Changes, func(c observation.Change) bool {
						twin, _ := observation.CellOf(c.After, cell.Column)
						otherSalt, _ := judge.SaltAndCost(twin.Value)
						return c.Table == ch.Table && c.Key != ch.Key && otherSalt == salt
					})
				})
				if shared {
					out = Add(out, Unusual{Promise: SecretSalt, Field: f.ID, Column: ch.Table + "." + cell.Column})
				}
			}
		}
	}
	return out
}

// secretOf is the secret that was sent for a field.
func (s *Submitted) secretOf(f *spec.PreparedField) (string, bool) {
	if !f.Secret || s.Step == nil || s.Step.Sent == nil {
		return "", false
	}
	v, sent := s.Step.Sent.Of(f)
	return v, sent && v != ""
}

// accepted compares submissions with those that were accepted: a rejected one that writes where accepted ones do, and one that ends
// as they do and writes nothing.
func accepted(list []*Submitted) (out []Unusual) {
	tables, to := map[string]bool{}, map[string]bool{}
	for _, s := range list {
		if s.Ending != Accepted {
			continue
		}
		for _, ch := range s.Step.Changes {
			if ch.Kind == observation.Inserted {
				tables[ch.Table] = true
			}
		}
		if x := s.Step.First(); x != nil && x.Location != "" {
			to[path(x.Location)] = true
		}
	}
	for _, s := range list {
		if s.Step == nil || s.Step.First() == nil {
			continue
		}
		for _, ch := range s.Step.Changes {
			if s.Ending == Rejected && ch.Kind == observation.Inserted && tables[ch.Table] {
				out = Add(out, Unusual{Promise: RejectedStored, Column: ch.Table, Sent: s.sentFor(s.Field)})
			}
		}
		x := s.Step.First()
		if s.Ending != Accepted && len(s.Step.Watched) > 0 && len(s.Step.Changes) == 0 && x.Location != "" && to[path(x.Location)] && (s.Step.After == nil || s.Step.After.Form == nil) {
			out = Add(out, Unusual{Promise: AcceptedUnstored, Field: s.Field, Sent: s.sentFor(s.Field)})
		}
	}
	return out
}

// path is an address without its query.
func path(location string) string {
	before, _, _ := strings.Cut(location, "?")
	return before
}

// leastTimes is how many submissions must show a message at another field before it is called unusual: a single one may be about a value
// that had been accepted before and is no more.
const leastTimes = 2

// messages compares where messages stand and whether controls refer to them.
func messages(list []*Submitted) (out []Unusual) {
	type places struct {
		own, linked int
		at          map[string]int
	}
	by := map[string]*places{}
	anyLinked := false
	var order []string
	for _, s := range list {
		if s.Ending != Rejected || s.Field == "" {
			continue
		}
		if by[s.Field] == nil {
			by[s.Field] = &places{at: map[string]int{}}
			order = append(order, s.Field)
		}
		p := by[s.Field]
		own, others, atForm := s.messagePlaces()
		for _, t := range own {
			p.own++
			if t.Linked {
				p.linked, anyLinked = p.linked+1, true
			}
		}
		if len(own) == 0 && !atForm && len(others) == 1 {
			p.at[others[0]]++
		}
	}
	for _, id := range order {
		p := by[id]
		for other, n := range p.at {
			if n >= leastTimes && p.at[other] == n && !otherAccused(list, other) {
				out = append(out, Unusual{Promise: MessageElsewhere, Field: id, Seen: other})
			}
		}
		if p.own > 0 && p.linked == 0 && anyLinked {
			out = append(out, Unusual{Promise: MessageUnlinked, Field: id})
		}
	}
	return out
}

// otherAccused tells whether a field's message comes whatever is sent: then it is this field's value that is no longer accepted.
func otherAccused(list []*Submitted, field string) bool {
	by := map[string]bool{}
	for _, s := range list {
		if s.Ending != Rejected || s.Field == "" || s.Field == field {
			continue
		}
		if _, others, _ := s.messagePlaces(); slices.Contains(others, field) {
			by[s.Field] = true
		}
	}
	return len(by) > 1
}

// messagePlaces are the messages at the field that differs, the ids of other fields that have one, and whether one stands at none.
func (s *Submitted) messagePlaces() (own []observation.Text, others []string, atForm bool) {
	for _, t := range s.Step.NewTexts() {
		if t.Hidden || strings.TrimSpace(t.Text) == "" {
			continue
		}
		at := ""
		for _, f := range s.Form.Fields {
			if t.Field != "" && t.At(f.Name) && (at == "" || f.ID == s.Field) {
				at = f.ID
			}
		}
		switch {
		case at == s.Field && at != "":
			own = append(own, t)
		case at != "":
			if !slices.Contains(others, at) {
				others = append(others, at)
			}
		case t.Alarm:
			atForm = true
		}
	}
	return own, others, atForm
}

// Uniqueness is what was found of a field whose values are taken once.
type Uniqueness struct {
	Field string
	Kind  spec.Kind
	// Name is the field's request name.
	Name string
	// Column is table.column, "" where it is not known.
	Column string
	// InCapitals and WithSpaces: the same value in other capitals, or with spaces around it, was accepted beside it.
	InCapitals, WithSpaces bool
}

// Unique looks at a field whose values are taken once. db may be nil.
func Unique(u Uniqueness, db *schema.Database) (out []Unusual) {
	if u.InCapitals && (u.Kind == spec.Email || userName(u.Name)) {
		out = append(out, Unusual{Promise: UniqueCase, Field: u.Field, Column: u.Column})
	}
	if u.WithSpaces {
		out = append(out, Unusual{Promise: UniqueSpaces, Field: u.Field, Column: u.Column})
	}
	if table, column := db.Column(u.Column); table != nil && column != nil && !indexed(table, column.Name) {
		out = append(out, Unusual{Promise: UniqueNotIndex, Field: u.Field, Column: u.Column})
	}
	return out
}

// userName tells whether a field's name is one by which people sign in, as forms often name it.
func userName(name string) bool {
	plain := strings.Map(func(r rune) rune {
		if r == '_' || r == '-' {
			return -1
		}
		return r
	}, strings.ToLower(name))
	return slices.Contains([]string{"username", "login", "loginname", "userid", "nickname", "nick", "benutzername"}, plain)
}

// indexed tells whether the database itself keeps a column's values unique, alone or with others, or those of a column made of it.
func indexed(t *schema.Table, column string) bool {
	names := []string{column}
	for _, c := range t.Columns {
		if c.Generated != "" && strings.Contains(strings.ToLower(c.Generated), strings.ToLower(column)) {
			names = append(names, c.Name)
		}
	}
	unique := append([]schema.Unique{{Columns: t.Primary}}, t.Uniques...)
	return slices.ContainsFunc(unique, func(u schema.Unique) bool {
		return slices.ContainsFunc(u.Columns, func(c string) bool {
			return slices.ContainsFunc(names, func(name string) bool { return strings.Contains(strings.ToLower(c), strings.ToLower(name)) })
		})
	})
}
