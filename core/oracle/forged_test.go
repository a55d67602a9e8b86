package oracle_test

import (
	"testing"

	"oddtick/core/oracle"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

// TestForgedRequests: what no page sends is answered, and what would be a security hole is refused.
func TestForgedRequests(t *testing.T) {
	t.Parallel()
	for by, want := range map[submission.Forgery]oracle.Outcome{
		"":                      oracle.Accepted,
		submission.ForeignToken: oracle.RejectedByServer,
		submission.OtherMethod:  oracle.NothingFurther,
		submission.OtherType:    oracle.Answered,
		submission.AsLists:      oracle.Answered,
		submission.Repeated:     oracle.Answered,
		submission.AsObjects:    oracle.Answered,
		submission.SignedOut:    oracle.NothingFurther,
	} {
		sent := sent(nil)
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
	require.Equal(t, oracle.Accepted, oracle.Expect(join(t), world(), sent(map[string]string{"_token": "-"})).Outcome)
}
