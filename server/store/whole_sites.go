package store

import (
	"bytes"
	"cmp"
	"compress/gzip"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"
)

// PutSiteReport keeps the latest report of a kind about a site in one of its environments, "" for its own address.
func (s *Store) PutSiteReport(ctx context.Context, siteID int64, environment, kind string, report any) error {
	var body bytes.Buffer
	z := gzip.NewWriter(&body)
	if err := json.NewEncoder(z).Encode(report); err != nil {
		return err
	}
	if err := z.Close(); err != nil {
		return err
	}
	_, err := s.db.ExecContext(ctx, "INSERT INTO site_reports (site_id, environment, kind, at, body) VALUES (?, ?, ?, ?, ?) ON DUPLICATE KEY UPDATE at = VALUES(at), body = VALUES(body)", siteID, environment, kind, time.Now().UTC(), body.Bytes())
	return err
}

// SiteReport reads the latest report of a kind into a value; ErrNotFound where there is none.
func (s *Store) SiteReport(ctx context.Context, siteID int64, environment, kind string, report any) error {
	var body []byte
	err := s.db.GetContext(ctx, &body, "SELECT body FROM site_reports WHERE site_id = ? AND environment = ? AND kind = ?", siteID, environment, kind)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	if err != nil {
		return err
	}
	z, err := gzip.NewReader(bytes.NewReader(body))
	if err != nil {
		return err
	}
	text, err := io.ReadAll(z)
	if err != nil {
		return err
	}
	return json.Unmarshal(text, report)
}

// SiteRun runs all parts of a site one after the other: its forms, its access, and its journeys.
type SiteRun struct {
	ID        int64        `db:"id"`
	SiteID    int64        `db:"site_id"`
	UserID    int64        `db:"user_id"`
	StartedBy string       `db:"started_by"`
	StartedAt time.Time    `db:"started_at"`
	EndedAt   sql.NullTime `db:"ended_at"`
	StopAsked bool         `db:"stop_asked"`
	Text      string       `db:"items"`
	// Environment is where it is run; empty for the site's own address.
	Environment string `db:"environment"`
}

// PartState is what became of a part of a site's run.
type PartState string

// The states. Failed: it could not be begun.
const (
	PartWaiting PartState = "waiting"
	PartRunning PartState = "running"
	PartDone    PartState = "done"
	PartFailed  PartState = "failed"
	PartStopped PartState = "stopped"
)

// SiteRunPart is one part of a site's run.
type SiteRunPart struct {
	Kind  string    `json:"kind" enum:"form,access,journey"`
	ID    string    `json:"id" doc:"of a form or a journey"`
	Title string    `json:"title"`
	State PartState `json:"state" enum:"waiting,running,done,failed,stopped"`
	// Run is the number of a form's run, and Problem why it could not be begun.
	Run     int    `json:"run,omitempty"`
	Problem string `json:"problem,omitempty"`
}

const siteRunQuery = "SELECT r.id, r.site_id, r.started_by AS user_id, u.name AS started_by, r.started_at, r.ended_at, r.stop_asked, r.items, r.environment FROM site_runs r JOIN users u ON u.id = r.started_by"

// Parts are the run's parts in order.
func (r *SiteRun) Parts() (out []SiteRunPart, err error) {
	err = json.Unmarshal([]byte(r.Text), &out)
	return out, err
}

// ErrUnderWay says that a site is being run as a whole already.
var ErrUnderWay = errors.New("a run of the whole site is in progress")

// AddSiteRun begins a run of all parts of a site in one of its environments. Errors: ErrUnderWay.
func (s *Store) AddSiteRun(ctx context.Context, siteID, userID int64, environment string, parts []SiteRunPart) (*SiteRun, error) {
	text, err := json.Marshal(parts)
	if err != nil {
		return nil, err
	}
	res, err := s.db.ExecContext(ctx, `INSERT INTO site_runs (site_id, started_by, started_at, environment, items) SELECT id, ?, ?, ?, ? FROM sites
		WHERE id = ? AND NOT EXISTS (SELECT 1 FROM site_runs WHERE site_id = ? AND ended_at IS NULL)`, userID, time.Now().UTC(), environment, text, siteID, siteID)
	if err != nil {
		return nil, fmt.Errorf("begin a run of the site: %w", err)
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return nil, cmp.Or(err, ErrUnderWay)
	}
	return s.LatestSiteRun(ctx, siteID)
}

// LatestSiteRun is a site's latest; ErrNotFound where there is none.
func (s *Store) LatestSiteRun(ctx context.Context, siteID int64) (*SiteRun, error) {
	var out SiteRun
	if err := s.db.GetContext(ctx, &out, siteRunQuery+" WHERE r.site_id = ? ORDER BY r.id DESC LIMIT 1", siteID); err != nil {
		return nil, missing(err)
	}
	return &out, nil
}

// UnfinishedSiteRuns are those that have not ended, of all sites.
func (s *Store) UnfinishedSiteRuns(ctx context.Context) ([]SiteRun, error) {
	var out []SiteRun
	err := s.db.SelectContext(ctx, &out, siteRunQuery+" WHERE r.ended_at IS NULL ORDER BY r.id")
	return out, err
}

// StopSiteRun asks whoever drives a site's run to end it.
func (s *Store) StopSiteRun(ctx context.Context, id int64) error {
	_, err := s.db.ExecContext(ctx, "UPDATE site_runs SET stop_asked = TRUE WHERE id = ? AND ended_at IS NULL", id)
	return err
}

// SiteRunStopAsked tells whether a site's run is to end.
func (s *Store) SiteRunStopAsked(ctx context.Context, id int64) (asked bool, err error) {
	err = s.db.GetContext(ctx, &asked, "SELECT stop_asked FROM site_runs WHERE id = ?", id)
	return asked, missing(err)
}

// PutSiteRun writes what became of the parts; ended, that the run has ended.
func (s *Store) PutSiteRun(ctx context.Context, id int64, parts []SiteRunPart, ended bool) error {
	text, err := json.Marshal(parts)
	if err != nil {
		return err
	}
	at := sql.NullTime{Time: time.Now().UTC(), Valid: ended}
	_, err = s.db.ExecContext(ctx, "UPDATE site_runs SET items = ?, ended_at = ? WHERE id = ?", text, at, id)
	return err
}
