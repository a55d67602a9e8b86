package browser_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"testing"

	"oddtick/observe/browser"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

// shedPage holds a form of two steps behind a button: no control has a name, and a script sends what is entered as JSON.
const shedPage = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Sheds</title></head><body>
<nav><button aria-haspopup="menu" aria-label="More">More</button></nav>
<button id="open">Book a shed</button>
<dialog id="dialog"><form novalidate>
<section id="one">
<p><label for="who">Full name *</label><input id="who"></p>
<p><span id="l-side">Side</span><button type="button" role="combobox" aria-haspopup="listbox" aria-labelledby="l-side" aria-expanded="false" id="side" data-placeholder>Choose</button></p>
<div role="radiogroup" aria-label="Size"><button type="button" role="radio" aria-checked="false" value="s">Small</button><button type="button" role="radio" aria-checked="false" value="l">Large</button></div>
<p id="said" role="alert"></p>
</section>
<section id="two" hidden>
<div role="group" aria-label="Uses"><button type="button" aria-pressed="false">Tools</button><button type="button" aria-pressed="true">Seeds</button></div>
<p><button type="button" role="switch" aria-checked="false" aria-label="Power" id="power"></button></p>
<p><span role="slider" tabindex="0" aria-label="Height" aria-valuenow="200" aria-valuemin="180" aria-valuemax="250" id="height">200</span></p>
<p><span id="l-day">First day</span><button type="button" aria-haspopup="dialog" aria-labelledby="l-day" id="day">Choose a day</button></p>
<p><label><input type="checkbox" id="rules"> I agree</label></p>
</section>
<button type="button" id="next">Continue</button><button type="submit" hidden id="send">Send</button>
</form></dialog>
<div role="listbox" hidden id="list"><div role="option">North</div><div role="option">South</div></div>
<div role="dialog" hidden id="calendar" aria-label="First day"><button aria-label="Previous month">‹</button><h2></h2><button aria-label="Next month">›</button><div id="days"></div></div>
<p role="status" id="done"></p>
<script>
const $ = (id) => document.getElementById(id)
const state = { side: "", day: "" }
const months = ["January","February","March","April","May","June","July","August","September","October","November","December"]
let at = [2026, 11]
$("open").onclick = () => $("dialog").show()
for (const b of document.querySelectorAll("[aria-pressed]")) b.onclick = () => b.setAttribute("aria-pressed", b.getAttribute("aria-pressed") !== "true")
for (const b of document.querySelectorAll("[role=radio]")) b.onclick = () => { for (const o of document.querySelectorAll("[role=radio]")) o.setAttribute("aria-checked", o === b) }
$("power").onclick = () => $("power").setAttribute("aria-checked", $("power").getAttribute("aria-checked") !== "true")
$("height").onkeydown = (e) => {
  const now = Number($("height").getAttribute("aria-valuenow"))
  const to = e.key === "Home" ? 180 : e.key === "ArrowRight" ? Math.min(250, now + 5) : now
  $("height").setAttribute("aria-valuenow", to); $("height").textContent = to
}
$("side").onclick = () => { $("list").hidden = false }
for (const o of document.querySelectorAll("[role=option]")) o.onclick = () => { state.side = o.textContent; $("side").textContent = o.textContent; $("side").removeAttribute("data-placeholder"); $("list").hidden = true }
addEventListener("keydown", (e) => { if (e.key === "Escape") { $("list").hidden = true; $("calendar").hidden = true } })
const draw = () => {
  $("calendar").querySelector("h2").textContent = months[at[1]] + " " + at[0]
  $("days").replaceChildren(...Array.from({ length: 28 }, (_, i) => { const b = document.createElement("button"); b.textContent = i + 1; b.onclick = () => { state.day = at[0] + "-" + String(at[1] + 1).padStart(2, "0") + "-" + String(i + 1).padStart(2, "0"); $("day").textContent = (i + 1) + " " + months[at[1]] + " " + at[0]; $("calendar").hidden = true }; return b }))
}
$("day").onclick = () => { draw(); $("calendar").hidden = false }
const [before, after] = [$("calendar").querySelector("button"), $("calendar").querySelectorAll("button")[1]]
before.onclick = () => { at = at[1] === 0 ? [at[0] - 1, 11] : [at[0], at[1] - 1]; draw() }
after.onclick = () => { at = at[1] === 11 ? [at[0] + 1, 0] : [at[0], at[1] + 1]; draw() }
$("next").onclick = () => {
  if ($("who").value === "") { $("said").textContent = "Enter your name."; return }
  $("one").hidden = true; $("two").hidden = false; $("next").hidden = true; $("send").hidden = false
}
document.forms[0].onsubmit = async (e) => {
  e.preventDefault()
  const pressed = [...document.querySelectorAll("[aria-pressed=true]")].map((b) => b.textContent)
  await fetch("/api/sheds", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ who: $("who").value, side: state.side, size: document.querySelector("[role=radio][aria-checked=true]")?.value, uses: pressed, power: $("power").getAttribute("aria-checked"), height: $("height").textContent, day: state.day, rules: $("rules").checked }) })
  $("dialog").close(); $("done").textContent = "Booked."
}
</script></body></html>`

// shed is the form of that page.
func shed() (*browser.Form, browser.How) {
	form := &browser.Form{OpenedBy: "Book a shed"}
	for name, f := range map[string]browser.Field{
		"who": {Kind: "text", Labels: []string{"Full name"}}, "side": {Kind: "single_choice", Labels: []string{"Side"}}, "size": {Kind: "single_choice", Labels: []string{"Size"}},
		"uses": {Kind: "multiple_choice", Labels: []string{"Uses"}}, "power": {Kind: "checkbox", Labels: []string{"Power"}}, "height": {Kind: "number", Labels: []string{"Height"}},
		"day": {Kind: "date", Labels: []string{"First day"}}, "rules": {Kind: "checkbox", Labels: []string{"I agree"}},
	} {
		f.Name = name
		form.Fields = append(form.Fields, f)
	}
	return form, browser.How{Button: "Send", Stages: []browser.Stage{{Fields: []string{"who", "side", "size"}, Next: "Continue"}, {Fields: []string{"uses", "power", "height", "day", "rules"}}}}
}

func shedEntries(who string) []browser.Entry {
	return []browser.Entry{
		{Name: "who", Values: []string{who}},
		{Name: "side", Values: []string{"s"}, Choices: []browser.Choice{{Value: "n", Label: "North"}, {Value: "s", Label: "South"}}},
		{Name: "size", Values: []string{"l"}, Choices: []browser.Choice{{Value: "s", Label: "Small"}, {Value: "l", Label: "Large"}}},
		{Name: "uses", Values: []string{"t"}, Multiple: true, Choices: []browser.Choice{{Value: "t", Label: "Tools"}, {Value: "s", Label: "Seeds"}}},
		{Name: "power", Values: []string{"on"}, Single: true},
		{Name: "height", Values: []string{"215"}},
		{Name: "day", Values: []string{"2027-02-14"}},
		{Name: "rules", Values: []string{"on"}, Single: true},
	}
}

func shedSite(t *testing.T) (address string, sent func() map[string]any) {
	var last map[string]any
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost {
			body, _ := io.ReadAll(r.Body)
			_ = json.Unmarshal(body, &last)
			w.WriteHeader(http.StatusCreated)
			fmt.Fprint(w, "{}")
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		fmt.Fprint(w, shedPage)
	}))
	t.Cleanup(s.Close)
	return s.URL, func() map[string]any { return last }
}

// TestControlsAreFoundByRoleAndLabel: a person needs no names.
func TestControlsAreFoundByRoleAndLabel(t *testing.T) {
	t.Parallel()
	address, sent := shedSite(t)
	form, how := shed()
	v := visitorOf(t, startOn(t, address), "/", form)
	seen, err := v.Submit(context.Background(), address+"/api/sheds", shedEntries("Fern"), how, never)
	require.NoError(t, err)
	for _, e := range seen.Drawn.Entered {
		require.Empty(t, e.Refused, e.Name)
	}
	require.Equal(t, map[string]any{"who": "Fern", "side": "South", "size": "l", "uses": []any{"Tools"}, "power": "true", "height": "215", "day": "2027-02-14", "rules": true}, sent())
	require.Contains(t, seen.HTML, "Booked.")
}

// TestAStepThatDoesNotLeadOnEndsTheSubmission: nothing is sent, and what is said stands at its control.
func TestAStepThatDoesNotLeadOnEndsTheSubmission(t *testing.T) {
	t.Parallel()
	address, sent := shedSite(t)
	form, how := shed()
	v := visitorOf(t, startOn(t, address), "/", form)
	seen, err := v.Submit(context.Background(), address+"/api/sheds", shedEntries(""), how, never)
	require.NoError(t, err)
	require.Nil(t, sent())
	require.Empty(t, seen.Exchanges)
	p, err := page.ReadDrawn(seen.HTML, seen.Address, []string{"who", "side", "size"})
	require.NoError(t, err)
	require.NotNil(t, p.Form)
	require.NotNil(t, p.Form.Control("size"))
	texts := map[string]bool{}
	for _, text := range p.Texts {
		texts[text.Text] = texts[text.Text] || !text.Hidden
	}
	require.True(t, texts["Enter your name."])
}

// TestWhatAPageOffersOnceItIsOpenedIsRead: lists and calendars too, and names that the page does not give are guesses.
func TestWhatAPageOffersOnceItIsOpenedIsRead(t *testing.T) {
	t.Parallel()
	address, _ := shedSite(t)
	text, err := browser.Drawn(context.Background(), browser.Options{Address: address, Allowed: func(string) bool { return true }}, browser.Before{OpenedBy: "Book a shed"})
	require.NoError(t, err)
	d, err := page.Describe(text, address)
	require.NoError(t, err)
	require.Len(t, d.Forms, 1)
	got := map[string]string{}
	for _, f := range d.Forms[0].Fields {
		got[f.Name] = f.Role + " " + f.Label
		require.True(t, f.Guessed, f.Name)
		if f.Name == "side" {
			require.Len(t, f.Options, 2)
			require.Equal(t, "North", f.Options[0].Label)
		}
	}
	require.Equal(t, map[string]string{"fullName": " Full name", "side": "combobox Side", "size": "radiogroup Size", "iAgree": " I agree"}, got)
	_, err = browser.Drawn(context.Background(), browser.Options{Address: address, Allowed: func(string) bool { return true }}, browser.Before{OpenedBy: "Nothing of that name"})
	require.ErrorContains(t, err, "nothing named Nothing of that name can be pressed on")
}
