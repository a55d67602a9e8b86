package cover_test

import (
	"fmt"
	"testing"

	"oddtick/core/cover"
	"oddtick/core/design"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// ordered draws a field with an ordered rule.
func ordered(t *rapid.T) string {
	lo := rapid.IntRange(0, 6).Draw(t, "min")
	hi := lo + rapid.IntRange(0, 5).Draw(t, "more")
	sent := rapid.SampledFrom([]string{"", "normalize: [trim], "}).Draw(t, "sent")
	needed := rapid.SampledFrom([]string{"", "{required: {}}, "}).Draw(t, "needed")
	switch rapid.IntRange(0, 4).Draw(t, "kind") {
	case 0:
		unit := rapid.SampledFrom([]string{"characters", "bytes", "utf-16_units", "graphemes"}).Draw(t, "unit")
		return fmt.Sprintf("{name: a, %srules: [%s{length: {min: %d, max: %d, in: %s}}]}", sent, needed, lo, max(1, hi), unit)
	case 1:
		step := rapid.SampledFrom([]string{"1", "0.5", "0.25"}).Draw(t, "step")
		return fmt.Sprintf("{name: a, kind: number, rules: [%s{range: {min: %d, max: %d}}, {step: {by: %s}}]}", needed, lo, hi, step)
	case 2:
		return fmt.Sprintf("{name: a, kind: number, rules: [%s{range: {min: %d, max: %d, exclusive: %t}}, {decimals: {max: %d}}]}", needed, lo, hi+1, rapid.Bool().Draw(t, "exclusive"), rapid.IntRange(0, 2).Draw(t, "decimals"))
	case 3:
		return fmt.Sprintf("{name: a, kind: date, rules: [%s{range: {min: 2020-02-%02d, max: 2020-02-%02d}}]}", needed, 24+lo/2, 24+hi/2)
	}
	return fmt.Sprintf("{name: a, kind: file, rules: [%s{file: {max: %d}}]}", needed, 1+hi)
}

// Every point that a bound has by definition is sent by some case, or told to be impossible, and no two cases of the technique send
// the same.
func TestEveryBoundaryIsThereAndNoneTwice(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		field := ordered(t)
		d := designer(t, "form: f\npage: /f\nfields: ["+field+"]\n")
		set := d.Design(design.Plan{Depth: testcase.Standard})
		for _, c := range cover.Of(d, set, d.Design(design.Plan{Depth: testcase.Thorough}), nil) {
			if c.Kind != cover.Boundaries {
				continue
			}
			for _, m := range c.Missing {
				require.NotEmpty(t, m.Why, "%s: %s has neither a case nor a reason", field, m.ID)
			}
		}
		reader := d.Reader()
		sent := map[string]string{}
		for _, c := range set.Cases {
			if c.Technique != testcase.Boundaries || c.Last().Driver != submission.HTTP {
				continue
			}
			got, err := reader.Values(c, c.About())
			require.NoError(t, err)
			v := got.Values[0].Sent
			require.Empty(t, sent[v], "%s: %s sends %q as %s does", field, c.ID, v, sent[v])
			sent[v] = c.ID
		}
	})
}
