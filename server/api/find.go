package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"oddtick/core/spec"
	"oddtick/engine/target"
	"oddtick/server/forms"
	"oddtick/server/gate"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// FormPath names a form in an address.
type FormPath struct {
	Site string `path:"site" doc:"the site's id"`
	Form string `path:"form" doc:"the form's id"`
}

// find finds a form and its design, for somebody who is signed in.
func (s *Server) find(ctx context.Context, p FormPath) (*store.Form, *forms.Design, error) {
	f, err := s.findForm(ctx, p)
	if err != nil {
		return nil, nil, err
	}
	d, err := s.designs.Of(ctx, f, f.RevisionID)
	return f, d, err
}

// findForm finds a form, whether cases can be designed for it or not, for somebody who is signed in.
func (s *Server) findForm(ctx context.Context, p FormPath) (*store.Form, error) {
	if _, err := s.user(ctx); err != nil {
		return nil, err
	}
	f, err := s.store.Form(ctx, p.Site, p.Form)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound("There is no form " + p.Form + " of the site " + p.Site + ".")
	}
	return f, err
}

// RunPath names a run in an address.
type RunPath struct {
	FormPath
	Run int `path:"run" minimum:"0" doc:"the run's number; 0 is the newest"`
}

func (s *Server) findRun(ctx context.Context, p RunPath) (*store.Form, *forms.Design, *store.Run, error) {
	f, err := s.findForm(ctx, p.FormPath)
	if err != nil {
		return nil, nil, nil, err
	}
	run, err := s.store.RunByNumber(ctx, f.ID, p.Run)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, nil, huma.Error404NotFound(fmt.Sprintf("There is no run %d of this form.", p.Run))
	}
	if err != nil {
		return nil, nil, nil, err
	}
	d, err := s.designs.Of(ctx, f, run.RevisionID)
	return f, d, run, err
}

func (s *Server) findSite(ctx context.Context, ident string) (*store.User, *store.Site, error) {
	u, err := s.user(ctx)
	if err != nil {
		return nil, nil, err
	}
	site, err := s.store.Site(ctx, ident)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, huma.Error404NotFound("There is no site " + ident + ".")
	}
	return u, site, err
}

// user is who is asking.
func (s *Server) user(ctx context.Context) (*store.User, error) {
	if u := gate.SenderOf(ctx).User; u != nil {
		return u, nil
	}
	return nil, huma.Error401Unauthorized("Sign in first.")
}

// document is a site's with its secrets.
func (s *Server) siteOf(ctx context.Context, ident string) (*spec.Site, *store.Site, error) {
	_, known, err := s.findSite(ctx, ident)
	if err != nil {
		return nil, nil, err
	}
	site, err := s.store.SiteDocument(ctx, known.ID)
	return site, known, err
}

// mayContact tells what of a site this server may not contact.
func (s *Server) mayContact(ctx context.Context, site *spec.Site) error {
	if err := s.contact.Check(ctx, site); err != nil {
		return huma.Error422UnprocessableEntity(err.Error() + ".")
	}
	return nil
}

// siteToContact is a site's document with its secrets, to be contacted. What the administrator lets be contacted may have changed since
// the document was saved.
func (s *Server) siteToContact(ctx context.Context, id int64) (*spec.Site, error) {
	site, err := s.store.SiteDocument(ctx, id)
	if err != nil {
		return nil, err
	}
	return site, s.mayContact(ctx, site)
}

// siteIn is a site's document to be contacted in one of its environments, "" for its own address.
func (s *Server) siteIn(ctx context.Context, id int64, environment string) (*spec.Site, error) {
	site, err := s.siteToContact(ctx, id)
	if err != nil {
		return nil, err
	}
	return inEnvironment(site, environment, "body.environment")
}

// inEnvironment is a site in one of its environments; location is where in the request it is named.
func inEnvironment(site *spec.Site, environment, location string) (*spec.Site, error) {
	there, err := site.In(environment)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The site has no such environment.", &huma.ErrorDetail{Location: location, Message: err.Error()})
	}
	return there, nil
}

// mayStart refuses to start something in a protected environment whose id was not typed once more; location is where it belongs.
func mayStart(site *spec.Site, typed Confirmed, location string) error {
	if site.Protected() == spec.Confirm && typed.Confirmed != site.Environment() {
		return huma.Error422UnprocessableEntity("This environment is protected.", &huma.ErrorDetail{Location: location, Message: "type its id, " + site.Environment() + ", to run there"})
	}
	return nil
}

// SiteIn is a site in one of its environments.
type SiteIn struct {
	Site        string `path:"site"`
	Environment string `query:"environment" maxLength:"60" doc:"one of the site's environments; missing for its own address"`
}

// siteAt is a site's document in the environment that a request names, with all environments that it has.
func (s *Server) siteAt(ctx context.Context, in *SiteIn) (site *spec.Site, known *store.Site, all []environmentView, err error) {
	own, known, err := s.siteOf(ctx, in.Site)
	if err != nil {
		return nil, nil, nil, err
	}
	site, err = inEnvironment(own, in.Environment, "query.environment")
	return site, known, environmentsOf(own), err
}

// Confirmed is what was typed to confirm that a protected environment is meant.
type Confirmed struct {
	Confirmed string `query:"confirmed" maxLength:"60" doc:"the id of the environment, typed once more, where it asks for that"`
}

// SiteStart starts something in one of a site's environments.
type SiteStart struct {
	SiteIn
	Confirmed
}

// FormStart submits a form in one of its site's environments.
type FormStart struct {
	FormPath
	Environment string `query:"environment" maxLength:"60" doc:"one of the site's environments; missing for its own address"`
	Confirmed
}

// wrongSettings tells what of a site's settings cannot be used, before it is kept.
func (s *Server) wrongSettings(ctx context.Context, site *spec.Site) error {
	if err := target.CheckSite(site); err != nil {
		return huma.Error422UnprocessableEntity(err.Error() + ".")
	}
	if err := s.mayContact(ctx, site); err != nil {
		return err
	}
	for _, at := range site.Everywhere() {
		seen := map[string]bool{}
		for i := range at.Databases {
			d := &at.Databases[i]
			if d.ID == "" {
				d.ID = fmt.Sprintf("db%d", i+1)
			}
			if seen[d.ID] {
				return huma.Error422UnprocessableEntity("Two databases have the id " + d.ID + ".")
			}
			seen[d.ID] = true
		}
	}
	return nil
}

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
