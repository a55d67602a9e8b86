package engine_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/report"

	"github.com/stretchr/testify/require"
)

const tideForm = `
form: tide
page: /tides
submit: {method: POST, to: /api/tides, encoding: json}
fields:
  - {name: pier, label: Pier, rules: [{required: {message: Which pier?}}, {length: {max: 8, message: At most 8.}}]}
  - {name: metres, label: Metres, kind: number, rules: [{range: {min: 0, max: 9, message: 0 to 9.}}]}
  - {name: at, label: At, kind: date}
  - {name: spring, label: Spring tide, kind: checkbox}
  - {name: boats, label: Boats, kind: multiple_choice, options: [{value: a}, {value: b}, {value: c}]}
rejected: {status: 422, place: field, report: every_failing_rule}
accepted: {status: 201}
`

// TestAnEndpointIsSentJSON: numbers as numbers, boxes as true and false, several choices as a list, a blank number as null; errors in
// the answer stand at their members.
func TestAnEndpointIsSentJSON(t *testing.T) {
	t.Parallel()
	var mu sync.Mutex
	bodies := []string{}
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodGet {
			w.Header().Set("Content-Type", "text/html")
			fmt.Fprint(w, "<!doctype html><div id=app></div>")
			return
		}
		var got map[string]any
		if r.URL.Path != "/api/tides" {
			t.Error(r.URL)
		}
		if r.Header.Get("Content-Type") != "application/json" {
			w.WriteHeader(http.StatusUnsupportedMediaType)
			return
		}
		if json.NewDecoder(r.Body).Decode(&got) != nil || got == nil {
			w.WriteHeader(http.StatusBadRequest)
			return
		}
		text, _ := json.Marshal(got)
		mu.Lock()
		bodies = append(bodies, string(text))
		mu.Unlock()
		errs := []map[string]string{}
		say := func(field, text string) {
			errs = append(errs, map[string]string{"pointer": "/" + field, "detail": text})
		}
		pier, _ := got["pier"].(string)
		if pier == "" {
			say("pier", "Which pier?")
		}
		if len([]rune(pier)) > 8 {
			say("pier", "At most 8.")
		}
		if n, isNumber := got["metres"].(float64); got["metres"] != nil && (!isNumber || n < 0 || n > 9) {
			say("metres", "0 to 9.")
		}
		w.Header().Set("Content-Type", "application/json")
		if day, isText := got["at"].(string); isText {
			if _, err := time.Parse(time.DateOnly, day); err != nil {
				say("at", "Which day?")
			}
		}
		if list, isList := got["boats"].([]any); isList {
			for _, b := range list {
				if b != "a" && b != "b" && b != "c" {
					say("boats", "Which boat?")
				}
			}
		}
		if len(errs) > 0 {
			w.WriteHeader(http.StatusUnprocessableEntity)
			_ = json.NewEncoder(w).Encode(map[string]any{"errors": errs})
			return
		}
		w.WriteHeader(http.StatusCreated)
		_ = json.NewEncoder(w).Encode(map[string]any{"id": 1})
	}))
	defer server.Close()
	results := runOn(t, server.URL, tideForm)
	for _, id := range []string{"tide/pier.blank/http", "tide/pier.length.max+1/http", "tide/metres.range.max+1/http", "tide/form.usual/http", "tide/form.cut_off/http", "tide/form.no_object/http"} {
		require.NotNil(t, results[id], id)
		require.Equal(t, judge.AsExpected, results[id].Verdict, "%s", strings.Join(oddOnes(map[string]*report.Result{id: results[id]}), "\n"))
	}
	kinds := map[string][]string{}
	for _, body := range bodies {
		var got map[string]any
		require.NoError(t, json.Unmarshal([]byte(body), &got))
		for name, value := range got {
			if kind := fmt.Sprintf("%T", value); !slices.Contains(kinds[name], kind) {
				kinds[name] = append(kinds[name], kind)
			}
		}
	}
	for name, list := range kinds {
		slices.Sort(list)
		kinds[name] = list
	}
	require.Contains(t, kinds["metres"], "float64")
	require.Contains(t, kinds["metres"], "<nil>", "a blank number is null")
	require.Contains(t, kinds["at"], "string")
	require.Contains(t, kinds["at"], "<nil>")
	const object = "map[string]interface {}"
	require.Equal(t, []string{"bool", object}, kinds["spring"])
	require.Equal(t, []string{"[]interface {}", "bool", object}, kinds["boats"])
	require.Equal(t, []string{"[]interface {}", "bool", object, "string"}, slices.Compact(kinds["pier"]), "a list, an object and a truth value stand in for a value once each")
}
