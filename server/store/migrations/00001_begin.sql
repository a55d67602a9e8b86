-- +goose Up
CREATE TABLE users (
  id            INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name          VARCHAR(60)  NOT NULL UNIQUE,
  password_hash VARCHAR(200) NOT NULL,
  created_at    DATETIME(3)  NOT NULL
) CHARACTER SET utf8mb4;

CREATE TABLE sessions (
  token  CHAR(43)     NOT NULL PRIMARY KEY,
  data   BLOB         NOT NULL,
  expiry TIMESTAMP(6) NOT NULL,
  KEY sessions_expiry (expiry)
) CHARACTER SET utf8mb4;

CREATE TABLE sites (
  id       INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  ident    VARCHAR(60)  NOT NULL UNIQUE,
  title    VARCHAR(200) NOT NULL,
  document LONGTEXT     NOT NULL COMMENT 'the site document without secrets, as JSON',
  secrets  BLOB         NOT NULL COMMENT 'data source names, encrypted'
) CHARACTER SET utf8mb4;

CREATE TABLE forms (
  id      INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  site_id INT UNSIGNED NOT NULL,
  ident   VARCHAR(60)  NOT NULL,
  title   VARCHAR(200) NOT NULL,
  UNIQUE KEY one_form (site_id, ident),
  FOREIGN KEY (site_id) REFERENCES sites (id)
) CHARACTER SET utf8mb4;

CREATE TABLE revisions (
  id       INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  form_id  INT UNSIGNED NOT NULL,
  number   INT UNSIGNED NOT NULL,
  file     VARCHAR(200) NOT NULL,
  source   LONGBLOB     NOT NULL COMMENT 'the bytes of the document',
  saved_at DATETIME(3)  NOT NULL,
  UNIQUE KEY one_revision (form_id, number),
  FOREIGN KEY (form_id) REFERENCES forms (id)
) CHARACTER SET utf8mb4;

CREATE TABLE runs (
  id          INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  form_id     INT UNSIGNED NOT NULL,
  revision_id INT UNSIGNED NOT NULL,
  number      INT UNSIGNED NOT NULL COMMENT 'of the form, from 1',
  seed        BIGINT       NOT NULL,
  depth       VARCHAR(20)  NOT NULL,
  cases       LONGTEXT     NOT NULL COMMENT 'ids of the cases, in order, as JSON',
  state       VARCHAR(20)  NOT NULL,
  reason      TEXT         NOT NULL COMMENT 'why it ended, where it did not finish',
  foreign_changes INT      NOT NULL DEFAULT 0,
  started_by  INT UNSIGNED NOT NULL,
  started_at  DATETIME(3)  NOT NULL,
  ended_at    DATETIME(3)  NULL,
  UNIQUE KEY one_run (form_id, number),
  FOREIGN KEY (form_id) REFERENCES forms (id),
  FOREIGN KEY (revision_id) REFERENCES revisions (id),
  FOREIGN KEY (started_by) REFERENCES users (id)
) CHARACTER SET utf8mb4;

CREATE TABLE attempts (
  run_id   INT UNSIGNED NOT NULL,
  case_id  VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  attempt  INT UNSIGNED NOT NULL,
  begun_at DATETIME(3)  NOT NULL,
  PRIMARY KEY (run_id, case_id, attempt),
  FOREIGN KEY (run_id) REFERENCES runs (id)
) CHARACTER SET utf8mb4;

CREATE TABLE results (
  run_id   INT UNSIGNED NOT NULL,
  seq      INT UNSIGNED NOT NULL COMMENT 'in the order they came, from 1',
  case_id  VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  attempt  INT UNSIGNED NOT NULL,
  row_id   VARCHAR(60)  NOT NULL,
  verdict  VARCHAR(20)  NOT NULL,
  checks   CHAR(7)      NOT NULL COMMENT 'a letter a check: e as expected, o odd, n not observed, - does not apply',
  headline VARCHAR(400) NOT NULL,
  cause    TEXT         NULL COMMENT 'JSON',
  took_us  INT UNSIGNED NOT NULL,
  PRIMARY KEY (run_id, seq),
  KEY by_case (run_id, case_id),
  FOREIGN KEY (run_id) REFERENCES runs (id)
) CHARACTER SET utf8mb4;

CREATE TABLE evidence (
  run_id  INT UNSIGNED NOT NULL,
  seq     INT UNSIGNED NOT NULL,
  body    LONGBLOB     NOT NULL COMMENT 'the whole result as JSON, zstd',
  PRIMARY KEY (run_id, seq),
  FOREIGN KEY (run_id) REFERENCES runs (id)
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE evidence, results, attempts, runs, revisions, forms, sites, sessions, users;
