package engine_test

import (
	"cmp"
	"database/sql"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"oddtick/core/design"
	"oddtick/core/learn"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/engine/learning"
	"oddtick/engine/manual"
	"oddtick/engine/target"
	"oddtick/engine/testdata/generic"

	"github.com/stretchr/testify/require"
)

// genericSite serves a form with a database of its own, and is the site document of it.
func genericSite(t testing.TB, f *generic.Form, refuse func(w http.ResponseWriter, n int) bool) *spec.Site {
	file := filepath.Join(t.TempDir(), "rows.db")
	db, err := sql.Open("sqlite", "file:"+file+"?_pragma=busy_timeout(5000)&_pragma=journal_mode(wal)")
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	_, err = db.ExecContext(t.Context(), f.Table())
	require.NoError(t, err)
	server := httptest.NewServer(f.Site(db, refuse))
	t.Cleanup(server.Close)
	return &spec.Site{Site: "s", Address: server.URL, Databases: []spec.Database{{ID: "main", Kind: "sqlite", DSN: "file:" + file}}}
}

// learnedOf learns the form at / of a site from its page.
func learnedOf(t testing.TB, site *spec.Site, o learning.Options) (*learning.Found, error) {
	read, err := learning.Page(t.Context(), site, "/", "", "")
	require.NoError(t, err)
	form, err := spec.ReadForm("f.yaml", read.Document)
	require.NoError(t, err)
	prepared, err := form.Prepare()
	require.NoError(t, err)
	d, err := design.New(prepared, site)
	require.NoError(t, err)
	run, err := target.Open(t.Context(), target.Config{Site: site, Designer: d, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer run.Close()
	return learning.Form(t.Context(), run, read.Document, o)
}

// TestWhatIsLearnedOfFormsAtRandomIsTrue: a value that the learned document rejects is rejected by the site as well. ODDTICK_FORMS is how many are
// drawn, ODDTICK_SEED by which seed.
func TestWhatIsLearnedOfFormsAtRandomIsTrue(t *testing.T) {
	t.Parallel()
	number := func(name string, usual int) int {
		n, _ := strconv.Atoi(cmp.Or(os.Getenv(name), strconv.Itoa(usual)))
		return n
	}
	random := rand.New(rand.NewPCG(uint64(number("ODDTICK_SEED", 25)), 1))
	found, of, submissions, fields := 0, 0, 0, 0
	for n := range number("ODDTICK_FORMS", 12) {
		f := generic.Draw(random)
		learned, err := learnedOf(t, genericSite(t, f, nil), learning.Options{})
		require.NoError(t, err, "form %d:\n%s", n, f.Document())
		submissions, fields = submissions+learned.Submissions, fields+len(f.Fields)
		if os.Getenv("ODDTICK_SHOW") == strconv.Itoa(n) {
			fmt.Printf("%s\n%s", f.Document(), learned.Text)
		}
		require.Empty(t, counterexample(t, f, learned.Text), "form %d:\n%s\nlearned:\n%s", n, f.Document(), learned.Text)
		promised, err := spec.ReadForm("f.yaml", []byte(f.Document()))
		require.NoError(t, err)
		known, err := spec.ReadForm("f.yaml", learned.Text)
		require.NoError(t, err)
		for i := range promised.Fields {
			got := learn.Statements(known, &known.Fields[i])
			want := learn.Statements(promised, &promised.Fields[i])
			for _, s := range got {
				if testing.Verbose() && !slices.Contains(want, s) {
					fmt.Printf("form %d, %s: learned besides: %s\n", n, promised.Fields[i].Name, s)
				}
			}
			for _, s := range want {
				if of++; slices.Contains(got, s) {
					found++
				} else if testing.Verbose() {
					fmt.Printf("form %d, %s: not learned: %s\n", n, promised.Fields[i].Name, s)
				}
			}
		}
	}
	t.Logf("%d of %d statements learned, %.1f submissions a field", found, of, float64(submissions)/float64(fields))
	require.GreaterOrEqual(t, float64(found), 0.9*float64(of))
	require.LessOrEqual(t, submissions, 25*fields)
}

// aForm is a form whose rules are known, of a site that is hard to learn.
func aForm() *generic.Form {
	return &generic.Form{Status: 422, Fields: []generic.Field{
		{Name: "full_name", Label: "Full name", Control: "text", Required: true, Trim: true, Min: 2, Max: 40},
		{Name: "plots", Label: "Plots", Control: "number", Required: true, Trim: true, Min: 1, Max: 4},
		{Name: "remarks", Label: "Remarks", Control: "textarea", Max: 100},
	}}
}

// TestSitesThatAreHardToLearn: none leads to a wrong statement, and what stops the learning is said.
func TestSitesThatAreHardToLearn(t *testing.T) {
	t.Parallel()
	form := func(w http.ResponseWriter, status int, text string) {
		w.WriteHeader(status)
		fmt.Fprintf(w, "<!doctype html><title>A form</title><p class=error role=alert>%s</p><form method=post action=/><label>Full name <input name=full_name></label><button>Save</button></form>", text)
	}
	failing, answering := rand.New(rand.NewPCG(7, 7)), rand.New(rand.NewPCG(7, 8))
	for name, c := range map[string]struct {
		refuse func(w http.ResponseWriter, n int) bool
		// notes are said of what was learned; whole: all of it was.
		notes string
		whole bool
	}{
		"limits the rate": {func(w http.ResponseWriter, n int) bool {
			if n%25 == 0 {
				w.Header().Set("Retry-After", "1")
				w.WriteHeader(http.StatusTooManyRequests)
			}
			return n%25 == 0
		}, "", true},
		"fails now and then": {func(w http.ResponseWriter, _ int) bool {
			if failing.IntN(12) == 0 {
				http.Error(w, "Something went wrong.", http.StatusInternalServerError)
				return true
			}
			return false
		}, "", true},
		"answers at random": {func(w http.ResponseWriter, n int) bool {
			if n > 4 && answering.IntN(3) == 0 {
				form(w, http.StatusUnprocessableEntity, "Please try again.")
				return true
			}
			return false
		}, "", false},
		"locks out": {func(w http.ResponseWriter, n int) bool {
			if n > 30 {
				form(w, http.StatusForbidden, "Too many attempts. Try again in 15 minutes.")
			}
			return n > 30
		}, "stopped accepting", false},
		"is slow": {func(http.ResponseWriter, int) bool { time.Sleep(40 * time.Millisecond); return false }, "", true},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			f := aForm()
			begun := time.Now()
			found, err := learnedOf(t, genericSite(t, f, c.refuse), learning.Options{})
			require.NoError(t, err)
			require.Empty(t, counterexample(t, f, found.Text), "%s", found.Text)
			require.Contains(t, fmt.Sprint(found.Notes), c.notes, "%s", found.Text)
			if c.whole {
				require.Contains(t, string(found.Text), "length: {min: 2, max: 40, message: Use 2 to 40 characters.}")
			}
			require.Less(t, time.Since(begun), time.Minute)
		})
	}
}

// TestAPageWithACaptchaIsLeftToAPerson before anything is submitted.
func TestAPageWithACaptchaIsLeftToAPerson(t *testing.T) {
	t.Parallel()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		require.Equal(t, http.MethodGet, r.Method)
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprint(w, `<form method=post><input name=who><div class="box-captcha"></div></form>`)
	}))
	defer server.Close()
	_, err := learning.Page(t.Context(), &spec.Site{Site: "s", Address: server.URL}, "/", "", "")
	require.ErrorContains(t, err, "a captcha")
}

// counterexample is the shortest value that the learned document rejects and the site accepts, with its field; "" for none.
func counterexample(t *testing.T, f *generic.Form, text []byte) string {
	form, err := spec.ReadForm("f.yaml", text)
	require.NoError(t, err)
	prepared, err := form.Prepare()
	require.NoError(t, err)
	valid := accepted(t, f)
	shortest, example := -1, ""
	for i := range f.Fields {
		one := &f.Fields[i]
		if one.Control == "repeat" {
			continue
		}
		for _, value := range genericValues(one) {
			sent := url.Values{}
			values := manual.Values{}
			for k := range f.Fields {
				name := f.Fields[k].Name
				v := valid.Get(name)
				if name == one.Name || f.Fields[k].Of == one.Name {
					v = value
				}
				if v != "" || f.Fields[k].Control != "checkbox" {
					sent.Set(name, v)
					values[form.Fields[k].ID] = []string{v}
				}
			}
			if one.Wrong(sent, func(*generic.Field, string) bool { return false }) != "" {
				continue
			}
			e := manual.Expected(prepared, values, manual.Way{Driver: "http"}, nil)
			if e.Outcome != oracle.Accepted && (shortest < 0 || len(value) < shortest) {
				shortest, example = len(value), fmt.Sprintf("%s = %q: %+v", one.Name, value, e.Failing)
			}
		}
	}
	return example
}

// accepted are values that a form accepts, as it was drawn.
func accepted(t *testing.T, f *generic.Form) url.Values {
	out := url.Values{}
	for i := range f.Fields {
		one := &f.Fields[i]
		if one.Of != "" {
			out.Set(one.Name, out.Get(one.Of))
			continue
		}
		fits := slices.IndexFunc(genericValues(one), func(v string) bool {
			out.Set(one.Name, v)
			return v != "" && one.Wrong(out, func(*generic.Field, string) bool { return false }) == ""
		})
		require.GreaterOrEqual(t, fits, 0, "%+v", one)
	}
	return out
}

// genericValues are values on both sides of what fields are limited to.
func genericValues(f *generic.Field) []string {
	switch f.Control {
	case "select":
		return append([]string{"", "x", "A"}, f.Options...)
	case "checkbox":
		return []string{"", "yes"}
	case "number":
		out := []string{"", "x"}
		for _, n := range []int{f.Min - 1, f.Min, f.Min + 1, f.Max - 1, f.Max, f.Max + 1, (f.Min + f.Max) / 2} {
			for _, decimals := range []string{"", ".5", ".25", ".125"} {
				out = append(out, strconv.Itoa(n)+decimals)
			}
		}
		return out
	case "date":
		out := []string{"", "x", "2001-02-30", "1899-12-31"}
		for _, n := range []int{-36525, f.Earliest - 1, f.Earliest, f.Earliest + 1, 0, 1, f.Latest - 1, f.Latest, f.Latest + 1, 36525} {
			out = append(out, time.Now().AddDate(0, 0, n).Format(time.DateOnly))
		}
		return out
	case "email":
		out := []string{"", "x", "fern.moss+x@example.test", "Fern@Example.TEST"}
		for _, n := range []int{f.Max - 1, f.Max, f.Max + 1, 200} {
			if rest := n - utf8.RuneCountInString("fern@.example.test"); rest > 0 && rest < 60 {
				out = append(out, "fern@"+strings.Repeat("d", rest)+".example.test")
			}
		}
		return out
	}
	out := []string{"OS-1234", "os-1234", "OS-12345", "123456", "000000", "1234567", "K123", "k123", "", " ", "  fern ", "Fern Moss", "fern", "FERN7", "Éire-fern", "fern's", "a_b.c", "q<z>7", "Moss, Fern", "Жанна", "Sow & Co", "fern🌱moss"}
	for _, letters := range []string{"fernmoss", "FernMoss7x"} {
		for n := range 45 {
			out = append(out, strings.Repeat(letters, 6)[:n+1])
		}
		for _, n := range []int{f.Max - 1, f.Max, f.Max + 1, 300} {
			if n > 0 {
				out = append(out, strings.Repeat(letters, 1+n/8)[:n])
			}
		}
	}
	return out
}
