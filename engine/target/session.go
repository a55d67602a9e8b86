package target

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"oddtick/core/spec"
	"oddtick/observe/web"
)

// giveSession gives a visitor the session that an account began elsewhere.
func giveSession(v *web.Visitor, site *spec.Site, a *spec.Account) error {
	session, err := readSession(a.Session)
	if err != nil {
		return fmt.Errorf("the session of the account %s: %w", a.ID, err)
	}
	from, err := url.Parse(site.Address)
	if err != nil {
		return err
	}
	given := session.bearer != ""
	v.SetBearer(session.bearer)
	for _, c := range session.cookies {
		if c.domain != "" && !strings.EqualFold(c.domain, from.Hostname()) && !strings.HasSuffix("."+strings.ToLower(from.Hostname()), "."+strings.ToLower(c.domain)) {
			continue // of another site
		}
		v.AddCookie(web.SetCookie{Cookie: &http.Cookie{Name: c.name, Value: c.value, Path: "/"}, From: from})
		given = true
	}
	if !given {
		return fmt.Errorf("the session of the account %s holds no cookie for %s", a.ID, from.Hostname())
	}
	return nil
}

// session is what a session that began elsewhere consists of.
type session struct {
	bearer  string
	cookies []cookie
}

// cookie is one of a session, and the domain for which it was set, "" where that is not known.
type cookie struct{ name, value, domain string }

// readSession reads a session: Bearer and a token, a Cookie header, the text of a cookies.txt file (seven columns with tabs between
// them), or a JSON list of cookies, or of an object's member cookies, with name and value.
func readSession(text string) (*session, error) {
	text = strings.TrimSpace(text)
	for _, header := range []string{"Authorization:", "Cookie:"} {
		if len(text) > len(header) && strings.EqualFold(text[:len(header)], header) {
			text = strings.TrimSpace(text[len(header):])
		}
	}
	out := &session{}
	const bearer = "Bearer "
	switch {
	case len(text) > len(bearer) && strings.EqualFold(text[:len(bearer)], bearer):
		out.bearer = strings.TrimSpace(text[len(bearer):])
	case strings.HasPrefix(text, "[") || strings.HasPrefix(text, "{"):
		if err := out.readJSON(text); err != nil {
			return nil, err
		}
	case strings.Contains(text, "\t"):
		for line := range strings.Lines(text) {
			line = strings.TrimPrefix(strings.TrimRight(line, "\r\n"), "#HttpOnly_")
			if column := strings.Split(line, "\t"); len(column) == 7 && !strings.HasPrefix(line, "#") {
				out.cookies = append(out.cookies, cookie{column[5], column[6], strings.TrimPrefix(column[0], ".")})
			}
		}
	default:
		for pair := range strings.SplitSeq(text, ";") {
			if name, value, found := strings.Cut(strings.TrimSpace(pair), "="); found && name != "" {
				out.cookies = append(out.cookies, cookie{name: name, value: value})
			}
		}
	}
	if out.bearer == "" && len(out.cookies) == 0 {
		return nil, errors.New("it holds neither a cookie nor a token; write it as name=value; name=value, as Bearer and the token, or as the text of a cookies.txt file")
	}
	return out, nil
}

func (s *session) readJSON(text string) error {
	type one struct{ Name, Value, Domain string }
	var list []one
	if strings.HasPrefix(text, "{") {
		var whole struct{ Cookies []one }
		if err := json.Unmarshal([]byte(text), &whole); err != nil {
			return errors.New("it begins as JSON, and is none")
		}
		list = whole.Cookies
	} else if err := json.Unmarshal([]byte(text), &list); err != nil {
		return errors.New("it begins as a JSON list of cookies, and is none")
	}
	for _, c := range list {
		if c.Name != "" {
			s.cookies = append(s.cookies, cookie{c.Name, c.Value, strings.TrimPrefix(c.Domain, ".")})
		}
	}
	return nil
}
