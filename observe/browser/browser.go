package browser

import (
	"context"
	"crypto/sha256"
	"crypto/x509"
	"encoding/base64"
	"encoding/pem"
	"errors"
	"fmt"
	"net"
	"os/exec"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"
)

// Options say how a site is reached.
type Options struct {
	// Address is the site's base address, or for Drawn the page's.
	Address string
	// Allowed tells whether a host, with its port where it has one, may be contacted.
	Allowed func(host string) bool
	// Headers and the user's name and password go along with requests that are not encrypted.
	Headers        map[string]string
	User, Password string
	Language       string
	// Authority are certificates, as PEM, that are trusted besides the system's.
	Authority string
	// Dial connects to a host; as the system does where it is nil.
	Dial func(ctx context.Context, network, address string) (net.Conn, error)
	// Timeout is for one answer; 30 s where nothing is said.
	Timeout time.Duration
}

// Browser is a running Chromium with tabs for several visitors.
type Browser struct {
	o      Options
	guard  *guard
	ctx    context.Context // of the process
	end    context.CancelFunc
	relay  *relay
	mu     sync.Mutex
	free   []*tab
	closed bool
	// account is whom it runs as, nil for whoever runs this program.
	account *syscall.Credential
	// heavy: it was ended, as it took too much memory.
	heavy atomic.Bool
	// lasting are the paths of requests that a page keeps open.
	lasting sync.Map
}

// width and height of a tab, in CSS pixels.
const (
	width  = 1280
	height = 800
)

// Start starts Chromium. It ends with Close, or with its parent process.
func Start(o Options) (*Browser, error) {
	program, err := find()
	if err != nil {
		return nil, err
	}
	if o.Timeout <= 0 {
		o.Timeout = 30 * time.Second
	}
	if o.Dial == nil {
		o.Dial = (&net.Dialer{Timeout: 10 * time.Second}).DialContext
	}
	if o.Language == "" {
		o.Language = "en"
	}
	b := &Browser{o: o, relay: &relay{waiting: map[target.SessionID]chan struct{}{}}}
	if b.account, err = account(); err != nil {
		return nil, err
	}
	g, err := startGuard(o, b.owns)
	if err != nil {
		return nil, fmt.Errorf("start the browser's guard: %w", err)
	}
	b.guard = g
	flags := []chromedp.ExecAllocatorOption{
		chromedp.ExecPath(program), chromedp.Headless, chromedp.DisableGPU, chromedp.NoFirstRun, chromedp.NoDefaultBrowserCheck, chromedp.WindowSize(width, height),
		chromedp.ProxyServer("http://" + g.listener.Addr().String()), chromedp.Flag("proxy-bypass-list", "<-loopback>"), chromedp.Flag("lang", o.Language),
		chromedp.Flag("force-webrtc-ip-handling-policy", "disable_non_proxied_udp"), // WebRTC would go round the guard
		chromedp.Flag("no-sandbox", false), chromedp.ModifyCmdFunc(b.prepare), chromedp.NoInheritEnv,
	}
	if trusted := publicKeys(o.Authority); trusted != "" {
		flags = append(flags, chromedp.Flag("ignore-certificate-errors-spki-list", trusted))
	}
	for _, name := range []string{
		"disable-extensions", "disable-background-networking", "disable-component-update", "disable-sync", "disable-domain-reliability", "disable-default-apps", "disable-popup-blocking",
		"disable-background-timer-throttling", "disable-backgrounding-occluded-windows", "disable-renderer-backgrounding", "disable-dev-shm-usage", "disable-hang-monitor", "disable-breakpad", "mute-audio", "no-pings", "hide-scrollbars",
	} {
		flags = append(flags, chromedp.Flag(name, true))
	}
	allocator, endAllocator := chromedp.NewExecAllocator(context.Background(), flags...)
	ctx, endContext := chromedp.NewContext(allocator, chromedp.WithErrorf(func(string, ...any) {}), chromedp.WithLogf(func(string, ...any) {}))
	b.ctx = ctx
	b.end = func() { endContext(); endAllocator() }
	err = chromedp.Do(ctx)
	b.relay.started()
	if err != nil {
		b.end()
		g.close()
		if sandboxed := "no usable sandbox"; strings.Contains(strings.ToLower(err.Error()), sandboxed) {
			return nil, fmt.Errorf("start the browser %s: this system lets it have no sandbox; allow unprivileged user namespaces, or install Debian's package chromium-sandbox", program)
		}
		return nil, fmt.Errorf("start the browser %s: %w", program, err)
	}
	go b.watchMemory(maxMemory)
	return b, nil
}

// publicKeys are the digests of the keys of certificates, as Chromium takes them: SHA-256 of each key, in base64, with commas between.
func publicKeys(authority string) string {
	var out []string
	for rest := []byte(authority); ; {
		var block *pem.Block
		if block, rest = pem.Decode(rest); block == nil {
			return strings.Join(out, ",")
		}
		if c, err := x509.ParseCertificate(block.Bytes); err == nil {
			sum := sha256.Sum256(c.RawSubjectPublicKeyInfo)
			out = append(out, base64.StdEncoding.EncodeToString(sum[:]))
		}
	}
}

// Close ends the browser.
func (b *Browser) Close() {
	b.mu.Lock()
	b.closed = true
	b.mu.Unlock()
	b.end()
	b.guard.close()
}

// ErrGone says that the browser has ended by itself.
var ErrGone = errors.New("the browser has ended")

// Gone tells whether the browser has ended by itself. The connection to it is lost a moment before its context ends.
func (b *Browser) Gone() bool {
	if b.ctx.Err() != nil {
		return true
	}
	c := chromedp.FromContext(b.ctx)
	if c == nil || c.Browser == nil {
		return false
	}
	select {
	case <-c.Browser.LostConnection:
		return true
	default:
		return false
	}
}

// Process is the browser's process id, 0 when it has ended.
func (b *Browser) Process() int {
	if c := chromedp.FromContext(b.ctx); c != nil && c.Browser != nil && c.Browser.Process() != nil {
		return c.Browser.Process().Pid
	}
	return 0
}

// NewVisitor is somebody who was never here: without cookies, storage or history.
func (b *Browser) NewVisitor(ctx context.Context) (*Visitor, error) {
	if b.Gone() {
		return nil, b.gone()
	}
	b.mu.Lock()
	var t *tab
	if n := len(b.free); n > 0 {
		t, b.free = b.free[n-1], b.free[:n-1]
	}
	b.mu.Unlock()
	if t == nil {
		var err error
		if t, err = b.openTab(ctx); err != nil {
			return nil, err
		}
	}
	return &Visitor{b: b, tab: t}, nil
}

// giveBack keeps a tab for the next visitor, with nothing of this one left in it.
func (b *Browser) giveBack(t *tab) {
	b.mu.Lock()
	closed := b.closed
	b.mu.Unlock()
	if closed || b.Gone() {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	if err := t.wipe(ctx); err != nil || t.altered {
		t.end()
		return
	}
	b.mu.Lock()
	b.free = append(b.free, t)
	b.mu.Unlock()
}

// find looks for the faster headless shell first, and for Debian's program itself before the script that starts it, which would leave
// the browser behind when this process is killed.
func find() (string, error) {
	for _, name := range []string{"/usr/lib/chromium/chromium-headless-shell", "chromium-headless-shell", "chromium"} {
		if path, err := exec.LookPath(name); err == nil {
			return path, nil
		}
	}
	return "", errNoBrowser
}

// Error is something that the browser could not do or tell.
type Error struct{ Err error }

func (e *Error) Error() string { return "the browser: " + e.Err.Error() }

// Unwrap implements errors.Unwrap.
func (e *Error) Unwrap() error { return e.Err }
