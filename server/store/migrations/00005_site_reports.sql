-- +goose Up
CREATE TABLE site_reports (
  site_id INT UNSIGNED NOT NULL,
  kind    VARCHAR(80)  NOT NULL COMMENT 'access, or journey: and its id',
  at      DATETIME(3)  NOT NULL,
  body    MEDIUMBLOB   NOT NULL COMMENT 'JSON, compressed with gzip',
  PRIMARY KEY (site_id, kind),
  FOREIGN KEY (site_id) REFERENCES sites (id)
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE site_reports;
