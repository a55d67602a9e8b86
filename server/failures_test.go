package server_test

import (
	"bytes"
	"log/slog"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestARequestIsALineInTheLog, under the id that the answer to a failure names. It has the log to itself, as it does not run beside others.
func TestARequestIsALineInTheLog(t *testing.T) { //nolint:paralleltest // see there
	var log bytes.Buffer
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(&log, nil)))
	defer slog.SetDefault(before)
	c := start(t)
	c.signIn()
	require.Equal(t, http.StatusNoContent, c.get("/api/live", nil))
	_, err := c.store.DB().Exec("RENAME TABLE case_edits TO case_edits_away")
	require.NoError(t, err)
	status, _, body := c.send("GET", joinPath+"/cases", nil)
	require.Equal(t, http.StatusInternalServerError, status)
	id := regexp.MustCompile(`under the reference ([A-Z2-7]{10})\.`).FindStringSubmatch(string(body))
	require.Len(t, id, 2)
	var lines []string
	for line := range strings.Lines(log.String()) {
		if strings.Contains(line, "id="+id[1]) {
			lines = append(lines, line)
		}
	}
	require.Len(t, lines, 2, "what went wrong, once, and the request: %s", log.String())
	require.Contains(t, lines[0], "case_edits")
	require.Regexp(t, `msg=request .*method=GET path=`+joinPath+`/cases status=500 bytes=\d+ took=\S+ from=127.0.0.1`, lines[1])
	require.NotContains(t, log.String(), "path=/api/live")
}
