package database

import (
	"context"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"oddtick/core/observation"
	"oddtick/core/oracle"

	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
)

// mostRows is the largest table that is watched by comparing rows; a larger one is named, to be put on ignore.
const mostRows = 500_000

// MariaDB watches the base tables of one database of a MariaDB or MySQL server. Reading rights are enough. It is for one user at
// a time but for LookUp.
type MariaDB struct {
	db     *sqlx.DB
	name   string
	tables []*table
}

type table struct {
	name    string
	columns []column
	key     []int // indexes of the primary key's columns; all columns where there is none
	auto    int   // index of a lone whole-number key, -1 otherwise
	digest  string
	state   state
	rows    map[string][]observation.Cell
	last    string // the highest key, where it counts up
}

type column struct {
	Name      string         `db:"COLUMN_NAME"`
	Table     string         `db:"TABLE_NAME"`
	Type      string         `db:"DATA_TYPE"`
	Key       string         `db:"COLUMN_KEY"`
	Extra     string         `db:"EXTRA"`
	Collation sql.NullString `db:"COLLATION_NAME"`
}

// state is a table's row count and the exclusive or of its rows' digests: it costs one scan on the server and one row on the wire.
type state struct {
	Count  int64  `db:"n"`
	Digest uint64 `db:"d"`
}

// OpenMariaDB connects and reads which base tables there are; those named in ignore are not watched.
func OpenMariaDB(ctx context.Context, dsn string, ignore []string) (*MariaDB, error) {
	if err := CheckDSN(dsn); err != nil {
		return nil, err
	}
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, err
	}
	cfg.ParseTime = false
	if cfg.Params == nil {
		cfg.Params = map[string]string{}
	}
	cfg.Params["time_zone"] = "'+00:00'"
	cfg.InterpolateParams = true
	connector, err := mysql.NewConnector(cfg)
	if err != nil {
		return nil, fmt.Errorf("the database's DSN: %w", err)
	}
	db := sqlx.NewDb(sql.OpenDB(connector), "mysql")
	db.SetMaxIdleConns(8)
	m := &MariaDB{db: db, name: cfg.DBName}
	if err := m.describe(ctx, ignore); err != nil {
		db.Close()
		return nil, connectError(cfg, err)
	}
	return m, nil
}

// CheckDSN tells what is wrong with a data source name. Nothing is contacted.
func CheckDSN(dsn string) error {
	cfg, err := mysql.ParseDSN(dsn)
	switch {
	case err != nil:
		return errors.New("the database's DSN cannot be read; write it like user:password@tcp(127.0.0.1:3306)/name")
	case cfg.DBName == "":
		return errors.New("the database's DSN names no database; end it with /name")
	}
	return nil
}

// connectError says what to do about the usual reasons, without the password.
func connectError(cfg *mysql.Config, err error) error {
	where := fmt.Sprintf("%s as %s", cfg.Addr, cfg.User)
	var refused *mysql.MySQLError
	if errors.As(err, &refused) {
		switch refused.Number {
		case 1045:
			return fmt.Errorf("the database at %s refuses the user or the password; correct them in the DSN", where)
		case 1049:
			return fmt.Errorf("the database server at %s has no database %q; correct its name in the DSN", where, cfg.DBName)
		case 1044, 1142:
			return fmt.Errorf("the database user at %s may not read %q; grant SELECT on it", where, cfg.DBName)
		}
	}
	return fmt.Errorf("the database at %s cannot be reached: %w; is it running, and is its address right?", where, err)
}

// Close ends the connections.
func (m *MariaDB) Close() error { return m.db.Close() }

func (m *MariaDB) describe(ctx context.Context, ignore []string) error {
	var columns []column
	err := m.db.SelectContext(ctx, &columns, `SELECT c.TABLE_NAME, c.COLUMN_NAME, c.DATA_TYPE, c.COLUMN_KEY, c.EXTRA, c.COLLATION_NAME
		FROM information_schema.COLUMNS c JOIN information_schema.TABLES t USING (TABLE_SCHEMA, TABLE_NAME)
		WHERE c.TABLE_SCHEMA = ? AND t.TABLE_TYPE = 'BASE TABLE' ORDER BY c.TABLE_NAME, c.ORDINAL_POSITION`, m.name)
	if err != nil {
		return err
	}
	for _, c := range columns {
		if slices.Contains(ignore, c.Table) {
			continue
		}
		if n := len(m.tables); n == 0 || m.tables[n-1].name != c.Table {
			m.tables = append(m.tables, &table{name: c.Table, auto: -1})
		}
		t := m.tables[len(m.tables)-1]
		if c.Key == "PRI" {
			t.key = append(t.key, len(t.columns))
		}
		t.columns = append(t.columns, c)
	}
	for _, t := range m.tables {
		t.prepare()
	}
	return m.db.PingContext(ctx)
}

func quote(name string) string { return "`" + strings.ReplaceAll(name, "`", "``") + "`" }

func (t *table) prepare() {
	if len(t.key) == 1 && strings.Contains(t.columns[t.key[0]].Extra, "auto_increment") {
		t.auto = t.key[0]
	}
	if len(t.key) == 0 {
		for i := range t.columns {
			t.key = append(t.key, i)
		}
	}
	parts := make([]string, len(t.columns))
	for i, c := range t.columns {
		parts[i] = "IFNULL(HEX(" + quote(c.Name) + "), '-')"
	}
	t.digest = "CAST(CONV(LEFT(MD5(CONCAT_WS(',', " + strings.Join(parts, ", ") + ")), 16), 16, 10) AS UNSIGNED)"
}

// Tables are the watched tables.
func (m *MariaDB) Tables() []string {
	out := make([]string, len(m.tables))
	for i, t := range m.tables {
		out[i] = t.name
	}
	return out
}

// MissingError says that a table or a column does not exist.
type MissingError struct{ What, Known string }

func (e *MissingError) Error() string {
	return fmt.Sprintf("the database has no %s; there are: %s", e.What, e.Known)
}

// Require checks that a table has the columns.
func (m *MariaDB) Require(tableName string, columns ...string) error {
	i := slices.IndexFunc(m.tables, func(t *table) bool { return t.name == tableName })
	if i < 0 {
		return &MissingError{"watched table " + tableName, strings.Join(m.Tables(), ", ")}
	}
	known := make([]string, len(m.tables[i].columns))
	for k, c := range m.tables[i].columns {
		known[k] = c.Name
	}
	for _, c := range columns {
		if !slices.Contains(known, c) {
			return &MissingError{"column " + tableName + "." + c, strings.Join(known, ", ")}
		}
	}
	return nil
}

// Begin reads all watched rows once.
func (m *MariaDB) Begin(ctx context.Context) error {
	for _, t := range m.tables {
		var n int64
		if err := m.db.GetContext(ctx, &n, "SELECT COUNT(*) FROM "+quote(t.name)); err != nil {
			return fmt.Errorf("count the rows of %s: %w", t.name, err)
		}
		if n > mostRows {
			return fmt.Errorf("the table %s has %d rows, more than the %d that are compared; put it on ignore in the site document if nothing is stored there", t.name, n, mostRows)
		}
		rows, st, err := m.read(ctx, t, "")
		if err != nil {
			return err
		}
		t.keep(rows, st)
	}
	return nil
}

// Changes returns what changed since the last look, in all watched tables.
func (m *MariaDB) Changes(ctx context.Context) ([]observation.Change, error) {
	states, err := m.states(ctx)
	if err != nil {
		return nil, err
	}
	var out []observation.Change
	for i, t := range m.tables {
		if states[i] == t.state {
			continue
		}
		changes, err := m.differ(ctx, t, states[i])
		if err != nil {
			return nil, err
		}
		out = append(out, changes...)
	}
	return out, nil
}

func (m *MariaDB) states(ctx context.Context) ([]state, error) {
	if len(m.tables) == 0 {
		return nil, nil
	}
	parts := make([]string, len(m.tables))
	for i, t := range m.tables {
		parts[i] = fmt.Sprintf("SELECT %d AS i, COUNT(*) AS n, BIT_XOR(%s) AS d FROM %s", i, t.digest, quote(t.name))
	}
	out := make([]state, len(m.tables))
	rows, err := m.db.QueryContext(ctx, strings.Join(parts, " UNION ALL "))
	if err != nil {
		return nil, fmt.Errorf("compare the watched tables: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var i int
		var s state
		if err := rows.Scan(&i, &s.Count, &s.Digest); err != nil {
			return nil, fmt.Errorf("compare the watched tables: %w", err)
		}
		out[i] = s
	}
	return out, rows.Err()
}

// differ finds a table's changed rows. Where the key counts up and the new rows alone explain the difference, only they are read.
func (m *MariaDB) differ(ctx context.Context, t *table, now state) ([]observation.Change, error) {
	if t.auto >= 0 && now.Count > t.state.Count {
		fresh, st, err := m.read(ctx, t, fmt.Sprintf(" WHERE %s > %s", quote(t.columns[t.auto].Name), t.last))
		if err != nil {
			return nil, err
		}
		if t.state.Count+st.Count == now.Count && t.state.Digest^st.Digest == now.Digest {
			var out []observation.Change
			for key, row := range fresh {
				out = append(out, observation.Change{Table: t.name, Kind: observation.Inserted, Key: key, After: row})
				t.rows[key] = row
				t.count(row)
			}
			t.state = now
			sortChanges(out)
			return out, nil
		}
	}
	rows, st, err := m.read(ctx, t, "")
	if err != nil {
		return nil, err
	}
	var out []observation.Change
	for key, after := range rows {
		before, known := t.rows[key]
		switch {
		case !known:
			out = append(out, observation.Change{Table: t.name, Kind: observation.Inserted, Key: key, After: after})
		case !slices.Equal(before, after):
			out = append(out, observation.Change{Table: t.name, Kind: observation.Changed, Key: key, Before: before, After: after})
		}
	}
	for key, before := range t.rows {
		if _, still := rows[key]; !still {
			out = append(out, observation.Change{Table: t.name, Kind: observation.Deleted, Key: key, Before: before})
		}
	}
	t.keep(rows, st)
	sortChanges(out)
	return out, nil
}

func sortChanges(list []observation.Change) {
	slices.SortFunc(list, func(a, b observation.Change) int {
		if len(a.Key) != len(b.Key) {
			return len(a.Key) - len(b.Key)
		}
		return strings.Compare(a.Key, b.Key)
	})
}

func (t *table) keep(rows map[string][]observation.Cell, st state) {
	t.rows, t.state, t.last = rows, st, "0"
	for _, row := range rows {
		t.count(row)
	}
}

func (t *table) count(row []observation.Cell) {
	if t.auto < 0 {
		return
	}
	if v := row[t.auto].Value; len(v) > len(t.last) || len(v) == len(t.last) && v > t.last {
		t.last = v
	}
}

// read returns rows by key, with the state that they make up.
func (m *MariaDB) read(ctx context.Context, t *table, where string) (map[string][]observation.Cell, state, error) {
	names := make([]string, len(t.columns))
	for i, c := range t.columns {
		names[i] = quote(c.Name)
	}
	rows, err := m.db.QueryContext(ctx, "SELECT "+t.digest+", "+strings.Join(names, ", ")+" FROM "+quote(t.name)+where)
	if err != nil {
		return nil, state{}, fmt.Errorf("read the rows of %s: %w", t.name, err)
	}
	defer rows.Close()
	out := map[string][]observation.Cell{}
	var st state
	raw := make([]sql.RawBytes, len(t.columns))
	var digest uint64
	into := make([]any, len(raw)+1)
	into[0] = &digest
	for i := range raw {
		into[i+1] = &raw[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return nil, state{}, fmt.Errorf("read the rows of %s: %w", t.name, err)
		}
		cells := make([]observation.Cell, len(raw))
		for i, c := range t.columns {
			cells[i] = cell(c, raw[i])
		}
		key := t.keyOf(cells)
		for _, twice := out[key]; twice; _, twice = out[key] {
			key += " again" // a table without a key may hold a row twice
		}
		out[key] = cells
		st.Count++
		st.Digest ^= digest
	}
	return out, st, rows.Err()
}

func cell(c column, raw sql.RawBytes) observation.Cell {
	out := observation.Cell{Column: c.Name, Null: raw == nil}
	switch {
	case c.Type == "bit":
		n := uint64(0)
		for _, b := range raw {
			n = n<<8 | uint64(b)
		}
		if raw != nil {
			out.Value = fmt.Sprint(n)
		}
	case !utf8.Valid(raw):
		out.Value = "0x" + hex.EncodeToString(raw)
	default:
		out.Value = string(raw)
	}
	return out
}

func (t *table) keyOf(cells []observation.Cell) string {
	parts := make([]string, len(t.key))
	for i, k := range t.key {
		parts[i] = cells[k].Value
	}
	return strings.Join(parts, ", ")
}

// LookUp tells whether a row holds a value already, in the sense of the rule that asks. same decides whether two values count
// as one.
func (m *MariaDB) LookUp(ctx context.Context, l oracle.LookUp, same func(a, b string) bool) (bool, error) {
	i := slices.IndexFunc(m.tables, func(t *table) bool { return t.name == l.Table })
	if i < 0 {
		return false, &MissingError{"watched table " + l.Table, strings.Join(m.Tables(), ", ")}
	}
	k := slices.IndexFunc(m.tables[i].columns, func(c column) bool { return c.Name == l.Column })
	if k < 0 {
		return false, m.Require(l.Table, l.Column)
	}
	if !utf8.ValidString(l.Value) {
		return false, nil
	}
	col := quote(l.Column)
	condition := col + " = ?"
	if loose := m.tables[i].columns[k].Collation; len(l.Ignoring) > 0 && !strings.HasSuffix(loose.String, "_ci") {
		condition = "LOWER(" + col + ") = LOWER(?)"
	}
	var found []sql.NullString
	if err := m.db.SelectContext(ctx, &found, "SELECT "+col+" FROM "+quote(l.Table)+" WHERE "+condition+" LIMIT 100", l.Value); err != nil {
		return false, fmt.Errorf("look up %s.%s: %w", l.Table, l.Column, err)
	}
	return slices.ContainsFunc(found, func(v sql.NullString) bool { return same(v.String, l.Value) }), nil
}
