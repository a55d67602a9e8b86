// Package localdb starts and stops a MariaDB server on loopback, with its data in a folder, for the demo and for tests.
package localdb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	_ "github.com/go-sql-driver/mysql"
)

// Server is a running MariaDB server.
type Server struct {
	Port    int
	dir     string
	options []string

	mu      sync.Mutex // guards what follows
	cmd     *exec.Cmd
	exited  chan struct{}
	stopped bool
}

// OwnDatabase is Odd Tick's own database, which the binary log leaves out.
const OwnDatabase = "oddtick"

// FreePort asks the system for a port that nobody listens on.
func FreePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("find a free port: %w", err)
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

const madeMarker = "oddtick-complete"

// Start makes the data folder if need be and starts a server on it. A folder whose making was interrupted is made anew; a server
// that an earlier start left behind on the same folder is ended first. options are the server's own, such as --innodb-file-per-table=0.
func Start(ctx context.Context, dir string, options ...string) (*Server, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	if err := endLeftBehind(dir); err != nil {
		return nil, err
	}
	data := filepath.Join(dir, "data")
	if _, err := os.Stat(filepath.Join(dir, madeMarker)); err != nil {
		if err := makeData(ctx, dir, data); err != nil {
			return nil, err
		}
	}
	for try := 0; ; try++ {
		port, err := FreePort()
		if err != nil {
			return nil, err
		}
		s, err := startAt(ctx, dir, data, port, options)
		if !errors.Is(err, errPortTaken) || try == 4 {
			return s, err
		}
	}
}

// errPortTaken says that somebody else took the free port before the server did.
var errPortTaken = errors.New("the port was taken meanwhile")

func startAt(ctx context.Context, dir, data string, port int, options []string) (*Server, error) {
	scratch := filepath.Join(dir, "tmp")
	if err := os.MkdirAll(scratch, 0o700); err != nil {
		return nil, fmt.Errorf("make the database's folder for temporary tables: %w", err)
	}
	s := &Server{Port: port, dir: dir, options: options}
	if err := s.start(ctx, data, scratch); err != nil {
		return nil, err
	}
	return s, nil
}

// start starts the server on its port, and waits until it answers.
func (s *Server) start(ctx context.Context, data, scratch string) error {
	dir, port := s.dir, s.Port
	log, err := os.OpenFile(filepath.Join(dir, "mariadb.log"), os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return fmt.Errorf("the database's log: %w", err)
	}
	defer log.Close()
	args := []string{
		"--no-defaults", "--datadir=" + data, "--bind-address=127.0.0.1", "--port=" + strconv.Itoa(port), "--socket=" + filepath.Join(socketDir(dir), "db.sock"),
		"--pid-file=" + filepath.Join(dir, "mariadb.pid"), "--character-set-server=utf8mb4", "--innodb-flush-log-at-trx-commit=2", "--innodb-buffer-pool-size=64M", "--skip-name-resolve",
		"--server-id=1", "--log-bin=bin", "--binlog-format=ROW", "--binlog-row-image=FULL", "--sync-binlog=0", "--max-binlog-size=32M", "--expire-logs-days=1",
		"--binlog-ignore-db=" + OwnDatabase, "--max-connections=300", "--tmpdir=" + scratch, // servers that share a folder for temporary tables delete each other's
	}
	if os.Getuid() == 0 {
		args = append(args, "--user=root")
	}
	args = append(args, s.options...)
	cmd := exec.Command(binary("mariadbd"), args...)
	cmd.Stdout, cmd.Stderr = log, log
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	exited := make(chan struct{})
	s.mu.Lock()
	if s.stopped {
		s.mu.Unlock()
		return errors.New("the database was stopped")
	}
	if err := cmd.Start(); err != nil {
		s.mu.Unlock()
		return fmt.Errorf("start MariaDB: %w; is mariadb-server installed?", err)
	}
	s.cmd, s.exited = cmd, exited
	s.mu.Unlock()
	go func() {
		_ = cmd.Wait()
		close(exited)
	}()
	err = os.WriteFile(filepath.Join(dir, "server.pid"), []byte(strconv.Itoa(cmd.Process.Pid)), 0o600)
	if err == nil {
		err = s.ready(ctx)
	}
	if err != nil {
		end(cmd, exited)
		_ = os.Remove(filepath.Join(dir, "server.pid"))
	}
	return err
}

// KeepUp starts the server again, on the same port, whenever it ends without being stopped, until the context is done. told hears of it;
// the error is nil where the server is up again.
func (s *Server) KeepUp(ctx context.Context, told func(error)) {
	for wait := time.Second; ; {
		select {
		case <-ctx.Done():
			return
		case <-s.Exited():
		}
		s.mu.Lock()
		stopped := s.stopped
		s.mu.Unlock()
		if stopped {
			return
		}
		err := s.start(ctx, filepath.Join(s.dir, "data"), filepath.Join(s.dir, "tmp"))
		if ctx.Err() != nil {
			return
		}
		told(err)
		if err == nil {
			wait = time.Second
			continue
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(wait):
			wait = min(2*wait, time.Minute)
		}
	}
}

// socketDir is a short path, as the path of a socket may have 107 bytes at most.
func socketDir(dir string) string {
	if len(dir) < 90 {
		return dir
	}
	short, err := os.MkdirTemp("", "oddtick-db")
	if err != nil {
		return dir
	}
	return short
}

func binary(name string) string {
	if path, err := exec.LookPath(name); err == nil {
		return path
	}
	return filepath.Join("/usr/sbin", name)
}

func makeData(ctx context.Context, dir, data string) error {
	if err := os.RemoveAll(data); err != nil {
		return fmt.Errorf("clear the half-made data folder %s: %w", data, err)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return fmt.Errorf("make the data folder: %w", err)
	}
	scratch := filepath.Join(dir, "tmp")
	if err := os.MkdirAll(scratch, 0o700); err != nil {
		return fmt.Errorf("make the database's folder for temporary tables: %w", err)
	}
	args := []string{"--no-defaults", "--datadir=" + data, "--tmpdir=" + scratch, "--auth-root-authentication-method=normal", "--skip-test-db"}
	if os.Getuid() == 0 {
		args = append(args, "--user=root")
	}
	out, err := exec.CommandContext(ctx, binary("mariadb-install-db"), args...).CombinedOutput()
	if err != nil {
		return fmt.Errorf("make the database's data folder: %w: %s", err, lastLines(string(out)))
	}
	return os.WriteFile(filepath.Join(dir, madeMarker), nil, 0o600)
}

func lastLines(text string) string {
	lines := strings.Split(strings.TrimSpace(text), "\n")
	return strings.Join(lines[max(0, len(lines)-3):], "; ")
}

// endLeftBehind ends a server that still runs on the folder. The pid file alone is not believed: the process must be a MariaDB
// server on this very folder.
func endLeftBehind(dir string) error {
	text, err := os.ReadFile(filepath.Join(dir, "server.pid"))
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	pid, err := strconv.Atoi(strings.TrimSpace(string(text)))
	if err == nil && runsOn(pid, dir) {
		process, err := os.FindProcess(pid)
		if err != nil {
			return err
		}
		if err := process.Signal(syscall.SIGTERM); err != nil {
			return fmt.Errorf("end the database server %d left behind: %w", pid, err)
		}
		for range 300 {
			if !runsOn(pid, dir) {
				break
			}
			time.Sleep(100 * time.Millisecond)
		}
		if runsOn(pid, dir) {
			return fmt.Errorf("the database server %d left behind by an earlier start does not end; end it by hand", pid)
		}
	}
	return os.Remove(filepath.Join(dir, "server.pid"))
}

func runsOn(pid int, dir string) bool {
	line, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
	return err == nil && strings.Contains(string(line), "mariadbd") && strings.Contains(string(line), "--datadir="+filepath.Join(dir, "data")+"\x00")
}

func (s *Server) ready(ctx context.Context) error {
	db, err := sql.Open("mysql", s.DSN(""))
	if err != nil {
		return err
	}
	defer db.Close()
	ctx, cancel := context.WithTimeout(ctx, 60*time.Second)
	defer cancel()
	for {
		if err = s.answers(ctx, db); err == nil {
			return nil
		}
		select {
		case <-s.Exited():
			log, _ := os.ReadFile(filepath.Join(s.dir, "mariadb.log"))
			if l, err := net.Listen("tcp", s.address()); err == nil {
				l.Close()
				return fmt.Errorf("MariaDB ended at once: %s", lastLines(string(log)))
			}
			return fmt.Errorf("MariaDB ended at once: %w: %s", errPortTaken, lastLines(string(log)))
		case <-ctx.Done():
			return fmt.Errorf("MariaDB does not answer: %w", err)
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// answers tells whether it is this server that answers: where the port was taken meanwhile, it may be another MariaDB, or nothing that
// ever says a word.
func (s *Server) answers(ctx context.Context, db *sql.DB) error {
	ctx, cancel := context.WithTimeout(ctx, 2*time.Second)
	defer cancel()
	var folder string
	if err := db.QueryRowContext(ctx, "SELECT @@datadir").Scan(&folder); err != nil {
		return err
	}
	if !sameFolder(folder, filepath.Join(s.dir, "data")) {
		return errPortTaken
	}
	return nil
}

func sameFolder(a, b string) bool {
	at, err := os.Stat(a)
	if err != nil {
		return false
	}
	bt, err := os.Stat(b)
	return err == nil && os.SameFile(at, bt)
}

// DSN is the data source name of a database on the server.
func (s *Server) DSN(database string) string {
	return fmt.Sprintf("root@tcp(%s)/%s", s.address(), database)
}

func (s *Server) address() string { return fmt.Sprintf("127.0.0.1:%d", s.Port) }

// Stop ends the server and waits for it.
func (s *Server) Stop() {
	s.mu.Lock()
	s.stopped = true
	cmd, exited := s.cmd, s.exited
	s.mu.Unlock()
	end(cmd, exited)
	_ = os.Remove(filepath.Join(s.dir, "server.pid"))
}

func end(cmd *exec.Cmd, exited <-chan struct{}) {
	_ = cmd.Process.Signal(syscall.SIGTERM)
	select {
	case <-exited:
	case <-time.After(30 * time.Second):
		_ = cmd.Process.Kill()
		<-exited
	}
}

// Exited is closed when the server has ended.
func (s *Server) Exited() <-chan struct{} {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.exited
}
