-- +goose Up
CREATE TABLE finding_words (
  id       INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  form_id  INT UNSIGNED NOT NULL,
  finding  CHAR(8) CHARACTER SET ascii NOT NULL COMMENT 'the same in every run',
  state    VARCHAR(20)  NOT NULL COMMENT 'open, known, fixed, or not a defect',
  severity VARCHAR(20)  NOT NULL,
  link     VARCHAR(500) NOT NULL,
  until    DATE         NULL COMMENT 'the last day on which it is known',
  comment  TEXT         NOT NULL,
  said_at  DATETIME(3)  NOT NULL,
  said_by  INT UNSIGNED NOT NULL,
  KEY latest (form_id, finding, id),
  FOREIGN KEY (form_id) REFERENCES forms (id),
  FOREIGN KEY (said_by) REFERENCES users (id)
) CHARACTER SET utf8mb4;

-- +goose Down
DROP TABLE finding_words;
