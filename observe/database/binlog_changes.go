package database

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"oddtick/core/observation"
)

// logged are the changed rows of the tables that the log tells of.
func (m *Watcher) logged(ctx context.Context) ([]observation.Change, error) {
	l := m.log
	if l.lost() {
		if err := l.start(ctx); err != nil {
			return nil, err
		}
	}
	var end string
	if err := m.db.GetContext(ctx, &end, "SELECT @@gtid_binlog_pos"); err != nil {
		return nil, fmt.Errorf("read the binary log's end: %w", err)
	}
	until, err := parsePosition(end)
	if err != nil {
		return nil, err
	}
	events, err := l.take(ctx, until)
	if err != nil {
		return nil, err
	}
	return m.net(ctx, events)
}

// net is what events come to, row by row: the first image before them, and the row as it stands now.
func (m *Watcher) net(ctx context.Context, events []rowEvent) ([]observation.Change, error) {
	type place struct {
		t   *table
		key string
	}
	type fate struct {
		before, after []observation.Cell
		from          *fate // the row had another key before
		key           string
	}
	fates := map[place]*fate{}
	var order []place
	at := func(t *table, row []observation.Cell) (*fate, bool) {
		p := place{t, t.keyOf(row)}
		f, known := fates[p]
		if !known {
			f = &fate{key: p.key}
			fates[p] = f
			order = append(order, p)
		}
		return f, known
	}
	for _, e := range events {
		var was *fate
		if e.before != nil {
			f, known := at(e.table, e.before)
			if !known {
				f.before = e.before
			}
			f.after, was = nil, f
		}
		if e.after != nil {
			f, known := at(e.table, e.after)
			if f.after = e.after; was != nil && was != f && !known && e.table.keyed {
				f.from = was
			}
		}
	}
	// rows whose key changed are told as one, by the key that they had
	for _, p := range order {
		f := fates[p]
		origin := f.from
		for origin != nil && origin.from != nil {
			origin = origin.from
		}
		if origin != nil && f.after != nil && origin.before != nil && origin.after == nil {
			f.before, f.key, origin.before = origin.before, origin.key, nil
		}
	}
	var out []observation.Change
	for _, p := range order {
		f := fates[p]
		c := observation.Change{Table: p.t.name, Key: f.key, Kind: observation.Changed}
		if f.after != nil {
			now, err := m.byKey(ctx, p.t, f.after)
			if err != nil {
				return nil, err
			}
			// what the log holds alike is the same, however it is written there
			for i := range f.before {
				if i < len(f.after) && i < len(now) && f.before[i] == f.after[i] {
					f.before[i] = now[i]
				}
			}
			f.after = now
		}
		c.Before, c.After = f.before, f.after
		switch {
		case f.before == nil && f.after == nil, f.before != nil && f.after != nil && slices.Equal(f.before, f.after):
			continue // written and taken back
		case f.before == nil:
			c.Kind = observation.Inserted
		case f.after == nil:
			c.Kind = observation.Deleted
		}
		out = append(out, c)
	}
	return out, nil
}

// byKey reads a row as it stands. The log is written just before the row can be seen.
func (m *Watcher) byKey(ctx context.Context, t *table, image []observation.Cell) ([]observation.Cell, error) {
	where := make([]string, len(t.key))
	values := make([]any, len(t.key))
	for i, k := range t.key {
		where[i] = m.dialect.quote(t.columns[k].Name) + " = ?"
		values[i] = image[k].Value
	}
	for wait := time.Millisecond; ; wait *= 2 {
		var found []observation.Cell
		err := m.rows(ctx, t, true, " WHERE "+strings.Join(where, " AND "), values, func(_ int64, _ string, row []observation.Cell, _ uint64) { found = row })
		if err != nil || found != nil {
			return found, err
		}
		if wait > 200*time.Millisecond {
			return image, nil // it has gone again since
		}
		time.Sleep(wait)
	}
}
