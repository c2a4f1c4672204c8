// Package library holds the records of the technique library: writing, history, import, fork tables with their quiz, and the map.
package library

import "vereda/app/state"

// Service is safe for concurrent use.
type Service struct {
	*state.State
}

// New makes a Service.
func New(s *state.State) *Service { return &Service{s} }

// snapshot is what is known of an academy, with what is read from it here.
type snapshot struct{ *state.Snapshot }
