package database

import (
	"context"
	"database/sql"
	"fmt"
	"hash/fnv"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/observation"
)

// mostRows is the largest table that is watched by comparing; a larger one is named, to be put on ignore. mostKept is the largest of
// which all rows are kept, so that one that is changed or deleted can be shown as it was before; of a larger one, digests are, of 16
// bytes a row. mostNew is how many rows that appear later are kept then.
const (
	mostRows = 5_000_000
	mostKept = 20_000
	mostNew  = 20_000
)

// state is a table as it stood at the last look, in parts.
type state struct {
	parts map[int64]*part
	// kept are rows by key.
	kept map[string][]observation.Cell
}

// part is some of a table's rows: those of neighbouring keys, or of the same remainder. A look costs one scan on the server and a line
// a part on the wire; of a part that changed, its rows.
type part struct {
	count int64
	sum   uint64 // exclusive or of the rows' digests
	rows  []rowSum
}

// rowSum is a row's digest, by its key: the number itself, or a digest.
type rowSum struct{ key, sum uint64 }

func (p *part) add(r rowSum) {
	p.count++
	p.sum ^= r.sum
	p.rows = append(p.rows, r)
}

func (p *part) sort() {
	slices.SortFunc(p.rows, func(a, b rowSum) int {
		switch {
		case a.key < b.key:
			return -1
		case a.key > b.key:
			return 1
		}
		return 0
	})
}

// bucket is the expression for the part in which a row is.
func (m *Watcher) bucket(t *table) string {
	if t.number >= 0 {
		return m.dialect.bucket(m.dialect.quote(t.columns[t.number].Name), false)
	}
	key := make([]column, len(t.key))
	for i, k := range t.key {
		key[i] = t.columns[k]
	}
	return m.dialect.bucket(m.dialect.digest(key), true)
}

// within is the condition for the rows of a part; where keys are numbers it can be answered from their index.
func (m *Watcher) within(t *table, b int64) string {
	if t.number >= 0 && t.digest != "" {
		number := m.dialect.quote(t.columns[t.number].Name)
		return fmt.Sprintf(" WHERE %s >= %d AND %s < %d", number, b*partRows, number, (b+1)*partRows)
	}
	return fmt.Sprintf(" WHERE %s = %d", m.bucket(t), b)
}

// keep takes a table as it stands.
func (m *Watcher) keep(ctx context.Context, t *table) error {
	var n int64
	if err := m.db.GetContext(ctx, &n, "SELECT COUNT(*) FROM "+m.dialect.quote(t.name)); err != nil {
		return fmt.Errorf("count the rows of %s: %w", t.name, err)
	}
	if n > mostRows {
		return fmt.Errorf("the table %s has %d rows, more than the %d that are compared; put it on ignore in the site document if nothing is stored there, or let the binary log be read", t.name, n, mostRows)
	}
	t.state = state{parts: map[int64]*part{}, kept: map[string][]observation.Cell{}}
	full := n <= mostKept
	err := m.rows(ctx, t, full, "", nil, func(b int64, key string, row []observation.Cell, sum uint64) {
		p := t.parts[b]
		if p == nil {
			p = &part{}
			t.parts[b] = p
		}
		p.add(rowSum{t.number64(key), sum})
		if full {
			t.kept[key] = row
		}
	})
	for _, p := range t.parts {
		p.sort()
	}
	return err
}

// number64 is a row's key in 64 bits.
func (t *table) number64(key string) uint64 {
	if t.number >= 0 {
		return wholeNumber(key)
	}
	h := fnv.New64a()
	_, _ = h.Write([]byte(key)) // a hash takes all
	return h.Sum64()
}

// compare returns what changed in the tables that no log tells of.
func (m *Watcher) compare(ctx context.Context) ([]observation.Change, error) {
	states, err := m.sums(ctx)
	if err != nil {
		return nil, err
	}
	var out []observation.Change
	for t, now := range states {
		for _, b := range differing(t.parts, now) {
			changes, err := m.differ(ctx, t, b)
			if err != nil {
				return nil, err
			}
			out = append(out, changes...)
		}
	}
	sortChanges(out)
	return out, nil
}

// differing are the parts that are not as they were.
func differing(before, now map[int64]*part) []int64 {
	var out []int64
	for b, p := range now {
		if old := before[b]; old == nil || old.count != p.count || old.sum != p.sum {
			out = append(out, b)
		}
	}
	for b := range before {
		if now[b] == nil {
			out = append(out, b)
		}
	}
	slices.Sort(out)
	return out
}

// sums counts and digests the rows of all compared tables, by parts.
func (m *Watcher) sums(ctx context.Context) (map[*table]map[int64]*part, error) {
	out := map[*table]map[int64]*part{}
	var queries []string
	for i, t := range m.tables {
		if t.logged {
			continue
		}
		out[t] = map[int64]*part{}
		if t.digest == "" { // read here
			err := m.rows(ctx, t, false, "", nil, func(b int64, key string, _ []observation.Cell, sum uint64) {
				p := out[t][b]
				if p == nil {
					p = &part{}
					out[t][b] = p
				}
				p.count++
				p.sum ^= sum
			})
			if err != nil {
				return nil, err
			}
			continue
		}
		queries = append(queries, fmt.Sprintf("SELECT %d AS i, %s AS b, COUNT(*) AS n, BIT_XOR(%s) AS d FROM %s GROUP BY 2", i, m.bucket(t), t.digest, m.dialect.quote(t.name)))
	}
	if len(queries) == 0 {
		return out, nil
	}
	rows, err := m.db.QueryContext(ctx, strings.Join(queries, " UNION ALL "))
	if err != nil {
		return nil, fmt.Errorf("compare the watched tables: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var i int
		var b int64
		p := &part{}
		var digest sql.NullString
		if err := rows.Scan(&i, &b, &p.count, &digest); err != nil {
			return nil, fmt.Errorf("compare the watched tables: %w", err)
		}
		p.sum = wholeNumber(digest.String)
		out[m.tables[i]][b] = p
	}
	return out, rows.Err()
}

// wholeNumber reads a number of 64 bits, which some servers have with a sign.
func wholeNumber(text string) uint64 {
	if strings.HasPrefix(text, "-") {
		n, _ := strconv.ParseInt(text, 10, 64)
		return uint64(n)
	}
	n, _ := strconv.ParseUint(text, 10, 64)
	return n
}

// differ finds the changed rows of a part.
func (m *Watcher) differ(ctx context.Context, t *table, b int64) ([]observation.Change, error) {
	before := t.parts[b]
	if before == nil {
		before = &part{}
	}
	gone := make(map[uint64]uint64, len(before.rows))
	for _, r := range before.rows {
		gone[r.key] = r.sum
	}
	now := &part{}
	var out []observation.Change
	present := map[string]bool{}
	err := m.rows(ctx, t, true, m.within(t, b), nil, func(_ int64, key string, row []observation.Cell, sum uint64) {
		r := rowSum{t.number64(key), sum}
		now.add(r)
		present[key] = true
		old, known := gone[r.key]
		delete(gone, r.key)
		kept := t.kept[key]
		switch {
		case !known:
			out = append(out, observation.Change{Table: t.name, Kind: observation.Inserted, Key: key, After: row})
		case old != sum:
			out = append(out, observation.Change{Table: t.name, Kind: observation.Changed, Key: key, Before: kept, After: row})
		default:
			return
		}
		if kept != nil || len(t.kept) < mostKept+mostNew {
			t.kept[key] = row
		}
	})
	if err != nil {
		return nil, err
	}
	out = append(out, m.deleted(t, gone, present)...)
	now.sort()
	t.parts[b] = now
	if now.count == 0 {
		delete(t.parts, b)
	}
	return out, nil
}

// deleted are the rows that have gone, as they are kept, or by their key's number alone.
func (m *Watcher) deleted(t *table, gone map[uint64]uint64, present map[string]bool) []observation.Change {
	if len(gone) == 0 {
		return nil
	}
	var out []observation.Change
	for key, row := range t.kept {
		number := t.number64(key)
		if _, is := gone[number]; is && !present[key] {
			out = append(out, observation.Change{Table: t.name, Kind: observation.Deleted, Key: key, Before: row})
			delete(gone, number)
			delete(t.kept, key)
		}
	}
	for number := range gone {
		key := "a row that is not known by its key"
		if t.number >= 0 {
			key = strconv.FormatInt(int64(number), 10)
		}
		out = append(out, observation.Change{Table: t.name, Kind: observation.Deleted, Key: key})
	}
	return out
}

func sortChanges(list []observation.Change) {
	slices.SortFunc(list, func(a, b observation.Change) int {
		if a.Table != b.Table {
			return strings.Compare(a.Table, b.Table)
		}
		if len(a.Key) != len(b.Key) {
			return len(a.Key) - len(b.Key)
		}
		return strings.Compare(a.Key, b.Key)
	})
}

// rows reads rows one by one, with their part and digest; without full only the columns of the key, the others being left out.
func (m *Watcher) rows(ctx context.Context, t *table, full bool, where string, values []any, each func(bucket int64, key string, row []observation.Cell, sum uint64)) error {
	columns := t.columns
	all := full || t.digest == ""
	if !all {
		columns = nil
		for _, k := range t.key {
			columns = append(columns, t.columns[k])
		}
	}
	digest := t.digest
	if digest == "" {
		digest = "0"
	}
	names := []string{digest, m.bucket(t)}
	for _, c := range columns {
		names = append(names, m.dialect.text(c))
	}
	rows, err := m.db.QueryContext(ctx, "SELECT "+strings.Join(names, ", ")+" FROM "+m.dialect.quote(t.name)+where, values...)
	if err != nil {
		return fmt.Errorf("read the rows of %s: %w", t.name, err)
	}
	defer rows.Close()
	raw := make([]sql.RawBytes, len(names))
	into := make([]any, len(raw))
	for i := range raw {
		into[i] = &raw[i]
	}
	seen := map[string]int{} // a table without a key may hold a row twice
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return fmt.Errorf("read the rows of %s: %w", t.name, err)
		}
		cells := make([]observation.Cell, len(columns))
		for i, c := range columns {
			cells[i] = m.dialect.value(c, raw[i+2])
		}
		key := joined(cells)
		if all {
			key = t.keyOf(cells)
		}
		if !t.keyed {
			seen[key]++
			key += strings.Repeat(" again", seen[key]-1)
		}
		sum := wholeNumber(string(raw[0]))
		if t.digest == "" {
			sum = digestOf(key, cells)
		}
		bucket, _ := strconv.ParseInt(string(raw[1]), 10, 64)
		each(bucket, key, cells, sum)
	}
	return rows.Err()
}

func joined(cells []observation.Cell) string {
	parts := make([]string, len(cells))
	for i, c := range cells {
		parts[i] = c.Value
	}
	return strings.Join(parts, ", ")
}

// digestOf is a row's digest where the server has none.
func digestOf(key string, cells []observation.Cell) uint64 {
	h := fnv.New64a()
	for _, c := range cells {
		fmt.Fprintf(h, "%d %t %s,", len(c.Value), c.Null, c.Value)
	}
	_, _ = h.Write([]byte(key)) // a hash takes all
	return h.Sum64()
}
