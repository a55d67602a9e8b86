package page_test

import (
	"testing"

	"oddtick/core/observation"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

// first describes the first field of a form.
func first(t testing.TB, inside string) observation.FieldOnPage {
	d, err := page.Describe("<html><body><form action=/x>"+inside+"</form></body></html>", "http://site.test/page")
	require.NoError(t, err)
	require.NotEmpty(t, d.Forms[0].Fields, inside)
	return d.Forms[0].Fields[0]
}

// TestALabelIsFoundByEveryWay, and the way that counts most wins.
func TestALabelIsFoundByEveryWay(t *testing.T) {
	t.Parallel()
	for inside, want := range map[string]string{
		`<label for=a>One</label><input id=a name=a>`:                                                                  "One by label for",
		`<input id=a name=a><label for=a>One</label><label for=a>two</label>`:                                          "One two by label for",
		`<label>One <input name=a> more</label>`:                                                                       "One more by label around",
		`<label for=b>Other <input name=a></label>`:                                                                    " by ",
		`<span id=l>One</span><input name=a aria-labelledby="l none">`:                                                 "One by aria-labelledby",
		`<span id=l>One</span><span id=m>two</span><input name=a aria-labelledby="l m" aria-label=no>`:                 "One two by aria-labelledby",
		`<input name=a aria-label=" One  ">`:                                                                           "One by aria-label",
		`<label for=a>Visible</label><input id=a name=a aria-label=Spoken>`:                                            "Spoken by aria-label",
		`<input name=a title=One placeholder=two>`:                                                                     "One by title",
		`<input name=a placeholder="e.g. One">`:                                                                        "e.g. One by placeholder",
		`<table><tr><td>One:<td><input name=a></table>`:                                                                "One by cell before",
		`<dl><dt>One<dd><input name=a></dl>`:                                                                           "One by cell before",
		`<table><tr><td><input name=a><td><input name=b></table>`:                                                      " by ",
		`<label for=a>One<span class=error>Wrong</span><small class=help-text>Hint</small></label><input id=a name=a>`: "One by label for",
		`<label for=a>One <span hidden>not seen</span></label><input id=a name=a>`:                                     "One by label for",
		`<fieldset><legend>Share</legend><input type=radio name=a value=1></fieldset>`:                                 "Share by legend",
		`<div role=radiogroup aria-label=Share><input type=radio name=a value=1></div>`:                                "Share by aria-label",
		`<button type=button role=switch aria-label=On></button>`:                                                      "On by aria-label",
	} {
		f := first(t, inside)
		require.Equal(t, want, f.Label+" by "+f.LabelFrom, inside)
	}
}

func TestMarksOfRequiredFieldsAreTakenOffTheLabel(t *testing.T) {
	t.Parallel()
	for text, label := range map[string]string{"Name *": "Name", "Name: *": "Name", "* Name": "Name", "Name (required)": "Name", "Name (Required):": "Name", "Enw (gofynnol)": "Enw", "Name**": "Name"} {
		f := first(t, "<label for=a>"+text+"</label><input id=a name=a>")
		require.Equal(t, label, f.Label, text)
		require.True(t, f.Marked, text)
	}
	for _, text := range []string{"Name:", "Star * of the year?", "Name (optional)"} {
		require.False(t, first(t, "<label for=a>"+text+"</label><input id=a name=a>").Marked, text)
	}
	require.True(t, first(t, "<input name=a aria-required=true>").Marked)
}

func TestConstraintsThatDoNotApplyAreNoted(t *testing.T) {
	t.Parallel()
	for inside, note := range map[string]string{
		`<input name=a type=number maxlength=3>`:                         "Browsers ignore maxlength on a field of type number.",
		`<input name=a type=date pattern="\d+">`:                         "Browsers ignore pattern on a field of type date.",
		`<input name=a type=hidden required>`:                            "Browsers ignore required on a field of type hidden.",
		`<input name=a min=3>`:                                           "Browsers ignore min on a field of type text.",
		`<input name=a maxlength=-1>`:                                    `Its maxlength "-1" is not a number, so browsers ignore it.`,
		`<input name=a minlength=5 maxlength=4>`:                         "Its minlength 5 is above its maxlength 4: nothing can be entered.",
		`<input name=a pattern="[a-z">`:                                  "Browsers ignore its pattern [a-z: at character 1, this [ is never closed.",
		`<input type=text>`:                                              "It has no name: what is entered here never arrives.",
		`<fieldset disabled><input name=a></fieldset>`:                   "It is disabled and not sent as long as it is.",
		`<input type=hidden name=a value=0><input type=checkbox name=a>`: `With nothing chosen a hidden control sends "0".`,
	} {
		require.Contains(t, first(t, inside).Notes, note, inside)
	}
	f := first(t, `<input name=a pattern="(a)\1">`)
	require.Equal(t, `(a)\1`, f.Pattern, "it is right, only not to be computed with")
	require.Empty(t, f.Notes)
	require.Equal(t, "text", first(t, `<input name=a type=colour>`).Type, "an unknown type is text")
}

func TestTokensAndTrapsAreRecognised(t *testing.T) {
	t.Parallel()
	for inside, token := range map[string]bool{
		`<input type=hidden name=_csrf value=x>`: true, `<input type=hidden name=authenticity_token>`: true, `<input type=hidden name=k value="f3Za9Qm1rT6yLp0sWv9nKd4f">`: true,
		`<input type=hidden name=ref value=web>`: false, `<input type=hidden name=page value="https://site.test/a/very/long/one1">`: false, `<input name=token>`: false, `<input type=hidden name=words value=aaaaaaaaaaaaaaaaaaaaaaaa>`: false,
	} {
		require.Equal(t, token, first(t, inside).Token, inside)
	}
	for inside, trap := range map[string]bool{
		`<div style="position:absolute;left:-5000px"><input name=url></div>`: true, `<div class="honeypot"><input name=b></div>`: true, `<input name=honey_trap>`: true, `<div aria-hidden=true><input name=w tabindex=-1></div>`: true,
		`<p style="display: none"><input name=x></p>`: true, `<input name=website>`: false, `<div aria-hidden=true><input name=w></div>`: false, `<div style="opacity: 0.9"><input name=w></div>`: false, `<input type=hidden name=trap>`: false,
	} {
		require.Equal(t, trap, first(t, inside).Honeypot, inside)
	}
}

func TestFormsNameThemselvesAndWhereTheyGo(t *testing.T) {
	t.Parallel()
	read := func(html string) observation.FormOnPage {
		d, err := page.Describe(html, "http://site.test/a/page?x=1")
		require.NoError(t, err)
		return d.Forms[0]
	}
	for html, want := range map[string]string{
		`<h1>Before</h1><form><h2>Within</h2><input name=a></form>`:      "Within",
		`<h1>Before</h1><form><input name=a></form>`:                     "Before",
		`<form aria-label=Named><h2>Within</h2><input name=a></form>`:    "Named",
		`<title>Page</title><form><input name=a></form>`:                 "Page",
		`<b id=t>By id</b><form aria-labelledby=t><input name=a></form>`: "By id",
	} {
		require.Equal(t, want, read(html).Title, html)
	}
	f := read(`<base href="/b/"><form method=dialog action="c?y=2#z" enctype="text/plain" novalidate><input name=a><button>Go</button><button formaction=/else>Else</button><input type=reset></form>`)
	require.Equal(t, "http://site.test/b/c?y=2", f.Action)
	require.Equal(t, "DIALOG", f.Method)
	require.True(t, f.Unchecked)
	require.Equal(t, []string{"Go", "Else"}, f.Buttons)
	require.Contains(t, f.Notes, `The button "Else" submits to /else.`)
	require.Contains(t, read(`<form><input name=a></form>`).Notes, "The form has no button that submits it.")
}
