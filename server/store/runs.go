package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/report"

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
	ID              int64        `db:"id"`
	FormID          int64        `db:"form_id"`
	RevisionID      int64        `db:"revision_id"`
	Number          int          `db:"number"`
	Seed            int64        `db:"seed"`
	Depth           string       `db:"depth"`
	Cases           string       `db:"cases"`
	State           RunState     `db:"state"`
	Reason          string       `db:"reason"`
	ExternalChanges int          `db:"external_changes"`
	NotSelected     int          `db:"not_selected"` // cases of the plan that the run does not make
	Options         string       `db:"options"`      // how it is to be run, as JSON
	UnknownEnd      string       `db:"cases_of_unknown_end"`
	StartedAt       time.Time    `db:"started_at"`
	EndedAt         sql.NullTime `db:"ended_at"`
	StartedBy       string       `db:"started_by"`
}

const runQuery = `SELECT r.id, r.form_id, r.revision_id, r.number, r.seed, r.depth, r.cases, r.state, r.reason, r.external_changes, r.not_selected, r.options, r.cases_of_unknown_end, r.started_at, r.ended_at, u.name AS started_by
	FROM runs r JOIN users u ON u.id = r.started_by`

// CaseIDs are the run's cases in order.
func (r *Run) CaseIDs() ([]string, error) {
	var out []string
	err := json.Unmarshal([]byte(r.Cases), &out)
	return out, err
}

// UnknownEnds are the cases that were submitted without an end being known, because Odd Tick ended meanwhile.
func (r *Run) UnknownEnds() ([]string, error) {
	out := []string{}
	err := json.Unmarshal([]byte(r.UnknownEnd), &out)
	return out, err
}

// NewRun is what a run begins with. Seed makes its values new.
type NewRun struct {
	FormID, RevisionID, UserID, Seed int64
	Depth                            string
	Cases                            []string
	Left                             int    // cases of the plan that the run does not make
	Options                          string // JSON
}

// AddRun begins a run and gives it the form's next number.
func (s *Store) AddRun(ctx context.Context, n NewRun) (*Run, error) {
	list, err := json.Marshal(n.Cases)
	if err != nil {
		return nil, err
	}
	if n.Options == "" {
		n.Options = "{}"
	}
	res, err := s.db.ExecContext(ctx, `INSERT INTO runs (form_id, revision_id, number, seed, depth, cases, state, reason, not_selected, options, started_by, started_at, masked)
		SELECT ?, ?, COALESCE(MAX(number), 0) + 1, ?, ?, ?, ?, '', ?, ?, ?, ?, TRUE FROM runs WHERE form_id = ?`,
		n.FormID, n.RevisionID, n.Seed, n.Depth, list, Running, n.Left, n.Options, n.UserID, time.Now().UTC(), n.FormID)
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
	_, err := s.db.ExecContext(ctx, "UPDATE runs SET state = ?, reason = ?, external_changes = ?, ended_at = ?, stop_asked = FALSE WHERE id = ?", state, reason, foreign, time.Now().UTC(), id)
	return err
}

// Interrupt notes what a run saw that is under way still while the server ends: it goes on at the next start.
func (s *Store) Interrupt(ctx context.Context, id int64, foreign int) error {
	_, err := s.db.ExecContext(ctx, "UPDATE runs SET external_changes = ? WHERE id = ?", foreign, id)
	return err
}

// Interrupted are the runs that were under way when the server ended.
func (s *Store) Interrupted(ctx context.Context) ([]Run, error) {
	var out []Run
	err := s.db.SelectContext(ctx, &out, runQuery+" WHERE r.state = ? ORDER BY r.id", Running)
	return out, err
}

// Progress is how far a run came.
type Progress struct {
	// Done are the cases with a result, Begun how often each case was submitted, and Seq the last result's number.
	Done  map[string]bool
	Begun map[string]int
	Seq   int
	// Unknown are the cases whose last submission has no result.
	Unknown []string
	// Kept is how many bytes the evidence takes up.
	Kept int64
}

// Progress reads how far a run came.
func (s *Store) Progress(ctx context.Context, runID int64) (*Progress, error) {
	out := &Progress{Done: map[string]bool{}, Begun: map[string]int{}}
	var done []struct {
		Case    string `db:"case_id"`
		Attempt int    `db:"attempt"`
		Seq     int    `db:"seq"`
	}
	if err := s.db.SelectContext(ctx, &done, "SELECT case_id, attempt, seq FROM results WHERE run_id = ? ORDER BY seq", runID); err != nil {
		return nil, err
	}
	finished := map[string]int{}
	for _, d := range done {
		out.Done[d.Case], out.Seq = true, d.Seq
		finished[d.Case] = max(finished[d.Case], d.Attempt)
	}
	var begun []struct {
		Case    string `db:"case_id"`
		Attempt int    `db:"attempt"`
	}
	if err := s.db.SelectContext(ctx, &begun, "SELECT case_id, MAX(attempt) AS attempt FROM attempts WHERE run_id = ? GROUP BY case_id ORDER BY case_id", runID); err != nil {
		return nil, err
	}
	for _, b := range begun {
		out.Begun[b.Case] = b.Attempt
		if b.Attempt > finished[b.Case] {
			out.Unknown = append(out.Unknown, b.Case)
			delete(out.Done, b.Case)
		}
	}
	err := s.db.GetContext(ctx, &out.Kept, `SELECT (SELECT COALESCE(SUM(LENGTH(body)), 0) FROM evidence WHERE run_id = ?)
		+ (SELECT COALESCE(SUM(LENGTH(body)), 0) FROM pictures WHERE run_id = ?)`, runID, runID)
	return out, err
}

// MarkResumed marks a run as under way again, with the cases whose submission has no known end.
func (s *Store) MarkResumed(ctx context.Context, runID int64, unknown []string) error {
	run, err := s.Run(ctx, runID)
	if err != nil {
		return err
	}
	all, err := run.UnknownEnds()
	if err != nil {
		return err
	}
	text, err := json.Marshal(append(all, unknown...))
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, "UPDATE runs SET state = ?, reason = '', ended_at = NULL, cases_of_unknown_end = ? WHERE id = ?", Running, text, runID)
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
	Headline prose.Text     `db:"headline"`
	Cause    sql.NullString `db:"cause"`
	TookUS   int64          `db:"took_us"`
	// Kept is how many bytes its evidence takes up, of one that was added.
	Kept int `db:"-"`
}

// Reasons are the causes of a mark's case with their words, the most telling first.
func (m *Mark) Reasons() ([]report.Reason, error) {
	if !m.Cause.Valid {
		return nil, nil
	}
	list, err := readReasons(m.Cause.String)
	if len(list) > 0 {
		list[0].Headline = m.Headline
	}
	return list, err
}

// readReasons reads the column of causes: a list, or the one cause that earlier versions wrote.
func readReasons(text string) (list []report.Reason, err error) {
	if strings.HasPrefix(text, "{") {
		text = "[" + text + "]"
	}
	err = json.Unmarshal([]byte(text), &list)
	return list, err
}

// letters stand for the verdicts in Mark.Checks.
var letters = map[judge.Verdict]byte{judge.AsExpected: 'e', judge.Odd: 'o', judge.NotObserved: 'n', judge.DoesNotApply: '-'}

var compressor, _ = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest))

// AddResult writes a result with its evidence, without the secrets that must not be kept. seq counts a run's results from 1.
func (s *Store) AddResult(ctx context.Context, runID int64, seq int, row string, r *report.Result, secrets ...string) (Mark, error) {
	checks := make([]byte, len(r.Checks))
	for i, v := range r.Checks {
		checks[i] = letters[v]
	}
	m := Mark{Seq: seq, Case: r.Case, Row: row, Verdict: r.Verdict, Checks: string(checks), Headline: prose.Text(cut(observation.MaskText(string(r.Headline), secrets), 400)), TookUS: r.Took.Microseconds()}
	if reasons := r.Reasons(); reasons != nil {
		cause, err := json.Marshal(reasons)
		if err != nil {
			return m, err
		}
		m.Cause = sql.NullString{String: string(observation.Mask(cause, secrets)), Valid: true}
	}
	body, err := json.Marshal(r)
	if err != nil {
		return m, err
	}
	body = observation.Mask(body, secrets)
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return m, err
	}
	defer func() { _ = tx.Rollback() }() // does nothing after the commit
	if _, err := tx.ExecContext(ctx, "INSERT INTO results (run_id, seq, case_id, attempt, row_id, verdict, checks, headline, cause, took_us) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
		runID, seq, m.Case, r.Attempt, row, m.Verdict, m.Checks, m.Headline, m.Cause, m.TookUS); err != nil {
		return m, fmt.Errorf("keep the result of %s: %w", r.Case, err)
	}
	evidence := compressor.EncodeAll(body, nil)
	m.Kept = len(evidence)
	for name, picture := range r.Pictures {
		m.Kept += len(picture)
		if _, err := tx.ExecContext(ctx, "INSERT INTO pictures (run_id, seq, name, body) VALUES (?, ?, ?, ?)", runID, seq, name, picture); err != nil {
			return m, fmt.Errorf("keep a picture of %s: %w", r.Case, err)
		}
	}
	if _, err := tx.ExecContext(ctx, "INSERT INTO evidence (run_id, seq, body) VALUES (?, ?, ?)", runID, seq, evidence); err != nil {
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
func (s *Store) Result(ctx context.Context, runID int64, caseID string) (*report.Result, error) {
	var body []byte
	if err := s.db.GetContext(ctx, &body, "SELECT e.body FROM results r JOIN evidence e USING (run_id, seq) WHERE r.run_id = ? AND r.case_id = ? ORDER BY r.seq DESC LIMIT 1", runID, caseID); err != nil {
		return nil, missing(err)
	}
	return decodeResult(body)
}

// Picture is the picture of a step of a case's latest result.
func (s *Store) Picture(ctx context.Context, runID int64, caseID, name string) ([]byte, error) {
	var body []byte
	if err := s.db.GetContext(ctx, &body, "SELECT p.body FROM results r JOIN pictures p USING (run_id, seq) WHERE r.run_id = ? AND r.case_id = ? AND p.name = ? ORDER BY r.seq DESC LIMIT 1", runID, caseID, name); err != nil {
		return nil, missing(err)
	}
	return body, nil
}

// HasResult tells whether an attempt's result is kept.
func (s *Store) HasResult(ctx context.Context, runID int64, caseID string, attempt int) (bool, error) {
	var n int
	err := s.db.GetContext(ctx, &n, "SELECT COUNT(*) FROM results WHERE run_id = ? AND case_id = ? AND attempt = ?", runID, caseID, attempt)
	return n > 0, err
}

// Results returns the results of a run in the order in which they came; of a case that was made again, those of both attempts.
func (s *Store) Results(ctx context.Context, runID int64) ([]*report.Result, error) {
	var bodies [][]byte
	if err := s.db.SelectContext(ctx, &bodies, "SELECT body FROM evidence WHERE run_id = ? ORDER BY seq", runID); err != nil {
		return nil, err
	}
	out := make([]*report.Result, len(bodies))
	for i, body := range bodies {
		r, err := decodeResult(body)
		if err != nil {
			return nil, err
		}
		out[i] = r
	}
	return out, nil
}

func decodeResult(body []byte) (*report.Result, error) {
	text, err := decompressor.DecodeAll(body, nil)
	if err != nil {
		return nil, fmt.Errorf("unpack evidence: %w", err)
	}
	var out report.Result
	if err := json.Unmarshal(text, &out); err != nil {
		return nil, fmt.Errorf("read evidence: %w", err)
	}
	return &out, nil
}
