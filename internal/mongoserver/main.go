// Command mongoserver serves MongoDB's protocol on loopback, for tests: documents kept in SQLite files of a folder. It is a module of its
// own, as nothing else needs what it is made of. It prints its address, and ends with its standard input.
package main

import (
	"context"
	"fmt"
	"io"
	"os"

	"github.com/FerretDB/FerretDB/ferretdb"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "mongoserver: name the folder that documents are kept in")
		os.Exit(2)
	}
	server, err := ferretdb.New(&ferretdb.Config{Listener: ferretdb.ListenerConfig{TCP: "127.0.0.1:0"}, Handler: "sqlite", SQLiteURL: "file:" + os.Args[1] + "/"})
	if err != nil {
		fmt.Fprintln(os.Stderr, "mongoserver:", err)
		os.Exit(2)
	}
	ctx, stop := context.WithCancel(context.Background())
	go func() {
		_, _ = io.Copy(io.Discard, os.Stdin) // until whoever began it is gone
		stop()
	}()
	go func() { fmt.Println(server.MongoDBURI()) }() // which waits until it listens
	if err := server.Run(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "mongoserver:", err)
		os.Exit(2)
	}
}
