package database

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"net"
	"net/url"
	"slices"
	"strings"
	"time"
)

// The kinds of databases.
const (
	kindMariaDB    = "mariadb"
	kindMySQL      = "mysql"
	kindPostgreSQL = "postgresql"
	kindSQLite     = "sqlite"
	kindSQLServer  = "sqlserver"
	kindOracle     = "oracle"
	kindMongoDB    = "mongodb"
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
	case strings.HasPrefix(dsn, "sqlserver://"):
		return kindSQLServer
	case strings.HasPrefix(dsn, "oracle://"):
		return kindOracle
	case strings.HasPrefix(dsn, "mongodb://"):
		return kindMongoDB
	}
	return kindMariaDB
}

// HoldsDocuments tells whether a database holds documents, which OpenDocuments opens, and no tables.
func HoldsDocuments(kind, dsn string) bool { return kindOf(kind, dsn) == kindMongoDB }

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
	case kindSQLServer:
		return openSQLServer(ctx, dsn, ignore)
	case kindOracle:
		return openOracle(ctx, dsn, ignore)
	}
	return nil, unknownKind(kind)
}

// Target is where a data source name leads.
type Target struct {
	Kind string
	// Host and Port are of the server; both are empty for SQLite.
	Host, Port string
	// Name is the database on the server, or the path of the file.
	Name string
}

// TargetOf reads a data source name, and says what is wrong with it. Nothing is contacted.
func TargetOf(kind, dsn string) (Target, error) {
	switch kind = kindOf(kind, dsn); kind {
	case kindPostgreSQL:
		cfg, err := configOfPostgreSQL(dsn)
		if err != nil {
			return Target{}, err
		}
		return Target{kind, cfg.Host, fmt.Sprint(cfg.Port), cfg.Database}, nil
	case kindSQLite:
		path := pathOf(dsn)
		if path == "" {
			return Target{}, errors.New("the database's DSN names no file; write it like file:/srv/site/data.db")
		}
		return Target{Kind: kind, Name: path}, nil
	case kindSQLServer, kindOracle, kindMongoDB:
		read := map[string]func(string) (*url.URL, string, error){kindSQLServer: addressOfSQLServer, kindOracle: addressOfOracle, kindMongoDB: configOfMongoDB}[kind]
		u, name, err := read(dsn)
		if err != nil {
			return Target{}, err
		}
		return Target{kind, u.Hostname(), u.Port(), name}, nil
	case kindMariaDB, kindMySQL:
		cfg, err := configOfMariaDB(dsn)
		if err != nil {
			return Target{}, err
		}
		host, port, err := net.SplitHostPort(cfg.Addr)
		if err != nil {
			return Target{}, fmt.Errorf("the database's DSN: %q is not host:port", cfg.Addr)
		}
		return Target{kind, host, port, cfg.DBName}, nil
	}
	return Target{}, unknownKind(kind)
}

func unknownKind(kind string) error {
	return fmt.Errorf("databases of kind %q are not known; known are mariadb, mysql, postgresql, sqlite, sqlserver, oracle and mongodb", kind)
}

// CheckDSN tells what is wrong with a data source name. Nothing is contacted.
func CheckDSN(kind, dsn string) error {
	_, err := TargetOf(kind, dsn)
	return err
}

// What a database may take: to connect, and to answer a statement.
const (
	connectWithin = 10 * time.Second
	answerWithin  = 2 * time.Minute
)

// own are databases that a server keeps for itself.
var own = []string{"mysql", "information_schema", "performance_schema", "sys", "pg_catalog", "template0", "template1", "master", "msdb", "tempdb"}

func checkName(name string) error {
	if slices.Contains(own, strings.ToLower(name)) {
		return fmt.Errorf("the database %s is the server's own; name the site's", name)
	}
	return nil
}

// checkOptions refuses options of a data source name that are not among those taken: others could read files, or speak to other servers.
func checkOptions(query string, taken ...string) error {
	values, err := url.ParseQuery(query)
	if err != nil {
		return errors.New("the options of the database's DSN cannot be read; write them like ?name=value&name=value")
	}
	for _, name := range slices.Sorted(maps.Keys(values)) {
		if !slices.Contains(taken, name) {
			return fmt.Errorf("the option %s of the database's DSN is not taken; taken are %s", name, strings.Join(taken, ", "))
		}
	}
	return nil
}
