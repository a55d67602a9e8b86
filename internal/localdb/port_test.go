package localdb

import (
	"net"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestAPortThatIsTakenMeanwhile, be it by another MariaDB, is told from any other reason why a server does not start.
func TestAPortThatIsTakenMeanwhile(t *testing.T) {
	t.Parallel()
	first, err := Start(t.Context(), filepath.Join(t.TempDir(), "first"))
	require.NoError(t, err)
	defer first.Stop()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	dir := filepath.Join(t.TempDir(), "second")
	require.NoError(t, makeData(t.Context(), dir, filepath.Join(dir, "data")))
	for _, port := range []int{first.Port, l.Addr().(*net.TCPAddr).Port} {
		_, err := startAt(t.Context(), dir, filepath.Join(dir, "data"), port, nil)
		require.ErrorIs(t, err, errPortTaken)
	}
}
