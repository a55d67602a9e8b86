package store

import (
	"context"
	"fmt"
	"log/slog"

	"oddtick/core/observation"

	"github.com/jmoiron/sqlx"
)

// maskAtOnce is how many results are read and masked at once.
const maskAtOnce = 200

// maskEvidence takes the passwords of a site's accounts out of what earlier versions kept of its runs. Each run is done once.
func maskEvidence(ctx context.Context, s *Store) error {
	runs := []struct {
		ID     int64 `db:"id"`
		SiteID int64 `db:"site_id"`
	}{}
	if err := s.db.SelectContext(ctx, &runs, "SELECT r.id, f.site_id FROM runs r JOIN forms f ON f.id = r.form_id WHERE NOT r.masked ORDER BY r.id"); err != nil {
		return err
	}
	if len(runs) > 0 {
		slog.Info("passwords are taken out of the evidence of earlier runs", "runs", len(runs))
	}
	secrets := map[int64][]string{}
	for _, r := range runs {
		if _, known := secrets[r.SiteID]; !known {
			site, err := s.SiteDocument(ctx, r.SiteID)
			if err != nil {
				return err
			}
			secrets[r.SiteID] = site.Passwords()
		}
		if err := maskRun(ctx, s, r.ID, secrets[r.SiteID]); err != nil {
			return fmt.Errorf("take passwords out of the evidence of run %d: %w", r.ID, err)
		}
	}
	return nil
}

func maskRun(ctx context.Context, s *Store, run int64, secrets []string) error {
	for last := 0; len(secrets) > 0; {
		rows := []struct {
			Seq      int     `db:"seq"`
			Body     []byte  `db:"body"`
			Headline string  `db:"headline"`
			Cause    *string `db:"cause"`
		}{}
		err := s.db.SelectContext(ctx, &rows, "SELECT r.seq, e.body, r.headline, r.cause FROM results r JOIN evidence e USING (run_id, seq) WHERE r.run_id = ? AND r.seq > ? ORDER BY r.seq LIMIT ?", run, last, maskAtOnce)
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			break
		}
		err = s.inTransaction(ctx, func(tx *sqlx.Tx) error {
			for _, r := range rows {
				text, err := decompressor.DecodeAll(r.Body, nil)
				if err != nil {
					return fmt.Errorf("unpack evidence: %w", err)
				}
				if _, err := tx.ExecContext(ctx, "UPDATE evidence SET body = ? WHERE run_id = ? AND seq = ?", compressor.EncodeAll(observation.Mask(text, secrets), nil), run, r.Seq); err != nil {
					return err
				}
				if r.Cause != nil {
					*r.Cause = string(observation.Mask([]byte(*r.Cause), secrets))
				}
				if _, err := tx.ExecContext(ctx, "UPDATE results SET headline = ?, cause = ? WHERE run_id = ? AND seq = ?", observation.MaskText(r.Headline, secrets), r.Cause, run, r.Seq); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
		last = rows[len(rows)-1].Seq
	}
	_, err := s.db.ExecContext(ctx, "UPDATE runs SET masked = TRUE WHERE id = ?", run)
	return err
}
