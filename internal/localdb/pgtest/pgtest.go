// Package pgtest gives a test a PostgreSQL server of its own on loopback, which goes with it.
package pgtest

import (
	"bytes"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"oddtick/internal/localdb"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver
)

// DSN starts a server and returns the data source name of an empty database.
func DSN(t testing.TB) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "oddtick-pg-")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	// the server refuses to run as root, and then runs as the user that its package has made
	if os.Geteuid() == 0 {
		run(t, "chown", "postgres", dir)
	}
	data := filepath.Join(dir, "data")
	run(t, as(binary(t, "initdb"), "-D", data, "-U", "keeper", "-A", "trust", "-E", "UTF8", "--locale=C", "--no-sync")...)
	port, err := localdb.FreePort()
	if err != nil {
		t.Fatal(err)
	}
	args := as(binary(t, "postgres"), "-D", data, "-h", "127.0.0.1", "-p", fmt.Sprint(port), "-k", dir, "-c", "fsync=off")
	server := exec.Command(args[0], args[1:]...)
	var says bytes.Buffer
	server.Stderr = &says
	if err := server.Start(); err != nil {
		t.Fatal(err)
	}
	ended := make(chan error, 1)
	go func() { ended <- server.Wait() }()
	t.Cleanup(func() {
		_ = server.Process.Signal(os.Interrupt)
		select {
		case <-ended:
		case <-time.After(10 * time.Second):
			_ = server.Process.Kill()
		}
	})
	dsn := fmt.Sprintf("postgres://keeper@127.0.0.1:%d/postgres", port)
	db, err := sql.Open("pgx", dsn)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for until := time.Now().Add(20 * time.Second); db.Ping() != nil; time.Sleep(30 * time.Millisecond) {
		if time.Now().After(until) {
			t.Fatalf("PostgreSQL does not come up: %s", says.String())
		}
	}
	return dsn
}

func as(command ...string) []string {
	if os.Geteuid() == 0 {
		return append([]string{"setpriv", "--reuid=postgres", "--regid=postgres", "--clear-groups", "--pdeathsig=INT"}, command...)
	}
	return command
}

func run(t testing.TB, command ...string) {
	t.Helper()
	cmd := exec.Command(command[0], command[1:]...)
	cmd.Dir = "/"
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%s: %v: %s", strings.Join(command, " "), err, out)
	}
}

// binary finds a program of the server, which Debian keeps in a folder for each version.
func binary(t testing.TB, name string) string {
	t.Helper()
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/" + name)
	if len(found) == 0 {
		t.Fatalf("there is no %s; make install installs PostgreSQL", name)
	}
	return found[len(found)-1]
}
