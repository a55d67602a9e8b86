package spec_test

import (
	"strings"
	"testing"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

const ferry = `form: ferry
submit: {method: POST, to: /api/ferries, encoding: json}
fields:
  - {id: quay, name: quay, kind: single_choice, options_from: {table: quays, value: code}, rules: [{required: {message: Which?, absent: Missing., "null": Null.}}]}
  - {id: leaves, name: leaves, kind: date, rules: [{no_overlap: {to: lands, table: trips, begins: first_day, ends: last_day, same: {quay: quay}, message: Taken.}}]}
  - {id: lands, name: lands, kind: date}
rejected: {status: 422, unreadable: {status: 400, message: No JSON.}, answer: {has: [$.errors]}}
accepted:
  status: 201
  answer: {schema: {type: object, required: [id]}, has: [$.id], lacks: [$..password], equal: {$.id: trips.id}}
on_failure: {network_lost: Lost., slow: true}
`

func TestAnEndpointNeedsNoPage(t *testing.T) {
	t.Parallel()
	f, err := spec.ReadForm("ferry.yaml", []byte(ferry))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	require.Empty(t, f.Page)
	require.NotNil(t, p.Accepted.Schema)
	require.Equal(t, "trips", p.Accepted.Equal[0].Table)
	quay, leaves := p.Field("quay"), p.Field("leaves")
	var refers, overlap *spec.PreparedRule
	for _, r := range append(quay.Rules, leaves.Rules...) {
		switch r.Kind {
		case spec.RuleExistsIn:
			refers = r
		case spec.RuleNoOverlap:
			overlap = r
		}
	}
	require.Equal(t, "quays.code", refers.Table+"."+refers.Column, "the options are rows")
	require.Equal(t, spec.PhaseFormat, refers.Phase)
	require.Equal(t, spec.PhaseLookup, overlap.Phase)
	require.Same(t, p.Field("lands"), overlap.Other)
	require.Equal(t, "leaves.no_overlap", overlap.ID)
	say, tried := f.OnFailure.Of(spec.NetworkLost)
	require.True(t, tried)
	require.Equal(t, "Lost.", say.Text)
	_, tried = f.OnFailure.Of(spec.ServerError)
	require.False(t, tried, "what is not named is not tried")
	_, tried = f.OnFailure.Of(spec.Slow)
	require.True(t, tried)
}

func TestWhatIsWrongWithAnEndpointIsSaid(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ old, new, want string }{
		{", encoding: json}", "}", "the page is missing"},
		{"to: lands,", "to: nowhere,", `there is no field "nowhere"`},
		{"same: {quay: quay}", "same: {quay: pier}", `there is no field "pier"`},
		{"id: lands, name: lands, kind: date", "id: lands, name: lands", "only times can overlap"},
		{"begins: first_day, ", "", "the rows are not named"},
		{"type: object", "type: objekt", "the schema cannot be read"},
		{"{type: object, required: [id]}", `{$ref: "https://example.test/other"}`, "is not read; write the whole schema into the document"},
		{"has: [$.id]", "has: [id]", "accepted.answer.has[0]"},
		{"lacks: [$..password]", `lacks: ["$["]`, "accepted.answer.lacks[0]"},
		{"$.id: trips.id", "$.id: trips", `"trips" names no column`},
		{"network_lost: Lost.", "network gone: Lost.", `the key "network gone" is not known here`},
	} {
		require.Contains(t, ferry, c.old)
		_, err := spec.ReadForm("ferry.yaml", []byte(strings.Replace(ferry, c.old, c.new, 1)))
		require.ErrorContains(t, err, c.want, c.new)
	}
}

func TestAnExportIsPartOfASite(t *testing.T) {
	t.Parallel()
	p, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte("site: s\naddress: http://127.0.0.1:1\ndatabases:\n  - {id: main, kind: export, exports: [{table: trips, from: /export/trips.csv, key: id}]}\n")}})
	require.NoError(t, err)
	require.Equal(t, []spec.Export{{Table: "trips", From: "/export/trips.csv", Key: spec.Names{"id"}}}, p.Site.Databases[0].Exports)
}
