package learning

import (
	"context"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"oddtick/core/address"
	"oddtick/core/draft"
	"oddtick/core/spec"
	"oddtick/core/universal"
	"oddtick/engine/target"
	"oddtick/observe/page"
)

// maxPage is how many bytes a page may have.
const maxPage = 24 << 20

// captcha is how pages name a control that only a person should be able to fill in.
var captcha = regexp.MustCompile(`(?i)\b(?:class|id|name|src|title)\s*=\s*["']?[^"'<>]*(?:captcha|turnstile)`)

// Read is the form of a page before anything is submitted.
type Read struct {
	// Document holds what the page says and no other rules, and Draft is the same as a draft.
	Document []byte
	Draft    *draft.Draft
	Unusual  []universal.Unusual
}

// Page reads the form of a page, the one with the most fields. as is an account that is signed in before, or that signs in on the page, "" for
// nobody; on a page to sign in the first of the site's does where none is named. openedBy is the name of the button that makes the form appear, "" for none.
func Page(ctx context.Context, site *spec.Site, path, as, openedBy string) (*Read, error) {
	signsIn := site.SignInAt(path) != nil
	visitor := as
	if signsIn {
		visitor = ""
		if at := slices.IndexFunc(site.Accounts, func(a spec.Account) bool { return a.Password != "" && !a.MayBeLocked }); as == "" && at >= 0 {
			as = site.Accounts[at].ID
		}
	}
	text, at, err := target.FetchPage(ctx, site, path, visitor, openedBy != "", openedBy, maxPage)
	if err != nil {
		return nil, target.Cannot("%w", err)
	}
	if u, err := url.Parse(at); err == nil && !address.SamePath(u.RequestURI(), path) {
		return nil, target.Cannot("%s leads to %s; learn that page, or sign in first with an account of the site document", path, address.Path(at))
	}
	if captcha.MatchString(text) {
		return nil, target.Cannot("the page %s asks for a proof that a person fills it in (a captcha). Switch it off on a test site, or fill the form in by hand", path)
	}
	if openedBy == "" && page.Scripted(text) {
		if text, at, err = target.FetchPage(ctx, site, path, visitor, true, "", maxPage); err != nil {
			return nil, target.Cannot("%w", err)
		}
	}
	described, err := page.Describe(text, at)
	if err != nil {
		return nil, target.Cannot("the page %s cannot be read: %w", path, err)
	}
	best := -1
	for i := range described.Forms {
		if best < 0 || len(described.Forms[i].Fields) > len(described.Forms[best].Fields) {
			best = i
		}
	}
	if best < 0 {
		return nil, target.Cannot("the page %s has no form", path)
	}
	document := fmt.Sprintf("form: %s\npage: %q\n", idOf(path), path)
	switch {
	case as != "" && signsIn:
		document += fmt.Sprintf("before: {sign_in_with: %s}\n", as)
	case as != "":
		document += fmt.Sprintf("before: {signed_in: %s}\n", as)
	}
	if openedBy != "" {
		document += fmt.Sprintf("opened_by: %q\n", openedBy)
	}
	out := &Read{Draft: draft.FromPage(&described.Forms[best], at)}
	if out.Document, err = apply([]byte(document), out.Draft); err != nil {
		return nil, err
	}
	form, err := spec.ReadForm("", out.Document)
	if err != nil {
		return nil, err
	}
	out.Unusual = universal.Page(&described.Forms[best], described.Language)
	for i := range out.Unusual { // the page knows fields by their request names
		for k := range form.Fields {
			if u := &out.Unusual[i]; u.Field != "" && form.Fields[k].Name == u.Field {
				u.Field = form.Fields[k].ID
				break
			}
		}
	}
	return out, nil
}

// idOf is an id for the form of a path: its last part.
func idOf(path string) string {
	if u, err := url.Parse(path); err == nil {
		path = u.Path
	}
	parts := strings.Split(strings.Trim(path, "/"), "/")
	if id := spec.Identifier(parts[len(parts)-1]); id != "" {
		return id
	}
	return "form"
}
