package running

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strings"
	"time"

	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/usage"
	"oddtick/core/spec"
	"oddtick/core/universal"
	"oddtick/core/wording"
	"oddtick/engine/learning"
	"oddtick/engine/manual"
	"oddtick/formats/steps"

	"github.com/spf13/cobra"
)

type learnFlags struct {
	project, database, as, openedBy, output string
	values                                  []string
	keep                                    bool
	most                                    int
}

// LearnCommand finds out what a form promises by submitting it.
func LearnCommand() *cobra.Command {
	var f learnFlags
	c := &cobra.Command{
		Use:   "learn ADDRESS",
		Short: "Write the document of a form by trying what the site accepts",
		Long: `Reads the form of the page at ADDRESS, looks for values that the site accepts, and then tries one field after the other: blank, too long, too
short, other characters, other capitals, the same once more. What explains all answers is written as a form document: rules with
their messages, where values are stored, where the form leads. It is what the site does, not what it should do: read it before you use it.

Printed as unusual is what breaks a promise that holds on every form, such as that a password is not stored as it is.

It submits some 10 to 30 times for each field, and deletes at the end what it wrote. That needs the right to delete.`,
		Example: "  oddtick learn http://127.0.0.1:4650/join --database 'root@tcp(127.0.0.1:3306)/ostlewick' -o join.yaml",
		GroupID: usage.Write, Annotations: usage.Exit("the document was written", "", "nothing that the site accepts was found, or it cannot be reached"),
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return f.learn(cmd.Context(), args[0], cmd.OutOrStdout(), cmd.ErrOrStderr())
		},
	}
	c.Flags().StringVar(&f.database, "database", "", "data source name of the site's database")
	c.Flags().StringVar(&f.project, "project", "", "folder or file of a site document, for accounts, the sign-in form and databases")
	c.Flags().StringVar(&f.as, "as", "", "sign this account of the site document in first")
	c.Flags().StringVar(&f.openedBy, "opened-by", "", "the button or link of the page that makes the form appear")
	c.Flags().StringArrayVar(&f.values, "value", nil, "a value that the site accepts, such as member_no=OS-0417; may be repeated")
	c.Flags().StringVarP(&f.output, "output", "o", "-", "write the document to this file, - for standard output")
	c.Flags().IntVar(&f.most, "max-submissions", 0, "submit at most so often, and write what was learned until then; 0 for as often as it takes")
	c.Flags().BoolVar(&f.keep, "keep-rows", false, "leave the rows that were written")
	return c
}

// site is the site of an address: that of the site document, or one of which nothing else is known.
func (f *learnFlags) site(address string) (*spec.Site, string, error) {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		return nil, "", fmt.Errorf("%q is not the address of a page; write it like http://127.0.0.1:4650/join", address)
	}
	site := &spec.Site{Site: "site"}
	if f.project != "" {
		project, err := documents.ReadSite(f.project)
		if err != nil {
			return nil, "", err
		}
		site = project
		if err := documents.TakeSecrets(site, documents.FolderOf(f.project)); err != nil {
			return nil, "", err
		}
	}
	site.Address = u.Scheme + "://" + u.Host
	if f.database != "" {
		if len(site.Databases) == 0 {
			site.Databases = []spec.Database{{ID: "main"}}
		}
		site.Databases[0].DSN = f.database
	}
	return site, u.RequestURI(), nil
}

// given are the values of the flag --value, by field id.
func (f *learnFlags) given(form *spec.Form) (manual.Values, error) {
	values := manual.Values{}
	for _, one := range f.values {
		field, value, is := strings.Cut(one, "=")
		if !is {
			return nil, fmt.Errorf("--value %s: write the id of a field, = and its value", one)
		}
		if !slices.ContainsFunc(form.Fields, func(f spec.Field) bool { return f.ID == field }) {
			return nil, fmt.Errorf("--value %s: the form has no field of this id", field)
		}
		values[field] = append(values[field], value)
	}
	return values, nil
}

func (f *learnFlags) learn(ctx context.Context, address string, out, progress io.Writer) error {
	if f.most < 0 {
		return fmt.Errorf("--max-submissions %d is no number of submissions; write one such as 300, or 0 for no limit", f.most)
	}
	site, path, err := f.site(address)
	if err != nil {
		return err
	}
	read, err := learning.Page(ctx, site, path, f.as, f.openedBy)
	if err != nil {
		return err
	}
	form, err := spec.ReadForm("", read.Document)
	if err != nil {
		return err
	}
	values, err := f.given(form)
	if err != nil {
		return err
	}
	t, err := learning.Open(ctx, site, read.Document, values)
	if err != nil {
		return wanted(err)
	}
	defer t.Close()
	begun := time.Now()
	found, err := f.submit(ctx, t, values, progress)
	if err != nil {
		return err
	}
	found.Unusual = universal.Add(found.Unusual, read.Unusual...)
	universal.Sort(found.Unusual)
	for _, note := range found.Notes {
		fmt.Fprintln(progress, note)
	}
	for _, u := range found.Unusual {
		fmt.Fprintf(progress, "unusual  %s\n", steps.OneLine(wording.Unusual(form.Labels(), u)))
	}
	fmt.Fprintf(progress, "learned from %d submissions in %.1f s\n", found.Submissions, time.Since(begun).Seconds())
	return documents.ToFile(f.output, out, func(w io.Writer) error {
		_, err := w.Write(found.Text)
		return err
	})
}

// submit learns the form, asks what no page sends, and deletes what was written.
func (f *learnFlags) submit(ctx context.Context, t *learning.Opened, values manual.Values, progress io.Writer) (*learning.Found, error) {
	found, failed := learning.Form(ctx, t.Target, t.Document, learning.Options{Values: values, Sent: t.Sent, First: t.First, Most: f.most, Progress: func(n int, _ string) {
		if n%25 == 0 {
			fmt.Fprintf(progress, "%d submissions …\n", n)
		}
	}})
	if failed == nil {
		asked, err := learning.Requests(ctx, t.Config.Site, found.Text, time.Now().UnixMilli(), f.keep)
		found.Unusual, failed = universal.Add(found.Unusual, asked...), err
	}
	if !f.keep && len(t.Databases) > 0 {
		done, err := t.CleanUp(context.WithoutCancel(ctx), nil)
		if err != nil {
			return nil, errors.Join(failed, fmt.Errorf("delete what was written: %w", err))
		}
		fmt.Fprintln(progress, done)
	}
	return found, wanted(failed)
}

// wanted says how values are given, where none was accepted.
func wanted(err error) error {
	var none *learning.NotAccepted
	if errors.As(err, &none) {
		return fmt.Errorf("%w; give values that it accepts with --value", err)
	}
	return err
}
