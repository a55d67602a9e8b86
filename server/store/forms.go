package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"oddtick/core/document"
	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/spec"

	"github.com/jmoiron/sqlx"
)

// Site is a stored site.
type Site struct {
	ID    int64  `db:"id"`
	Ident string `db:"ident"`
	Title string `db:"title"`
}

// Form is a stored form with its newest revision.
type Form struct {
	ID         int64     `db:"id"`
	SiteID     int64     `db:"site_id"`
	Ident      string    `db:"ident"`
	Title      string    `db:"title"`
	SiteIdent  string    `db:"site_ident"`
	SiteTitle  string    `db:"site_title"`
	RevisionID int64     `db:"revision_id"`
	Revision   int       `db:"revision"`
	SavedAt    time.Time `db:"saved_at"`
}

// Revision is one saved state of a form document.
type Revision struct {
	ID     int64  `db:"id"`
	Number int    `db:"number"`
	File   string `db:"file"`
	Source []byte `db:"source"`
}

// ErrStaleSite says that a site was saved meanwhile.
var ErrStaleSite = errors.New("the site was saved meanwhile")

// SiteVersion is by what a site as it is kept now is told from what was kept before.
func (s *Store) SiteVersion(ctx context.Context, id int64) (string, error) {
	return siteVersion(ctx, s.db, "SELECT document, secrets FROM sites WHERE id = ?", id)
}

func siteVersion(ctx context.Context, db sqlx.QueryerContext, query string, arg any) (string, error) {
	var row struct {
		Document []byte `db:"document"`
		Secrets  []byte `db:"secrets"`
	}
	if err := sqlx.GetContext(ctx, db, &row, query, arg); err != nil {
		return "", missing(err)
	}
	sum := sha256.Sum256(append(row.Document, row.Secrets...)) // secrets are sealed anew each time, so that each saving is another
	return hex.EncodeToString(sum[:8]), nil
}

// ReplaceSite keeps a site in place of the version that it was made from; ErrStaleSite where another is kept by now.
func (s *Store) ReplaceSite(ctx context.Context, site *spec.Site, source []byte, version string) error {
	return s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		now, err := siteVersion(ctx, tx, "SELECT document, secrets FROM sites WHERE ident = ? FOR UPDATE", site.Site)
		if err != nil {
			return err
		}
		if now != version {
			return ErrStaleSite
		}
		_, err = s.putSite(ctx, tx, site, source)
		return err
	})
}

// PutSite keeps a site, whatever was kept before. Its secrets are sealed; its document's text, where there is one, is kept without them.
func (s *Store) PutSite(ctx context.Context, site *spec.Site, source []byte) (int64, error) {
	return s.putSite(ctx, s.db, site, source)
}

func (s *Store) putSite(ctx context.Context, db sqlx.ExtContext, site *spec.Site, source []byte) (int64, error) {
	open, secrets := site.Split()
	asJSON, err := json.Marshal(open)
	if err != nil {
		return 0, err
	}
	if source, err = document.RewriteSite(open, source); err != nil {
		return 0, fmt.Errorf("write the site document of %s: %w", site.Site, err)
	}
	plain, err := json.Marshal(secrets)
	if err != nil {
		return 0, err
	}
	sealed, err := s.box.seal(plain)
	if err != nil {
		return 0, err
	}
	title := site.Title
	if title == "" {
		title = site.Site
	}
	_, err = db.ExecContext(ctx, `INSERT INTO sites (ident, title, document, secrets, source) VALUES (?, ?, ?, ?, ?)
		ON DUPLICATE KEY UPDATE title = VALUES(title), document = VALUES(document), secrets = VALUES(secrets), source = VALUES(source)`, site.Site, title, asJSON, sealed, source)
	if err != nil {
		return 0, fmt.Errorf("keep the site %s: %w", site.Site, err)
	}
	var id int64
	err = sqlx.GetContext(ctx, db, &id, "SELECT id FROM sites WHERE ident = ?", site.Site)
	return id, err
}

// SiteDocument returns a site with its secrets.
func (s *Store) SiteDocument(ctx context.Context, id int64) (*spec.Site, error) {
	var row struct {
		Document []byte `db:"document"`
		Secrets  []byte `db:"secrets"`
	}
	if err := s.db.GetContext(ctx, &row, "SELECT document, secrets FROM sites WHERE id = ?", id); err != nil {
		return nil, missing(err)
	}
	var site spec.Site
	if err := json.Unmarshal(row.Document, &site); err != nil {
		return nil, err
	}
	if len(row.Secrets) == 0 {
		return &site, nil // given up, as their key was lost
	}
	plain, err := s.box.open(row.Secrets)
	if err != nil {
		return nil, err
	}
	var secrets spec.SiteSecrets
	if err := json.Unmarshal(plain, &secrets); err != nil {
		return nil, err
	}
	site.Join(&secrets)
	return &site, nil
}

// SiteSource is the text of a site's document, without secrets.
func (s *Store) SiteSource(ctx context.Context, id int64) ([]byte, error) {
	var source []byte
	err := s.db.GetContext(ctx, &source, "SELECT source FROM sites WHERE id = ?", id)
	return source, missing(err)
}

// Site finds a site by its own id.
func (s *Store) Site(ctx context.Context, ident string) (*Site, error) {
	var out Site
	if err := s.db.GetContext(ctx, &out, "SELECT id, ident, title FROM sites WHERE ident = ?", ident); err != nil {
		return nil, missing(err)
	}
	return &out, nil
}

// KeepTables keeps a site's tables as they were read, KeepPage a form's page. Nothing read yet is nil.
func (s *Store) KeepTables(ctx context.Context, siteID int64, db *schema.Database) error {
	return s.keep(ctx, "UPDATE sites SET tables_read = ? WHERE id = ?", siteID, db)
}

// KeepPage keeps a form's page as it was read.
func (s *Store) KeepPage(ctx context.Context, formID int64, page *observation.FormOnPage) error {
	return s.keep(ctx, "UPDATE forms SET page_read = ? WHERE id = ?", formID, page)
}

func (s *Store) keep(ctx context.Context, statement string, id int64, what any) error {
	text, err := json.Marshal(what)
	if err == nil {
		_, err = s.db.ExecContext(ctx, statement, text, id)
	}
	return err
}

// Tables returns a site's tables as they were last read, nil where they never were.
func (s *Store) Tables(ctx context.Context, siteID int64) (*schema.Database, error) {
	return kept[schema.Database](ctx, s, "SELECT tables_read FROM sites WHERE id = ?", siteID)
}

// Page returns a form's page as it was last read, nil where it never was.
func (s *Store) Page(ctx context.Context, formID int64) (*observation.FormOnPage, error) {
	return kept[observation.FormOnPage](ctx, s, "SELECT page_read FROM forms WHERE id = ?", formID)
}

func kept[T any](ctx context.Context, s *Store, query string, id int64) (*T, error) {
	var text []byte
	if err := s.db.GetContext(ctx, &text, query, id); err != nil || text == nil {
		return nil, missing(err)
	}
	var out T
	err := json.Unmarshal(text, &out)
	return &out, err
}

// Sites lists the sites by title.
func (s *Store) Sites(ctx context.Context) ([]Site, error) {
	var out []Site
	err := s.db.SelectContext(ctx, &out, "SELECT id, ident, title FROM sites ORDER BY title, id")
	return out, err
}

// StaleError says that another revision was saved meanwhile.
type StaleError struct{ Newest int }

func (e *StaleError) Error() string {
	return fmt.Sprintf("revision %d was saved in the meantime", e.Newest)
}

// Save is a form document to be saved.
type Save struct {
	Form   *spec.Form
	File   string
	Source []byte
	// Base is the number of the revision it was made from; 0 takes whatever is there.
	Base int
	User int64 // 0 for nobody
	Note string
}

// PutForm saves a form document; a new revision is made only when its bytes differ from the newest. A *StaleError says that the
// newest is not the one it was made from; then nothing is saved.
func (s *Store) PutForm(ctx context.Context, siteID int64, save Save) error {
	form, file, source := save.Form, save.File, save.Source
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback() }() // does nothing after the commit
	if _, err := tx.ExecContext(ctx, "INSERT INTO forms (site_id, ident, title) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE title = VALUES(title)", siteID, form.Form, form.Title); err != nil {
		return fmt.Errorf("keep the form %s: %w", form.Form, err)
	}
	var id int64
	if err := tx.GetContext(ctx, &id, "SELECT id FROM forms WHERE site_id = ? AND ident = ? FOR UPDATE", siteID, form.Form); err != nil {
		return err
	}
	var newest Revision
	err = missing(tx.GetContext(ctx, &newest, "SELECT id, number, file, source FROM revisions WHERE form_id = ? ORDER BY number DESC LIMIT 1", id))
	switch {
	case err == nil && save.Base != 0 && newest.Number != save.Base:
		return &StaleError{newest.Number}
	case err == nil && bytes.Equal(newest.Source, source):
		return tx.Commit()
	case err != nil && err != ErrNotFound:
		return err
	}
	if _, err := tx.ExecContext(ctx, "INSERT INTO revisions (form_id, number, file, source, saved_at, saved_by, note) VALUES (?, ?, ?, ?, ?, NULLIF(?, 0), ?)", id, newest.Number+1, file, source, time.Now().UTC(), save.User, cut(save.Note, 400)); err != nil {
		return fmt.Errorf("keep a revision of the form %s: %w", form.Form, err)
	}
	return tx.Commit()
}

const formQuery = `SELECT f.id, f.site_id, f.ident, f.title, s.ident AS site_ident, s.title AS site_title, r.id AS revision_id, r.number AS revision, r.saved_at
	FROM forms f JOIN sites s ON s.id = f.site_id JOIN revisions r ON r.form_id = f.id AND r.number = (SELECT MAX(number) FROM revisions WHERE form_id = f.id)`

// Forms lists all forms with their newest revisions.
func (s *Store) Forms(ctx context.Context) ([]Form, error) {
	var out []Form
	err := s.db.SelectContext(ctx, &out, formQuery+" ORDER BY s.title, f.id")
	return out, err
}

// Form finds a form by its site's and its own id.
func (s *Store) Form(ctx context.Context, site, form string) (*Form, error) {
	var out Form
	if err := s.db.GetContext(ctx, &out, formQuery+" WHERE s.ident = ? AND f.ident = ?", site, form); err != nil {
		return nil, missing(err)
	}
	return &out, nil
}

// FormByID finds a form by its number.
func (s *Store) FormByID(ctx context.Context, id int64) (*Form, error) {
	var out Form
	if err := s.db.GetContext(ctx, &out, formQuery+" WHERE f.id = ?", id); err != nil {
		return nil, missing(err)
	}
	return &out, nil
}

// Saved is a revision without its text.
type Saved struct {
	ID      int64     `db:"id"`
	Number  int       `db:"number"`
	SavedAt time.Time `db:"saved_at"`
	SavedBy string    `db:"saved_by"`
	Note    string    `db:"note"`
}

// Revisions lists a form's revisions, newest first.
func (s *Store) Revisions(ctx context.Context, formID int64, most int) ([]Saved, error) {
	var out []Saved
	err := s.db.SelectContext(ctx, &out, `SELECT r.id, r.number, r.saved_at, COALESCE(u.name, '') AS saved_by, r.note FROM revisions r LEFT JOIN users u ON u.id = r.saved_by
		WHERE r.form_id = ? ORDER BY r.number DESC LIMIT ?`, formID, most)
	return out, err
}

// RevisionByNumber finds a form's revision, in the present keys and values.
func (s *Store) RevisionByNumber(ctx context.Context, formID int64, number int) (*Revision, error) {
	var out Revision
	if err := s.db.GetContext(ctx, &out, "SELECT id, number, file, source FROM revisions WHERE form_id = ? AND number = ?", formID, number); err != nil {
		return nil, missing(err)
	}
	out.Source = present(out.File, out.Source)
	return &out, nil
}

// Revision finds a revision by its id, in the present keys and values.
func (s *Store) Revision(ctx context.Context, id int64) (*Revision, error) {
	var out Revision
	if err := s.db.GetContext(ctx, &out, "SELECT id, number, file, source FROM revisions WHERE id = ?", id); err != nil {
		return nil, missing(err)
	}
	out.Source = present(out.File, out.Source)
	return &out, nil
}

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
