// Package people holds who trains and teaches: their records, holds, ranks, and the roster in and out.
package people

import "vereda/app/state"

// Service is safe for concurrent use.
type Service struct {
	*state.State
}

// New makes a Service.
func New(s *state.State) *Service { return &Service{s} }

// snapshot is what is known of an academy, with what is read from it here.
type snapshot struct{ *state.Snapshot }
