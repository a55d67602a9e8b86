package promise_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"oddtick/core/access"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/promise"

	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write the phrase book anew")

// TestThePhraseBookOfPromises holds what is said of every promise of the example documents, a line each.
func TestThePhraseBookOfPromises(t *testing.T) {
	t.Parallel()
	var files []spec.File
	names, err := filepath.Glob("../../../examples/ostlewick/*.yaml")
	require.NoError(t, err)
	require.NotEmpty(t, names)
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		files = append(files, spec.File{Name: name, Text: text})
	}
	project, err := spec.ReadProject(files)
	require.NoError(t, err)
	var b strings.Builder
	say := func(of string, texts ...prose.Text) {
		for _, text := range texts {
			if text != "" && !strings.Contains(b.String(), "  "+string(text)+"\n") {
				fmt.Fprintf(&b, "%-12s  %s\n", of, text)
			}
		}
	}
	for _, form := range project.Forms {
		p, err := form.Prepare()
		require.NoError(t, err)
		for _, f := range p.Fields {
			say("rule", promise.Rules(f)...)
		}
		say("across", promise.Across(p)...)
		say("unique", promise.Unique(p)...)
		say("rejected", promise.Rejected(&form.Rejected)...)
		say("accepted", promise.Accepted(&form.Accepted)...)
		for i := range form.Stored {
			for _, c := range form.Stored[i].Sorted() {
				say("column", promise.Source(c.Source))
			}
		}
	}
	say("state", promise.States(project.Site)...)
	say("journey", promise.Journeys(project.Site)...)
	for _, e := range []access.Expected{{Opens: true}, {}, {To: spec.Forbidden}, {To: "/home"}} {
		say("access", promise.Access(e))
	}
	for _, e := range []spec.CaseEdit{{Added: true}, {Skip: "until the mend"}, {EveryDepth: true}, {Tags: []string{"smoke"}}, {Title: "a shed"}, {Inputs: map[string]string{"plots": "3"}}, {Absent: []string{"plots"}}, {}} {
		say("edit", promise.Edit(&e)...)
	}
	const file = "testdata/promises.txt"
	if *update {
		require.NoError(t, os.MkdirAll("testdata", 0o755))
		require.NoError(t, os.WriteFile(file, []byte(b.String()), 0o644))
	}
	want, err := os.ReadFile(file)
	require.NoError(t, err)
	require.Equal(t, string(want), b.String(), "go test ./core/wording/promise -update writes it anew; read it")
}
