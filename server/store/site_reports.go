package store

import (
	"bytes"
	"compress/gzip"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"io"
	"time"
)

// PutSiteReport keeps the latest report of a kind about a site.
func (s *Store) PutSiteReport(ctx context.Context, siteID int64, kind string, report any) error {
	var body bytes.Buffer
	z := gzip.NewWriter(&body)
	if err := json.NewEncoder(z).Encode(report); err != nil {
		return err
	}
	if err := z.Close(); err != nil {
		return err
	}
	_, err := s.db.ExecContext(ctx, "INSERT INTO site_reports (site_id, kind, at, body) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE at = VALUES(at), body = VALUES(body)", siteID, kind, time.Now().UTC(), body.Bytes())
	return err
}

// SiteReport reads the latest report of a kind into a value; ErrNotFound where there is none.
func (s *Store) SiteReport(ctx context.Context, siteID int64, kind string, report any) error {
	var body []byte
	err := s.db.GetContext(ctx, &body, "SELECT body FROM site_reports WHERE site_id = ? AND kind = ?", siteID, kind)
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
