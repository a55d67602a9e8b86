package attempt_test

import (
	"context"
	"database/sql"
	"net/http/httptest"
	"slices"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/engine/testdata/ordinary"
	"oddtick/internal/localdb/dbtest"

	"github.com/stretchr/testify/require"
)

// TestAsManyAsAreAcceptedInAMinute: the last of them is accepted, and one more refused; other cases wait as the site asks. It takes minutes,
// in which it does nothing.
func TestAsManyAsAreAcceptedInAMinute(t *testing.T) {
	for fault, check := range map[string]string{"": "", "five": "outcome", "rings-all-the-same": "stored_data"} {
		t.Run(fault, func(t *testing.T) {
			t.Parallel()
			dsn := dbtest.DSN(t)
			dbtest.Exec(t, dsn, ordinary.Bells.Tables())
			db, err := sql.Open("mysql", dsn)
			require.NoError(t, err)
			t.Cleanup(func() { db.Close() })
			server := httptest.NewServer(ordinary.Bells.Open(db, fault, ""))
			t.Cleanup(server.Close)
			project, err := spec.ReadProject([]spec.File{{Name: "bells.yaml", Text: ordinary.Bells.Document()}})
			require.NoError(t, err)
			project.Site.Address, project.Site.Databases[0].DSN = server.URL, dsn
			p, err := project.Forms[0].Prepare()
			require.NoError(t, err)
			d, err := design.New(p, project.Site)
			require.NoError(t, err)
			cases, _ := d.Cases(testcase.Standard)
			cases = slices.DeleteFunc(cases, func(c *testcase.Case) bool {
				return c.ID != "ring/form.too_many/http" && c.ID != "ring/form.usual/http"
			})
			require.Len(t, cases, 2)
			run, err := target.Open(context.Background(), target.Config{Site: project.Site, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
			require.NoError(t, err)
			defer run.Close()
			sink := &schedule.Collected{}
			require.NoError(t, schedule.Execute(context.Background(), run, sink, nil))
			r := sink.Result("ring/form.too_many/http")
			require.Equal(t, judge.AsExpected, sink.Result("ring/form.usual/http").Verdict)
			if fault == "" {
				require.Equal(t, judge.AsExpected, r.Verdict)
				return
			}
			require.Equal(t, judge.Odd, r.Checks[slices.IndexFunc(judge.Checks, func(c judge.CheckName) bool { return string(c) == check })])
		})
	}
}
