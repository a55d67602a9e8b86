package database

import (
	"context"
	"crypto/rand"
	"encoding/binary"
	"fmt"
	"net"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"oddtick/core/observation"

	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
	vitess "vitess.io/vitess/go/mysql"
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

// rowEvent is one row that was written. Images hold the columns in the table's order.
type rowEvent struct {
	table         *table
	before, after []observation.Cell // nil where there was none, or is none
}

// maxLag is how long the log is waited for.
const maxLag = 10 * time.Second

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

// take returns what was written since the last time, once the log has reached a position.
func (l *binaryLog) take(ctx context.Context, until position) ([]rowEvent, error) {
	timeout := time.AfterFunc(maxLag, l.moved.Broadcast)
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
		case time.Since(begun) >= maxLag:
			return nil, fmt.Errorf("the binary log is more than %s behind", maxLag)
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
