// Package api answers requests: handlers by resource (huma on Gin), live events, and the built front end.
package api

import (
	"bytes"
	"context"
	"crypto/rand"
	"fmt"
	"io/fs"
	"net/http"
	"path"
	"slices"
	"strings"
	"sync"
	"time"

	"oddtick/formats/jsonfile"
	"oddtick/formats/result"
	"oddtick/server/contact"
	"oddtick/server/forms"
	"oddtick/server/gate"
	"oddtick/server/runner"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
)

// Server answers requests. Close it when done.
type Server struct {
	store    *store.Store
	runner   *runner.Runner
	designs  *forms.Kept
	mails    receivers
	lookings lookings
	siteRuns siteRuns
	gate     *gate.Gate
	contact  *contact.List
	handler  http.Handler
	closing  sync.Once
}

// Options are what an administrator sets. The zero value serves loopback alone.
type Options struct {
	Gate gate.Options
	// Contact is what sites may name; nil for loopback alone.
	Contact *contact.List
}

// New makes a server on a store; front is the built front end.
func New(st *store.Store, front fs.FS, o Options) (*Server, error) {
	engine := gin.New()
	if err := engine.SetTrustedProxies(o.Gate.Proxies); err != nil {
		return nil, fmt.Errorf("the addresses of trusted proxies: %w", err)
	}
	s := &Server{store: st, designs: forms.Keep(st), contact: o.Contact}
	if s.contact == nil {
		var err error
		if s.contact, err = contact.Read(""); err != nil {
			return nil, err
		}
	}
	s.runner = runner.New(st)
	var err error
	if s.gate, err = gate.New(st, o.Gate); err != nil {
		return nil, err
	}
	engine.Use(gate.Logged, gin.CustomRecoveryWithWriter(nil, gate.Recovered), s.gate.Pass)
	s.register(newAPI(engine))
	engine.NoRoute(frontEnd(front))
	s.handler = engine
	return s, nil
}

// KeepEvidence sets how many bytes the evidence of a run may take up: then answers and pictures are left out of further results, of what
// is odd only at twice as many.
func (s *Server) KeepEvidence(bytes int64) { s.runner.Evidence = bytes }

// ServeHTTP implements http.Handler.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// Close interrupts the runs under way, which go on when ResumeInterrupted is called at the next start, and waits for them.
func (s *Server) Close() {
	s.closing.Do(func() {
		s.lookings.close()
		s.siteRuns.close()
		s.runner.Close()
		s.mails.close()
		s.gate.Close()
	})
}

// schemas begins the names of schemas in the API's document.
const schemas = "#/components/schemas/"

func newAPI(engine *gin.Engine) huma.API {
	config := huma.DefaultConfig("Odd Tick", "1")
	config.Info.Description = "Designs and runs test cases for web forms."
	config.OpenAPIPath, config.DocsPath, config.SchemasPath = "/api/openapi", "", ""
	config.CreateHooks = nil // no $schema members in answers
	config.Info.Description += " A change needs the token of the session, as getSession gives it. What is wrong with a request is told as problem details (RFC 9457), each with the place in the request."
	config.Tags = tags
	format := huma.Format{Marshal: jsonfile.Write, Unmarshal: huma.DefaultJSONFormat.Unmarshal}
	config.Formats = map[string]huma.Format{"application/json": format, "json": format}
	config.Components.Schemas = huma.NewMapRegistry(schemas, result.TypeName)
	return humagin.New(engine, config)
}

// tags are the groups of operations.
var tags = []*huma.Tag{
	{Name: "site", Description: "Sites, their settings, access and journeys"},
	{Name: "documents", Description: "Forms, their documents and what contradicts in them"},
	{Name: "values", Description: "Reading a form from page, tables, schema or list, and submitting values by hand"},
	{Name: "cases", Description: "Test cases, their coverage and edits"},
	{Name: "runs", Description: "Runs, their results and reports"},
	{Name: "findings", Description: "What is odd in a run, its triage and its investigation"},
	{Name: "session", Description: "Signing in and out"},
	{Name: "health", Description: "Whether Odd Tick runs and is ready"},
}

// open are the operations for which nobody needs to be signed in.
var open = []string{"getLive", "getReady", "signIn", "checkFirstUserLink", "addFirstUser"}

// secure says of each operation what it needs: the session's cookie, and for a change its token.
func secure(doc *huma.OpenAPI) {
	doc.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"session": {Type: "apiKey", In: "cookie", Name: "__Host-oddtick", Description: "The session's cookie; named oddtick where Odd Tick is not served by HTTPS"},
		"token":   {Type: "apiKey", In: "header", Name: gate.TokenHeader, Description: "The session's token"},
	}
	for _, item := range doc.Paths {
		for _, op := range []*huma.Operation{item.Get, item.Post, item.Put, item.Delete} {
			if op == nil || slices.Contains(open, op.OperationID) {
				continue
			}
			needs := map[string][]string{"session": {}}
			if op != item.Get {
				needs["token"] = []string{}
			}
			op.Security = []map[string][]string{needs}
		}
	}
}

func init() { gin.SetMode(gin.ReleaseMode) }

// OpenAPI writes the API's description as YAML, without a store behind it.
func OpenAPI() ([]byte, error) {
	api := newAPI(gin.New())
	(&Server{}).register(api)
	return api.OpenAPI().YAML()
}

func (s *Server) register(api huma.API) {
	s.registerHealth(api)
	registerSession(api, s)
	registerSites(api, s)
	registerRemoval(api, s)
	registerPlaces(api, s)
	registerReadiness(api, s)
	registerSettings(api, s)
	registerForms(api, s)
	registerDocuments(api, s)
	registerImports(api, s)
	registerCases(api, s)
	registerCaseEdits(api, s)
	registerRuns(api, s)
	registerSiteRuns(api, s)
	registerByHand(api, s)
	registerEvents(api, s)
	registerReports(api, s)
	registerFindings(api, s)
	registerLongWork(api, s)
	registerBeyondForms(api, s)
	secure(api.OpenAPI())
	result.Enumerate(api.OpenAPI().Components.Schemas, schemas)
}

func (s *Server) registerHealth(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "getLive", Tags: []string{"health"}, Method: http.MethodGet, Path: "/api/live", Summary: "Whether Odd Tick runs", DefaultStatus: http.StatusNoContent}, func(context.Context, *struct{}) (*struct{}, error) {
		return nil, nil //nolint:nilnil // nothing to say
	})
	huma.Register(api, huma.Operation{OperationID: "getReady", Tags: []string{"health"}, Method: http.MethodGet, Path: "/api/ready", Summary: "Whether Odd Tick is ready: its database answers", DefaultStatus: http.StatusNoContent}, func(ctx context.Context, _ *struct{}) (*struct{}, error) {
		ctx, cancel := context.WithTimeout(ctx, readyWithin)
		defer cancel()
		if err := s.store.DB().PingContext(ctx); err != nil {
			return nil, huma.Error503ServiceUnavailable("Odd Tick's database does not answer.")
		}
		return nil, nil //nolint:nilnil // nothing to say
	})
}

// readyWithin is how long the database may take to answer.
const readyWithin = 2 * time.Second

// nonced is the page with a word of its own in the place where its styles look for one, so that the styles that a part of the page adds are
// known from those of anybody else (CSP, 'nonce-…').
func nonced(page []byte) (out []byte, nonce string) {
	nonce = rand.Text()
	return bytes.Replace(page, []byte(noncePlace), []byte(nonce), 1), nonce
}

// noncePlace stands in index.html where the nonce comes to stand.
const noncePlace = "ODDTICK-NONCE"

// frontEnd serves the built files; every other address that is not the API's is a view of the application.
func frontEnd(front fs.FS) gin.HandlerFunc {
	files := http.FileServerFS(front)
	return func(c *gin.Context) {
		name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
		if strings.HasPrefix(name, "api/") {
			c.JSON(http.StatusNotFound, gin.H{"title": "Not Found", "status": 404, "detail": "The API has no such address."})
			return
		}
		if info, err := fs.Stat(front, name); name != "" && err == nil && !info.IsDir() {
			if strings.HasPrefix(name, "assets/") {
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
			files.ServeHTTP(c.Writer, c.Request)
			return
		}
		page, err := fs.ReadFile(front, "index.html")
		if err != nil {
			c.String(http.StatusNotFound, "The front end is not built; run make build.")
			return
		}
		page, nonce := nonced(page)
		c.Header("Cache-Control", "no-store")
		c.Header("Content-Security-Policy", gate.Policy+"; style-src 'self' 'nonce-"+nonce+"'")
		c.Data(http.StatusOK, "text/html; charset=utf-8", page)
	}
}
