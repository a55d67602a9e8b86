package learning

import (
	"slices"

	"oddtick/core/draft"
	"oddtick/core/learn"
	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/universal"
)

// judge looks for what is unusual of a submission, and keeps what is needed to compare it with others. about is the id of the only field that
// differs from what is accepted, rule the page's own rule that its value breaks; both "" for none.
func (s *session) judge(p *draft.Probe, about, rule string) {
	one := &universal.Submitted{Form: s.target.Form, Step: p.Step, Ending: s.ending(p), Field: about, Rule: rule}
	s.unusual = universal.Add(s.unusual, universal.Step(one)...)
	kept := *p.Step // the answers' bodies are large, and looked at once
	kept.Exchanges = slices.Clone(kept.Exchanges)
	for i := range kept.Exchanges {
		kept.Exchanges[i].Body = ""
	}
	one.Step = &kept
	s.seen = append(s.seen, one)
}

// ending is how a submission ended: it was rejected where the form came back and a message says why, or nothing was written.
func (s *session) ending(p *draft.Probe) universal.Ending {
	o := p.Step
	switch first := o.First(); {
	case first == nil || o.Failure != "" || first.Status >= 500:
		return universal.Unclear
	case p.Accepted():
		return universal.Accepted
	case o.After != nil && o.After.Form != nil && (len(p.SeenMessages(s.form)) > 0 || len(o.Watched) > 0 && !wrote(o)):
		return universal.Rejected
	}
	return universal.Unclear
}

func wrote(o *observation.Step) bool { return len(o.Changes) > 0 }

// sameName is how like each other the names of a field and of its column are that are all but the same.
const sameName = 0.9

// likeEnough is how like each other they are at least where the value alone says little.
const likeEnough = 0.5

// columnsByName finds the columns of fields whose values were not found where they are stored: one that is named like the field, and that held at
// least once what was sent, or whose name is the same and that always holds a day or a time, as the field does.
func (s *session) columnsByName() {
	taken := map[string]bool{}
	for _, column := range s.columns {
		taken[column] = true
	}
	for _, f := range s.target.Form.Fields {
		if s.columns[f.ID] != "" || f.Secret || f.Kind == spec.Checkbox || f.Kind.Untouched() {
			continue
		}
		best, column := 0.0, ""
		for _, one := range s.seen {
			sent, was := one.Step.Sent.Of(f)
			if one.Ending != universal.Accepted || !was || sent == "" {
				continue
			}
			for _, ch := range one.Step.Changes {
				for _, cell := range ch.After {
					name := ch.Table + "." + cell.Column
					if like := draft.Likeness(f.Field, cell.Column); like > best && !taken[name] && (universal.Holds(f.Kind, sent, cell) || like >= sameName && universal.OfKind(f.Kind, cell)) {
						best, column = like, name
					}
				}
			}
		}
		if column != "" {
			s.columns[f.ID], taken[column] = column, true
		}
	}
	for _, one := range s.seen {
		one.Columns = s.columns
	}
}

// allUnusual is what is unusual of the whole form, the gravest first.
func (s *session) allUnusual(fields []*learn.Learned, db *schema.Database) []universal.Unusual {
	s.columnsByName()
	out := universal.Add(s.unusual, universal.Several(s.seen)...)
	for _, l := range fields {
		if l.Unique == nil {
			continue
		}
		f := &s.form.Fields[slices.IndexFunc(s.form.Fields, func(f spec.Field) bool { return f.ID == l.Field })]
		u := universal.Uniqueness{Field: f.ID, Kind: f.Kind, Name: f.Name, Column: s.columns[f.ID], InCapitals: l.Unique.InCapitals, WithSpaces: l.Unique.WithSpaces}
		out = universal.Add(out, universal.Unique(u, db)...)
	}
	out = universal.Add(out, s.unusualOfAccounts(fields)...)
	if s.FromPage != nil {
		out = universal.Add(out, s.FromPage.Unusual...)
	}
	universal.Sort(out)
	return out
}
