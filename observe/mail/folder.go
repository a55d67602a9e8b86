package mail

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/emersion/go-message/mail"
)

// lookEvery is how often a folder is looked at.
const lookEvery = 50 * time.Millisecond

// maxFiles is how many files of a folder are looked at.
const maxFiles = 100_000

// watch takes the mails that are put into a folder from now on: a maildir's (new, cur), or files that end in .eml. Close it when done.
func watch(folder string) (*Receiver, error) {
	info, err := os.Stat(folder)
	if err == nil && !info.IsDir() {
		err = fmt.Errorf("it is not a folder")
	}
	if err != nil {
		return nil, fmt.Errorf("the folder of mails, %s, cannot be read: %w", folder, err)
	}
	r := &Receiver{moved: make(chan struct{}), done: make(chan struct{})}
	known := map[string]bool{}
	for _, file := range filesIn(folder) {
		known[filepath.Base(file)] = true
	}
	go func() {
		tick := time.NewTicker(lookEvery)
		defer tick.Stop()
		for {
			select {
			case <-r.done:
				return
			case <-tick.C:
				for _, file := range filesIn(folder) {
					if name := filepath.Base(file); !known[nameOf(name)] && !known[name] && r.takeFile(file) {
						known[nameOf(name)], known[name] = true, true
					}
				}
			}
		}
	}()
	return r, nil
}

// nameOf is a message's name in a maildir without its flags, which change when it is read.
func nameOf(name string) string {
	name, _, _ = strings.Cut(name, ":2,")
	return name
}

// filesIn are the messages of a folder.
func filesIn(folder string) []string {
	var out []string
	for _, in := range []string{"new", "cur", "."} {
		dir, err := os.Open(filepath.Join(folder, in))
		if err != nil {
			continue // there is none
		}
		names, _ := dir.Readdirnames(maxFiles)
		_ = dir.Close()
		for _, name := range names {
			if strings.HasPrefix(name, ".") || in == "." && !strings.HasSuffix(strings.ToLower(name), ".eml") {
				continue
			}
			out = append(out, filepath.Join(folder, in, name))
		}
	}
	return out
}

// takeFile reads a message and adds it for each of its recipients; false for one that is not whole yet.
func (r *Receiver) takeFile(name string) bool {
	info, err := os.Lstat(name)
	if err != nil || !info.Mode().IsRegular() {
		return true // it is gone, or leads elsewhere
	}
	if info.Size() == 0 {
		return false
	}
	file, err := os.Open(name)
	if err != nil {
		return true
	}
	defer file.Close()
	text, err := io.ReadAll(io.LimitReader(file, maxBytes))
	if err != nil {
		return false
	}
	m := Read(bytes.NewReader(text))
	m.At = time.Now().UTC()
	reader, err := mail.CreateReader(bytes.NewReader(text))
	if err != nil {
		return true
	}
	defer reader.Close()
	if from, err := reader.Header.AddressList("From"); err == nil && len(from) > 0 {
		m.From = from[0].Address
	}
	for _, header := range []string{"To", "Cc", "Bcc"} {
		list, _ := reader.Header.AddressList(header)
		for _, to := range list {
			m.To = to.Address
			r.add(m)
		}
	}
	return true
}
