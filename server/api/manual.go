package api

import (
	"context"
	"encoding/base64"
	"fmt"
	"net/http"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/engine/manual"
	"oddtick/server/runner"

	"github.com/danielgtaylor/huma/v2"
)

type handRequest struct {
	RunPath
	Case string `query:"case" required:"true"`
}

type seenRequest struct {
	RunPath
	Body struct {
		Case    string        `json:"case"`
		Verdict judge.Verdict `json:"verdict" enum:"as expected,odd,not observed"`
		Note    string        `json:"note,omitempty" maxLength:"2000"`
		Picture string        `json:"picture,omitempty" maxLength:"8000000" doc:"JPEG or PNG in base64"`
	}
}

type changesView struct {
	Changes []observation.Change `json:"changes"`
}

type seenAnswer struct {
	Body struct {
		All bool `json:"all" doc:"all cases of the run are done"`
	}
}

// manualRunsAPI answers requests.
type manualRunsAPI struct{ *Server }

func registerByHand(api huma.API, server *Server) {
	s := manualRunsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "getManualCase", Tags: []string{"runs"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs/{run}/manual-case", Summary: "A case for a person to submit; database changes from now on belong to it"}, s.handed)
	huma.Register(api, huma.Operation{OperationID: "getManualChanges", Tags: []string{"runs"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/runs/{run}/manual-changes", Summary: "What changed in the watched tables since a case was handed to a person"}, s.changes)
	huma.Register(api, huma.Operation{OperationID: "recordManualVerdict", Tags: []string{"runs"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs/{run}/manual-verdict", Summary: "Record what a person saw", MaxBodyBytes: 12 << 20}, s.seenByHand)
}

func (s manualRunsAPI) handRun(ctx context.Context, p RunPath) (*runner.Manual, error) {
	_, _, run, err := s.findRun(ctx, p)
	if err != nil {
		return nil, err
	}
	h := s.runner.ByHand(run.ID)
	if h == nil {
		return nil, huma.Error409Conflict(fmt.Sprintf("Run %d is not a manual run in progress; resume it, or start another.", run.Number))
	}
	return h, nil
}

func (s manualRunsAPI) handed(ctx context.Context, in *handRequest) (*struct{ Body *manual.Instructions }, error) {
	a, err := s.handRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	out, err := a.Hand(ctx, in.Case)
	return &struct{ Body *manual.Instructions }{out}, err
}

func (s manualRunsAPI) changes(ctx context.Context, in *handRequest) (*struct{ Body changesView }, error) {
	a, err := s.handRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	changes, err := a.Changes(ctx, in.Case)
	return &struct{ Body changesView }{changesView{changes}}, err
}

func (s manualRunsAPI) seenByHand(ctx context.Context, in *seenRequest) (*seenAnswer, error) {
	a, err := s.handRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	picture, err := base64.StdEncoding.DecodeString(in.Body.Picture)
	if err == nil && len(picture) > 0 && !strings.HasPrefix(http.DetectContentType(picture), "image/") {
		err = fmt.Errorf("it is %s", http.DetectContentType(picture))
	}
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The picture cannot be read: " + err.Error() + ". Take a JPEG or PNG file.")
	}
	note := strings.TrimSpace(in.Body.Note)
	if in.Body.Verdict == judge.NotObserved && note == "" {
		note = "skipped by " + u.Name
	}
	out := &seenAnswer{}
	out.Body.All, err = a.Observe(ctx, in.Body.Case, manual.Seen{Verdict: in.Body.Verdict, Note: note, Picture: picture})
	if out.Body.All {
		a.Stop()
	}
	return out, err
}
