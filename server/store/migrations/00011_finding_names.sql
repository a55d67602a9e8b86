-- +goose Up
ALTER TABLE forms ADD COLUMN names_from_codes BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'what testers said of findings names them as they are named now';

-- +goose Down
ALTER TABLE forms DROP COLUMN names_from_codes;
