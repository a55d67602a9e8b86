package ddl

import (
	"fmt"
	"slices"
	"strings"

	"oddtick/core/schema"
)

// Dialects are those that are read.
var Dialects = []string{"mariadb", "mysql", "postgresql", "sqlite"}

// Read reads the tables that SQL in a dialect defines. An error is an *Error with line and column; then nothing was read.
func Read(sql, dialect string) (*schema.Database, error) {
	if dialect == "" {
		dialect = Guess(sql)
	}
	if !slices.Contains(Dialects, dialect) {
		return nil, fmt.Errorf("the dialect %q is not known; write one of %s", dialect, strings.Join(Dialects, ", "))
	}
	r := &reader{
		lexer: lexer{in: sql, delimiter: ";", backslash: dialect == "mariadb" || dialect == "mysql"},
		out:   &schema.Database{Dialect: dialect, Tables: []schema.Table{}}, at: map[string]int{}, types: map[string][]string{}, domains: map[string]domain{},
	}
	if err := r.advance(); err != nil {
		return nil, err
	}
	for r.now.kind != end {
		if err := r.statement(); err != nil {
			return nil, err
		}
	}
	if len(r.out.Tables) == 0 && strings.TrimSpace(sql) != "" {
		return nil, &Error{Line: 1, Column: 1, Problem: "no CREATE TABLE was found"}
	}
	return r.out, nil
}

// Guess tells the dialect by what only one of them writes.
func Guess(sql string) string {
	low := strings.ToLower(sql)
	has := func(parts ...string) bool {
		return slices.ContainsFunc(parts, func(p string) bool { return strings.Contains(low, p) })
	}
	switch {
	case has("autoincrement", "pragma ", "without rowid", "strict;"):
		return "sqlite"
	case has("serial", "timestamptz", "with time zone", "jsonb", "bytea", "character varying", "create extension", "::", "as identity", "pg_catalog"):
		return "postgresql"
	case has("mysql dump", "utf8mb4_0900"):
		return "mysql"
	}
	return "mariadb"
}

type reader struct {
	lexer
	now     token
	out     *schema.Database
	at      map[string]int // tables by their name in small letters
	types   map[string][]string
	domains map[string]domain
}

// domain is a type of PostgreSQL's with constraints of its own.
type domain struct {
	words  string
	args   []string
	noNull bool
}

func (r *reader) advance() (err error) {
	r.now, err = r.next()
	return err
}

func (r *reader) wrong(expected string) error {
	return r.fail(r.now.at, "%s is expected here, not %s", expected, r.now)
}

// take goes on when the keywords stand here, one after the other.
func (r *reader) take(keywords ...string) (bool, error) {
	saved, at := r.now, r.lexer
	for _, k := range keywords {
		if !r.now.is(k) {
			r.now, r.lexer = saved, at
			return false, nil
		}
		if err := r.advance(); err != nil {
			return false, err
		}
	}
	return true, nil
}

// sign goes on when the sign stands here.
func (r *reader) sign(s string) (bool, error) {
	if !r.now.isSign(s) {
		return false, nil
	}
	return true, r.advance()
}

func (r *reader) mustSign(s, what string) error {
	ok, err := r.sign(s)
	if err == nil && !ok {
		err = r.wrong(what)
	}
	return err
}

var statements = []string{
	"alter", "analyze", "attach", "begin", "call", "check", "comment", "commit", "copy", "create", "delete", "delimiter", "describe", "detach", "do", "drop", "end", "execute", "explain",
	"flush", "grant", "insert", "load", "lock", "merge", "optimize", "pragma", "prepare", "refresh", "reindex", "release", "rename", "replace", "reset", "revoke", "rollback", "savepoint",
	"security", "select", "set", "show", "source", "start", "truncate", "unlock", "update", "use", "vacuum", "values", "with",
}

func (r *reader) statement() error {
	switch {
	case r.now.isSign(";"):
		return r.advance()
	case r.now.isSign(`\`): // a line of psql's own
		r.line()
		return r.advance()
	case r.now.is("delimiter"):
		return r.setDelimiter()
	case r.now.is("create"):
		return r.create()
	case r.now.is("alter"):
		return r.alter()
	case r.now.is("comment"):
		return r.commentOn()
	case r.now.is("copy"):
		return r.copyData()
	case r.now.is(statements...), r.now.isSign("("):
		return r.skip()
	}
	return r.fail(r.now.at, "no SQL statement begins with %s", r.now)
}

func (r *reader) setDelimiter() error {
	rest := r.in[r.lexer.at:]
	line, _, _ := strings.Cut(rest, "\n")
	if d := strings.TrimSpace(line); d != "" {
		r.delimiter = d
	}
	r.line()
	return r.advance()
}

// skip goes to the end of the statement.
func (r *reader) skip() error {
	for r.now.kind != end && !r.now.isSign(";") {
		if err := r.advance(); err != nil {
			return err
		}
	}
	return r.advance()
}

// skipBody goes to the end of a statement whose body may hold statements of its own between BEGIN and END. With a delimiter of its
// own, as the client of MariaDB wants it, the body's semicolons need no counting.
func (r *reader) skipBody() error {
	depth := 0
	for r.now.kind != end && (depth > 0 || !r.now.isSign(";")) {
		if r.delimiter == ";" {
			switch {
			case r.now.is("begin", "case"):
				depth++
			case r.now.is("end") && !r.followedBy("if") && !r.followedBy("loop") && !r.followedBy("while") && !r.followedBy("repeat"):
				depth = max(depth-1, 0)
				if r.followedBy("case") {
					if err := r.advance(); err != nil {
						return err
					}
				}
			}
		}
		if err := r.advance(); err != nil {
			return err
		}
	}
	return r.advance()
}

// copyData skips the lines of data behind COPY … FROM stdin.
func (r *reader) copyData() error {
	start := r.now.at
	for r.now.kind != end && !r.now.isSign(";") {
		if err := r.advance(); err != nil {
			return err
		}
	}
	if strings.Contains(strings.ToLower(r.in[start:min(r.lexer.at, len(r.in))]), "from stdin") {
		if i := strings.Index(r.in[r.lexer.at:], "\n\\."); i >= 0 {
			r.lexer.at += i + 3
		}
	}
	return r.advance()
}

var objects = []string{
	"access", "aggregate", "cast", "collation", "constraint", "conversion", "database", "event", "extension", "function", "group", "language", "materialized", "operator", "policy", "procedure",
	"publication", "role", "rule", "schema", "sequence", "server", "statistics", "subscription", "tablespace", "text", "transform", "user", "view", "virtual", "recursive", "package", "default", "foreign",
}

func (r *reader) create() error {
	if err := r.advance(); err != nil {
		return err
	}
	unique := false
	for r.now.is("or", "replace", "temporary", "temp", "unlogged", "global", "local", "unique", "fulltext", "spatial", "definer", "algorithm", "sql", "security", "invoker", "clustered", "if", "not", "exists", "aggregate") {
		unique = unique || r.now.is("unique")
		definer := r.now.is("definer", "algorithm")
		if err := r.advance(); err != nil {
			return err
		}
		if definer { // DEFINER=`root`@`localhost`
			for !r.now.is("sql", "trigger", "view", "procedure", "function", "event", "definer") && r.now.kind != end && !r.now.isSign(";") {
				if err := r.advance(); err != nil {
					return err
				}
			}
		}
	}
	switch {
	case r.now.is("table"):
		return r.createTable()
	case r.now.is("index"):
		return r.createIndex(unique)
	case r.now.is("trigger"):
		return r.createTrigger()
	case r.now.is("type"):
		return r.createType()
	case r.now.is("domain"):
		return r.createDomain()
	case r.now.is("function", "procedure", "event", "package"):
		return r.skipBody()
	case r.now.is("constraint"):
		if ok, err := r.take("constraint"); err != nil || !ok || !r.now.is("trigger") {
			return orElse(err, r.wrong("TRIGGER"))
		}
		return r.createTrigger()
	case r.now.is(objects...):
		return r.skip()
	}
	return r.wrong("TABLE, INDEX or another object's kind")
}

func (r *reader) createTrigger() error {
	if err := r.advance(); err != nil {
		return err
	}
	if _, err := r.take("if", "not", "exists"); err != nil {
		return err
	}
	name, err := r.name()
	if err != nil {
		return err
	}
	var when []string
	for !r.now.is("on") && r.now.kind != end && !r.now.isSign(";") {
		if r.now.is("before", "after", "instead", "of", "insert", "update", "delete", "or") {
			when = append(when, strings.ToLower(r.now.text))
		}
		if err := r.advance(); err != nil {
			return err
		}
	}
	if ok, err := r.take("on"); err != nil || !ok {
		if err == nil {
			err = r.wrong("ON and the trigger's table")
		}
		return err
	}
	table, err := r.name()
	if err != nil {
		return err
	}
	if i, known := r.at[strings.ToLower(table)]; known {
		t := &r.out.Tables[i]
		t.Triggers = append(t.Triggers, schema.Trigger{Name: name, When: strings.Join(when, " ")})
	}
	return r.skipBody()
}

// createType keeps the values of PostgreSQL's enumerations.
func (r *reader) createType() error {
	if err := r.advance(); err != nil {
		return err
	}
	name, err := r.name()
	if err != nil {
		return err
	}
	if ok, err := r.take("as", "enum"); err != nil || !ok {
		if err != nil {
			return err
		}
		return r.skip()
	}
	args, err := r.arguments()
	if err != nil {
		return err
	}
	r.types[strings.ToLower(name)] = args
	return r.skip()
}

func (r *reader) createDomain() error {
	if err := r.advance(); err != nil {
		return err
	}
	name, err := r.name()
	if err != nil {
		return err
	}
	if _, err := r.take("as"); err != nil {
		return err
	}
	words, args, err := r.typeName()
	if err != nil {
		return err
	}
	d := domain{words: words, args: args}
	for r.now.kind != end && !r.now.isSign(";") {
		if ok, err := r.take("not", "null"); err != nil {
			return err
		} else if ok {
			d.noNull = true
			continue
		}
		if err := r.advance(); err != nil {
			return err
		}
	}
	r.domains[strings.ToLower(name)] = d
	return r.advance()
}

// commentOn keeps COMMENT ON TABLE and COLUMN.
func (r *reader) commentOn() error {
	if err := r.advance(); err != nil {
		return err
	}
	if ok, err := r.take("on", "column"); err != nil || !ok {
		if err != nil {
			return err
		}
		return r.skip()
	}
	var parts []string
	for {
		part, err := r.part()
		if err != nil {
			return err
		}
		parts = append(parts, part)
		if more, err := r.sign("."); err != nil || !more {
			if err != nil {
				return err
			}
			break
		}
	}
	if ok, err := r.take("is"); err != nil || !ok {
		return r.skip()
	}
	if n := len(parts); n >= 2 && r.now.kind == text {
		if _, c := r.out.Column(parts[n-2] + "." + parts[n-1]); c != nil {
			c.Comment = r.now.text
		}
	}
	return r.skip()
}
