-- +goose Up
CREATE TABLE pictures (
  run_id INT UNSIGNED NOT NULL,
  seq    INT UNSIGNED NOT NULL,
  name   VARCHAR(20)  NOT NULL COMMENT 'the step it shows',
  body   MEDIUMBLOB   NOT NULL COMMENT 'JPEG',
  PRIMARY KEY (run_id, seq, name),
  FOREIGN KEY (run_id, seq) REFERENCES results (run_id, seq)
) CHARACTER SET utf8mb4;
ALTER TABLE runs
  ADD COLUMN options TEXT NOT NULL DEFAULT '{}' COMMENT 'how it is to be run, as JSON',
  ADD COLUMN unknown_fate MEDIUMTEXT NOT NULL DEFAULT '[]' COMMENT 'cases submitted without an end being known, which were made again, as JSON';
ALTER TABLE results ADD UNIQUE KEY once (run_id, case_id, attempt), DROP KEY by_case;

-- +goose Down
ALTER TABLE results ADD KEY by_case (run_id, case_id), DROP KEY once;
ALTER TABLE runs DROP COLUMN options, DROP COLUMN unknown_fate;
DROP TABLE pictures;
