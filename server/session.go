package server

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/hex"
	"errors"
	"net/http"
	"strings"
	"time"

	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
)

const (
	cookieName  = "oddtick"
	tokenHeader = "X-Oddtick-Token"
	userKey     = "user"
	tokenKey    = "token"
)

// recognise loads the session that the cookie names. Every request that changes something must carry the session's token, but
// for signing in, which has none yet.
func (s *Server) recognise(c *gin.Context) {
	if !strings.HasPrefix(c.Request.URL.Path, "/api/") {
		return
	}
	value, _ := c.Cookie(cookieName)
	ctx, err := s.sessions.Load(c.Request.Context(), value)
	if err != nil {
		c.AbortWithStatusJSON(http.StatusServiceUnavailable, gin.H{"title": "Service Unavailable", "status": 503, "detail": "The sessions cannot be read."})
		return
	}
	c.Request = c.Request.WithContext(ctx)
	if !changes(c.Request) {
		return
	}
	token := s.sessions.GetString(ctx, tokenKey)
	if token == "" || subtle.ConstantTimeCompare([]byte(token), []byte(c.GetHeader(tokenHeader))) != 1 {
		c.AbortWithStatusJSON(http.StatusForbidden, gin.H{"title": "Forbidden", "status": 403, "detail": "The request does not carry this session's token. Reload the page."})
	}
}

func changes(r *http.Request) bool {
	if r.Method == http.MethodGet || r.Method == http.MethodHead {
		return false
	}
	return r.Method != http.MethodPost || r.URL.Path != "/api/session"
}

// user is who is asking.
func (s *Server) user(ctx context.Context) (*store.User, error) {
	id := s.sessions.GetInt64(ctx, userKey)
	if id == 0 {
		return nil, huma.Error401Unauthorized("Sign in first.")
	}
	u, err := s.store.User(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error401Unauthorized("Sign in again.")
	}
	return u, err
}

type sessionView struct {
	Name  string `json:"name" doc:"who is signed in"`
	Token string `json:"token" doc:"goes into the X-Oddtick-Token header of every change"`
}

type sessionAnswer struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      sessionView
}

type signInRequest struct {
	Body struct {
		Name     string `json:"name" maxLength:"60"`
		Password string `json:"password" maxLength:"200"`
	}
}

func (s *Server) registerSession(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "sign-in", Method: http.MethodPost, Path: "/api/session", Summary: "Sign in"}, s.signIn)
	huma.Register(api, huma.Operation{OperationID: "who", Method: http.MethodGet, Path: "/api/session", Summary: "Who is signed in"}, func(ctx context.Context, _ *struct{}) (*struct{ Body sessionView }, error) {
		u, err := s.user(ctx)
		if err != nil {
			return nil, err
		}
		return &struct{ Body sessionView }{sessionView{u.Name, s.sessions.GetString(ctx, tokenKey)}}, nil
	})
	huma.Register(api, huma.Operation{OperationID: "sign-out", Method: http.MethodDelete, Path: "/api/session", Summary: "Sign out", DefaultStatus: http.StatusNoContent}, func(ctx context.Context, _ *struct{}) (*struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
	}, error,
	) {
		if err := s.sessions.Destroy(ctx); err != nil {
			return nil, err
		}
		return &struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
		}{sessionCookie("", time.Unix(1, 0))}, nil
	})
}

func (s *Server) signIn(ctx context.Context, in *signInRequest) (*sessionAnswer, error) {
	u, err := s.store.Authenticate(ctx, in.Body.Name, in.Body.Password)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error401Unauthorized("The name or the password is wrong.")
	}
	if err != nil {
		return nil, err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, err
	}
	raw := make([]byte, 16)
	_, _ = rand.Read(raw)
	token := hex.EncodeToString(raw)
	s.sessions.Put(ctx, userKey, u.ID)
	s.sessions.Put(ctx, tokenKey, token)
	value, expiry, err := s.sessions.Commit(ctx)
	if err != nil {
		return nil, err
	}
	return &sessionAnswer{SetCookie: sessionCookie(value, expiry), Body: sessionView{u.Name, token}}, nil
}

func sessionCookie(value string, expiry time.Time) http.Cookie {
	return http.Cookie{Name: cookieName, Value: value, Path: "/", Expires: expiry, HttpOnly: true, SameSite: http.SameSiteStrictMode}
}
