package database

import (
	"context"
	"fmt"
	"net"
	"slices"
	"strings"

	"oddtick/core/schema"

	"github.com/jmoiron/sqlx"
)

// onlyTo connects to one host and port, whatever the server there says of others.
type onlyTo string

// HostName tells drivers not to look the name up themselves.
func (o onlyTo) HostName() string {
	host, _, _ := net.SplitHostPort(string(o))
	return host
}

// DialContext connects, and gives up on a server that does not answer.
func (o onlyTo) DialContext(ctx context.Context, network, address string) (net.Conn, error) {
	if address != string(o) {
		return nil, fmt.Errorf("the database leads to %s, which the DSN does not name", address)
	}
	conn, err := (&net.Dialer{Timeout: connectWithin}).DialContext(ctx, network, address)
	if err != nil {
		return nil, err
	}
	return &patient{Conn: conn}, nil
}

// limited is a query for its first n rows, as most servers have it.
func limited(query string, n int) string { return fmt.Sprintf("%s LIMIT %d", query, n) }

// numbered are n places for values in a statement, each with its number.
func numbered(format string, n int) []string {
	out := make([]string, n)
	for i := range out {
		out[i] = fmt.Sprintf(format, i+1)
	}
	return out
}

// constantDefault is a column's default as a text, where it is a constant such as 'holder', 1 or NULL.
func constantDefault(text string) (constant *string, computed bool) {
	switch {
	case text == "" || strings.EqualFold(text, "null"):
		return nil, false
	case len(text) > 1 && strings.HasPrefix(text, "'") && strings.HasSuffix(text, "'"):
		value := strings.ReplaceAll(text[1:len(text)-1], "''", "'")
		return &value, false
	case plainNumber.MatchString(text):
		return &text, false
	}
	return nil, true
}

// each reads a query's rows one by one.
func each(ctx context.Context, db *sqlx.DB, query string, row func(scan func(...any) error) error) error {
	rows, err := db.QueryContext(ctx, query)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := row(rows.Scan); err != nil {
			return err
		}
	}
	return rows.Err()
}

// addKey adds a column to a table's primary or unique key, whose columns come one after the other.
func addKey(t *schema.Table, name string, primary bool, column string) {
	if primary {
		t.Primary = append(t.Primary, column)
		return
	}
	if n := len(t.Uniques); n > 0 && t.Uniques[n-1].Name == name {
		t.Uniques[n-1].Columns = append(t.Uniques[n-1].Columns, column)
		return
	}
	t.Uniques = append(t.Uniques, schema.Unique{Name: name, Columns: []string{column}})
}

// addForeign adds a column to a table's foreign key, whose columns come one after the other.
func addForeign(t *schema.Table, name, column, target, refers, deletes string) {
	i := slices.IndexFunc(t.Foreign, func(f schema.Foreign) bool { return f.Name == name })
	if i < 0 {
		t.Foreign = append(t.Foreign, schema.Foreign{Name: name, Table: target, OnDelete: deletes})
		i = len(t.Foreign) - 1
	}
	f := &t.Foreign[i]
	f.Columns, f.References = append(f.Columns, column), append(f.References, refers)
}
