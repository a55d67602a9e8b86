package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"oddtick/core/document"
	"oddtick/core/spec"
	"oddtick/engine/target"
	"oddtick/observe/database"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// settingsView is a site without its secrets; which there are is told.
type settingsView struct {
	Site spec.Site `json:"site"`
	// Kept names the secrets that are kept: databases, accounts and headers by their names, and the authentication's password.
	Kept keptSecrets `json:"kept"`
	// KeptAt are those of the site's environments, by their ids.
	KeptAt map[string]keptSecrets `json:"kept_at"`
}

type keptSecrets struct {
	Databases      []keptDatabase `json:"databases"`
	Accounts       []string       `json:"accounts"`
	Headers        []string       `json:"headers"`
	Authentication bool           `json:"authentication"`
}

// keptDatabase says where a kept data source name leads, without its user and password.
type keptDatabase struct {
	ID   string `json:"id"`
	Kind string `json:"kind" doc:"empty where the data source name cannot be read"`
	Host string `json:"host" doc:"empty for SQLite"`
	Port string `json:"port" doc:"empty for SQLite"`
	Name string `json:"name" doc:"the database on its server, or the path of a SQLite file"`
}

// keptOf names the secrets of a site, or of one of its environments, whose databases still have theirs.
func keptOf(databases []spec.Database, secrets *spec.SiteSecrets) keptSecrets {
	out := keptSecrets{Databases: []keptDatabase{}, Accounts: keysOf(secrets.Accounts), Headers: keysOf(secrets.Headers), Authentication: secrets.Authentication != ""}
	for _, d := range databases {
		if d.DSN == "" {
			continue
		}
		to, _ := database.TargetOf(d.Kind, d.DSN)
		out.Databases = append(out.Databases, keptDatabase{d.ID, to.Kind, to.Host, to.Port, to.Name})
	}
	return out
}

type sitePath struct {
	Site string `path:"site"`
}

// settingsAPI answers requests.
type settingsAPI struct{ *Server }

func registerSettings(api huma.API, server *Server) {
	s := settingsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "getSettings", Tags: []string{"site"}, Method: http.MethodGet, Path: "/api/sites/{site}/settings", Summary: "A site's settings, without secrets"}, s.settings)
	huma.Register(api, huma.Operation{OperationID: "updateSettings", Tags: []string{"site"}, Method: http.MethodPut, Path: "/api/sites/{site}/settings", Summary: "Change a site's settings; empty secrets stay unchanged"}, s.putSettings)
	huma.Register(api, huma.Operation{OperationID: "getSiteDocument", Tags: []string{"site"}, Method: http.MethodGet, Path: "/api/sites/{site}/document", Summary: "A site's document as YAML, without secrets"}, s.document)
	huma.Register(api, huma.Operation{OperationID: "replaceSiteDocument", Tags: []string{"site"}, Method: http.MethodPut, Path: "/api/sites/{site}/document", Summary: "Replace a site's document; secrets that it does not hold stay unchanged", MaxBodyBytes: 8 << 20}, s.replaceDocument)
	huma.Register(api, huma.Operation{OperationID: "addSite", Tags: []string{"site"}, Method: http.MethodPost, Path: "/api/sites", Summary: "Create a site"}, s.addSite)
	huma.Register(api, huma.Operation{OperationID: "testConnection", Tags: []string{"site"}, Method: http.MethodPost, Path: "/api/sites/{site}/connection-test", Summary: "Test the connection to the site, its databases and accounts"}, s.reach)
}

// settingsAnswer carries the version that a change must name in If-Match.
type settingsAnswer struct {
	ETag string `header:"ETag"`
	Body settingsView
}

func (s settingsAPI) settings(ctx context.Context, in *sitePath) (*settingsAnswer, error) {
	_, known, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	version, err := s.store.SiteVersion(ctx, known.ID)
	if err != nil {
		return nil, err
	}
	site, err := s.store.SiteDocument(ctx, known.ID)
	if err != nil {
		return nil, err
	}
	open, secrets := site.Split()
	v := settingsView{Site: *open, Kept: keptOf(site.Databases, secrets), KeptAt: map[string]keptSecrets{}}
	for i := range site.Environments {
		e := &site.Environments[i]
		v.KeptAt[e.ID] = keptOf(e.Databases, secrets.Environments[e.ID])
	}
	return &settingsAnswer{ETag: `"` + version + `"`, Body: v}, nil
}

func keysOf(m map[string]string) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

type putSettingsRequest struct {
	Site    string `path:"site"`
	IfMatch string `header:"If-Match" doc:"the ETag of the settings from which these were made"`
	Body    spec.Site
}

func (s settingsAPI) putSettings(ctx context.Context, in *putSettingsRequest) (*settingsAnswer, error) {
	_, known, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	if in.IfMatch == "" {
		return nil, huma.NewError(http.StatusPreconditionRequired, "Send the ETag of the settings that you change in If-Match.")
	}
	if in.Body.Site != in.Site {
		return nil, huma.Error422UnprocessableEntity("The id of a site cannot change.")
	}
	old, err := s.store.SiteDocument(ctx, known.ID)
	if err != nil {
		return nil, err
	}
	if err := keepSecrets(&in.Body, old); err != nil {
		return nil, err
	}
	if err := s.wrongSettings(ctx, &in.Body); err != nil {
		return nil, err
	}
	source, err := s.store.SiteSource(ctx, known.ID)
	if err != nil {
		return nil, err
	}
	err = s.store.ReplaceSite(ctx, &in.Body, source, strings.Trim(in.IfMatch, `"`))
	if errors.Is(err, store.ErrStaleSite) {
		return nil, staleSettings(old, &in.Body)
	}
	if err != nil {
		return nil, err
	}
	return s.settings(ctx, &sitePath{in.Site})
}

type siteText struct {
	Text string `json:"text"`
}

// siteDocumentAnswer carries the version that a change must name in If-Match.
type siteDocumentAnswer struct {
	ETag string `header:"ETag"`
	Body siteText
}

func (s settingsAPI) document(ctx context.Context, in *sitePath) (*siteDocumentAnswer, error) {
	_, known, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	version, err := s.store.SiteVersion(ctx, known.ID)
	if err != nil {
		return nil, err
	}
	source, err := s.store.SiteSource(ctx, known.ID)
	return &siteDocumentAnswer{`"` + version + `"`, siteText{string(source)}}, err
}

type replaceSiteRequest struct {
	Site    string `path:"site"`
	IfMatch string `header:"If-Match" doc:"the ETag of the document from which this one was made"`
	Body    struct {
		Text    string `json:"text"`
		Preview bool   `json:"preview,omitempty" doc:"only check it; save nothing"`
	}
}

func (s settingsAPI) replaceDocument(ctx context.Context, in *replaceSiteRequest) (*siteDocumentAnswer, error) {
	_, known, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	if in.IfMatch == "" {
		return nil, huma.NewError(http.StatusPreconditionRequired, "Send the ETag of the document that you change in If-Match.")
	}
	project, err := spec.ReadProject([]spec.File{{Name: in.Site + ".yaml", Text: []byte(in.Body.Text)}})
	switch {
	case err != nil:
		return nil, unreadable(err)
	case project.Site == nil || len(project.Forms) > 0 || len(project.Cases) > 0:
		return nil, huma.Error422UnprocessableEntity("This is not the document of one site; import a project file under Sites.")
	case project.Site.Site != in.Site:
		return nil, huma.Error422UnprocessableEntity("The id of a site cannot change.")
	}
	old, err := s.store.SiteDocument(ctx, known.ID)
	if err != nil {
		return nil, err
	}
	if err := keepSecrets(project.Site, old); err != nil {
		return nil, err
	}
	if err := s.wrongSettings(ctx, project.Site); err != nil || in.Body.Preview {
		return &siteDocumentAnswer{in.IfMatch, siteText{in.Body.Text}}, err
	}
	err = s.store.ReplaceSite(ctx, project.Site, []byte(in.Body.Text), strings.Trim(in.IfMatch, `"`))
	if errors.Is(err, store.ErrStaleSite) {
		return nil, staleSettings(old, project.Site)
	}
	if err != nil {
		return nil, err
	}
	return s.document(ctx, &sitePath{in.Site})
}

// staleSettings says that the settings were saved meanwhile, and in which parts they differ from those that are sent.
func staleSettings(now, sent *spec.Site) error {
	return huma.Error409Conflict("The settings were saved in the meantime. They differ from yours in: " + strings.Join(document.DifferentParts(now, sent), ", ") + ". Reload the page, and make your change again.")
}

// keepSecrets takes secrets that are left empty from the site as it was; those that were entered for another address are asked for.
func keepSecrets(site, was *spec.Site) error {
	if err := target.CheckSite(site); err != nil { // of an address that is none, nothing is asked for
		return huma.Error422UnprocessableEntity(err.Error() + ".")
	}
	asked := site.Keep(was)
	if len(asked) == 0 {
		return nil
	}
	return huma.Error422UnprocessableEntity(fmt.Sprintf("These were entered for %s: %s. Enter them again for %s, or remove them.", was.Address, strings.Join(asked, ", "), site.Address))
}

type addSiteRequest struct {
	Body struct {
		ID      string `json:"id" pattern:"^[a-z][a-z0-9_]*$" maxLength:"60"`
		Title   string `json:"title,omitempty" maxLength:"200"`
		Address string `json:"address" maxLength:"2000"`
		DSN     string `json:"dsn,omitempty" maxLength:"2000" doc:"of the database whose tables are watched"`
	}
}

func (s settingsAPI) addSite(ctx context.Context, in *addSiteRequest) (*struct{ Body struct{} }, error) {
	if _, err := s.user(ctx); err != nil {
		return nil, err
	}
	if _, err := s.store.Site(ctx, in.Body.ID); !errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error409Conflict("There is a site " + in.Body.ID + " already.")
	}
	site := &spec.Site{Site: in.Body.ID, Title: in.Body.Title, Address: in.Body.Address}
	if in.Body.DSN != "" {
		site.Databases = []spec.Database{{ID: "main", DSN: in.Body.DSN}}
	}
	if err := s.wrongSettings(ctx, site); err != nil {
		return nil, err
	}
	_, err := s.store.PutSite(ctx, site, nil)
	return &struct{ Body struct{} }{}, err
}

type reachView struct {
	Checks []target.Reached `json:"checks"`
}

func (s settingsAPI) reach(ctx context.Context, in *sitePath) (*struct{ Body reachView }, error) {
	_, known, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	site, err := s.siteToContact(ctx, known.ID)
	if err != nil {
		return nil, err
	}
	return &struct{ Body reachView }{reachView{target.Reach(ctx, site)}}, nil
}
