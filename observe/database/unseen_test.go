package database

import (
	"regexp"
	"testing"

	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/submission"

	"github.com/DATA-DOG/go-sqlmock"
	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/require"
)

// watching is a watcher whose server gives what is told, and nothing else. SQL Server and Oracle were never at hand.
func watching(t *testing.T, d dialect, columns *sqlmock.Rows, query string) (*Watcher, sqlmock.Sqlmock) {
	db, server, err := sqlmock.New(sqlmock.MonitorPingsOption(false))
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	server.ExpectQuery(regexp.QuoteMeta(query)).WillReturnRows(columns)
	m := &Watcher{db: sqlx.NewDb(db, "mock"), dialect: d, name: "fen"}
	require.NoError(t, m.describe(t.Context(), []string{"logs"}))
	return m, server
}

func sqlServerFen(t *testing.T) (*Watcher, sqlmock.Sqlmock) {
	rows := sqlmock.NewRows([]string{"t", "c", "y", "k", "w", "m", "n"})
	for _, c := range [][]any{
		{"logs", "id", "int", true, true, false, ""},
		{"plots", "id", "int", true, true, false, ""},
		{"plots", "na]me", "nvarchar", false, false, false, "Latin1_General_CI_AS"},
		{"plots", "since", "datetime2", false, false, false, ""},
		{"plots", "fee", "money", false, false, false, ""},
		{"plots", "photo", "varbinary", false, false, false, ""},
		{"plots", "version", "timestamp", false, false, true, ""},
	} {
		rows.AddRow(c[0], c[1], c[2], c[3], c[4], c[5], c[6])
	}
	return watching(t, sqlServer{}, rows, sqlServerColumns)
}

func oracleFen(t *testing.T) (*Watcher, sqlmock.Sqlmock) {
	rows := sqlmock.NewRows([]string{"t", "c", "y", "k", "w", "m"})
	for _, c := range [][]any{
		{"LOGS", "ID", "number", 1, 1, 0},
		{"PLOTS", "ID", "number", 1, 1, 0},
		{"PLOTS", "NAME", "varchar2", 0, 0, 0},
		{"PLOTS", "SINCE", "date", 0, 0, 0},
		{"PLOTS", "SEEN", "timestamp(6)", 0, 0, 0},
		{"PLOTS", "Fee", "number", 0, 0, 0},
		{"PLOTS", "PHOTO", "raw", 0, 0, 0},
	} {
		rows.AddRow(c[0], c[1], c[2], c[3], c[4], c[5])
	}
	return watching(t, oracle{}, rows, oracleColumns)
}

func TestRowsOfSQLServer(t *testing.T) {
	m, server := sqlServerFen(t)
	require.Equal(t, []string{"plots"}, m.Tables())
	require.True(t, m.tables[0].columns[1].Blind)
	texts := "CAST([id] AS nvarchar(max)), CAST([na]]me] AS nvarchar(max)), CONVERT(varchar(27), [since], 121), CONVERT(varchar(40), [fee], 2), '0x' + LOWER(CONVERT(varchar(max), CAST([photo] AS varbinary(max)), 2)), '0x' + LOWER(CONVERT(varchar(max), CAST([version] AS varbinary(max)), 2))"
	server.ExpectQuery(regexp.QuoteMeta("SELECT COUNT(*) FROM [plots]")).WillReturnRows(sqlmock.NewRows([]string{"n"}).AddRow(1))
	all := regexp.QuoteMeta("SELECT 0, ([id] / 1000), " + texts + " FROM [plots]")
	row := []any{0, 0, "1", "Fern", "2026-04-01 09:30:00.0000000", "12.5000", "0x0a", "0x01"}
	names := []string{"d", "b", "1", "2", "3", "4", "5", "6"}
	given := func(rows ...[]any) *sqlmock.Rows {
		out := sqlmock.NewRows(names)
		for _, r := range rows {
			out.AddRow(r[0], r[1], r[2], r[3], r[4], r[5], r[6], r[7])
		}
		return out
	}
	server.ExpectQuery(all).WillReturnRows(given(row))
	require.NoError(t, m.Begin(t.Context()))
	second := []any{0, 0, "2", "Moss", "2026-04-02 00:00:00.1200000", "0.0000", nil, "0x02"}
	for range 3 { // all rows, by parts, and those of the part
		server.ExpectQuery(all).WillReturnRows(given(row, second))
	}
	changes, err := m.Changes(t.Context())
	require.NoError(t, err)
	require.Len(t, changes, 1)
	require.Equal(t, observation.Inserted, changes[0].Kind)
	require.Equal(t, "2", changes[0].Key)
	require.Equal(t, "2026-04-02 00:00:00.12", changes[0].After[2].Value)
	require.True(t, changes[0].After[4].Null)
	server.ExpectQuery(regexp.QuoteMeta("SELECT TOP (100) CAST([na]]me] AS nvarchar(max)) FROM [plots] WHERE CAST([na]]me] AS nvarchar(max)) = @p1")).WithArgs("fern").WillReturnRows(sqlmock.NewRows([]string{"v"}).AddRow("Fern"))
	found, err := m.LookUp(t.Context(), submission.Lookup{Table: "plots", Column: "na]me", Value: "fern", Ignoring: []string{"case"}}, func(a, b string) bool { return a == "Fern" && b == "fern" })
	require.NoError(t, err)
	require.True(t, found)
	server.ExpectExec(regexp.QuoteMeta("DELETE FROM [plots] WHERE CAST([id] AS nvarchar(max)) = @p1")).WithArgs("2").WillReturnResult(sqlmock.NewResult(0, 1))
	server.ExpectQuery(all + regexp.QuoteMeta(" WHERE CAST([id] AS nvarchar(max)) = @p1")).WithArgs("2").WillReturnRows(given())
	undone, err := m.Undo(t.Context(), changes)
	require.NoError(t, err)
	require.Equal(t, &Undone{Deleted: 1}, undone)
	require.NoError(t, server.ExpectationsWereMet())
}

func TestRowsOfOracle(t *testing.T) {
	m, server := oracleFen(t)
	require.Equal(t, []string{"plots"}, m.Tables())
	require.NoError(t, m.Require("plots", "id", "name", "Fee"))
	server.ExpectQuery(regexp.QuoteMeta(`SELECT "NAME", TO_CHAR("SINCE", 'YYYY-MM-DD HH24:MI:SS') FROM "PLOTS" ORDER BY 1 FETCH FIRST 5 ROWS ONLY`)).WillReturnRows(sqlmock.NewRows([]string{"n", "s"}).AddRow("Fern", nil))
	rows, err := m.Rows(t.Context(), "plots", []string{"name", "since"}, 5)
	require.NoError(t, err)
	require.Equal(t, [][]string{{"Fern", ""}}, rows)
	server.ExpectQuery(regexp.QuoteMeta(`SELECT 0, TRUNC("ID" / 1000), TO_CHAR("ID", 'TM9', 'NLS_NUMERIC_CHARACTERS=''.,'''), "NAME", TO_CHAR("SINCE", 'YYYY-MM-DD HH24:MI:SS'), TO_CHAR("SEEN", 'YYYY-MM-DD HH24:MI:SS.FF6'), TO_CHAR("Fee", 'TM9', 'NLS_NUMERIC_CHARACTERS=''.,'''), NVL2("PHOTO", '0x' || LOWER(RAWTOHEX("PHOTO")), NULL) FROM "PLOTS"`)).
		WillReturnRows(sqlmock.NewRows([]string{"d", "b", "1", "2", "3", "4", "5", "6"}).AddRow(0, 0, "1", "Fern", "2026-04-01 00:00:00", "2026-04-01 09:30:00.500000", ".5", "0x0a"))
	var cells []observation.Cell
	require.NoError(t, m.rows(t.Context(), m.tables[0], true, "", nil, func(_ int64, _ string, row []observation.Cell, _ uint64) { cells = row }))
	var values []string
	for _, c := range cells {
		values = append(values, c.Value)
	}
	require.Equal(t, []string{"1", "Fern", "2026-04-01", "2026-04-01 09:30:00.5", "0.5", "0x0a"}, values)
	server.ExpectExec(regexp.QuoteMeta(`INSERT INTO "PLOTS" ("NAME", "SINCE") VALUES (:1, TO_DATE(:2, 'YYYY-MM-DD'))`)).WithArgs("Moss", "2026-04-02").WillReturnResult(sqlmock.NewResult(0, 1))
	require.NoError(t, m.Put(t.Context(), "plots", map[string]string{"name": "Moss", "since": "2026-04-02"}))
	none, err := m.LookUp(t.Context(), submission.Lookup{Table: "plots", Column: "name", Value: ""}, func(a, b string) bool { return a == b })
	require.NoError(t, err)
	require.False(t, none, "the empty text is NULL")
	require.NoError(t, server.ExpectationsWereMet())
}

func TestWhatSQLServerAndOraclePromise(t *testing.T) {
	m, server := sqlServerFen(t)
	types := sqlmock.NewRows([]string{"t", "c", "y", "l", "p", "s", "n", "i", "d", "g", "o"})
	for _, c := range [][]any{
		{"id", "int", 4, 10, 0, false, true, "", ""},
		{"name", "nvarchar", 40, 0, 0, false, false, "(N'it''s')", ""},
		{"note", "nvarchar", -1, 0, 0, true, false, "", ""},
		{"fee", "money", 8, 19, 4, false, false, "((0))", ""},
		{"open", "bit", 1, 1, 0, false, false, "((1))", ""},
		{"since", "datetime2", 8, 27, 3, false, false, "(sysdatetime())", ""},
		{"twice", "int", 4, 10, 0, true, false, "", "([id]*(2))"},
		{"version", "timestamp", 8, 0, 0, false, false, "", ""},
	} {
		types.AddRow("plots", c[0], c[1], c[2], c[3], c[4], c[5], c[6], c[7], c[8], "")
	}
	server.ExpectQuery(regexp.QuoteMeta(sqlServerTypes)).WillReturnRows(types)
	server.ExpectQuery(regexp.QuoteMeta(sqlServerKeys)).WillReturnRows(sqlmock.NewRows([]string{"t", "i", "p", "c"}).AddRow("plots", "pk", true, "id").AddRow("plots", "u", false, "name").AddRow("plots", "u", false, "fee"))
	server.ExpectQuery(regexp.QuoteMeta(sqlServerForeign)).WillReturnRows(sqlmock.NewRows([]string{"t", "f", "c", "r", "o", "d"}).AddRow("plots", "f", "name", "names", "name", 1))
	server.ExpectQuery(regexp.QuoteMeta(sqlServerChecks)).WillReturnRows(sqlmock.NewRows([]string{"t", "k", "d"}).AddRow("plots", "k", "([fee]>=(0))"))
	got, err := m.Schema(t.Context())
	require.NoError(t, err)
	plots := got.Table("plots")
	require.Equal(t, []string{"id"}, plots.Primary)
	require.Equal(t, []schema.Unique{{Name: "u", Columns: []string{"name", "fee"}}}, plots.Uniques)
	require.Equal(t, []schema.Foreign{{Name: "f", Columns: []string{"name"}, Table: "names", References: []string{"name"}, OnDelete: "cascade"}}, plots.Foreign)
	require.Equal(t, []schema.Check{{Name: "k", Expression: "([fee]>=(0))"}}, plots.Checks)
	by := func(name string) *schema.Column { return plots.Column(name) }
	require.Equal(t, schema.ClassInteger, by("id").Class)
	require.True(t, by("id").Auto)
	require.Equal(t, 20, by("name").Length)
	require.Equal(t, "it's", *by("name").Default)
	require.Zero(t, by("note").Length)
	require.Equal(t, [2]int{19, 4}, [2]int{by("fee").Precision, by("fee").Scale})
	require.Equal(t, schema.ClassBoolean, by("open").Class)
	require.Equal(t, schema.ClassDateTime, by("since").Class)
	require.True(t, by("since").Computed)
	require.NotEmpty(t, by("twice").Generated)
	require.Equal(t, schema.ClassBinary, by("version").Class)

	m, server = oracleFen(t)
	types = sqlmock.NewRows([]string{"t", "c", "y", "l", "p", "s", "n", "i", "v", "d"})
	for _, c := range [][]any{{"ID", "number", 0, 10, 0, 0, 1, 0, "x.nextval"}, {"NAME", "varchar2", 20, 0, 0, 0, 0, 0, "'none' "}, {"FEE", "number", 0, 8, 2, 1, 0, 0, "0"}, {"SINCE", "date", 0, 0, 0, 0, 0, 0, "SYSDATE"}, {"SEEN", "timestamp(6)", 0, 0, 6, 1, 0, 0, nil}} {
		types.AddRow("PLOTS", c[0], c[1], c[2], c[3], c[4], c[5], c[6], c[7], c[8])
	}
	server.ExpectQuery(regexp.QuoteMeta(oracleTypes)).WillReturnRows(types)
	server.ExpectQuery(regexp.QuoteMeta(oracleKeys)).WillReturnRows(sqlmock.NewRows([]string{"t", "n", "k", "c", "r", "o", "d", "s"}).
		AddRow("PLOTS", "C1", "C", "NAME", "-", "-", "-", `"NAME" IS NOT NULL`).AddRow("PLOTS", "C2", "C", "FEE", "-", "-", "-", "fee >= 0").
		AddRow("PLOTS", "P", "P", "ID", "-", "-", "-", nil).AddRow("PLOTS", "R", "R", "NAME", "NAMES", "NAME", "no action", nil).AddRow("PLOTS", "U", "U", "NAME", "-", "-", "-", nil))
	got, err = m.Schema(t.Context())
	require.NoError(t, err)
	plots = got.Table("plots")
	require.Equal(t, []string{"id"}, plots.Primary)
	require.Equal(t, []schema.Unique{{Name: "U", Columns: []string{"name"}}}, plots.Uniques)
	require.Equal(t, []schema.Check{{Name: "C2", Expression: "fee >= 0"}}, plots.Checks)
	require.Equal(t, "names", plots.Foreign[0].Table)
	require.True(t, by("id").Auto)
	require.Equal(t, "none", *by("name").Default)
	require.Equal(t, [2]int{8, 2}, [2]int{by("fee").Precision, by("fee").Scale})
	require.Equal(t, schema.ClassDateTime, by("since").Class)
	require.True(t, by("since").Computed)
	require.Equal(t, schema.ClassDateTime, by("seen").Class)
}

func TestWhereSQLServerAndOracleAre(t *testing.T) {
	for dsn, want := range map[string]Target{
		"sqlserver://sa:p@db.test?database=fen":                     {kindSQLServer, "db.test", "1433", "fen"},
		"sqlserver://sa:p@127.0.0.1:1444?database=fen&encrypt=true": {kindSQLServer, "127.0.0.1", "1444", "fen"},
		"oracle://fen:p@db.test/FEN":                                {kindOracle, "db.test", "1521", "FEN"},
	} {
		got, err := TargetOf("", dsn)
		require.NoError(t, err, dsn)
		require.Equal(t, want, got)
	}
	for dsn, says := range map[string]string{
		"sqlserver://sa:p@db.test":                                 "names no database",
		"sqlserver://sa:p@db.test?database=master":                 "the server's own",
		"sqlserver://sa:p@db.test/instance?database=fen":           "write it like",
		"sqlserver://sa:p@db.test?database=fen&certificate=/etc/x": "the option certificate",
		"oracle://fen:p@db.test":                                   "names no service",
		"oracle://fen:p@db.test/FEN?TRACE FILE=/tmp/x":             "TRACE FILE",
		"oracle://fen:p@db.test/FEN?unix socket=/tmp/x":            "unix socket",
	} {
		err := CheckDSN("", dsn)
		require.ErrorContains(t, err, says, dsn)
		require.NotContains(t, err.Error(), ":p@")
	}
}

func TestADatabaseLeadsNowhereElse(t *testing.T) {
	_, err := onlyTo("127.0.0.1:1").DialContext(t.Context(), "tcp", "127.0.0.2:1")
	require.ErrorContains(t, err, "which the DSN does not name")
	require.Equal(t, "127.0.0.1", onlyTo("127.0.0.1:1").HostName())
}
