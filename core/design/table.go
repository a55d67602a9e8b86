package design

import (
	"fmt"
	"maps"
	"math/bits"
	"slices"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// Table is the decision table of a rule across fields, of a field's condition, or of the success replies.
type Table struct {
	// ID is the rule's id, the field's with ".when", or "replies".
	ID    string `json:"id"`
	Title string `json:"title"`
	// Expression is what is written there.
	Expression string `json:"expression,omitempty"`
	// Path is where its expression stands in the form document; "" for several places.
	Path       string   `json:"path,omitempty"`
	Conditions []string `json:"conditions"`
	Columns    []Column `json:"columns"`
	// Effects say of each condition how it is shown to decide alone.
	Effects []Effect `json:"effects"`
	// Limit says why there are no columns, "" where there are.
	Limit string `json:"limit,omitempty"`
}

// Entry is a column's entry for one condition.
type Entry string

// The entries.
const (
	Yes    Entry = "yes"
	No     Entry = "no"
	Either Entry = "either" // merged: the outcome is the same whether it holds or not
)

// Column is one rule of a decision table.
type Column struct {
	Entries []Entry `json:"entries"`
	Outcome string  `json:"outcome"`
	// Case is the case that goes this way, "" where none can.
	Case string `json:"case,omitempty"`
	// Infeasible says why no input goes this way.
	Infeasible string `json:"infeasible,omitempty"`
}

// Effect is a pair of cases that differ in one condition only and in the outcome (unique-cause modified condition/decision coverage:
// Chilenski and Miller, 1994).
type Effect struct {
	Condition string `json:"condition"`
	Holds     string `json:"holds,omitempty"` // case ids
	Fails     string `json:"fails,omitempty"`
	// Why says why there is no such pair.
	Why string `json:"why,omitempty"`
}

// mostConditions is how many a table is drawn of; mostCombined how many combinations of values are tried.
const (
	mostConditions = 7
	mostCombined   = 5000
)

// decision is what a table is computed from.
type decision struct {
	table     *Table
	technique Technique
	row       string
	atoms     []*spec.Atom
	outcome   func(mask uint32) string
	first     func(outcome string) bool // outcomes of which one case belongs to depth quick
	covers    func(outcome string) []string
	clean     func(e *oracle.Expectation) bool // the case shows this decision and nothing else
	// acceptedOnly: what is not accepted does not go any way.
	acceptedOnly bool
	expression   string // all texts, to find what they compare with

	ways  map[uint32]map[string]Recipe // by which conditions hold: recipes by field
	names []*spec.PreparedField
	whole bool // all values there are were tried
	tries int
	cases map[uint32]string
}

// tables covers rules across fields, fields' conditions and success replies by their decision tables.
func (s *sheet) tables() {
	p := s.d.p
	for i, r := range p.Across {
		asked := p.Form.Across[i].When
		texts := []string{r.Expression}
		if asked != "" {
			texts = append(texts, asked)
		}
		conditions, atoms, err := p.Conditions(texts...)
		if err != nil {
			s.omitted = append(s.omitted, Omission{About: r.ID, Why: err.Error()})
			continue
		}
		s.decide(&decision{
			table: &Table{ID: r.ID, Title: r.Expression, Expression: r.Expression, Path: "across[" + p.Form.Across[i].ID + "].holds"}, row: RowAcross, technique: DecisionTable, atoms: atoms, expression: strings.Join(texts, " "),
			outcome: func(mask uint32) string {
				switch {
				case asked != "" && !conditions[1].Holds(holdsIn(mask)):
					return "not asked"
				case conditions[0].Holds(holdsIn(mask)):
					return "holds"
				}
				return "fails"
			},
			first: func(outcome string) bool { return outcome != "not asked" },
			covers: func(outcome string) []string {
				if outcome == "fails" {
					return []string{"partition " + r.ID + " fails"}
				}
				return []string{"partition " + r.ID + " " + outcome}
			},
			clean: func(e *oracle.Expectation) bool {
				return e.Outcome == oracle.Accepted || len(e.Failing) == 1 && e.Failing[0].Rule == r.ID
			},
		})
	}
	for _, f := range p.Fields {
		if f.When == "" || f.Kind.Untouched() {
			continue
		}
		conditions, atoms, err := p.Conditions(f.When)
		if err != nil {
			s.omitted = append(s.omitted, Omission{About: f.ID + ".when", Why: err.Error()})
			continue
		}
		s.decide(&decision{
			table: &Table{ID: f.ID + ".when", Title: f.Label + " when " + f.When, Expression: f.When, Path: "fields[" + f.ID + "].when"}, row: f.ID, technique: DecisionTable, atoms: atoms, expression: f.When,
			outcome: func(mask uint32) string {
				if conditions[0].Holds(holdsIn(mask)) {
					return "asked"
				}
				return "not asked"
			},
			first:  func(outcome string) bool { return outcome == "not asked" },
			covers: func(outcome string) []string { return []string{"partition " + f.ID + " " + outcome} },
			clean:  accepted, acceptedOnly: true,
		})
	}
	s.replyTable()
}

func accepted(e *oracle.Expectation) bool { return e.Outcome == oracle.Accepted }

// replyTable tells the success replies apart; the first that applies counts.
func (s *sheet) replyTable() {
	p := s.d.p
	var texts []string
	for _, r := range p.Replies {
		if r.When != "" {
			texts = append(texts, r.When)
		}
	}
	if len(texts) == 0 {
		return
	}
	conditions, atoms, err := p.Conditions(texts...)
	if err != nil {
		s.omitted = append(s.omitted, Omission{About: "replies", Why: err.Error()})
		return
	}
	reply := func(mask uint32) int {
		nth := 0
		for i, r := range p.Replies {
			if r.When == "" || conditions[nth].Holds(holdsIn(mask)) {
				return i
			}
			nth++
		}
		return -1
	}
	named := func(i int) string {
		if i < 0 {
			return "no reply"
		}
		return "reply " + fmt.Sprint(i+1) + ": " + p.Replies[i].Text
	}
	s.decide(&decision{
		table: &Table{ID: "replies", Title: "Success reply"}, row: RowAcross, technique: DecisionTable, atoms: atoms, expression: strings.Join(texts, " "),
		outcome: func(mask uint32) string { return named(reply(mask)) },
		first:   func(string) bool { return true },
		covers:  func(outcome string) []string { return []string{"partition replies " + outcome} },
		clean:   accepted, acceptedOnly: true,
	})
}

func holdsIn(mask uint32) func(int) bool { return func(atom int) bool { return mask>>atom&1 == 1 } }

// decide computes a table and its cases.
func (s *sheet) decide(x *decision) {
	for _, a := range x.atoms {
		x.table.Conditions = append(x.table.Conditions, a.Text)
		for _, f := range a.Names {
			if !slices.Contains(x.names, f) {
				x.names = append(x.names, f)
			}
		}
	}
	if len(x.atoms) > 30 {
		x.table.Limit = fmt.Sprintf("%d conditions are more than can be combined; split the expression", len(x.atoms))
		s.tabled = append(s.tabled, x.table)
		return
	}
	x.cases = map[uint32]string{}
	s.findWays(x)
	s.effects(x)
	if len(x.atoms) <= mostConditions {
		s.columns(x)
	} else {
		x.table.Limit = fmt.Sprintf("a table of %d conditions has %d columns and is not drawn; each condition's own effect is tested", len(x.atoms), 1<<len(x.atoms))
		s.firsts(x)
	}
	s.tabled = append(s.tabled, x.table)
	if strings.HasPrefix(x.table.ID, "across.") && !s.alone[x.table.ID] {
		s.omitted = append(s.omitted, Omission{About: x.table.ID, Why: "no values of its fields were found that break this rule and no other"})
	}
}

// findWays tries combinations of values of the named fields, and keeps for every combination of conditions the first that shows this
// decision alone, or else the first at all.
func (s *sheet) findWays(x *decision) {
	x.ways = map[uint32]map[string]Recipe{}
	choices := make([][]Recipe, len(x.names))
	vars := s.d.baseVars()
	variables := make([][]any, len(x.names))
	x.whole = true
	for i, f := range x.names {
		all, whole := s.d.candidates(f, x.expression)
		x.whole = x.whole && whole
		for _, r := range all {
			text, present, ok := s.d.resolveOne(f, r)
			if !ok {
				continue
			}
			v := f.ValueOf(text, present)
			choices[i] = append(choices[i], r)
			variables[i] = append(variables[i], f.Var(&v))
		}
		if len(choices[i]) == 0 {
			x.whole = false
			return
		}
	}
	clean := map[uint32]int{} // tries spent on a clean one; -1 when found
	at := make([]int, len(x.names))
	for ; x.tries < mostCombined; x.tries++ {
		for i, f := range x.names {
			vars[f.ID] = variables[i][at[i]]
		}
		if mask, known := maskOf(x.atoms, vars); known && clean[mask] >= 0 && clean[mask] < 40 {
			pick := map[string]Recipe{}
			for i, f := range x.names {
				pick[f.ID] = choices[i][at[i]]
			}
			clean[mask]++
			if e, ok := s.expect(pick); ok && x.clean(e) {
				clean[mask] = -1
				x.ways[mask] = pick
			} else if x.ways[mask] == nil {
				x.ways[mask] = pick
			}
		}
		if !next(at, choices) {
			x.tries++
			s.cleanUp(x, clean)
			return
		}
	}
	x.whole = false
	s.cleanUp(x, clean)
}

// cleanUp gives fields that only other rules name such values that those rules hold, where a way breaks them too.
func (s *sheet) cleanUp(x *decision, clean map[uint32]int) {
	for mask, pick := range x.ways {
		if clean[mask] < 0 {
			continue
		}
		e, ok := s.expect(pick)
		if !ok {
			continue
		}
		var names []*spec.PreparedField
		var choices [][]Recipe
		for _, r := range s.d.p.Across {
			if !slices.ContainsFunc(e.Failing, func(f oracle.Failure) bool { return f.Rule == r.ID }) {
				continue
			}
			for _, f := range r.Names {
				if _, named := pick[f.ID]; !named && !slices.Contains(names, f) {
					all, _ := s.d.candidates(f, r.Expression)
					names, choices = append(names, f), append(choices, all)
				}
			}
		}
		at := make([]int, len(names))
		for tries := 0; len(names) > 0 && tries < 200; tries++ {
			wider := maps.Clone(pick)
			for i, f := range names {
				wider[f.ID] = choices[i][at[i]]
			}
			if e, ok := s.expect(wider); ok && x.clean(e) {
				x.ways[mask], clean[mask] = wider, -1
				break
			}
			if !next(at, choices) {
				break
			}
		}
		if x.acceptedOnly && clean[mask] >= 0 {
			delete(x.ways, mask)
		}
	}
}

// next counts up, the last place changing fastest; false at the end.
func next(at []int, choices [][]Recipe) bool {
	for i := len(at) - 1; i >= 0; i-- {
		if at[i]++; at[i] < len(choices[i]) {
			return true
		}
		at[i] = 0
	}
	return false
}

// maskOf tells which conditions hold; known is false where one cannot be told.
func maskOf(atoms []*spec.Atom, vars map[string]any) (mask uint32, known bool) {
	for i, a := range atoms {
		truth, ok := a.True(vars)
		if !ok {
			return 0, false
		}
		if truth {
			mask |= 1 << i
		}
	}
	return mask, true
}

// expect asks the oracle what the base with some recipes replaced leads to.
func (s *sheet) expect(replace map[string]Recipe) (*oracle.Expectation, bool) {
	probe := &Case{ID: "probe", Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, replace)}}}
	resolved, err := s.d.Resolve(probe, 0, s.d.referenceEnv(s.drafts))
	if err != nil {
		return nil, false
	}
	sub := s.d.referenceSubmission(&probe.Steps[0], resolved)
	return oracle.Expect(s.d.p, &oracle.World{Now: ReferenceDay, Driver: oracle.HTTP}, sub), true
}

// caseOf is the case in which exactly these conditions hold; it is made at its first use.
func (s *sheet) caseOf(x *decision, mask uint32, depth Depth, extra ...string) string {
	outcome := x.outcome(mask)
	if id, known := x.cases[mask]; known {
		s.cover(id, depth, extra...)
		return id
	}
	literals := make([]string, len(x.atoms))
	words := make([]string, len(x.atoms))
	entries := make([]Entry, len(x.atoms))
	for i, a := range x.atoms {
		literals[i], words[i], entries[i] = literal(a.Text), a.Text, Yes
		if mask>>i&1 == 0 {
			literals[i], words[i], entries[i] = "!"+literals[i], "not "+words[i], No
		}
	}
	role := strings.Join(literals, ",")
	c := &Case{
		ID: s.id(x.table.ID + ".given:" + role), Title: outcome + ": " + strings.Join(words, ", "), Row: x.row, Technique: x.technique,
		Covers: append(x.covers(outcome), extra...), Mark: Mark{x.table.ID, float64(len(x.cases)), ColumnText(entries)},
		Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, x.ways[mask])}},
	}
	s.add(depth, c)
	if s.seen[c.ID] == nil {
		c.ID = "" // it cannot be built; the omission says why
	}
	x.cases[mask] = c.ID
	return c.ID
}

// literal is an atom as it stands in a case's id.
func literal(text string) string {
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune(" \"'/", r) {
			return -1
		}
		return r
	}, text)
}

func short(label string) string {
	if len(label) > 40 {
		return label[:39] + "…"
	}
	return label
}

// effects finds for each condition two ways that differ in it and in the outcome only.
func (s *sheet) effects(x *decision) {
	masks := s.masks(x)
	for i := range x.atoms {
		e := Effect{Condition: x.table.Conditions[i]}
		best, worth := uint32(0), -1
		for _, m := range masks {
			if m>>i&1 == 0 || x.ways[m^1<<i] == nil || x.outcome(m) == x.outcome(m^1<<i) {
				continue
			}
			// those that are cases already are preferred
			n := 0
			for _, one := range []uint32{m, m ^ 1<<i} {
				if _, known := x.cases[one]; known {
					n++
				}
			}
			if n > worth {
				best, worth = m, n
			}
		}
		if worth < 0 {
			e.Why = s.noEffect(x, i)
		} else {
			about := "effect " + x.table.ID + " " + e.Condition
			e.Holds = s.caseOf(x, best, Standard, about+" holds")
			e.Fails = s.caseOf(x, best^1<<i, Standard, about+" fails")
		}
		x.table.Effects = append(x.table.Effects, e)
	}
}

func (s *sheet) noEffect(x *decision, i int) string {
	if len(x.atoms) <= 20 {
		decides := false
		for m := range uint32(1) << len(x.atoms) {
			decides = decides || x.outcome(m) != x.outcome(m^1<<i)
		}
		if !decides {
			return "whether it holds never changes the outcome"
		}
	}
	return "no two inputs differ in it and in the outcome alone; " + x.proof()
}

func (x *decision) proof() string {
	switch {
	case x.whole && x.acceptedOnly:
		return fmt.Sprintf("all %d combinations of the fields' values were tried, and none is accepted", x.tries)
	case x.whole:
		return fmt.Sprintf("all %d combinations of the fields' values were tried", x.tries)
	}
	return fmt.Sprintf("none were found among %d combinations of the fields' values", x.tries)
}

// masks are the ways that were found, most conditions first.
func (s *sheet) masks(x *decision) []uint32 {
	out := make([]uint32, 0, len(x.ways))
	for m := range x.ways {
		out = append(out, m)
	}
	slices.SortFunc(out, func(a, b uint32) int { return order(b, a, len(x.atoms)) })
	return out
}

// order compares masks with the first condition as the leading place.
func order(a, b uint32, n int) int {
	ra, rb := bits.Reverse32(a)>>(32-n), bits.Reverse32(b)>>(32-n)
	return int(ra) - int(rb)
}

// cube is a merged column: the conditions in care hold as in mask, the others either way.
type cube struct{ mask, care uint32 }

// columns merges the full table and makes a case of every column that some input goes.
func (s *sheet) columns(x *decision) {
	n := len(x.atoms)
	merged := merge(n, x.outcome)
	firsts := map[string]bool{}
	for _, c := range merged {
		column := Column{Outcome: x.outcome(c.mask)}
		for i := range n {
			switch {
			case c.care>>i&1 == 0:
				column.Entries = append(column.Entries, Either)
			case c.mask>>i&1 == 1:
				column.Entries = append(column.Entries, Yes)
			default:
				column.Entries = append(column.Entries, No)
			}
		}
		var inside []uint32
		for _, m := range s.masks(x) {
			if m&c.care == c.mask {
				inside = append(inside, m)
			}
		}
		if len(inside) == 0 {
			column.Infeasible = x.infeasible(c)
			x.table.Columns = append(x.table.Columns, column)
			continue
		}
		chosen := inside[0]
		for _, m := range inside {
			if _, known := x.cases[m]; known {
				chosen = m
				break
			}
		}
		depth := Standard
		if x.first(column.Outcome) && !firsts[column.Outcome] {
			firsts[column.Outcome] = true
			depth = Quick
		}
		column.Case = s.caseOf(x, chosen, depth, "column "+x.table.ID+" "+ColumnText(column.Entries))
		for _, m := range inside {
			s.caseOf(x, m, Thorough)
		}
		x.table.Columns = append(x.table.Columns, column)
	}
}

// ColumnText writes a column's entries as y, n and -.
func ColumnText(entries []Entry) string {
	var out strings.Builder
	for _, e := range entries {
		out.WriteByte(map[Entry]byte{Yes: 'y', No: 'n', Either: '-'}[e])
	}
	return out.String()
}

// firsts makes one case of each outcome, where there is no table.
func (s *sheet) firsts(x *decision) {
	seen := map[string]bool{}
	for _, m := range s.masks(x) {
		if outcome := x.outcome(m); !seen[outcome] {
			seen[outcome] = true
			s.caseOf(x, m, Quick)
		}
	}
}

// merge joins columns that differ in one condition and have one outcome, until none are left. Every input goes one column.
func merge(n int, outcome func(uint32) string) []cube {
	all := uint32(1)<<n - 1
	var list []cube
	for m := range uint32(1) << n {
		list = append(list, cube{m, all})
	}
	slices.SortFunc(list, func(a, b cube) int { return order(b.mask, a.mask, n) })
	for merged := true; merged; {
		merged = false
		for i := n - 1; i >= 0; i-- {
			var kept []cube
			gone := map[cube]bool{}
			index := map[cube]bool{}
			for _, c := range list {
				index[c] = true
			}
			for _, c := range list {
				if gone[c] {
					continue
				}
				other := cube{c.mask ^ 1<<i, c.care}
				if c.care>>i&1 == 1 && index[other] && !gone[other] && outcome(c.mask) == outcome(other.mask) {
					gone[c], gone[other] = true, true
					kept = append(kept, cube{c.mask &^ (1 << i), c.care &^ (1 << i)})
					merged = true
					continue
				}
				kept = append(kept, c)
			}
			list = kept
		}
	}
	return list
}

// infeasible names the fewest entries of a column that no input has together.
func (x *decision) infeasible(c cube) string {
	cared := []int{}
	for i := range x.atoms {
		if c.care>>i&1 == 1 {
			cared = append(cared, i)
		}
	}
	for size := 1; size <= len(cared); size++ {
		for subset := range uint32(1) << len(cared) {
			if bits.OnesCount32(subset) != size {
				continue
			}
			var care uint32
			for k, i := range cared {
				if subset>>k&1 == 1 {
					care |= 1 << i
				}
			}
			if x.seen(care, c.mask&care) {
				continue
			}
			var words []string
			for _, i := range cared {
				switch {
				case care>>i&1 == 0:
				case c.mask>>i&1 == 1:
					words = append(words, x.table.Conditions[i])
				default:
					words = append(words, "not "+x.table.Conditions[i])
				}
			}
			if size == 1 {
				return words[0] + " is never so: " + x.proof()
			}
			return strings.Join(words, " and ") + " are never so together: " + x.proof()
		}
	}
	return x.proof()
}

func (x *decision) seen(care, mask uint32) bool {
	for m := range x.ways {
		if m&care == mask {
			return true
		}
	}
	return false
}
