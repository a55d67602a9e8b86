// Package web is a visitor over HTTP: it opens pages, submits forms, keeps cookies, follows and records redirects. It contacts
// no address but those allowed.
package web
