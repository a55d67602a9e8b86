-- +goose Up
CREATE TABLE case_edits (
  form_id   INT UNSIGNED NOT NULL,
  case_id   VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  edit      MEDIUMTEXT   NOT NULL COMMENT 'what a tester changed about the case, as JSON',
  edited_by INT UNSIGNED NULL,
  edited_at DATETIME(3)  NOT NULL,
  PRIMARY KEY (form_id, case_id),
  FOREIGN KEY (form_id) REFERENCES forms (id),
  FOREIGN KEY (edited_by) REFERENCES users (id)
) CHARACTER SET utf8mb4;
ALTER TABLE runs ADD COLUMN left_out INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'cases of the plan that the run does not make';

-- +goose Down
ALTER TABLE runs DROP COLUMN left_out;
DROP TABLE case_edits;
