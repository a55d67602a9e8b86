package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"oddtick/core/spec"

	"github.com/jmoiron/sqlx"
)

// CaseEdits are what testers changed about a form's cases, by case id.
func (s *Store) CaseEdits(ctx context.Context, formID int64) ([]spec.CaseEdit, error) {
	var rows [][]byte
	if err := s.db.SelectContext(ctx, &rows, "SELECT edit FROM case_edits WHERE form_id = ? AND edit <> '' ORDER BY edited_at, case_id", formID); err != nil {
		return nil, err
	}
	out := make([]spec.CaseEdit, len(rows))
	for i, row := range rows {
		if err := json.Unmarshal(row, &out[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// AnyVersion is given where edits are kept whatever they replace.
const AnyVersion = -1

// CaseEditsVersion counts the changes of a form's edits.
func (s *Store) CaseEditsVersion(ctx context.Context, formID int64) (int, error) {
	var n int
	err := s.db.GetContext(ctx, &n, "SELECT COALESCE(MAX(version), 0) FROM case_edits WHERE form_id = ?", formID)
	return n, err
}

// EditedSince is a case of which somebody else changed something since the version that an edit was made from.
type EditedSince struct {
	Case string `db:"case_id"`
	By   string `db:"edited_by"`
	// Edit is what holds of it now; nil where nothing is changed any more.
	Edit *spec.CaseEdit `db:"-"`
	Text []byte         `db:"edit"`
}

// StaleEditsError says that others changed some of the cases meanwhile.
type StaleEditsError struct{ Cases []EditedSince }

func (e *StaleEditsError) Error() string {
	return fmt.Sprintf("%d cases were edited meanwhile", len(e.Cases))
}

// PutCaseEdits keeps edits and forgets those of the cases in remove, all or none. version is that of the edits from which these were made.
// Errors: *StaleEditsError.
func (s *Store) PutCaseEdits(ctx context.Context, formID, userID int64, version int, edits []spec.CaseEdit, remove []string) error {
	return s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		// one at a time for a form
		if err := tx.GetContext(ctx, new(int64), "SELECT id FROM forms WHERE id = ? FOR UPDATE", formID); err != nil {
			return missing(err)
		}
		touched := append([]string{}, remove...)
		for i := range edits {
			touched = append(touched, edits[i].Case)
		}
		if len(touched) == 0 {
			return nil
		}
		if version != AnyVersion {
			if err := staleEdits(ctx, tx, formID, version, touched); err != nil {
				return err
			}
		}
		var next int
		if err := tx.GetContext(ctx, &next, "SELECT COALESCE(MAX(version), 0) + 1 FROM case_edits WHERE form_id = ?", formID); err != nil {
			return err
		}
		for _, id := range remove { // an empty edit stays, so that it is known who removed it
			if _, err := tx.ExecContext(ctx, "UPDATE case_edits SET edit = '', edited_by = NULLIF(?, 0), version = ? WHERE form_id = ? AND case_id = ? AND edit <> ''", userID, next, formID, id); err != nil {
				return err
			}
		}
		now := time.Now().UTC()
		for i := range edits {
			text, err := json.Marshal(&edits[i])
			if err != nil {
				return err
			}
			// a moment apart, so that they keep their order
			at := now.Add(time.Duration(i) * time.Millisecond)
			if _, err := tx.ExecContext(ctx, `INSERT INTO case_edits (form_id, case_id, edit, edited_by, edited_at, version) VALUES (?, ?, ?, NULLIF(?, 0), ?, ?)
				ON DUPLICATE KEY UPDATE edited_at = IF(edit = '', VALUES(edited_at), edited_at), edit = VALUES(edit), edited_by = VALUES(edited_by), version = VALUES(version)`,
				formID, edits[i].Case, text, userID, at, next); err != nil {
				return err
			}
		}
		return nil
	})
}

func staleEdits(ctx context.Context, tx *sqlx.Tx, formID int64, version int, cases []string) error {
	query, args, err := sqlx.In(`SELECT e.case_id, COALESCE(u.name, '') AS edited_by, e.edit FROM case_edits e LEFT JOIN users u ON u.id = e.edited_by
		WHERE e.form_id = ? AND e.version > ? AND e.case_id IN (?) ORDER BY e.case_id`, formID, version, cases)
	if err != nil {
		return err
	}
	stale := &StaleEditsError{}
	if err := tx.SelectContext(ctx, &stale.Cases, query, args...); err != nil {
		return err
	}
	for i := range stale.Cases {
		if one := &stale.Cases[i]; len(one.Text) > 0 {
			one.Edit = &spec.CaseEdit{}
			if err := json.Unmarshal(one.Text, one.Edit); err != nil {
				return err
			}
		}
	}
	if len(stale.Cases) == 0 {
		return nil
	}
	return stale
}
