package api

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"

	"oddtick/core/investigate"
	"oddtick/engine/target"
	"oddtick/server/compute"
	"oddtick/server/forms"
	"oddtick/server/gate"
	"oddtick/server/lease"
	"oddtick/server/runner"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// What goes wrong inside is logged once, and answered with its reference alone.
func init() {
	plain := huma.NewErrorWithContext
	huma.NewErrorWithContext = func(ctx huma.Context, status int, msg string, errs ...error) huma.StatusError {
		if status != http.StatusInternalServerError {
			return plain(ctx, status, msg, errs...)
		}
		err := errors.Join(errs...)
		var unmade *forms.NotReadyError
		if errors.As(err, &unmade) {
			return notReadyAnswer(unmade)
		}
		var tooLong *compute.TooLongError
		if errors.As(err, &tooLong) {
			return plain(ctx, http.StatusUnprocessableEntity, "This could not be computed: "+tooLong.Error()+". Reduce it, for example with a lower strength.")
		}
		if store.Unreachable(err) {
			slog.Error("Odd Tick's database does not answer", "error", err)
			return plain(ctx, http.StatusServiceUnavailable, "Odd Tick's database does not answer. Try again in a moment.")
		}
		ref := gate.RequestID(ctx.Context())
		if !errors.Is(err, context.Canceled) { // the client has gone
			slog.Error("a request failed", "id", ref, "error", err, "method", ctx.Method(), "path", ctx.URL().Path)
		}
		return plain(ctx, status, fmt.Sprintf(gate.Failed, ref))
	}
}

// notReady is the problem type of a form that must be mended before cases can be designed for it.
const notReady = "/problems/form-not-ready"

// notReadyAnswer tells what is wrong with the form.
func notReadyAnswer(e *forms.NotReadyError) huma.StatusError {
	return &huma.ErrorModel{
		Type: notReady, Title: http.StatusText(http.StatusConflict), Status: http.StatusConflict,
		Detail: "No cases can be designed for this form: " + e.Error() + ".", Errors: detailsOf(e),
	}
}

// refuseHeld answers who asks for a site that is held, or of a server that ends.
func refuseHeld(err error) error {
	var by *lease.HeldError
	switch {
	case errors.As(err, &by):
		return huma.Error409Conflict(fmt.Sprintf("A run of %s is in progress at the same address or database. Two runs at once could not tell their rows apart: wait for it, or stop it.", by.About))
	case errors.Is(err, runner.ErrMoved):
		return huma.Error409Conflict("This run has continued or ended in the meantime. Reload the page.")
	case errors.Is(err, runner.ErrEnding):
		return huma.Error503ServiceUnavailable("Odd Tick is shutting down. Try again when it is back.")
	}
	return err
}

// lostOr is an error of work that was done while something was held, or that it is held no more.
func lostOr(work context.Context, err error) error {
	if errors.Is(context.Cause(work), lease.ErrLost) {
		return huma.Error409Conflict("It could not continue: " + lease.ErrLost.Error() + ". Try again.")
	}
	return err
}

// cannotRun is what the site or its document lacks, as an answer; any other error stays one of Odd Tick's own.
func cannotRun(err error) error {
	var cannot *target.CannotRunError
	var unknown *investigate.CannotError
	switch {
	case errors.As(err, &cannot):
		return huma.Error422UnprocessableEntity(cannot.Reason + ".")
	case errors.As(err, &unknown):
		return huma.Error422UnprocessableEntity(unknown.Reason + ".")
	}
	return err
}
