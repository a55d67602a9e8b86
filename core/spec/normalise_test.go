package spec_test

import (
	"testing"
	"time"

	"oddtick/core/document"
	"oddtick/core/spec"
	"oddtick/core/values"

	"github.com/stretchr/testify/require"
)

func Prepared(t testing.TB, text string) *spec.Prepared {
	f, err := spec.ReadForm("f.yaml", []byte(text))
	require.NoError(t, err, text)
	p, err := f.Prepare()
	require.NoError(t, err)
	return p
}

func TestTheServersStepsInTheirOrder(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ steps, sent, normal string }{
		{"[trim]", "\u00a0 a b\u2003\n", "a b"},
		{"[collapse]", " a \t b ", "a b"},
		{"[line_feeds]", "a\r\nb\rc\nd", "a\nb\nc\nd"},
		{"[trim, lower]", " ÄB ", "äb"},
		{"[upper]", "ärger 1", "ÄRGER 1"},
		{"[nfc]", "e\u0301", "\u00e9"},
		{`[{strip: " -"}]`, "12-34 56", "123456"},
		{`[{strip: "-"}]`, "12-34 56", "1234 56"},
		{`[{date: "DD.MM.YYYY"}]`, "07.03.1974", "1974-03-07"},
		{`[{date: "DD.MM.YYYY"}]`, "7. March", "7. March"},
		{`[{date: "MM/DD/YYYY"}]`, "03/07/1974", "1974-03-07"},
		{`[{number: "1.234,5"}]`, "1.234.567,25", "1234567.25"},
		{`[{number: "0,5"}]`, "12,5", "12.5"},
	} {
		f := Prepared(t, "form: f\npage: /\nfields: [{name: a, normalize: "+c.steps+"}]\n").Fields[0]
		v := f.ValueOf(c.sent, true)
		require.Equal(t, c.normal, v.Normal, c.steps)
		require.Equal(t, c.sent, v.Sent)
	}
	for _, bad := range []string{"[shout]", `[{date: "DD.MM"}]`, `["number"]`, `[{number: "1a2b3c4"}]`} {
		_, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nfields: [{name: a, normalize: "+bad+"}]\n"))
		require.ErrorContains(t, err, "fields[0].normalize[0]", bad)
	}
}

// TestFormatsAreReadAndWritten: what a visitor writes, and the value that it means; what is none stays.
func TestFormatsAreReadAndWritten(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ kind, format, value, written string }{
		{"date", "D.M.YYYY", "2026-03-07", "7.3.2026"},
		{"date", "DD/MM/YYYY", "2026-03-07", "07/03/2026"},
		{"date", "D MMMM YYYY", "2026-12-24", "24 December 2026"},
		{"date", "DD-MMM-YY", "2026-12-24", "24-Dec-26"},
		{"time", "h:mm AM", "16:05", "4:05 PM"},
		{"time", "HH.mm", "09:30", "09.30"},
		{"time", "HH:mm:ss", "09:30:15", "09:30:15"},
		{"datetime", "DD/MM/YYYY HH:mm", "2026-03-07T16:05", "07/03/2026 16:05"},
		{"number", "1.234,50", "1234567.5", "1.234.567,50"},
		{"number", "1.234,50", "-12", "-12,00"},
		{"number", "1,234.5", "1234", "1,234.0"},
		{"number", "0,5", "2.125", "2,125"},
		{"number", "£1,234.50", "1234.5", "£1,234.50"},
		{"number", "£1,234.50", "-7", "-£7.00"},
		{"number", "EUR 1.234,50", "-1234567.25", "EUR -1.234.567,25"},
		{"number", "1.234,50 €", "-12", "-12,00 €"},
	} {
		f := Prepared(t, "form: f\npage: /\nfields: [{name: a, kind: "+c.kind+", format: \""+c.format+"\"}]\n").Fields[0]
		require.Equal(t, c.written, f.Written(c.value), c.format)
		v := f.ValueOf(c.written, true)
		if c.kind == "number" {
			want, err := values.ParseDecimal(c.value)
			require.NoError(t, err)
			got, err := values.ParseDecimal(v.Normal)
			require.NoError(t, err, v.Normal)
			require.Zero(t, want.Cmp(got), "%s: %s", c.format, v.Normal)
		} else {
			require.Equal(t, c.value, v.Normal, c.format)
		}
		require.Equal(t, "soon", f.Written("soon"))
		require.Equal(t, "soon", f.ValueOf("soon", true).Normal)
	}
	f := Prepared(t, "form: f\npage: /\nfields: [{name: a, kind: date, format: D.M.YYYY}]\n").Fields[0]
	require.Equal(t, "30.2.2001", f.Written("2001-02-30"), "a day that does not exist is written all the same")
	for _, bad := range []string{"kind: date, format: DD.MM", "kind: date, format: D.M.YYYY HH", "kind: time, format: h:mm", "kind: time, format: mm", "kind: date, format: D.X.YYYY", "kind: text, format: D.M.YYYY", "kind: number, format: a1b2c3"} {
		_, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nfields: [{name: a, "+bad+"}]\n"))
		require.ErrorContains(t, err, "fields[0].format", bad)
	}
}

// TestTelephoneNumbersAreKeptWithTheirCallingCode; what is none stays as it is.
func TestTelephoneNumbersAreKeptWithTheirCallingCode(t *testing.T) {
	t.Parallel()
	f := Prepared(t, "form: f\npage: /\nfields: [{name: a, kind: tel, normalize: [{phone: \"+44\"}]}]\n").Fields[0]
	for sent, kept := range map[string]string{
		"01632 960 123": "+441632960123", "(01632) 960-123": "+441632960123", "00 44 1632 960123": "+441632960123", "+44 1632.960123": "+441632960123",
		"1632960123": "+441632960123", "+49 30 5550123": "+49305550123", "call me": "call me", "01632 x": "01632 x", "+": "+", "": "",
	} {
		require.Equal(t, kept, f.Normal(sent), sent)
	}
	for _, bad := range []string{"44", "+0", "+4444", "GB"} {
		_, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nfields: [{name: a, normalize: [{phone: \""+bad+"\"}]}]\n"))
		require.ErrorContains(t, err, "fields[0].normalize[0]", bad)
	}
}

func TestRulesOfFurtherKinds(t *testing.T) {
	t.Parallel()
	now := time.Date(2026, 6, 15, 12, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		field      string
		good, bad  []string
		rule, kind string
	}{
		{"kind: url, rules: [{url: {}}]", []string{"http://a.test", "https://a.test:8080/x?y#z", "mailto:a@b.test", "ftp://a/b"}, []string{"a.test", "http:/a", "http://", "http://a b", "//a.test"}, "f.url", "url"},
		{"kind: number, rules: [{decimals: {max: 2}}]", []string{"1", "1.25", "-0.1"}, []string{"1.255", "0.001"}, "f.decimals", "decimals"},
		{"kind: time", []string{"09:30", "23:59:59"}, []string{"9:30", "24:00", "soon"}, "f.time", "time"},
		{`kind: time, rules: [{range: {min: "08:00", max: "20:00"}}]`, []string{"08:00", "20:00"}, []string{"07:59", "20:00:01"}, "f.range", "range"},
		{`kind: datetime, rules: [{range: {max: now}}]`, []string{"2026-06-15T12:00", "2020-01-01T00:00"}, []string{"2026-06-15T12:01"}, "f.range", "range"},
		{"kind: multiple_choice, options: [{value: a}, {value: b}]", []string{"a", "b"}, []string{"c"}, "f.listed", "one_of_options"},
	} {
		p := Prepared(t, "form: f\npage: /\nfields: [{id: f, name: f, "+c.field+"}]\n")
		var rule *spec.PreparedRule
		for _, r := range p.Rules {
			if r.ID == c.rule {
				rule = r
			}
		}
		require.NotNil(t, rule, c.field)
		require.Equal(t, spec.RuleKind(c.kind), rule.Kind)
		for _, text := range append(c.good, "") {
			v := p.Fields[0].ValueOf(text, text != "")
			require.True(t, rule.Passes(&v, now), "%s: %q", c.field, text)
		}
		for _, text := range c.bad {
			v := p.Fields[0].ValueOf(text, true)
			require.False(t, rule.Passes(&v, now), "%s: %q", c.field, text)
		}
	}
}

func TestSitesAreReadWhole(t *testing.T) {
	t.Parallel()
	p, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte(`
site: ost
address: http://127.0.0.1:1
headers: {X-Stage: one}
authentication: {user: u, password: p}
languages: [en, cy]
databases: [{id: main, dsn: x, ignore: [log]}]
accounts: [{id: amy, name: amy, password: s, state: member}]
sign_in: {page: /sign-in, name: who, password: pw}
states:
  - {id: guest, may_open: [/, /join]}
  - {id: member, when: 'confirmed', may_open: [/me], denied: /sign-in}
journeys:
  - {id: join, steps: [{submit: join, then: waiting}, {wait_for: mail}, {sign_in: amy, then: member}]}
mail: {receive: 127.0.0.1:2525}
`)}})
	require.NoError(t, err)
	require.Equal(t, "member", p.Site.Journeys[0].Steps[2].Then)
	require.Equal(t, []string{"/me"}, p.Site.States[1].MayOpen)
	require.True(t, p.Site.MayMark())
	open, secrets := p.Site.Split()
	require.Equal(t, "p", secrets.Authentication)
	require.Equal(t, map[string]string{"amy": "s"}, secrets.Accounts)
	require.Empty(t, open.Authentication.Password+open.Accounts[0].Password+open.Databases[0].DSN+open.Headers["X-Stage"])
	require.Equal(t, "p", p.Site.Authentication.Password, "the site itself keeps its own")
	open.Join(secrets)
	require.Equal(t, p.Site.Accounts, open.Accounts)
	require.Equal(t, p.Site.Headers, open.Headers)
	_, err = spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte("site: a\ndatabases: [{kind: informix}]\n")}})
	require.ErrorContains(t, err, `databases[0].kind: "informix" is not known here; write one of: mariadb, mysql`)
}

// TestASiteDocumentIsRewrittenWhereItChanged: comments and order of all else stay.
func TestASiteDocumentIsRewrittenWhereItChanged(t *testing.T) {
	t.Parallel()
	const text = "# ours\nsite: ost   # its id\naddress: http://a.test  # the staging one\nallowed: [b.test]\ntitle: Old\n"
	site := &spec.Site{Site: "ost", Address: "http://c.test", Title: "Old", MaxParallel: 2}
	out, err := document.RewriteSite(site, []byte(text))
	require.NoError(t, err)
	require.Equal(t, "# ours\nsite: ost   # its id\naddress: \"http://c.test\"  # the staging one\ntitle: Old\nmax_parallel: 2\n", string(out))
	same, err := document.RewriteSite(site, out)
	require.NoError(t, err)
	require.Equal(t, string(out), string(same))
	fresh, err := document.RewriteSite(site, nil)
	require.NoError(t, err)
	p, err := spec.ReadProject([]spec.File{{Name: "s.yaml", Text: fresh}})
	require.NoError(t, err)
	require.Equal(t, 2, p.Site.MaxParallel)
}
