package testcase

import (
	"encoding/json"
	"slices"
	"strings"
)

// CoverKind is what kind of thing a case covers.
type CoverKind string

// The kinds of what cases cover. Combinations of so many fields' levels are kinds of their own.
const (
	CoversRule      CoverKind = "rule" // broken alone
	CoversPartition CoverKind = "partition"
	CoversBoundary  CoverKind = "boundary"
	CoversGuess     CoverKind = "guess"
	CoversMutant    CoverKind = "mutant"
	CoversOption    CoverKind = "option"
	CoversRandom    CoverKind = "random"
	CoversMessage   CoverKind = "message"
	CoversColumn    CoverKind = "column"
	CoversEffect    CoverKind = "effect"
	CoversSingle    CoverKind = "single"
	CoversPair      CoverKind = "pair"
	CoversTriple    CoverKind = "triple"
	CoversQuadruple CoverKind = "quadruple"
	CoversQuintuple CoverKind = "quintuple"
	CoversSextuple  CoverKind = "sextuple"
)

// Values are all kinds.
func (CoverKind) Values() []string {
	return []string{
		string(CoversRule), string(CoversPartition), string(CoversBoundary), string(CoversGuess), string(CoversMutant), string(CoversOption), string(CoversRandom), string(CoversMessage), string(CoversColumn),
		string(CoversEffect), string(CoversSingle), string(CoversPair), string(CoversTriple), string(CoversQuadruple), string(CoversQuintuple), string(CoversSextuple),
	}
}

// Combines tells whether it is a combination of levels.
func (k CoverKind) Combines() bool {
	return slices.Contains(CombinedKinds[:], k)
}

// CombinedKinds are the kinds of combinations, by how many levels they combine.
var CombinedKinds = [...]CoverKind{1: CoversSingle, CoversPair, CoversTriple, CoversQuadruple, CoversQuintuple, CoversSextuple}

// Cover is one thing that a case covers: a boundary of a rule, a partition of a field.
type Cover struct {
	Kind CoverKind `json:"kind"`
	// Of is the id of a rule, a field or a table, "form" for the whole form, or the levels of a combination.
	Of string `json:"of"`
	// Point is which of its boundaries, partitions or guesses.
	Point string `json:"point,omitempty"`
}

// The points that more than one place knows of.
const (
	ValidPoint  = "valid"  // the partition of usual values
	BrokenPoint = "broken" // the partition of values that break a rule in no way of their own
	MaxFarPoint = "max far"
	// those of lengths that are right or wrong once the spaces around are taken off
	MaxTrimmed      = "max trimmed"
	BelowMinTrimmed = "min-1 trimmed"
)

// String is the kind, what it is of and the point, parted by spaces.
func (c Cover) String() string {
	if c.Point == "" {
		return string(c.Kind) + " " + c.Of
	}
	return string(c.Kind) + " " + c.Of + " " + c.Point
}

// UnmarshalJSON reads a cover, also as one text, as results of format 1 hold them.
func (c *Cover) UnmarshalJSON(text []byte) error {
	type plain Cover
	if len(text) == 0 || text[0] != '"' {
		return json.Unmarshal(text, (*plain)(c))
	}
	var whole string
	if err := json.Unmarshal(text, &whole); err != nil {
		return err
	}
	kind, rest, _ := strings.Cut(whole, " ")
	*c = Cover{Kind: CoverKind(kind), Of: rest}
	if !c.Kind.Combines() {
		c.Of, c.Point, _ = strings.Cut(rest, " ")
	}
	return nil
}

// Covering is a single thing that is covered, as cases list them.
func Covering(k CoverKind, of, point string) []Cover { return []Cover{{k, of, point}} }

// Role is a combination in the id of the case that is the first to cover it.
func (c Cover) Role() string { return string(c.Kind) + ":" + c.Of }

// Trimmed tells whether a case is about a length once the spaces around a value are taken off.
func (c *Case) Trimmed() bool {
	return slices.ContainsFunc(c.Covers, func(what Cover) bool { return what.Point == MaxTrimmed || what.Point == BelowMinTrimmed })
}
