package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"vereda/app"
	"vereda/app/state"
	"vereda/exchange"
	"vereda/store"
	"vereda/store/files"
	"vereda/store/mariadb"
)

// house is one setup: databases, and programs that serve on them.
type house struct {
	title   string
	folder  string
	program string
	dsns    []string
	db      *mariadb.Server
	cluster *cluster
	servers []*replica
	accts   []account
}

type account struct{ name, password string }

const password = "a password for measuring"

func openHouse(ctx context.Context, setup, program string) (*house, error) {
	folder, err := os.MkdirTemp(".data", "load-")
	if err != nil {
		return nil, err
	}
	if folder, err = filepath.Abs(folder); err != nil {
		return nil, err
	}
	if program, err = filepath.Abs(program); err != nil {
		return nil, err
	}
	h := &house{folder: folder, program: program}
	n := map[string]int{"one": 1, "two": 2, "cluster": 3}[setup]
	switch setup {
	case "one", "two":
		if h.db, err = mariadb.Start(ctx, filepath.Join(folder, "mariadb")); err != nil {
			return nil, err
		}
		for range n {
			h.dsns = append(h.dsns, h.db.DSN("vereda"))
		}
		h.title = map[string]string{"one": "One server", "two": "Two replicas on one database"}[setup]
	case "cluster":
		if h.cluster, err = startCluster(ctx, n); err != nil {
			return nil, err
		}
		h.dsns = h.cluster.dsns()
		h.title = "Three replicas, each on its node of a Galera cluster"
	default:
		return nil, fmt.Errorf("there is no setup %q: choose one, two or cluster", setup)
	}
	s, err := store.Migrate(ctx, h.dsns[0])
	if err != nil {
		h.close()
		return nil, err
	}
	s.Close()
	for i, dsn := range h.dsns {
		r := &replica{dsn: dsn, program: program, folder: filepath.Join(folder, fmt.Sprint("server-", i))}
		h.servers = append(h.servers, r)
		if err := r.start(ctx); err != nil {
			h.close()
			return nil, err
		}
	}
	return h, nil
}

func (h *house) close() {
	for _, r := range h.servers {
		r.kill()
	}
	if h.db != nil {
		_ = h.db.Stop()
	}
	if h.cluster != nil {
		h.cluster.stop()
	}
	_ = os.RemoveAll(h.folder)
}

func importBundle(ctx context.Context, s *store.Store, b exchange.Bundle) error {
	folder, err := os.MkdirTemp("", "load-files-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(folder)
	kept, err := files.Open(folder)
	if err != nil {
		return err
	}
	_, err = app.New(s, time.Now, time.UTC, kept).Academies.Import(ctx, b)
	return err
}

// accounts makes head instructors who can sign in.
func (h *house) accounts(ctx context.Context, academy string, n int) error {
	s, err := store.Open(ctx, h.dsns[0])
	if err != nil {
		return err
	}
	defer s.Close()
	a := app.New(s, time.Now, time.UTC, nil)
	var wg sync.WaitGroup
	errs := make([]error, n)
	for i := range n {
		x := account{fmt.Sprintf("%s-%d", academy, i), password}
		h.accts = append(h.accts, x)
		wg.Go(func() { errs[i] = a.Accounts.AddAccount(ctx, academy, x.name, x.password, state.Head, "ines-falk") })
	}
	wg.Wait()
	return errors.Join(errs...)
}

// replica is one running program.
type replica struct {
	dsn, program, folder string

	mu     sync.Mutex
	cmd    *exec.Cmd
	addr   string
	exited chan struct{}
}

func (r *replica) start(ctx context.Context) error {
	port, err := freePort()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(r.folder, 0o755); err != nil {
		return err
	}
	log, err := os.OpenFile(filepath.Join(r.folder, "log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	defer log.Close()
	addr := "127.0.0.1:" + strconv.Itoa(port)
	cmd := exec.Command(r.program, "serve", "--listen", addr)
	cmd.Env = append(os.Environ(), "VEREDA_DSN="+r.dsn, "VEREDA_FILES="+filepath.Join(r.folder, "files"), "VEREDA_ZONE=UTC", "VEREDA_METRICS=yes")
	cmd.Stdout, cmd.Stderr = log, log
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	if err := cmd.Start(); err != nil {
		return err
	}
	exited := make(chan struct{})
	go func() { _ = cmd.Wait(); close(exited) }()
	r.mu.Lock()
	r.cmd, r.addr, r.exited = cmd, addr, exited
	r.mu.Unlock()
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(5 * time.Millisecond) {
		select {
		case <-exited:
			return fmt.Errorf("the program ended at its start; its log is %s", log.Name())
		case <-ctx.Done():
			return ctx.Err()
		default:
		}
		if answer, err := http.Get("http://" + addr + "/readyz"); err == nil {
			answer.Body.Close()
			if answer.StatusCode == 200 {
				return nil
			}
		}
	}
	return fmt.Errorf("the program is not ready after a minute; its log is %s", log.Name())
}

func (r *replica) url() string {
	r.mu.Lock()
	defer r.mu.Unlock()
	return "http://" + r.addr
}

func (r *replica) kill() {
	r.mu.Lock()
	cmd, exited := r.cmd, r.exited
	r.mu.Unlock()
	if cmd != nil {
		_ = cmd.Process.Kill()
		<-exited
	}
}

// memory is what the process holds, in bytes.
func (r *replica) memory() int64 {
	r.mu.Lock()
	defer r.mu.Unlock()
	text, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", r.cmd.Process.Pid))
	for _, line := range strings.Split(string(text), "\n") {
		if rest, ok := strings.CutPrefix(line, "VmRSS:"); ok {
			var kb int64
			fmt.Sscan(rest, &kb)
			return kb << 10
		}
	}
	return 0
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// device is a browser: a session at one replica.
type device struct {
	server *replica
	http   *http.Client
}

func (h *house) device(i int) (*device, error) {
	jar, _ := cookiejar.New(nil)
	d := &device{h.servers[i%len(h.servers)], &http.Client{Jar: jar, Timeout: 30 * time.Second, Transport: &http.Transport{MaxIdleConnsPerHost: 16}}}
	return d, d.signIn(h.accts[i%len(h.accts)])
}

func (d *device) signIn(a account) error {
	body, _ := json.Marshal(map[string]string{"name": a.name, "password": a.password})
	_, _, err := d.send("POST", "/api/session", body)
	return err
}

// send sends a request and says how long the answer took.
func (d *device) send(method, path string, body []byte) ([]byte, time.Duration, error) {
	r, err := http.NewRequest(method, d.server.url()+path, bytes.NewReader(body))
	if err != nil {
		return nil, 0, err
	}
	if body != nil {
		r.Header.Set("Content-Type", "application/json")
	}
	start := time.Now()
	answer, err := d.http.Do(r)
	if err != nil {
		return nil, time.Since(start), err
	}
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	took := time.Since(start)
	if err == nil && answer.StatusCode >= 300 {
		err = &refused{answer.StatusCode, string(text[:min(len(text), 300)])}
	}
	return text, took, err
}

// refused is an answer other than yes.
type refused struct {
	status int
	text   string
}

func (r *refused) Error() string { return fmt.Sprintf("%d: %s", r.status, r.text) }
