// Package app holds the use cases: it asks the ground what is known, asks the core,
// and keeps the result.
package app

import (
	"context"
	"sync"
	"sync/atomic"
	"time"

	"vereda/app/state"
	"vereda/store"
	"vereda/store/files"
)

// App is safe for concurrent use, and one of several on the same database.
type App struct {
	*state.State
	files *files.Files

	// Outbox hands letters to the mail server; without one they wait.
	Outbox Outbox
	// Patience is how many seconds a season is planned for unless more is asked.
	Patience float64

	runs     sync.WaitGroup // plannings under way
	stopping atomic.Bool    // the server ends: plannings end with the best they have
}

// New makes an App. now is its clock; zone is where an academy is that names none of its own; kept
// holds attached files.
func New(s *store.Store, now func() time.Time, zone *time.Location, kept *files.Files) *App {
	return &App{Outbox: noPost{}, State: state.New(s, now, zone), files: kept, Patience: 1}
}

// Outbox is told that a letter was written.
type Outbox interface{ Wake() }

type noPost struct{}

func (noPost) Wake() {}

// What the ground says, under the names the use cases' callers know.
type (
	User            = state.User
	Role            = state.Role
	ValidationError = state.ValidationError
	NotFoundError   = state.NotFoundError
	ConflictError   = state.ConflictError
	ForbiddenError  = state.ForbiddenError
	RateLimitError  = state.RateLimitError
)

// The roles.
const (
	Head    = state.Head
	Coach   = state.Coach
	Desk    = state.Desk
	Student = state.Student
)

func invalid(field, format string, args ...any) error { return state.Invalid(field, format, args...) }

func notFound(thing, id string) error { return &NotFoundError{Thing: thing, ID: id} }

func forbidden(why string) error { return &ForbiddenError{Why: why} }

var invalidAll = state.InvalidAll

// snapshot is what is known of an academy, with what the use cases read from it.
type snapshot struct{ *state.Snapshot }

// read returns what is known of the user's academy.
func (a *App) read(ctx context.Context, academy string) (*snapshot, error) {
	s, err := a.Read(ctx, academy)
	return &snapshot{s}, err
}

// change decides a change of records on what is known and keeps it.
func (a *App) change(ctx context.Context, u User, decide func(f *snapshot, b *state.Change) error) (string, error) {
	return a.Change(ctx, u, func(s *state.Snapshot, c *state.Change) error { return decide(&snapshot{s}, c) })
}
