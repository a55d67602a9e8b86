-- +goose Up
ALTER TABLE runs
  CHANGE COLUMN foreign_changes external_changes INT NOT NULL DEFAULT 0,
  CHANGE COLUMN left_out not_selected INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'cases of the plan that the run does not make',
  CHANGE COLUMN unknown_fate cases_of_unknown_end MEDIUMTEXT NOT NULL DEFAULT '[]' COMMENT 'cases submitted without an end being known, which were made again, as JSON';
RENAME TABLE finding_words TO finding_triage;
-- how a case that a tester wrote is submitted was told by the end of its id alone
UPDATE case_edits SET edit = JSON_SET(edit, '$.driver', 'browser') WHERE edit <> '' AND case_id LIKE '%/browser' AND JSON_CONTAINS(edit, 'true', '$.own');

-- +goose Down
RENAME TABLE finding_triage TO finding_words;
ALTER TABLE runs
  CHANGE COLUMN external_changes foreign_changes INT NOT NULL DEFAULT 0,
  CHANGE COLUMN not_selected left_out INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'cases of the plan that the run does not make',
  CHANGE COLUMN cases_of_unknown_end unknown_fate MEDIUMTEXT NOT NULL DEFAULT '[]' COMMENT 'cases submitted without an end being known, which were made again, as JSON';
