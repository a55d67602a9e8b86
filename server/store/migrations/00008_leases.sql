-- +goose Up
CREATE TABLE leases (
  name       VARCHAR(300) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL PRIMARY KEY COMMENT 'what is held: a run, an address, a database',
  holder     CHAR(26) CHARACTER SET ascii NOT NULL,
  about      VARCHAR(200) NOT NULL COMMENT 'what it is held for, told to others who want it',
  expires_at DATETIME(3) NOT NULL COMMENT 'by the clock of this database',
  KEY holder (holder)
) CHARACTER SET utf8mb4;
ALTER TABLE runs ADD COLUMN stop_asked BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'somebody asked whichever server drives it to stop';

-- +goose Down
DROP TABLE leases;
ALTER TABLE runs DROP COLUMN stop_asked;
