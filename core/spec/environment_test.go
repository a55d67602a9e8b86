package spec_test

import (
	"testing"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

const twoPlaces = `
site: ost
address: http://staging.test
headers: {X-Stage: one}
authentication: {user: u, password: staged}
databases: [{id: main, dsn: staged}]
accounts: [{id: amy, name: amy, password: amys, state: member}]
pages: [{id: home, path: /home}]
environments:
  - id: live
    title: Production
    address: https://live.test
    protected: confirm
    headers: {X-Live: two}
    authentication: {user: v, password: lived}
    databases: [{id: main, dsn: lived}]
    accounts: [{id: amy, name: amelia, password: amelias}]
  - {id: looked_at, address: https://looked.test, protected: no_writes}
ready_when: {environment: live}
`

func siteOfTwoPlaces(t *testing.T) *spec.Site {
	p, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte(twoPlaces)}})
	require.NoError(t, err)
	return p.Site
}

// TestAnEnvironmentTakesNothingSecretFromTheSite: what is contacted and sent there is its own; pages and states are the site's.
func TestAnEnvironmentTakesNothingSecretFromTheSite(t *testing.T) {
	t.Parallel()
	site := siteOfTwoPlaces(t)
	live, err := site.In("live")
	require.NoError(t, err)
	require.Equal(t, "https://live.test", live.Address)
	require.Equal(t, "amelia", live.Accounts[0].Name)
	require.Equal(t, site.Pages, live.Pages)
	require.Equal(t, spec.Confirm, live.Protected())
	require.Equal(t, "live", live.Environment())
	other, err := site.In("looked_at")
	require.NoError(t, err)
	require.Empty(t, other.Headers)
	require.Nil(t, other.Authentication)
	require.Empty(t, other.Databases)
	require.Empty(t, other.Accounts)
	own, err := site.In("")
	require.NoError(t, err)
	require.Same(t, site, own)
	require.Empty(t, own.Protected())
	_, err = site.In("elsewhere")
	require.ErrorContains(t, err, `the site ost has no environment "elsewhere"; it has live, looked_at`)
	require.ElementsMatch(t, []string{"amys", "amelias"}, site.Passwords())
	require.Len(t, site.Everywhere(), 3)
}

func TestSecretsOfEnvironmentsAreTakenOutAndPutBack(t *testing.T) {
	t.Parallel()
	site := siteOfTwoPlaces(t)
	open, secrets := site.Split()
	e := open.Environments[0]
	require.Empty(t, e.Headers["X-Live"]+e.Authentication.Password+e.Databases[0].DSN+e.Accounts[0].Password)
	require.Equal(t, "lived", site.Environments[0].Authentication.Password, "the site itself keeps its own")
	open.Join(secrets)
	require.Equal(t, site.Environments, open.Environments)

	// from a form whose secrets were left empty
	open, _ = site.Split()
	require.Empty(t, open.Keep(site))
	require.Equal(t, site.Environments, open.Environments)
	open, _ = site.Split()
	open.Environments[0].Address = "https://elsewhere.test"
	require.Equal(t, []string{"the password of HTTP's authentication, in the environment live", "the password of the account amy, in the environment live", "the header X-Live, in the environment live"}, open.Keep(site))
	require.Empty(t, open.Environments[0].Accounts[0].Password)

	var places []string
	require.NoError(t, site.ReplaceSecrets(func(place, text string) (string, error) {
		places = append(places, place)
		return text + "!", nil
	}))
	require.Contains(t, places, "environments[0].accounts[0].password")
	require.Equal(t, "amelias!", site.Environments[0].Accounts[0].Password)
	require.Equal(t, "lived!", site.Environments[0].Databases[0].DSN)
}

func TestEnvironmentsThatCannotBe(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"environments: [{id: a, address: http://a.test}, {id: a, address: http://b.test}]": `environments[1].id: there are two environments "a"; give each environment an id of its own`,
		"environments: [{id: A b, address: http://a.test}]":                                `environments[0].id: "A b" is not an id`,
		"environments: [{id: a, address: a.test}]":                                         `environments[0].address: "a.test" is not an address`,
		"environments: [{id: a, address: http://a.test, protected: maybe}]":                `environments[0].protected: "maybe" is not known here; write one of: confirm, no_writes`,
		"ready_when: {environment: b}":                                                     `ready_when.environment: the site has no environment "b"`,
	} {
		_, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte("site: ost\naddress: http://s.test\n" + text + "\n")}})
		require.ErrorContains(t, err, want)
	}
}
