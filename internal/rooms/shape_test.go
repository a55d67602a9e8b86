package rooms

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// What still holds in one head.
const (
	maxLines       = 80 // of a function
	maxBranches    = 25
	maxMethodFiles = 8 // in which a type has methods
	maxFiles       = 20
)

// TestTheCodesShape: no function, type or package has grown beyond what one reads at once.
func TestTheCodesShape(t *testing.T) {
	t.Parallel()
	methods, files := map[string]map[string]bool{}, map[string]int{}
	fset := token.NewFileSet()
	for _, root := range []string{"cmd", "core", "engine", "formats", "internal", "observe", "server"} {
		require.NoError(t, filepath.WalkDir("../../"+root, func(path string, d fs.DirEntry, err error) error {
			switch {
			case err != nil:
				return err
			case d.IsDir() && d.Name() == "testdata":
				return filepath.SkipDir
			case !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go"):
				return nil
			}
			file, err := parser.ParseFile(fset, path, nil, 0)
			if err != nil {
				return err
			}
			room := strings.TrimPrefix(filepath.ToSlash(filepath.Dir(path)), "../../")
			files[room]++
			for _, d := range file.Decls {
				f, is := d.(*ast.FuncDecl)
				if !is || f.Body == nil {
					continue
				}
				where := fmt.Sprintf("%s: %s", path, f.Name.Name)
				require.LessOrEqual(t, fset.Position(f.End()).Line-fset.Position(f.Pos()).Line+1, maxLines, where)
				require.LessOrEqual(t, branches(f.Body), maxBranches, where)
				if of := receiver(f); of != "" {
					if methods[room+"."+of] == nil {
						methods[room+"."+of] = map[string]bool{}
					}
					methods[room+"."+of][path] = true
				}
			}
			return nil
		}))
	}
	require.Greater(t, len(methods), 100)
	var large []string
	for of, in := range methods {
		if len(in) > maxMethodFiles {
			large = append(large, of)
		}
	}
	for room, n := range files {
		if n > maxFiles {
			large = append(large, room)
		}
	}
	slices.Sort(large)
	require.Empty(t, large, "types with methods in too many files, and packages of too many")
}

// branches are the places at which a function goes one of several ways.
func branches(body *ast.BlockStmt) (n int) {
	ast.Inspect(body, func(x ast.Node) bool {
		switch x := x.(type) {
		case *ast.IfStmt, *ast.ForStmt, *ast.RangeStmt:
			n++
		case *ast.CaseClause:
			if x.List != nil {
				n++
			}
		case *ast.CommClause:
			if x.Comm != nil {
				n++
			}
		}
		return true
	})
	return n
}

// receiver is the type that a method is of, "" for a function.
func receiver(f *ast.FuncDecl) string {
	if f.Recv == nil {
		return ""
	}
	of := f.Recv.List[0].Type
	if star, is := of.(*ast.StarExpr); is {
		of = star.X
	}
	if generic, is := of.(*ast.IndexExpr); is {
		of = generic.X
	}
	name, _ := of.(*ast.Ident)
	return name.Name
}
