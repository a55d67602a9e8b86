package server

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"runtime/debug"
	"strings"
	"time"

	"oddtick/server/compute"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
)

// reference names one request or failure, in the log and to whoever met it.
func reference() string { return rand.Text()[:10] }

type requestKey struct{}

// requestID is the id of the request that a context belongs to; a new one where it belongs to none.
func requestID(ctx context.Context) string {
	if id, is := ctx.Value(requestKey{}).(string); is {
		return id
	}
	return reference()
}

// logged writes a line to the log for each request of the API, under an id of its own.
func logged(c *gin.Context) {
	id, began := reference(), time.Now()
	c.Request = c.Request.WithContext(context.WithValue(c.Request.Context(), requestKey{}, id))
	c.Next()
	if path := c.Request.URL.Path; strings.HasPrefix(path, "/api/") && !health[c.Request.Method+" "+path] {
		slog.Info("request", "id", id, "method", c.Request.Method, "path", path, "status", c.Writer.Status(), "bytes", c.Writer.Size(), "took", time.Since(began).Round(time.Microsecond), "from", c.ClientIP())
	}
}

const failed = "Odd Tick failed on this request. Its log tells more under the reference %s."

// What goes wrong inside is logged once, and answered with its reference alone.
func init() {
	plain := huma.NewErrorWithContext
	huma.NewErrorWithContext = func(ctx huma.Context, status int, msg string, errs ...error) huma.StatusError {
		if status != http.StatusInternalServerError {
			return plain(ctx, status, msg, errs...)
		}
		err := errors.Join(errs...)
		var unmade *notReadyError
		if errors.As(err, &unmade) {
			return unmade.answer()
		}
		var tooLong *compute.TooLongError
		if errors.As(err, &tooLong) {
			return plain(ctx, http.StatusUnprocessableEntity, "This could not be computed: "+tooLong.Error()+". Choose less of it, such as a lower strength.")
		}
		if store.Unreachable(err) {
			slog.Error("Odd Tick's database does not answer", "error", err)
			return plain(ctx, http.StatusServiceUnavailable, "Odd Tick's database does not answer. Try again in a moment.")
		}
		ref := requestID(ctx.Context())
		if !errors.Is(err, context.Canceled) { // the client has gone
			slog.Error("a request failed", "id", ref, "error", err, "method", ctx.Method(), "path", ctx.URL().Path)
		}
		return plain(ctx, status, fmt.Sprintf(failed, ref))
	}
}

// notReady is the problem type of a form that must be mended before cases can be designed for it.
const notReady = "/problems/form-not-ready"

// answer tells what is wrong with the form.
func (e *notReadyError) answer() huma.StatusError {
	return &huma.ErrorModel{
		Type: notReady, Title: http.StatusText(http.StatusConflict), Status: http.StatusConflict,
		Detail: "No cases can be designed for this form: " + e.Error() + ".", Errors: detailsOf(e),
	}
}

// fail answers a request that failed before it reached the API.
func (s *Server) fail(c *gin.Context, status int, detail string, err error) {
	slog.Error("a request failed", "id", requestID(c.Request.Context()), "status", status, "error", err, "method", c.Request.Method, "path", c.Request.URL.Path)
	refuse(c, status, detail)
}

func recovered(c *gin.Context, cause any) {
	ref := requestID(c.Request.Context())
	slog.Error("a request failed", "id", ref, "panic", fmt.Sprint(cause), "method", c.Request.Method, "path", c.Request.URL.Path, "stack", string(debug.Stack()))
	refuse(c, http.StatusInternalServerError, fmt.Sprintf(failed, ref))
}
