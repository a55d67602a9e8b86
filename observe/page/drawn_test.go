package page_test

import (
	"testing"

	"oddtick/core/observation"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

// TestADrawnPageSaysWhatIsSeen: what the browser says of a text counts, not what the markup would make one think.
func TestADrawnPageSaysWhatIsSeen(t *testing.T) {
	t.Parallel()
	p, err := page.ReadDrawn(`<html lang="cy"><body><form method="post" action="/go">
<p><label for="a" data-oddtick-box="10 20 40 18">Name</label><input id="a" name="a" value="live"><span class="error" data-oddtick-box="60 20 90 18" data-oddtick-unseen="transparent">Name it.</span></p>
<p><input name="b"><b hidden class="error" data-oddtick-box="60 60 90 18">Shown all the same.</b></p>
<p class="error"><i data-oddtick-box="1 2 3 4" data-oddtick-unseen="covered">Inside.</i></p>
<p class="error" data-oddtick-box="what is this">Odd box.</p>
</form></body></html>`, "http://site.test/x", []string{"a", "b"})
	require.NoError(t, err)
	require.Equal(t, "cy", p.Language)
	require.Equal(t, "live", p.Form.Control("a").Value)
	byText := map[string]observation.Text{}
	for _, x := range p.Texts {
		byText[x.Text] = x
	}
	require.Equal(t, observation.Text{Text: "Name it.", Field: "a", Hidden: true, Unseen: "transparent", Alarm: true, Box: []int{60, 20, 90, 18}}, byText["Name it."])
	require.Equal(t, observation.Text{Text: "Shown all the same.", Field: "b", Alarm: true, Box: []int{60, 60, 90, 18}}, byText["Shown all the same."])
	require.Equal(t, "covered", byText["Inside."].Unseen, "the element that holds the text tells")
	require.Nil(t, byText["Odd box."].Box)
	require.False(t, byText["Odd box."].Hidden)
	plain, err := page.Read(`<p hidden>Gone.</p>`, "http://site.test/x", nil)
	require.NoError(t, err)
	require.True(t, plain.Texts[0].Hidden, "over HTTP the markup tells")
}

// TestErrorsInJSONStandAtTheirFields: however an endpoint says which member is meant.
func TestErrorsInJSONStandAtTheirFields(t *testing.T) {
	t.Parallel()
	names := []string{"name", "phone", "area"}
	at := func(field, text string) observation.Text {
		return observation.Text{Text: text, Field: field, Linked: field != "", Alarm: true}
	}
	for body, want := range map[string][]observation.Text{
		`{"errors": {"name": ["Tell us.", "Again."], "phone": "Digits."}}`: {at("name", "Tell us."), at("name", "Again."), at("phone", "Digits.")},
		`{"errors": [{"field": "phone", "message": "Digits."}]}`:           {at("phone", "Digits.")},
		`{"errors": [{"pointer": "/offer/phone", "detail": "Digits."}]}`:   {at("phone", "Digits.")},
		`{"errors": [{"path": "$.offer['phone']", "text": "Digits."}]}`:    {at("phone", "Digits.")},
		`{"error": "Send JSON."}`:                                          {at("", "Send JSON.")},
		`{"title": "Unprocessable", "detail": "No."}`:                      {at("", "No."), {Text: "Unprocessable"}},
		`{"id": 7, "name": "Maple"}`:                                       {{Text: "Maple", Field: "name", Linked: true}},
		`[]`:                                                               nil,
		`"  "`:                                                             nil,
		`{"errors": {"offer.area": ["Choose."], "nobody": ["x"]}}`:         {at("", "x"), at("area", "Choose.")},
	} {
		p, ok := page.ReadJSON(body, "http://site.test/x", names)
		require.True(t, ok, body)
		require.Equal(t, want, p.Texts, body)
	}
	_, ok := page.ReadJSON(`{"name`, "", names)
	require.False(t, ok)
}
