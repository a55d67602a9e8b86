package oracle_test

import (
	"strings"
	"testing"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

const wishes = `
form: wishes
page: /wishes
fields:
  - {name: bees, kind: checkbox, value: "yes"}
  - {name: hive, when: bees, normalize: [trim], rules: [{required: {message: Which hive.}}, {length: {max: 4, when: 'area != "far"', message: Too long.}}]}
  - {name: area, kind: single_choice, options: [{label: Near, value: near}, {label: Far, value: far}], rules: [{exists_in: {column: areas.code}}]}
  - {name: extras, kind: multiple_choice, options: [{value: oil}, {value: gloves}]}
  - {name: mail, kind: email, rules: [{unique: {column: t.mail, message: Taken., rejected: {status: 409, to: /sign-in, values_kept: none}}}]}
rejected: {status: 422}
accepted: {status: 303, to: /done}
stored:
  - insert: wishes
    columns: {hive: {from: hive, blank: null}, area: {from: area, option: label}, code: {from: area}, token: {generated: uuid}, owner: {signed_in: true}, role: {default: true}}
  - {update: people, when: bees, columns: {keeps_bees: {is: 1}, name: {unchanged: true}}}
`

func expect(t testing.TB, text string, taken map[string]bool, pairs ...string) *oracle.Expectation {
	f, err := spec.ReadForm("f.yaml", []byte(text))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	sub := &submission.Submission{Driver: submission.HTTP, Encoding: "urlencoded"}
	for i := 0; i < len(pairs); i += 2 {
		sub.Pairs = append(sub.Pairs, submission.Pair{Name: pairs[i], Value: pairs[i+1]})
	}
	return oracle.Expect(p, &oracle.World{Now: time.Date(2026, 6, 15, 0, 0, 0, 0, time.UTC), Driver: submission.HTTP, LookupResults: taken}, sub)
}

func TestAFieldWhoseConditionIsFalseIsLeftOut(t *testing.T) {
	t.Parallel()
	there := map[string]bool{"area.exists_in": true}
	e := expect(t, wishes, there, "area", "near", "hive", "sent all the same")
	require.Equal(t, oracle.Accepted, e.Outcome, "its rules are skipped")
	require.Len(t, e.Rows, 1, "the update's condition is false")
	require.Equal(t, oracle.HoldsNull, column(e, 0, "hive").Source, "it is stored as blank")
	require.Equal(t, "hive.required", failing(expect(t, wishes, there, "bees", "yes", "area", "near")))
	require.Equal(t, "hive.length", failing(expect(t, wishes, there, "bees", "yes", "area", "near", "hive", "12345")))
	e = expect(t, wishes, there, "bees", "yes", "area", "far", "hive", " 12345 ")
	require.Empty(t, failing(e), "the rule's own condition is false")
	require.Len(t, e.Rows, 2)
	require.True(t, e.Rows[1].Updates)
	require.Equal(t, oracle.HoldsUntouched, column(e, 1, "name").Source)
}

func column(e *oracle.Expectation, row int, name string) oracle.Column {
	for _, c := range e.Rows[row].Columns {
		if c.Name == name {
			return c
		}
	}
	return oracle.Column{}
}

func TestEverySourceOfAColumn(t *testing.T) {
	t.Parallel()
	e := expect(t, wishes, map[string]bool{"area.exists_in": true}, "area", "near")
	require.Equal(t, "Near", column(e, 0, "area").Value)
	require.Equal(t, "near", column(e, 0, "code").Value)
	require.Equal(t, oracle.HoldsUUID, column(e, 0, "token").Source)
	require.Equal(t, oracle.HoldsUnknown, column(e, 0, "owner").Source, "said, and not known here")
	require.Equal(t, oracle.HoldsUntouched, column(e, 0, "role").Source)
}

func TestEachOfSeveralChoicesMustBeOffered(t *testing.T) {
	t.Parallel()
	there := map[string]bool{"area.exists_in": true}
	require.Empty(t, failing(expect(t, wishes, there, "area", "near", "extras", "oil", "extras", "gloves")))
	require.Equal(t, "extras.listed", failing(expect(t, wishes, there, "area", "near", "extras", "oil", "extras", "rope")))
}

func TestAReferenceIsLookedUpLikeUniqueness(t *testing.T) {
	t.Parallel()
	require.Equal(t, "area.exists_in", failing(expect(t, wishes, nil, "area", "near")))
	require.Empty(t, failing(expect(t, wishes, nil, "area", "")))
}

func TestOneRulesRejectionMayBeAnother(t *testing.T) {
	t.Parallel()
	taken := map[string]bool{"area.exists_in": true, "mail.unique": true}
	e := expect(t, wishes, taken, "area", "near", "mail", "a@b.test")
	require.Equal(t, 409, e.Status)
	require.Equal(t, "/sign-in", e.To)
	for _, r := range e.Refilled {
		require.True(t, r.Blank, r.Field)
	}
	e = expect(t, wishes, taken, "bees", "yes", "area", "near")
	require.Equal(t, 422, e.Status)
}

// TestAMessageStandsAtAnotherField: that of a rule across fields at one of them, where one message a field is shown only the first.
func TestAMessageStandsAtAnotherField(t *testing.T) {
	t.Parallel()
	const stay = `
form: stay
page: /stay
fields:
  - {name: from, kind: date, rules: [{required: {message: When., at_field: until}}]}
  - {name: until, kind: date, rules: [{required: {message: How long.}}]}
across: [{id: order, must_hold: "until > from", message: "“{any}” is too early.", at_field: until}]
rejected: {status: 422, linked: true}
`
	e := expect(t, stay, nil, "from", "2026-06-02", "until", "2026-06-01")
	require.Len(t, e.Messages, 1)
	require.Equal(t, "until", e.Messages[0].Field)
	require.True(t, e.Messages[0].Linked)
	require.Equal(t, "until", expect(t, stay, nil, "from", "", "until", "2026-06-01").Messages[0].Field)
	require.Len(t, expect(t, stay, nil, "from", "", "until", "").Messages, 2)
	first := strings.Replace(stay, "linked: true", "report: first_of_each_field", 1)
	require.Len(t, expect(t, first, nil, "from", "", "until", "").Messages, 1)
	_, err := spec.ReadForm("f.yaml", []byte(strings.Replace(stay, "message: When., at_field: until", "message: When., at_field: until, place: summary", 1)))
	require.ErrorContains(t, err, "the message is shown in summary, not at a field")
	_, err = spec.ReadForm("f.yaml", []byte(strings.Replace(stay, "at_field: until}]", "at_field: end}]", 1)))
	require.ErrorContains(t, err, `there is no field "end"`)
}
