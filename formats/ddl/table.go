package ddl

import (
	"cmp"
	"slices"
	"strings"

	"oddtick/core/schema"
)

// part reads one part of a name.
func (r *reader) part() (string, error) {
	if r.now.kind != word && r.now.kind != quoted && !(r.now.kind == text && r.backslash) {
		return "", r.wrong("a name")
	}
	t := r.now.text
	return t, r.advance()
}

// name reads a name, which may be qualified; its last part is returned.
func (r *reader) name() (string, error) {
	for {
		part, err := r.part()
		if err != nil {
			return "", err
		}
		more, err := r.sign(".")
		if err != nil || !more {
			return part, err
		}
	}
}

// names reads a list of column names in parentheses; lengths, orders and expressions in an index are left out.
func (r *reader) names() ([]string, error) {
	if err := r.mustSign("(", "( and the columns"); err != nil {
		return nil, err
	}
	var out []string
	for {
		if r.now.isSign("(") {
			if _, err := r.expression(); err != nil {
				return nil, err
			}
			out = append(out, "")
		} else {
			n, err := r.part()
			if err != nil {
				return nil, err
			}
			if r.now.isSign("(") && !strings.EqualFold(n, "") { // a prefix length, or a function
				inner, err := r.expression()
				if err != nil {
					return nil, err
				}
				if strings.Trim(inner, "()0123456789 ") != "" {
					n = ""
				}
			}
			out = append(out, n)
		}
		for r.now.kind == word || r.now.kind == quoted || r.now.kind == text { // ASC, COLLATE x, an operator class
			if err := r.advance(); err != nil {
				return nil, err
			}
		}
		if more, err := r.sign(","); err != nil {
			return nil, err
		} else if !more {
			break
		}
	}
	return out, r.mustSign(")", ", or )")
}

// arguments reads what stands in parentheses as a list of texts.
func (r *reader) arguments() ([]string, error) {
	if err := r.mustSign("(", "("); err != nil {
		return nil, err
	}
	var out []string
	for !r.now.isSign(")") {
		if r.now.kind == end {
			return nil, r.wrong(")")
		}
		if !r.now.isSign(",") {
			out = append(out, r.now.text)
		}
		if err := r.advance(); err != nil {
			return nil, err
		}
	}
	return out, r.advance()
}

// expression reads what stands in parentheses, or one term, and returns its text.
func (r *reader) expression() (string, error) {
	start := r.now.at
	if !r.now.isSign("(") {
		return "", r.wrong("(")
	}
	depth := 0
	for {
		switch {
		case r.now.isSign("("):
			depth++
		case r.now.isSign(")"):
			depth--
		case r.now.kind == end:
			return "", r.fail(start, "this ( is never closed")
		}
		stop := r.now.at + 1
		if err := r.advance(); err != nil {
			return "", err
		}
		if depth == 0 {
			return strings.Join(strings.Fields(r.in[start:stop]), " "), nil
		}
	}
}

func (r *reader) createTable() error {
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
	if !r.now.isSign("(") { // AS SELECT, LIKE, PARTITION OF: nothing to read
		r.out.Notes = append(r.out.Notes, "The columns of "+name+" are not written out.")
		return r.skip()
	}
	t := &schema.Table{Name: name, Columns: []schema.Column{}}
	if err := r.advance(); err != nil {
		return err
	}
	for {
		if err := r.element(t); err != nil {
			return err
		}
		if more, err := r.sign(","); err != nil {
			return err
		} else if !more {
			break
		}
	}
	if err := r.mustSign(")", ", or )"); err != nil {
		return err
	}
	if err := r.options(t); err != nil {
		return err
	}
	if i, again := r.at[strings.ToLower(name)]; again {
		r.out.Tables[i] = *t
		return nil
	}
	r.at[strings.ToLower(name)] = len(r.out.Tables)
	r.out.Tables = append(r.out.Tables, *t)
	return nil
}

// options reads what stands behind a table: its character set and comment count, all else is passed over.
func (r *reader) options(t *schema.Table) error {
	charset, collation := "", ""
	for r.now.kind != end && !r.now.isSign(";") {
		into := (*string)(nil)
		switch {
		case r.now.is("charset"):
			into = &charset
		case r.now.is("character"):
			if err := r.advance(); err != nil {
				return err
			}
			into = &charset
		case r.now.is("collate"):
			into = &collation
		case r.now.is("comment"):
			into = &t.Comment
		}
		if err := r.advance(); err != nil {
			return err
		}
		if into == nil {
			continue
		}
		if _, err := r.sign("="); err != nil {
			return err
		}
		*into = r.now.text
	}
	for i := range t.Columns {
		c := &t.Columns[i]
		if c.Class == schema.ClassText || c.Class == schema.ClassEnum || c.Class == schema.ClassSet {
			if c.Charset == "" {
				c.Charset = charset
			}
			if c.Collation == "" && (c.Charset == charset) {
				c.Collation = collation
			}
		}
	}
	return r.advance()
}

var constraintWords = []string{"constraint", "primary", "unique", "key", "index", "foreign", "check", "fulltext", "spatial", "exclude", "like", "period"}

// element is a column or a constraint of a table.
func (r *reader) element(t *schema.Table) error {
	if r.now.kind == word && r.now.is(constraintWords...) {
		return r.constraint(t)
	}
	return r.column(t)
}

func (r *reader) constraint(t *schema.Table) error {
	name := ""
	if ok, err := r.take("constraint"); err != nil {
		return err
	} else if ok && !r.now.is("primary", "unique", "foreign", "check", "exclude") {
		if name, err = r.part(); err != nil {
			return err
		}
	}
	first := r.now
	if err := r.advance(); err != nil {
		return err
	}
	var err error
	switch {
	case first.is("primary"):
		err = r.primaryKey(t)
	case first.is("unique"):
		err = r.uniqueKey(t, name)
	case first.is("foreign"):
		return r.foreignKey(t)
	case first.is("check"):
		err = r.check(t, name)
	case first.is("key", "index", "fulltext", "spatial"):
		if r.now.is("key", "index") {
			err = r.advance()
		}
	case first.is("like", "exclude", "period"):
	default:
		return r.fail(first.at, "a constraint is expected here, not %s", first)
	}
	if err != nil {
		return err
	}
	return r.restOfElement()
}

func (r *reader) primaryKey(t *schema.Table) error {
	if ok, err := r.take("key"); err != nil || !ok {
		return orElse(err, r.wrong("KEY"))
	}
	if _, err := r.indexName(); err != nil {
		return err
	}
	columns, err := r.names()
	if err != nil {
		return err
	}
	t.Primary = columns
	for _, n := range columns {
		if c := t.Column(n); c != nil {
			c.Nullable = false
		}
	}
	return nil
}

// uniqueKey reads a unique key; name is that of its constraint, where it has none of its own.
func (r *reader) uniqueKey(t *schema.Table, name string) error {
	if r.now.is("key", "index") {
		if err := r.advance(); err != nil {
			return err
		}
	}
	own, err := r.indexName()
	if err != nil {
		return err
	}
	columns, err := r.names()
	if err == nil && !slices.Contains(columns, "") {
		t.Uniques = append(t.Uniques, schema.Unique{Name: cmp.Or(own, name), Columns: columns})
	}
	return err
}

func (r *reader) foreignKey(t *schema.Table) error {
	if ok, err := r.take("key"); err != nil || !ok {
		return orElse(err, r.wrong("KEY"))
	}
	if _, err := r.indexName(); err != nil {
		return err
	}
	columns, err := r.names()
	if err != nil {
		return err
	}
	if ok, err := r.take("references"); err != nil || !ok {
		return orElse(err, r.wrong("REFERENCES"))
	}
	return r.references(t, columns)
}

func (r *reader) check(t *schema.Table, name string) error {
	text, err := r.expression()
	if err != nil {
		return err
	}
	off, err := r.take("not", "enforced")
	if err == nil && !off {
		t.Checks = append(t.Checks, schema.Check{Name: name, Expression: bare(text)})
	}
	return err
}

func orElse(err, otherwise error) error {
	if err != nil {
		return err
	}
	return otherwise
}

// bare takes the outermost parentheses off.
func bare(text string) string {
	return strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(text, "("), ")"))
}

// indexName reads the name an index may have, and USING.
func (r *reader) indexName() (string, error) {
	name := ""
	for !r.now.isSign("(") && (r.now.kind == word || r.now.kind == quoted) {
		using := r.now.is("using")
		n, err := r.part()
		if err != nil {
			return "", err
		}
		if using {
			if _, err := r.part(); err != nil {
				return "", err
			}
			continue
		}
		name = n
	}
	return name, nil
}

// restOfElement passes over what may stand behind a constraint.
func (r *reader) restOfElement() error {
	depth := 0
	for r.now.kind != end && !r.now.isSign(";") {
		switch {
		case r.now.isSign("("):
			depth++
		case r.now.isSign(")"):
			if depth == 0 {
				return nil
			}
			depth--
		case r.now.isSign(",") && depth == 0:
			return nil
		}
		if err := r.advance(); err != nil {
			return err
		}
	}
	return nil
}

// references reads the target of a foreign key.
func (r *reader) references(t *schema.Table, columns []string) error {
	table, err := r.name()
	if err != nil {
		return err
	}
	f := schema.Foreign{Columns: columns, Table: table}
	if r.now.isSign("(") {
		if f.References, err = r.names(); err != nil {
			return err
		}
	}
	for {
		switch {
		case r.now.is("on"):
			if err := r.advance(); err != nil {
				return err
			}
			deletes := r.now.is("delete")
			if err := r.advance(); err != nil {
				return err
			}
			var action []string
			for r.now.is("cascade", "restrict", "set", "null", "default", "no", "action") {
				action = append(action, strings.ToLower(r.now.text))
				if err := r.advance(); err != nil {
					return err
				}
			}
			if deletes {
				f.OnDelete = strings.Join(action, " ")
			}
		case r.now.is("match"):
			if err := r.advance(); err != nil {
				return err
			}
			if err := r.advance(); err != nil {
				return err
			}
		case r.now.is("deferrable", "initially", "deferred", "immediate"):
			if err := r.advance(); err != nil {
				return err
			}
		default:
			t.Foreign = append(t.Foreign, f)
			return nil
		}
	}
}

var attributes = []string{
	"not", "null", "default", "primary", "unique", "key", "auto_increment", "autoincrement", "generated", "as", "check", "references", "collate", "charset", "comment", "on", "constraint", "unsigned", "signed",
	"zerofill", "invisible", "visible", "column_format", "storage", "srid", "compressed", "encoding", "deferrable", "initially", "ref_system_id", "first", "after", "using", "persistent", "virtual", "stored",
}

// typeName reads a type: its words in small letters and its arguments.
func (r *reader) typeName() (string, []string, error) {
	var words, args []string
	for {
		switch {
		case r.now.isSign("(") && args == nil && len(words) > 0:
			list, err := r.arguments()
			if err != nil {
				return "", nil, err
			}
			args = list
			if args == nil {
				args = []string{}
			}
			continue
		case r.now.isSign("["):
			for !r.now.isSign("]") && r.now.kind != end {
				if err := r.advance(); err != nil {
					return "", nil, err
				}
			}
			if err := r.advance(); err != nil {
				return "", nil, err
			}
			words = append(words, "[]")
			continue
		case r.now.isSign("."): // a type of another schema
			words = nil
		case r.now.is("character", "char") && r.followedBy("set"):
			return strings.Join(words, " "), args, nil
		case args != nil && !r.now.is("with", "without", "time", "zone", "varying", "binary"):
			return strings.ReplaceAll(strings.Join(words, " "), " []", "[]"), args, nil
		case (r.now.kind == word || r.now.kind == quoted) && (!r.now.is(attributes...) || r.out.Dialect == "sqlite" && len(words) == 0 && r.now.is("unsigned")):
			words = append(words, strings.ToLower(r.now.text))
		default:
			return strings.ReplaceAll(strings.Join(words, " "), " []", "[]"), args, nil
		}
		if err := r.advance(); err != nil {
			return "", nil, err
		}
	}
}

func (r *reader) followedBy(keyword string) bool {
	saved := r.lexer
	t, err := r.next()
	r.lexer = saved
	return err == nil && t.is(keyword)
}

func (r *reader) column(t *schema.Table) error {
	name, err := r.part()
	if err != nil {
		return orElse(nil, r.wrong("a column or a constraint"))
	}
	c := schema.Column{Name: name, Nullable: true}
	at := r.now
	words, args, err := r.typeName()
	if err != nil {
		return err
	}
	if words == "" && r.out.Dialect != "sqlite" {
		return r.fail(at.at, "the type of the column %s is expected here, not %s", name, at)
	}
	words = strings.TrimSuffix(words, " binary")
	if d, known := r.domains[words]; known {
		words, args = d.words, d.args
		c.Nullable = !d.noNull
	}
	if list, known := r.types[words]; known {
		words, args = "enum", list
	}
	c.Declare(r.out.Dialect, words, args)
	if c.Class == schema.ClassOther && !strings.ContainsAny(words, " [") {
		r.out.Notes = append(r.out.Notes, "The type "+words+" of "+t.Name+"."+name+" is not known.")
	} else if c.Class == schema.ClassOther && !strings.HasSuffix(words, "[]") {
		return r.fail(at.at, "%q is neither a type nor an attribute of the column %s", words, name)
	}
	if err := r.attributes(t, &c); err != nil {
		return err
	}
	if !r.now.isSign(",") && !r.now.isSign(")") && !r.now.isSign(";") && r.now.kind != end {
		return r.fail(r.now.at, "%s is not an attribute of the column %s", r.now, name)
	}
	if old := t.Column(name); old != nil {
		*old = c
	} else {
		t.Columns = append(t.Columns, c)
	}
	return nil
}

// attributes reads what stands behind a column's type.
func (r *reader) attributes(t *schema.Table, c *schema.Column) error {
	for {
		first := r.now
		if first.kind != word {
			return nil
		}
		if first.is("character", "char") && r.followedBy("set") {
			if err := r.advance(); err != nil {
				return err
			}
		} else if !first.is(attributes...) && !first.is("with", "without", "enforced", "always", "by") {
			return nil
		}
		if err := r.advance(); err != nil {
			return err
		}
		if err := r.attribute(t, c, first); err != nil {
			return err
		}
	}
}

// attribute reads what follows the first word of a column's attribute.
func (r *reader) attribute(t *schema.Table, c *schema.Column, first token) (err error) {
	switch {
	case first.is("not"):
		err = r.not(c)
	case first.is("default"):
		err = r.defaultOf(c)
	case first.is("primary"):
		err = r.primary(t, c)
	case first.is("unique"):
		_, err = r.take("key")
		t.Uniques = append(t.Uniques, schema.Unique{Columns: []string{c.Name}})
	case first.is("auto_increment", "autoincrement"):
		c.Auto = true
	case first.is("unsigned", "zerofill"):
		c.Unsigned = true
	case first.is("generated"):
		err = r.generated(c)
	case first.is("as"):
		c.Generated, err = r.expression()
		c.Generated = bare(c.Generated)
	case first.is("check"):
		var text string
		if text, err = r.expression(); err == nil {
			t.Checks = append(t.Checks, schema.Check{Expression: bare(text)})
		}
	case first.is("references"):
		err = r.references(t, []string{c.Name})
	case first.is("collate", "charset", "character", "char"):
		err = r.characters(c, first)
	case first.is("comment"):
		if _, err = r.sign("="); err == nil {
			c.Comment = r.now.text
			err = r.advance()
		}
	default:
		err = r.passOver(first)
	}
	return err
}

// not reads NULL, or what of a constraint is not so.
func (r *reader) not(c *schema.Column) error {
	ok, err := r.take("null")
	if err != nil || ok {
		c.Nullable = c.Nullable && !ok
		return err
	}
	if ok, err = r.take("enforced"); err != nil || ok {
		return err
	}
	if ok, err = r.take("deferrable"); err != nil || ok {
		return err
	}
	return r.wrong("NULL")
}

func (r *reader) primary(t *schema.Table, c *schema.Column) error {
	_, err := r.take("key")
	t.Primary, c.Nullable = []string{c.Name}, false
	if r.out.Dialect == "sqlite" && c.Class == schema.ClassInteger {
		c.Auto = true
	}
	for err == nil && r.now.is("asc", "desc") {
		err = r.advance()
	}
	return err
}

// characters reads a character set or a collation, which tells the set where none is given.
func (r *reader) characters(c *schema.Column, first token) (err error) {
	if first.is("collate") {
		c.Collation, err = r.name()
		if c.Charset == "" && c.Collation != "" && r.backslash {
			c.Charset, _, _ = strings.Cut(c.Collation, "_")
		}
		return err
	}
	if _, err = r.take("set"); err == nil {
		_, err = r.sign("=")
	}
	if err == nil {
		c.Charset, err = r.name()
	}
	return err
}

// passOver reads attributes that say nothing of what a column holds.
func (r *reader) passOver(first token) (err error) {
	switch {
	case first.is("on"): // UPDATE now(), CONFLICT REPLACE
		if err = r.advance(); err == nil {
			err = r.advance()
		}
		if err == nil && r.now.isSign("(") {
			_, err = r.expression()
		}
	case first.is("constraint"):
		if r.now.kind == word && !r.now.is("check", "not", "unique", "primary", "references", "null") || r.now.kind == quoted {
			err = r.advance()
		}
	case first.is("column_format", "storage", "srid", "encoding", "using", "after"):
		err = r.advance()
	case first.is("ref_system_id", "compressed"):
		if _, err = r.sign("="); err == nil && r.now.kind == number {
			err = r.advance()
		}
	case first.is("with", "without"):
		for err == nil && r.now.is("system", "versioning", "local", "time", "zone") {
			err = r.advance()
		}
	}
	return err
}

// defaultOf reads a default: a literal is kept as its text, anything else is computed.
func (r *reader) defaultOf(c *schema.Column) error {
	switch {
	case r.now.is("null"):
		return r.advance()
	case r.now.kind == text, r.now.kind == number, r.now.kind == quoted && r.out.Dialect == "sqlite":
		value := r.now.text
		c.Default = &value
		if err := r.advance(); err != nil {
			return err
		}
	case r.now.isSign("-"), r.now.isSign("+"):
		minus := r.now.isSign("-")
		if err := r.advance(); err != nil {
			return err
		}
		value := r.now.text
		if minus {
			value = "-" + value
		}
		c.Default = &value
		if err := r.advance(); err != nil {
			return err
		}
	case r.now.is("true", "false"):
		value := map[bool]string{true: "1", false: "0"}[r.now.is("true")]
		c.Default = &value
		if err := r.advance(); err != nil {
			return err
		}
	case r.now.isSign("("):
		c.Computed = true
		if _, err := r.expression(); err != nil {
			return err
		}
	case r.now.kind == word:
		c.Computed = true
		if r.now.is("nextval") {
			c.Auto = true
		}
		if _, err := r.name(); err != nil {
			return err
		}
		if r.now.isSign("(") {
			if _, err := r.expression(); err != nil {
				return err
			}
		}
		if ok, err := r.take("at", "time", "zone"); err != nil {
			return err
		} else if ok {
			if err := r.advance(); err != nil {
				return err
			}
		}
	default:
		return r.wrong("a default")
	}
	for {
		cast, err := r.sign("::")
		if err != nil {
			return err
		}
		if !cast {
			return nil
		}
		if _, _, err := r.typeName(); err != nil {
			return err
		}
	}
}

// generated reads GENERATED ALWAYS AS (…) STORED and GENERATED … AS IDENTITY.
func (r *reader) generated(c *schema.Column) error {
	for r.now.is("always", "by", "default", "as") {
		if err := r.advance(); err != nil {
			return err
		}
	}
	if ok, err := r.take("identity"); err != nil {
		return err
	} else if ok {
		c.Auto = true
		if r.now.isSign("(") {
			_, err = r.expression()
		}
		return err
	}
	if r.now.is("row") { // AS ROW START
		c.Generated = "row"
		if err := r.advance(); err != nil {
			return err
		}
		return r.advance()
	}
	text, err := r.expression()
	c.Generated = bare(text)
	return err
}

func (r *reader) createIndex(unique bool) error {
	if err := r.advance(); err != nil {
		return err
	}
	for r.now.is("concurrently", "if", "not", "exists") {
		if err := r.advance(); err != nil {
			return err
		}
	}
	name := ""
	if !r.now.is("on") {
		var err error
		if name, err = r.name(); err != nil {
			return err
		}
	}
	for !r.now.is("on") && r.now.kind == word { // USING BTREE
		if err := r.advance(); err != nil {
			return err
		}
	}
	if ok, err := r.take("on"); err != nil || !ok {
		return orElse(err, r.wrong("ON and the index's table"))
	}
	if _, err := r.take("only"); err != nil {
		return err
	}
	table, err := r.name()
	if err != nil {
		return err
	}
	for !r.now.isSign("(") && r.now.kind == word {
		if err := r.advance(); err != nil {
			return err
		}
	}
	columns, err := r.names()
	if err != nil {
		return err
	}
	partial := false
	for r.now.kind != end && !r.now.isSign(";") {
		partial = partial || r.now.is("where")
		if err := r.advance(); err != nil {
			return err
		}
	}
	if i, known := r.at[strings.ToLower(table)]; known && unique && !partial && !slices.Contains(columns, "") {
		t := &r.out.Tables[i]
		t.Uniques = append(t.Uniques, schema.Unique{Name: name, Columns: columns})
	}
	return r.advance()
}

// alter reads ALTER TABLE; whatever it does not define is passed over.
func (r *reader) alter() error {
	if ok, err := r.take("alter", "table"); err != nil || !ok {
		if err != nil {
			return err
		}
		return r.skip()
	}
	for r.now.is("only", "if", "exists", "ignore", "online") {
		if err := r.advance(); err != nil {
			return err
		}
	}
	name, err := r.name()
	if err != nil {
		return err
	}
	i, known := r.at[strings.ToLower(name)]
	if !known {
		return r.skip()
	}
	t := &r.out.Tables[i]
	for r.now.kind != end && !r.now.isSign(";") {
		if err := r.alteration(t); err != nil {
			return err
		}
		if err := r.restOfElement(); err != nil {
			return err
		}
		if more, err := r.sign(","); err != nil {
			return err
		} else if !more && r.now.isSign(")") {
			return r.wrong("the statement's end")
		}
	}
	return r.advance()
}

func (r *reader) alteration(t *schema.Table) error {
	switch {
	case r.now.is("add"):
		if err := r.advance(); err != nil {
			return err
		}
		for r.now.is("column", "if", "not", "exists") {
			if err := r.advance(); err != nil {
				return err
			}
		}
		if r.now.isSign("(") {
			return nil
		}
		return r.element(t)
	case r.now.is("modify", "change"):
		change := r.now.is("change")
		if err := r.advance(); err != nil {
			return err
		}
		for r.now.is("column", "if", "exists") {
			if err := r.advance(); err != nil {
				return err
			}
		}
		if change {
			old, err := r.part()
			if err != nil {
				return err
			}
			if c := t.Column(old); c != nil && (r.now.kind == word || r.now.kind == quoted) {
				c.Name = r.now.text
			}
		}
		return r.column(t)
	case r.now.is("alter"):
		return r.alterColumn(t)
	}
	return nil
}

// alterColumn reads PostgreSQL's ALTER COLUMN x SET NOT NULL, SET DEFAULT, TYPE, ADD GENERATED.
func (r *reader) alterColumn(t *schema.Table) error {
	if err := r.advance(); err != nil {
		return err
	}
	if _, err := r.take("column"); err != nil {
		return err
	}
	name, err := r.part()
	if err != nil {
		return err
	}
	c := t.Column(name)
	if c == nil {
		return nil
	}
	if ok, err := r.take("set", "not", "null"); err != nil || ok {
		c.Nullable = c.Nullable && !ok
		return err
	}
	if ok, err := r.take("drop", "not", "null"); err != nil || ok {
		c.Nullable = c.Nullable || ok
		return err
	}
	if ok, err := r.take("set", "default"); err != nil || ok {
		if err != nil {
			return err
		}
		return r.defaultOf(c)
	}
	if ok, err := r.take("add", "generated"); err != nil || ok {
		if err != nil {
			return err
		}
		return r.generated(c)
	}
	if _, err := r.take("set", "data"); err != nil {
		return err
	}
	if ok, err := r.take("type"); err != nil || !ok {
		return err
	}
	words, args, err := r.typeName()
	if err == nil {
		nullable := c.Nullable
		c.Length, c.Bytes, c.Precision, c.Scale = 0, 0, 0, 0
		c.Declare(r.out.Dialect, words, args)
		c.Nullable = nullable
	}
	return err
}
