package target

import (
	"testing"
	"time"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

func TestReadSession(t *testing.T) {
	for text, want := range map[string]session{
		"sid=a1=; theme=dark":           {cookies: []cookie{{name: "sid", value: "a1="}, {name: "theme", value: "dark"}}},
		"Cookie: sid=a1\n":              {cookies: []cookie{{name: "sid", value: "a1"}}},
		"Bearer a.b.c":                  {bearer: "a.b.c"},
		"authorization: bearer a.b.c":   {bearer: "a.b.c"},
		`[{"name":"sid","value":"a1"}]`: {cookies: []cookie{{name: "sid", value: "a1"}}},
		`{"cookies":[{"name":"s","value":"1","domain":".ostlewick.test"}]}`:                                                  {cookies: []cookie{{"s", "1", "ostlewick.test"}}},
		"# a comment\n.ostlewick.test\tTRUE\t/\tFALSE\t0\tsid\ta1\n#HttpOnly_ostlewick.test\tFALSE\t/\tTRUE\t0\tkey\tb2\r\n": {cookies: []cookie{{"sid", "a1", "ostlewick.test"}, {"key", "b2", "ostlewick.test"}}},
	} {
		got, err := readSession(text)
		require.NoError(t, err, text)
		require.Equal(t, want, *got, text)
	}
	for _, text := range []string{"", "nothing", "Bearer ", "[", `{"cookies":[]}`, "# only\ta comment"} {
		_, err := readSession(text)
		require.Error(t, err, text)
	}
}

// TestCodesAreSentOnceWhereASiteAsksForIt: the next of an account is that of the next half minute.
func TestCodesAreSentOnceWhereASiteAsksForIt(t *testing.T) {
	a := &spec.Account{ID: "warden", CodeSecret: "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ"} // of RFC 6238, appendix B
	now := time.Unix(1111111109, 0)
	u := newUsedCodes()
	u.now = func() time.Time { return now }
	u.after = func(d time.Duration) <-chan time.Time {
		now = now.Add(d)
		done := make(chan time.Time, 1)
		done <- now
		return done
	}
	for _, want := range []struct {
		another bool
		code    string
		used    bool
		at      int64
	}{
		{false, "081804", false, 1111111109},
		{false, "081804", true, 1111111109}, // most sites take it again
		{true, "050471", false, 1111111110}, // this one does not
		{false, "266759", false, 1111111140},
	} {
		code, used, err := u.next(t.Context(), a, want.another)
		require.NoError(t, err)
		require.Equal(t, want.code, code)
		require.Equal(t, want.used, used)
		require.Equal(t, want.at, now.Unix())
	}
	_, _, err := u.next(t.Context(), &spec.Account{ID: "x", CodeSecret: "not base 32!"}, false)
	require.ErrorContains(t, err, "base 32")
}
