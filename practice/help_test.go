package practice_test

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// offer sends JSON as the page's script does.
func (p *person) offer(body, language string) (status int, answer string) {
	req, err := http.NewRequest(http.MethodPost, p.address+"/help-out", strings.NewReader(body))
	require.NoError(p.t, err)
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Accept-Language", language)
	res, err := p.http.Do(req)
	require.NoError(p.t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(p.t, err)
	return res.StatusCode, strings.TrimSpace(string(text))
}

func TestOfferingHelp(t *testing.T) {
	t.Parallel()
	p := visit(t)
	status, answer := p.offer(`{"name": " Maple ", "phone": "01632960123", "area": "east", "hours": 3, "weekends": true}`, "en")
	require.Equal(t, http.StatusCreated, status)
	require.JSONEq(t, `{"id": 1, "name": "Maple"}`, answer)
	require.Equal(t, "Maple|01632960123|east|3|1", p.rowOf("helpers", "full_name, phone, area_code, hours, weekends"))
	status, answer = p.offer(`{"name": "", "phone": "1", "area": "x", "hours": 11}`, "cy")
	require.Equal(t, http.StatusUnprocessableEntity, status)
	var got struct{ Errors map[string][]string }
	require.NoError(t, json.Unmarshal([]byte(answer), &got))
	require.Len(t, got.Errors, 4)
	require.Equal(t, []string{"Dywedwch eich enw."}, got.Errors["name"])
	status, _ = p.offer(`{"name"`, "en")
	require.Equal(t, http.StatusBadRequest, status)
	res, err := p.http.Post(p.address+"/help-out", "text/plain", strings.NewReader("{}"))
	require.NoError(t, err)
	defer res.Body.Close()
	require.Equal(t, http.StatusUnsupportedMediaType, res.StatusCode)
	require.Equal(t, "Thank you, Maple. A steward will call you.", p.inPage(`fill({name: "Maple"}); await send(); return document.querySelector("[role=status]").textContent`))
}

var chromium = sync.OnceValue(func() context.Context {
	ctx, _ := chromedp.NewContext(context.Background()) // it ends with the tests
	return ctx
})

// inPage runs a script in the Help out page, with two functions at hand: one fills the form in well, with changes, and one sends it
// and waits.
func (p *person) inPage(script string) string {
	own, end := chromedp.NewContext(chromium())
	defer end()
	require.NoError(p.t, chromedp.Do(own, chromedp.Navigate(p.address+"/help-out")))
	out, err := chromedp.Run(own, chromedp.Evaluate[string](`(async () => {
		window.failed = ""
		addEventListener("error", (e) => { window.failed = e.message })
		const set = (id, value) => { const e = document.getElementById(id); e.focus(); e.value = value; e.dispatchEvent(new Event("input", {bubbles: true})); e.dispatchEvent(new FocusEvent("blur")) }
		const fill = (changes) => { for (const [id, value] of Object.entries({name: "Maple", phone: "01632960123", area: "East bank", hours: "3", ...changes})) set(id, value) }
		const send = () => new Promise((done) => { document.querySelector("#help button:not([type])").click(); setTimeout(done, 250) })
		const said = (id) => document.getElementById(id + "-error")?.textContent ?? ""
		`+script+`
	})()`, func(q *runtime.EvaluateParams) { yes := true; q.AwaitPromise = &yes }))
	require.NoError(p.t, err)
	return out
}

var helpFaults = map[string]func(p *person) bool{
	"help-late": func(p *person) bool {
		return p.inPage(`set("phone", "1"); const before = said("phone"); await send(); return before + "|" + said("phone")`) == "|A telephone number has 11 digits."
	},
	"help-stays": func(p *person) bool {
		return p.inPage(`set("phone", "1"); const before = said("phone"); set("phone", "01632960123"); return before + "|" + said("phone")`) == "A telephone number has 11 digits.|A telephone number has 11 digits."
	},
	"help-browser-lax": func(p *person) bool {
		return p.inPage(`let n = 0; const before = fetch; window.fetch = (...a) => { n++; return before(...a) }; fill({name: "m".repeat(61)}); await send(); return String(n)`) == "1"
	},
	"help-browser-strict": func(p *person) bool {
		return p.inPage(`fill({name: "m".repeat(41)}); await send(); return said("name")`) != ""
	},
	"help-mask": func(p *person) bool {
		return p.inPage(`fill({}); return document.getElementById("phone").value`) == "01632 960 12"
	},
	"help-switch": func(p *person) bool {
		p.inPage(`fill({}); await send(); return ""`)
		return p.rowOf("helpers", "weekends") == "1"
	},
	"help-thanks": func(p *person) bool {
		return p.inPage(`fill({}); await send(); return document.querySelector("[role=status]")?.textContent ?? ""`) == "Thank you, . A steward will call you."
	},
	"help-script-error": func(p *person) bool { return p.inPage(`fill({}); await send(); return window.failed`) != "" },
	"help-language": func(p *person) bool {
		return p.inPage(`return document.querySelector("label").textContent`) == "Eich enw"
	},
	"help-key-shown": func(p *person) bool {
		_, answer := p.offer(`{"name": "Maple", "phone": "01632960123", "area": "east", "hours": 11}`, "cy")
		return strings.Contains(answer, "help.hours-range")
	},
	"help-state-kept": func(p *person) bool {
		return p.inPage(`fill({}); await send(); return sessionStorage.getItem("thanks") ?? ""`) != ""
	},
	"help-server-trusts": func(p *person) bool {
		status, _ := p.offer(`{"name": "", "phone": "01632960123", "area": "east", "hours": 3}`, "en")
		return status == http.StatusCreated
	},
	"help-network-silent": func(p *person) bool {
		return p.inPage(`let n = 0; window.fetch = () => { n++; return Promise.reject(new TypeError("lost")) }; fill({}); await send(); return n + said("form")`) == "1"
	},
	"help-button-stuck": func(p *person) bool {
		return p.inPage(`window.fetch = () => Promise.reject(new TypeError("lost")); fill({}); await send(); return String(document.querySelector("form > button").disabled)`) == "true"
	},
	"help-twice": func(p *person) bool {
		return p.inPage(`let n = 0; window.fetch = () => { n++; return new Promise(() => {}) }; fill({}); const b = document.querySelector("form > button"); b.click(); b.click(); return String(n)`) == "2"
	},
	"help-thanks-without-row": func(p *person) bool {
		status, _ := p.offer(`{"name": "Maple", "phone": "01632960123", "area": "east", "hours": 3}`, "en")
		return status == http.StatusCreated && p.rowOf("helpers", "id") == "no row"
	},
}
