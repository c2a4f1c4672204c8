// Package academies holds an academy as a whole: its settings, import and export, what cannot be read, and the check of its log.
package academies

import (
	"sync"

	"vereda/app/state"
	"vereda/exchange"
)

// Service is safe for concurrent use.
type Service struct {
	*state.State
	// Starter is what ships to start from: a library, ladders and first curricula; nothing when nil.
	Starter func() (exchange.Bundle, error)

	readStarter sync.Once
	ships       starter
	shipsErr    error
}

// New makes a Service.
func New(s *state.State) *Service { return &Service{State: s} }

// snapshot is what is known of an academy, with what is read from it here.
type snapshot struct{ *state.Snapshot }
