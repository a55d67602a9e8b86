package oracle_test

import (
	"testing"

	"oddtick/core/oracle"

	"github.com/stretchr/testify/require"
)

// TestForgedRequests: what no page sends is answered, and what would be a security hole is refused.
func TestForgedRequests(t *testing.T) {
	t.Parallel()
	for by, want := range map[oracle.Forgery]oracle.Outcome{
		"":                  oracle.Accepted,
		oracle.ForeignToken: oracle.RejectedByServer,
		oracle.OtherMethod:  oracle.NothingFurther,
		oracle.OtherType:    oracle.Answered,
		oracle.AsLists:      oracle.Answered,
		oracle.Repeated:     oracle.Answered,
	} {
		sent := submission(nil)
		sent.Forged = by
		e := oracle.Expect(join(t), world(), sent)
		require.Equal(t, want, e.Outcome, by)
		for _, f := range e.Failing {
			require.NotEmpty(t, f.Cause)
		}
		if by != "" {
			require.Empty(t, e.Rows, "nothing is promised of what is written")
		}
	}
}

// TestATokenThatThePageLacks is no reason to expect a rejection: the page should hold it.
func TestATokenThatThePageLacks(t *testing.T) {
	t.Parallel()
	require.Equal(t, oracle.Accepted, oracle.Expect(join(t), world(), submission(map[string]string{"_token": "-"})).Outcome)
}
