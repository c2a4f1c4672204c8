package app

import (
	"context"
	"log/slog"
	"runtime/debug"

	"vereda/app/state"
	"vereda/app/students"
)

// mostWarmed is for how many academies the dear pages are worked out before anybody asks: a server holds more of them, and the others wait as they did.
const mostWarmed = 10

// Warm works out what costs most at a first look, so that whoever comes first after a start does not wait for it: what is known of an academy, the standings of
// everybody, when they will be ready, what fades, and the review of the library. It goes on beside the serving, one academy after
// another, and ends with ctx. What fails here fails again, and is answered, where somebody asks.
func (a *App) Warm(ctx context.Context) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("warming up", "panic", r, "stack", string(debug.Stack()))
		}
	}()
	all, err := a.State.Store.Academies(ctx)
	if err != nil {
		slog.Warn("warming up", "error", err)
		return
	}
	for _, id := range all[:min(len(all), mostWarmed)] {
		u := state.User{Academy: id, Roles: []state.Role{state.Head}}
		for _, look := range []func() error{
			func() error { _, err := a.Students.Positions(ctx, u, students.PositionsFilter{}); return err },
			func() error { _, err := a.Library.Review(ctx, u); return err },
			func() error { _, err := a.Students.Fading(ctx, u); return err },
			func() error { _, err := a.Students.OutlookList(ctx, u); return err },
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
}
