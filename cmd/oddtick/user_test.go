package main

import (
	"bytes"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"strings"
	"testing"
	"time"

	"oddtick/cmd/oddtick/serving"
	"oddtick/internal/localdb/dbtest"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

func TestUsersByTheCommandLine(t *testing.T) {
	t.Parallel()
	dsn, key := dbtest.DSN(t), filepath.Join(t.TempDir(), "key")
	user := func(password string, args ...string) (int, string) {
		cmd := command(append([]string{"user"}, args...)...)
		cmd.Env = append(cmd.Env, "ODDTICK_DSN="+dsn, "ODDTICK_KEY_FILE="+key)
		cmd.Stdin = strings.NewReader(password)
		var out bytes.Buffer
		cmd.Stdout, cmd.Stderr = &out, &out
		_ = cmd.Run()
		return cmd.ProcessState.ExitCode(), out.String()
	}
	code, says := user("heron lantern moss\n", "add", "keeper")
	require.Zero(t, code, says)
	require.Contains(t, says, "keeper can sign in")
	for _, wrong := range [][3]string{{"heron lantern moss\n", "add", "KEEPER"}, {"password1234\n", "add", "second"}, {"short\n", "password", "keeper"}, {"heron lantern moss\n", "password", "nobody"}, {"", "add", " blank "}} {
		code, says := user(wrong[0], wrong[1:]...)
		require.Equal(t, 2, code, says)
		require.NotContains(t, says, strings.TrimSpace(wrong[0])+"x")
	}
	code, says = user("kettle wren bridge", "password", "keeper")
	require.Zero(t, code, says)
	st, err := store.Open(t.Context(), dsn, key)
	require.NoError(t, err)
	defer st.Close()
	_, err = st.Authenticate(t.Context(), "keeper", "kettle wren bridge")
	require.NoError(t, err)
	code, says = user("", "end", "keeper")
	require.Zero(t, code, says)
	code, says = user("", "list")
	require.Zero(t, code, says)
	require.Regexp(t, `keeper +added \d{4}-\d\d-\d\d +ended \d{4}-\d\d-\d\d`, says)
}

// TestAttackServeWithoutAUser: nobody signs in with a password that everybody knows; a link comes instead, and a password is never set anew.
func TestAttackServeWithoutAUser(t *testing.T) {
	t.Parallel()
	dsn, key := dbtest.DSN(t), filepath.Join(t.TempDir(), "key")
	serve := func() string {
		cmd := command("serve", "--as-root")
		cmd.Env = append(cmd.Env, "ODDTICK_DSN="+dsn, "ODDTICK_KEY_FILE="+key, "ODDTICK_ADDR=127.0.0.1:0", "ODDTICK_USER=tester", "ODDTICK_PASSWORD=brook-side-42")
		cmd.Stderr = os.Stderr
		out, err := cmd.StdoutPipe()
		require.NoError(t, err)
		require.NoError(t, cmd.Start())
		var said []byte
		for buffer := make([]byte, 1000); !bytes.Contains(said, []byte("Odd Tick is at")); {
			n, err := out.Read(buffer)
			require.NoError(t, err, string(said))
			said = append(said, buffer[:n]...)
		}
		require.NoError(t, cmd.Process.Signal(os.Interrupt))
		require.NoError(t, cmd.Wait())
		return string(said)
	}
	link := regexp.MustCompile(`http://127\.0\.0\.1:\d+/first-user#([A-Z2-7]{26})\n`).FindStringSubmatch(serve())
	require.NotNil(t, link)
	st, err := store.Open(t.Context(), dsn, key)
	require.NoError(t, err)
	defer st.Close()
	_, err = st.Authenticate(t.Context(), "tester", "brook-side-42")
	require.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, st.Accept(t.Context(), link[1], "tester", "heron lantern moss", time.Now()))
	require.NotContains(t, serve(), "first-user")
	_, err = st.Authenticate(t.Context(), "tester", "heron lantern moss")
	require.NoError(t, err, "a start sets no password")
}

func TestEveryVariableIsDocumented(t *testing.T) {
	t.Parallel()
	docs, err := os.ReadFile("../../docs/operate.md")
	require.NoError(t, err)
	for _, settings := range []reflect.Type{reflect.TypeFor[serving.ServeSettings](), reflect.TypeFor[serving.DemoSettings]()} {
		for _, f := range reflect.VisibleFields(settings) {
			if name := f.Tag.Get("env"); name != "" {
				require.Contains(t, string(docs), "`"+name+"`")
				require.NotEmpty(t, f.Tag.Get("doc"), name)
			}
		}
	}
	code, out, _ := oddtick(t, "serve", "--help")
	require.Zero(t, code)
	require.Contains(t, out, "ODDTICK_CONTACT")
}
