package database

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"oddtick/core/observation"

	vitess "vitess.io/vitess/go/mysql"
	"vitess.io/vitess/go/mysql/binlog"
	"vitess.io/vitess/go/mysql/replication"
	"vitess.io/vitess/go/vt/proto/query"
)

// reading is the state of following the log.
type reading struct {
	l      *binaryLog
	format vitess.BinlogFormat
	maps   map[uint64]*vitess.TableMap
	at     position
	rows   []rowEvent // of the transaction under way
	open   bool       // a transaction is under way
}

func (l *binaryLog) read(conn *vitess.Conn, at position) {
	defer conn.Close()
	r := &reading{l: l, maps: map[uint64]*vitess.TableMap{}, at: at}
	for {
		ev, err := conn.ReadBinlogEvent()
		if err == nil {
			err = r.event(ev)
		}
		if err != nil {
			l.mu.Lock()
			if l.conn == conn {
				l.broken = fmt.Errorf("read the binary log: %w", err)
			}
			l.moved.Broadcast()
			l.mu.Unlock()
			return
		}
	}
}

func (r *reading) event(ev vitess.BinlogEvent) (err error) {
	defer func() { // the reader of rows panics on what it does not know
		if wrong := recover(); wrong != nil {
			err = fmt.Errorf("a row cannot be read: %v", wrong)
		}
	}()
	if !ev.IsValid() {
		return fmt.Errorf("an event cannot be read")
	}
	if ev.IsFormatDescription() {
		r.format, err = ev.Format()
		return err
	}
	if r.format.IsZero() {
		return nil
	}
	if ev, _, err = ev.StripChecksum(r.format); err != nil {
		return err
	}
	switch {
	case ev.IsGTID():
		id, begins, _, _, err := ev.GTID(r.format)
		if err != nil {
			return err
		}
		if g, ok := id.(replication.MariadbGTID); ok {
			r.at[g.Domain] = g.Sequence
		}
		r.open = begins
	case ev.IsXID():
		r.commit()
	case ev.IsQuery():
		q, err := ev.Query(r.format)
		if err != nil {
			return err
		}
		r.statement(q)
	case ev.IsTableMap():
		m, err := ev.TableMap(r.format)
		if err != nil {
			return err
		}
		r.maps[ev.TableID(r.format)] = m
	case ev.IsWriteRows() || ev.IsUpdateRows() || ev.IsDeleteRows():
		m := r.maps[ev.TableID(r.format)]
		if m == nil || m.Database != r.l.database {
			return nil
		}
		rows, err := ev.Rows(r.format, m)
		if err != nil {
			return err
		}
		return r.written(m, &rows)
	}
	return nil
}

// redefines finds the table of a statement that changes its columns or empties it at once.
var redefines = regexp.MustCompile("(?is)^\\s*(?:ALTER\\s+(?:\\w+\\s+)*?TABLE|TRUNCATE(?:\\s+TABLE)?|DROP\\s+TABLE|RENAME\\s+TABLE|CREATE\\s+OR\\s+REPLACE\\s+TABLE)\\s+(?:IF\\s+EXISTS\\s+)?(?:`?[^`.\\s]+`?\\.)?`?([^`.\\s(;,]+)`?")

// statement is the end of a transaction, or one that stands alone.
func (r *reading) statement(q vitess.Query) {
	switch strings.ToUpper(strings.TrimSpace(q.SQL)) {
	case "ROLLBACK":
		r.rows = nil
	case "COMMIT":
	default:
		if r.open {
			return // such as a savepoint
		}
	}
	if m := redefines.FindStringSubmatch(q.SQL); m != nil && (q.Database == r.l.database || strings.Contains(q.SQL, r.l.database)) {
		if t := r.l.tables[m[1]]; t != nil {
			r.l.mu.Lock()
			t.redefined = true
			r.l.mu.Unlock()
		}
	}
	r.commit()
}

func (r *reading) commit() {
	r.l.mu.Lock()
	defer r.l.mu.Unlock()
	r.l.pending = append(r.l.pending, r.rows...)
	r.rows = nil
	r.l.at = r.at.clone()
	r.l.moved.Broadcast()
}

// written takes the rows of one event.
func (r *reading) written(m *vitess.TableMap, rows *vitess.Rows) error {
	t := r.l.tables[m.Name]
	if t == nil {
		return nil
	}
	if len(m.Types) != len(t.columns) {
		r.l.mu.Lock()
		t.redefined = true
		r.l.mu.Unlock()
		return nil
	}
	for i := range rows.Rows {
		row := &rows.Rows[i]
		e := rowEvent{table: t}
		var err error
		if row.Identify != nil {
			if e.before, err = image(t, m, rows.IdentifyColumns, row.NullIdentifyColumns, row.Identify); err != nil {
				return err
			}
		}
		if row.Data != nil {
			if e.after, err = image(t, m, rows.DataColumns, row.NullColumns, row.Data); err != nil {
				return err
			}
		}
		r.rows = append(r.rows, e)
	}
	return nil
}

// image reads the columns of a row in the log.
func image(t *table, m *vitess.TableMap, present, null vitess.Bitmap, data []byte) ([]observation.Cell, error) {
	out := make([]observation.Cell, 0, len(t.columns))
	pos, nth := 0, 0
	for i := range t.columns {
		if !present.Bit(i) {
			continue
		}
		c := &t.columns[i]
		isNull := null.Bit(nth)
		nth++
		if isNull {
			out = append(out, observation.Cell{Column: c.Name, Null: true})
			continue
		}
		field := &query.Field{Type: query.Type_INT64, ColumnType: c.Type}
		switch {
		case c.Unsigned:
			field.Type = query.Type_UINT64
		case c.Type == "binary":
			field.Type = query.Type_BINARY
		}
		v, n, err := binlog.CellValue(data, pos, m.Types[i], m.Metadata[i], field, false)
		if err != nil {
			return nil, fmt.Errorf("the column %s.%s: %w", t.name, c.Name, err)
		}
		pos += n
		out = append(out, c.logged(v.Raw()))
	}
	return out, nil
}

// logged makes a cell of a value as the log holds it.
func (c *column) logged(raw []byte) observation.Cell {
	number := func() int {
		n, _ := strconv.Atoi(string(raw)) // the log's own number
		return n
	}
	switch c.Type {
	case "enum":
		if n := number(); n > 0 && n <= len(c.Members) {
			return observation.Cell{Column: c.Name, Value: c.Members[n-1]}
		}
		return observation.Cell{Column: c.Name}
	case "set":
		var chosen []string
		for i, m := range c.Members {
			if number()>>i&1 == 1 {
				chosen = append(chosen, m)
			}
		}
		return observation.Cell{Column: c.Name, Value: strings.Join(chosen, ",")}
	}
	return mariaDB{}.value(*c, append([]byte{}, raw...))
}
