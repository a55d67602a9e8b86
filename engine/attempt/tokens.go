package attempt

import (
	"encoding/json"
	"slices"
	"strings"

	"oddtick/core/address"
	"oddtick/core/observation"
	"oddtick/core/spec"
)

// minToken is how long a text without spaces is at least, in bytes, that is taken for a token in the answer to a sign-in.
const minToken = 16

// hideTokens takes the tokens out of what was seen of sign-ins by JSON: who has one is signed in.
func (a *Attempt) hideTokens() {
	site := a.Target.Config.Site
	if site == nil {
		return
	}
	ways := slices.DeleteFunc(site.WaysToSignIn(), func(in *spec.SignIn) bool { return in.Request == nil })
	for i := range a.Result.Steps {
		o := a.Result.Steps[i].Observation
		if o == nil {
			continue
		}
		var tokens []string
		for k := range o.Exchanges {
			x := &o.Exchanges[k]
			signsIn := slices.ContainsFunc(ways, func(in *spec.SignIn) bool { return address.SamePath(x.URL, in.Request.To) })
			if signsIn && x.IsJSON() {
				tokens = append(tokens, tokensIn(x.Body)...)
			}
		}
		if len(tokens) == 0 {
			continue
		}
		for k := range o.Exchanges {
			o.Exchanges[k].Body = observation.MaskText(o.Exchanges[k].Body, tokens)
		}
		if o.After != nil {
			for k := range o.After.Texts {
				o.After.Texts[k].Text = observation.MaskText(o.After.Texts[k].Text, tokens)
			}
		}
	}
}

// tokensIn are the long texts without spaces in a JSON text.
func tokensIn(body string) []string {
	var value any
	if json.Unmarshal([]byte(body), &value) != nil {
		return nil
	}
	var out []string
	var walk func(v any)
	walk = func(v any) {
		switch v := v.(type) {
		case string:
			if len(v) >= minToken && !strings.ContainsAny(v, " \t\n") {
				out = append(out, v)
			}
		case []any:
			for _, one := range v {
				walk(one)
			}
		case map[string]any:
			for _, one := range v {
				walk(one)
			}
		}
	}
	walk(value)
	return out
}
