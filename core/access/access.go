// Package access says who may open what: of every visitor and every page of a site, what is expected, what that hangs on, and, of what
// was seen, by which slip in a state's condition it could be explained.
package access

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Visitor is an account, or nobody, with what is stored about it.
type Visitor struct {
	// Account is the account's id; "" is a guest.
	Account string `json:"account"`
	// State is the one that the visitor is in; "" where that is not known, for Why.
	State string     `json:"state,omitempty"`
	Why   prose.Text `json:"why,omitempty"`
	// True tells which of the conditions' parts hold, in the order of Matrix.Conditions; nil where what is stored is not known.
	True []bool `json:"true,omitempty"`
}

// Expected is what becomes of a page that a visitor opens.
type Expected struct {
	Opens bool `json:"opens"`
	// To is where the visitor is sent instead, or spec.Forbidden; "" where anything but the page will do.
	To string `json:"to,omitempty"`
}

// Others marks, behind a page's id, the page of another visitor's key.
const Others = ".others"

// Matrix is a site's access, computed from its document.
type Matrix struct {
	site       *spec.Site
	conditions *spec.StateConditions
	// Conditions are the parts of the states' conditions that hold or do not.
	Conditions []string
}

// New computes a site's access. A condition that cannot be read is an error, and so is a page that menus offer and that is not named under pages:.
func New(site *spec.Site) (*Matrix, error) {
	conditions, err := site.StateConditions()
	if err != nil {
		return nil, err
	}
	m := &Matrix{site: site, conditions: conditions}
	for _, a := range conditions.Atoms {
		m.Conditions = append(m.Conditions, a.Text)
	}
	return m, m.unknown()
}

// Page is a page as it is opened.
type Page struct {
	ID   string `json:"id"`
	Path string `json:"path"`
	// Others: with another visitor's key in its path.
	Others bool `json:"others,omitempty"`
}

// Pages are all pages, those with a key in their path also with another visitor's.
func (m *Matrix) Pages() []Page {
	var out []Page
	for _, p := range m.site.Pages {
		out = append(out, Page{ID: p.ID, Path: p.Path})
		if strings.Contains(p.Path, "{key}") {
			out = append(out, Page{ID: p.ID + Others, Path: p.Path, Others: true})
		}
	}
	return out
}

// Place finds the state of a visitor by what is stored, nil where that is not known. Of an account that is known only by the
// document, the document's word is taken.
func (m *Matrix) Place(v *Visitor, facts map[string]any, declared string) {
	if facts != nil {
		for _, a := range m.conditions.Atoms {
			truth, _ := a.True(facts)
			v.True = append(v.True, truth)
		}
	}
	for _, s := range m.site.States {
		c := m.conditions.Of[s.ID]
		if c == nil || facts == nil {
			continue
		}
		if c.Holds(func(i int) bool { return v.True[i] }) {
			v.State = s.ID
			break
		}
	}
	switch {
	case v.State == "" && len(m.site.States) > 0 && v.Account == "":
		v.State = m.site.States[0].ID // where visitors begin
	case v.State == "" && declared != "":
		v.State = declared
	case v.State == "":
		v.Why = phrases.NoStateHolds.Text()
	case declared != "" && declared != v.State && v.Account != "":
		v.Why = phrases.OtherState.With("declared", declared, "stored", v.State)
	}
}

// Expect is what becomes of a page that a visitor in a state opens.
func (m *Matrix) Expect(state string, p Page) Expected {
	s := m.state(state)
	if s == nil {
		return Expected{}
	}
	if slices.Contains(s.MayOpen, p.ID) || slices.Contains(s.MayOpen, p.Path) && !p.Others {
		return Expected{Opens: true}
	}
	id := strings.TrimSuffix(p.ID, Others)
	for _, name := range []string{p.ID, id, p.Path} {
		if to := s.DeniedByPage[name]; to != "" {
			return Expected{To: to}
		}
	}
	return Expected{To: s.Denied}
}

// Offered are the ids of the pages that the menus of a state's visitors offer; promised is false where nothing is said of them.
func (m *Matrix) Offered(state string) (ids []string, promised bool) {
	s := m.state(state)
	if s == nil || s.Menu == nil {
		return nil, false
	}
	for _, name := range s.Menu {
		ids = append(ids, m.named(name))
	}
	slices.Sort(ids)
	return ids, true
}

// At is the id of the page at a path; "" where the document names none there.
func (m *Matrix) At(path string) string {
	for _, p := range m.site.Pages {
		before, after, keyed := strings.Cut(p.Path, "{key}")
		if !keyed && strings.TrimSuffix(p.Path, "/") == strings.TrimSuffix(path, "/") {
			return p.ID
		}
		if rest, ok := strings.CutPrefix(path, before); keyed && ok {
			if key, ok := strings.CutSuffix(rest, after); ok && key != "" && !strings.Contains(key, "/") {
				return p.ID
			}
		}
	}
	return ""
}

// named is the id of a page that is named by its id or its path; "" for an unknown one.
func (m *Matrix) named(name string) string {
	for _, p := range m.site.Pages {
		if name == p.ID || name == p.Path || name == p.ID+Others && strings.Contains(p.Path, "{key}") {
			return p.ID
		}
	}
	return ""
}

// unknown is the first page that a state's menus offer and the document does not name.
func (m *Matrix) unknown() error {
	for _, s := range m.site.States {
		for _, name := range s.Menu {
			if m.named(name) == "" {
				return fmt.Errorf("states[%s].menu: there is no page %q; name it under pages:, with id and path", s.ID, name)
			}
		}
	}
	return nil
}

func (m *Matrix) state(id string) *spec.State {
	for i := range m.site.States {
		if m.site.States[i].ID == id {
			return &m.site.States[i]
		}
	}
	return nil
}

// Lacking are mixes of the conditions' parts that no visitor has, and without which a slip in a state's condition would not show:
// for each part a pair in which it alone decides (modified condition/decision coverage). Known visitors are those whose stored row
// was read.
func (m *Matrix) Lacking(visitors []Visitor) []prose.Text {
	var lacks []lack
	for _, s := range m.site.States {
		c := m.conditions.Of[s.ID]
		if c == nil {
			continue
		}
		for _, other := range c.Mistaken() {
			told := func(v Visitor) bool {
				truth := func(i int) bool { return v.True[i] }
				return v.True != nil && c.Holds(truth) != other.Holds(truth)
			}
			if slices.ContainsFunc(visitors, told) {
				continue
			}
			if mask, mix, possible := m.distinguishing(c, other, visitors); possible {
				lacks = append(lacks, lack{s.ID, c.Text(m.conditions.Atoms), other.Text(m.conditions.Atoms), mask, mix})
			}
		}
	}
	slices.SortFunc(lacks, func(a, b lack) int {
		return cmp.Or(cmp.Compare(a.state, b.state), cmp.Compare(a.condition, b.condition), cmp.Compare(a.other, b.other), cmp.Compare(a.mask, b.mask))
	})
	var out []prose.Text
	for _, l := range slices.CompactFunc(lacks, func(a, b lack) bool {
		return a.state == b.state && a.condition == b.condition && a.other == b.other && a.mask == b.mask
	}) {
		out = append(out, phrases.NoAccountTells.With("state", l.state, "condition", l.condition, "other", l.other, "mix", l.mix))
	}
	return out
}

// lack is a mix of the conditions' parts without which a state's condition cannot be told from another.
type lack struct {
	state, condition, other string
	mask                    int
	mix                     prose.Text
}

// distinguishing is the mix with the fewest changes from a visitor's own that tells two conditions apart.
func (m *Matrix) distinguishing(a, b *spec.Condition, visitors []Visitor) (mask int, mix prose.Text, possible bool) {
	n := len(m.conditions.Atoms)
	if n > 12 {
		return 0, "", false
	}
	best, fewest := -1, n+1
	for mask := range 1 << n {
		truth := func(i int) bool { return mask>>i&1 == 1 }
		if a.Holds(truth) == b.Holds(truth) || !m.possible(truth) {
			continue
		}
		changes := n
		for _, v := range visitors {
			if v.True == nil || v.Account == "" {
				continue
			}
			differing := 0
			for i, t := range v.True {
				if t != truth(i) {
					differing++
				}
			}
			changes = min(changes, differing)
		}
		if changes < fewest {
			best, fewest = mask, changes
		}
	}
	if best < 0 {
		return 0, "", false
	}
	var words []prose.Text
	for i, a := range m.conditions.Atoms {
		if best>>i&1 == 1 {
			words = append(words, prose.Text(a.Text))
		} else {
			words = append(words, phrases.ConditionNot.With("condition", a.Text))
		}
	}
	return best, prose.Join(words, ", "), true
}

// possible: nothing is stored about a visitor who is not signed in.
func (m *Matrix) possible(truth func(int) bool) bool {
	signed, any := true, false
	for i, a := range m.conditions.Atoms {
		if a.Text == "signed_in" {
			signed = truth(i)
		} else {
			any = any || truth(i)
		}
	}
	return signed || !any
}

// Seen is whether a page opened for a visitor.
type Seen struct {
	Visitor Visitor
	Opened  bool
}

// Explain finds a slip in one state's condition that explains all that was seen of a page, the simplest first: "as if member were
// …". It is "" where there is none, or where what was seen is as it should be.
func (m *Matrix) Explain(p Page, seen []Seen) prose.Text {
	type slip struct{ state, other, condition string }
	var slips []slip
	for _, s := range m.site.States {
		c := m.conditions.Of[s.ID]
		if c == nil {
			continue
		}
		for _, other := range c.Mistaken() {
			fits, differs := true, false
			for _, one := range seen {
				state, known := m.placeWith(one.Visitor, s.ID, other)
				if !known {
					continue
				}
				opens := m.Expect(state, p).Opens
				fits = fits && opens == one.Opened
				differs = differs || opens != m.Expect(one.Visitor.State, p).Opens
			}
			if fits && differs {
				slips = append(slips, slip{s.ID, other.Text(m.conditions.Atoms), c.Text(m.conditions.Atoms)})
			}
		}
	}
	if len(slips) == 0 {
		return ""
	}
	simplest := slices.MinFunc(slips, func(a, b slip) int { return len(a.other) - len(b.other) })
	return phrases.AsIfCondition.With("state", simplest.state, "other", simplest.other, "condition", simplest.condition)
}

// placeWith is the state of a visitor if one state's condition were another.
func (m *Matrix) placeWith(v Visitor, id string, other *spec.Condition) (state string, known bool) {
	if v.True == nil {
		return v.State, v.State != ""
	}
	for _, s := range m.site.States {
		c := m.conditions.Of[s.ID]
		if s.ID == id {
			c = other
		}
		if c != nil && c.Holds(func(i int) bool { return v.True[i] }) {
			return s.ID, true
		}
	}
	return "", false
}
