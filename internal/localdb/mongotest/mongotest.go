// Package mongotest gives a test a server of MongoDB's protocol on loopback, which goes with it.
package mongotest

import (
	"bufio"
	"bytes"
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"go.mongodb.org/mongo-driver/v2/mongo"
	"go.mongodb.org/mongo-driver/v2/mongo/options"
)

// binary builds the server once; it is a module of its own.
var binary = sync.OnceValues(func() (string, error) {
	_, here, _, _ := runtime.Caller(0)
	module := filepath.Join(filepath.Dir(here), "..", "..", "mongoserver")
	folder, err := os.MkdirTemp("", "oddtick-mongo-")
	if err != nil {
		return "", err
	}
	file := filepath.Join(folder, "mongoserver")
	build := exec.Command("go", "build", "-C", module, "-o", file, ".")
	if says, err := build.CombinedOutput(); err != nil {
		return "", &os.PathError{Op: "go build: " + string(bytes.TrimSpace(says)), Path: module, Err: err}
	}
	return file, nil
})

// DSN starts a server and returns the data source name of an empty database, with a client of its own.
func DSN(t testing.TB) (string, *mongo.Database) {
	t.Helper()
	file, err := binary()
	if err != nil {
		t.Fatal(err)
	}
	server := exec.Command(file, t.TempDir())
	input, err := server.StdinPipe()
	if err != nil {
		t.Fatal(err)
	}
	output, err := server.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := server.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_ = input.Close() // which ends it
		over := time.AfterFunc(10*time.Second, func() { _ = server.Process.Kill() })
		_ = server.Wait()
		over.Stop()
	})
	line, err := bufio.NewReader(output).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	dsn := strings.TrimRight(strings.TrimSpace(line), "/") + "/fen"
	client, err := mongo.Connect(options.Client().ApplyURI(dsn))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = client.Disconnect(context.Background()) })
	return dsn, client.Database("fen")
}
