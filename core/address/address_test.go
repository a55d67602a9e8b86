package address_test

import (
	"net/url"
	"testing"

	"oddtick/core/address"

	"github.com/stretchr/testify/require"
)

func TestAPathIsTheSameWithOrWithoutASlashAtItsEnd(t *testing.T) {
	t.Parallel()
	require.True(t, address.SamePath("http://127.0.0.1:8100/plots/?sort=size", "/plots"))
	require.False(t, address.SamePath("/plots", "/plots/7"))
	require.Equal(t, "/plots", address.Path("http://127.0.0.1:8100/plots?sort=size"))
	require.Equal(t, "http://[", address.Path("http://["), "what cannot be read stays as it is")
}

func TestTheUsualPortIsNoPartOfAHost(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"http://sheds.example:80/": "sheds.example", "https://sheds.example:443/": "sheds.example",
		"https://sheds.example:80/": "sheds.example:80", "http://sheds.example:8100/": "sheds.example:8100",
	} {
		u, err := url.Parse(text)
		require.NoError(t, err)
		require.Equal(t, want, address.Host(u), text)
	}
}

func TestAnAddressOfThePagesOwnHostIsGivenByItsPath(t *testing.T) {
	t.Parallel()
	const page = "http://127.0.0.1:8100/join"
	require.Equal(t, "/waiting-list?new=1", address.From(page, "http://127.0.0.1:8100/waiting-list?new=1#top"))
	require.Equal(t, "/", address.From(page, "http://127.0.0.1:8100"))
	require.Equal(t, "https://127.0.0.1:8100/join", address.From(page, "https://127.0.0.1:8100/join"), "another scheme is another site")
}

func TestAddressesAreReadAsABrowserDoes(t *testing.T) {
	t.Parallel()
	for text, elsewhere := range map[string]bool{
		"/home": false, "home": false, "?a=b": false, "": false, "%2F%2Felsewhere.invalid/": false, "http://site.invalid/x": false,
		"//elsewhere.invalid": true, `/\elsewhere.invalid`: true, `\\elsewhere.invalid`: true, "https:elsewhere.invalid": true, "/\t/elsewhere.invalid": true, "https://elsewhere.invalid/": true,
		"//site@elsewhere.invalid/": true, "http:///elsewhere.invalid": true,
	} {
		require.Equal(t, elsewhere, address.Elsewhere(text), "%q", text)
	}
}
