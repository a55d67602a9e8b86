package judge_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// constants are the values of the package's constants of a type, read from its source.
func constants(t *testing.T, of string) (out []string) {
	files, err := os.ReadDir(".")
	require.NoError(t, err)
	for _, f := range files {
		if !strings.HasSuffix(f.Name(), ".go") || strings.HasSuffix(f.Name(), "_test.go") {
			continue
		}
		file, err := parser.ParseFile(token.NewFileSet(), f.Name(), nil, 0)
		require.NoError(t, err)
		ast.Inspect(file, func(n ast.Node) bool {
			if spec, is := n.(*ast.ValueSpec); is {
				if named, is := spec.Type.(*ast.Ident); is && named.Name == of && len(spec.Values) == 1 {
					value, err := strconv.Unquote(spec.Values[0].(*ast.BasicLit).Value)
					require.NoError(t, err)
					out = append(out, value)
				}
			}
			return true
		})
	}
	require.NotEmpty(t, out)
	return out
}
