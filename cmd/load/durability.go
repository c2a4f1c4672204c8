package main

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"vereda/core/academy"
	"vereda/internal/generate"
	"vereda/store"
)

// durability writes without a pause, kills the program, the database or a node of the cluster at a random
// moment, so often; then every write that was acknowledged must be in the log, once, and the log
// must say what the servers say.
func (h *house) durability(ctx context.Context, w generate.Wish, rounds int, seed uint64) error {
	rng := rand.New(rand.NewPCG(seed, 11))
	return h.disturbed(ctx, w, rounds, 10, rng, func(int) (string, error) { return h.killSomething(ctx, rng) })
}

// interruptions stops one node of the cluster, two and all of them for longer than the others wait for them, and cuts one off from the others while both
// sides go on; each while it is written without a pause, and after each every write that was acknowledged must be there.
func (h *house) interruptions(ctx context.Context, w generate.Wish) error {
	all := []int{0, 1, 2}
	kinds := []struct {
		name string
		do   func() error
	}{
		{"one node paused", func() error { return h.cluster.pause(ctx, all[1:2]) }},
		{"two nodes paused", func() error { return h.cluster.pause(ctx, all[1:]) }},
		{"all nodes paused", func() error { return h.cluster.pause(ctx, all) }},
		{"one node cut off", func() error { return h.cluster.cutOff(ctx, 2) }},
		{"the first node paused", func() error { return h.cluster.pause(ctx, all[:1]) }},
		{"the first node cut off", func() error { return h.cluster.cutOff(ctx, 0) }},
	}
	return h.disturbed(ctx, w, len(kinds), 1, rand.New(rand.NewPCG(1, 12)), func(i int) (string, error) { return kinds[i].name, kinds[i].do() })
}

// disturbed writes without a pause while something is done to the house, so often, and looks every few rounds whether all that was acknowledged is there.
func (h *house) disturbed(ctx context.Context, w generate.Wish, rounds, every int, rng *rand.Rand, disturb func(round int) (string, error)) error {
	devices := make([]*device, 6)
	for i := range devices {
		var err error
		if devices[i], err = h.device(i); err != nil {
			return err
		}
	}
	e, err := tonight(devices[0])
	if err != nil {
		return err
	}
	acked := &acknowledged{ids: map[string]bool{}}
	var stop atomic.Bool
	var wg sync.WaitGroup
	for i, d := range devices {
		wg.Go(func() { writeOn(d, i, e, acked, &stop) })
	}
	killed := map[string]int{}
	for round := range rounds {
		time.Sleep(time.Duration(100+rng.IntN(500)) * time.Millisecond)
		what, err := disturb(round)
		if err != nil {
			stop.Store(true)
			wg.Wait()
			return fmt.Errorf("round %d, %s: %w", round+1, what, err)
		}
		killed[what]++
		if (round+1)%every == 0 {
			if err := h.compare(ctx, w.ID, acked); err != nil {
				stop.Store(true)
				wg.Wait()
				return fmt.Errorf("round %d: %w", round+1, err)
			}
			fmt.Printf("round %d: %d writes acknowledged, each there once; so far: %v\n", round+1, acked.count(), killed)
		}
	}
	stop.Store(true)
	wg.Wait()
	if err := h.compare(ctx, w.ID, acked); err != nil {
		return err
	}
	return h.rebuild(ctx)
}

type acknowledged struct {
	mu  sync.Mutex
	ids map[string]bool
}

func (a *acknowledged) add(id string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.ids[id] = true
}

func (a *acknowledged) count() int {
	a.mu.Lock()
	defer a.mu.Unlock()
	return len(a.ids)
}

// writeOn sends check-ins, check-outs and checks one after another; what is not acknowledged is
// sent again under the same identifier until it is, or refused.
func writeOn(d *device, n int, e evening, acked *acknowledged, stop *atomic.Bool) {
	for i := 0; !stop.Load(); i++ {
		student := e.students[(n*9+i)%len(e.students)]
		id := fmt.Sprintf("d-%d-%d", n, i)
		send := func() error {
			_, _, err := d.send("PUT", "/api/classes/"+e.class+"/attendance/"+student+"?event="+id, nil)
			return err
		}
		if i%3 == 1 {
			send = func() error { _, err := check(d, student, id); return err }
		}
		if i%3 == 2 {
			id = ""
			send = func() error {
				_, _, err := d.send("DELETE", "/api/classes/"+e.class+"/attendance/"+student, nil)
				return err
			}
		}
		for !stop.Load() {
			err := send()
			var no *refused
			if err == nil {
				// A check-in of somebody who is in already adds nothing, so only checks are looked for by their identifier.
				if i%3 == 1 {
					acked.add(id)
				}
				break
			}
			if errors.As(err, &no) && no.status < 500 && no.status != 429 {
				break // not in, or in already
			}
			time.Sleep(20 * time.Millisecond)
		}
	}
}

// killSomething kills with SIGKILL and starts again what was killed.
func (h *house) killSomething(ctx context.Context, rng *rand.Rand) (string, error) {
	if rng.IntN(2) == 0 {
		i := rng.IntN(len(h.servers))
		h.servers[i].kill()
		return "program", h.servers[i].start(ctx)
	}
	if h.cluster != nil {
		return "node", h.cluster.kill(ctx, rng.IntN(len(h.cluster.nodes)))
	}
	pid := h.db.PID()
	if err := syscall.Kill(pid, syscall.SIGKILL); err != nil {
		return "database", err
	}
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		if h.db.PID() == pid {
			continue
		}
		if s, err := store.Open(ctx, h.dsns[0]); err == nil {
			s.Close()
			return "database", nil
		}
	}
	return "database", errors.New("it did not come back within a minute")
}

// compare looks for every acknowledged write in the log of every database.
func (h *house) compare(ctx context.Context, id string, acked *acknowledged) error {
	acked.mu.Lock()
	want := make([]string, 0, len(acked.ids))
	for k := range acked.ids {
		want = append(want, k)
	}
	acked.mu.Unlock()
	seen := map[string]bool{}
	for _, dsn := range h.dsns {
		if seen[dsn] {
			continue
		}
		seen[dsn] = true
		// A node that is behind shows what was acknowledged a moment later.
		var missing []string
		for range 50 {
			s, err := store.Open(ctx, dsn)
			if err != nil {
				return err
			}
			times := map[string]int{}
			last := int64(0)
			err = s.Events(ctx, id, func(e academy.Event) error {
				if e.Seq != last+1 {
					return fmt.Errorf("the sequence jumps from %d to %d", last, e.Seq)
				}
				last = e.Seq
				times[e.ID]++
				return nil
			})
			s.Close()
			if err != nil {
				return err
			}
			missing = slices.DeleteFunc(slices.Clone(want), func(k string) bool { return times[k] == 1 })
			if len(missing) == 0 {
				break
			}
			time.Sleep(100 * time.Millisecond)
		}
		if len(missing) > 0 {
			return fmt.Errorf("%d of %d acknowledged writes are not there, %s among them, in %s:\n%s", len(missing), len(want), missing[0], dsn, h.standings(ctx, id, missing[0]))
		}
	}
	return nil
}

// standings says of each database how far its log goes, whether a write is in it and what the node says of itself: what one
// needs to know when something is missing.
func (h *house) standings(ctx context.Context, id, write string) string {
	var b strings.Builder
	for _, dsn := range h.dsns {
		db, err := sql.Open("mysql", dsn)
		if err != nil {
			return err.Error()
		}
		var last, there int64
		err = db.QueryRowContext(ctx, `SELECT COALESCE(MAX(seq), 0), COALESCE(SUM(id = ?), 0) FROM event WHERE academy = ?`, write, id).Scan(&last, &there)
		fmt.Fprintf(&b, "%s: last %d, the write is there %d times, %v;", dsn, last, there, err)
		rows, err := db.QueryContext(ctx, `SHOW STATUS WHERE Variable_name IN ('wsrep_local_state_comment','wsrep_cluster_status','wsrep_cluster_size','wsrep_last_committed','wsrep_local_recv_queue','wsrep_cluster_conf_id')`)
		if err == nil {
			for rows.Next() {
				var name, value string
				if err = rows.Scan(&name, &value); err == nil {
					fmt.Fprintf(&b, " %s=%s", strings.TrimPrefix(name, "wsrep_"), value)
				}
			}
			rows.Close()
		}
		b.WriteByte('\n')
		db.Close()
	}
	return b.String()
}

// rebuild lets the program look through the whole log.
func (h *house) rebuild(ctx context.Context) error {
	cmd := exec.CommandContext(ctx, h.program, "rebuild")
	cmd.Env = append(cmd.Environ(), "VEREDA_DSN="+h.dsns[0], "VEREDA_FILES="+h.folder+"/files", "VEREDA_ZONE=UTC")
	out, err := cmd.CombinedOutput()
	fmt.Print(strings.TrimSpace(string(out)), "\n")
	if err != nil {
		return fmt.Errorf("vereda rebuild: %w", err)
	}
	// What the servers hold, projected event by event, is what the whole log says.
	for i := range h.servers {
		d, err := h.device(i)
		if err != nil {
			return err
		}
		text, _, err := d.send("GET", "/api/academy/rebuild", nil)
		if err != nil {
			return err
		}
		if !strings.Contains(string(text), `"different":[]`) {
			return fmt.Errorf("server %d holds something else than the log says: %s", i, text)
		}
	}
	fmt.Println("every server holds what the log says")
	return nil
}
