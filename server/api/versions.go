package api

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"
)

// etag writes a version as an answer carries it.
func etag(version int64) string { return fmt.Sprintf("%q", strconv.FormatInt(version, 10)) }

// versionOf reads the version that a change names in If-Match.
func versionOf(ifMatch string) (int64, error) {
	if ifMatch == "" {
		return 0, huma.NewError(http.StatusPreconditionRequired, "Send the ETag of what you change in If-Match.")
	}
	n, err := strconv.ParseInt(strings.Trim(ifMatch, `"`), 10, 64)
	if err != nil || n < 0 {
		return 0, huma.NewError(http.StatusPreconditionFailed, "The ETag in If-Match is not valid.")
	}
	return n, nil
}
