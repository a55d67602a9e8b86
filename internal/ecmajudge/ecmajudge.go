// Package ecmajudge asks a JavaScript engine about patterns, as a judge for tests that is independent of ours.
package ecmajudge

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"os/exec"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
)

// Judge is the independent matcher: the RegExp of a JavaScript engine, with the v or u flag, on whole values.
type Judge struct {
	mu  sync.Mutex
	in  io.Writer
	out *bufio.Reader
	// slow: the engine gave up the last pattern that it was asked about.
	slow bool
}

// Slow tells whether the last pattern took the engine so long that it was not judged.
func (j *Judge) Slow() bool {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.slow
}

// The engine backtracks; what takes it longer than this is not judged.
const judgeScript = `
const vm = require('vm');
const context = vm.createContext({});
const test = new vm.Script('re.test(v)');
const matches = (re, v) => { context.re = re; context.v = v; return test.runInContext(context, {timeout: 5000}); };
const lines = require('readline').createInterface({input: process.stdin});
lines.on('line', line => {
  const {pattern, flag, values} = JSON.parse(line);
  let answer;
  try { const re = new RegExp('^(?:' + pattern + ')$', flag); answer = {ok: true, matches: values.map(v => matches(re, v))}; }
  catch (e) { answer = {ok: false, slow: e.code === 'ERR_SCRIPT_EXECUTION_TIMEOUT'}; }
  process.stdout.write(JSON.stringify(answer) + '\n');
});`

// New starts the engine; it ends with the test.
func New(t testing.TB) *Judge {
	cmd := exec.Command("node", "-e", judgeScript)
	in, err := cmd.StdinPipe()
	require.NoError(t, err)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start(), "the independent matcher needs node")
	t.Cleanup(func() {
		in.Close()
		_ = cmd.Wait()
	})
	return &Judge{in: in, out: bufio.NewReaderSize(out, 1<<20)}
}

// Matches tells of each value whether the whole of it matches; valid is false where the engine refuses the pattern. The engine errs
// with the v flag about a negated class in a group that is repeated ((?:a[^a])+ matches "aa"), so that a valid pattern is asked with
// each such class written as a look ahead.
func (j *Judge) Matches(pattern, flag string, list []string) (matches []bool, valid bool) {
	matches, valid = j.ask(pattern, flag, list)
	if spelt := withoutNegatedClasses(pattern); valid && flag == "v" && spelt != pattern {
		matches, valid = j.ask(spelt, flag, list)
	}
	return matches, valid
}

// withoutNegatedClasses writes each [^…] of a valid pattern, unless it stands in another class, as (?:(?![…])\p{Any}).
func withoutNegatedClasses(pattern string) string {
	var b strings.Builder
	depth, negated := 0, false
	for i := 0; i < len(pattern); i++ {
		switch c := pattern[i]; {
		case c == '\\':
			b.WriteString(pattern[i : i+2])
			i++
			continue
		case c == '[' && depth == 0 && strings.HasPrefix(pattern[i:], "[^"):
			negated = true
			b.WriteString("(?:(?![")
			i++
			depth++
			continue
		case c == '[':
			depth++
		case c == ']':
			depth--
		}
		b.WriteByte(pattern[i])
		if pattern[i] == ']' && depth == 0 && negated {
			negated = false
			b.WriteString(`)\p{Any})`)
		}
	}
	return b.String()
}

func (j *Judge) ask(pattern, flag string, list []string) (matches []bool, valid bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	line, err := json.Marshal(map[string]any{"pattern": pattern, "flag": flag, "values": list})
	if err != nil {
		panic(err)
	}
	if _, err := fmt.Fprintf(j.in, "%s\n", line); err != nil {
		panic(err)
	}
	answer, err := j.out.ReadBytes('\n')
	if err != nil {
		panic(err)
	}
	var a struct {
		OK      bool
		Matches []bool
		Slow    bool
	}
	if err := json.Unmarshal(answer, &a); err != nil {
		panic(err)
	}
	j.slow = a.Slow
	return a.Matches, a.OK
}
