package store_test

import (
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"testing"

	"oddtick/server/store"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
)

// TestWhichErrorsAreWaitedFor: those of a database that does not answer, not those of a statement that it refuses.
func TestWhichErrorsAreWaitedFor(t *testing.T) {
	t.Parallel()
	refused := func(number uint16) error { return fmt.Errorf("keep it: %w", &mysql.MySQLError{Number: number}) }
	for _, err := range []error{
		mysql.ErrInvalidConn, driver.ErrBadConn, io.EOF, fmt.Errorf("read: %w", io.ErrUnexpectedEOF), &net.OpError{Op: "dial", Err: errors.New("connection refused")}, refused(1053), refused(1927),
	} {
		require.True(t, store.Unreachable(err), "%v", err)
		require.False(t, store.Duplicate(err))
	}
	for _, err := range []error{nil, errors.New("no"), refused(1062), refused(1146), store.ErrNotFound} {
		require.False(t, store.Unreachable(err), "%v", err)
	}
	require.True(t, store.Duplicate(refused(1062)))
}
