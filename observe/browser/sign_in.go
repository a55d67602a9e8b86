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

// SignIn fills in the sign-in form of a page and sends it. name and password are the names or labels of its two controls. It returns what
// the page keeps of the sign-in.
func (v *Visitor) SignIn(ctx context.Context, path, name, password, account, secret string) (*Storage, error) {
	form := &Form{Fields: []Field{
		{Name: name, Kind: "text", Labels: []string{name}, OtherName: true},
		{Name: password, Kind: "password", Labels: []string{password}, OtherName: true},
	}}
	seen, err := v.Open(ctx, path, form)
	if err != nil {
		return nil, err
	}
	if seen.Failure != "" {
		return nil, errors.New(seen.Failure)
	}
	entered, _, err := v.enterAll(ctx, []Entry{{Name: name, Values: []string{account}}, {Name: password, Values: []string{secret}}})
	if err != nil {
		return nil, v.gone(err)
	}
	for _, e := range entered {
		if e.Refused != "" {
			return nil, fmt.Errorf("the page %s: %s: %s", path, e.Name, e.Refused)
		}
	}
	button, err := ask[*element](ctx, v.tab, "submitter")
	switch {
	case err != nil:
		return nil, v.gone(err)
	case button == nil || button.Disabled:
		return nil, fmt.Errorf("the page %s has no button that can be pressed to sign in", path)
	}
	v.mark = v.tab.traffic.mark()
	if err := v.click(ctx, button); err != nil {
		return nil, v.gone(err)
	}
	if _, err = v.look(ctx, v.mark, "", stillBefore); err != nil {
		return nil, err
	}
	again, err := ask[bool](ctx, v.tab, "has", password)
	if err != nil {
		return nil, v.gone(err)
	}
	if again {
		return nil, errors.New("the sign-in form is shown again")
	}
	kept, err := ask[*Storage](ctx, v.tab, "storage", nil)
	return kept, v.gone(err)
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
