package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"oddtick/server/lease"

	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
)

// TakeLeases implements lease.Ledger. Terms go by the database's clock, which all servers share. One that ends later than any can has
// come from before that clock went back, and is over.
func (s *Store) TakeLeases(ctx context.Context, holder, about string, names []string, term time.Duration) error {
	err := s.takeLeases(ctx, holder, about, names, term)
	for range 5 {
		if !deadlocked(err) {
			break
		}
		err = s.takeLeases(ctx, holder, about, names, term)
	}
	return err
}

func (s *Store) takeLeases(ctx context.Context, holder, about string, names []string, term time.Duration) error {
	err := s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		for _, name := range names {
			if _, err := tx.ExecContext(ctx, `INSERT INTO leases (name, holder, about, expires_at) VALUES (?, ?, ?, NOW(3) + INTERVAL ? MICROSECOND)
				ON DUPLICATE KEY UPDATE holder = IF(expires_at BETWEEN NOW(3) AND NOW(3) + INTERVAL ? MICROSECOND, holder, VALUES(holder)), about = IF(holder = VALUES(holder), VALUES(about), about),
				expires_at = IF(holder = VALUES(holder), VALUES(expires_at), expires_at)`, name, holder, cut(about, 200), term.Microseconds(), 2*lease.Term.Microseconds()); err != nil {
				return err
			}
			held := lease.HeldError{Name: name}
			var by string
			if err := tx.QueryRowxContext(ctx, "SELECT holder, about FROM leases WHERE name = ?", name).Scan(&by, &held.About); err != nil {
				return err
			}
			if by != holder {
				return &held
			}
		}
		return nil
	})
	var held *lease.HeldError
	if err != nil && !errors.As(err, &held) {
		return fmt.Errorf("take a lease: %w", err)
	}
	return err
}

// RenewLeases implements lease.Ledger.
func (s *Store) RenewLeases(ctx context.Context, holder string, term time.Duration) (int, error) {
	if _, err := s.db.ExecContext(ctx, "UPDATE leases SET expires_at = NOW(3) + INTERVAL ? MICROSECOND WHERE holder = ?", term.Microseconds(), holder); err != nil {
		return 0, err
	}
	var n int
	err := s.db.GetContext(ctx, &n, "SELECT COUNT(*) FROM leases WHERE holder = ?", holder)
	return n, err
}

// FreeLeases implements lease.Ledger.
func (s *Store) FreeLeases(ctx context.Context, holder string) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM leases WHERE holder = ?", holder)
	return err
}

// AskToStop notes that a run is to be stopped by whichever server drives it; false where it is not under way.
func (s *Store) AskToStop(ctx context.Context, runID int64) (bool, error) {
	res, err := s.db.ExecContext(ctx, "UPDATE runs SET stop_asked = 1 WHERE id = ? AND state = ?", runID, Running)
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	if n == 0 && err == nil { // it may have been asked before
		err = s.db.GetContext(ctx, &n, "SELECT COUNT(*) FROM runs WHERE id = ? AND state = ? AND stop_asked = 1", runID, Running)
	}
	return n > 0, err
}

// StopAsked tells whether somebody asked a run to stop.
func (s *Store) StopAsked(ctx context.Context, runID int64) (bool, error) {
	var asked bool
	err := s.db.GetContext(ctx, &asked, "SELECT stop_asked FROM runs WHERE id = ?", runID)
	if errors.Is(err, sql.ErrNoRows) {
		return true, nil // there is nothing left to write to
	}
	return asked, err
}

// deadlocked tells whether a transaction was given up for another one's sake.
func deadlocked(err error) bool {
	var e *mysql.MySQLError
	return errors.As(err, &e) && (e.Number == 1213 || e.Number == 1205)
}
