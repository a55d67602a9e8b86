-- +goose Up
CREATE TABLE site_runs (
  id          INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  site_id     INT UNSIGNED NOT NULL,
  started_by  INT UNSIGNED NOT NULL,
  started_at  DATETIME(3)  NOT NULL,
  ended_at    DATETIME(3)  NULL,
  stop_asked  BOOLEAN      NOT NULL DEFAULT FALSE COMMENT 'a tester wants it to end',
  items       MEDIUMTEXT   NOT NULL COMMENT 'the parts of the site in order, with what became of each, as JSON',
  KEY latest (site_id, id),
  FOREIGN KEY (site_id) REFERENCES sites (id),
  FOREIGN KEY (started_by) REFERENCES users (id)
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE site_runs;
