package store

import (
	"context"
	"encoding/json"
	"time"

	"oddtick/core/spec"
)

// CaseEdits are what testers changed about a form's cases, by case id.
func (s *Store) CaseEdits(ctx context.Context, formID int64) ([]spec.CaseEdit, error) {
	var rows [][]byte
	if err := s.db.SelectContext(ctx, &rows, "SELECT edit FROM case_edits WHERE form_id = ? ORDER BY edited_at, case_id", formID); err != nil {
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

// PutCaseEdits keeps edits and forgets those of the cases in remove, all or none.
func (s *Store) PutCaseEdits(ctx context.Context, formID, userID int64, edits []spec.CaseEdit, remove []string) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // nothing is left to roll back after a commit
	for _, id := range remove {
		if _, err := tx.ExecContext(ctx, "DELETE FROM case_edits WHERE form_id = ? AND case_id = ?", formID, id); err != nil {
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
		if _, err := tx.ExecContext(ctx, `INSERT INTO case_edits (form_id, case_id, edit, edited_by, edited_at) VALUES (?, ?, ?, NULLIF(?, 0), ?)
			ON DUPLICATE KEY UPDATE edit = VALUES(edit), edited_by = VALUES(edited_by)`, formID, edits[i].Case, text, userID, at); err != nil {
			return err
		}
	}
	return tx.Commit()
}
