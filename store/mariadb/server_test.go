package mariadb

import (
	"context"
	"database/sql"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func folder(t *testing.T) string {
	dir := t.TempDir()
	for d := dir; d != os.TempDir() && d != "/"; d = filepath.Dir(d) {
		require.NoError(t, os.Chmod(d, 0o755))
	}
	return dir
}

func query(t *testing.T, s *Server, q string) string {
	db, err := sql.Open("mysql", s.DSN("vereda"))
	require.NoError(t, err)
	defer db.Close()
	var out string
	require.NoError(t, db.QueryRow(q).Scan(&out))
	return out
}

func exec1(t *testing.T, s *Server, q string) {
	db, err := sql.Open("mysql", s.DSN("vereda"))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(q)
	require.NoError(t, err)
}

func TestStartKeepStopAndStartAgain(t *testing.T) {
	dir := folder(t)
	s, err := Start(context.Background(), dir)
	require.NoError(t, err)
	assert.Equal(t, "1", query(t, s, "SELECT @@innodb_flush_log_at_trx_commit"), "every commit is flushed")
	assert.Equal(t, "127.0.0.1", query(t, s, "SELECT @@bind_address"))
	exec1(t, s, "CREATE TABLE kept (id INT PRIMARY KEY)")
	exec1(t, s, "INSERT INTO kept VALUES (7)")

	_, err = Start(context.Background(), dir)
	require.Error(t, err, "two on one folder")
	assert.Contains(t, err.Error(), "another vereda runs on")

	require.NoError(t, s.Stop())
	start := time.Now()
	s, err = Start(context.Background(), dir)
	require.NoError(t, err)
	t.Logf("started again in %s", time.Since(start).Round(time.Millisecond))
	assert.Equal(t, "7", query(t, s, "SELECT id FROM kept"))
	require.NoError(t, s.Stop())
}

// The server is killed in the middle; what was committed is there afterwards.
func TestKilledServerRecovers(t *testing.T) {
	dir := folder(t)
	s, err := Start(context.Background(), dir)
	require.NoError(t, err)
	exec1(t, s, "CREATE TABLE kept (id INT PRIMARY KEY)")
	exec1(t, s, "INSERT INTO kept VALUES (7)")
	died := s.PID()
	require.NoError(t, syscall.Kill(died, syscall.SIGKILL))
	require.Eventually(t, func() bool {
		db, err := sql.Open("mysql", s.DSN("vereda"))
		require.NoError(t, err)
		defer db.Close()
		return s.PID() != died && db.Ping() == nil
	}, 30*time.Second, 20*time.Millisecond, "it is started again by itself, on the same port")
	assert.Equal(t, "7", query(t, s, "SELECT id FROM kept"))
	require.NoError(t, s.Stop())
	assert.Error(t, syscall.Kill(s.PID(), 0), "stopped, it stays so")
}

// Stopped at the moment it has been started again: when Stop is done nothing runs any more, and what the next start finds is on the disk.
func TestStoppedWhileItIsStartedAgain(t *testing.T) {
	s := &Server{exited: make(chan error, 1), gone: make(chan struct{})}
	s.launch = func(context.Context) error {
		err := s.run(exec.Command("sleep", "60"), nil)
		s.stopping.Store(true) // as Stop does, whose signal went to the process before
		return err
	}
	s.exited <- errors.New("it was killed")
	go s.keep()
	select {
	case <-s.gone:
		assert.Error(t, syscall.Kill(s.PID(), 0), "stopped, and it still runs")
	case <-time.After(20 * time.Second):
		assert.Fail(t, "nobody told it to stop")
	}
}

// The program is killed and leaves the server behind: it gets the signal to
// stop, or is stopped by the next start.
func TestKilledProgramLeavesNothingInTheWay(t *testing.T) {
	dir := folder(t)
	if os.Getenv("VEREDA_BE_THE_PROGRAM") != "" {
		s, err := Start(context.Background(), os.Getenv("VEREDA_BE_THE_PROGRAM"))
		require.NoError(t, err)
		exec1(t, s, "CREATE TABLE kept (id INT PRIMARY KEY)")
		exec1(t, s, "INSERT INTO kept VALUES (7)")
		require.NoError(t, os.WriteFile(filepath.Join(os.Getenv("VEREDA_BE_THE_PROGRAM"), "up"), nil, 0o644))
		select {}
	}
	program := exec.Command(os.Args[0], "-test.run", "^TestKilledProgramLeavesNothingInTheWay$")
	program.Env = append(os.Environ(), "VEREDA_BE_THE_PROGRAM="+dir)
	require.NoError(t, program.Start())
	require.Eventually(t, func() bool { _, err := os.Stat(filepath.Join(dir, "up")); return err == nil }, 60*time.Second, 50*time.Millisecond)
	pid, err := os.ReadFile(filepath.Join(dir, "data", "mariadbd.pid"))
	require.NoError(t, err)
	require.NoError(t, program.Process.Signal(syscall.SIGKILL))
	_ = program.Wait()

	s, err := Start(context.Background(), dir)
	require.NoError(t, err)
	assert.Equal(t, "7", query(t, s, "SELECT id FROM kept"))
	now, err := os.ReadFile(filepath.Join(dir, "data", "mariadbd.pid"))
	require.NoError(t, err)
	assert.NotEqual(t, strings.TrimSpace(string(pid)), strings.TrimSpace(string(now)))
	require.NoError(t, s.Stop())
}

func TestAFirstStartCutShortIsMadeAgain(t *testing.T) {
	dir := folder(t)
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "data", "half"), 0o755))
	s, err := Start(context.Background(), dir)
	require.NoError(t, err)
	assert.Equal(t, "1", query(t, s, "SELECT 1"))
	require.NoError(t, s.Stop())
}

// A server that starts sweeps up what temporary tables a killed one left in its folder for them: that folder is its own, or
// it would take those of another server on this machine away from under it.
func TestTheTemporaryTablesOfAnotherServerStay(t *testing.T) {
	dir, shared := folder(t), folder(t)
	require.NoError(t, os.Chmod(shared, 0o777))
	other := filepath.Join(shared, "#sql-temptable-1a2b-1-8.MAI")
	require.NoError(t, os.WriteFile(other, []byte("in use"), 0o666))
	t.Setenv("TMPDIR", shared)
	s, err := Start(context.Background(), dir)
	require.NoError(t, err)
	assert.FileExists(t, other)
	temporary := query(t, s, "SELECT @@tmpdir")
	require.NoError(t, s.Stop())
	left := filepath.Join(temporary, "#sql-temptable-1a2b-1-9.MAI")
	require.NoError(t, os.WriteFile(left, nil, 0o666))
	s, err = Start(context.Background(), dir)
	require.NoError(t, err)
	assert.NoFileExists(t, left, "its own are swept up")
	require.NoError(t, s.Stop())
}
