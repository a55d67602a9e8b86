// Package words holds what Odd Tick says against the phrases that it no longer says.
package words_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

const root = "../.."

// retired are the phrases of testdata/retired.txt.
func retired(t *testing.T) map[string]bool { return lines(t, "testdata/retired.txt") }

// lines are the lines of a file, without those that begin with #.
func lines(t *testing.T, file string) map[string]bool {
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	out := map[string]bool{}
	for line := range strings.Lines(string(text)) {
		if line = strings.TrimSpace(line); line != "" && !strings.HasPrefix(line, "#") {
			out[line] = true
		}
	}
	require.NotEmpty(t, out)
	return out
}

// olderNames is the file that says what parts of checks were called in results of format 1, which stay as they were written.
const olderNames = "core/judge/older.go"

// TestRetiredPhrasesAreNotSaid in any text literal of the program. The front end's texts are held against the same list by
// web/src/app/words.test.ts.
func TestRetiredPhrasesAreNotSaid(t *testing.T) {
	t.Parallel()
	old := retired(t)
	seen := 0
	for _, room := range []string{"core", "engine", "observe", "formats", "server", "cmd"} {
		err := filepath.WalkDir(filepath.Join(root, room), func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || strings.HasSuffix(filepath.ToSlash(path), olderNames) {
				return err
			}
			tokens := token.NewFileSet()
			file, err := parser.ParseFile(tokens, path, nil, 0)
			if err != nil {
				return err
			}
			ast.Inspect(file, func(n ast.Node) bool {
				if literal, is := n.(*ast.BasicLit); is && literal.Kind == token.STRING {
					text, err := strconv.Unquote(literal.Value)
					require.NoError(t, err)
					seen++
					if !strings.Contains(strings.TrimSpace(text), " ") {
						return true // a code
					}
					require.False(t, old[strings.TrimSpace(text)], "%s says %q", tokens.Position(literal.Pos()), text)
				}
				return true
			})
			return nil
		})
		require.NoError(t, err)
	}
	require.Greater(t, seen, 5000)
}

// TestRetiredPhrasesAreNotDocumented: none of them is a quoted name in the documents.
func TestRetiredPhrasesAreNotDocumented(t *testing.T) {
	t.Parallel()
	old := retired(t)
	files, err := filepath.Glob(filepath.Join(root, "docs", "*.md"))
	require.NoError(t, err)
	seen := 0
	for _, file := range append(files, filepath.Join(root, "README.md")) {
		if strings.HasSuffix(file, "decisions.md") {
			continue // tells what was decided at the time, in the words of the time
		}
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		for i, part := range strings.Split(string(text), "*") { // names of the interface are set in italics
			if i%2 == 1 {
				seen++
				require.False(t, old[strings.TrimSpace(part)], "%s says %q", file, part)
			}
		}
	}
	require.Greater(t, seen, 50)
}

// TestRetiredNamesAreNotDeclared: no constant, variable, type, function, method or member of the program has a name of testdata/retired_names.txt.
func TestRetiredNamesAreNotDeclared(t *testing.T) {
	t.Parallel()
	old := lines(t, "testdata/retired_names.txt")
	seen := 0
	for _, room := range []string{"core", "engine", "observe", "formats", "server", "cmd"} {
		err := filepath.WalkDir(filepath.Join(root, room), func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			tokens := token.NewFileSet()
			file, err := parser.ParseFile(tokens, path, nil, 0)
			if err != nil {
				return err
			}
			declared := func(names ...*ast.Ident) {
				for _, name := range names {
					seen++
					require.False(t, old[name.Name], "%s declares %s", tokens.Position(name.Pos()), name.Name)
				}
			}
			ast.Inspect(file, func(n ast.Node) bool {
				switch n := n.(type) {
				case *ast.FuncDecl:
					declared(n.Name)
				case *ast.TypeSpec:
					declared(n.Name)
				case *ast.ValueSpec:
					declared(n.Names...)
				case *ast.StructType:
					for _, f := range n.Fields.List {
						declared(f.Names...)
					}
				}
				return true
			})
			return nil
		})
		require.NoError(t, err)
	}
	require.Greater(t, seen, 5000)
}
