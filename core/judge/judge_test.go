package judge_test

import (
	"crypto/md5"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/wording"

	"github.com/stretchr/testify/require"

	argon2lib "golang.org/x/crypto/argon2"
)

func join(t testing.TB) *spec.Prepared {
	text, err := os.ReadFile("../../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	p := prepared(t, string(text))
	return p
}

const password = "Maple-row-42"

// argon2 is a cheap hash of a text.
func argon2(salt, text string) string {
	sum := argon2lib.IDKey([]byte(text), []byte(salt), 1, 64, 1, 16)
	return fmt.Sprintf("$argon2id$v=19$m=64,t=1,p=1$%s$%s", base64.RawStdEncoding.EncodeToString([]byte(salt)), base64.RawStdEncoding.EncodeToString(sum))
}

// scene is a submission with what was seen of it, as a site without faults shows it; a test changes what it is about.
type scene struct {
	p    *spec.Prepared
	sent map[string]string
	o    *observation.Step
	e    *oracle.Expectation
}

var names = []string{"_token", "username", "e_mail", "pass", "pass_again", "member_no", "born_on", "plots", "heard", "terms", "ref", "website"}

func (s *scene) submit(t testing.TB) {
	sub := &submission.Submission{Driver: submission.HTTP}
	for _, n := range names {
		if v, ok := s.sent[n]; ok {
			sub.Pairs = append(sub.Pairs, submission.Pair{Name: n, Value: v})
		}
	}
	s.e = oracle.Expect(s.p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub)
	s.o = &observation.Step{Sent: sub, At: time.Now().UTC(), Watched: []string{"plot_holders", "areas"}, Changes: []observation.Change{}}
	s.o.Before = s.page(map[string]string{"ref": "web"}, false)
	require.NotNil(t, s.e)
}

// page is the Join page with values in its controls.
func (s *scene) page(values map[string]string, terms bool) *observation.Page {
	f := &observation.Form{Method: "POST", Action: "http://site/join"}
	for _, n := range names {
		c := observation.Control{Name: n, Type: "text", Value: values[n]}
		switch n {
		case "terms":
			c.Type, c.Checked, c.Value = "checkbox", terms, "yes"
		case "heard":
			c.Type, c.Offered = "select", []string{"", "nb", "od", "br", "xx"}
		}
		f.Controls = append(f.Controls, c)
	}
	return &observation.Page{URL: "http://site/join", Form: f, Texts: []observation.Text{{Text: "Join the association"}, {Text: "Username", Field: "username"}, {Text: "3 to 20 letters", Field: "username"}}}
}

func accepted(t testing.TB) *scene {
	s := &scene{p: join(t), sent: map[string]string{
		"_token": "t", "username": "maple-row", "e_mail": "Moss@bed.test", "pass": password, "pass_again": password, "member_no": "", "born_on": "1974-03-07", "plots": "2", "heard": "nb", "terms": "yes", "ref": "web", "website": "",
	}}
	s.submit(t)
	s.o.Exchanges = []observation.Exchange{
		{Method: "POST", URL: "http://site/join", Status: 303, Location: "http://site/waiting-list"},
		{Method: "GET", URL: "http://site/waiting-list", Status: 200, Body: "<p>Welcome"},
	}
	s.o.After = &observation.Page{URL: "http://site/waiting-list", Texts: []observation.Text{{Text: "Waiting list"}, {Text: "Welcome, maple-row. You are on the waiting list."}}}
	s.o.Changes = []observation.Change{{Table: "plot_holders", Kind: observation.Inserted, Key: "7", After: []observation.Cell{
		{Column: "id", Value: "7"},
		{Column: "login_name", Value: "maple-row"},
		{Column: "mail", Value: "moss@bed.test"},
		{Column: "pass_hash", Value: argon2("saltsalt", password)},
		{Column: "membership", Null: true},
		{Column: "born", Value: "1974-03-07"},
		{Column: "plots_wanted", Value: "2"},
		{Column: "heard_code", Value: "nb"},
		{Column: "agreed", Value: "1"},
		{Column: "agreed_at", Value: s.o.At.Format("2006-01-02 15:04:05.000")},
		{Column: "referral", Value: "web"},
		{Column: "role", Value: "holder"},
		{Column: "confirmed_at", Null: true},
	}}}
	return s
}

func rejected(t testing.TB) *scene {
	s := accepted(t)
	s.sent["username"] = "ab"
	s.submit(t)
	s.o.Exchanges = []observation.Exchange{{Method: "POST", URL: "http://site/join", Status: 422, Body: "<form>"}}
	values := map[string]string{"username": "ab", "e_mail": "Moss@bed.test", "born_on": "1974-03-07", "plots": "2", "heard": "nb", "ref": "web"}
	s.o.After = s.page(values, true)
	s.o.After.Texts = append(s.o.After.Texts, observation.Text{Text: "Use 3 to 20 characters.", Field: "username", Linked: true, Alarm: true})
	return s
}

func (s *scene) cell(column, value string) {
	for i := range s.o.Changes[0].After {
		if c := &s.o.Changes[0].After[i]; c.Column == column {
			c.Value, c.Null = value, false
		}
	}
}

func (s *scene) judge() *judge.Judgement { return worded(s.p, s.e, s.o, nil) }

// odd lists the odd parts: check, part and kind.
func odd(s *judge.Judgement) []string {
	out := []string{}
	for _, c := range s.Checks {
		for _, p := range c.Parts {
			if p.Verdict == judge.Odd {
				out = append(out, string(wording.Check(c.Check))+": "+p.Subject.Older()+": "+kindOf(&p))
			}
		}
	}
	return out
}

func TestAsPromisedNothingIsOdd(t *testing.T) {
	t.Parallel()
	for _, s := range []*scene{accepted(t), rejected(t)} {
		got := s.judge()
		require.Empty(t, odd(got))
		require.Equal(t, judge.AsExpected, got.Verdict, got.Headline)
		require.Len(t, got.Checks, 7)
	}
	require.Equal(t, "Accepted, as expected", string(accepted(t).judge().Headline))
	require.Equal(t, "Rejected, as expected", string(rejected(t).judge().Headline))
}

// TestEachDifferenceIsOdd: a fault-free scene with one thing changed shows exactly the parts that the change concerns.
func TestEachDifferenceIsOdd(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		scene    func(testing.TB) *scene
		change   func(*scene)
		odd      []string
		headline string
	}{
		"another status":        {accepted, func(s *scene) { s.o.Exchanges[0].Status = 302 }, []string{"Response: status: other status"}, "Status 302 instead of 303 after success"},
		"another target":        {accepted, func(s *scene) { s.o.Exchanges[0].Location = "http://site/home" }, []string{"Response: redirect: other target"}, ""},
		"target does not exist": {accepted, func(s *scene) { s.o.Exchanges[1].Status = 404 }, []string{"Response: redirect's target: target does not exist"}, ""},
		"server error": {accepted, func(s *scene) {
			s.o.Exchanges = []observation.Exchange{{Status: 500}}
			s.o.Changes = nil
			s.o.After = &observation.Page{}
		}, []string{"Outcome: outcome: expected accepted, failed", "Response: status: server error", "Stored data: row in plot_holders: no row"}, ""},
		"shows its inside": {rejected, func(s *scene) { s.o.Exchanges[0].Body = "Traceback (most recent call last):" }, []string{"Outcome: outcome: expected rejected by the server, failed", "Response: program's inside: shows its inside"}, "Failed; it should have been rejected by the server"},
		"no answer":        {accepted, func(s *scene) { s.o.Exchanges, s.o.After, s.o.Changes, s.o.Failure = nil, nil, nil, "timed out" }, []string{"Outcome: outcome: expected accepted, failed", "Response: answer: no answer", "Stored data: row in plot_holders: no row"}, ""},

		"thanks all the same": {rejected, func(s *scene) {
			s.o.After.Texts = append(s.o.After.Texts, observation.Text{Text: "Welcome, " + s.sent["username"] + ". You are on the waiting list."})
		}, []string{"Messages: no other message: not expected"}, ""},
		"other text":    {rejected, func(s *scene) { s.o.After.Texts[3].Text = "Too short" }, []string{"Messages: message username.length: text: other text"}, "Wrong message for Username: “Too short”"},
		"another place": {rejected, func(s *scene) { s.o.After.Texts[3].Field = "plots" }, []string{"Messages: message username.length: place: at another place"}, "Message for Username shown at the wrong place: at the control plots"},
		"hidden":        {rejected, func(s *scene) { s.o.After.Texts[3].Hidden = true }, []string{"Messages: message username.length: visible: hidden"}, "Message for Username is in the page, but hidden"},
		"not tied":      {rejected, func(s *scene) { s.o.After.Texts[3].Linked = false }, []string{"Messages: message username.length: tied to its field: not tied to its field"}, ""},
		"missing":       {rejected, func(s *scene) { s.o.After.Texts = s.o.After.Texts[:3] }, []string{"Messages: message username.length: text: missing"}, "No message for Username"},
		"one too many": {rejected, func(s *scene) {
			s.o.After.Texts = append(s.o.After.Texts, observation.Text{Text: "Say how many plots you want.", Field: "plots", Alarm: true})
		}, []string{"Messages: no other message: not expected"}, "Message that no rule promises: “Say how many plots you want.” at the control plots"},
		"before submitting": {rejected, func(s *scene) {
			s.o.Before.Texts = append(s.o.Before.Texts, observation.Text{Text: "Enter your e-mail address.", Field: "e_mail", Alarm: true})
		}, []string{"Messages: before submitting: shown before submitting"}, ""},
		"no reply":        {accepted, func(s *scene) { s.o.After.Texts = s.o.After.Texts[:1] }, []string{"Messages: success reply: missing"}, "Accepted, but the success reply is missing"},
		"reply is hidden": {accepted, func(s *scene) { s.o.After.Texts[1].Hidden = true }, []string{"Messages: success reply: hidden"}, ""},

		"not refilled":       {rejected, func(s *scene) { s.o.After.Form.Control("e_mail").Value = "" }, []string{"Values kept: email: not refilled"}, "E-mail is lost after a rejection"},
		"refilled otherwise": {rejected, func(s *scene) { s.o.After.Form.Control("plots").Value = "1" }, []string{"Values kept: plots: other value"}, ""},
		"NUL as HTML has it": {rejected, func(s *scene) {
			s.e.Refilled[0].Sent, s.e.Refilled[0].Normal = "a\x00b", "a\x00b"
			s.o.After.Form.Control(s.p.Field(s.e.Refilled[0].Field).Name).Value = "a\ufffdb"
		}, []string{}, ""},
		"refilled as stored": {rejected, func(s *scene) { s.o.After.Form.Control("e_mail").Value = "moss@bed.test" }, []string{}, ""},
		"password refilled":  {rejected, func(s *scene) { s.o.After.Form.Control("pass").Value = password }, []string{"Values kept: password: filled"}, "Password is still filled in after a rejection"},
		"tick lost":          {rejected, func(s *scene) { s.o.After.Form.Control("terms").Checked = false }, []string{"Values kept: terms: not refilled"}, ""},
		"form gone":          {rejected, func(s *scene) { s.o.After.Form = nil }, []string{"Values kept: form: form gone"}, ""},

		"cut short":    {accepted, func(s *scene) { s.cell("login_name", "maple") }, []string{"Stored data: plot_holders.login_name: cut short"}, "Username stored cut to 5 characters (plot_holders.login_name)"},
		"other case":   {accepted, func(s *scene) { s.cell("mail", "Moss@bed.test") }, []string{"Stored data: plot_holders.mail: other case"}, "E-mail stored with other capitals than promised (plot_holders.mail)"},
		"spaces kept":  {accepted, func(s *scene) { s.cell("login_name", " maple-row") }, []string{"Stored data: plot_holders.login_name: spaces kept"}, ""},
		"other value":  {accepted, func(s *scene) { s.cell("heard_code", "od") }, []string{"Stored data: plot_holders.heard_code: other value"}, "How you heard of us: “od” stored instead of “nb” (plot_holders.heard_code)"},
		"not NULL":     {accepted, func(s *scene) { s.cell("membership", "") }, []string{"Stored data: plot_holders.membership: not NULL"}, ""},
		"lost":         {accepted, func(s *scene) { s.cell("referral", "") }, []string{"Stored data: plot_holders.referral: lost"}, ""},
		"reversed":     {accepted, func(s *scene) { s.cell("agreed", "0") }, []string{"Stored data: plot_holders.agreed: other value"}, ""},
		"same number":  {accepted, func(s *scene) { s.cell("plots_wanted", "2.00") }, []string{}, ""},
		"same day":     {accepted, func(s *scene) { s.cell("born", "1974-03-07 00:00:00") }, []string{}, ""},
		"another day":  {accepted, func(s *scene) { s.cell("born", "1974-07-03") }, []string{"Stored data: plot_holders.born: other value"}, ""},
		"another hour": {accepted, func(s *scene) { s.cell("agreed_at", s.o.At.Add(time.Hour).Format("2006-01-02 15:04:05")) }, []string{}, ""},
		"the site's clock is off": {accepted, func(s *scene) {
			s.o.Exchanges[0].ResponseHeader = []observation.Header{{Name: "Date", Value: s.o.At.Add(7 * time.Minute).UTC().Format(http.TimeFormat)}}
			s.cell("agreed_at", s.o.At.Add(7*time.Minute).Format("2006-01-02 15:04:05"))
		}, []string{}, ""},
		"another minute": {accepted, func(s *scene) { s.cell("agreed_at", s.o.At.Add(3*time.Minute).Format("2006-01-02 15:04:05")) }, []string{"Stored data: plot_holders.agreed_at: other time"}, ""},
		"as markup":      {accepted, func(s *scene) { s.cell("login_name", "maple&amp;row") }, []string{"Stored data: plot_holders.login_name: stored as markup"}, ""},
		"another row": {accepted, func(s *scene) {
			s.o.Changes = append(s.o.Changes, observation.Change{Table: "areas", Kind: observation.Changed, Key: "east"})
		}, []string{"Stored data: other rows: another row changed"}, "Another row changed as well: row with key east changed in areas"},
		"no row": {accepted, func(s *scene) { s.o.Changes = nil }, []string{"Outcome: outcome: expected accepted, contradictory", "Stored data: row in plot_holders: no row"}, ""},
		"a row of a rejection": {rejected, func(s *scene) {
			s.o.Changes = []observation.Change{{Table: "plot_holders", Kind: observation.Inserted, Key: "8"}}
		}, []string{"Outcome: outcome: expected rejected by the server, contradictory", "Stored data: other rows: a row inserted"}, ""},

		"plain":            {accepted, func(s *scene) { s.cell("pass_hash", password) }, []string{"Secrets: plot_holders.pass_hash: stored in plain text"}, "Password stored in plain text (plot_holders.pass_hash)"},
		"weaker than said": {accepted, func(s *scene) { s.cell("pass_hash", "$6$salt$hash") }, []string{"Secrets: plot_holders.pass_hash: stored sha512-crypt"}, ""},
		"in a column":      {accepted, func(s *scene) { s.cell("referral", password) }, []string{"Stored data: plot_holders.referral: other value", "Secrets: password in other columns: stored", "Secrets: again in other columns: stored"}, ""},
		"in the page": {accepted, func(s *scene) {
			s.o.Exchanges[1].Body = "<!-- " + base64.StdEncoding.EncodeToString([]byte(password)) + " -->"
		}, []string{"Secrets: password in the response: shown", "Secrets: again in the response: shown"}, "Password shown in the page /waiting-list (base64)"},
		"in the redirect": {accepted, func(s *scene) { s.o.Exchanges[0].Location += "?p=" + password }, []string{"Secrets: password in the response: shown", "Secrets: again in the response: shown"}, ""},
		"in a header": {accepted, func(s *scene) {
			s.o.Exchanges[0].ResponseHeader = []observation.Header{{Name: "X-Debug", Value: password}}
		}, []string{"Secrets: password in the response: shown", "Secrets: again in the response: shown"}, ""},

		"nothing happened": {rejected, func(s *scene) {
			s.o.Exchanges[0].Status = 200
			s.o.After.Texts = s.o.After.Texts[:3]
		}, []string{"Outcome: outcome: expected rejected by the server, silent", "Messages: message username.length: text: missing"}, "Nothing happened; it should have been rejected by the server"},
		"success without a row": {rejected, func(s *scene) {
			s.o.Exchanges[0].Status, s.o.Exchanges[0].Location = 303, "http://site/waiting-list"
			s.o.After = &observation.Page{}
		}, []string{"Outcome: outcome: expected rejected by the server, contradictory", "Messages: message username.length: text: missing"}, ""},
	} {
		s := c.scene(t)
		c.change(s)
		got := s.judge()
		require.Equal(t, c.odd, odd(got), name)
		want := judge.Odd
		if len(c.odd) == 0 {
			want = judge.AsExpected
		}
		require.Equal(t, want, got.Verdict, name)
		if c.headline != "" {
			require.Equal(t, c.headline, string(got.Headline), name)
		}
	}
}

func TestAHintWithTheMessagesTextIsNoMessage(t *testing.T) {
	t.Parallel()
	s := rejected(t)
	hint := observation.Text{Text: "Use 3 to 20 characters.", Field: "username"}
	s.o.Before.Texts = append(s.o.Before.Texts, hint)
	s.o.After.Texts = append(s.o.After.Texts, hint)
	require.Empty(t, odd(s.judge()))
	s.o.After.Texts = s.o.After.Texts[:3]
	s.o.After.Texts = append(s.o.After.Texts, hint)
	require.Equal(t, []string{"Messages: message username.length: text: missing"}, odd(s.judge()))
}

func TestWithoutADatabaseNothingIsCountedAsPassed(t *testing.T) {
	t.Parallel()
	s := accepted(t)
	s.o.Watched, s.o.Changes = nil, nil
	got := s.judge()
	require.Equal(t, judge.NotObserved, got.Verdict)
	require.Equal(t, judge.NotObserved, got.Checks[4].Verdict)
	require.Equal(t, judge.AsExpected, got.Checks[0].Verdict, "the outcome is told by status and target")
}

func TestAReloadMayNotWrite(t *testing.T) {
	t.Parallel()
	s := accepted(t)
	s.e = &oracle.Expectation{Outcome: oracle.NothingFurther}
	require.Equal(t, []string{"Outcome: outcome: submitted again", "Stored data: other rows: a row inserted"}, odd(s.judge()))
	s.o.Changes = nil
	require.Empty(t, odd(s.judge()))
}

func TestFreshSalt(t *testing.T) {
	t.Parallel()
	first, second := accepted(t), accepted(t)
	got := worded(second.p, second.e, second.o, []*observation.Step{first.o})
	require.Equal(t, []string{"Secrets: plot_holders.pass_hash: salt: the same salt"}, odd(got))
	second.cell("pass_hash", argon2("othersalt", password))
	require.Empty(t, odd(worded(second.p, second.e, second.o, []*observation.Step{first.o})))
}

func TestSessionRenewed(t *testing.T) {
	t.Parallel()
	s := accepted(t)
	s.e.SessionRenewed = true
	s.o.CookiesBefore, s.o.CookiesAfter = map[string]string{"sid": "a"}, map[string]string{"sid": "a"}
	require.Equal(t, []string{"Session: session id: not renewed"}, odd(s.judge()))
	s.o.CookiesAfter["sid"] = "b"
	require.Empty(t, odd(s.judge()))
}

func TestValuesShownAgain(t *testing.T) {
	t.Parallel()
	s := accepted(t)
	s.e.Shown = []oracle.Shown{{Page: "/waiting-list", At: "li", Text: "maple-row"}}
	require.Equal(t, judge.NotObserved, s.judge().Checks[2].Verdict, "a page that was not opened is not counted as passed")
	s.o.Shown = []observation.ShownAt{{Page: "/waiting-list", Texts: []string{"fern", "1. maple-row"}}}
	require.Empty(t, odd(s.judge()))
	s.o.Shown[0].Texts = s.o.Shown[0].Texts[:1]
	got := s.judge()
	require.Equal(t, []string{"Messages: shown on /waiting-list li: not shown"}, odd(got))
	require.Equal(t, "The saved value is not shown on /waiting-list", string(got.Headline))
	s.o.Shown[0].Failure = "status 404"
	require.Len(t, odd(s.judge()), 1)
}

func TestTheFormAfterAcceptance(t *testing.T) {
	t.Parallel()
	filled := map[string]string{"username": "maple-row", "e_mail": "moss@bed.test", "born_on": "1974-03-07", "plots": "2", "heard": "nb"}
	for promised, c := range map[string]struct {
		page func(s *scene) *observation.Page
		odd  int
	}{
		"gone":   {func(*scene) *observation.Page { return &observation.Page{} }, 0},
		"blank":  {func(s *scene) *observation.Page { return s.page(nil, false) }, 0},
		"filled": {func(s *scene) *observation.Page { return s.page(filled, true) }, 0},
		"gone ":  {func(s *scene) *observation.Page { return s.page(nil, false) }, 1},
		"blank ": {func(s *scene) *observation.Page { return s.page(map[string]string{"username": "maple-row"}, true) }, 2},
		"filled ": {func(s *scene) *observation.Page {
			return s.page(map[string]string{"username": "fern", "e_mail": "moss@bed.test", "born_on": "1974-03-07", "plots": "2", "heard": "od"}, true)
		}, 2},
		"blank  ": {func(*scene) *observation.Page { return &observation.Page{} }, 1},
	} {
		s := accepted(t)
		s.e.Form = strings.TrimSpace(promised)
		texts := s.o.After.Texts
		s.o.After = c.page(s)
		s.o.After.Texts = texts
		got := odd(s.judge())
		require.Len(t, got, c.odd, "%s: %v", promised, got)
		for _, part := range got {
			require.Contains(t, part, "Values kept: ")
			require.Contains(t, part, "not "+s.e.Form)
		}
	}
}

func TestTheFormAsItWasOpened(t *testing.T) {
	t.Parallel()
	s := accepted(t)
	s.e.Form = "initial"
	texts := s.o.After.Texts
	set := func(p *observation.Page) {
		s.o.After = p
		s.o.After.Texts = texts
	}
	opened := s.page(map[string]string{"heard": "od"}, false)
	s.o.Before.Form = opened.Form
	set(s.page(map[string]string{"heard": "od"}, false))
	require.Empty(t, odd(s.judge()))
	set(s.page(nil, false)) // emptied, not back to what it was
	require.Equal(t, []string{"Values kept: heard: not as it was opened"}, odd(s.judge()))
	set(&observation.Page{})
	require.Equal(t, []string{"Values kept: form: form gone"}, odd(s.judge()))
}

func TestClassify(t *testing.T) {
	t.Parallel()
	for stored, want := range map[string]judge.Value{
		password:                            {Is: judge.PlainText},
		"TWFwbGUtcm93LTQy":                  {Is: judge.Reversible, Of: "base64"},
		"4d61706c652d726f772d3432":          {Is: judge.Reversible, Of: "hexadecimal"},
		"$2y$10$" + strings.Repeat("a", 53): {Is: judge.HashKind, Of: "bcrypt"},
		"$argon2id$v=19$m=1":                {Is: judge.HashKind, Of: "argon2id"},
		"$7$C6....":                         {Is: judge.HashKind, Of: "scrypt"},
		"$pbkdf2-sha256$29000$x$y":          {Is: judge.HashKind, Of: "pbkdf2"},
		"$1$abc$def":                        {Is: judge.HashKind, Of: "md5-crypt"},
		"x" + password + "x":                {Is: judge.PlainWithin},
		strings.Repeat("ab", 20):            {Is: judge.FastOrUnknown, Of: "20", N: 20},
		"something":                         {Is: judge.UnknownForm},
		"c0a4a6d4b3a9":                      {Is: judge.UnknownForm},
	} {
		require.Equal(t, want, judge.Classify(password, stored), stored)
	}
	md5Sum, sha := md5.Sum([]byte(password)), sha256.Sum256([]byte(password))
	require.Equal(t, judge.Value{Is: judge.FastHash, Of: "MD5"}, judge.Classify(password, strings.ToUpper(hex.EncodeToString(md5Sum[:]))))
	require.Equal(t, judge.Value{Is: judge.FastHash, Of: "SHA-256"}, judge.Classify(password, base64.StdEncoding.EncodeToString(sha[:])))
}

func TestVerdictsFold(t *testing.T) {
	t.Parallel()
	step := func(v judge.Verdict) *judge.Judgement {
		checks := make([]judge.Check, 7)
		for i := range checks {
			checks[i].Verdict = judge.AsExpected
		}
		checks[2].Verdict = v
		return &judge.Judgement{Verdict: v, Checks: checks}
	}
	require.Equal(t, judge.Odd, judge.Case([]*judge.Judgement{step(judge.AsExpected), step(judge.Odd), step(judge.NotObserved)}))
	require.Equal(t, judge.NotObserved, judge.Case([]*judge.Judgement{step(judge.AsExpected), step(judge.NotObserved)}))
	require.Equal(t, judge.AsExpected, judge.Case([]*judge.Judgement{step(judge.AsExpected), step(judge.DoesNotApply)}))
	require.Equal(t, judge.Odd, judge.CaseChecks([]*judge.Judgement{step(judge.Odd), step(judge.AsExpected)})[2])
	none := judge.Unobserved("no unused value left")
	require.Equal(t, judge.NotObserved, none.Verdict)
	require.Len(t, none.Checks, 7)
}

func TestCausesAcrossRows(t *testing.T) {
	t.Parallel()
	column := report.Reason{Cause: report.Cause{Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.ColumnValue, Table: "t", Column: "heard"}, Difference: judge.OtherValue}, Headline: "h"}
	session := report.Reason{Cause: report.Cause{Check: judge.Session, Subject: judge.Subject{Aspect: judge.SessionID}, Difference: judge.NotRenewed}}
	outcome := func(row string) report.Reason {
		return report.Reason{Cause: report.Cause{Row: row, Check: judge.Outcome, Subject: judge.Subject{Aspect: judge.OutcomeAspect}, Difference: judge.OtherOutcome}}
	}
	groups := report.ByCause([]report.Summary{
		{Case: "a", Row: "username", Reasons: []report.Reason{column, session}},
		{Case: "b", Row: "email", Reasons: []report.Reason{column, session}},
		{Case: "c", Row: "username", Reasons: []report.Reason{outcome("username")}},
		{Case: "d", Row: "plots", Reasons: []report.Reason{outcome("plots")}},
		{Case: "e", Row: "plots"},
	})
	require.Len(t, groups, 3)
	require.Empty(t, groups[0].Row)
	require.Equal(t, []string{"a", "b"}, groups[0].Cases)
	require.True(t, groups[0].Has(session.Cause), "what always comes together is one")
	require.Equal(t, "plots", groups[2].Row)
	groups = report.ByCause([]report.Summary{{Case: "a", Reasons: []report.Reason{column, session}}, {Case: "b", Reasons: []report.Reason{column}}})
	require.Len(t, groups, 2, "one of them shows without the other")
	require.Equal(t, []string{"a"}, groups[1].Cases)
}
