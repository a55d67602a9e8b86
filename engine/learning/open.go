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

// Open opens the site for a form that is to be learned, of which a document names page and fields. Where scripts send the form, it is filled in on its
// page once, in a browser, to see what they send. It returns the document with that.
func Open(ctx context.Context, site *spec.Site, document []byte, values manual.Values) (*target.Target, []byte, error) {
	t, err := open(ctx, site, document)
	if err != nil || !t.OnlyOnPage {
		return t, document, err
	}
	known, err := watch(ctx, t, document, values)
	if len(t.Databases) > 0 {
		_, failed := t.CleanUp(context.WithoutCancel(ctx), nil)
		err = errors.Join(err, failed)
	}
	t.Close()
	if err != nil {
		return nil, nil, err
	}
	t, err = open(ctx, site, known)
	return t, known, err
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

// watch fills the form in on its page until the page sends it, and writes into the document what was sent.
func watch(ctx context.Context, t *target.Target, document []byte, own manual.Values) ([]byte, error) {
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
			return apply(document, draft.FromTrace(t.Form.Form, probes, nil, nil).Draft)
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
