// Package rooms holds what docs/architecture.md says of the rooms of the project, and what may be done with texts for people.
package rooms

import (
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// outside are packages through which the pure core could reach a clock's ticks, a network, a server or a screen.
var outside = []string{"net/http", "database/sql", "os", "os/exec", "github.com/gin-gonic/gin", "github.com/danielgtaylor/huma/v2", "github.com/jmoiron/sqlx", "github.com/chromedp/chromedp"}

// room is a line of the table in docs/architecture.md.
type room struct {
	name string
	may  []string
}

var line = regexp.MustCompile("(?m)^\\| `([a-z/]+)` \\| .* \\| ([a-z/, ]+) \\|$")

// rooms are read from the document, in its order.
func rooms(t *testing.T) []room {
	text, err := os.ReadFile("../../docs/architecture.md")
	require.NoError(t, err)
	var out []room
	for _, m := range line.FindAllStringSubmatch(string(text), -1) {
		one := room{name: m[1]}
		if m[2] != "nothing" {
			one.may = strings.Split(m[2], ", ")
		}
		out = append(out, one)
	}
	require.Greater(t, len(out), 30, "the table in docs/architecture.md is not as this test reads it")
	return out
}

// within tells whether a package is a room's, or of one within it.
func within(path, room string) bool { return path == room || strings.HasPrefix(path, room+"/") }

// of is the room of a package, by its index: the one with the longest name; -1 for none.
func of(list []room, path string) int {
	best := -1
	for i := range list {
		if within(path, list[i].name) && (best < 0 || len(list[i].name) > len(list[best].name)) {
			best = i
		}
	}
	return best
}

type pkg struct {
	ImportPath string
	Imports    []string
}

// readSources looks at the source files, as go test takes a kept result while those that a test has looked at are as they were.
func readSources(t *testing.T) {
	require.NoError(t, filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case d.IsDir() && slices.Contains([]string{"node_modules", ".git", "dist", "testdata"}, d.Name()):
			return filepath.SkipDir
		case strings.HasSuffix(path, ".go"):
			_, err = os.Stat(path)
		}
		return err
	}))
}

// listed are the project's packages.
func listed(t *testing.T) []pkg {
	readSources(t)
	cmd := exec.Command("go", "list", "-json=ImportPath,Imports", "./cmd/...", "./core/...", "./engine/...", "./examples/...", "./formats/...", "./internal/...", "./observe/...", "./practice/...", "./server/...", "./web", "./bench/...")
	cmd.Dir = "../.."
	out, err := cmd.Output()
	require.NoError(t, err)
	var list []pkg
	d := json.NewDecoder(strings.NewReader(string(out)))
	for {
		var p pkg
		err := d.Decode(&p)
		if errors.Is(err, io.EOF) {
			require.Greater(t, len(list), 40)
			return list
		}
		require.NoError(t, err)
		list = append(list, p)
	}
}

// TestRoomsImportAsTheTableSays, and the table names nothing that is not imported.
func TestRoomsImportAsTheTableSays(t *testing.T) {
	t.Parallel()
	list := rooms(t)
	used := map[string]bool{}
	for _, p := range listed(t) {
		path := strings.TrimPrefix(p.ImportPath, "oddtick/")
		from := of(list, path)
		require.GreaterOrEqual(t, from, 0, "%s is in no room", path)
		for _, to := range p.Imports {
			to, ours := strings.CutPrefix(to, "oddtick/")
			if !ours || of(list, to) == from {
				continue
			}
			at := -1
			for i, room := range list[from].may {
				if within(to, room) && (at < 0 || len(room) > len(list[from].may[at])) {
					at = i
				}
			}
			require.GreaterOrEqual(t, at, 0, "%s imports %s", path, to)
			require.Less(t, of(list, to), from, "%s imports %s, which stands below it", path, to)
			used[list[from].name+" "+list[from].may[at]] = true
		}
	}
	for _, r := range list {
		for _, to := range r.may {
			require.True(t, used[r.name+" "+to], "%s may import %s, and does not", r.name, to)
		}
	}
}

var stop = regexp.MustCompile("(?m)^\\d+\\. `([a-z/]+)` ")

// TestAValuesWayNeverGoesBack: what docs/architecture.md tells of one value leads through a dozen rooms at the most, each once.
func TestAValuesWayNeverGoesBack(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../../docs/architecture.md")
	require.NoError(t, err)
	list := rooms(t)
	var way []string
	for _, m := range stop.FindAllStringSubmatch(string(text), -1) {
		require.NotContains(t, way, m[1])
		require.True(t, slices.ContainsFunc(list, func(r room) bool { return r.name == m[1] }), "%s is no room", m[1])
		way = append(way, m[1])
	}
	require.Equal(t, "core/spec", way[0])
	require.Equal(t, "web", way[len(way)-1])
	require.LessOrEqual(t, len(way), 12)
}

func TestCoreIsPure(t *testing.T) {
	t.Parallel()
	for _, p := range listed(t) {
		if strings.HasPrefix(p.ImportPath, "oddtick/core/") {
			for _, to := range p.Imports {
				require.NotContains(t, outside, to, p.ImportPath)
			}
		}
	}
}

// TestNothingKnowsThePracticeSite: no part of Odd Tick but its demo may name the practice site or one of its faults.
func TestNothingKnowsThePracticeSite(t *testing.T) {
	t.Parallel()
	out, err := exec.Command("grep", "-rliE", "ostlewick|plot_holders|username-cut|allotment", "--include=*.go", "--include=*.ts", "--include=*.tsx",
		"../../core", "../../observe", "../../engine", "../../formats", "../../server", "../../web/src").Output()
	require.NoError(t, err, "the tests name it, so that something must be found")
	for _, file := range strings.Fields(string(out)) {
		require.Regexp(t, `_test\.go$|\.test\.tsx?$|schema\.gen\.ts$`, file)
	}
}
