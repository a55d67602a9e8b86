package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"oddtick/core/judge"
	"oddtick/core/report"

	"github.com/jmoiron/sqlx"
)

// Triage is what a tester says of a finding; the latest holds.
type Triage struct {
	ID       int64        `db:"id"`
	Finding  string       `db:"finding"`
	State    string       `db:"state"`
	Severity string       `db:"severity"`
	Link     string       `db:"link"`
	Until    sql.NullTime `db:"until"` // the last day, where it is known for a time only
	Comment  string       `db:"comment"`
	SaidAt   time.Time    `db:"said_at"`
	SaidBy   string       `db:"said_by"`
}

// Triages are all that was said of a form's findings, the latest first.
func (s *Store) Triages(ctx context.Context, formID int64) ([]Triage, error) {
	out := []Triage{}
	err := s.db.SelectContext(ctx, &out, "SELECT w.id, w.finding, w.state, w.severity, w.link, w.until, w.comment, w.said_at, u.name AS said_by FROM finding_triage w JOIN users u ON u.id = w.said_by WHERE w.form_id = ? ORDER BY w.id DESC", formID)
	return out, err
}

// ErrStaleTriage says that somebody said something else of a finding meanwhile.
var ErrStaleTriage = errors.New("the finding was triaged in the meantime")

// AddTriage adds what a user says of a finding, knowing all up to the triage whose id is after; 0 where nothing was said. Errors:
// ErrStaleTriage.
func (s *Store) AddTriage(ctx context.Context, formID, userID, after int64, w *Triage) error {
	return s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		// one at a time for a form
		if err := tx.GetContext(ctx, new(int64), "SELECT id FROM forms WHERE id = ? FOR UPDATE", formID); err != nil {
			return missing(err)
		}
		var latest int64
		if err := tx.GetContext(ctx, &latest, "SELECT COALESCE(MAX(id), 0) FROM finding_triage WHERE form_id = ? AND finding = ?", formID, w.Finding); err != nil {
			return err
		}
		if latest != after {
			return ErrStaleTriage
		}
		res, err := tx.ExecContext(ctx, "INSERT INTO finding_triage (form_id, finding, state, severity, link, until, comment, said_at, said_by) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
			formID, w.Finding, w.State, w.Severity, w.Link, w.Until, w.Comment, time.Now().UTC(), userID)
		if err != nil {
			return err
		}
		w.ID, err = res.LastInsertId()
		return err
	})
}

// OddOf are the odd cases of some runs with what is odd of them, by the run's id, each run's in their order.
func (s *Store) OddOf(ctx context.Context, runs []int64) (map[int64][]report.Summary, error) {
	out := map[int64][]report.Summary{}
	if len(runs) == 0 {
		return out, nil
	}
	// what the server knows of a table that has just grown leads it to read all of a run for each odd case
	query, args, err := sqlx.In(`SELECT run_id, case_id, row_id, headline, cause FROM results r WHERE cause IS NOT NULL AND run_id IN (?)
		AND NOT EXISTS (SELECT 1 FROM results l FORCE INDEX (once) WHERE l.run_id = r.run_id AND l.case_id = r.case_id AND l.seq > r.seq) ORDER BY run_id, seq`, runs)
	if err != nil {
		return nil, err
	}
	rows := []struct {
		Run int64 `db:"run_id"`
		Mark
	}{}
	if err := s.db.SelectContext(ctx, &rows, s.db.Rebind(query), args...); err != nil {
		return nil, err
	}
	for _, r := range rows {
		list, err := r.Reasons()
		if err != nil {
			return nil, err
		}
		out[r.Run] = append(out[r.Run], report.Summary{Case: r.Case, Row: r.Row, Reasons: list})
	}
	return out, nil
}

// Tally counts the cases of a run by what became of them, each by its latest result.
func (s *Store) Tally(ctx context.Context, run *Run) (report.Tally, error) {
	ids, err := run.CaseIDs()
	if err != nil {
		return report.Tally{}, err
	}
	t := report.Tally{Total: len(ids), NotRun: len(ids)}
	var rows []struct {
		Verdict judge.Verdict `db:"verdict"`
		N       int           `db:"n"`
	}
	err = s.db.SelectContext(ctx, &rows, `SELECT verdict, COUNT(*) AS n FROM results r WHERE run_id = ?
		AND NOT EXISTS (SELECT 1 FROM results l FORCE INDEX (once) WHERE l.run_id = r.run_id AND l.case_id = r.case_id AND l.seq > r.seq) GROUP BY verdict`, run.ID)
	for _, r := range rows {
		for range r.N {
			t.Add(r.Verdict)
		}
		t.NotRun -= r.N
	}
	return t, err
}

// DoneOf counts the cases of runs that have a result, by the run's id.
func (s *Store) DoneOf(ctx context.Context, runs []int64) (map[int64]int, error) {
	out := map[int64]int{}
	if len(runs) == 0 {
		return out, nil
	}
	query, args, err := sqlx.In("SELECT run_id AS run, COUNT(DISTINCT case_id) AS n FROM results WHERE run_id IN (?) GROUP BY run_id", runs)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		Run int64 `db:"run"`
		N   int   `db:"n"`
	}
	if err := s.db.SelectContext(ctx, &rows, s.db.Rebind(query), args...); err != nil {
		return nil, fmt.Errorf("count what was run: %w", err)
	}
	for _, r := range rows {
		out[r.Run] = r.N
	}
	return out, nil
}

// ObservedOf are those of some cases that were observed in runs: as expected or odd; by the run's id.
func (s *Store) ObservedOf(ctx context.Context, runs []int64, cases []string) (map[int64]map[string]bool, error) {
	out := map[int64]map[string]bool{}
	if len(runs) == 0 || len(cases) == 0 {
		return out, nil
	}
	query, args, err := sqlx.In("SELECT run_id AS run, case_id AS c FROM results WHERE run_id IN (?) AND case_id IN (?) AND verdict IN (?)", runs, cases, []judge.Verdict{judge.AsExpected, judge.Odd})
	if err != nil {
		return nil, err
	}
	var rows []struct {
		Run  int64  `db:"run"`
		Case string `db:"c"`
	}
	if err := s.db.SelectContext(ctx, &rows, s.db.Rebind(query), args...); err != nil {
		return nil, fmt.Errorf("read what was observed: %w", err)
	}
	for _, r := range rows {
		if out[r.Run] == nil {
			out[r.Run] = map[string]bool{}
		}
		out[r.Run][r.Case] = true
	}
	return out, nil
}
