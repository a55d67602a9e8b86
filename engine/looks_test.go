package engine_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

// TestACaseThatWritesLooksOnce at the tables: where it begins they were looked at just now, after the case before. What others write in
// between, when there was time for it, is none of its own.
func TestACaseThatWritesLooksOnce(t *testing.T) {
	t.Parallel()
	var mu sync.Mutex
	rows := []map[string]any{}
	add := func(name string) {
		mu.Lock()
		defer mu.Unlock()
		rows = append(rows, map[string]any{"id": len(rows) + 1, "name": name})
	}
	var looks atomic.Int32
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == "/boats.json":
			looks.Add(1)
			w.Header().Set("Content-Type", "application/json")
			mu.Lock()
			defer mu.Unlock()
			_ = json.NewEncoder(w).Encode(map[string]any{"rows": rows})
		case r.Method == http.MethodPost:
			add(r.PostFormValue("name"))
			fmt.Fprint(w, "<p role=status>Moored.</p>")
		default:
			fmt.Fprint(w, "<form method=post><label>Name <input name=name></label></form>")
		}
	}))
	defer server.Close()
	d := designerOf(t, "form: f\npage: /\nfields: [{name: name}]\naccepted: {status: 200, reply: Moored.}\nstored: [{insert: boats, columns: {name: {from: name}}}]\n")
	all, _ := d.Cases(testcase.Standard)
	usual := all[0]
	require.True(t, usual.Writes())
	var cases []*testcase.Case
	for i := range 20 {
		c := *usual
		c.ID = fmt.Sprintf("f/boat%d/http", i)
		cases = append(cases, &c)
	}
	exports := []spec.Export{{Table: "boats", From: "/boats.json", Key: spec.Names{"id"}, Rows: "$.rows[*]"}}
	open := func(stopAtOdd bool) *target.Target {
		run, err := target.Open(t.Context(), target.Config{Site: &spec.Site{Address: server.URL, Databases: []spec.Database{{ID: "main", Kind: "export", Exports: exports}}}, Designer: d, Cases: cases, Number: time.Now().UnixNano(), Options: target.Options{StopAtOdd: stopAtOdd}})
		require.NoError(t, err)
		t.Cleanup(run.Close)
		return run
	}
	run := open(false)
	looks.Store(0)
	sink := &schedule.Collected{}
	require.NoError(t, schedule.Execute(t.Context(), run, sink, nil))
	require.Less(t, int(looks.Load()), 30)
	for _, c := range cases {
		require.Equal(t, judge.AsExpected, sink.Result(c.ID).Verdict, sink.Result(c.ID).Headline)
	}

	// each case is judged before the next where the run is to stop at the first odd one
	second := &slowly{Collected: &schedule.Collected{}, between: func() {
		add("another's")
		time.Sleep(5 * time.Millisecond)
	}}
	require.NoError(t, schedule.Execute(t.Context(), open(true), second, nil))
	require.Equal(t, len(cases)-1, second.Foreign)
	for _, c := range cases {
		require.Equal(t, judge.AsExpected, second.Result(c.ID).Verdict, second.Result(c.ID).Headline)
	}
}

// slowly lets others do something before each case's end is kept.
type slowly struct {
	*schedule.Collected
	between func()
}

func (s *slowly) Done(r *report.Result) error {
	s.between()
	return s.Collected.Done(r)
}
