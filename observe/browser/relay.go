package browser

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"sync"

	"github.com/chromedp/cdproto/target"
	"golang.org/x/sys/unix"
)

// relay hands on what is written to the browser, and tells when an input event has been, so that the next may follow in order. It stands
// in the pipe between chromedp and the browser: there is no port through which another program could drive the browser.
type relay struct {
	mu      sync.Mutex
	waiting map[target.SessionID]chan struct{}
	// far is the browser's end, until its process has it.
	far *os.File
}

// stand puts the relay into the pipe that the process is to read its commands from, its first file beyond the usual three.
func (r *relay) stand(cmd *exec.Cmd) error {
	if len(cmd.ExtraFiles) < 1 {
		return fmt.Errorf("%s is given no pipe for its commands", cmd.Path)
	}
	number, err := unix.FcntlInt(cmd.ExtraFiles[0].Fd(), unix.F_DUPFD_CLOEXEC, 0) // chromedp closes its own
	if err != nil {
		return fmt.Errorf("take the browser's pipe: %w", err)
	}
	from := os.NewFile(uintptr(number), "commands")
	far, near, err := os.Pipe()
	if err != nil {
		from.Close()
		return fmt.Errorf("make a pipe for the browser: %w", err)
	}
	cmd.ExtraFiles[0], r.far = far, far
	go func() {
		defer from.Close()
		defer near.Close()
		for in := bufio.NewReader(from); ; {
			message, err := in.ReadBytes(0)
			if err != nil {
				return
			}
			if _, err := near.Write(message); err != nil {
				return
			}
			r.written(message)
		}
	}()
	return nil
}

// started lets go of what the browser's process has now, or never will.
func (r *relay) started() {
	if r.far != nil {
		_ = r.far.Close()
		r.far = nil
	}
}

// written tells whoever follows a tab that an input event for it has been written.
func (r *relay) written(message []byte) {
	if !bytes.Contains(message, []byte(`"Input.`)) {
		return
	}
	var m struct {
		Method    string           `json:"method"`
		SessionID target.SessionID `json:"sessionId"`
	}
	if json.Unmarshal(bytes.TrimRight(message, "\x00"), &m) != nil || !strings.HasPrefix(m.Method, "Input.") {
		return
	}
	r.mu.Lock()
	ch := r.waiting[m.SessionID]
	r.mu.Unlock()
	if ch != nil {
		ch <- struct{}{}
	}
}

// follow hears of the input events that are written for a tab, until stop is called.
func (r *relay) follow(id target.SessionID, most int) (written <-chan struct{}, stop func()) {
	ch := make(chan struct{}, most)
	r.mu.Lock()
	r.waiting[id] = ch
	r.mu.Unlock()
	return ch, func() {
		r.mu.Lock()
		delete(r.waiting, id)
		r.mu.Unlock()
	}
}
