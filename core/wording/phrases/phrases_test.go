package phrases_test

import (
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"oddtick/core/wording/phrases"

	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write the phrase book anew")

// examples stand in the places of the phrase book.
var examples = map[string]any{
	"label": "Username", "other": "Password", "what": "left blank", "value": "21", "point": "just above the upper boundary", "n": 21, "unit": "characters",
	"change": "anything might follow", "rule": "length", "distance": "14 days after", "how": "in other capitals", "by": "server error", "time": "15m", "title": "Username: left blank",
	"language": "de", "levels": "Area east, Share half", "outcome": "accepted", "conditions": "plots > 1, not steward", "condition": "plots > 1", "level": "east", "most": 40, "rows": 12, "record": "the bed of moss",
	"columns": "id, mail", "proof": "all 24 combinations were tried", "sign": "-", "character": "a space", "characters": "a to f", "first": "a", "last": "f", "min": 3,
	"matches": "what matches has 4 to 4 characters", "allowed": "5 or more are allowed", "key": "initial", "expression": "to >= from", "request": "POST /join", "host": "other.test", "reply": "“Thank you.”", "rules": "username.length", "message": "“Too long.”",
	"state": "waiting", "control": "plot", "said": "/join", "page": "/members", "end": "minimum", "browser": 3, "server": 2, "beginning": "aaaaaaaaaaaa",
	"base": "today", "next": 5, "column": "members.username",
	"option": "monthly", "least": 0, "step": "0.5", "table": "members", "charset": "utf8mb4", "entries": "plots > 1: Y", "entry": "Y", "why": "its values cannot be made", "source": "the page /join", "part": "its form",
	"where": "label", "type": "email", "stored": "ada", "sent": "Ada", "notes": "It is in no form.", "trigger": "on_insert", "when": "before insert", "was": "3", "member": "min", "layer": "browser", "line": 7, "name": "tags", "bounds": "3 to 20", "pattern": "OS-[0-9]{4}", "types": "image/png", "text": "Thank you.", "field": "username", "kinds": "argon2id or bcrypt", "within": "within 5s",
	"pages": "home, members", "form": "join", "journey": "Join", "steps": "submit join → follow the link", "tags": "smoke", "found": "; taken to 190", "max": 190, "whole": 20, "promised": 20, "times": 5, "fields": "E-mail", "limit": "promised 20; taken to 190",
	"event": "submit join", "declared": "guest", "mix": "signed_in, not wishes", "path": "/sign-in", "status": 403, "cookie": "session", "on": "/me", "code": "+44", "account": "fern", "error": "no answer",
	"seen": "base64", "subject": "Username of 21 characters", "of": "members.username", "promise": "3 to 20 characters", "ended": "Rejected", "should": "accepted", "note": "The page jumps.", "observed": "to /home", "expected": "to /members", "after": "after a rejection", "flag": "http only",
	"total": 162, "odd": 2, "unobserved": 1, "untested": 2, "run": 160, "findings": 3, "critical": 1, "site": "http://127.0.0.1:4650", "depth": "standard", "started": "30 November 2026, 09:00 UTC", "seconds": "12.5",
	"day": "2027-01-31", "reasons": "2 critical findings, 3 cases not observed", "ran": 3, "now": 4, "severity": "minor", "id": "abcdefgh", "check": "Messages", "counts": "162 cases, 160 as expected, 2 odd, 0 not observed", "cases": "2 cases", "kind": "inserted", "method": "POST",
}

var place = regexp.MustCompile(`\{([a-z_]+)\}`)

// TestThePhraseBook: testdata/phrases.txt holds an example of every sentence. After a change it is written anew by
// go test ./core/wording/phrases -update, and read.
func TestThePhraseBook(t *testing.T) {
	t.Parallel()
	codes := map[string]bool{}
	var book strings.Builder
	for _, p := range phrases.All() {
		require.False(t, codes[p.Code], "two phrases are %s", p.Code)
		codes[p.Code] = true
		var with []any
		for _, name := range places(p.English) {
			require.Contains(t, examples, name, p.Code)
			with = append(with, name, examples[name])
		}
		text := p.With(with...)
		require.NotRegexp(t, place, text)
		fmt.Fprintf(&book, "%-36s %s\n", p.Code, text)
	}
	const file = "testdata/phrases.txt"
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(book.String()), 0o600))
	}
	kept, err := os.ReadFile(file)
	require.NoError(t, err)
	require.Equal(t, string(kept), book.String(), "go test ./core/wording/phrases -update")
}

func places(template string) (out []string) {
	for _, m := range place.FindAllStringSubmatch(template, -1) {
		out = append(out, m[1])
	}
	return out
}

func TestAPlaceWithoutAValueStays(t *testing.T) {
	t.Parallel()
	require.EqualValues(t, "{label}: blank {", phrases.Phrase{English: "{label}: {what} {"}.With("what", "blank"))
	require.EqualValues(t, "{what}: {what}", phrases.Phrase{English: "{label}: {what}"}.With("label", "{what}", "what", "{what}"), "what is filled in is not filled in again")
}

// TestEveryPlaceIsFilledIn: wherever a phrase is named and filled in, all its places are given, and no other.
func TestEveryPlaceIsFilledIn(t *testing.T) {
	t.Parallel()
	templates := templatesByName(t)
	calls := 0
	for _, room := range []string{"core", "engine", "formats", "server"} {
		require.NoError(t, filepath.WalkDir(filepath.Join("../../..", room), func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") {
				return err
			}
			file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
			require.NoError(t, err)
			ast.Inspect(file, func(n ast.Node) bool {
				name, given, is := filledIn(n)
				if is {
					calls++
					require.ElementsMatch(t, unique(places(templates[name])), given, "%s: phrases.%s", path, name)
				}
				return true
			})
			return nil
		}))
	}
	require.Greater(t, calls, 100)
}

// filledIn is the phrase that a call such as phrases.AtPoint.With("value", n, "point", p) fills in, and the names of its places.
func filledIn(n ast.Node) (name string, given []string, is bool) {
	call, is := n.(*ast.CallExpr)
	if !is || call.Ellipsis.IsValid() {
		return "", nil, false
	}
	with, is := call.Fun.(*ast.SelectorExpr)
	if !is || with.Sel.Name != "With" && with.Sel.Name != "Text" {
		return "", nil, false
	}
	phrase, is := with.X.(*ast.SelectorExpr)
	if !is {
		return "", nil, false
	}
	if of, named := phrase.X.(*ast.Ident); !named || of.Name != "phrases" {
		return "", nil, false
	}
	for i := 0; i < len(call.Args); i += 2 {
		if lit, is := call.Args[i].(*ast.BasicLit); is {
			text, _ := strconv.Unquote(lit.Value)
			given = append(given, text)
		}
	}
	return phrase.Sel.Name, given, true
}

func unique(list []string) []string {
	out := []string{}
	for _, s := range list {
		if !strings.Contains(" "+strings.Join(out, " ")+" ", " "+s+" ") {
			out = append(out, s)
		}
	}
	return out
}

// templatesByName reads the templates of this package's variables from its source.
func templatesByName(t *testing.T) map[string]string {
	out := map[string]string{}
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	for _, name := range files {
		file, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
		require.NoError(t, err)
		ast.Inspect(file, func(n ast.Node) bool {
			v, is := n.(*ast.ValueSpec)
			if !is || len(v.Values) != 1 {
				return true
			}
			call, is := v.Values[0].(*ast.CallExpr)
			if !is || len(call.Args) != 2 {
				return true
			}
			if lit, is := call.Args[1].(*ast.BasicLit); is {
				out[v.Names[0].Name], _ = strconv.Unquote(lit.Value)
			}
			return true
		})
	}
	require.Greater(t, len(out), 150)
	return out
}
