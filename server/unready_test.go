package server_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"oddtick/core/spec"
	"oddtick/server/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// unready is a form of which each pattern can be computed with, and no value that keeps both.
const unready = `form: shed
page: /shed
fields:
  - id: code
    rules:
      - pattern: {is: '(a{199})*', id: one}
      - pattern: {is: '(a{211})*', id: two}
`

// keep puts a form into the store without the checks of the API, as an earlier version may have.
func (c *client) keep(text string) {
	form, err := spec.ReadForm("shed.yaml", []byte(text))
	require.NoError(c.t, err)
	site, err := c.store.Site(c.t.Context(), "ost")
	require.NoError(c.t, err)
	require.NoError(c.t, c.store.PutForm(c.t.Context(), site.ID, store.Save{Form: form, File: "shed.yaml", Source: []byte(text)}))
}

func TestAttackAFormForWhichNoCasesCanBeDesigned(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	c.keep(unready)
	var sites []struct {
		Forms []struct {
			ID, Problem string
			Cases       int
		}
	}
	require.Equal(t, 200, c.get("/api/sites", &sites))
	require.Len(t, sites[0].Forms, 2)
	for _, f := range sites[0].Forms {
		if f.ID == "shed" {
			require.Contains(t, f.Problem, "20000 states")
		} else {
			require.Empty(t, f.Problem)
			require.Positive(t, f.Cases, "the other form is as it was")
		}
	}
	shed := "/api/sites/ost/forms/shed"
	status, _, body := c.send("GET", shed, nil)
	require.Equal(t, 409, status, string(body))
	require.Contains(t, string(body), `"type":"/problems/form-not-ready"`)
	var document struct {
		Revision int
		Text     string
	}
	require.Equal(t, 200, c.get(shed+"/document", &document))
	require.Equal(t, unready, document.Text)
	require.Equal(t, 200, c.get(shed+"/revisions", nil))
	status, _, body = c.send("PUT", shed+"/document", map[string]any{"base": 1, "text": unready + "# as it is\n"})
	require.Equal(t, 422, status, string(body))
	mended := strings.Split(unready, "      - pattern: {is: '(a{211}")[0]
	status, _, body = c.send("PUT", shed+"/document", map[string]any{"base": 1, "text": mended})
	require.Equal(t, 200, status, string(body))
	require.Equal(t, 200, c.get(shed, nil))
}

func TestAttackAProjectWithAFormForWhichNoCasesCanBeDesigned(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	res := c.ask("POST", "/api/projects", "site: fen\naddress: http://127.0.0.1:9\n---\n"+unready, map[string]string{"Content-Type": "application/yaml"})
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.Equal(t, 422, res.StatusCode, string(body))
	require.Contains(t, string(body), "the form shed")
	require.Equal(t, 404, c.get("/api/sites/fen/settings", nil), "nothing is kept")
}

// choices is a form of so many fields with ten options each.
func choices(fields int) string {
	var b strings.Builder
	b.WriteString("form: shed\npage: /shed\nfields:\n")
	for i := range fields {
		fmt.Fprintf(&b, "  - id: f%d\n    kind: single_choice\n    options: [{value: a}, {value: b}, {value: c}, {value: d}, {value: e}, {value: f}, {value: g}, {value: h}, {value: i}, {value: j}]\n", i)
	}
	return b.String()
}

func TestAttackCombinationsOfManyFields(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	c.keep(choices(40))
	shed := "/api/sites/ost/forms/shed"
	var view struct {
		Omitted []struct{ About, Why string }
		Order   []string
	}
	require.Equal(t, 200, c.get(shed+"/cases?depth=thorough&strength=3", &view))
	require.NotEmpty(t, view.Order)
	require.Contains(t, fmt.Sprint(view.Omitted), "13,150,280 combinations", "they are not computed unasked")
	status, _, body := c.send("GET", shed+"/cases?depth=thorough&strength=3&large=true", nil)
	require.Equal(t, 422, status, string(body))
	require.Contains(t, string(body), "at most 1,000,000")

	// the same with as many as are computed; whoever asks leaves, and others do not wait
	c.keep(choices(16))
	ctx, leave := context.WithTimeout(t.Context(), 300*time.Millisecond)
	defer leave()
	gone := make(chan struct{})
	go func() {
		defer close(gone)
		req, err := http.NewRequestWithContext(ctx, "GET", c.address+shed+"/cases?depth=thorough&strength=3&large=true", nil)
		if err == nil {
			_, err = c.http.Do(req)
		}
		assert.ErrorIs(t, err, context.DeadlineExceeded)
	}()
	began := time.Now()
	require.Equal(t, 200, c.get("/api/sites", nil))
	require.Less(t, time.Since(began), 20*time.Second)
	<-gone
	var growth struct {
		Combined struct{ Large bool }
		Growth   json.RawMessage
	}
	require.Equal(t, 200, c.get(shed+"/techniques?strength=3", &growth))
	require.True(t, growth.Combined.Large, "it can be asked for")
}
