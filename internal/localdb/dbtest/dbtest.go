// Package dbtest gives a package's tests a MariaDB server of their own, which goes with them.
package dbtest

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"strings"
	"sync/atomic"
	"testing"

	"oddtick/internal/localdb"
)

var (
	server *localdb.Server
	count  atomic.Int64
)

// Main runs a package's tests with a server; call it from TestMain.
func Main(m *testing.M) {
	os.Exit(run(m))
}

func run(m *testing.M) int {
	dir, err := os.MkdirTemp("", "oddtick-test")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	server, err = localdb.Start(context.Background(), dir)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer server.Stop()
	return m.Run()
}

// DSN makes a database for one test, dropped when it ends, and returns its data source name.
func DSN(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("t%d", count.Add(1))
	Exec(t, server.DSN(""), "CREATE DATABASE "+name+" CHARACTER SET utf8mb4")
	t.Cleanup(func() { Exec(t, server.DSN(""), "DROP DATABASE "+name) })
	return server.DSN(name)
}

// Exec runs statements, parted by semicolons at line ends.
func Exec(t testing.TB, dsn, statements string) {
	t.Helper()
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, s := range strings.Split(statements, ";\n") {
		if strings.TrimSpace(s) == "" {
			continue
		}
		if _, err := db.Exec(s); err != nil {
			t.Fatalf("%s: %v", s, err)
		}
	}
}
