package practice

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"github.com/go-sql-driver/mysql"
)

const tables = `
CREATE TABLE IF NOT EXISTS plot_holders (
  id            INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  login_name    VARCHAR(20)  NOT NULL,
  mail          VARCHAR(190) NOT NULL,
  pass_hash     VARCHAR(200) NOT NULL,
  membership    VARCHAR(10)  NULL,
  born          DATE         NOT NULL,
  plots_wanted  TINYINT UNSIGNED NOT NULL,
  heard_code    VARCHAR(40)  NULL,
  agreed        BOOLEAN      NOT NULL,
  agreed_at     DATETIME(3)  NOT NULL,
  referral      VARCHAR(20)  NOT NULL DEFAULT '',
  role          VARCHAR(20)  NOT NULL DEFAULT 'holder',
  confirmed_at  DATETIME     NULL,
  display_name  VARCHAR(40)  NULL,
  reach_by      VARCHAR(40)  NOT NULL DEFAULT '',
  UNIQUE KEY one_membership (membership)
) CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci;
CREATE TABLE IF NOT EXISTS allotment_areas (
  code  CHAR(4)     NOT NULL PRIMARY KEY,
  name  VARCHAR(60) NOT NULL
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS plot_wishes (
  holder_id   INT UNSIGNED NOT NULL PRIMARY KEY,
  size_m2     SMALLINT UNSIGNED NOT NULL,
  area_code   CHAR(4)      NOT NULL,
  share       VARCHAR(5)   NOT NULL,
  bees        BOOLEAN      NOT NULL DEFAULT FALSE,
  hive_no     TINYINT UNSIGNED NULL,
  neighbours  VARCHAR(40)  NOT NULL DEFAULT '',
  note        VARCHAR(500) NULL,
  changed_at  DATETIME(3)  NOT NULL,
  FOREIGN KEY (area_code) REFERENCES allotment_areas (code)
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS confirmations (
  code_hash  CHAR(64)     NOT NULL PRIMARY KEY,
  holder_id  INT UNSIGNED NOT NULL,
  made_at    DATETIME     NOT NULL,
  used_at    DATETIME     NULL
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS harvests (
  id            INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  crop_code     VARCHAR(20)  NOT NULL,
  weight_kg     DECIMAL(6,3) NOT NULL,
  picked_on     DATE         NOT NULL,
  picked_at     TIME         NULL,
  bed           VARCHAR(3)   NOT NULL,
  note          VARCHAR(500) NULL,
  picture_name  VARCHAR(200) NULL,
  picture_size  INT UNSIGNED NULL,
  logged_at     DATETIME(3)  NOT NULL
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS helpers (
  id          INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  full_name   VARCHAR(60)  NOT NULL,
  phone       CHAR(11)     NOT NULL,
  area_code   CHAR(4)      NOT NULL,
  hours       TINYINT UNSIGNED NOT NULL,
  weekends    BOOLEAN      NOT NULL,
  offered_at  DATETIME(3)  NOT NULL,
  FOREIGN KEY (area_code) REFERENCES allotment_areas (code)
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS tools (
  code  CHAR(4)     NOT NULL PRIMARY KEY,
  name  VARCHAR(60) NOT NULL
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS tool_loans (
  id           INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  tool_code    CHAR(4)      NOT NULL,
  first_day    DATE         NOT NULL,
  last_day     DATE         NOT NULL,
  reason       VARCHAR(120) NULL,
  keeper_note  VARCHAR(60)  NOT NULL DEFAULT '',
  booked_at    DATETIME(3)  NOT NULL,
  KEY of_tool (tool_code, first_day)
) CHARACTER SET utf8mb4;
ALTER TABLE plot_holders ADD COLUMN IF NOT EXISTS display_name VARCHAR(40) NULL, ADD COLUMN IF NOT EXISTS reach_by VARCHAR(40) NOT NULL DEFAULT '';
INSERT IGNORE INTO tools VALUES ('barr', 'Wheelbarrow'), ('fork', 'Digging fork'), ('hedg', 'Hedge trimmer'), ('ladd', 'Fruit ladder'),
  ('mowr', 'Mower'), ('pole', 'Pole pruner'), ('pres', 'Apple press'), ('rake', 'Landscape rake'), ('scyt', 'Scythe'), ('shrd', 'Shredder'),
  ('spad', 'Trenching spade'), ('till', 'Rotary tiller');
INSERT IGNORE INTO allotment_areas VALUES ('brok', 'Brook side'), ('east', 'East bank'), ('hill', 'Hill field')`

// OpenDatabase connects to the DSN's database, creating it when it is missing, and makes a practice site's tables, given as SQL.
func OpenDatabase(ctx context.Context, dsn, tables string) (*sql.DB, error) {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the DSN of the practice site's database cannot be read: %w", err)
	}
	cfg.MultiStatements = true
	cfg.ParseTime = true
	if cfg.Params == nil {
		cfg.Params = map[string]string{}
	}
	cfg.Params["time_zone"] = "'+00:00'"
	name := cfg.DBName
	if name == "" {
		return nil, fmt.Errorf("the DSN of the practice site names no database; end it with /name")
	}
	cfg.DBName = ""
	server, err := sql.Open("mysql", cfg.FormatDSN())
	if err != nil {
		return nil, err
	}
	defer server.Close()
	if _, err := server.ExecContext(ctx, "CREATE DATABASE IF NOT EXISTS `"+strings.ReplaceAll(name, "`", "``")+"` CHARACTER SET utf8mb4"); err != nil {
		return nil, fmt.Errorf("create the practice site's database %s: %w", name, err)
	}
	cfg.DBName = name
	db, err := sql.Open("mysql", cfg.FormatDSN())
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(16)
	db.SetMaxIdleConns(16)
	if _, err := db.ExecContext(ctx, tables); err != nil {
		db.Close()
		return nil, fmt.Errorf("create the practice site's tables: %w", err)
	}
	return db, nil
}

// shape builds what a fault needs of the schema: an index that is there, or not, or compares otherwise.
func (s *Site) shape(ctx context.Context) error {
	collation := "utf8mb4_general_ci"
	if s.on("username-case") {
		collation = "utf8mb4_bin"
	}
	var now string
	if err := s.db.QueryRowContext(ctx, "SELECT COLLATION_NAME FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = 'plot_holders' AND COLUMN_NAME = 'login_name'").Scan(&now); err != nil {
		return fmt.Errorf("read the practice site's tables: %w", err)
	}
	if now != collation {
		if err := s.keyed(ctx, "login_name", "one_login", false); err != nil {
			return err
		}
		if _, err := s.db.ExecContext(ctx, "ALTER TABLE plot_holders MODIFY login_name VARCHAR(20) CHARACTER SET utf8mb4 COLLATE "+collation+" NOT NULL"); err != nil {
			return fmt.Errorf("shape the practice site's tables: %w", err)
		}
	}
	if err := s.keyed(ctx, "login_name", "one_login", !s.on("username-race")); err != nil {
		return err
	}
	return s.keyed(ctx, "mail", "one_mail", !s.on("email-spaces-new") && !s.on("me-unique-unchecked"))
}

// keyed makes a column's unique index be there or not. Rows that clash with a new index are dropped, the oldest kept.
func (s *Site) keyed(ctx context.Context, column, index string, wanted bool) error {
	var n int
	if err := s.db.QueryRowContext(ctx, "SELECT COUNT(*) FROM information_schema.STATISTICS WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = 'plot_holders' AND INDEX_NAME = ?", index).Scan(&n); err != nil {
		return fmt.Errorf("read the practice site's tables: %w", err)
	}
	var steps []string
	switch {
	case wanted && n == 0:
		steps = []string{
			"DELETE FROM plot_holders WHERE id NOT IN (SELECT id FROM (SELECT MIN(id) AS id FROM plot_holders GROUP BY " + column + ") AS oldest)",
			"ALTER TABLE plot_holders ADD UNIQUE KEY " + index + " (" + column + ")",
		}
	case !wanted && n > 0:
		steps = []string{"ALTER TABLE plot_holders DROP INDEX " + index}
	}
	for _, step := range steps {
		if _, err := s.db.ExecContext(ctx, step); err != nil {
			return fmt.Errorf("shape the practice site's tables: %w", err)
		}
	}
	return nil
}
