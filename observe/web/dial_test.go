package web_test

import (
	"context"
	"encoding/pem"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"sync/atomic"
	"testing"

	"oddtick/observe/web"

	"github.com/stretchr/testify/require"
)

// TestNothingOutsideIsContacted: not by address, not by redirect, not by a name that leads elsewhere.
func TestNothingOutsideIsContacted(t *testing.T) {
	t.Parallel()
	var asked atomic.Int32
	outside := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { asked.Add(1) }))
	defer outside.Close()
	inside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Connection", "close")
		if r.URL.Path == "/away" {
			http.Redirect(w, r, outside.URL+"/x", http.StatusFound)
		}
	}))
	defer inside.Close()
	ctx := context.Background()
	port := inside.URL[strings.LastIndexByte(inside.URL, ':')+1:]
	outsidePort := outside.URL[strings.LastIndexByte(outside.URL, ':')+1:]
	client, err := web.NewClient(web.Options{Address: inside.URL})
	require.NoError(t, err)
	defer client.Close()
	var refused *web.NotAllowedError
	_, err = client.NewVisitor().Open(ctx, outside.URL)
	require.ErrorAs(t, err, &refused)
	x, err := client.NewVisitor().Open(ctx, "/away")
	require.NoError(t, err)
	require.Contains(t, x[len(x)-1].NotFollowed, "not among the site's allowed addresses")

	// a name is pinned to where it first led
	leads := []string{"127.0.0.1"}
	named, err := web.NewClient(web.Options{Address: "http://site.test:" + port, LookUp: func(context.Context, string) ([]netip.Addr, error) {
		return []netip.Addr{netip.MustParseAddr(leads[0])}, nil
	}})
	require.NoError(t, err)
	defer named.Close()
	_, err = named.NewVisitor().Open(ctx, "/")
	require.NoError(t, err)
	leads[0] = "127.0.0.2"
	_, err = named.NewVisitor().Open(ctx, "/")
	require.ErrorContains(t, err, "led elsewhere before")
	for _, address := range []string{"169.254.169.254", "0.0.0.0", "224.0.0.1"} {
		other, err := web.NewClient(web.Options{Address: "http://site.test:" + outsidePort, LookUp: func(context.Context, string) ([]netip.Addr, error) {
			return []netip.Addr{netip.MustParseAddr(address)}, nil
		}})
		require.NoError(t, err)
		_, err = other.NewVisitor().Open(ctx, "/")
		require.ErrorContains(t, err, "not an address of a site", address)
		other.Close()
	}
	require.Zero(t, asked.Load())
}

func TestAnAuthorityOfItsOwnIsTrusted(t *testing.T) {
	t.Parallel()
	server := httptest.NewTLSServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) {}))
	defer server.Close()
	stranger, err := web.NewClient(web.Options{Address: server.URL})
	require.NoError(t, err)
	_, err = stranger.NewVisitor().Open(context.Background(), "/")
	require.ErrorContains(t, err, "certificate")
	authority := pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: server.Certificate().Raw})
	known, err := web.NewClient(web.Options{Address: server.URL, Authority: string(authority), Headers: map[string]string{"X-Key": "very-secret"}, User: "u", Password: "very-secret"})
	require.NoError(t, err)
	x, err := known.NewVisitor().Open(context.Background(), "/")
	require.NoError(t, err)
	for _, h := range x[0].RequestHeader {
		require.NotContains(t, h.Value, "very-secret")
		require.NotContains(t, h.Value, "Basic")
	}
	_, err = web.NewClient(web.Options{Address: server.URL, Authority: "none"})
	require.ErrorContains(t, err, "BEGIN CERTIFICATE")
}

// TestPagesInOtherCharacterSets: what a page says of itself, what its header says, and a wrong one.
func TestPagesInOtherCharacterSets(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct{ header, body, want string }{
		"by header":          {"text/html; charset=windows-1252", "caf\xe9 \x80", "café €"},
		"by the page":        {"text/html", `<meta charset=iso-8859-2><p>` + "\xb3", `<meta charset=iso-8859-2><p>` + "ł"},
		"header before page": {"text/html; charset=utf-8", `<meta charset=windows-1252>é`, `<meta charset=windows-1252>é`},
		"wrong":              {"text/html; charset=utf-8", "caf\xe9", "caf\uFFFD"},
		"unknown":            {"text/html; charset=none-such", "plain", "plain"},
	} {
		server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", c.header)
			_, _ = w.Write([]byte(c.body))
		}))
		client, err := web.NewClient(web.Options{Address: server.URL})
		require.NoError(t, err)
		x, err := client.NewVisitor().Open(context.Background(), "/")
		require.NoError(t, err)
		require.Equal(t, c.want, x[0].Body, name)
		server.Close()
	}
}
