// Package mariadb runs a private MariaDB server: on a loopback port of its
// own, with its data in a folder of its own, beside any other server on the
// machine.
package mariadb

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Server is a running private server. One that dies is started again on the
// same port, until it is stopped.
type Server struct {
	mu       sync.Mutex // of cmd
	cmd      *exec.Cmd
	exited   chan error
	lock     *os.File
	port     int
	secret   string
	launch   func(context.Context) error
	stopping atomic.Bool
	gone     chan struct{}
}

// Start starts a server on the data in folder, which it makes at first use. A
// server that an earlier, killed program left behind on that folder is stopped
// first; one whose program still runs is an error. Run as root, the server
// runs as the user mysql where that user can reach the folder.
func Start(ctx context.Context, folder string) (*Server, error) { return begin(ctx, folder, true) }

// StartForgetful is Start for data that nobody will miss, as in tests: commits
// are not flushed to the disk.
func StartForgetful(ctx context.Context, folder string) (*Server, error) {
	return begin(ctx, folder, false)
}

func begin(ctx context.Context, folder string, durable bool) (*Server, error) {
	folder, err := filepath.Abs(folder)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return nil, err
	}
	s := &Server{exited: make(chan error, 1), gone: make(chan struct{})}
	if s.lock, err = lock(filepath.Join(folder, "lock")); err != nil {
		return nil, err
	}
	if err := s.start(ctx, folder, durable); err != nil {
		s.lock.Close()
		return nil, err
	}
	go s.keep()
	return s, nil
}

// keep starts the server again when it dies.
func (s *Server) keep() {
	defer close(s.gone)
	for {
		err := <-s.exited
		again := false
		for wait := 100 * time.Millisecond; !s.stopping.Load(); wait = min(2*wait, 10*time.Second) {
			slog.Error("the private database ended and is started again", "error", err)
			if err = s.launch(context.Background()); err == nil {
				again = true
				break
			}
			time.Sleep(wait)
		}
		if !again {
			return
		}
		if s.stopping.Load() { // Stop may have told the process before this one; it is over when this one is
			_ = s.process().Signal(syscall.SIGTERM)
		}
	}
}

func (s *Server) start(ctx context.Context, folder string, durable bool) error {
	data := filepath.Join(folder, "data")
	if err := stopLeftOver(filepath.Join(data, "mariadbd.pid"), data); err != nil {
		return err
	}
	var err error
	if s.secret, err = secret(filepath.Join(folder, "password")); err != nil {
		return err
	}
	as := runAs(folder)
	if err := ownFolder(temporary(data), as); err != nil {
		return err
	}
	if err := prepare(ctx, data, as); err != nil {
		return err
	}
	if s.port, err = freePort(); err != nil {
		return err
	}
	_ = os.Remove(filepath.Join(folder, "mariadbd.log"))
	s.launch = func(ctx context.Context) error { return s.launchOn(ctx, folder, data, as, durable) }
	return s.launch(ctx)
}

// launchOn starts the process and returns when it answers.
func (s *Server) launchOn(ctx context.Context, folder, data string, as *owner, durable bool) error {
	setup := filepath.Join(data, "setup.sql")
	if err := os.WriteFile(setup, []byte(s.setup()), 0o600); err != nil {
		return err
	}
	if as != nil {
		if err := os.Chown(setup, as.uid, as.gid); err != nil {
			return err
		}
	}
	log, err := os.OpenFile(filepath.Join(folder, "mariadbd.log"), os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o640)
	if err != nil {
		return err
	}
	defer log.Close()
	cmd := exec.Command("mariadbd", append(options(data, s.port, as, durable), "--init-file="+setup)...)
	cmd.Stdout, cmd.Stderr = log, log
	if err := s.run(cmd, as); err != nil {
		return fmt.Errorf("mariadbd does not start: %w", err)
	}
	if err := s.ready(ctx); err != nil {
		_ = cmd.Process.Kill()
		<-s.exited
		return fmt.Errorf("%w; its log is %s", err, log.Name())
	}
	return os.Remove(setup)
}

// options are the server's, none of them read from the machine's own files.
// A durable server flushes every commit to the disk before it answers.
func options(data string, port int, as *owner, durable bool) []string {
	all := []string{"--no-defaults", "--datadir=" + data, "--bind-address=127.0.0.1", "--port=" + strconv.Itoa(port),
		"--socket=" + socket(data), "--tmpdir=" + temporary(data), "--pid-file=" + filepath.Join(data, "mariadbd.pid"), "--skip-log-bin", "--skip-name-resolve",
		"--innodb-buffer-pool-size=64M", "--innodb-log-file-size=32M",
		"--character-set-server=utf8mb4", "--collation-server=utf8mb4_bin", "--max-allowed-packet=64M", "--performance-schema=OFF"}
	if durable {
		all = append(all, "--innodb-flush-log-at-trx-commit=1", "--innodb-doublewrite=1")
	} else {
		all = append(all, "--innodb-flush-log-at-trx-commit=0", "--innodb-doublewrite=0", "--innodb-flush-method=nosync")
	}
	if as != nil && as.uid == 0 {
		all = append(all, "--user=root") // the server refuses to be root unless told
	}
	return all
}

// temporary is where a server keeps its temporary tables. A server that starts sweeps them up without asking whose they
// are, so the machine's common folder would not do with two servers on it.
func temporary(data string) string { return filepath.Join(filepath.Dir(data), "tmp") }

// ownFolder makes a folder that the server may write to.
func ownFolder(path string, as *owner) error {
	if err := os.MkdirAll(path, 0o750); err != nil {
		return err
	}
	if as == nil {
		return nil
	}
	return os.Chown(path, as.uid, as.gid)
}

// socket is short whatever the folder is called: a socket's path may have 107
// letters at most.
func socket(data string) string {
	if path := filepath.Join(data, "s.sock"); len(path) < 100 {
		return path
	}
	return filepath.Join(os.TempDir(), fmt.Sprintf("vereda-%d.sock", os.Getpid()))
}

// prepare makes the data folder at first use. A first use that was cut short
// leaves no "ready" file and is made again.
func prepare(ctx context.Context, data string, as *owner) error {
	done := filepath.Join(filepath.Dir(data), "ready")
	if _, err := os.Stat(done); err == nil {
		return nil
	}
	if err := os.RemoveAll(data); err != nil {
		return err
	}
	if err := ownFolder(data, as); err != nil {
		return err
	}
	args := []string{"--no-defaults", "--datadir=" + data, "--auth-root-authentication-method=normal", "--skip-test-db", "--skip-name-resolve"}
	if as != nil {
		args = append(args, "--user="+as.name)
	}
	install := exec.CommandContext(ctx, "mariadb-install-db", args...)
	install.Env = append(os.Environ(), "TMPDIR="+temporary(data))
	out, err := install.CombinedOutput()
	if err != nil {
		return fmt.Errorf("mariadb-install-db failed: %w\n%s", err, out)
	}
	return os.WriteFile(done, nil, 0o644)
}

// setup is run by the server at every start, before it answers anybody.
func (s *Server) setup() string {
	return fmt.Sprintf(`ALTER USER 'root'@'localhost' IDENTIFIED BY '%[1]s';
CREATE DATABASE IF NOT EXISTS vereda;
CREATE USER IF NOT EXISTS 'vereda'@'127.0.0.1' IDENTIFIED BY '%[1]s';
GRANT ALL ON *.* TO 'vereda'@'127.0.0.1';
`, s.secret)
}

// run starts the process so that it gets SIGTERM when this program dies,
// however it dies. The signal is tied to the thread that starts it, which
// therefore must live as long; and it is lost if the process changes its user
// later, so the user is set here and not by the server.
func (s *Server) run(cmd *exec.Cmd, as *owner) error {
	started := make(chan error, 1)
	go func() {
		runtime.LockOSThread()
		cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGTERM, Setpgid: true}
		if as != nil {
			cmd.SysProcAttr.Credential = &syscall.Credential{Uid: uint32(as.uid), Gid: uint32(as.gid)}
		}
		err := cmd.Start()
		if err == nil {
			s.mu.Lock()
			s.cmd = cmd
			s.mu.Unlock()
		}
		started <- err
		if err == nil {
			s.exited <- cmd.Wait()
		}
	}()
	return <-started
}

func (s *Server) ready(ctx context.Context) error {
	db, err := sql.Open("mysql", s.DSN("vereda"))
	if err != nil {
		return err
	}
	defer db.Close()
	_ = mysql.SetLogger(quiet{})
	for end := time.Now().Add(60 * time.Second); ; {
		err := db.PingContext(ctx)
		if err == nil {
			return nil
		}
		select {
		case died := <-s.exited:
			s.exited <- died
			return fmt.Errorf("mariadbd stopped while starting (%v)", died)
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
		if time.Now().After(end) {
			return fmt.Errorf("mariadbd did not answer within a minute: %w", err)
		}
	}
}

// quiet keeps the driver from printing each refused connection while the
// server is still starting.
type quiet struct{}

func (quiet) Print(...any) {}

// PID is the number of the server's process now.
func (s *Server) PID() int { return s.process().Pid }

func (s *Server) process() *os.Process {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.cmd.Process
}

// DSN is the address of a database on the server.
func (s *Server) DSN(database string) string {
	return fmt.Sprintf("vereda:%s@tcp(127.0.0.1:%d)/%s", s.secret, s.port, database)
}

// Stop ends the server and waits until its data is on the disk.
func (s *Server) Stop() error {
	defer s.lock.Close()
	s.stopping.Store(true)
	_ = s.process().Signal(syscall.SIGTERM)
	select {
	case <-s.gone:
		return nil
	case <-time.After(60 * time.Second):
		_ = s.process().Kill()
		return errors.New("mariadbd did not stop within a minute and was killed")
	}
}

type owner struct {
	name     string
	uid, gid int
}

// runAs is the user the server runs as when this program is root: mysql where
// it can reach the folder, else root. nil when this program is not root.
func runAs(folder string) *owner {
	if os.Geteuid() != 0 {
		return nil
	}
	root := &owner{"root", 0, 0}
	u, err := user.Lookup("mysql")
	if err != nil {
		return root
	}
	for dir := folder; ; dir = filepath.Dir(dir) {
		info, err := os.Stat(dir)
		if err != nil || info.Mode().Perm()&0o001 == 0 {
			return root
		}
		if dir == filepath.Dir(dir) {
			break
		}
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	return &owner{"mysql", uid, gid}
}

// lock takes the folder for this program; the system gives it back when the
// program ends, however it ends.
func lock(path string) (*os.File, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return nil, fmt.Errorf("another vereda runs on %s: stop it first, or give this one another data folder", filepath.Dir(path))
	}
	return f, nil
}

// stopLeftOver stops a server whose program was killed. It trusts the number
// in the file only when that process really is a mariadbd on this folder.
func stopLeftOver(pidFile, data string) error {
	text, err := os.ReadFile(pidFile)
	if err != nil {
		return nil
	}
	pid, err := strconv.Atoi(strings.TrimSpace(string(text)))
	if err != nil {
		return nil
	}
	ours := func() bool {
		line, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
		return err == nil && strings.Contains(string(line), "--datadir="+data+"\x00")
	}
	if !ours() {
		return nil
	}
	_ = syscall.Kill(pid, syscall.SIGTERM)
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		if !ours() {
			return nil
		}
	}
	return fmt.Errorf("the server left over with process number %d does not stop: end it by hand", pid)
}

func secret(path string) (string, error) {
	if text, err := os.ReadFile(path); err == nil && len(text) == 32 {
		return string(text), nil
	}
	bytes := make([]byte, 16)
	if _, err := rand.Read(bytes); err != nil {
		return "", err
	}
	text := hex.EncodeToString(bytes)
	return text, os.WriteFile(path, []byte(text), 0o600)
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}
