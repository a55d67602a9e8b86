package store

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"time"

	"oddtick/core/spec"
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

// PutSite keeps a site document. Its data source names are sealed.
func (s *Store) PutSite(ctx context.Context, site *spec.Site) (int64, error) {
	open := *site
	open.Databases = append([]spec.Database{}, site.Databases...)
	secrets := map[string]string{}
	for i, d := range open.Databases {
		secrets[d.ID] = d.DSN
		open.Databases[i].DSN = ""
	}
	document, err := json.Marshal(open)
	if err != nil {
		return 0, err
	}
	plain, err := json.Marshal(secrets)
	if err != nil {
		return 0, err
	}
	title := site.Title
	if title == "" {
		title = site.Site
	}
	_, err = s.db.ExecContext(ctx, `INSERT INTO sites (ident, title, document, secrets) VALUES (?, ?, ?, ?)
		ON DUPLICATE KEY UPDATE title = VALUES(title), document = VALUES(document), secrets = VALUES(secrets)`, site.Site, title, document, s.box.seal(plain))
	if err != nil {
		return 0, fmt.Errorf("keep the site %s: %w", site.Site, err)
	}
	var id int64
	err = s.db.GetContext(ctx, &id, "SELECT id FROM sites WHERE ident = ?", site.Site)
	return id, err
}

// SiteDocument returns a site's document with its data source names.
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
	plain, err := s.box.open(row.Secrets)
	if err != nil {
		return nil, err
	}
	var secrets map[string]string
	if err := json.Unmarshal(plain, &secrets); err != nil {
		return nil, err
	}
	for i := range site.Databases {
		site.Databases[i].DSN = secrets[site.Databases[i].ID]
	}
	return &site, nil
}

// Sites lists the sites by title.
func (s *Store) Sites(ctx context.Context) ([]Site, error) {
	var out []Site
	err := s.db.SelectContext(ctx, &out, "SELECT id, ident, title FROM sites ORDER BY title, id")
	return out, err
}

// PutForm saves a form document; a new revision is made only when its bytes differ from the newest.
func (s *Store) PutForm(ctx context.Context, siteID int64, form *spec.Form, file string, source []byte) error {
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
	case err == nil && bytes.Equal(newest.Source, source):
		return tx.Commit()
	case err != nil && err != ErrNotFound:
		return err
	}
	if _, err := tx.ExecContext(ctx, "INSERT INTO revisions (form_id, number, file, source, saved_at) VALUES (?, ?, ?, ?, ?)", id, newest.Number+1, file, source, time.Now().UTC()); err != nil {
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

// Revision finds a revision by its id.
func (s *Store) Revision(ctx context.Context, id int64) (*Revision, error) {
	var out Revision
	if err := s.db.GetContext(ctx, &out, "SELECT id, number, file, source FROM revisions WHERE id = ?", id); err != nil {
		return nil, missing(err)
	}
	return &out, nil
}
