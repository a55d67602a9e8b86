package contact_test

import (
	"net"
	"os"
	"path/filepath"
	"testing"

	"oddtick/core/spec"
	"oddtick/internal/localdb/dbtest"
	"oddtick/observe/database"
	"oddtick/server/contact"

	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

func read(t *testing.T, text string) (*contact.List, error) {
	file := filepath.Join(t.TempDir(), "contact.yaml")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
	return contact.Read(file)
}

func TestAttackByWhatASiteNames(t *testing.T) {
	t.Parallel()
	usual, err := contact.Read("")
	require.NoError(t, err)
	usual.Never(&net.TCPAddr{IP: net.IPv4(127, 0, 0, 1), Port: 4640}, "")
	folder := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(folder, "in.db"), nil, 0o600))
	outside := filepath.Join(t.TempDir(), "out.db")
	require.NoError(t, os.WriteFile(outside, nil, 0o600))
	require.NoError(t, os.Symlink(outside, filepath.Join(folder, "link.db")))
	wide, err := read(t, "hosts: ['*.staging.example:443', '10.0.0.5']\ndatabases: ['db.example:3306/shop', '10.0.0.*:5432/*']\nfolders: ["+folder+"]\n")
	require.NoError(t, err)
	for _, c := range []struct {
		list    *contact.List
		address string
		allowed []string
		dsn     string
		refused string
	}{
		{list: usual, address: "http://127.0.0.1:8080"},
		{list: usual, address: "http://localhost:8080"},
		{list: usual, address: "http://[::1]:8080", allowed: []string{"127.0.0.2:9000", "localhost"}},
		{list: usual, address: "http://127.0.0.1:4640", refused: "Odd Tick itself"},
		{list: usual, address: "http://localhost:4640", refused: "Odd Tick itself"},
		{list: usual, address: "http://0.0.0.0:8080", refused: "may not contact"},
		{list: usual, address: "http://[::]:8080", refused: "may not contact"},
		{list: usual, address: "http://169.254.169.254", refused: "may not contact 169.254.169.254:80"},
		{list: usual, address: "http://2130706433", refused: "may not contact"},
		{list: usual, address: "http://localhost.evil.example", refused: "may not contact"},
		{list: usual, address: "https://staging.example", refused: "may not contact staging.example:443"},
		{list: usual, address: "http://127.0.0.1:8080", allowed: []string{"evil.example"}, refused: "may not contact evil.example"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "u:p@tcp(10.0.0.5:3306)/shop", refused: "may not open the database 10.0.0.5:3306/shop"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "u:p@tcp(127.0.0.1:3306)/shop?allowAllFiles=true", refused: "allowAllFiles"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "root@unix(/run/db.sock)/shop", refused: "leads to unix"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "root@tcp(127.0.0.1:3306)/mysql", refused: "server's own"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "postgres://u@127.0.0.1:5432/shop"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "postgres://u@127.0.0.1:5432/shop?sslkey=/etc/passwd", refused: "sslkey"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "postgres://u@127.0.0.1:5432/shop?host=/run/postgresql", refused: "host"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "host=/run/postgresql dbname=shop", refused: "cannot be read"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "postgres://u@%2Frun%2Fpostgresql/shop", refused: "cannot be read"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "file:/etc/passwd", refused: "may not open the file"},
		{list: usual, address: "http://127.0.0.1:8080", dsn: "file:data.db", refused: "not whole"},
		{list: wide, address: "http://127.0.0.1:8080", refused: "may not contact"},
		{list: wide, address: "https://shop.staging.example"},
		{list: wide, address: "http://shop.staging.example", refused: "may not contact"},
		{list: wide, address: "http://10.0.0.5:81", dsn: "u:p@tcp(db.example:3306)/shop"},
		{list: wide, address: "http://10.0.0.5:81", dsn: "u:p@tcp(db.example:3306)/bank", refused: "may not open"},
		{list: wide, address: "http://10.0.0.5:81", dsn: "postgres://u@10.0.0.9:5432/any"},
		{list: wide, address: "http://10.0.0.5:81", dsn: "file:" + filepath.Join(folder, "in.db")},
		{list: wide, address: "http://10.0.0.5:81", dsn: "file:" + filepath.Join(folder, "none.db")},
		{list: wide, address: "http://10.0.0.5:81", dsn: "file:" + folder + "/../" + filepath.Base(filepath.Dir(outside)) + "/out.db", refused: "may not open the file"},
		{list: wide, address: "http://10.0.0.5:81", dsn: "file:" + filepath.Join(folder, "link.db"), refused: "may not open the file"},
		{list: wide, address: "http://10.0.0.5:81", dsn: "file:" + outside, refused: "may not open the file"},
		{list: wide, address: "http://10.0.0.5:81", dsn: "file:/nowhere/at/all.db", refused: "may not open the file"},
	} {
		site := &spec.Site{Site: "s", Address: c.address, Allowed: c.allowed}
		if c.dsn != "" {
			site.Databases = []spec.Database{{ID: "main", DSN: c.dsn}}
			if c.dsn[:5] == "host=" {
				site.Databases[0].Kind = "postgresql"
			}
		}
		err := c.list.Check(t.Context(), site)
		if c.refused == "" {
			require.NoError(t, err, "%s %s", c.address, c.dsn)
		} else {
			require.ErrorContains(t, err, c.refused, "%s %s", c.address, c.dsn)
		}
	}
}

func TestAttackOddTicksOwnDatabase(t *testing.T) {
	t.Parallel()
	dsn := dbtest.DSN(t)
	identity, err := database.Identity(t.Context(), dsn)
	require.NoError(t, err)
	l, err := contact.Read("")
	require.NoError(t, err)
	l.Never(&net.TCPAddr{IP: net.IPv4(127, 0, 0, 1), Port: 1}, identity)
	at := func(dsn string) error {
		return l.Check(t.Context(), &spec.Site{Site: "s", Address: "http://127.0.0.1:8080", Databases: []spec.Database{{ID: "main", DSN: dsn}}})
	}
	require.ErrorContains(t, at(dsn), "Odd Tick's own")
	require.NoError(t, at(dbtest.DSN(t)), "another database of the same server")
}

func TestAListIsReadWhole(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"host: [a]\n": "host", "hosts: ['[']\n": "not a host", "databases: [shop]\n": "written like db.example:3306/shop", "folders: [data]\n": "whole path", "hosts: {a: b}\n": "contacted",
	} {
		_, err := read(t, text)
		require.ErrorContains(t, err, want, text)
	}
	_, err := contact.Read(filepath.Join(t.TempDir(), "none"))
	require.ErrorContains(t, err, "none")
	l, err := read(t, "")
	require.NoError(t, err)
	require.Error(t, l.Check(t.Context(), &spec.Site{Site: "s", Address: "http://127.0.0.1:8080"}), "an empty list lets nothing be named")
}
