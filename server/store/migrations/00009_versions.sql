-- +goose Up
ALTER TABLE case_edits
  ADD COLUMN version INT UNSIGNED NOT NULL DEFAULT 1 COMMENT 'the change of the form''s edits that made this one',
  MODIFY COLUMN edit MEDIUMTEXT NOT NULL COMMENT 'what a tester changed about the case, as JSON; empty where nothing is changed any more';

-- +goose Down
DELETE FROM case_edits WHERE edit = '';
ALTER TABLE case_edits DROP COLUMN version;
