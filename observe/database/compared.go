package database

import (
	"context"
	"database/sql"
	"fmt"
	"hash/fnv"
	"maps"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/observation"
)

// maxRows is the largest table that is watched by comparing; a larger one is named, to be put on ignore. maxKept is the largest of
// which all rows are kept, so that one that is changed or deleted can be shown as it was before; of a larger one, digests are, of 16
// bytes a row. maxNew is how many rows that appear later are kept then.
const (
	maxRows = 5_000_000
	maxKept = 20_000
	maxNew  = 20_000
)

// state is a table as it stood at the last look, in parts.
type state struct {
	parts map[int64]*part
	// kept are rows by key.
	kept map[string][]observation.Cell
	// last is the highest key, where it is a number.
	last int64
}

// part is that of a number, made where there is none.
func (s *state) part(bucket int64) *part {
	p := s.parts[bucket]
	if p == nil {
		p = &part{}
		s.parts[bucket] = p
	}
	return p
}

// see takes notice of a key that is a number.
func (s *state) see(key uint64) { s.last = max(s.last, int64(key)) }

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
		return fmt.Sprintf(" WHERE %s BETWEEN %d AND %d", number, lowest(b), highest(b))
	}
	return fmt.Sprintf(" WHERE %s = %d", m.bucket(t), b)
}

// lowest and highest are the numbers at the ends of a part. Division is towards zero.
func lowest(bucket int64) int64 {
	if bucket <= 0 {
		return (bucket-1)*partRows + 1
	}
	return bucket * partRows
}

func highest(bucket int64) int64 { return -lowest(-bucket) }

// maxSpans is how many spans a table is totalled in; all of them together are one scan.
const maxSpans = 32

// span is a run of neighbouring parts, from the one to the other, both included; the first has no lower end, the last no upper one.
type span struct {
	from, to    int64
	first, last bool
}

// spans part a table whose keys are numbers; another one is a single span.
func (t *table) spans() []span {
	if t.number < 0 || t.digest == "" || len(t.parts) < 2*maxSpans {
		return []span{{first: true, last: true}}
	}
	buckets := slices.Sorted(maps.Keys(t.parts))
	var out []span
	for i := range maxSpans {
		from, to := i*len(buckets)/maxSpans, (i+1)*len(buckets)/maxSpans
		s := span{from: buckets[from], first: i == 0, last: to == len(buckets)}
		if !s.last {
			s.to = buckets[to] - 1
		}
		out = append(out, s)
	}
	return out
}

func (s *span) holds(bucket int64) bool {
	return (s.first || bucket >= s.from) && (s.last || bucket <= s.to)
}

// where is the condition for a span's rows.
func (s *span) where(number string) string {
	switch {
	case s.first && s.last:
		return ""
	case s.first:
		return fmt.Sprintf(" WHERE %s <= %d", number, highest(s.to))
	case s.last:
		return fmt.Sprintf(" WHERE %s >= %d", number, lowest(s.from))
	}
	return fmt.Sprintf(" WHERE %s BETWEEN %d AND %d", number, lowest(s.from), highest(s.to))
}

// keep takes a table as it stands.
func (m *Watcher) keep(ctx context.Context, t *table) error {
	var n int64
	if err := m.db.GetContext(ctx, &n, "SELECT COUNT(*) FROM "+m.dialect.quote(t.name)); err != nil {
		return fmt.Errorf("count the rows of %s: %w", t.name, err)
	}
	if n > maxRows {
		return fmt.Errorf("the table %s has %d rows, more than the %d that are compared; put it on ignore in the site document if nothing is stored there, or let the binary log be read", t.name, n, maxRows)
	}
	t.state = state{parts: map[int64]*part{}, kept: map[string][]observation.Cell{}}
	full := n <= maxKept
	err := m.rows(ctx, t, full, "", nil, func(b int64, key string, row []observation.Cell, sum uint64) {
		t.part(b).add(rowSum{t.number64(key), sum})
		t.see(t.number64(key))
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

// compare returns what changed in the tables that no log tells of. It takes one scan of each, and another one of the spans in which
// more happened than that rows were added behind all others.
func (m *Watcher) compare(ctx context.Context) ([]observation.Change, error) {
	var out []observation.Change
	totals, err := m.totals(ctx)
	if err != nil {
		return nil, err
	}
	for t, spans := range totals {
		for s, now := range spans {
			if now == t.total(&s) {
				continue
			}
			changes, explained, err := m.appended(ctx, t, &s, now)
			if err == nil && !explained {
				changes, err = m.byParts(ctx, t, &s)
			}
			if err != nil {
				return nil, err
			}
			out = append(out, changes...)
		}
	}
	sortChanges(out)
	return out, nil
}

// total is how many rows there are, and the exclusive or of their digests.
type total struct {
	count int64
	sum   uint64
}

func (s *state) total(of *span) total {
	var out total
	for b, p := range s.parts {
		if of.holds(b) {
			out.count += p.count
			out.sum ^= p.sum
		}
	}
	return out
}

// totals counts and digests the rows of all compared tables, by spans.
func (m *Watcher) totals(ctx context.Context) (map[*table]map[span]total, error) {
	out := map[*table]map[span]total{}
	var queries []string
	var of []func(total)
	for _, t := range m.tables {
		if t.logged {
			continue
		}
		out[t] = map[span]total{}
		for _, s := range t.spans() {
			set := func(n total) { out[t][s] = n }
			if t.digest == "" { // read here
				n, err := m.totalHere(ctx, t)
				if err != nil {
					return nil, err
				}
				set(n)
				continue
			}
			number := ""
			if t.number >= 0 {
				number = m.dialect.quote(t.columns[t.number].Name)
			}
			queries = append(queries, fmt.Sprintf("SELECT %d AS i, COUNT(*) AS n, BIT_XOR(%s) AS d FROM %s%s", len(of), t.digest, m.dialect.quote(t.name), s.where(number)))
			of = append(of, set)
		}
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
		var n total
		var digest sql.NullString
		if err := rows.Scan(&i, &n.count, &digest); err != nil {
			return nil, fmt.Errorf("compare the watched tables: %w", err)
		}
		n.sum = wholeNumber(digest.String)
		of[i](n)
	}
	return out, rows.Err()
}

// totalHere reads all rows, where the server cannot digest them.
func (m *Watcher) totalHere(ctx context.Context, t *table) (n total, err error) {
	err = m.rows(ctx, t, false, "", nil, func(_ int64, _ string, _ []observation.Cell, sum uint64) {
		n.count++
		n.sum ^= sum
	})
	return n, err
}

// appended are the rows behind the last one; explained tells whether nothing else changed in the last span.
func (m *Watcher) appended(ctx context.Context, t *table, s *span, now total) (out []observation.Change, explained bool, err error) {
	was := t.total(s)
	if !s.last || t.number < 0 || t.digest == "" || now.count <= was.count || now.count-was.count > maxNew {
		return nil, false, nil
	}
	type found struct {
		bucket int64
		sum    rowSum
	}
	var rows []found
	where := fmt.Sprintf(" WHERE %s > %d", m.dialect.quote(t.columns[t.number].Name), t.last)
	err = m.rows(ctx, t, true, where, nil, func(b int64, key string, row []observation.Cell, sum uint64) {
		rows = append(rows, found{b, rowSum{t.number64(key), sum}})
		out = append(out, observation.Change{Table: t.name, Kind: observation.Inserted, Key: key, After: row})
		was.count++
		was.sum ^= sum
	})
	if err != nil || was != now {
		return nil, false, err
	}
	for i, r := range rows {
		t.part(r.bucket).add(r.sum)
		t.see(r.sum.key)
		if len(t.kept) < maxKept+maxNew {
			t.kept[out[i].Key] = out[i].After
		}
	}
	return out, true, nil
}

// byParts finds the parts of a span that changed, and in them the rows.
func (m *Watcher) byParts(ctx context.Context, t *table, s *span) ([]observation.Change, error) {
	now, err := m.sums(ctx, t, s)
	if err != nil {
		return nil, err
	}
	before := map[int64]*part{}
	for b, p := range t.parts {
		if s.holds(b) {
			before[b] = p
		}
	}
	var out []observation.Change
	for _, b := range differing(before, now) {
		changes, err := m.differ(ctx, t, b)
		if err != nil {
			return nil, err
		}
		out = append(out, changes...)
	}
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

// sums counts and digests a span's rows, by parts.
func (m *Watcher) sums(ctx context.Context, t *table, s *span) (map[int64]*part, error) {
	out := map[int64]*part{}
	if t.digest == "" { // read here
		err := m.rows(ctx, t, false, "", nil, func(b int64, _ string, _ []observation.Cell, sum uint64) {
			p := out[b]
			if p == nil {
				p = &part{}
				out[b] = p
			}
			p.count++
			p.sum ^= sum
		})
		return out, err
	}
	number := ""
	if t.number >= 0 {
		number = m.dialect.quote(t.columns[t.number].Name)
	}
	rows, err := m.db.QueryContext(ctx, fmt.Sprintf("SELECT %s AS b, COUNT(*) AS n, BIT_XOR(%s) AS d FROM %s%s GROUP BY 1", m.bucket(t), t.digest, m.dialect.quote(t.name), s.where(number)))
	if err != nil {
		return nil, fmt.Errorf("compare the table %s: %w", t.name, err)
	}
	defer rows.Close()
	for rows.Next() {
		var b int64
		p := &part{}
		var digest sql.NullString
		if err := rows.Scan(&b, &p.count, &digest); err != nil {
			return nil, fmt.Errorf("compare the table %s: %w", t.name, err)
		}
		p.sum = wholeNumber(digest.String)
		out[b] = p
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
		t.see(r.key)
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
		if kept != nil || len(t.kept) < maxKept+maxNew {
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
