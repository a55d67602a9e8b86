package database

import (
	"context"
	"fmt"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/schema"

	"github.com/jmoiron/sqlx"
	_ "modernc.org/sqlite" // the driver
)

// sqlite is the dialect of SQLite. It has no digest of its own: at each look all rows of the watched tables are read.
type sqlite struct{}

func pathOf(dsn string) string {
	path, _, _ := strings.Cut(strings.TrimPrefix(dsn, "file:"), "?")
	return path
}

func openSQLite(ctx context.Context, dsn string, ignore []string) (*Watcher, error) {
	target, err := TargetOf(kindSQLite, dsn)
	if err != nil {
		return nil, err
	}
	path := target.Name
	if _, err := os.Stat(path); err != nil {
		return nil, fmt.Errorf("the database file %s cannot be read; correct its path in the DSN", path)
	}
	open := url.URL{Scheme: "file", Opaque: path, RawQuery: "mode=ro&_pragma=busy_timeout(5000)"}
	db, err := sqlx.Open("sqlite", open.String())
	if err != nil {
		return nil, fmt.Errorf("open the database file %s: %w", path, err)
	}
	writing := url.URL{Scheme: "file", Opaque: path, RawQuery: "mode=rw&_pragma=busy_timeout(5000)&_pragma=foreign_keys(1)"}
	m := &Watcher{db: db, dialect: sqlite{}, name: path, writing: writing.String()}
	if err := m.describe(ctx, ignore); err != nil {
		db.Close()
		return nil, fmt.Errorf("read the database file %s: %w", path, err)
	}
	return m, nil
}

// tableColumn is a row of PRAGMA table_info.
type tableColumn struct {
	table, name, kind string
	required, key     int
	standard          *string
	hidden            int
	sql               string
}

func tableColumns(ctx context.Context, db *sqlx.DB) ([]tableColumn, error) {
	rows, err := db.QueryContext(ctx, `SELECT t.name, c.name, lower(c.type), c."notnull", c.pk, c.dflt_value, c.hidden, t.sql FROM sqlite_schema t JOIN pragma_table_xinfo(t.name) c
		WHERE t.type = 'table' AND t.name NOT LIKE 'sqlite!_%' ESCAPE '!' AND c.hidden <> 1 ORDER BY t.name, c.cid`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []tableColumn
	for rows.Next() {
		var c tableColumn
		if err := rows.Scan(&c.table, &c.name, &c.kind, &c.required, &c.key, &c.standard, &c.hidden, &c.sql); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

func (sqlite) columns(ctx context.Context, db *sqlx.DB, _ string) ([]column, error) {
	list, err := tableColumns(ctx, db)
	out := make([]column, len(list))
	for i, c := range list {
		blind := regexp.MustCompile(`(?i)\b` + regexp.QuoteMeta(c.name) + "[\"`\\]]?\\s+[^,]*collate\\s+nocase").MatchString(c.sql)
		out[i] = column{Table: c.table, Name: c.name, Type: c.kind, Key: c.key > 0, Made: c.hidden > 1, Whole: c.key > 0 && c.kind == "integer", Blind: blind}
	}
	return out, err
}

func (sqlite) quote(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

func (d sqlite) text(c column) string {
	q := d.quote(c.Name)
	return "CASE typeof(" + q + ") WHEN 'blob' THEN '0x' || lower(hex(" + q + ")) ELSE CAST(" + q + " AS TEXT) END"
}

func (sqlite) digest([]column) string { return "" }

func (sqlite) bucket(number string, digested bool) string {
	if digested {
		return "0" // it has no digest
	}
	return fmt.Sprintf("(%s / %d)", number, partRows)
}

func (sqlite) value(c column, raw []byte) observation.Cell { return text(c, raw) }

func (d sqlite) equals(c column, loosely bool) string {
	if loosely {
		return "lower(" + d.quote(c.Name) + ") = lower(?)"
	}
	return d.quote(c.Name) + " = ?"
}

var sqliteType = regexp.MustCompile(`^([a-z ]+?)\s*(?:\(([^)]*)\))?$`)

func (sqlite) schema(ctx context.Context, db *sqlx.DB, _ string, out *schema.Database) error {
	out.Dialect = "sqlite"
	list, err := tableColumns(ctx, db)
	if err != nil {
		return err
	}
	for _, d := range list {
		t := out.Table(d.table)
		if t == nil {
			continue
		}
		c := schema.Column{Name: d.name, Nullable: d.required == 0 && d.key == 0, Auto: d.key > 0 && d.kind == "integer"}
		var arguments []string
		kind := d.kind
		if m := sqliteType.FindStringSubmatch(d.kind); m != nil {
			kind = m[1]
			if m[2] != "" {
				arguments = strings.Split(strings.ReplaceAll(m[2], " ", ""), ",")
			}
		}
		c.Declare(out.Dialect, kind, arguments)
		if d.standard != nil {
			c.Default, c.Computed = constantDefault(*d.standard)
		}
		if d.key > 0 {
			t.Primary = append(t.Primary, d.name)
		}
		t.Columns = append(t.Columns, c)
	}
	return sqliteKeys(ctx, db, out)
}

func sqliteKeys(ctx context.Context, db *sqlx.DB, out *schema.Database) error {
	return each(ctx, db, `SELECT t.name, i.name, c.name FROM sqlite_schema t JOIN pragma_index_list(t.name) i JOIN pragma_index_info(i.name) c
		WHERE t.type = 'table' AND i."unique" AND i.origin <> 'pk' AND NOT i.partial AND c.name IS NOT NULL ORDER BY t.name, i.name, c.seqno`, func(scan func(...any) error) error {
		var table, index, name string
		if err := scan(&table, &index, &name); err != nil {
			return err
		}
		if t := out.Table(table); t != nil {
			addKey(t, index, false, name)
		}
		return nil
	})
}

func (sqlite) holders(n int) []string { return slices.Repeat([]string{"?"}, n) }

func (sqlite) put(c column, holder, value string) string {
	if strings.Contains(c.Type, "blob") && strings.HasPrefix(value, "0x") {
		return "unhex(substr(" + holder + ", 3))"
	}
	return holder
}

func (sqlite) override() string { return "" }

func (sqlite) holds(string) bool { return true }

func (sqlite) first(query string, n int) string { return limited(query, n) }

func (sqlite) start(text, n string) string { return "SUBSTR(" + text + ", 1, " + n + ")" }
