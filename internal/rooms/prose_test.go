package rooms

import (
	"fmt"
	"go/ast"
	"go/token"
	"go/types"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/go/packages"
)

// These write texts for people into something that is not of that type: a file, a column, a line on a terminal.
var writers = []string{"core/wording", "formats", "server/store", "cmd", "bench"}

// silent are the rooms that write no sentences for people: they take them from core/wording.
var silent = []string{"core", "engine"}

// taking are packages whose functions look into a text: whoever hands them one makes something depend on its words.
var taking = []string{"strings", "regexp", "bytes", "hash/fnv", "crypto/sha256", "strconv", "slices", "maps"}

// TestNothingDependsOnTextsForPeople: they are not compared, looked up, taken apart or hashed, and turned into other texts only where
// they are written out.
func TestNothingDependsOnTextsForPeople(t *testing.T) {
	t.Parallel()
	readSources(t)
	list, err := packages.Load(&packages.Config{Mode: packages.NeedName | packages.NeedSyntax | packages.NeedTypes | packages.NeedTypesInfo | packages.NeedImports | packages.NeedDeps, Dir: "../.."},
		"./cmd/...", "./core/...", "./engine/...", "./formats/...", "./server/...", "./bench/...")
	require.NoError(t, err)
	require.Greater(t, len(list), 40)
	seen := 0
	for _, p := range list {
		require.Empty(t, p.Errors, p.PkgPath)
		for _, file := range p.Syntax {
			l := &looking{p: p, path: strings.TrimPrefix(p.PkgPath, "oddtick/")}
			ast.Inspect(file, l.look)
			require.Empty(t, l.found)
			seen += l.seen
		}
	}
	require.Greater(t, seen, 50, "texts for people are no longer found")
}

type looking struct {
	p     *packages.Package
	path  string
	found []string
	seen  int
}

// isText tells whether an expression is a text for people that is not written in the source as it stands.
func (l *looking) isText(e ast.Expr) bool {
	tv, known := l.p.TypesInfo.Types[e]
	return known && isProse(tv.Type) && tv.Value == nil
}

func isProse(t types.Type) bool {
	named, is := types.Unalias(t).(*types.Named)
	return is && named.Obj().Pkg() != nil && named.Obj().Pkg().Path() == "oddtick/core/prose" && named.Obj().Name() == "Text"
}

func (l *looking) wrong(n ast.Node, what string) {
	l.found = append(l.found, fmt.Sprintf("%s: a text for people is %s", l.p.Fset.Position(n.Pos()), what))
}

func (l *looking) look(n ast.Node) bool {
	switch n := n.(type) {
	case ast.Expr:
		l.lookAt(n)
	case *ast.SwitchStmt:
		if n.Tag != nil && l.isText(n.Tag) {
			l.wrong(n, "switched over")
		}
	}
	return true
}

func (l *looking) lookAt(e ast.Expr) {
	if l.isText(e) {
		l.seen++
	}
	if lit, is := e.(*ast.BasicLit); is && l.isWritten(lit) && slices.ContainsFunc(silent, func(room string) bool { return within(l.path, room) }) && !within(l.path, "core/wording") {
		l.wrong(e, "written outside core/wording")
	}
	switch e := e.(type) {
	case *ast.BinaryExpr:
		compares := slices.Contains([]token.Token{token.EQL, token.NEQ, token.LSS, token.GTR, token.LEQ, token.GEQ}, e.Op)
		empty := isEmpty(e.X) || isEmpty(e.Y) // whether there is one
		if compares && !empty && (l.isText(e.X) || l.isText(e.Y)) {
			l.wrong(e, "compared")
		}
	case *ast.MapType:
		if tv := l.p.TypesInfo.Types[e.Key]; tv.Type != nil && isProse(tv.Type) {
			l.wrong(e, "a map's key")
		}
	case *ast.CallExpr:
		l.lookAtCall(e)
	}
}

// isWritten tells whether a literal is a sentence for people as it stands.
func (l *looking) isWritten(lit *ast.BasicLit) bool {
	tv, known := l.p.TypesInfo.Types[lit]
	return known && isProse(tv.Type) && strings.Contains(lit.Value, " ")
}

func isEmpty(e ast.Expr) bool {
	lit, is := e.(*ast.BasicLit)
	return is && lit.Value == `""`
}

func (l *looking) lookAtCall(call *ast.CallExpr) {
	if tv := l.p.TypesInfo.Types[call.Fun]; tv.IsType() && len(call.Args) == 1 && l.isText(call.Args[0]) && !isProse(tv.Type) {
		if !slices.ContainsFunc(writers, func(room string) bool { return within(l.path, room) }) {
			l.wrong(call, "made another kind of text")
		}
		return
	}
	of := l.packageOf(call.Fun)
	for _, arg := range call.Args {
		inner, converted := arg.(*ast.CallExpr)
		text := l.isText(arg) || converted && len(inner.Args) == 1 && l.p.TypesInfo.Types[inner.Fun].IsType() && l.isText(inner.Args[0])
		if text && slices.Contains(taking, of) && l.path != "core/wording" {
			l.wrong(call, "handed to "+of)
		}
	}
}

// packageOf is the package of the function or method that is called.
func (l *looking) packageOf(fun ast.Expr) string {
	selected, is := fun.(*ast.SelectorExpr)
	if !is {
		return ""
	}
	if used := l.p.TypesInfo.Uses[selected.Sel]; used != nil && used.Pkg() != nil {
		return used.Pkg().Path()
	}
	return ""
}
