package database

import (
	"context"
	"fmt"
	"strings"
)

// The kinds of databases.
const (
	kindMariaDB    = "mariadb"
	kindMySQL      = "mysql"
	kindPostgreSQL = "postgresql"
	kindSQLite     = "sqlite"
)

// kindOf is the kind of a database; where none is named, its data source name tells.
func kindOf(kind, dsn string) string {
	switch {
	case kind != "":
		return kind
	case strings.HasPrefix(dsn, "postgres://"), strings.HasPrefix(dsn, "postgresql://"):
		return kindPostgreSQL
	case strings.HasPrefix(dsn, "file:"):
		return kindSQLite
	}
	return kindMariaDB
}

// Open connects to a database and reads which base tables there are; those named in ignore are not watched. Reading rights on the
// tables are enough: SELECT, for SQLite a file that can be read.
func Open(ctx context.Context, kind, dsn string, ignore []string) (*Watcher, error) {
	switch kind = kindOf(kind, dsn); kind {
	case kindMariaDB, kindMySQL:
		return openMariaDB(ctx, dsn, ignore)
	case kindPostgreSQL:
		return openPostgreSQL(ctx, dsn, ignore)
	case kindSQLite:
		return openSQLite(ctx, dsn, ignore)
	}
	return nil, fmt.Errorf("databases of kind %q are not known; known are mariadb, mysql, postgresql and sqlite", kind)
}

// CheckDSN tells what is wrong with a data source name. Nothing is contacted.
func CheckDSN(kind, dsn string) error {
	switch kindOf(kind, dsn) {
	case kindPostgreSQL:
		return checkPostgreSQL(dsn)
	case kindSQLite:
		return checkSQLite(dsn)
	}
	return checkMariaDB(dsn)
}
