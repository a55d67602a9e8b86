package page_test

import (
	"cmp"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"oddtick/core/observation"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

// TestPagesOfTenConventions holds each page of testdata against what a person reads off it, a line a field.
func TestPagesOfTenConventions(t *testing.T) {
	t.Parallel()
	files, err := filepath.Glob("testdata/pages/*.html")
	require.NoError(t, err)
	require.Len(t, files, 10)
	for _, file := range files {
		body, err := os.ReadFile(file)
		require.NoError(t, err)
		want, err := os.ReadFile(strings.TrimSuffix(file, "html") + "txt")
		require.NoError(t, err)
		d, err := page.Describe(string(body), "http://site.test/here/page")
		require.NoError(t, err)
		require.Equal(t, string(want), asLines(d), file)
	}
}

func asLines(d *page.Described) string {
	var b strings.Builder
	for _, f := range d.Forms {
		fmt.Fprintf(&b, "form %q: %s %s, %s", f.Title, f.Method, f.Action, f.Encoding)
		if f.Unchecked {
			b.WriteString(", unchecked")
		}
		fmt.Fprintf(&b, "; buttons %q\n", f.Buttons)
		for _, n := range f.Notes {
			fmt.Fprintf(&b, "  note: %s\n", n)
		}
		for i := range f.Fields {
			fmt.Fprintf(&b, "  %s\n", asLine(&f.Fields[i]))
		}
	}
	return b.String()
}

func asLine(f *observation.FieldOnPage) string {
	out := []string{fmt.Sprintf("%s, %s", cmp.Or(f.Name, "(no name)"), strings.TrimSpace(f.Type+" "+f.Role)), fmt.Sprintf("%q by %s", f.Label, cmp.Or(f.LabelFrom, "nothing"))}
	add := func(set bool, format string, args ...any) {
		if set {
			out = append(out, fmt.Sprintf(format, args...))
		}
	}
	add(f.Group != "", "in %q", f.Group)
	add(f.Value != "" && !f.Token, "holds %q", f.Value)
	add(f.Checked, "ticked")
	add(f.Required, "required")
	add(f.Marked, "marked")
	add(f.ReadOnly, "read-only")
	add(f.Disabled, "disabled")
	add(f.Multiple, "multiple")
	if f.MinLength != nil {
		add(true, "minlength %d", *f.MinLength)
	}
	if f.MaxLength != nil {
		add(true, "maxlength %d", *f.MaxLength)
	}
	add(f.Pattern != "", "pattern %s", f.Pattern)
	add(f.Min != "", "min %s", f.Min)
	add(f.Max != "", "max %s", f.Max)
	add(f.Step != "", "step %s", f.Step)
	add(f.Accept != "", "accept %s", f.Accept)
	add(len(f.Offers) > 0, "offers %q", f.Offers)
	add(f.Token, "token")
	add(f.Honeypot, "trap")
	for _, o := range f.Options {
		text := o.Label + "=" + o.Value
		if o.Group != "" {
			text = o.Group + "/" + text
		}
		if o.Selected {
			text += " selected"
		}
		if o.Disabled {
			text += " disabled"
		}
		out = append(out, "["+text+"]")
	}
	for _, n := range f.Notes {
		out = append(out, "note: "+n)
	}
	return strings.Join(out, "; ")
}

func TestWhatIsNoPageIsRefused(t *testing.T) {
	t.Parallel()
	for _, body := range []string{"", "just words", `{"json": true}`, "\x89PNG\r\n\x1a\n\x00\x00", "%PDF-1.7 binary"} {
		_, err := page.Describe(body, "http://site.test/")
		require.ErrorContains(t, err, "not HTML", body)
	}
	_, err := page.Describe("<div>"+strings.Repeat("<b>", 200_000), "http://site.test/")
	require.ErrorContains(t, err, "deep", "the parser's own limit on nesting or ours says so")
}

func TestLargePages(t *testing.T) {
	t.Parallel()
	var b strings.Builder
	b.WriteString("<form method=post action=/x>")
	for i := range 2000 {
		fmt.Fprintf(&b, "<label for=f%d>Field %d</label><input id=f%d name=f%d required maxlength=%d>", i, i, i, i, i+1)
	}
	b.WriteString("<button>Go</button></form>")
	d, err := page.Describe(b.String(), "http://site.test/")
	require.NoError(t, err)
	require.Len(t, d.Forms[0].Fields, 2000)
	require.Equal(t, "Field 1999", d.Forms[0].Fields[1999].Label)

	// 20 MB of text around one form
	began := time.Now()
	d, err = page.Describe("<form><label>Name <input name=a></label></form>"+strings.Repeat("<p>lorem <b>ipsum</b> dolor", 20<<20/27), "http://site.test/")
	require.NoError(t, err)
	require.Equal(t, "Name", d.Forms[0].Fields[0].Label)
	require.Less(t, time.Since(began), 2*time.Minute)
}

func TestControlsOfNoForm(t *testing.T) {
	t.Parallel()
	d, err := page.Describe(`<title>Loose</title><label>Name <input name=who></label>`, "http://site.test/loose")
	require.NoError(t, err)
	require.Len(t, d.Forms, 1)
	require.Equal(t, "who", d.Forms[0].Fields[0].Name)
	require.Contains(t, d.Forms[0].Notes[0], "no form")
}

func FuzzDescribe(f *testing.F) {
	files, err := filepath.Glob("testdata/pages/*.html")
	require.NoError(f, err)
	for _, file := range files {
		body, err := os.ReadFile(file)
		require.NoError(f, err)
		f.Add(string(body))
	}
	f.Fuzz(func(t *testing.T, body string) {
		d, err := page.Describe(body, "http://site.test/")
		if err == nil && d == nil {
			t.Fatal("neither a page nor an error")
		}
	})
}
