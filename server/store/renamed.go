package store

import (
	"context"
	"fmt"
	"log/slog"

	"oddtick/core/finding"
	"oddtick/core/report"

	"github.com/jmoiron/sqlx"
)

// renameFindings gives findings that testers said something of, or that were looked into, the names that they have since names are made of
// codes. The form's results tell which they are; what none of them shows keeps its older name. Each form is done once.
func renameFindings(ctx context.Context, s *Store) error {
	forms := []struct {
		ID     int64  `db:"id"`
		SiteID int64  `db:"site_id"`
		Ident  string `db:"ident"`
	}{}
	if err := s.db.SelectContext(ctx, &forms, "SELECT id, site_id, ident FROM forms WHERE NOT names_from_codes ORDER BY id"); err != nil {
		return err
	}
	for _, f := range forms {
		names, err := namesOf(ctx, s, f.ID, f.Ident)
		if err != nil {
			return fmt.Errorf("read what the form %s has shown: %w", f.Ident, err)
		}
		err = s.inTransaction(ctx, func(tx *sqlx.Tx) error {
			for _, n := range names {
				if _, err := tx.ExecContext(ctx, "UPDATE finding_triage SET finding = ? WHERE form_id = ? AND finding = ?", n.ID, f.ID, n.Older); err != nil {
					return err
				}
				// of one that was looked into under both names the newer report stays
				if _, err := tx.ExecContext(ctx, "UPDATE IGNORE site_reports SET kind = ? WHERE site_id = ? AND kind = ?", FurtherKind(f.Ident, n.ID), f.SiteID, FurtherKind(f.Ident, n.Older)); err != nil {
					return err
				}
			}
			_, err := tx.ExecContext(ctx, "UPDATE forms SET names_from_codes = TRUE WHERE id = ?", f.ID)
			return err
		})
		if err != nil {
			return fmt.Errorf("rename the findings of the form %s: %w", f.Ident, err)
		}
		if len(names) > 0 {
			slog.Info("findings have new names", "form", f.Ident, "findings", len(names))
		}
	}
	return nil
}

// namesOf are the names of all that a form's results have shown.
func namesOf(ctx context.Context, s *Store, formID int64, ident string) ([]finding.Name, error) {
	rows, err := s.db.QueryxContext(ctx, "SELECT DISTINCT r.cause FROM results r JOIN runs u ON u.id = r.run_id WHERE u.form_id = ? AND r.cause IS NOT NULL", formID)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	seen := map[finding.Name]bool{}
	var out []finding.Name
	for rows.Next() {
		var cause string
		if err := rows.Scan(&cause); err != nil {
			return nil, err
		}
		reasons, err := readReasons(cause)
		if err != nil {
			return nil, err
		}
		for _, r := range reasons {
			for _, c := range []report.Cause{r.Cause, r.Merged()} {
				if n := finding.NameOf(ident, c); !seen[n] {
					seen[n] = true
					out = append(out, n)
				}
			}
		}
	}
	return out, rows.Err()
}

// FurtherKind is the kind of report of what was found out about a finding of a form.
func FurtherKind(form, finding string) string { return "further:" + form + ":" + finding }
