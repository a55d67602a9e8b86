package design_test

import (
	"testing"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

// TestSurplusParametersAreNamedAsTheFormNamesItsOwn: as members of the record whose members most fields are.
func TestSurplusParametersAreNamedAsTheFormNamesItsOwn(t *testing.T) {
	t.Parallel()
	for names, want := range map[[2]string]string{
		{"member[name]", "member[mail]"}: "member[role]",
		{"member.name", "member.mail"}:   "member.role",
		{"name", "mail"}:                 "role",
		{"member[name]", "mail"}:         "role",
	} {
		all, _ := casesOf(t, `form: join
page: /join
fields:
  - {id: name, name: "`+names[0]+`", rules: [{length: {max: 20}}]}
  - {id: mail, name: "`+names[1]+`", rules: [{length: {max: 20}}]}
stored: [{insert: members, columns: {name: {from: name}, mail: {from: mail}, role: {is: holder}}}]
`, &spec.Site{})
		surplus := all["join/form.surplus/http"]
		require.NotNil(t, surplus)
		require.Equal(t, want, surplus.Steps[0].Extra[0].Name)
	}
}
