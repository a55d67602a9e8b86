package gate

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"runtime/debug"
	"strings"
	"time"

	"oddtick/server/incident"

	"github.com/gin-gonic/gin"
)

type requestKey struct{}

// RequestID is the id of the request that a context belongs to; a new one where it belongs to none.
func RequestID(ctx context.Context) string {
	if id, is := ctx.Value(requestKey{}).(string); is {
		return id
	}
	return incident.New()
}

// Logged writes a line to the log for each request of the API, under an id of its own.
func Logged(c *gin.Context) {
	id, began := incident.New(), time.Now()
	c.Request = c.Request.WithContext(context.WithValue(c.Request.Context(), requestKey{}, id))
	c.Next()
	if path := c.Request.URL.Path; strings.HasPrefix(path, "/api/") && !health[c.Request.Method+" "+path] {
		slog.Info("request", "id", id, "method", c.Request.Method, "path", path, "status", c.Writer.Status(), "bytes", c.Writer.Size(), "took", time.Since(began).Round(time.Microsecond), "from", c.ClientIP())
	}
}

const Failed = "Odd Tick failed on this request. Details are in its log under the reference %s."

// fail answers a request that failed before it reached the API.
func fail(c *gin.Context, status int, detail string, err error) {
	slog.Error("a request failed", "id", RequestID(c.Request.Context()), "status", status, "error", err, "method", c.Request.Method, "path", c.Request.URL.Path)
	refuse(c, status, detail)
}

func Recovered(c *gin.Context, cause any) {
	ref := RequestID(c.Request.Context())
	slog.Error("a request failed", "id", ref, "panic", fmt.Sprint(cause), "method", c.Request.Method, "path", c.Request.URL.Path, "stack", string(debug.Stack()))
	refuse(c, http.StatusInternalServerError, fmt.Sprintf(Failed, ref))
}
