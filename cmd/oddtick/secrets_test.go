package main

import (
	"os"
	"path/filepath"
	"testing"

	"oddtick/cmd/oddtick/documents"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

func TestSecretsComeFromVariablesAndFiles(t *testing.T) {
	t.Setenv("SHED_PASSWORD", "a:b@c")
	t.Setenv("SHED_TOKEN", "t0ken")
	folder := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(folder, "warden"), []byte("Rake-and-hoe 7\r\n"), 0o600))
	site := &spec.Site{
		Headers:        map[string]string{"Authorization": "Bearer ${SHED_TOKEN}", "X-Plain": "as it is, $5 {x}"},
		Authentication: &spec.Authentication{User: "warden", Password: "${SHED_PASSWORD}"},
		Accounts:       []spec.Account{{ID: "one", Password: "file:warden"}, {ID: "two", Password: "file:" + filepath.Join(folder, "warden")}, {ID: "three"}},
		Databases:      []spec.Database{{DSN: "shed:${SHED_PASSWORD}@tcp(127.0.0.1:1)/shed"}, {DSN: "file:/srv/shed.db"}},
	}
	require.NoError(t, documents.TakeSecrets(site, folder))
	require.Equal(t, map[string]string{"Authorization": "Bearer t0ken", "X-Plain": "as it is, $5 {x}"}, site.Headers)
	require.Equal(t, "a:b@c", site.Authentication.Password)
	require.Equal(t, []spec.Account{{ID: "one", Password: "Rake-and-hoe 7"}, {ID: "two", Password: "Rake-and-hoe 7"}, {ID: "three"}}, site.Accounts)
	require.Equal(t, "shed:a:b@c@tcp(127.0.0.1:1)/shed", site.Databases[0].DSN)
	require.Equal(t, "file:/srv/shed.db", site.Databases[1].DSN, "an address of SQLite is not a secret's file")
}

func TestASecretThatIsNotThereIsNamed(t *testing.T) {
	folder := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(folder, "large"), make([]byte, documents.MostSecret+1), 0o600))
	for text, want := range map[string]string{
		"${SHED_NOT_SET}": "accounts[1].password of the site document is taken from the environment variable SHED_NOT_SET, which is not set",
		"file:none":       "accounts[1].password of the site document is taken from the file " + filepath.Join(folder, "none"),
		"file:large":      "a secret at most 65536",
	} {
		err := documents.TakeSecrets(&spec.Site{Accounts: []spec.Account{{ID: "one", Password: "plain"}, {ID: "two", Password: text}}}, folder)
		require.ErrorContains(t, err, want)
	}
}
