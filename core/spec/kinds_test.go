package spec

import (
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestEachMemberOfRuleIsAKind: the entries stand in the order of the members, under the names that documents use.
func TestEachMemberOfRuleIsAKind(t *testing.T) {
	t.Parallel()
	rule := reflect.TypeFor[Rule]()
	var names []string
	for i := range rule.NumField() {
		name, _, _ := strings.Cut(rule.Field(i).Tag.Get("json"), ",")
		if name == "-" {
			continue
		}
		names = append(names, name)
		r := &Rule{}
		reflect.ValueOf(r).Elem().Field(i).Set(reflect.New(rule.Field(i).Type.Elem()))
		require.Equal(t, RuleKind(name), r.Kind())
		require.True(t, IsRule(name))
	}
	require.Equal(t, append(names, string(RuleAcross)), RuleKind("").Values())
	require.False(t, IsRule(string(RuleAcross)))
	require.Equal(t, several, (&Rule{Required: &Required{}, Length: &Length{}}).Kind())
}
