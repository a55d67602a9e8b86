package submission

import (
	"maps"
)

// Lookup is a question to the database that must be answered before submitting.
type Lookup struct {
	Rule   string `json:"rule"`
	Table  string `json:"table"`
	Column string `json:"column"`
	Value  string `json:"value"`
	// Ignoring says which differences the rule does not see: case, accents, spaces.
	Ignoring []string `json:"ignoring,omitempty"`
	// MustExist: the rule asks for such a row; where it is false, the rule asks for none.
	MustExist bool `json:"must,omitempty"`
	// Same are the values that further columns of the row hold.
	Same map[string]string `json:"same,omitempty"`
	// Span asks for rows that share a day or moment with it, in place of the value.
	Span *Span `json:"span,omitempty"`
}

// Span is a time from one moment to another, both included, as year-month-day with a time of day behind or without.
type Span struct {
	From string `json:"from"`
	To   string `json:"to"`
	// Ends is the column with a row's end; its beginning is in the look-up's column.
	Ends string `json:"ends"`
}

// Overlaps tells whether two spans share a day or moment.
func (s *Span) Overlaps(other *Span) bool { return s.From <= other.To && other.From <= s.To }

// Meets tells whether two look-ups of a rule are of rows that hold the same, and of spans that overlap where they are of spans; whether
// their values count as one is left to the rule.
func (l *Lookup) Meets(other *Lookup) bool {
	return l.Rule == other.Rule && l.Table == other.Table && maps.Equal(l.Same, other.Same) && (l.Span == nil || l.Span.Overlaps(other.Span))
}
