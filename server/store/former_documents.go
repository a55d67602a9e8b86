package store

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"time"

	"oddtick/core/document"

	"github.com/jmoiron/sqlx"
)

// migrateDocuments rewrites sites' documents that former versions wrote, and gives each form whose newest revision is such a one a new
// revision. Older revisions stay, and are migrated as they are read. Each site and form is done once.
func migrateDocuments(ctx context.Context, s *Store) error {
	if err := migrateSites(ctx, s); err != nil {
		return err
	}
	forms := []struct {
		ID    int64  `db:"id"`
		Ident string `db:"ident"`
	}{}
	if err := s.db.SelectContext(ctx, &forms, "SELECT id, ident FROM forms WHERE NOT document_migrated ORDER BY id"); err != nil {
		return err
	}
	for _, f := range forms {
		err := s.inTransaction(ctx, func(tx *sqlx.Tx) error {
			var newest Revision
			if err := tx.GetContext(ctx, &newest, "SELECT id, number, file, source FROM revisions WHERE form_id = ? ORDER BY number DESC LIMIT 1 FOR UPDATE", f.ID); err != nil {
				return missing(err)
			}
			if now := present(newest.File, newest.Source); !bytes.Equal(now, newest.Source) {
				if _, err := tx.ExecContext(ctx, "INSERT INTO revisions (form_id, number, file, source, saved_at, note) VALUES (?, ?, ?, ?, ?, ?)", f.ID, newest.Number+1, newest.File, now, time.Now().UTC(), migratedNote); err != nil {
					return err
				}
				slog.Info("a form document was migrated", "form", f.Ident, "revision", newest.Number+1)
			}
			_, err := tx.ExecContext(ctx, "UPDATE forms SET document_migrated = TRUE WHERE id = ?", f.ID)
			return err
		})
		if err != nil {
			return fmt.Errorf("migrate the document of the form %s: %w", f.Ident, err)
		}
	}
	return nil
}

// migratedNote is what the revision list says of a revision that a migration made.
const migratedNote = "migrated to the present keys and values"

func migrateSites(ctx context.Context, s *Store) error {
	sites := []struct {
		ID       int64  `db:"id"`
		Ident    string `db:"ident"`
		Document []byte `db:"document"`
		Source   []byte `db:"source"`
	}{}
	if err := s.db.SelectContext(ctx, &sites, "SELECT id, ident, document, source FROM sites WHERE NOT document_migrated ORDER BY id"); err != nil {
		return err
	}
	for _, one := range sites {
		now, source := present(one.Ident+".json", one.Document), one.Source
		if source != nil {
			source = present(one.Ident+".yaml", source)
		}
		if _, err := s.db.ExecContext(ctx, "UPDATE sites SET document = ?, source = ?, document_migrated = TRUE WHERE id = ?", now, source, one.ID); err != nil {
			return fmt.Errorf("migrate the document of the site %s: %w", one.Ident, err)
		}
	}
	return nil
}

// present is a document in the present keys and values; one that cannot be read stays as it is, and its reader says why.
func present(file string, source []byte) []byte {
	now, migrated, err := document.Migrate(file, source)
	if err != nil || !migrated {
		return source
	}
	return now
}
