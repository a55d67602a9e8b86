package judge

import (
	"cmp"
	"net/netip"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

func (j *judging) stored() Check {
	c := &Check{Check: StoredData}
	if len(j.o.Watched) == 0 {
		if len(j.p.Form.Stored) == 0 {
			c.notApplicable(of(Whole), is(NothingPromisedOfRows))
		} else {
			c.unobserved(of(Whole), is(NoDatabaseWatched))
		}
		return c.finish()
	}
	rows := j.matchRows()
	left := []observation.Change{}
	for k := range j.o.Changes {
		if !slices.Contains(rows, k) {
			left = append(left, j.o.Changes[k])
		}
	}
	for i := range j.e.Rows {
		want, at := &j.e.Rows[i], rows[i]
		row, written := ofTable(RowWritten, want.Table), NewRow
		if want.Updates {
			written = OneChangedRow
		}
		if at < 0 && want.Updates && !differs(want, left) && !storesHash(want) {
			j.unchanged(c, want)
			continue
		}
		if at < 0 {
			c.odd(row, NoRow, Value{Is: written, Text: chosenFor(want)}, is(None))
			continue
		}
		c.Parts = slices.Grow(c.Parts, len(want.Columns)+3)
		c.asExpected(row, Value{Is: written, Text: chosenFor(want)}, is(written))
		for k := range want.Columns {
			j.column(c, want.Table, &want.Columns[k], &j.o.Changes[at])
		}
		j.otherColumns(c, want, &j.o.Changes[at])
	}
	if len(left) == 0 {
		c.asExpected(of(OtherRows), is(Unchanged), is(Unchanged))
		return c.finish()
	}
	kinds := surplusRows
	if len(j.e.Rows) == 0 {
		kinds = unpromisedRows
	}
	c.odd(of(OtherRows), kinds[left[0].Kind], is(Unchanged), changedRows(left))
	if j.e.Outcome == oracle.RejectedByServer {
		j.shortened(c, left)
	}
	return c.finish()
}

// The differences of rows that changed and should not have: of a submission that writes none, and of one that writes others.
var (
	unpromisedRows = map[observation.ChangeKind]Difference{observation.Inserted: RowInserted, observation.Changed: RowChanged, observation.Deleted: RowDeleted}
	surplusRows    = map[observation.ChangeKind]Difference{observation.Inserted: OtherRowInserted, observation.Changed: OtherRowChanged, observation.Deleted: OtherRowDeleted}
)

// chosenFor is the value of several for which a row is, "" where a row is for the whole submission.
func chosenFor(want *oracle.Row) string {
	for _, c := range want.Columns {
		if want.Each != "" && c.Field == want.Each {
			return c.Value
		}
	}
	return ""
}

// matchRows gives each promised row a changed one, by its index, -1 for none: of those of its table, the one that holds most of what is
// promised, whatever the order in which they were written.
func (j *judging) matchRows() []int {
	type pair struct{ want, got, held int }
	var pairs []pair
	for i := range j.e.Rows {
		want, kind := &j.e.Rows[i], observation.Inserted
		if want.Updates {
			kind = observation.Changed
		}
		for k := range j.o.Changes {
			got := &j.o.Changes[k]
			if got.Table != want.Table || got.Kind != kind || !IsRow(want, got) || want.Each != "" && !holdsChosen(want, got) {
				continue
			}
			pairs = append(pairs, pair{i, k, j.held(want, got)})
		}
	}
	slices.SortStableFunc(pairs, func(a, b pair) int { return cmp.Compare(b.held, a.held) })
	out := slices.Repeat([]int{-1}, len(j.e.Rows))
	for _, p := range pairs {
		if out[p.want] < 0 && !slices.Contains(out, p.got) {
			out[p.want] = p.got
		}
	}
	return out
}

// held counts the columns of a row that hold what is promised, where there is a choice.
func (j *judging) held(want *oracle.Row, got *observation.Change) int {
	if len(j.o.Changes) == 1 {
		return 0
	}
	probe := &Check{}
	for k := range want.Columns {
		j.column(probe, want.Table, &want.Columns[k], got)
	}
	n := 0
	for i := range probe.Parts {
		if probe.Parts[i].Verdict == AsExpected {
			n++
		}
	}
	return n
}

// IsRow tells whether a changed row is the one that is to be updated: by its key, by the column that it is known by, or by what some of its
// columns held before.
func IsRow(want *oracle.Row, got *observation.Change) bool {
	for _, held := range want.Where {
		if before, known := observation.CellOf(got.Before, held.Column); !known || before.Null || before.Value != held.Value {
			return false
		}
	}
	if want.Key == "" || got.Key == want.Key {
		return true
	}
	before, known := observation.CellOf(got.Before, want.KeyColumn)
	return known && !before.Null && before.Value == want.Key
}

// unchanged: an update that changes nothing is right where the row holds what is promised already.
func (j *judging) unchanged(c *Check, want *oracle.Row) {
	at := slices.IndexFunc(j.o.Standing, func(row observation.Change) bool { return row.Table == want.Table && IsRow(want, &row) })
	if at < 0 {
		c.unobserved(ofTable(RowWritten, want.Table), is(MayHoldItAlready))
		return
	}
	c.asExpected(ofTable(RowWritten, want.Table), is(ChangedOrSame), is(NoChange))
	for k := range want.Columns {
		j.column(c, want.Table, &want.Columns[k], &j.o.Standing[at])
	}
}

// holdsChosen tells whether a row is that of a chosen value.
func holdsChosen(want *oracle.Row, row *observation.Change) bool {
	for i := range want.Columns {
		c := &want.Columns[i]
		if c.Field != want.Each {
			continue
		}
		if cell, ok := observation.CellOf(row.After, c.Name); !ok || cell.Null || !sameValue(c, cell.Value) {
			return false
		}
	}
	return true
}

// storesHash: a secret is stored anew, with a salt of its own, so that the row changes even where the secret is the same.
func storesHash(want *oracle.Row) bool {
	return slices.ContainsFunc(want.Columns, func(c oracle.Column) bool { return c.Source == oracle.HoldsHash })
}

// differs tells whether some row of the table changed otherwise.
func differs(want *oracle.Row, changes []observation.Change) bool {
	for _, ch := range changes {
		if ch.Table == want.Table {
			return true
		}
	}
	return false
}

// shortened says of a row that should not be there what became of the values in it.
func (j *judging) shortened(c *Check, changes []observation.Change) {
	if j.o.Sent == nil {
		return
	}
	for i := range j.p.Form.Stored {
		st := &j.p.Form.Stored[i]
		for _, ch := range changes {
			if st.Insert == "" || ch.Table != st.Insert || ch.Kind != observation.Inserted {
				continue
			}
			for _, name := range st.ColumnNames() {
				f := j.p.Field(st.Columns[name].From)
				cell, ok := observation.CellOf(ch.After, name)
				if f == nil || !ok || f.Kind == spec.Checkbox || f.Kind == spec.Number || f.Kind == spec.Date || f.Kind == spec.Upload {
					continue
				}
				sent, present := j.o.Sent.Of(f)
				if v := f.ValueOf(sent, present); cell.Value != "" && len(cell.Value) < len(v.Normal) && strings.HasPrefix(v.Normal, cell.Value) {
					c.odd(ofColumn(ColumnValue, ch.Table, name), CutShort, Value{Is: AsText, Text: v.Normal}, cellValue(cell))
				}
			}
		}
	}
}

func (j *judging) column(c *Check, table string, want *oracle.Column, row *observation.Change) {
	column := ofColumn(ColumnValue, table, want.Name)
	cell, ok := observation.CellOf(row.After, want.Name)
	if !ok {
		c.odd(column, NoColumn, Value{Is: TheColumn, Of: want.Name}, is(NotInTable))
		return
	}
	observed := cellValue(cell)
	switch want.Source {
	case oracle.HoldsAny:
		c.asExpected(column, is(Anything), observed)
	case oracle.HoldsHash:
		c.notApplicable(column, is(JudgedUnderSecrets))
	case oracle.HoldsNull:
		c.compare(cell.Null || cell.Either, column, NotNull, is(Null), observed)
	case oracle.HoldsDefault:
		blank := cell.Null || cell.Value == ""
		c.compare(blank, column, NotBlank, is(Blank), observed)
	case oracle.HoldsUnknown:
		c.unobserved(column, is(PromiseNotKnown))
	case oracle.HoldsUUID:
		c.compare(uuidOf(cell.Value) != "", column, NoUUID, is(AUUID), observed)
	case oracle.HoldsSequence:
		_, err := strconv.ParseUint(cell.Value, 10, 64)
		c.compare(err == nil && !cell.Null, column, NoNumber, is(ANumber), observed)
	case oracle.HoldsKeyOf:
		j.keyOf(c, column, want, cell)
	case oracle.HoldsAddress:
		ip, err := netip.ParseAddr(cell.Value)
		c.compare(err == nil && ip.IsLoopback() == j.local(), column, OtherAddress, is(VisitorsAddress), observed)
	case oracle.HoldsUntouched:
		before, known := observation.CellOf(row.Before, want.Name)
		if row.Kind == observation.Inserted {
			before, known = observation.CellOf(row.Defaults, want.Name)
		}
		if !known {
			c.unobserved(column, is(DefaultNotKnown))
			return
		}
		c.compare(sameCell(before, cell), column, Changed, cellValue(before), observed)
	case oracle.HoldsNow:
		j.now(c, column, want, cell)
	default:
		if want.Kind == spec.Checkbox {
			c.compare(truthy(cell) == (want.Value == "true"), column, OtherValue, ticked(want.Value == "true"), observed)
			return
		}
		c.compare(!cell.Null && sameValue(want, cell.Value), column, difference(want.Value, cell), asText(want.Value, EmptyText), observed)
	}
}

// otherColumns: what is not named holds its default in a new row, and what it held before in a changed one.
func (j *judging) otherColumns(c *Check, want *oracle.Row, row *observation.Change) {
	held, kind, expected := row.Defaults, NotDefault, is(Defaults)
	if row.Kind == observation.Changed {
		held, kind, expected = row.Before, Changed, is(Unchanged)
	}
	compared, altered := 0, false
	for _, cell := range row.After {
		before, known := observation.CellOf(held, cell.Column)
		if !known || slices.Contains(row.Own, cell.Column) || slices.ContainsFunc(want.Columns, func(n oracle.Column) bool { return n.Name == cell.Column }) {
			continue
		}
		compared++
		if !sameCell(before, cell) {
			altered = true
			c.odd(ofColumn(ColumnValue, want.Table, cell.Column), kind, cellValue(before), cellValue(cell))
		}
	}
	if compared > 0 && !altered {
		c.asExpected(ofTable(OtherColumns, want.Table), expected, expected)
	}
}

// keyOf: the column holds the key of a row that the same submission wrote.
func (j *judging) keyOf(c *Check, column Subject, want *oracle.Column, cell observation.Cell) {
	var keys []string
	for _, ch := range j.o.Changes {
		if ch.Table == want.Value && ch.Kind != observation.Deleted {
			keys = append(keys, ch.Key)
		}
	}
	if len(keys) == 0 {
		c.unobserved(column, Value{Is: NoRowWritten, Of: want.Value})
		return
	}
	c.compare(!cell.Null && slices.ContainsFunc(keys, func(k string) bool { return k == cell.Value || uuidOf(k) != "" && uuidOf(k) == uuidOf(cell.Value) }),
		column, OtherKey, Value{Is: KeyOfRow, Of: want.Value, Text: strings.Join(keys, ", ")}, cellValue(cell))
}

// local: the site is on this machine, and sees the visitor on it.
func (j *judging) local() bool {
	first := j.o.First()
	if first == nil {
		return false
	}
	u, err := url.Parse(first.URL)
	if err != nil {
		return false
	}
	ip, err := netip.ParseAddr(u.Hostname())
	return u.Hostname() == "localhost" || err == nil && ip.IsLoopback()
}

func cellValue(cell observation.Cell) Value {
	switch {
	case cell.Null:
		return is(Null)
	case cell.Either:
		return is(NullOrEmpty)
	}
	return asText(cell.Value, EmptyText)
}

// sameCell compares two values of a column by meaning.
func sameCell(a, b observation.Cell) bool {
	if a.Null || b.Null {
		return a.Null == b.Null
	}
	return sameValue(&oracle.Column{Value: a.Value}, b.Value)
}

func truthy(c observation.Cell) bool {
	switch strings.ToLower(c.Value) {
	case "", "0", "false", "f", "no", "n", "off", "\x00":
		return false
	}
	return !c.Null
}

// difference names the kind of a difference, the same for the same kind of fault.
func difference(want string, cell observation.Cell) Difference {
	got := cell.Value
	switch {
	case cell.Null:
		return IsNull
	case got == "":
		return Emptied
	case want == "":
		return NotBlank
	case strings.TrimSpace(got) == want:
		return SpacesKept
	case strings.ReplaceAll(want, "\r\n", "\n") == strings.ReplaceAll(got, "\r\n", "\n"):
		return OtherLineEnds
	case strings.EqualFold(got, want):
		return OtherCapitals
	case strings.HasPrefix(want, got):
		return CutShort
	case strings.HasSuffix(want, got) && strings.Trim(want[:len(want)-len(got)], "0") == "":
		return ZerosLost
	case strings.ContainsRune(got, '?') && utf8.RuneCountInString(got) <= utf8.RuneCountInString(want):
		return CharactersLost
	case strings.Contains(got, "&lt;") || strings.Contains(got, "&amp;") || strings.Contains(got, "&#"):
		return StoredAsMarkup
	}
	return OtherValue
}

// timeLayouts are how databases write a time.
var timeLayouts = []string{"2006-01-02 15:04:05.999999999", time.RFC3339Nano, "2006-01-02T15:04:05.999999999"}

func (j *judging) now(c *Check, column Subject, want *oracle.Column, cell observation.Cell) {
	expected := Value{Is: NowWithin, N: int(want.Within / time.Millisecond)}
	for _, layout := range timeLayouts {
		zone, err := time.LoadLocation(want.Zone) // which is UTC where none is promised
		if err != nil {
			zone = time.UTC
		}
		at, err := time.ParseInLocation(layout, cell.Value, zone)
		if err != nil {
			continue
		}
		awayFrom := awayFrom
		if want.Zone != "" {
			awayFrom = time.Time.Sub
		}
		observed := Value{Is: Moment, Text: cell.Value}
		off := awayFrom(at, j.o.At)
		if site, told := j.siteClock(); told && awayFrom(at, site).Abs() < off.Abs() {
			off, observed.Of = awayFrom(at, site), site.Sub(j.o.At).Round(time.Second).String() // its clock is so far away
		}
		observed.N = int(off / time.Millisecond)
		c.compare(off.Abs() <= want.Within+time.Second, column, OtherTime, expected, observed)
		return
	}
	c.odd(column, NoTime, expected, cellValue(cell))
}

// awayFrom is how far a stored time is from another. A column without a zone holds the server's local time: whole quarters of an hour
// away are the zone, not the clock.
func awayFrom(at, from time.Time) time.Duration {
	off := at.Sub(from)
	zone := off.Round(15 * time.Minute)
	if zone.Abs() > 14*time.Hour {
		zone = 0
	}
	return off - zone
}

// siteClock is the time by the site's own clock, as its answer says (RFC 9110, Date), where that is another than the tester's.
func (j *judging) siteClock() (at time.Time, told bool) {
	first := j.o.First()
	if first == nil {
		return time.Time{}, false
	}
	for _, h := range first.ResponseHeader {
		if strings.EqualFold(h.Name, "Date") {
			at, err := httpDate(h.Value)
			return at, err == nil && at.Sub(j.o.At).Abs() > 2*time.Second
		}
	}
	return time.Time{}, false
}

// httpDate reads a date as HTTP writes it (RFC 9110, section 5.6.7), in its present form and the two older ones.
func httpDate(text string) (at time.Time, err error) {
	for _, layout := range []string{"Mon, 02 Jan 2006 15:04:05 GMT", time.RFC850, time.ANSIC} {
		if at, err = time.Parse(layout, text); err == nil {
			return at, nil
		}
	}
	return at, err
}
