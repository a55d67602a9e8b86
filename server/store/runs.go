package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"oddtick/core/judge"

	"github.com/klauspost/compress/zstd"
)

// RunState is how far a run is.
type RunState string

// The states of a run.
const (
	Running  RunState = "running"
	Finished RunState = "finished"
	// Stopped: by somebody, or by the server's end.
	Stopped RunState = "stopped"
	// Failed: it could not go on.
	Failed RunState = "failed"
)

// Run is a stored run.
type Run struct {
	ID         int64        `db:"id"`
	FormID     int64        `db:"form_id"`
	RevisionID int64        `db:"revision_id"`
	Number     int          `db:"number"`
	Seed       int64        `db:"seed"`
	Depth      string       `db:"depth"`
	Cases      string       `db:"cases"`
	State      RunState     `db:"state"`
	Reason     string       `db:"reason"`
	Foreign    int          `db:"foreign_changes"`
	Left       int          `db:"left_out"` // cases of the plan that the run does not make
	StartedAt  time.Time    `db:"started_at"`
	EndedAt    sql.NullTime `db:"ended_at"`
	StartedBy  string       `db:"started_by"`
}

const runQuery = `SELECT r.id, r.form_id, r.revision_id, r.number, r.seed, r.depth, r.cases, r.state, r.reason, r.foreign_changes, r.left_out, r.started_at, r.ended_at, u.name AS started_by
	FROM runs r JOIN users u ON u.id = r.started_by`

// CaseIDs are the run's cases in order.
func (r *Run) CaseIDs() ([]string, error) {
	var out []string
	err := json.Unmarshal([]byte(r.Cases), &out)
	return out, err
}

// AddRun begins a run and gives it the form's next number. seed makes its values new.
func (s *Store) AddRun(ctx context.Context, formID, revisionID, userID int64, seed int64, depth string, cases []string, left int) (*Run, error) {
	list, err := json.Marshal(cases)
	if err != nil {
		return nil, err
	}
	res, err := s.db.ExecContext(ctx, `INSERT INTO runs (form_id, revision_id, number, seed, depth, cases, state, reason, left_out, started_by, started_at)
		SELECT ?, ?, COALESCE(MAX(number), 0) + 1, ?, ?, ?, ?, '', ?, ?, ? FROM runs WHERE form_id = ?`,
		formID, revisionID, seed, depth, list, Running, left, userID, time.Now().UTC(), formID)
	if err != nil {
		return nil, fmt.Errorf("begin a run: %w", err)
	}
	id, err := res.LastInsertId()
	if err != nil {
		return nil, err
	}
	return s.Run(ctx, id)
}

// Run finds a run by its id.
func (s *Store) Run(ctx context.Context, id int64) (*Run, error) {
	var out Run
	if err := s.db.GetContext(ctx, &out, runQuery+" WHERE r.id = ?", id); err != nil {
		return nil, missing(err)
	}
	return &out, nil
}

// RunByNumber finds a form's run by its number; 0 is the newest.
func (s *Store) RunByNumber(ctx context.Context, formID int64, number int) (*Run, error) {
	var out Run
	if err := s.db.GetContext(ctx, &out, runQuery+" WHERE r.form_id = ? AND (? = 0 OR r.number = ?) ORDER BY r.number DESC LIMIT 1", formID, number, number); err != nil {
		return nil, missing(err)
	}
	return &out, nil
}

// Runs lists a form's runs, the newest first.
func (s *Store) Runs(ctx context.Context, formID int64, most int) ([]Run, error) {
	var out []Run
	err := s.db.SelectContext(ctx, &out, runQuery+" WHERE r.form_id = ? ORDER BY r.number DESC LIMIT ?", formID, most)
	return out, err
}

// EndRun writes how a run ended.
func (s *Store) EndRun(ctx context.Context, id int64, state RunState, reason string, foreign int) error {
	_, err := s.db.ExecContext(ctx, "UPDATE runs SET state = ?, reason = ?, foreign_changes = ?, ended_at = ? WHERE id = ?", state, reason, foreign, time.Now().UTC(), id)
	return err
}

// StopInterrupted marks runs that were under way when the server ended, naming how many submissions' fate is not known.
func (s *Store) StopInterrupted(ctx context.Context) error {
	_, err := s.db.ExecContext(ctx, `UPDATE runs r SET state = ?, ended_at = ?, reason = CONCAT('Odd Tick ended while it ran; ',
		(SELECT COUNT(*) FROM attempts a WHERE a.run_id = r.id AND NOT EXISTS (SELECT 1 FROM results x WHERE x.run_id = a.run_id AND x.case_id = a.case_id AND x.attempt >= a.attempt)),
		' submissions were begun whose end is not known.') WHERE state = ?`, Stopped, time.Now().UTC(), Running)
	return err
}

// AddAttempt writes that an attempt is about to be submitted.
func (s *Store) AddAttempt(ctx context.Context, runID int64, caseID string, attempt int) error {
	_, err := s.db.ExecContext(ctx, "INSERT INTO attempts (run_id, case_id, attempt, begun_at) VALUES (?, ?, ?, ?)", runID, caseID, attempt, time.Now().UTC())
	return err
}

// Mark is a result in brief.
type Mark struct {
	Seq      int            `db:"seq"`
	Case     string         `db:"case_id"`
	Row      string         `db:"row_id"`
	Verdict  judge.Verdict  `db:"verdict"`
	Checks   string         `db:"checks"`
	Headline string         `db:"headline"`
	Cause    sql.NullString `db:"cause"`
	TookUS   int64          `db:"took_us"`
}

// letters stand for the verdicts in Mark.Checks.
var letters = map[judge.Verdict]byte{judge.AsExpected: 'e', judge.Odd: 'o', judge.NotObserved: 'n', judge.DoesNotApply: '-'}

var compressor, _ = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest))

// AddResult writes a result with its evidence. seq counts a run's results from 1.
func (s *Store) AddResult(ctx context.Context, runID int64, seq int, row string, r *judge.Result) (Mark, error) {
	checks := make([]byte, len(r.Checks))
	for i, v := range r.Checks {
		checks[i] = letters[v]
	}
	m := Mark{Seq: seq, Case: r.Case, Row: row, Verdict: r.Verdict, Checks: string(checks), Headline: cut(r.Headline, 400), TookUS: r.Took.Microseconds()}
	if r.Cause != nil {
		cause, err := json.Marshal(r.Cause)
		if err != nil {
			return m, err
		}
		m.Cause = sql.NullString{String: string(cause), Valid: true}
	}
	body, err := json.Marshal(r)
	if err != nil {
		return m, err
	}
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return m, err
	}
	defer func() { _ = tx.Rollback() }() // does nothing after the commit
	if _, err := tx.ExecContext(ctx, "INSERT INTO results (run_id, seq, case_id, attempt, row_id, verdict, checks, headline, cause, took_us) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
		runID, seq, m.Case, r.Attempt, row, m.Verdict, m.Checks, m.Headline, m.Cause, m.TookUS); err != nil {
		return m, fmt.Errorf("keep the result of %s: %w", r.Case, err)
	}
	if _, err := tx.ExecContext(ctx, "INSERT INTO evidence (run_id, seq, body) VALUES (?, ?, ?)", runID, seq, compressor.EncodeAll(body, nil)); err != nil {
		return m, fmt.Errorf("keep the evidence of %s: %w", r.Case, err)
	}
	return m, tx.Commit()
}

func cut(s string, runes int) string {
	if r := []rune(s); len(r) > runes {
		return string(r[:runes-1]) + "…"
	}
	return s
}

// Marks are a run's results after a sequence number, in order.
func (s *Store) Marks(ctx context.Context, runID int64, after int) ([]Mark, error) {
	out := []Mark{}
	err := s.db.SelectContext(ctx, &out, "SELECT seq, case_id, row_id, verdict, checks, headline, cause, took_us FROM results WHERE run_id = ? AND seq > ? ORDER BY seq", runID, after)
	return out, err
}

var decompressor, _ = zstd.NewReader(nil)

// Result returns a case's latest result in a run, with its evidence.
func (s *Store) Result(ctx context.Context, runID int64, caseID string) (*judge.Result, error) {
	var body []byte
	if err := s.db.GetContext(ctx, &body, "SELECT e.body FROM results r JOIN evidence e USING (run_id, seq) WHERE r.run_id = ? AND r.case_id = ? ORDER BY r.seq DESC LIMIT 1", runID, caseID); err != nil {
		return nil, missing(err)
	}
	return decodeResult(body)
}

// Results returns all results of a run by case.
func (s *Store) Results(ctx context.Context, runID int64) (map[string]*judge.Result, error) {
	var bodies [][]byte
	if err := s.db.SelectContext(ctx, &bodies, "SELECT body FROM evidence WHERE run_id = ? ORDER BY seq", runID); err != nil {
		return nil, err
	}
	out := map[string]*judge.Result{}
	for _, body := range bodies {
		r, err := decodeResult(body)
		if err != nil {
			return nil, err
		}
		out[r.Case] = r
	}
	return out, nil
}

func decodeResult(body []byte) (*judge.Result, error) {
	text, err := decompressor.DecodeAll(body, nil)
	if err != nil {
		return nil, fmt.Errorf("unpack evidence: %w", err)
	}
	var out judge.Result
	if err := json.Unmarshal(text, &out); err != nil {
		return nil, fmt.Errorf("read evidence: %w", err)
	}
	return &out, nil
}
