package sheds

import (
	"context"
	"errors"
	"fmt"

	"github.com/alexedwards/argon2id"
	"github.com/go-sql-driver/mysql"
)

const tables = `
CREATE TABLE IF NOT EXISTS tenants (
  id          INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  email       VARCHAR(120) NOT NULL UNIQUE,
  pass_hash   VARCHAR(200) NOT NULL,
  shown_name  VARCHAR(60)  NOT NULL,
  phone       VARCHAR(11)  NULL,
  contact     VARCHAR(20)  NOT NULL DEFAULT 'post',
  newsletter  BOOLEAN      NOT NULL DEFAULT FALSE
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS shed_plots (
  code  CHAR(3)     NOT NULL PRIMARY KEY,
  name  VARCHAR(40) NOT NULL
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS key_requests (
  id          INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  full_name   VARCHAR(200) NOT NULL,
  email       VARCHAR(120) NOT NULL,
  plot        VARCHAR(40)  NOT NULL,
  key_count   TINYINT UNSIGNED NOT NULL,
  collect_on  DATE         NOT NULL,
  reason      VARCHAR(300) NULL,
  asked_at    DATETIME(3)  NOT NULL
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS sheds (
  id            INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  tenant        INT UNSIGNED NOT NULL,
  shed_name     VARCHAR(30)  NOT NULL,
  plot          CHAR(3)      NOT NULL,
  size_code     VARCHAR(10)  NOT NULL,
  height_cm     SMALLINT UNSIGNED NOT NULL,
  power         BOOLEAN      NOT NULL,
  starts_on     DATE         NOT NULL,
  note          VARCHAR(200) NULL,
  drawing_name  VARCHAR(200) NULL,
  drawing_size  INT UNSIGNED NULL,
  approved      BOOLEAN      NOT NULL DEFAULT FALSE,
  applied_at    DATETIME(3)  NOT NULL
) CHARACTER SET utf8mb4;
CREATE TABLE IF NOT EXISTS shed_uses (
  shed      INT UNSIGNED NOT NULL,
  use_code  VARCHAR(10)  NOT NULL,
  PRIMARY KEY (shed, use_code)
) CHARACTER SET utf8mb4;
INSERT IGNORE INTO shed_plots VALUES ('b04', 'Brook 4'), ('b11', 'Brook 11'), ('e02', 'East 2'), ('e09', 'East 9'), ('h07', 'Hill 7')`

// indexes hold what must be unique, besides the question that is asked before.
var indexes = []struct{ table, column, fault string }{
	{"key_requests", "email", "keys-email-case"},
	{"sheds", "shed_name", "build-name-case"},
}

// index makes columns unique, but for those of which a fault takes the index away.
func (s *Site) index(ctx context.Context) error {
	for _, i := range indexes {
		verb := "ADD UNIQUE INDEX IF NOT EXISTS one_" + i.column + " (" + i.column + ")"
		if i.fault != "" && s.on(i.fault) {
			verb = "DROP INDEX IF EXISTS one_" + i.column
		}
		if _, err := s.db.ExecContext(ctx, "ALTER TABLE "+i.table+" "+verb); err != nil {
			return fmt.Errorf("make %s.%s unique: %w", i.table, i.column, err)
		}
	}
	return nil
}

// isTaken tells whether the database refused a row for a value that must be unique.
func isTaken(err error) bool {
	var refused *mysql.MySQLError
	return errors.As(err, &refused) && refused.Number == 1062
}

// Tenant is somebody who is there from the start.
type Tenant struct{ Email, Password, Name string }

// Tenants are those who are there from the start.
var Tenants = []Tenant{
	{"alder@shed.test", "Alder-shed-31", "Alder"},
	{"hazel@shed.test", "Hazel-shed-32", "Hazel"},
}

// seed writes the tenants who are there from the start, or puts them back as they were.
func (s *Site) seed(ctx context.Context, hashMemory uint32) error {
	for i, t := range Tenants {
		hash, err := argon2id.CreateHash(t.Password, &argon2id.Params{Memory: hashMemory, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32})
		if err != nil {
			return err
		}
		if _, err := s.db.ExecContext(ctx, `INSERT INTO tenants (id, email, pass_hash, shown_name) VALUES (?, ?, ?, ?)
			ON DUPLICATE KEY UPDATE pass_hash = VALUES(pass_hash), shown_name = VALUES(shown_name), phone = NULL, contact = 'post', newsletter = FALSE`, 31+i, t.Email, hash, t.Name); err != nil {
			return fmt.Errorf("write the tenant %s: %w", t.Email, err)
		}
	}
	return nil
}
