// Package decision makes decision tables of conditions: inputs for every combination of them, the effect of each alone, and columns that
// are merged where a condition does not matter.
package decision

import (
	"fmt"
	"math/bits"
	"slices"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// Table is the decision table of a rule across fields, of a field's condition, or of the success replies.
type Table struct {
	// ID is the rule's id, the field's with ".when", or "replies".
	ID    string     `json:"id"`
	Title prose.Text `json:"title"`
	// Expression is what is written there.
	Expression string `json:"expression,omitempty"`
	// Path is where its expression stands in the form document; "" for several places.
	Path       string   `json:"path,omitempty"`
	Conditions []string `json:"conditions"`
	Columns    []Column `json:"columns"`
	// Effects say of each condition how it is shown to decide alone.
	Effects []Effect `json:"effects"`
	// Limit says why there are no columns, "" where there are.
	Limit prose.Text `json:"limit,omitempty"`
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
	Infeasible prose.Text `json:"infeasible,omitempty"`
}

// Effect is a pair of cases that differ in one condition only and in the outcome (unique-cause modified condition/decision coverage:
// Chilenski and Miller, 1994).
type Effect struct {
	Condition string `json:"condition"`
	Holds     string `json:"holds,omitempty"` // case ids
	Fails     string `json:"fails,omitempty"`
	// Why says why there is no such pair.
	Why prose.Text `json:"why,omitempty"`
}

// maxConditions is how many a table is drawn of; maxCombined how many combinations of values are tried.
const (
	maxConditions = 7
	maxCombined   = 5000
)

// decision is what a table is computed from.
type decision struct {
	table *Table
	// rule is the rule over several fields that the table is of; nil for another table.
	rule      *spec.PreparedRule
	name      string // of its scale, where the table's id is not one
	technique testcase.Technique
	row       string
	atoms     []*spec.Atom
	outcome   func(mask uint32) string
	first     func(outcome string) bool // outcomes of which one case belongs to depth quick
	covers    func(outcome string) []testcase.Cover
	clean     func(e *oracle.Expectation) bool // the case shows this decision and nothing else
	// acceptedOnly: what is not accepted does not go any way.
	acceptedOnly bool
	expression   string // all texts, to find what they compare with

	ways  map[uint32]map[string]testcase.Recipe // by which conditions hold: recipes by field
	names []*spec.PreparedField
	whole bool // all values there are were tried
	tries int
	cases map[uint32]string
}

// Tables covers rules across fields, fields' conditions and success replies by their decision tables.
func Tables(b *testcase.Builder) []*Table {
	var out []*Table
	p := b.Maker.Form
	for i, r := range p.Across {
		asked := p.Form.Across[i].When
		texts := []string{r.Expression}
		if asked != "" {
			texts = append(texts, asked)
		}
		conditions, atoms, err := p.Conditions(texts...)
		if err != nil {
			b.Omitted = append(b.Omitted, testcase.Omission{About: r.ID, Why: prose.Text(err.Error())})
			continue
		}
		out = append(out, decide(b, &decision{
			table: &Table{ID: r.ID, Title: prose.Text(r.Expression), Expression: r.Expression, Path: "across[" + p.Form.Across[i].ID + "].must_hold"}, rule: r, name: r.Name, row: testcase.RowAcross, technique: testcase.DecisionTable, atoms: atoms, expression: strings.Join(texts, " "),
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
			covers: func(outcome string) []testcase.Cover {
				return testcase.Covering(testcase.CoversPartition, r.ID, outcome)
			},
			clean: func(e *oracle.Expectation) bool {
				return e.Outcome == oracle.Accepted || len(e.Failing) == 1 && e.Failing[0].Rule == r.ID
			},
		}))
	}
	for _, f := range p.Fields {
		if f.When == "" || f.Kind.Untouched() {
			continue
		}
		conditions, atoms, err := p.Conditions(f.When)
		if err != nil {
			b.Omitted = append(b.Omitted, testcase.Omission{About: f.ID + ".when", Why: prose.Text(err.Error())})
			continue
		}
		out = append(out, decide(b, &decision{
			table: &Table{ID: f.ID + ".when", Title: phrases.FieldWhen.With("label", f.Label, "condition", f.When), Expression: f.When, Path: "fields[" + f.ID + "].when"}, name: "when", row: f.ID, technique: testcase.DecisionTable, atoms: atoms, expression: f.When,
			outcome: func(mask uint32) string {
				if conditions[0].Holds(holdsIn(mask)) {
					return "asked"
				}
				return "not asked"
			},
			first: func(outcome string) bool { return outcome == "not asked" },
			covers: func(outcome string) []testcase.Cover {
				return testcase.Covering(testcase.CoversPartition, f.ID, outcome)
			},
			clean: accepted, acceptedOnly: true,
		}))
	}
	if t := replyTable(b); t != nil {
		out = append(out, t)
	}
	return out
}

func accepted(e *oracle.Expectation) bool { return e.Outcome == oracle.Accepted }

// replyTable tells the success replies apart; the first that applies counts.
func replyTable(b *testcase.Builder) *Table {
	p := b.Maker.Form
	var texts []string
	for _, r := range p.Replies {
		if r.When != "" {
			texts = append(texts, r.When)
		}
	}
	if len(texts) == 0 {
		return nil
	}
	conditions, atoms, err := p.Conditions(texts...)
	if err != nil {
		b.Omitted = append(b.Omitted, testcase.Omission{About: "replies", Why: prose.Text(err.Error())})
		return nil
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
	return decide(b, &decision{
		table: &Table{ID: "replies", Title: phrases.SuccessReplyTable.Text()}, row: testcase.RowAcross, technique: testcase.DecisionTable, atoms: atoms, expression: strings.Join(texts, " "),
		outcome: func(mask uint32) string { return named(reply(mask)) },
		first:   func(string) bool { return true },
		covers: func(outcome string) []testcase.Cover {
			return testcase.Covering(testcase.CoversPartition, "replies", outcome)
		},
		clean: accepted, acceptedOnly: true,
	})
}

func holdsIn(mask uint32) func(int) bool { return func(atom int) bool { return mask>>atom&1 == 1 } }

// decide computes a table and its cases.
func decide(b *testcase.Builder, x *decision) *Table {
	for _, a := range x.atoms {
		x.table.Conditions = append(x.table.Conditions, a.Text)
		for _, f := range a.Names {
			if !slices.Contains(x.names, f) {
				x.names = append(x.names, f)
			}
		}
	}
	if len(x.atoms) > 30 {
		x.table.Limit = phrases.TooManyConditions.With("n", len(x.atoms))
		return x.table
	}
	x.cases = map[uint32]string{}
	findWays(b, x)
	effects(b, x)
	if len(x.atoms) <= maxConditions {
		columns(b, x)
	} else {
		x.table.Limit = phrases.TableNotDrawn.With("n", len(x.atoms), "columns", 1<<len(x.atoms))
		firsts(b, x)
	}
	if x.rule != nil && !b.Alone[x.rule.ID] {
		b.Omitted = append(b.Omitted, testcase.Omission{About: x.rule.ID, Why: phrases.NoValuesBreakThatOnly.Text()})
	}
	return x.table
}

// caseOf is the case in which exactly these conditions hold; it is made at its first use.
func caseOf(b *testcase.Builder, x *decision, mask uint32, depth testcase.Depth, extra ...testcase.Cover) string {
	outcome := x.outcome(mask)
	if id, known := x.cases[mask]; known {
		b.AddCoverage(id, depth, extra...)
		return id
	}
	literals := make([]string, len(x.atoms))
	words := make([]prose.Text, len(x.atoms))
	entries := make([]Entry, len(x.atoms))
	for i, a := range x.atoms {
		literals[i], words[i], entries[i] = literal(a.Text), phrases.ConditionTrue.With("condition", a.Text), Yes
		if mask>>i&1 == 0 {
			literals[i], words[i], entries[i] = "!"+literals[i], phrases.ConditionFalse.With("condition", a.Text), No
		}
	}
	role := strings.Join(literals, ",")
	c := &testcase.Case{
		ID: b.ID(x.table.ID + ".given:" + role), Title: phrases.GivenConditions.With("outcome", outcomeWords(outcome), "conditions", prose.Join(words, ", ")), Row: x.row, Technique: x.technique,
		Covers: append(x.covers(outcome), extra...), Mark: testcase.Mark{Scale: x.table.ID, Name: x.name, At: float64(len(x.cases)), Label: ColumnText(entries)},
		Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, x.ways[mask])}},
	}
	b.Add(depth, c)
	if b.Seen[c.ID] == nil {
		c.ID = "" // it cannot be built; the omission says why
	}
	x.cases[mask] = c.ID
	return c.ID
}

// outcomeWords words the outcome of a column. That of a reply is its number and text.
func outcomeWords(outcome string) prose.Text {
	if words, own := phrases.ColumnOutcomes[outcome]; own {
		return words.Text()
	}
	return prose.Text(outcome)
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

func Short(label string) string {
	if len(label) > 40 {
		return label[:39] + "…"
	}
	return label
}

// masks are the ways that were found, most conditions first.
func masks(x *decision) []uint32 {
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
