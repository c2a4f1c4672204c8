// Command load measures Vereda under load: one server, two replicas, and a
// Galera cluster of three nodes, each with programs and databases of its own on loopback. It also kills
// them at random moments and looks whether anything acknowledged was lost.
//
// It drives the program as it is built (bin/vereda) over HTTP, as a browser would.
package main

import (
	"context"
	"flag"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"strings"
	"syscall"
	"time"

	"vereda/core/calendar"
	"vereda/internal/generate"
	"vereda/store"
)

func main() {
	setup := flag.String("setup", "one", "one, two or cluster; several separated by commas")
	kill := flag.Int("kill", 0, "instead of measuring: kill something so often, and look what is left")
	program := flag.String("program", "bin/vereda", "the program that is measured")
	students := flag.Int("students", 600, "students of the large academy")
	visits := flag.Int("visits", 400_000, "attendances of the large academy")
	checks := flag.Int("checks", 40_000, "checks of the large academy")
	small := flag.Int("academies", 100, "small academies on one server; 0 leaves them out")
	seed := flag.Uint64("seed", 1, "of what is generated, and of the moments at which something is killed")
	flag.Parse()
	slog.SetLogLoggerLevel(slog.LevelWarn)
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	large := generate.Wish{ID: "large", Students: *students, Weeks: 260, Classes: 20, Visits: *visits, Checks: *checks, Today: calendar.DayOf(time.Now().UTC()), Seed: *seed}
	for _, name := range strings.Split(*setup, ",") {
		if err := run(ctx, name, *program, large, *small, *kill, *seed); err != nil {
			fmt.Fprintln(os.Stderr, "load:", err)
			os.Exit(1)
		}
	}
}

func run(ctx context.Context, setup, program string, large generate.Wish, small, kill int, seed uint64) error {
	if kill > 0 {
		large.Students, large.Weeks, large.Visits, large.Checks, large.Classes = 60, 20, 3000, 200, 7
	}
	h, err := openHouse(ctx, setup, program)
	if err != nil {
		return err
	}
	defer h.close()
	start := time.Now()
	events, err := h.load(ctx, large)
	if err != nil {
		return err
	}
	fmt.Printf("\n%s: %d students, %d events loaded in %s\n\n", h.title, large.Students, events, time.Since(start).Round(time.Second))
	if err := h.accounts(ctx, large.ID, 8); err != nil {
		return err
	}
	if kill > 0 {
		return h.durability(ctx, large, kill, seed)
	}
	if err := h.measure(ctx, large, small); err != nil || h.cluster == nil {
		return err
	}
	return h.interruptions(ctx, large)
}

// load writes a generated academy into the database, past the program.
func (h *house) load(ctx context.Context, w generate.Wish) (int, error) {
	b, events, err := generate.Academy(w)
	if err != nil {
		return 0, err
	}
	s, err := store.Migrate(ctx, h.dsns[0])
	if err != nil {
		return 0, err
	}
	defer s.Close()
	if err := importBundle(ctx, s, b); err != nil {
		return 0, err
	}
	const some = 4000
	for at := 0; at < len(events); at += some {
		if err := s.Append(ctx, w.ID, events[at:min(len(events), at+some)]...); err != nil {
			return 0, err
		}
	}
	return len(events), nil
}
