package page_test

import (
	"strings"
	"testing"

	"oddtick/core/observation"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

func read(t testing.TB, body string, names ...string) *observation.Page {
	p, err := page.Read(body, "http://site.test/a/form", names)
	require.NoError(t, err)
	return p
}

func TestTheFormWithMostOfTheNamesIsRead(t *testing.T) {
	t.Parallel()
	p := read(t, `<form action="/search"><input name=q></form>
		<form method=post action="../join?x=1#there" enctype="multipart/form-data"><input name=user><input name=q></form>`, "user", "q")
	require.Equal(t, "POST", p.Form.Method)
	require.Equal(t, "http://site.test/join?x=1", p.Form.Action)
	require.Equal(t, "multipart", p.Form.Encoding)
	require.Nil(t, read(t, `<form><input name=other></form>`, "user").Form)
	require.Equal(t, []string{"q", "user, q"}, page.Forms(`<form><input name=q></form><form><input name=user><input name=q></form>`))
	require.Equal(t, "http://site.test/a/form", read(t, `<form><input name=user></form>`, "user").Form.Action)
}

func TestControls(t *testing.T) {
	t.Parallel()
	p := read(t, `<form id=f><input type=hidden name=token value=abc><input name=user value=" a ">
		<textarea name=note>
first
second</textarea>
		<select name=area><option>Brook side</option><option value=e selected>East</option></select>
		<select name=none></select>
		<input type=checkbox name=terms checked><input type=radio name=share value=h><input type=radio name=share value=w checked>
		<fieldset disabled><input name=off></fieldset>
		<button name=go value=1>Go</button><button name=other value=2>Other</button><input type=button name=js></form>
		<input name=far form=f value=x aria-invalid=true>`, "user")
	got := map[string]observation.Control{}
	order := []string{}
	for _, c := range p.Form.Controls {
		got[c.Name+c.Value] = c
		order = append(order, c.Name)
	}
	require.Equal(t, "token user note area none terms share share off go far", strings.Join(order, " "))
	require.Equal(t, "first\nsecond", p.Form.Control("note").Value)
	require.Equal(t, []string{"Brook side", "e"}, p.Form.Control("area").Offered)
	require.Equal(t, "e", p.Form.Control("area").Value)
	require.True(t, p.Form.Control("terms").Checked)
	require.Equal(t, "on", p.Form.Control("terms").Value)
	require.False(t, got["shareh"].Checked)
	require.True(t, got["sharew"].Checked)
	require.True(t, p.Form.Control("off").Disabled)
	require.True(t, p.Form.Control("far").Invalid)
	require.Nil(t, p.Form.Control("nobody"))
}

// at finds a text of a page.
func at(t testing.TB, p *observation.Page, text string) observation.Text {
	var found []observation.Text
	for _, x := range p.Texts {
		if x.Text == text {
			found = append(found, x)
		}
	}
	require.Len(t, found, 1, "%q in %+v", text, p.Texts)
	return found[0]
}

const wrong = "That is wrong."

// TestWhereAMessageStands: the same message in the ways pages place it.
func TestWhereAMessageStands(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		body string
		want observation.Text
	}{
		"referred to":             {`<form><input name=a aria-describedby="m"><input name=b><p id=m class=error>That is wrong.</p></form>`, observation.Text{Field: "a", Linked: true, Alarm: true}},
		"by aria-errormessage":    {`<form><input name=a aria-errormessage="m"><input name=b><div id=m><b>That is wrong.</b></div></form>`, observation.Text{Field: "a", Linked: true}},
		"in the control's group":  {`<form><div><label>A</label><input name=a><p>That is wrong.</p></div><div><input name=b></div></form>`, observation.Text{Field: "a"}},
		"in the label":            {`<form><label>A <input name=a> <span class=invalid-feedback>That is wrong.</span></label><input name=b></form>`, observation.Text{Field: "a", Alarm: true}},
		"in the table's row":      {`<form><table><tr><td>A<td><input name=a><td class=err>That is wrong.<tr><td>B<td><input name=b></table></form>`, observation.Text{Field: "a", Alarm: true}},
		"right behind it":         {`<form>A <input name=a> <span class=error>That is wrong.</span><br>B <input name=b></form>`, observation.Text{Field: "a", Alarm: true}},
		"between label and it":    {`<form><label for=a>A</label><p class=error>That is wrong.</p><input id=a name=a><label for=b>B</label><input id=b name=b></form>`, observation.Text{Field: "a", Alarm: true}},
		"radio buttons":           {`<form><fieldset><legend>S</legend><input type=radio name=a><input type=radio name=a><p>That is wrong.</p></fieldset><input name=b></form>`, observation.Text{Field: "a"}},
		"above the form":          {`<div role=alert><ul><li>That is wrong.</ul></div><form><input name=a><input name=b></form>`, observation.Text{Alarm: true}},
		"within, above all":       {`<form><div class="alert alert-danger">That is wrong.</div><p><input name=a></p><p><input name=b></p></form>`, observation.Text{Alarm: true}},
		"a form of one control":   {`<main><form><input name=a></form><p>That is wrong.</p></main><input name=z>`, observation.Text{}},
		"hidden":                  {`<form><div><input name=a><p hidden>That is wrong.</p></div><input name=b></form>`, observation.Text{Field: "a", Hidden: true}},
		"hidden by style":         {`<form><div><input name=a><p style="display: none">That is wrong.</p></div><input name=b></form>`, observation.Text{Field: "a", Hidden: true}},
		"hidden with all around":  {`<form><div hidden><input name=a><p>That is wrong.</p></div><input name=b></form>`, observation.Text{Field: "a", Hidden: true}},
		"nor when announced":      {`<p role=alert class="flash ok">That is wrong.</p><form><input name=a></form>`, observation.Text{}},
		"success is not an alarm": {`<p class="alert alert-success">That is wrong.</p><form><input name=a></form>`, observation.Text{}},
		"a group marked as wrong": {`<form><div class="field error"><label>A</label><input name=a><p>That is wrong.</p></div><input name=b></form>`, observation.Text{Field: "a"}},
	} {
		c.want.Text = wrong
		require.Equal(t, c.want, at(t, read(t, c.body, "a", "b"), wrong), name)
	}
}

// TestNamesThatSoundAnAlarm: whole words of a class or an id count, however they are joined.
func TestNamesThatSoundAnAlarm(t *testing.T) {
	t.Parallel()
	for name, want := range map[string]bool{
		"error": true, "field-error": true, "FORM_ERRORS": true, "is-invalid": true, "help alert": true, "validation-failed": true,
		"mirror": false, "terror-free": false, "errorless": false, "invalidate": false, "": false, "--": false,
		"alert alert-success": false, "errors_confirmed": false,
	} {
		p := read(t, `<p class="`+name+`">`+wrong+`</p><form><input name=a></form>`, "a")
		require.Equal(t, want, at(t, p, wrong).Alarm, name)
	}
}

func TestWhatIsAText(t *testing.T) {
	t.Parallel()
	p := read(t, `<html lang=cy><head><title> A page </title></head><body>loose <b>text</b>, joined
		<script>var x = "script"</script><style>p{}</style><template>inert</template><noscript>none</noscript>
		<p>One <span class=name>Moss</span> more.</p><p>line<br>break</p><textarea name=a>typed</textarea><select name=b><option>offered</option></select>
		<svg><text>drawn</text></svg><!-- said nowhere --><p>   </p></body></html>`, "a")
	var got []string
	for _, x := range p.Texts {
		got = append(got, x.Text)
	}
	require.Equal(t, []string{"loose text, joined", "One Moss more.", "Moss", "line", "break"}, got)
	require.Equal(t, "A page", p.Title)
	require.Equal(t, "cy", p.Language)
}

func TestTextsAtASelector(t *testing.T) {
	t.Parallel()
	const body = `<ul><li data-me>Moss  <b>row</b></li><li>Fern</li></ul>`
	for selector, want := range map[string][]string{"li[data-me]": {"Moss row"}, "li": {"Moss row", "Fern"}, "": {"Moss rowFern"}, "p": nil} {
		got, err := page.TextsAt(body, selector)
		require.NoError(t, err)
		require.Equal(t, want, got, selector)
	}
	_, err := page.TextsAt(body, "li[")
	require.ErrorContains(t, err, `the selector "li[" cannot be read`)
}

func TestBrokenPagesAreRead(t *testing.T) {
	t.Parallel()
	for _, body := range []string{"", "<", "<form><input name=a", "</form></div>", "plain text", strings.Repeat("<div>", 300) + "<form><input name=a>"} {
		_, err := page.Read(body, "http://site.test/", []string{"a"})
		require.NoError(t, err)
	}
	_, err := page.Read(strings.Repeat("<div>", 3000), "http://site.test/", []string{"a"})
	require.ErrorContains(t, err, "read the page http://site.test/")
}

func FuzzReadPage(f *testing.F) {
	f.Add(`<form><input name=a aria-describedby=x><p id=x>No</p></form>`)
	f.Add(`<table><form><tr><input name=a><select><option selected>`)
	f.Fuzz(func(t *testing.T, body string) {
		p, err := page.Read(body, "http://site.test/", []string{"a"})
		if err != nil {
			return
		}
		for _, text := range p.Texts {
			if text.Text == "" {
				t.Fatal("an empty text was read")
			}
		}
	})
}
