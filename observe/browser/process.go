package browser

import (
	"bufio"
	"bytes"
	"encoding/hex"
	"fmt"
	"net"
	"net/netip"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// User is the system's user as whom a browser runs that root starts; nobody where there is none. Chromium's sandbox does not work for
// root, and what breaks out of it must not be root.
const User = "oddtick-browser"

// account is whom the browser runs as; nil for whoever runs this program, who is not root.
func account() (*syscall.Credential, error) {
	if os.Getuid() != 0 {
		return nil, nil //nolint:nilnil // nobody else
	}
	for _, name := range []string{User, "nobody"} {
		u, err := user.Lookup(name)
		if err != nil {
			continue
		}
		uid, err := strconv.ParseUint(u.Uid, 10, 32)
		if err != nil {
			return nil, err
		}
		gid, err := strconv.ParseUint(u.Gid, 10, 32)
		if err != nil {
			return nil, err
		}
		return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid), NoSetGroups: false}, nil
	}
	return nil, fmt.Errorf("a browser that root starts runs as the user %s, whom this system does not have; make install adds it", User)
}

// prepare sets up the browser's process: its user, and an environment without this program's, which may hold secrets.
func (b *Browser) prepare(cmd *exec.Cmd) {
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL, Credential: b.account}
	home := "/"
	for _, arg := range cmd.Args {
		if folder, ok := strings.CutPrefix(arg, "--user-data-dir="); ok {
			home = folder
		}
	}
	b.handOver(home)
	if err := b.relay.stand(cmd); err != nil {
		cmd.Err = err // it is told at the start
	}
	cmd.Dir = home
	cmd.Env = []string{"HOME=" + home}
	for _, name := range []string{"PATH", "LANG", "LC_ALL", "TZ", "FONTCONFIG_PATH", "TMPDIR"} {
		if value, ok := os.LookupEnv(name); ok {
			cmd.Env = append(cmd.Env, name+"="+value)
		}
	}
}

// handOver lets the browser read and write a file or folder that was made for it. What cannot be handed over is missed where it is used.
func (b *Browser) handOver(path string) {
	if b.account != nil {
		_ = os.Chown(path, int(b.account.Uid), int(b.account.Gid))
	}
}

const (
	// maxMemory is how much memory a browser may take with all its processes, in bytes: what it shares between them is not counted.
	maxMemory = 2 << 30
	// memoryLook is how often that is looked at.
	memoryLook = 500 * time.Millisecond
)

// watchMemory ends the browser when it takes too much memory, until it has ended.
func (b *Browser) watchMemory(most int64) {
	tick := time.NewTicker(memoryLook)
	defer tick.Stop()
	for {
		select {
		case <-b.ctx.Done():
			return
		case <-tick.C:
		}
		pid := b.Process()
		if pid == 0 {
			return
		}
		all := family(pid)
		if memoryOf(all) > most {
			b.heavy.Store(true)
			for _, p := range slices.Backward(all) {
				_ = syscall.Kill(p, syscall.SIGKILL)
			}
			return
		}
	}
}

// gone is ErrGone, with the reason where it is known.
func (b *Browser) gone() error {
	if b.heavy.Load() {
		return fmt.Errorf("%w, as a page took more than %d MB of memory", ErrGone, maxMemory>>20)
	}
	return ErrGone
}

// family are a process and all that it has started and that they have, by proc(5): parents before their children.
func family(pid int) []int {
	children := map[int][]int{}
	names, _ := filepath.Glob("/proc/[0-9]*/stat")
	for _, name := range names {
		text, err := os.ReadFile(name)
		if err != nil {
			continue // it has ended meanwhile
		}
		// the program's name in parentheses may hold anything
		end := bytes.LastIndexByte(text, ')')
		fields := strings.Fields(string(text[end+1:]))
		child, err := strconv.Atoi(filepath.Base(filepath.Dir(name)))
		if err != nil || end < 0 || len(fields) < 2 {
			continue
		}
		if parent, err := strconv.Atoi(fields[1]); err == nil {
			children[parent] = append(children[parent], child)
		}
	}
	out := []int{pid}
	for i := 0; i < len(out); i++ {
		out = append(out, children[out[i]]...)
	}
	return out
}

// memoryOf is how much memory processes take that is their own, in bytes.
func memoryOf(pids []int) int64 {
	var pages int64
	for _, pid := range pids {
		text, err := os.ReadFile(fmt.Sprintf("/proc/%d/statm", pid))
		if err != nil {
			continue
		}
		var size, resident, shared int64
		if _, err := fmt.Sscan(string(text), &size, &resident, &shared); err == nil {
			pages += resident - shared
		}
	}
	return pages * int64(os.Getpagesize())
}

// doorkeeper lets only one browser's connections in.
type doorkeeper struct {
	net.Listener
	// own tells whether a connection's far end is the browser's.
	own func(client, server netip.AddrPort) bool
}

// Accept implements net.Listener.
func (d *doorkeeper) Accept() (net.Conn, error) {
	for {
		conn, err := d.Listener.Accept()
		if err != nil {
			return nil, err
		}
		client, okClient := conn.RemoteAddr().(*net.TCPAddr)
		server, okServer := conn.LocalAddr().(*net.TCPAddr)
		if okClient && okServer && d.own(client.AddrPort(), server.AddrPort()) {
			return conn, nil
		}
		conn.Close()
	}
}

// owns tells whether the browser holds the client's end of a connection on this machine.
func (b *Browser) owns(client, server netip.AddrPort) bool {
	pid := b.Process()
	if pid == 0 {
		return false
	}
	inode := socketOf(client, server)
	if inode == "" {
		return false
	}
	for _, p := range family(pid) {
		folder := fmt.Sprintf("/proc/%d/fd", p)
		files, err := os.ReadDir(folder)
		if err != nil {
			continue
		}
		for _, f := range files {
			if to, err := os.Readlink(filepath.Join(folder, f.Name())); err == nil && to == "socket:["+inode+"]" {
				return true
			}
		}
	}
	return false
}

// socketOf is the inode of the socket at the client's end of a connection between two ports of this machine, "" where there is none.
func socketOf(client, server netip.AddrPort) string {
	file, err := os.Open("/proc/net/tcp")
	if err != nil {
		return ""
	}
	defer file.Close()
	local, far := inProc(client), inProc(server)
	for lines := bufio.NewScanner(file); lines.Scan(); {
		fields := strings.Fields(lines.Text())
		if len(fields) > 9 && fields[1] == local && fields[2] == far {
			return fields[9]
		}
	}
	return ""
}

// inProc writes an IPv4 address and port as /proc/net/tcp does: the address's bytes from the last to the first.
func inProc(a netip.AddrPort) string {
	bytes := a.Addr().Unmap().As4()
	slices.Reverse(bytes[:])
	return fmt.Sprintf("%s:%04X", strings.ToUpper(hex.EncodeToString(bytes[:])), a.Port())
}
