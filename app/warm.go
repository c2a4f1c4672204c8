package app

import (
	"context"
	"log/slog"
	"runtime/debug"
	"time"

	"vereda/app/state"
	"vereda/app/students"
)

// mostWarmed is for how many academies the dear pages are worked out before anybody asks: a server holds more of them, and the others wait as they did.
const mostWarmed = 10

// quiet is how long nothing must have changed before the dear pages are worked out again.
const quiet = 2 * time.Second

// Warm works out what costs most at a first look, so that whoever comes first after a start does not wait for it: what is known of an academy, the standings of
// everybody, when they will be ready, what fades, and the review of the library. It goes on beside the serving, one academy after
// another, and ends with ctx. What fails here fails again, and is answered, where somebody asks.
func (a *App) Warm(ctx context.Context) {
	all, err := a.State.Store.Academies(ctx)
	if err != nil {
		slog.Warn("warming up", "error", err)
		return
	}
	for _, id := range all[:min(len(all), mostWarmed)] {
		a.warm(ctx, id)
	}
}

// KeepWarm warms, and does so again for an academy in use when its records changed or a class was reported, and then nothing for two seconds. It ends with ctx.
func (a *App) KeepWarm(ctx context.Context) {
	a.Warm(ctx)
	_, done := a.State.InUse()
	seen := map[string]state.HeldVersion{}
	tick := time.NewTicker(quiet)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		ids, now := a.State.InUse()
		for _, id := range ids[:min(len(ids), mostWarmed)] {
			if now[id] != done[id] && now[id] == seen[id] {
				a.warm(ctx, id)
				done[id] = now[id]
			}
		}
		seen = now
	}
}

func (a *App) warm(ctx context.Context, id string) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("warming up", "panic", r, "stack", string(debug.Stack()))
		}
	}()
	u := state.User{Academy: id, Roles: []state.Role{state.Head}}
	for _, look := range []func() error{
		func() error { _, err := a.Students.Positions(ctx, u, students.PositionsFilter{}); return err },
		func() error { _, err := a.Library.Review(ctx, u); return err },
		func() error { _, err := a.Students.Fading(ctx, u); return err },
		func() error { _, err := a.Students.OutlookList(ctx, u); return err },
		func() error { _, err := a.Students.Backtest(ctx, u, 12); return err },
		func() error { _, err := a.Today(ctx, u); return err },
	} {
		if ctx.Err() != nil {
			return
		}
		if err := look(); err != nil {
			slog.Warn("warming up", "academy", id, "error", err)
		}
	}
}
