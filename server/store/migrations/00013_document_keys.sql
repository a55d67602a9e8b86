-- +goose Up
ALTER TABLE forms ADD COLUMN document_migrated BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'the newest revision is written in the present keys and values';
ALTER TABLE sites ADD COLUMN document_migrated BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'the document is written in the present keys and values';
-- those that are made from now on know no former keys
ALTER TABLE forms ALTER COLUMN document_migrated SET DEFAULT TRUE;
ALTER TABLE sites ALTER COLUMN document_migrated SET DEFAULT TRUE;
UPDATE case_edits SET edit = JSON_REMOVE(JSON_SET(edit, '$.skip', JSON_EXTRACT(edit, '$.off')), '$.off') WHERE edit <> '' AND JSON_EXISTS(edit, '$.off');
UPDATE case_edits SET edit = JSON_REMOVE(JSON_SET(edit, '$.every_depth', JSON_EXTRACT(edit, '$.kept')), '$.kept') WHERE edit <> '' AND JSON_EXISTS(edit, '$.kept');
UPDATE case_edits SET edit = JSON_REMOVE(JSON_SET(edit, '$.added', JSON_EXTRACT(edit, '$.own')), '$.own') WHERE edit <> '' AND JSON_EXISTS(edit, '$.own');
UPDATE case_edits SET edit = JSON_REMOVE(JSON_SET(edit, '$.expect', JSON_EXTRACT(edit, '$.says')), '$.says') WHERE edit <> '' AND JSON_EXISTS(edit, '$.says');
UPDATE runs SET options = JSON_REMOVE(JSON_SET(options, '$.max_per_minute', JSON_EXTRACT(options, '$.most_per_second') * 60), '$.most_per_second') WHERE JSON_EXISTS(options, '$.most_per_second');

-- +goose Down
UPDATE runs SET options = JSON_REMOVE(JSON_SET(options, '$.most_per_second', JSON_EXTRACT(options, '$.max_per_minute') / 60), '$.max_per_minute') WHERE JSON_EXISTS(options, '$.max_per_minute');
UPDATE case_edits SET edit = JSON_REMOVE(JSON_SET(edit, '$.off', JSON_EXTRACT(edit, '$.skip')), '$.skip') WHERE edit <> '' AND JSON_EXISTS(edit, '$.skip');
UPDATE case_edits SET edit = JSON_REMOVE(JSON_SET(edit, '$.kept', JSON_EXTRACT(edit, '$.every_depth')), '$.every_depth') WHERE edit <> '' AND JSON_EXISTS(edit, '$.every_depth');
UPDATE case_edits SET edit = JSON_REMOVE(JSON_SET(edit, '$.own', JSON_EXTRACT(edit, '$.added')), '$.added') WHERE edit <> '' AND JSON_EXISTS(edit, '$.added');
UPDATE case_edits SET edit = JSON_REMOVE(JSON_SET(edit, '$.says', JSON_EXTRACT(edit, '$.expect')), '$.expect') WHERE edit <> '' AND JSON_EXISTS(edit, '$.expect');
ALTER TABLE forms DROP COLUMN document_migrated;
ALTER TABLE sites DROP COLUMN document_migrated;
