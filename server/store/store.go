// Package store keeps Odd Tick's own data in MariaDB: users, sites, forms and their revisions, runs, results.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
)

//go:embed migrations
var migrations embed.FS

// ErrNotFound is returned when there is no such thing.
var ErrNotFound = errors.New("not found")

// Store is a connection to the data.
type Store struct {
	db  *sqlx.DB
	box *box
}

// connectWithin and answerWithin are how long Odd Tick's own database may take.
const (
	connectWithin = 5 * time.Second
	answerWithin  = 2 * time.Minute // a migration of much data too
)

// Open connects to a database, creating it when it is missing, brings its tables up to date, and takes the key with which
// secrets are encrypted from a file, made when it is missing.
func Open(ctx context.Context, dsn, keyFile string) (*Store, error) {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil || cfg.DBName == "" {
		return nil, errors.New("the DSN of Odd Tick's database cannot be read; write it like user:password@tcp(127.0.0.1:3306)/oddtick")
	}
	cfg.ParseTime = true
	cfg.Timeout, cfg.ReadTimeout, cfg.WriteTimeout = connectWithin, answerWithin, answerWithin
	cfg.InterpolateParams = true
	if cfg.Params == nil {
		cfg.Params = map[string]string{}
	}
	cfg.Params["time_zone"] = "'+00:00'"
	name := cfg.DBName
	if err := create(ctx, *cfg, name); err != nil {
		return nil, err
	}
	db, err := sqlx.Open("mysql", cfg.FormatDSN())
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(24)
	db.SetMaxIdleConns(24)
	folder, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	provider, err := goose.NewProvider(goose.DialectMySQL, db.DB, folder)
	if err != nil {
		return nil, fmt.Errorf("read the migrations: %w", err)
	}
	s := &Store{db: db}
	if err := s.prepare(ctx, provider, keyFile); err != nil {
		db.Close()
		return nil, err
	}
	return s, nil
}

// prepare brings the tables up to date, and takes the key with which the secrets in them are encrypted.
func (s *Store) prepare(ctx context.Context, provider *goose.Provider, keyFile string) error {
	present, known, err := provider.GetVersions(ctx)
	if err != nil {
		return fmt.Errorf("read which version Odd Tick's tables have: %w", err)
	}
	if present > known {
		return fmt.Errorf("the tables of this database have version %d, and this Odd Tick knows them up to version %d; start the newer one that has changed them", present, known)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("bring Odd Tick's tables up to date: %w", err)
	}
	var sealed []byte
	err = s.db.GetContext(ctx, &sealed, "SELECT secrets FROM sites WHERE secrets <> '' ORDER BY id LIMIT 1")
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return err
	}
	if s.box, err = openBox(keyFile, sealed != nil); err != nil {
		return err
	}
	if sealed != nil {
		if _, err := s.box.open(sealed); errors.Is(err, errOtherKey) {
			return fmt.Errorf("the key file %s is another than the one with which the secrets in Odd Tick's database were encrypted; put that one back, or name it with ODDTICK_KEY_FILE", keyFile)
		} else if err != nil {
			return err
		}
	}
	if err := maskEvidence(ctx, s); err != nil {
		return err
	}
	if err := renameFindings(ctx, s); err != nil {
		return err
	}
	return migrateDocuments(ctx, s)
}

func create(ctx context.Context, cfg mysql.Config, name string) error {
	cfg.DBName = ""
	server, err := sql.Open("mysql", cfg.FormatDSN())
	if err != nil {
		return err
	}
	defer server.Close()
	if _, err := server.ExecContext(ctx, "CREATE DATABASE IF NOT EXISTS `"+strings.ReplaceAll(name, "`", "``")+"` CHARACTER SET utf8mb4"); err != nil {
		return fmt.Errorf("create Odd Tick's database %s: %w", name, err)
	}
	return nil
}

// Close ends the connections.
func (s *Store) Close() error { return s.db.Close() }

// DB is the connection, for the session store.
func (s *Store) DB() *sql.DB { return s.db.DB }

// inTransaction does something wholly or not at all.
func (s *Store) inTransaction(ctx context.Context, do func(tx *sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback() }() // does nothing after the commit
	if err := do(tx); err != nil {
		return err
	}
	return tx.Commit()
}

// KeepSession puts off the end of a session that is there; token is as it is kept, hashed.
func (s *Store) KeepSession(ctx context.Context, token string, until time.Time) error {
	_, err := s.db.ExecContext(ctx, "UPDATE sessions SET expiry = ? WHERE token = ?", until.UTC(), token)
	return err
}

// EndSession ends a session; token is as it is kept, hashed.
func (s *Store) EndSession(ctx context.Context, token string) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM sessions WHERE token = ?", token)
	return err
}

func missing(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// Duplicate tells whether an error says that a row is there already.
func Duplicate(err error) bool {
	var e *mysql.MySQLError
	return errors.As(err, &e) && e.Number == 1062
}

// Unreachable tells whether an error says that the database does not answer.
func Unreachable(err error) bool {
	var e *mysql.MySQLError
	if err == nil || errors.As(err, &e) && e.Number != 1053 && e.Number != 1927 { // shutting down, killed
		return false
	}
	var dial *net.OpError
	return e != nil || errors.Is(err, mysql.ErrInvalidConn) || errors.Is(err, driver.ErrBadConn) || errors.As(err, &dial) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF)
}
