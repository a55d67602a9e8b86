// Package ddl reads the tables that SQL defines, in the dialects of MariaDB, MySQL, PostgreSQL and SQLite: CREATE TABLE, ALTER
// TABLE, CREATE INDEX, and what dumps hold besides. Statements that define no table are skipped; one that tries to and fails is an
// error with line and column.
//
//	token.go      the text as tokens
//	statement.go  which statements there are
//	table.go      tables, columns and their constraints
package ddl
