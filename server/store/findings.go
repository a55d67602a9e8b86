package store

import (
	"context"
	"database/sql"
	"time"

	"oddtick/core/judge"

	"github.com/jmoiron/sqlx"
)

// Word is what a tester says of a finding; the latest holds.
type Word struct {
	Finding  string       `db:"finding"`
	State    string       `db:"state"`
	Severity string       `db:"severity"`
	Link     string       `db:"link"`
	Until    sql.NullTime `db:"until"` // the last day, where it is known for a time only
	Comment  string       `db:"comment"`
	SaidAt   time.Time    `db:"said_at"`
	SaidBy   string       `db:"said_by"`
}

// Words are all that was said of a form's findings, the latest first.
func (s *Store) Words(ctx context.Context, formID int64) ([]Word, error) {
	out := []Word{}
	err := s.db.SelectContext(ctx, &out, "SELECT w.finding, w.state, w.severity, w.link, w.until, w.comment, w.said_at, u.name AS said_by FROM finding_words w JOIN users u ON u.id = w.said_by WHERE w.form_id = ? ORDER BY w.id DESC", formID)
	return out, err
}

// AddWord adds what a user says of a finding.
func (s *Store) AddWord(ctx context.Context, formID, userID int64, w *Word) error {
	_, err := s.db.ExecContext(ctx, "INSERT INTO finding_words (form_id, finding, state, severity, link, until, comment, said_at, said_by) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
		formID, w.Finding, w.State, w.Severity, w.Link, w.Until, w.Comment, time.Now().UTC(), userID)
	return err
}

// CausesOf are the causes of the odd cases of some runs, by the run's id.
func (s *Store) CausesOf(ctx context.Context, runs []int64) (map[int64][]judge.Cause, error) {
	out := map[int64][]judge.Cause{}
	if len(runs) == 0 {
		return out, nil
	}
	query, args, err := sqlx.In("SELECT DISTINCT run_id, cause FROM results WHERE cause IS NOT NULL AND run_id IN (?)", runs)
	if err != nil {
		return nil, err
	}
	rows := []struct {
		Run   int64  `db:"run_id"`
		Cause string `db:"cause"`
	}{}
	if err := s.db.SelectContext(ctx, &rows, s.db.Rebind(query), args...); err != nil {
		return nil, err
	}
	for _, r := range rows {
		list, err := readReasons(r.Cause)
		if err != nil {
			return nil, err
		}
		for _, reason := range list {
			out[r.Run] = append(out[r.Run], reason.Cause)
		}
	}
	return out, nil
}
