// Package rooms holds the direction of imports between the rooms of the project.
package rooms

import (
	"encoding/json"
	"io"
	"io/fs"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// may lists what each room may import of the project; a room may import itself.
var may = map[string][]string{
	"core":             {},
	"observe":          {"core"},
	"formats":          {"core"},
	"engine":           {"core", "observe"},
	"practice":         {},
	"examples":         {},
	"web":              {},
	"bench":            {"core", "engine", "practice", "examples", "internal", "observe"},
	"internal":         {},
	"server/passwords": {},
	"server/contact":   {"core", "observe"},
	"server/compute":   {},
	"server/lease":     {},
	"server/store":     {"core", "server/passwords", "server/lease"},
	"server":           {"core", "observe", "engine", "formats", "server/compute", "server/lease", "server/store", "server/contact", "server/passwords"},
	"cmd":              {"core", "observe", "engine", "formats", "server", "server/store", "server/contact", "server/passwords", "practice", "examples", "web", "internal"},
}

// stages order the parts of core: each may import those before it.
var stages = []string{"values", "hashed", "spec", "schema", "oracle", "observation", "array", "design", "cover", "judge", "finding", "compare", "access", "draft", "contradiction"}

// outside are packages through which the pure core could reach a clock's ticks, a network, a server or a screen.
var outside = []string{"net/http", "database/sql", "os", "os/exec", "github.com/gin-gonic/gin", "github.com/danielgtaylor/huma/v2", "github.com/jmoiron/sqlx", "github.com/chromedp/chromedp"}

type pkg struct {
	ImportPath string
	Imports    []string
}

// packages lists the project's packages. The files are looked at besides, as go test takes a kept result while those are as they were.
func packages(t *testing.T) []pkg {
	for _, room := range slices.Collect(maps.Keys(may)) {
		require.NoError(t, filepath.WalkDir("../../"+room, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.Name() == "node_modules" {
				return filepath.SkipDir
			}
			if strings.HasSuffix(path, ".go") {
				_, err = os.Stat(path)
			}
			return err
		}))
	}
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "oddtick/...").Output()
	require.NoError(t, err)
	var list []pkg
	d := json.NewDecoder(strings.NewReader(string(out)))
	for {
		var p pkg
		err := d.Decode(&p)
		if err == io.EOF {
			return list
		}
		require.NoError(t, err)
		list = append(list, p)
	}
}

func room(path string) string {
	path = strings.TrimPrefix(path, "oddtick/")
	for _, within := range []string{"server/store", "server/contact", "server/passwords", "server/compute", "server/lease"} {
		if strings.HasPrefix(path, within) {
			return within
		}
	}
	first, _, _ := strings.Cut(path, "/")
	return first
}

func TestImportsGoOneWay(t *testing.T) {
	t.Parallel()
	list := packages(t)
	require.Greater(t, len(list), 15)
	for _, p := range list {
		from := room(p.ImportPath)
		require.Contains(t, may, from, "%s is in no known room", p.ImportPath)
		for _, to := range p.Imports {
			if strings.HasPrefix(to, "oddtick/") && room(to) != from {
				require.Contains(t, may[from], room(to), "%s imports %s", p.ImportPath, to)
			}
		}
	}
}

func TestCoreIsPureAndInStages(t *testing.T) {
	t.Parallel()
	for _, p := range packages(t) {
		name, inCore := strings.CutPrefix(p.ImportPath, "oddtick/core/")
		if !inCore {
			continue
		}
		stage := slices.Index(stages, name)
		require.GreaterOrEqual(t, stage, 0, "%s has no stage", p.ImportPath)
		for _, to := range p.Imports {
			require.NotContains(t, outside, to, p.ImportPath)
			if other, ok := strings.CutPrefix(to, "oddtick/core/"); ok {
				require.Less(t, slices.Index(stages, other), stage, "%s imports %s", p.ImportPath, to)
			}
		}
	}
}

// TestNothingKnowsThePracticeSite: no part of Odd Tick but its demo may name the practice site or one of its faults.
func TestNothingKnowsThePracticeSite(t *testing.T) {
	t.Parallel()
	out, err := exec.Command("grep", "-rliE", "ostlewick|plot_holders|username-cut|allotment", "--include=*.go", "--include=*.ts", "--include=*.tsx",
		"../../core", "../../observe", "../../engine", "../../formats", "../../server", "../../web/src").Output()
	if err != nil {
		return // grep found nothing
	}
	for _, file := range strings.Fields(string(out)) {
		require.Regexp(t, `_test\.go$|\.test\.tsx?$|schema\.gen\.ts$`, file)
	}
}
