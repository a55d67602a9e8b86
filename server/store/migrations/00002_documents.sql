-- +goose Up
ALTER TABLE sites
  ADD COLUMN source LONGBLOB NULL COMMENT 'the bytes of the site document, without secrets',
  ADD COLUMN tables_read LONGBLOB NULL COMMENT 'the tables as they were last read, as JSON';
ALTER TABLE forms ADD COLUMN page_read LONGBLOB NULL COMMENT 'the form on its page as it was last read, as JSON';
ALTER TABLE revisions
  ADD COLUMN saved_by INT UNSIGNED NULL,
  ADD COLUMN note VARCHAR(400) NOT NULL DEFAULT '' COMMENT 'what the revision came of',
  ADD FOREIGN KEY (saved_by) REFERENCES users (id);

-- +goose Down
ALTER TABLE revisions DROP FOREIGN KEY revisions_ibfk_2, DROP COLUMN saved_by, DROP COLUMN note;
ALTER TABLE forms DROP COLUMN page_read;
ALTER TABLE sites DROP COLUMN source, DROP COLUMN tables_read;
