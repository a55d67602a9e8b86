-- +goose Up
ALTER TABLE runs ADD COLUMN masked BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'its evidence holds no password of an account';

-- +goose Down
ALTER TABLE runs DROP COLUMN masked;
