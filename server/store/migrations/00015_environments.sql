-- +goose Up
ALTER TABLE site_reports
  ADD COLUMN environment VARCHAR(60) NOT NULL DEFAULT '' COMMENT 'where it was run; empty for the own address of the site',
  DROP PRIMARY KEY,
  ADD PRIMARY KEY (site_id, kind, environment);
ALTER TABLE site_runs ADD COLUMN environment VARCHAR(60) NOT NULL DEFAULT '' COMMENT 'where it is run; empty for the own address of the site';

-- +goose Down
ALTER TABLE site_runs DROP COLUMN environment;
DELETE FROM site_reports WHERE environment <> '';
ALTER TABLE site_reports DROP PRIMARY KEY, ADD PRIMARY KEY (site_id, kind), DROP COLUMN environment;
