-- +goose Up
ALTER TABLE forms ADD COLUMN names_from_codes BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'what testers said of findings names them as they are named now';
-- forms that are made from now on know no older names
ALTER TABLE forms ALTER COLUMN names_from_codes SET DEFAULT TRUE;

-- +goose Down
ALTER TABLE forms DROP COLUMN names_from_codes;
