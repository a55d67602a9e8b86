package expression_test

import (
	"strings"
	"testing"

	"oddtick/core/expression"

	"cel.dev/cel-go/cel"
	"github.com/stretchr/testify/require"
)

// TestFunctionsOnTexts make values of others; what is too long or cannot be is no value.
func TestFunctionsOnTexts(t *testing.T) {
	t.Parallel()
	env, err := cel.NewEnv(append(expression.Functions(), cel.Variable("a", cel.StringType))...)
	require.NoError(t, err)
	eval := func(text, a string) (any, error) {
		checked, issues := env.Compile(text)
		require.NoError(t, issues.Err(), text)
		program, err := env.Program(checked)
		require.NoError(t, err)
		out, _, err := program.Eval(map[string]any{"a": a})
		if err != nil {
			return nil, err
		}
		return out.Value(), nil
	}
	for text, want := range map[string]any{
		`a.trim().lower().replace(" ", "-")`: "brook-side-ä",
		`a.upper()`:                          " BROOK SIDE Ä ",
		`a.trim().split(" ").join("+")`:      "Brook+side+Ä",
		`a.substring(1, 6)`:                  "Brook",
		`a.substring(12, 99)`:                "Ä ",
		`a.substring(5, 2)`:                  "",
		`a.trim().split(" ")[0]`:             "Brook",
		`size(a.split(" "))`:                 int64(5),
		`"2026-12-20".plus_days(14)`:         "2027-01-03",
		`"2026-03-01".plus_days(-1)`:         "2026-02-28",
		`"bed".sha256().substring(0, 8)`:     "c5052532",
		`cents(12.345)`:                      int64(1235),
		`cents(0.29)`:                        int64(29),
		`"bed".md5().substring(0, 8)`:        "001cbc05",
	} {
		got, err := eval(text, " Brook side Ä ")
		require.NoError(t, err, text)
		require.Equal(t, want, got, text)
	}
	_, err = eval(`a.replace("", "x")`, "b")
	require.ErrorContains(t, err, "a text to look for")
	long := strings.Repeat("m", 300)
	_, err = eval(`a.replace("m", a)`, long)
	require.ErrorContains(t, err, "more than 65536 bytes")
}
