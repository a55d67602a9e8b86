package api

import (
	"context"
	"crypto/rand"
	"errors"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"oddtick/server/gate"
	"oddtick/server/passwords"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

type sessionView struct {
	Name  string `json:"name" doc:"who is signed in"`
	Token string `json:"token" doc:"sent in the X-Oddtick-Token header of every change"`
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

type newPasswordRequest struct {
	Body struct {
		Present string `json:"present" maxLength:"200" doc:"the current password"`
		New     string `json:"new" maxLength:"1000" doc:"at least 12 characters, and hard to guess"`
	}
}

type presentRequest struct {
	Body struct {
		Present string `json:"present" maxLength:"200" doc:"the current password"`
	}
}

// openSession is a session of the user who asks.
type openSession struct {
	ID      string    `json:"id"`
	Begun   time.Time `json:"begun"`
	Address string    `json:"address" doc:"address that signed in"`
	Agent   string    `json:"agent" doc:"user agent of the browser"`
	Here    bool      `json:"here" doc:"the session of this request"`
}

type endSessionRequest struct {
	Session string `path:"session" maxLength:"43"`
	presentRequest
}

type linkRequest struct {
	Body struct {
		Link string `json:"link" maxLength:"100" doc:"the part after # of the link that oddtick serve printed"`
	}
}

type firstUserRequest struct {
	Body struct {
		Link     string `json:"link" maxLength:"100" doc:"the part after # of the link that oddtick serve printed"`
		Name     string `json:"name" maxLength:"300"`
		Password string `json:"password" maxLength:"1000" doc:"at least 12 characters, and hard to guess"`
	}
}

// sessionsAPI answers requests.
type sessionsAPI struct{ *Server }

func registerSession(api huma.API, server *Server) {
	s := sessionsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "signIn", Tags: []string{"session"}, Method: http.MethodPost, Path: "/api/session", Summary: "Sign in"}, s.signIn)
	huma.Register(api, huma.Operation{OperationID: "getSession", Tags: []string{"session"}, Method: http.MethodGet, Path: "/api/session", Summary: "Who is signed in"}, func(ctx context.Context, _ *struct{}) (*struct{ Body sessionView }, error) {
		u, err := s.user(ctx)
		if err != nil {
			return nil, err
		}
		return &struct{ Body sessionView }{sessionView{u.Name, s.gate.Sessions.GetString(ctx, gate.TokenKey)}}, nil
	})
	huma.Register(api, huma.Operation{OperationID: "signOut", Tags: []string{"session"}, Method: http.MethodDelete, Path: "/api/session", Summary: "Sign out", DefaultStatus: http.StatusNoContent}, func(ctx context.Context, _ *struct{}) (*struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
	}, error,
	) {
		if err := s.gate.Sessions.Destroy(ctx); err != nil {
			return nil, err
		}
		return &struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
		}{sessionCookie(ctx, "", time.Unix(1, 0))}, nil
	})
	huma.Register(api, huma.Operation{OperationID: "changePassword", Tags: []string{"session"}, Method: http.MethodPut, Path: "/api/session/password", Summary: "Change your password; all your other sessions end"}, s.changePassword)
	huma.Register(api, huma.Operation{OperationID: "endOtherSessions", Tags: []string{"session"}, Method: http.MethodPost, Path: "/api/sessions/end-others", Summary: "End all your other sessions"}, s.endOthers)
	huma.Register(api, huma.Operation{OperationID: "listSessions", Tags: []string{"session"}, Method: http.MethodGet, Path: "/api/sessions", Summary: "Your sessions, the newest first"}, s.openSessions)
	huma.Register(api, huma.Operation{OperationID: "endSession", Tags: []string{"session"}, Method: http.MethodPost, Path: "/api/sessions/{session}/end", Summary: "End one of your other sessions", DefaultStatus: http.StatusNoContent}, s.endSession)
	huma.Register(api, huma.Operation{OperationID: "checkFirstUserLink", Tags: []string{"session"}, Method: http.MethodPost, Path: "/api/first-user/link", Summary: "Whether the link for the first user still works", DefaultStatus: http.StatusNoContent}, s.checkLink)
	huma.Register(api, huma.Operation{OperationID: "addFirstUser", Tags: []string{"session"}, Method: http.MethodPost, Path: "/api/first-user", Summary: "Set the first user's name and password, and sign in"}, s.addFirstUser)
}

func (s sessionsAPI) signIn(ctx context.Context, in *signInRequest) (*sessionAnswer, error) {
	var u *store.User
	err := s.gate.Throttle.Attempt(in.Body.Name, gate.SenderOf(ctx).Address, func() (err error) {
		u, err = s.store.Authenticate(ctx, in.Body.Name, in.Body.Password)
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		s.logRefused(ctx, in.Body.Name)
		return nil, huma.Error401Unauthorized("The name or the password is wrong.")
	}
	if err != nil {
		return nil, err
	}
	slog.Info("somebody signed in", "user", u.Name, "from", gate.SenderOf(ctx).Address)
	return s.begin(ctx, u)
}

// logRefused logs a sign-in that was refused. A name that nobody has may be a password that was typed into the wrong field.
func (s sessionsAPI) logRefused(ctx context.Context, name string) {
	if u, err := s.store.UserNamed(ctx, name); err == nil {
		name = u.Name
	} else {
		name = "none of the users"
	}
	slog.Warn("a sign-in was refused", "user", name, "from", gate.SenderOf(ctx).Address)
}

// proven checks a user's password once more, before something that whoever sits at an open screen must not do. place is where it stands.
func (s sessionsAPI) proven(ctx context.Context, password, place string) (*store.User, error) {
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	err = s.gate.Throttle.Attempt(u.Name, gate.SenderOf(ctx).Address, func() error {
		_, err := s.store.Authenticate(ctx, u.Name, password)
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		slog.Warn("a password was refused", "user", u.Name, "from", gate.SenderOf(ctx).Address)
		return nil, wrong(place, "That is not your current password.")
	}
	return u, err
}

func (s sessionsAPI) endOthers(ctx context.Context, in *presentRequest) (*sessionAnswer, error) {
	u, err := s.proven(ctx, in.Body.Present, "body.present")
	if err != nil {
		return nil, err
	}
	if err := s.store.EndSessions(ctx, u.ID); err != nil {
		return nil, err
	}
	slog.Info("a user ended their other sessions", "user", u.Name, "from", gate.SenderOf(ctx).Address)
	if u, err = s.store.User(ctx, u.ID); err != nil {
		return nil, err
	}
	return s.begin(ctx, u)
}

// openSessions lists the sessions of the signed-in user, the newest first.
func (s sessionsAPI) openSessions(ctx context.Context, _ *struct{}) (*struct{ Body []openSession }, error) {
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	here, out := gate.StoredToken(s.gate.Sessions.Token(ctx)), []openSession{}
	err = s.gate.Sessions.Iterate(ctx, func(one context.Context) error {
		if s.gate.Sessions.GetInt64(one, gate.UserKey) != u.ID || s.gate.Sessions.GetInt(one, gate.VersionKey) != u.SessionVersion {
			return nil // somebody else's, or over
		}
		begun := s.gate.Sessions.Deadline(one).Add(-s.gate.Sessions.Lifetime).UTC() // a deadline is set when a session begins
		id := s.gate.Sessions.Token(one)
		out = append(out, openSession{id, begun, s.gate.Sessions.GetString(one, gate.AddressKey), s.gate.Sessions.GetString(one, gate.AgentKey), id == here})
		return nil
	})
	slices.SortFunc(out, func(a, b openSession) int { return b.Begun.Compare(a.Begun) })
	return &struct{ Body []openSession }{out}, err
}

func (s sessionsAPI) endSession(ctx context.Context, in *endSessionRequest) (*struct{}, error) {
	u, err := s.proven(ctx, in.Body.Present, "body.present")
	if err != nil {
		return nil, err
	}
	own, err := s.openSessions(ctx, nil)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(own.Body, func(o openSession) bool { return o.ID == in.Session && !o.Here }) {
		return nil, huma.Error404NotFound("You have no such other session; it may have ended.")
	}
	slog.Info("a user ended one of their other sessions", "user", u.Name, "from", gate.SenderOf(ctx).Address)
	return nil, s.store.EndSession(ctx, in.Session)
}

// maxAgentLength is how much is kept of what a browser calls itself, in bytes.
const maxAgentLength = 300

// begin begins a session of a user, in place of the one that the request came with.
func (s sessionsAPI) begin(ctx context.Context, u *store.User) (*sessionAnswer, error) {
	if err := s.gate.Sessions.RenewToken(ctx); err != nil {
		return nil, err
	}
	token := rand.Text()
	s.gate.Sessions.Put(ctx, gate.UserKey, u.ID)
	s.gate.Sessions.Put(ctx, gate.VersionKey, u.SessionVersion)
	s.gate.Sessions.Put(ctx, gate.TokenKey, token)
	s.gate.Sessions.Put(ctx, gate.AddressKey, gate.SenderOf(ctx).Address)
	agent := gate.SenderOf(ctx).Agent
	s.gate.Sessions.Put(ctx, gate.AgentKey, strings.ToValidUTF8(agent[:min(len(agent), maxAgentLength)], ""))
	value, _, err := s.gate.Sessions.Commit(ctx)
	if err != nil {
		return nil, err
	}
	return &sessionAnswer{SetCookie: sessionCookie(ctx, value, s.gate.Sessions.Deadline(ctx)), Body: sessionView{u.Name, token}}, nil
}

func sessionCookie(ctx context.Context, value string, expiry time.Time) http.Cookie {
	from := gate.SenderOf(ctx)
	return http.Cookie{Name: from.CookieName(), Value: value, Path: "/", Expires: expiry, HttpOnly: true, Secure: from.Secure, SameSite: http.SameSiteStrictMode}
}

func (s sessionsAPI) changePassword(ctx context.Context, in *newPasswordRequest) (*sessionAnswer, error) {
	u, err := s.proven(ctx, in.Body.Present, "body.present")
	if err != nil {
		return nil, err
	}
	if in.Body.New == in.Body.Present {
		return nil, wrong("body.new", "The new password is the same as the current one.")
	}
	if err := passwords.Check(in.Body.New, u.Name); err != nil {
		return nil, wrong("body.new", err.Error())
	}
	if err := s.store.SetPassword(ctx, u.ID, in.Body.New); err != nil {
		return nil, err
	}
	slog.Info("a password was changed", "user", u.Name, "from", gate.SenderOf(ctx).Address)
	if u, err = s.store.User(ctx, u.ID); err != nil {
		return nil, err
	}
	return s.begin(ctx, u)
}

// wrong says what of a request's body cannot be taken, and where it stands.
func wrong(place, why string) error {
	return huma.Error422UnprocessableEntity(why, &huma.ErrorDetail{Message: why, Location: place})
}

const oldLink = "This link no longer works: it was used, is more than a day old, or oddtick serve was restarted and printed another."

func (s sessionsAPI) checkLink(ctx context.Context, in *linkRequest) (*struct{}, error) {
	err := s.gate.Throttle.Attempt("", gate.SenderOf(ctx).Address, func() error {
		holds, err := s.store.Invited(ctx, in.Body.Link, time.Now())
		if err == nil && !holds {
			err = store.ErrNotFound
		}
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		err = huma.Error404NotFound(oldLink)
	}
	return nil, err
}

func (s sessionsAPI) addFirstUser(ctx context.Context, in *firstUserRequest) (*sessionAnswer, error) {
	if _, err := s.checkLink(ctx, &linkRequest{struct {
		Link string `json:"link" maxLength:"100" doc:"the part after # of the link that oddtick serve printed"`
	}{in.Body.Link}}); err != nil {
		return nil, err
	}
	name := strings.TrimSpace(in.Body.Name)
	if why := WrongUserName(name); why != "" {
		return nil, wrong("body.name", why)
	}
	if err := passwords.Check(in.Body.Password, name); err != nil {
		return nil, wrong("body.password", err.Error())
	}
	err := s.store.Accept(ctx, in.Body.Link, name, in.Body.Password, time.Now())
	switch {
	case errors.Is(err, store.ErrNotFound):
		return nil, huma.Error404NotFound(oldLink)
	case errors.Is(err, store.ErrTaken):
		return nil, wrong("body.name", "A user with this name already exists.")
	case err != nil:
		return nil, err
	}
	u, err := s.store.UserNamed(ctx, name)
	if err != nil {
		return nil, err
	}
	return s.begin(ctx, u)
}

// WrongUserName says why a name cannot be a user's; "" where it can.
func WrongUserName(name string) string {
	switch n := utf8.RuneCountInString(name); {
	case name == "":
		return "A user needs a name."
	case n > store.MaxUserName:
		return "A user's name must have at most 60 characters."
	case name != strings.TrimSpace(name):
		return "A user's name must not begin or end with a space."
	case strings.ContainsFunc(name, func(r rune) bool { return !unicode.IsPrint(r) }):
		return "A user's name must consist of visible characters."
	}
	return ""
}
