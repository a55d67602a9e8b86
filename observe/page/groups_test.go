package page_test

import (
	"testing"

	"oddtick/core/observation"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

// textIn is the text of a page that says something.
func textIn(t *testing.T, body, says string) observation.Text {
	p, err := page.Read(body, "http://site.test/", []string{"day", "month", "side", "name"})
	require.NoError(t, err)
	for _, text := range p.Texts {
		if text.Text == says {
			return text
		}
	}
	require.Fail(t, "no such text", "%q in %+v", says, p.Texts)
	return observation.Text{}
}

// TestWhereAMessageOfSeveralStands when more than one control has to do with it.
func TestWhereAMessageOfSeveralStands(t *testing.T) {
	t.Parallel()
	const day, month = `<label>Day <input name="day" aria-describedby="all day-error"></label>`, `<label>Month <input name="month" aria-errormessage="all"></label>`
	for name, c := range map[string]struct {
		body, says string
		at         []string
		tied       bool
	}{
		"two controls refer to it":             {`<p id="all">Two mistakes.</p><form>` + day + month + `</form>`, "Two mistakes.", nil, false},
		"an inner text of what both refer to":  {`<div id="all"><p id="day-error">No such day.</p></div><form>` + day + month + `</form>`, "No such day.", []string{"day"}, true},
		"before a field set that refers to it": {`<form><p id="e" class="error">Pick a side.</p><fieldset aria-describedby="e"><input type="radio" name="side" value="p"><input type="radio" name="side" value="s"></fieldset><input name="name"></form>`, "Pick a side.", []string{"side"}, true},
		"before a field set of several fields": {`<form><p id="e">No such date.</p><fieldset aria-errormessage="e">` + `<input name="day"><input name="month">` + `</fieldset></form>`, "No such date.", []string{"day", "month"}, true},
		"in a legend of several fields":        {`<form><fieldset><legend>Date <span class="error">No such date.</span></legend><input name="day"><input name="month"></fieldset></form>`, "No such date.", []string{"day", "month"}, false},
		"a legend that is not a message":       {`<form><fieldset><legend><span class="title">Date</span></legend><input name="day"><input name="month"></fieldset></form>`, "Date", nil, false},
		"a link in a list above the form":      {`<ul class="errors"><li><a href="#d">No such day.</a></li></ul><form><input id="d" name="day"></form>`, "No such day.", nil, false},
	} {
		text := textIn(t, "<html><body>"+c.body+"</body></html>", c.says)
		require.Equal(t, c.at, text.Fields(), name)
		require.Equal(t, c.tied, text.Linked, name)
		for _, field := range c.at {
			require.True(t, text.At(field), name)
		}
		require.False(t, text.At("name"), name)
	}
}
