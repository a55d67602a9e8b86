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

// TestEachKindOfSourceIsKnown: each has a member of Source, and is told from the others.
func TestEachKindOfSourceIsKnown(t *testing.T) {
	t.Parallel()
	zero := Scalar("0")
	for kind, s := range map[SourceKind]Source{
		SourceFrom: {From: "name"}, SourceSecret: {Secret: "key"}, SourceNow: {Now: &Now{Within: "5s"}}, SourceConstant: {Is: &zero}, SourceNull: {Null: true}, SourceAny: {Any: true},
		SourceExpression: {Cel: "1"}, SourceKeyOf: {KeyOf: "sheds"}, SourceSignedIn: {SignedIn: true}, SourceGenerated: {Generated: "uuid"}, SourceClient: {Client: true},
		SourceDefault: {Default: true}, SourceUnchanged: {Unchanged: true},
	} {
		require.Equal(t, kind, s.Kind())
		require.Equal(t, 1, s.count())
	}
	require.Empty(t, (&Source{}).Kind())
	require.Equal(t, 2, (&Source{Null: true, Any: true}).count())
	require.Len(t, SourceKind("").Values(), 13)
}
