// Package classes holds one class on one day: the week it stands in, its sheet, who is there, pairs, clock, and what it reached.
package classes

import "vereda/app/state"

// Service is safe for concurrent use.
type Service struct {
	*state.State
}

// New makes a Service.
func New(s *state.State) *Service { return &Service{s} }

// snapshot is what is known of an academy, with what is read from it here.
type snapshot struct{ *state.Snapshot }
