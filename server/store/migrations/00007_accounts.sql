-- +goose Up
ALTER TABLE users
  ADD COLUMN ended_at DATETIME(3) NULL COMMENT 'since when they may not sign in any more',
  ADD COLUMN session_version INT UNSIGNED NOT NULL DEFAULT 1 COMMENT 'sessions of an older version have ended';
CREATE TABLE invitations (
  id         INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  token_hash CHAR(64) CHARACTER SET ascii NOT NULL UNIQUE COMMENT 'SHA-256 of the token in the link, in hexadecimal digits',
  expires_at DATETIME(3) NOT NULL
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE invitations;
ALTER TABLE users DROP COLUMN ended_at, DROP COLUMN session_version;
