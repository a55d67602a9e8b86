package browser

import (
	"context"
	"errors"
	"fmt"
)

// Storage is what a page's scripts keep in the browser beside cookies, by key.
type Storage struct {
	Local   map[string]string `json:"local"`
	Session map[string]string `json:"session"`
}

// Credential is what is entered into a control, by its name or label, to sign in.
type Credential struct{ Control, Value string }

// SigningIn is what signs somebody in on a page. The one-time code, nil where none is asked for, is entered into the same form, or into that
// which follows.
type SigningIn struct {
	Page           string
	Name, Password Credential
	Code           *Credential
}

// SignIn fills in the sign-in form of a page and sends it. It returns what the page keeps of the sign-in.
func (v *Visitor) SignIn(ctx context.Context, in SigningIn) (*Storage, error) {
	list := []Credential{in.Name, in.Password}
	form := signInForm(list)
	if in.Code != nil {
		form.Fields = append(form.Fields, signInForm([]Credential{*in.Code}).Fields...)
	}
	seen, err := v.Open(ctx, in.Page, form)
	if err != nil {
		return nil, err
	}
	if seen.Failure != "" {
		return nil, errors.New(seen.Failure)
	}
	later := in.Code != nil
	if later {
		here, err := ask[bool](ctx, v.tab, "has", in.Code.Control)
		if err != nil {
			return nil, v.gone(err)
		}
		if later = !here; here {
			list = append(list, *in.Code)
		}
	}
	if err := v.sendCredentials(ctx, in.Page, list); err != nil {
		return nil, err
	}
	again, err := ask[bool](ctx, v.tab, "has", in.Password.Control)
	if err != nil {
		return nil, v.gone(err)
	}
	if again {
		return nil, errors.New("the sign-in form is shown again")
	}
	if later {
		asked, err := ask[bool](ctx, v.tab, "has", in.Code.Control)
		if err != nil {
			return nil, v.gone(err)
		}
		if asked {
			if err := v.sendCredentials(ctx, in.Page, []Credential{*in.Code}); err != nil {
				return nil, err
			}
		}
	}
	kept, err := ask[*Storage](ctx, v.tab, "storage", nil)
	return kept, v.gone(err)
}

// signInForm is the form that holds some controls: the second holds the password.
func signInForm(list []Credential) *Form {
	form := &Form{}
	for i, c := range list {
		kind := "text"
		if i == 1 {
			kind = "password"
		}
		form.Fields = append(form.Fields, Field{Name: c.Control, Kind: kind, Labels: []string{c.Control}, OtherName: true})
	}
	return form
}

// sendCredentials enters them into the page that is shown, and presses its button.
func (v *Visitor) sendCredentials(ctx context.Context, path string, list []Credential) error {
	entries := make([]Entry, len(list))
	for i, c := range list {
		entries[i] = Entry{Name: c.Control, Values: []string{c.Value}}
	}
	entered, _, err := v.enterAll(ctx, entries)
	if err != nil {
		return v.gone(err)
	}
	for _, e := range entered {
		if e.Refused != "" {
			return fmt.Errorf("the page %s: %s: %s", path, e.Name, e.Refused)
		}
	}
	button, err := ask[*element](ctx, v.tab, "submitter")
	switch {
	case err != nil:
		return v.gone(err)
	case button == nil || button.Disabled:
		return fmt.Errorf("the page %s has no button that can be pressed to sign in", path)
	}
	v.mark = v.tab.traffic.mark()
	if err := v.click(ctx, button); err != nil {
		return v.gone(err)
	}
	_, err = v.look(ctx, v.mark, "", stillBefore)
	return err
}

// SetStorage gives a page what it kept of another visitor's sign-in. path is a page of the site.
func (v *Visitor) SetStorage(ctx context.Context, path string, items *Storage) error {
	seen, err := v.Open(ctx, path, nil)
	if err != nil {
		return err
	}
	if seen.Failure != "" {
		return errors.New(seen.Failure)
	}
	_, err = ask[*Storage](ctx, v.tab, "storage", items)
	return v.gone(err)
}
