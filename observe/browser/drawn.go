package browser

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"time"
)

// Options say what is opened and how.
type Options struct {
	Address string
	// Allowed tells whether a host, with its port where it has one, may be contacted.
	Allowed func(host string) bool
	// Headers and the user's name and password go along with requests that are not encrypted.
	Headers        map[string]string
	User, Password string
	Language       string
}

// settle is how long a page's scripts may go on after it has loaded, by the page's own clock, in milliseconds.
const settle = "4000"

// longest is how long a page may take altogether.
const longest = 40 * time.Second

// Drawn opens a page and returns its HTML as it stands after its scripts have run. Hosts that are not allowed are not contacted.
func Drawn(ctx context.Context, o Options) (string, error) {
	program, err := find()
	if err != nil {
		return "", err
	}
	g, err := startGuard(o)
	if err != nil {
		return "", fmt.Errorf("start the browser's guard: %w", err)
	}
	defer g.close()
	profile, err := os.MkdirTemp("", "oddtick-browser-")
	if err != nil {
		return "", fmt.Errorf("make the browser's profile: %w", err)
	}
	defer os.RemoveAll(profile)
	ctx, cancel := context.WithTimeout(ctx, longest)
	defer cancel()
	language := o.Language
	if language == "" {
		language = "en"
	}
	args := []string{
		"--headless", "--disable-gpu", "--disable-extensions", "--disable-background-networking", "--disable-component-update", "--no-first-run", "--disable-sync", "--disable-domain-reliability",
		"--user-data-dir=" + profile, "--proxy-server=http://" + g.listener.Addr().String(), "--proxy-bypass-list=<-loopback>", "--lang=" + language, "--virtual-time-budget=" + settle, "--dump-dom",
	}
	if os.Geteuid() == 0 {
		args = append(args, "--no-sandbox")
	}
	cmd := exec.CommandContext(ctx, program, append(args, "--", o.Address)...)
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	cmd.WaitDelay = 2 * time.Second
	if err := cmd.Run(); err != nil {
		if ctx.Err() != nil {
			return "", fmt.Errorf("the browser did not finish the page within %s", longest)
		}
		return "", fmt.Errorf("the browser ended: %w: %s", err, lastLine(errs.String()))
	}
	if !strings.Contains(out.String(), "<") {
		return "", fmt.Errorf("the browser drew nothing: %s", lastLine(errs.String()))
	}
	return out.String(), nil
}

func lastLine(text string) string {
	lines := strings.Split(strings.TrimSpace(text), "\n")
	return lines[len(lines)-1]
}

func find() (string, error) {
	for _, name := range []string{"chromium", "chromium-headless-shell"} {
		if path, err := exec.LookPath(name); err == nil {
			return path, nil
		}
	}
	return "", errNoBrowser
}
