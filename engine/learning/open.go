package learning

import (
	"context"
	"errors"
	"slices"
	"time"

	"oddtick/core/design"
	"oddtick/core/draft"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/submission"
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
	// First are the values that the script sent, which are tried before others.
	First manual.Values
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
	sent, left, err := watch(ctx, t, values)
	if len(t.Databases) > 0 {
		_, failed := t.CleanUp(context.WithoutCancel(ctx), nil)
		err = errors.Join(err, failed)
	}
	if err != nil {
		return nil, err
	}
	for i := range sent.Form { // it was seen, and what a page without its script says is none of it
		sent.Form[i].Certain = true
	}
	out := &Opened{Sent: sent}
	if out.Document, err = apply(document, sent); err != nil {
		return nil, err
	}
	if out.Target, err = open(ctx, t.Config.Site, out.Document); err != nil {
		return nil, err
	}
	out.First = manual.Values{}
	for _, f := range out.Target.Form.Fields {
		if value, present := left.Value(f.Name); present && f.Kind != spec.Checkbox && !f.IsSecret() {
			out.First[f.ID] = []string{value}
		}
	}
	return out, nil
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
func watch(ctx context.Context, t *target.Target, own manual.Values) (*draft.Draft, *submission.Submission, error) {
	designer, err := design.New(t.Form, t.Config.Site)
	if err != nil {
		return nil, nil, err
	}
	s := &session{target: t, form: t.Form.Form}
	sample := designer.Sample(time.Now().UnixMilli(), time.Now())
	for i := range s.form.Fields {
		if account := s.ofAccount(&s.form.Fields[i]); account != "" {
			sample[s.form.Fields[i].ID] = []string{account}
		}
	}
	tries := newCandidates(s.form, sample, own, func(f *spec.Field) bool { return s.ofAccount(f) != "" })
	tries.listed(ctx, t)
	var none error
	for range usualAttempts {
		values := tries.values()
		s.repeat(values)
		probes, err := manual.Trace(ctx, t, values, nil)
		if err == nil && probes[0].Step.Left != nil {
			return draft.FromTrace(t.Form.Form, probes, nil, nil).Draft, probes[0].Step.Left, nil
		}
		if err != nil {
			return nil, nil, err
		}
		none = &NotAccepted{Attempts: 1, Messages: probes[0].SeenMessages(s.form), Values: values}
		if !tries.mend(probes[0].SeenMessages(s.form)) {
			break
		}
	}
	return nil, nil, none
}

// listed puts values of short tables that are named like a field behind its first value.
func (c *candidates) listed(ctx context.Context, t *target.Target) {
	for i := range c.form.Fields {
		f := &c.form.Fields[i]
		if list := c.list[f.ID]; len(f.Options) == 0 && len(list) > 0 && (f.Kind == spec.Text || f.Kind == spec.SingleChoice) {
			c.list[f.ID] = slices.Insert(list, 1, listed(ctx, t, f)...)
		}
	}
}

// How many rows of tables named like a field are taken as values that it may list.
const maxListed = 6

// listed are values of short tables that are named like a field: a list on the page often shows such.
func listed(ctx context.Context, t *target.Target, f *spec.Field) (out []string) {
	db, err := t.Schema(ctx)
	if err != nil || db == nil {
		return nil
	}
	for i := range db.Tables {
		table := &db.Tables[i]
		if draft.Likeness(f, table.Name) == 0 {
			continue
		}
		for _, column := range table.Columns {
			if column.Class != schema.ClassText {
				continue
			}
			rows, err := t.Databases.Of(table.Name).Rows(ctx, table.Name, []string{column.Name}, maxListed)
			for _, row := range rows {
				if err == nil && row[0] != "" {
					out = append(out, row[0])
				}
			}
		}
	}
	return out
}
