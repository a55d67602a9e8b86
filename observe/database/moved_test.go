package database_test

import (
	"context"
	"testing"

	"oddtick/core/observation"
	"oddtick/internal/localdb/dbtest"
	"oddtick/observe/database"

	"github.com/stretchr/testify/require"
)

// TestARowWhoseKeyChangesIsOneChange, however the table is watched, and is taken back as one.
func TestARowWhoseKeyChangesIsOneChange(t *testing.T) {
	t.Parallel()
	const tables = "CREATE TABLE skippers (club VARCHAR(10), handle VARCHAR(16), number INT UNIQUE, visits INT NOT NULL DEFAULT 0, PRIMARY KEY (club, handle));\nCREATE TABLE logs (handle VARCHAR(16) PRIMARY KEY, line VARCHAR(20));\nINSERT INTO skippers VALUES ('north', 'mara', 1, 3), ('north', 'tove', 2, 0);\nINSERT INTO logs VALUES ('mara', 'north east')"
	ctx := context.Background()
	for _, logged := range []bool{true, false} {
		dsn := dbtest.DSN(t)
		dbtest.Exec(t, dsn, tables)
		watched := dsn
		if !logged {
			watched = reader(t, dsn)
		}
		m, err := database.Open(ctx, "mariadb", watched, nil)
		require.NoError(t, err)
		require.NoError(t, m.Begin(ctx))
		dbtest.Exec(t, dsn, "UPDATE skippers SET handle = 'heron' WHERE handle = 'mara'")
		first, err := m.Changes(ctx)
		require.NoError(t, err)
		require.Len(t, first, 1)
		require.Equal(t, observation.Changed, first[0].Kind)
		require.Equal(t, "north, mara", first[0].Key, "it is known by the key it had")
		after, _ := observation.CellOf(first[0].After, "handle")
		require.Equal(t, "heron", after.Value)
		dbtest.Exec(t, dsn, "UPDATE skippers SET visits = 9 WHERE handle = 'heron'")
		second, err := m.Changes(ctx)
		require.NoError(t, err)
		if logged { // a reader may not write
			done, err := m.Undo(ctx, append(first, second...))
			require.NoError(t, err)
			require.Empty(t, done.Left)
			back, err := m.Changes(ctx)
			require.NoError(t, err)
			require.Len(t, back, 1, "one row, with the key it had before")
		}
		dbtest.Exec(t, dsn, "DELETE FROM logs;\nINSERT INTO logs VALUES ('tove', 'south')")
		other, err := m.Changes(ctx)
		require.NoError(t, err)
		require.Len(t, other, 2, "another row is another row")
		require.NoError(t, m.Close())
	}
}
