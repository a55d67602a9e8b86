package learning

import (
	"context"
	"errors"
	"time"

	"oddtick/core/design"
	"oddtick/core/draft"
	"oddtick/core/spec"
	"oddtick/engine/manual"
	"oddtick/engine/target"
)

// Opened is a form that can be learned.
type Opened struct {
	*target.Target
	// Document is that of the form, with what its page's script sends.
	Document []byte
	// Sent is the same as a draft, nil where no script sends the form.
	Sent *draft.Draft
}

// Open opens the site for a form that is to be learned, of which a document names page and fields; Close it when done. values are a tester's own.
func Open(ctx context.Context, site *spec.Site, document []byte, values manual.Values) (*Opened, error) {
	t, err := open(ctx, site, document)
	if err != nil {
		return nil, err
	}
	out, err := Watched(ctx, t, document, values)
	if err != nil || out.Target != t {
		t.Close()
	}
	return out, err
}

// Watched fills a form that a script sends in on its page once, in a browser, to see what is sent, takes back what that wrote, and opens the site anew
// with what is known then. Other forms stay as they are opened.
func Watched(ctx context.Context, t *target.Target, document []byte, values manual.Values) (*Opened, error) {
	if !t.OnlyOnPage {
		return &Opened{Target: t, Document: document}, nil
	}
	sent, err := watch(ctx, t, values)
	if len(t.Databases) > 0 {
		_, failed := t.CleanUp(context.WithoutCancel(ctx), nil)
		err = errors.Join(err, failed)
	}
	if err != nil {
		return nil, err
	}
	out := &Opened{Sent: sent}
	if out.Document, err = apply(document, sent); err != nil {
		return nil, err
	}
	out.Target, err = open(ctx, t.Config.Site, out.Document)
	return out, err
}

func open(ctx context.Context, site *spec.Site, document []byte) (*target.Target, error) {
	form, err := spec.ReadForm("", document)
	if err != nil {
		return nil, err
	}
	prepared, err := form.Prepare()
	if err != nil {
		return nil, err
	}
	designer, err := design.New(prepared, site)
	if err != nil {
		return nil, err
	}
	return target.Open(ctx, target.Config{Site: site, Designer: designer, Number: time.Now().UnixMilli()})
}

// watch fills the form in on its page until the page sends it.
func watch(ctx context.Context, t *target.Target, own manual.Values) (*draft.Draft, error) {
	designer, err := design.New(t.Form, t.Config.Site)
	if err != nil {
		return nil, err
	}
	s := &session{target: t, form: t.Form.Form}
	sample := designer.Sample(time.Now().UnixMilli(), time.Now())
	for i := range s.form.Fields {
		if account := s.ofAccount(&s.form.Fields[i]); account != "" {
			sample[s.form.Fields[i].ID] = []string{account}
		}
	}
	tries := newCandidates(s.form, sample, own, func(f *spec.Field) bool { return s.ofAccount(f) != "" })
	var none error
	for range usualAttempts {
		values := tries.values()
		s.repeat(values)
		probes, err := manual.Trace(ctx, t, values, nil)
		if err == nil && probes[0].Step.Left != nil {
			return draft.FromTrace(t.Form.Form, probes, nil, nil).Draft, nil
		}
		if err != nil {
			return nil, err
		}
		none = &NotAccepted{Attempts: 1, Messages: probes[0].SeenMessages(s.form), Values: values}
		if !tries.mend(probes[0].SeenMessages(s.form)) {
			break
		}
	}
	return nil, none
}
