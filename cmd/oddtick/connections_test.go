package main

import (
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"oddtick/cmd/oddtick/serving"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAttackConnectionsThatAreHeldOpen: neither one whose headers come a byte at a time nor one that is idle is kept.
func TestAttackConnectionsThatAreHeldOpen(t *testing.T) {
	t.Parallel()
	l, err := serving.Listen("127.0.0.1:0")
	require.NoError(t, err)
	ctx, stop := context.WithCancel(t.Context())
	ended := make(chan error, 1)
	go func() {
		ended <- serving.Serve(ctx, l, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "here") }))
	}()
	var all sync.WaitGroup
	open := func(most time.Duration, speak func(net.Conn, <-chan struct{})) {
		all.Go(func() {
			conn, err := net.Dial("tcp", l.Addr().String())
			if !assert.NoError(t, err) {
				return
			}
			defer conn.Close()
			over := make(chan struct{})
			defer close(over)
			go speak(conn, over)
			began := time.Now()
			_ = conn.SetReadDeadline(began.Add(2 * most))
			_, err = io.Copy(io.Discard, conn)
			assert.NotErrorIs(t, err, context.DeadlineExceeded)
			assert.Less(t, time.Since(began), most)
		})
	}
	for range 20 {
		open(13*time.Second, func(conn net.Conn, over <-chan struct{}) {
			for _, b := range []byte("GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: " + strings.Repeat("x", 200)) {
				if _, err := conn.Write([]byte{b}); err != nil {
					return
				}
				select {
				case <-over:
					return
				case <-time.After(200 * time.Millisecond):
				}
			}
		})
	}
	for range 100 {
		open(25*time.Second, func(conn net.Conn, _ <-chan struct{}) {
			fmt.Fprint(conn, "GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
		})
	}
	all.Wait()
	stop()
	require.NoError(t, <-ended)
}
