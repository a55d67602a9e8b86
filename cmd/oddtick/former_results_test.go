package main

import (
	"compress/gzip"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oddtick/core/finding"
	"oddtick/core/report"
	"oddtick/formats/result"
)

// formerResult reads a result that a former build wrote.
func formerResult(t *testing.T, form string) *report.Report {
	t.Helper()
	file, err := os.Open("testdata/former/results/" + form + ".json.gz")
	require.NoError(t, err)
	defer file.Close()
	text, err := gzip.NewReader(file)
	require.NoError(t, err)
	r, err := result.Read(text)
	require.NoError(t, err)
	return r
}

// TestFormerResultsHaveTheSameFindings: of results that five former builds wrote, in both formats, each finding stands under the name that
// the build printed, over as many cases; none is missing or new.
func TestFormerResultsHaveTheSameFindings(t *testing.T) {
	t.Parallel()
	lists, err := filepath.Glob("testdata/former/results/*.txt")
	require.NoError(t, err)
	require.Len(t, lists, 5)
	for _, list := range lists {
		text, err := os.ReadFile(list)
		require.NoError(t, err)
		want := map[string]int{}
		for line := range strings.Lines(string(text)) {
			name, cases, _ := strings.Cut(strings.TrimSpace(line), " ")
			want[name], err = strconv.Atoi(cases)
			require.NoError(t, err, "%s: %q", list, line)
		}
		require.NotEmpty(t, want)
		form := strings.TrimSuffix(filepath.Base(list), ".txt")
		got := finding.Of(formerResult(t, form))
		require.Len(t, got, len(want), form)
		for name, cases := range want {
			found := 0
			for i := range got {
				if got[i].Called(name) {
					found++
					require.Len(t, got[i].Cases, cases, "%s: %s", form, name)
					require.NotEmpty(t, got[i].Headline)
				}
			}
			require.Equal(t, 1, found, "%s: findings called %s", form, name)
		}
	}
}

// TestReportsAreWrittenOfFormerResults: every format takes a result of a former build, and its findings stand in each.
func TestReportsAreWrittenOfFormerResults(t *testing.T) {
	t.Parallel()
	for _, form := range []string{"sign_in", "wishes"} {
		dir := t.TempDir()
		at := func(name string) string { return filepath.Join(dir, name) }
		packed, err := os.Open("testdata/former/results/" + form + ".json.gz")
		require.NoError(t, err)
		defer packed.Close()
		text, err := gzip.NewReader(packed)
		require.NoError(t, err)
		file, err := os.Create(at("result.json"))
		require.NoError(t, err)
		_, err = file.ReadFrom(text)
		require.NoError(t, err)
		require.NoError(t, file.Close())

		code, _, errs := oddtick(t, "report", at("result.json"), "--html", at("r.html"), "--junit", at("r.xml"), "--csv", at("r.csv"), "--xlsx", at("r.xlsx"), "--playwright", at("r.spec.ts"), "--markdown", at("r.md"))
		require.Zero(t, code, errs)
		for _, f := range finding.Of(formerResult(t, form)) {
			for _, name := range []string{"r.html", "r.md"} {
				written, err := os.ReadFile(at(name))
				require.NoError(t, err)
				require.Contains(t, string(written), f.ID, name)
			}
		}
	}
}
