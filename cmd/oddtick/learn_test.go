package main

import (
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestAFormIsLearnedFromItsAddress: the document that is written runs as it is, and no row is left.
func TestAFormIsLearnedFromItsAddress(t *testing.T) {
	t.Parallel()
	address, dsn := site(t)
	file := filepath.Join(t.TempDir(), "join.yaml")
	code, _, errs := oddtick(t, "learn", address+"/join", "--database", dsn, "--output", file)
	require.Zero(t, code, errs)
	require.Contains(t, errs, "all as before.")
	require.Regexp(t, `learned from \d+ submissions`, errs)
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	require.Contains(t, string(text), "length: {min: 3, max: 20, message: Use 3 to 20 characters.}")
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	var rows int
	require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM plot_holders").Scan(&rows))
	require.Zero(t, rows)
	code, out, errs := oddtick(t, "run", file, "--site", address, "--database", dsn)
	require.Zero(t, code, out+errs)
	faulty, other := site(t, "username-cut")
	code, out, _ = oddtick(t, "run", file, "--site", faulty, "--database", other)
	require.Equal(t, 1, code)
	require.Contains(t, out, "stored cut to 20 characters")
}

// TestWhatCannotBeLearnedSaysWhy, and what to do.
func TestWhatCannotBeLearnedSaysWhy(t *testing.T) {
	t.Parallel()
	address, dsn := site(t)
	for args, says := range map[string]string{
		"join":                                                  `"join" is not the address of a page`,
		address + "/no-such":                                    "status 404",
		address + "/members":                                    "/members leads to /sign-in",
		address + "/join --value member=7":                      "--value member: the form has no field of this id",
		address + "/join --value member_no":                     "write the id of a field, = and its value",
		address + "/join --project " + t.TempDir():              "contains no site document",
		address + "/join --value member_no=7 --database " + dsn: "A membership number is OS- and four digits.",
	} {
		code, _, errs := oddtick(t, append([]string{"learn"}, strings.Fields(args)...)...)
		require.Equal(t, 2, code, args)
		require.Contains(t, errs, says, args)
	}
}
