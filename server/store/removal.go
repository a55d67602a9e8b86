package store

import (
	"context"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// Holdings are how much would be lost with a form, or with a site.
type Holdings struct {
	Forms     int `db:"forms" json:"forms"`
	Revisions int `db:"revisions" json:"revisions"`
	Runs      int `db:"runs" json:"runs"`
	CaseEdits int `db:"case_edits" json:"case_edits" doc:"cases that testers changed or added"`
	Triages   int `db:"triages" json:"triages" doc:"what was said of findings"`
}

// ErrInProgress says that something cannot be deleted or moved while a run of it is in progress.
var ErrInProgress = errors.New("a run is in progress")

// ofForms picks forms: one by its number, or all of a site.
type ofForms struct {
	where string
	id    int64
}

func oneForm(id int64) ofForms     { return ofForms{"id = ?", id} }
func formsOfSite(id int64) ofForms { return ofForms{"site_id = ?", id} }

// FormHoldings counts what would be lost with a form.
func (s *Store) FormHoldings(ctx context.Context, formID int64) (*Holdings, error) {
	return s.holdings(ctx, oneForm(formID))
}

// SiteHoldings counts what would be lost with a site.
func (s *Store) SiteHoldings(ctx context.Context, siteID int64) (*Holdings, error) {
	return s.holdings(ctx, formsOfSite(siteID))
}

func (s *Store) holdings(ctx context.Context, of ofForms) (*Holdings, error) {
	in := "(SELECT id FROM forms WHERE " + of.where + ")"
	var out Holdings
	err := s.db.GetContext(ctx, &out, `SELECT (SELECT COUNT(*) FROM forms WHERE `+of.where+`) AS forms,
		(SELECT COUNT(*) FROM revisions WHERE form_id IN `+in+`) AS revisions, (SELECT COUNT(*) FROM runs WHERE form_id IN `+in+`) AS runs,
		(SELECT COUNT(DISTINCT form_id, case_id) FROM case_edits WHERE form_id IN `+in+`) AS case_edits, (SELECT COUNT(*) FROM finding_triage WHERE form_id IN `+in+`) AS triages`,
		of.id, of.id, of.id, of.id, of.id)
	return &out, err
}

// DeleteRun deletes a run with its results and their evidence. Errors: ErrInProgress.
func (s *Store) DeleteRun(ctx context.Context, runID int64) error {
	return s.inTransaction(ctx, func(tx *sqlx.Tx) error { return deleteRuns(ctx, tx, "id = ?", runID) })
}

// DeleteForm deletes a form with its revisions, runs and all that was said of it. Errors: ErrInProgress.
func (s *Store) DeleteForm(ctx context.Context, formID int64) error {
	return s.inTransaction(ctx, func(tx *sqlx.Tx) error { return deleteForms(ctx, tx, oneForm(formID)) })
}

// DeleteSite deletes a site with its forms and all that is kept of them. Errors: ErrInProgress.
func (s *Store) DeleteSite(ctx context.Context, siteID int64) error {
	return s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		var running int
		if err := tx.GetContext(ctx, &running, "SELECT COUNT(*) FROM site_runs WHERE site_id = ? AND ended_at IS NULL", siteID); err != nil || running > 0 {
			return errOr(err, ErrInProgress)
		}
		if err := deleteForms(ctx, tx, formsOfSite(siteID)); err != nil {
			return err
		}
		return deleteEach(ctx, tx, siteID, "site_runs WHERE site_id = ?", "site_reports WHERE site_id = ?", "sites WHERE id = ?")
	})
}

func deleteForms(ctx context.Context, tx *sqlx.Tx, of ofForms) error {
	in := "form_id IN (SELECT id FROM forms WHERE " + of.where + ")"
	if err := deleteRuns(ctx, tx, in, of.id); err != nil {
		return err
	}
	return deleteEach(ctx, tx, of.id, "finding_triage WHERE "+in, "case_edits WHERE "+in, "revisions WHERE "+in, "forms WHERE "+of.where)
}

// deleteRuns deletes those runs that fit a condition with one place, once none of them is in progress.
func deleteRuns(ctx context.Context, tx *sqlx.Tx, where string, id int64) error {
	var running int
	if err := tx.GetContext(ctx, &running, "SELECT COUNT(*) FROM runs WHERE state = '"+string(Running)+"' AND "+where+" FOR UPDATE", id); err != nil || running > 0 {
		return errOr(err, ErrInProgress)
	}
	in := "run_id IN (SELECT id FROM runs WHERE " + where + ")"
	return deleteEach(ctx, tx, id, "pictures WHERE "+in, "evidence WHERE "+in, "results WHERE "+in, "attempts WHERE "+in, "runs WHERE "+where)
}

// deleteEach deletes from tables in turn; each condition has one place, for the same id.
func deleteEach(ctx context.Context, tx *sqlx.Tx, id int64, from ...string) error {
	for _, of := range from {
		if _, err := tx.ExecContext(ctx, "DELETE FROM "+of, id); err != nil {
			return fmt.Errorf("delete from %s: %w", of, err)
		}
	}
	return nil
}

func errOr(err, otherwise error) error {
	if err != nil {
		return err
	}
	return otherwise
}

// MoveForm gives a form to another site, with all that is kept of it. Errors: ErrInProgress; Duplicate where that site has a form of this
// id.
func (s *Store) MoveForm(ctx context.Context, formID, siteID int64) error {
	return s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		var running int
		if err := tx.GetContext(ctx, &running, "SELECT COUNT(*) FROM runs WHERE state = '"+string(Running)+"' AND form_id = ? FOR UPDATE", formID); err != nil || running > 0 {
			return errOr(err, ErrInProgress)
		}
		_, err := tx.ExecContext(ctx, "UPDATE forms SET site_id = ? WHERE id = ?", siteID, formID)
		return err
	})
}
