// Package address compares the addresses of pages.
package address

import (
	"cmp"
	"net/url"
	"strings"
)

// Path is an address's path without its query; an address that cannot be read stays as it is.
func Path(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return address
	}
	return u.Path
}

// SamePath tells whether two addresses have one path; a slash at the end makes no other.
func SamePath(a, b string) bool {
	return strings.TrimSuffix(Path(a), "/") == strings.TrimSuffix(Path(b), "/")
}

// Host is an address's host with its port, but for the usual one of its scheme.
func Host(u *url.URL) string {
	if port := u.Port(); port == "80" && u.Scheme == "http" || port == "443" && u.Scheme == "https" {
		return u.Hostname()
	}
	return u.Host
}

// From is an address as a document has it: without the scheme and host where those are the page's own, and without its fragment.
func From(page, address string) string {
	a, err := url.Parse(address)
	p, errPage := url.Parse(page)
	if err != nil || errPage != nil || a.Host != p.Host || a.Scheme != p.Scheme {
		return address
	}
	a.Scheme, a.Host, a.User, a.Fragment = "", "", nil, ""
	return cmp.Or(a.String(), "/")
}
