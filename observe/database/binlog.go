package database

import (
	"context"
	"crypto/rand"
	"encoding/binary"
	"fmt"
	"net"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"oddtick/core/observation"

	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
	vitess "vitess.io/vitess/go/mysql"
	"vitess.io/vitess/go/mysql/binlog"
	"vitess.io/vitess/go/mysql/replication"
	"vitess.io/vitess/go/vt/proto/query"
)

// binaryLog follows a MariaDB server's row-based binary log: what a look costs follows the number of changed rows, whatever the size
// of the tables. It needs the rights REPLICATION SLAVE and BINLOG MONITOR besides SELECT.
type binaryLog struct {
	params   vitess.ConnParams
	database string
	tables   map[string]*table

	mu      sync.Mutex
	moved   *sync.Cond
	conn    *vitess.Conn
	at      position
	pending []rowEvent
	// broken says why the log can no longer be followed.
	broken error
	closed bool
}

// position holds the last transaction seen, by replication domain.
type position map[uint32]uint64

// rowEvent is one row that was written. Images hold the columns in the table's order.
type rowEvent struct {
	table         *table
	before, after []observation.Cell // nil where there was none, or is none
}

// longestLag is how long the log is waited for.
const longestLag = 10 * time.Second

// followable is the log of a server that keeps one as it is needed, nil otherwise, with the reason.
func followable(ctx context.Context, db *sqlx.DB, cfg *mysql.Config) (*binaryLog, string) {
	var s struct {
		Version string `db:"v"`
		On      bool   `db:"o"`
		Format  string `db:"f"`
		Image   string `db:"i"`
	}
	if err := db.GetContext(ctx, &s, "SELECT VERSION() v, @@log_bin o, @@binlog_format f, @@binlog_row_image i"); err != nil {
		return nil, err.Error()
	}
	switch {
	case !strings.Contains(s.Version, "MariaDB"):
		return nil, "only MariaDB's binary log is read"
	case !s.On:
		return nil, "the server keeps no binary log"
	case s.Format != "ROW" || s.Image != "FULL":
		return nil, "the binary log does not hold whole rows; set binlog_format=ROW and binlog_row_image=FULL"
	case cfg.TLSConfig != "":
		return nil, "the binary log is not read over TLS"
	}
	rows, err := db.QueryxContext(ctx, "SHOW MASTER STATUS")
	if err != nil {
		return nil, "the user lacks the right BINLOG MONITOR"
	}
	defer rows.Close()
	for rows.Next() {
		status := map[string]any{}
		if err := rows.MapScan(status); err != nil {
			return nil, err.Error()
		}
		only, but := listOf(status["Binlog_Do_DB"]), listOf(status["Binlog_Ignore_DB"])
		if len(only) > 0 && !slices.Contains(only, cfg.DBName) || slices.Contains(but, cfg.DBName) {
			return nil, "the binary log leaves out " + cfg.DBName
		}
	}
	l := &binaryLog{database: cfg.DBName, tables: map[string]*table{}, params: vitess.ConnParams{Uname: cfg.User, Pass: cfg.Passwd, ConnectTimeoutMs: 5000}}
	l.moved = sync.NewCond(&l.mu)
	if cfg.Net == "unix" {
		l.params.UnixSocket = cfg.Addr
	} else {
		host, port, err := net.SplitHostPort(cfg.Addr)
		if err != nil {
			return nil, err.Error()
		}
		l.params.Host = host
		l.params.Port, _ = strconv.Atoi(port) // the driver has reached it
	}
	return l, ""
}

func listOf(v any) []string {
	text := ""
	switch v := v.(type) {
	case []byte:
		text = string(v)
	case string:
		text = v
	}
	return strings.FieldsFunc(text, func(r rune) bool { return r == ',' })
}

// keyTypes are the types of keys whose values in the log are those that a query gives.
var keyTypes = []string{"tinyint", "smallint", "mediumint", "int", "bigint", "char", "varchar", "date", "datetime", "year"}

// follows tells whether a table's changes are all in the log, by rows that can be found again: rows that a foreign key's cascade
// changes are not.
func (l *binaryLog) follows(t *table, cascaded []string) bool {
	if slices.Contains(cascaded, t.name) || !t.keyed {
		return false
	}
	return !slices.ContainsFunc(t.key, func(k int) bool {
		c := &t.columns[k]
		return !slices.Contains(keyTypes, c.Type) || c.Collation != "" && !strings.HasPrefix(c.Collation, "utf8") && !strings.HasPrefix(c.Collation, "ascii")
	})
}

// start follows the log from its present end, or, once it was followed, from where it was left.
func (l *binaryLog) start(ctx context.Context) error {
	conn, err := vitess.Connect(ctx, &l.params)
	if err != nil {
		return fmt.Errorf("read the binary log: %w", err)
	}
	l.mu.Lock()
	from := l.at
	l.mu.Unlock()
	if from == nil {
		got, err := conn.ExecuteFetch("SELECT @@gtid_binlog_pos", 1, false)
		if err != nil || len(got.Rows) != 1 {
			conn.Close()
			return fmt.Errorf("read the binary log's end: %w", err)
		}
		if from, err = parsePosition(got.Rows[0][0].ToString()); err != nil {
			conn.Close()
			return err
		}
	}
	var id [4]byte
	_, _ = rand.Read(id[:]) // it never fails
	server := binary.BigEndian.Uint32(id[:]) | 1<<31
	for _, statement := range []string{
		"SET @mariadb_slave_capability=4", "SET @master_binlog_checksum=@@global.binlog_checksum", "SET @slave_connect_state='" + from.text() + "'",
	} {
		if _, err := conn.ExecuteFetch(statement, 0, false); err != nil {
			conn.Close()
			return fmt.Errorf("read the binary log: %w", err)
		}
	}
	if err := conn.WriteComBinlogDump(server, "", 4, 0); err != nil {
		conn.Close()
		return fmt.Errorf("read the binary log: %w", err)
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	l.conn, l.at, l.broken, l.closed = conn, from, nil, false
	go l.read(conn, from.clone())
	return nil
}

func (p position) clone() position {
	out := position{}
	for k, v := range p {
		out[k] = v
	}
	return out
}

// text writes a position as MariaDB does: domain-server-sequence; of the server only the sequence counts.
func (p position) text() string {
	parts := []string{}
	for domain, seq := range p {
		parts = append(parts, fmt.Sprintf("%d-1-%d", domain, seq))
	}
	slices.Sort(parts)
	return strings.Join(parts, ",")
}

func parsePosition(text string) (position, error) {
	out := position{}
	for _, one := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' }) {
		var domain, server uint32
		var seq uint64
		if _, err := fmt.Sscanf(strings.TrimSpace(one), "%d-%d-%d", &domain, &server, &seq); err != nil {
			return nil, fmt.Errorf("the binary log's position %q cannot be read", text)
		}
		out[domain] = seq
	}
	return out, nil
}

// reached tells whether all of another position lies behind.
func (p position) reached(other position) bool {
	for domain, seq := range other {
		if p[domain] < seq {
			return false
		}
	}
	return true
}

// forget lets it be followed from its end on.
func (l *binaryLog) forget() {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.conn != nil {
		l.conn.Close()
	}
	l.conn, l.at, l.pending = nil, nil, nil
}

// close ends the reading.
func (l *binaryLog) close() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.closed = true
	if l.conn != nil {
		l.conn.Close()
	}
}

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

// take returns what was written since the last time, once the log has reached a position.
func (l *binaryLog) take(ctx context.Context, until position) ([]rowEvent, error) {
	timeout := time.AfterFunc(longestLag, l.moved.Broadcast)
	defer timeout.Stop()
	stop := context.AfterFunc(ctx, l.moved.Broadcast)
	defer stop()
	begun := time.Now()
	l.mu.Lock()
	defer l.mu.Unlock()
	for !l.at.reached(until) {
		switch {
		case l.broken != nil:
			return nil, l.broken
		case ctx.Err() != nil:
			return nil, ctx.Err()
		case time.Since(begun) >= longestLag:
			return nil, fmt.Errorf("the binary log is more than %s behind", longestLag)
		}
		l.moved.Wait()
	}
	out := l.pending
	l.pending = nil
	return out, nil
}

// lost tells whether the log is to be followed anew.
func (l *binaryLog) lost() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.broken != nil
}

// redefined are the tables whose columns changed, or that were emptied at once, since the last time.
func (l *binaryLog) redefined() []string {
	l.mu.Lock()
	defer l.mu.Unlock()
	var out []string
	for name, t := range l.tables {
		if t.redefined {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}

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
	}
	fates := map[place]*fate{}
	var order []place
	at := func(t *table, row []observation.Cell) (*fate, bool) {
		p := place{t, t.keyOf(row)}
		f, known := fates[p]
		if !known {
			f = &fate{}
			fates[p] = f
			order = append(order, p)
		}
		return f, known
	}
	for _, e := range events {
		if e.before != nil {
			f, known := at(e.table, e.before)
			if !known {
				f.before = e.before
			}
			f.after = nil
		}
		if e.after != nil {
			f, _ := at(e.table, e.after)
			f.after = e.after
		}
	}
	var out []observation.Change
	for _, p := range order {
		f := fates[p]
		c := observation.Change{Table: p.t.name, Key: p.key, Kind: observation.Changed}
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
