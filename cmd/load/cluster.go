package main

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	_ "github.com/go-sql-driver/mysql"
)

// provider is Debian's galera-4.
const provider = "/usr/lib/galera/libgalera_smm.so"

// cluster is some MariaDB nodes that hold the same.
type cluster struct {
	folder string
	as     *syscall.Credential
	nodes  []*node
}

// runAs is the user mysql where this program is root, and makes the folder that user's; nil otherwise.
func runAs(folder string) (*syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("mysql")
	if err != nil {
		return nil, err
	}
	uid, errU := strconv.Atoi(u.Uid)
	gid, errG := strconv.Atoi(u.Gid)
	if err := errors.Join(errU, errG, os.Chmod(folder, 0o755), os.Chown(folder, uid, gid)); err != nil {
		return nil, err
	}
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

type node struct {
	folder                 string
	port, base, sst, istIn int
	cmd                    *exec.Cmd
	exited                 chan struct{}
}

// startCluster starts n nodes. Run as root they run as the user mysql, since what copies a whole node to another one
// gives root up; their folder then lies where that user can reach it.
func startCluster(ctx context.Context, n int) (*cluster, error) {
	folder, err := os.MkdirTemp("", "vereda-cluster-")
	if err != nil {
		return nil, err
	}
	as, err := runAs(folder)
	if err != nil {
		return nil, err
	}
	if _, err := os.Stat(provider); err != nil {
		return nil, fmt.Errorf("the cluster needs Debian's galera-4, rsync and lsof: run make cluster, which installs them (%w)", err)
	}
	c := &cluster{folder: folder, as: as}
	for i := range n {
		x := &node{folder: filepath.Join(folder, fmt.Sprint("node-", i))}
		for _, p := range []*int{&x.port, &x.base, &x.sst, &x.istIn} {
			var err error
			if *p, err = freePort(); err != nil {
				return nil, err
			}
		}
		c.nodes = append(c.nodes, x)
		// A node that starts sweeps its folder for temporary tables: one for all would sweep those of the others.
		temporary := x.temporary()
		if err := os.MkdirAll(temporary, 0o755); err != nil {
			return nil, err
		}
		install := exec.CommandContext(ctx, "mariadb-install-db", "--no-defaults", "--datadir="+filepath.Join(x.folder, "data"), "--auth-root-authentication-method=normal", "--skip-test-db", "--skip-name-resolve")
		if as != nil {
			for _, own := range []string{x.folder, temporary} {
				if err := os.Chown(own, int(as.Uid), int(as.Gid)); err != nil {
					return nil, err
				}
			}
			install.SysProcAttr = &syscall.SysProcAttr{Credential: as}
		}
		install.Env = append(os.Environ(), "TMPDIR="+temporary)
		out, err := install.CombinedOutput()
		if err != nil {
			return nil, fmt.Errorf("mariadb-install-db: %w\n%s", err, out)
		}
	}
	for i := range c.nodes {
		if err := c.start(ctx, i, i == 0); err != nil {
			c.stop()
			return nil, err
		}
	}
	return c, nil
}

// temporary is where a node keeps its temporary tables.
func (x *node) temporary() string { return filepath.Join(x.folder, "tmp") }

// start starts a node, the first one of a new cluster with its bootstrap.
func (c *cluster) start(ctx context.Context, i int, bootstrap bool) error {
	x := c.nodes[i]
	peers := []string{}
	for k, other := range c.nodes {
		if k != i || !bootstrap {
			peers = append(peers, fmt.Sprintf("127.0.0.1:%d", other.base))
		}
	}
	address := "gcomm://" + strings.Join(peers, ",")
	if bootstrap {
		address = "gcomm://"
	}
	data := filepath.Join(x.folder, "data")
	setup := filepath.Join(x.folder, "setup.sql")
	text := "CREATE DATABASE IF NOT EXISTS vereda;\nCREATE USER IF NOT EXISTS 'vereda'@'127.0.0.1' IDENTIFIED BY 'vereda';\nGRANT ALL ON *.* TO 'vereda'@'127.0.0.1';\n"
	if err := os.WriteFile(setup, []byte(text), 0o644); err != nil {
		return err
	}
	log, err := os.OpenFile(filepath.Join(x.folder, "log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	defer log.Close()
	args := []string{"--no-defaults", "--datadir=" + data, "--bind-address=127.0.0.1", fmt.Sprint("--port=", x.port), "--socket=" + filepath.Join(os.TempDir(), fmt.Sprintf("vereda-node-%d.sock", x.port)),
		"--tmpdir=" + x.temporary(), "--pid-file=" + filepath.Join(data, "pid"), "--skip-name-resolve", "--innodb-buffer-pool-size=128M", "--innodb-flush-log-at-trx-commit=1", "--character-set-server=utf8mb4", "--collation-server=utf8mb4_bin", "--max-allowed-packet=64M",
		"--binlog-format=ROW", "--innodb-autoinc-lock-mode=2", "--wsrep-on=ON", "--wsrep-provider=" + provider, "--wsrep-cluster-name=vereda-load", "--wsrep-cluster-address=" + address,
		fmt.Sprint("--wsrep-node-name=node-", i), "--wsrep-node-address=127.0.0.1", "--wsrep-sst-method=rsync", fmt.Sprintf("--wsrep-sst-receive-address=127.0.0.1:%d", x.sst),
		fmt.Sprintf("--wsrep-provider-options=base_host=127.0.0.1;base_port=%d;gmcast.listen_addr=tcp://127.0.0.1:%d;ist.recv_addr=127.0.0.1:%d;pc.recovery=true;evs.keepalive_period=PT0.5S;evs.suspect_timeout=PT2S;evs.inactive_timeout=PT4S", x.base, x.base, x.istIn)}
	if bootstrap {
		args = append(args, "--wsrep-new-cluster", "--init-file="+setup)
	}
	x.cmd = exec.Command("mariadbd", args...)
	x.cmd.Stdout, x.cmd.Stderr = log, log
	x.cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL, Credential: c.as}
	if err := x.cmd.Start(); err != nil {
		return err
	}
	x.exited = make(chan struct{})
	go func(cmd *exec.Cmd, exited chan struct{}) { _ = cmd.Wait(); close(exited) }(x.cmd, x.exited)
	return x.joined(ctx, log.Name())
}

// joined waits until the node answers and says that it is in step with the others.
func (x *node) joined(ctx context.Context, log string) error {
	for end := time.Now().Add(120 * time.Second); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
		select {
		case <-x.exited:
			return fmt.Errorf("a node ended at its start; its log is %s", log)
		case <-ctx.Done():
			return ctx.Err()
		default:
		}
		db, err := sql.Open("mysql", x.dsn())
		if err != nil {
			return err
		}
		var name, state string
		err = db.QueryRowContext(ctx, `SHOW STATUS LIKE 'wsrep_local_state_comment'`).Scan(&name, &state)
		db.Close()
		if err == nil && state == "Synced" {
			return nil
		}
	}
	return fmt.Errorf("a node is not in step after two minutes; its log is %s", log)
}

func (x *node) dsn() string { return fmt.Sprintf("vereda:vereda@tcp(127.0.0.1:%d)/vereda", x.port) }

func (c *cluster) dsns() []string {
	var all []string
	for _, x := range c.nodes {
		all = append(all, x.dsn())
	}
	return all
}

// kill kills one node and starts it again: it takes what it missed from the others.
func (c *cluster) kill(ctx context.Context, i int) error {
	x := c.nodes[i]
	_ = x.cmd.Process.Kill()
	<-x.exited
	return c.start(ctx, i, false)
}

// interruption is how long a node is stopped or cut off: longer than the others wait before they go on without it.
const interruption = 7 * time.Second

// pause stops some nodes, as a machine does that is suspended, and lets them go on.
func (c *cluster) pause(ctx context.Context, which []int) error {
	signal := func(s syscall.Signal) (err error) {
		for _, i := range which {
			err = errors.Join(err, c.nodes[i].cmd.Process.Signal(s))
		}
		return err
	}
	if err := signal(syscall.SIGSTOP); err != nil {
		return err
	}
	time.Sleep(interruption)
	if err := signal(syscall.SIGCONT); err != nil {
		return err
	}
	return c.together(ctx)
}

// cutOff parts a node from the others while both sides run, and lets them find each other again.
func (c *cluster) cutOff(ctx context.Context, i int) error {
	db, err := sql.Open("mysql", c.nodes[i].dsn())
	if err != nil {
		return err
	}
	defer db.Close()
	if _, err := db.ExecContext(ctx, `SET GLOBAL wsrep_provider_options = 'gmcast.isolate=1'`); err != nil {
		return err
	}
	time.Sleep(interruption)
	if _, err := db.ExecContext(ctx, `SET GLOBAL wsrep_provider_options = 'gmcast.isolate=0'`); err != nil {
		return err
	}
	return c.together(ctx)
}

// together waits until every node says for some seconds that it is in step, in one cluster of all of them: one that was stopped says so of what was
// before, until it has heard that the others went on.
func (c *cluster) together(ctx context.Context) error {
	said, steady := make([]string, len(c.nodes)), 0
	for end := time.Now().Add(120 * time.Second); time.Now().Before(end); time.Sleep(200 * time.Millisecond) {
		all := true
		for i, x := range c.nodes {
			db, err := sql.Open("mysql", x.dsn())
			if err != nil {
				return err
			}
			var name, size, state string
			err = db.QueryRowContext(ctx, `SHOW STATUS LIKE 'wsrep_cluster_size'`).Scan(&name, &size)
			if err == nil {
				err = db.QueryRowContext(ctx, `SHOW STATUS LIKE 'wsrep_local_state_comment'`).Scan(&name, &state)
			}
			db.Close()
			said[i] = fmt.Sprint(size, " ", state, " ", err)
			all = all && err == nil && size == fmt.Sprint(len(c.nodes)) && state == "Synced"
		}
		if steady++; !all {
			steady = 0
		}
		if steady == 25 {
			return nil
		}
	}
	return fmt.Errorf("the nodes did not find each other in two minutes: %v", said)
}

func (c *cluster) stop() {
	for _, x := range c.nodes {
		if x.cmd != nil && x.cmd.Process != nil {
			_ = x.cmd.Process.Kill()
			<-x.exited
		}
	}
	_ = os.RemoveAll(c.folder)
}
