package bench

import (
	"context"
	"database/sql"
	"fmt"
	"maps"
	"runtime"
	"slices"
	"testing"
	"time"

	"oddtick/internal/localdb/dbtest"
	"oddtick/observe/database"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
)

const (
	fewRows  = 1_000
	manyRows = 1_000_000
)

const harvestColumns = "id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY, bed CHAR(3), crop VARCHAR(20), weight DECIMAL(6,3), picked DATE, at TIME, note VARCHAR(60), taken BOOLEAN, steward VARCHAR(30), logged DATETIME(3)"

// filled makes a database with a table of ten columns and so many rows.
func filled(b testing.TB, rows int) (dsn string, db *sql.DB) {
	dsn = dbtest.DSN(b)
	dbtest.Exec(b, dsn, fmt.Sprintf(`CREATE TABLE harvests (%s);
INSERT INTO harvests SELECT seq, LPAD(seq %% 1000, 3, '0'), ELT(1 + seq %% 4, 'bean', 'leek', 'plum', 'honey'), (seq %% 500000) / 1000, '2024-01-01' + INTERVAL seq %% 300 DAY, SEC_TO_TIME(seq %% 86400), CONCAT('row ', seq, ' by the brook'), seq %% 2, CONCAT('steward ', seq %% 40), '2024-09-02 10:00:00' FROM seq_1_to_%d`, harvestColumns, rows))
	db, err := sql.Open("mysql", dsn)
	require.NoError(b, err)
	b.Cleanup(func() { db.Close() })
	return dsn, db
}

// watched begins to watch a database.
func watched(b testing.TB, dsn, way string) *database.Watcher {
	m, err := database.Open(context.Background(), "mariadb", dsn, nil)
	require.NoError(b, err)
	b.Cleanup(func() { m.Close() })
	require.Contains(b, m.Way(), way)
	require.NoError(b, m.Begin(context.Background()))
	return m
}

// What a case does to the table.
const (
	inserts = "INSERT INTO harvests (bed, crop, weight, picked, note) VALUES ('007', 'bean', 1.5, '2024-09-02', 'new')"
	updates = "UPDATE harvests SET note = CONCAT('looked at ', NOW(6)) WHERE id = 500"
)

// look is the time, in seconds, of a case that does something to the table and is looked at.
func look(b testing.TB, m *database.Watcher, db *sql.DB, does string) float64 {
	started := time.Now()
	if does != "" {
		_, err := db.Exec(does)
		require.NoError(b, err)
	}
	list, err := m.Changes(context.Background())
	require.NoError(b, err)
	took := time.Since(started).Seconds()
	require.Len(b, list, min(1, len(does)))
	return took
}

// BenchmarkWatching compares what a look costs with a small table and a large one, by the binary log and by comparing parts.
func BenchmarkWatching(b *testing.B) {
	fewDSN, few := filled(b, fewRows)
	manyDSN, many := filled(b, manyRows)
	small, large := watched(b, fewDSN, "read from the binary log"), watched(b, manyDSN, "read from the binary log")
	var ratios []float64
	for round := range 60 {
		does := []string{"", inserts, updates}[round%3]
		one, other := look(b, small, few, does), look(b, large, many, does)
		if round > 9 {
			ratios = append(ratios, other/one)
		}
	}
	line("a case's look by the binary log, 1,000,000 rows over 1,000", median(ratios), 2, "1.3")

	dbtest.Exec(b, manyDSN, "CREATE USER 'reader'@'%' IDENTIFIED BY 'reads';\nGRANT SELECT ON *.* TO 'reader'@'%'")
	cfg, err := mysql.ParseDSN(manyDSN)
	require.NoError(b, err)
	cfg.User, cfg.Passwd = "reader", "reads"
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	compared := watched(b, cfg.FormatDSN(), "compared by parts")
	runtime.GC()
	runtime.ReadMemStats(&after)
	line("memory kept to compare 1,000,000 rows, MB", float64(after.HeapAlloc-before.HeapAlloc)/1e6, 0, "100")
	plain := func() float64 {
		started := time.Now()
		var n, length int64
		require.NoError(b, many.QueryRow("SELECT COUNT(*), SUM(LENGTH(CONCAT_WS(',', id, bed, crop, weight, picked, at, note, taken, steward, logged))) FROM harvests").Scan(&n, &length))
		return time.Since(started).Seconds()
	}
	kinds := map[string]string{"changes nothing": "", "inserts a row": inserts, "changes a row": updates}
	by := map[string][]float64{}
	for range 5 {
		for name, does := range kinds {
			scan := plain()
			by[name] = append(by[name], look(b, compared, many, does)/scan)
		}
	}
	sum := 0.0
	for _, name := range slices.Sorted(maps.Keys(kinds)) {
		ratio := median(by[name])
		sum += ratio / float64(len(kinds))
		fmt.Printf("a look by comparing, in scans of the table, where a case %s: %.2f\n", name, ratio)
	}
	line("a look by comparing, in scans of the table, on average of these", sum, 2, "1.5")
}
