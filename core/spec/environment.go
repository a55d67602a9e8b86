package spec

import (
	"fmt"
	"strings"
)

// Environment is another place where a site runs, such as production beside staging. What a run contacts there, and the secrets it sends,
// are the environment's own: nothing of that is taken from the site, so that no password reaches another host. Pages, states and
// journeys are the site's.
type Environment struct {
	ID    string `json:"id"`
	Title string `json:"title,omitempty"`
	// Address is the base URL.
	Address        string            `json:"address"`
	Allowed        []string          `json:"allowed,omitempty"`
	Headers        map[string]string `json:"headers,omitempty"`
	Authentication *Authentication   `json:"authentication,omitempty"`
	Authority      string            `json:"certificate_authority,omitempty"`
	MaxParallel    int               `json:"max_parallel,omitempty"`
	Databases      []Database        `json:"databases,omitempty"`
	Accounts       []Account         `json:"accounts,omitempty"`
	Mail           *Mail             `json:"mail,omitempty"`
	// Protected says what a run must do before it submits there.
	Protected Protection `json:"protected,omitempty" oneof:"confirm,no_writes"`
}

// Protection is what keeps a run from writing where it should not.
type Protection string

const (
	// Confirm: whoever starts a run types the environment's name.
	Confirm Protection = "confirm"
	// NoWrites: a run takes only cases that should write nothing.
	NoWrites Protection = "no_writes"
)

// place is the environment as a site that shares its maps and lists.
func (e *Environment) place() *Site {
	return &Site{
		Address: e.Address, Allowed: e.Allowed, Headers: e.Headers, Authentication: e.Authentication, Authority: e.Authority,
		MaxParallel: e.MaxParallel, Databases: e.Databases, Accounts: e.Accounts, Mail: e.Mail, environment: e.ID, protection: e.Protected,
	}
}

// take puts what a place holds in the environment.
func (e *Environment) take(s *Site) {
	e.Address, e.Allowed, e.Headers, e.Authentication, e.Authority = s.Address, s.Allowed, s.Headers, s.Authentication, s.Authority
	e.MaxParallel, e.Databases, e.Accounts, e.Mail = s.MaxParallel, s.Databases, s.Accounts, s.Mail
}

// Environment is the id of the environment that the site was taken to, empty for its own address.
func (s *Site) Environment() string { return s.environment }

// Protected says what a run must do before it submits there; nothing for the site's own address.
func (s *Site) Protected() Protection { return s.protection }

// In is the site as it runs in one of its environments; "" is its own address.
func (s *Site) In(environment string) (*Site, error) {
	if environment == "" {
		return s, nil
	}
	ids := make([]string, len(s.Environments))
	for i := range s.Environments {
		e := &s.Environments[i]
		if ids[i] = e.ID; e.ID != environment {
			continue
		}
		out, at := *s, e.place()
		out.Address, out.Allowed, out.Headers, out.Authentication, out.Authority = at.Address, at.Allowed, at.Headers, at.Authentication, at.Authority
		out.MaxParallel, out.Databases, out.Accounts, out.Mail = at.MaxParallel, at.Databases, at.Accounts, at.Mail
		out.Reset = nil // it is of the site's own address
		out.environment, out.protection, out.Environments = e.ID, e.Protected, nil
		return &out, nil
	}
	if len(ids) == 0 {
		return nil, fmt.Errorf("the site %s has no environments; list them under environments: in its document", s.Site)
	}
	return nil, fmt.Errorf("the site %s has no environment %q; it has %s", s.Site, environment, strings.Join(ids, ", "))
}

// Everywhere is the site at its own address and in each of its environments.
func (s *Site) Everywhere() []*Site {
	out := []*Site{s}
	for i := range s.Environments {
		if at, err := s.In(s.Environments[i].ID); err == nil {
			out = append(out, at)
		}
	}
	return out
}

// checkEnvironments finds what no environment could be.
func (s *Site) checkEnvironments(fail func(path, remedy, format string, args ...any)) {
	seen := map[string]bool{}
	for i := range s.Environments {
		e, path := &s.Environments[i], fmt.Sprintf("environments[%d]", i)
		if !idForm.MatchString(e.ID) {
			fail(path+".id", "start with a small letter; then small letters, digits and underscores", "%q is not an id", e.ID)
		}
		if seen[e.ID] {
			fail(path+".id", "give each environment an id of its own", "there are two environments %q", e.ID)
		}
		seen[e.ID] = true
		if !isWebAddress(e.Address) {
			fail(path+".address", "it must begin with http:// or https://, like http://127.0.0.1:4650", "%q is not an address", e.Address)
		}
		if e.MaxParallel < 0 {
			fail(path+".max_parallel", "write a whole number from 1", "%d submissions at once are not possible", e.MaxParallel)
		}
	}
}
