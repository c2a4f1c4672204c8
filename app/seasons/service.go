// Package seasons holds the timetable, units and seasons: planning, changes by hand, repair, publishing.
package seasons

import (
	"sync"
	"sync/atomic"
	"time"

	"vereda/app/state"
	"vereda/core/say"
)

// Service is safe for concurrent use.
type Service struct {
	*state.State

	// Outbox hands letters to the mail server; without one they wait.
	Outbox Outbox
	// Patience is how many seconds a season is planned for unless more is asked.
	Patience float64
	// Stopwatch begins to measure and says how long it has been. One that answers nil lets steps of work alone end a planning, whatever the machine is
	// busy with: the same season, the same plan.
	Stopwatch func() func() time.Duration

	briefs func(f *state.Snapshot, u state.User, sessions []string, in say.Language) ([]byte, error) // some classes as one document

	runs     sync.WaitGroup // plannings under way
	stopping atomic.Bool    // the server ends: plannings end with the best they have
}

// New makes a Service without an outbox. briefs makes some classes into one document, for the notices.
func New(s *state.State, briefs func(*state.Snapshot, state.User, []string, say.Language) ([]byte, error)) *Service {
	return &Service{State: s, Outbox: noPost{}, Patience: 1, Stopwatch: onTheWall, briefs: briefs}
}

func onTheWall() func() time.Duration {
	begun := time.Now()
	return func() time.Duration { return time.Since(begun) }
}

// Outbox is told that a letter was written.
type Outbox interface{ Wake() }

type noPost struct{}

func (noPost) Wake() {}

// snapshot is what is known of an academy, with what is read from it here.
type snapshot struct{ *state.Snapshot }
