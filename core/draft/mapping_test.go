package draft_test

import (
	"fmt"
	"strings"
	"testing"

	"oddtick/core/draft"
	"oddtick/formats/ddl"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// TestAMappingIsOneToOne: whatever fields and columns there are, no column is given to two fields, none that the server fills by
// itself is given at all, and a field named exactly like a column of its kind gets it.
func TestAMappingIsOneToOne(t *testing.T) {
	t.Parallel()
	names := []string{"name", "first_name", "last_name", "mail", "e_mail", "phone", "note", "city", "street", "zip", "created", "size", "area", "user", "code"}
	rapid.Check(t, func(t *rapid.T) {
		fields := rapid.SliceOfNDistinct(rapid.SampledFrom(names), 1, 8, rapid.ID[string]).Draw(t, "fields")
		columns := rapid.SliceOfNDistinct(rapid.SampledFrom(names), 1, 8, rapid.ID[string]).Draw(t, "columns")
		var list, defs []string
		for _, f := range fields {
			list = append(list, "{name: "+f+"}")
		}
		for _, c := range columns {
			defs = append(defs, c+" VARCHAR(40)")
		}
		db, err := ddl.Read("CREATE TABLE t (id INT AUTO_INCREMENT PRIMARY KEY, "+strings.Join(defs, ", ")+")", "mariadb")
		require.NoError(t, err)
		form := read(t, "{form: f, page: /, fields: ["+strings.Join(list, ", ")+"]}")
		taken, placed := map[string]string{}, map[string]string{}
		for _, m := range draft.Map(&db.Tables[0], form) {
			require.Empty(t, taken[m.Column], "%s is given twice", m.Column)
			require.Empty(t, placed[m.Field])
			require.NotEqual(t, "t.id", m.Column)
			taken[m.Column], placed[m.Field] = m.Field, m.Column
		}
		for _, f := range fields {
			for _, c := range columns {
				if f == c {
					require.Equal(t, "t."+c, placed[f], fmt.Sprint(fields, columns))
				}
			}
		}
	})
}
