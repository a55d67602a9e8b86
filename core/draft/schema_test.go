package draft_test

import (
	"os"
	"testing"

	"oddtick/core/draft"
	"oddtick/core/spec"
	"oddtick/formats/ddl"

	"github.com/stretchr/testify/require"
)

func read(t require.TestingT, text string) *spec.Form {
	f, err := spec.ReadForm("f.yaml", []byte(text))
	require.NoError(t, err)
	return f
}

func TestFieldsFindTheirColumns(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		form, sql string
		want      map[string]string
	}{
		{
			`{form: a, page: /, fields: [{name: "member[full_name]"}, {name: "member[email]", kind: email}, {name: "member[date_of_birth]", kind: date}, {name: "member[terms]", kind: checkbox}]}`,
			`CREATE TABLE members (id INT AUTO_INCREMENT PRIMARY KEY, full_name VARCHAR(80), email_address VARCHAR(190), birthdate DATE, accepted_terms BOOLEAN, created DATETIME)`,
			map[string]string{"member_full_name": "members.full_name", "member_email": "members.email_address", "member_date_of_birth": "members.birthdate", "member_terms": "members.accepted_terms"},
		},
		{
			`{form: a, page: /, fields: [{name: "ctl$Main$txtSize", label: Size in m², kind: number}, {name: "ctl$Main$ddlArea", label: Area, kind: single_choice, options: [{value: x}]}, {name: q, label: Comments}]}`,
			`CREATE TABLE wishes (wish_no BIGINT AUTO_INCREMENT PRIMARY KEY, size_sqm DECIMAL(5,1), area_code CHAR(4), remark TEXT)`,
			map[string]string{"ctl_main_txtsize": "wishes.size_sqm", "ctl_main_ddlarea": "wishes.area_code", "q": "wishes.remark"},
		},
		{
			`{form: a, page: /, fields: [{name: firstName}, {name: lastName}, {name: Phone, kind: tel}, {name: pwd, kind: password}, {name: pwd2, label: Password again, kind: password}]}`,
			`CREATE TABLE users (id INT AUTO_INCREMENT PRIMARY KEY, forename VARCHAR(50), surname VARCHAR(50), mobile VARCHAR(20), password_hash CHAR(97), zip VARCHAR(9))`,
			map[string]string{"firstname": "users.forename", "lastname": "users.surname", "phone": "users.mobile", "pwd": "users.password_hash"},
		},
	} {
		db, err := ddl.Read(c.sql, "mariadb")
		require.NoError(t, err)
		got := map[string]string{}
		for _, m := range draft.Map(&db.Tables[0], read(t, c.form)) {
			got[m.Field] = m.Column
			require.Less(t, m.Sure, 1.0, "a name is never proof")
		}
		require.Equal(t, c.want, got)
	}
}

func TestTheTableThatTakesTheFormComesFirst(t *testing.T) {
	t.Parallel()
	sql, err := os.ReadFile("../../formats/ddl/testdata/mariadb.sql")
	require.NoError(t, err)
	db, err := ddl.Read(string(sql), "mariadb")
	require.NoError(t, err)
	form := read(t, `{form: a, page: /, fields: [{name: username}, {name: e_mail, kind: email}, {name: note}]}`)
	require.Equal(t, "plot_holders", draft.Tables(db, form)[0])
}
