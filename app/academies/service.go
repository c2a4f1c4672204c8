// Package academies holds an academy as a whole: its settings, import and export, what cannot be read, and the check of its log.
package academies

import "vereda/app/state"

// Service is safe for concurrent use.
type Service struct {
	*state.State
}

// New makes a Service.
func New(s *state.State) *Service { return &Service{s} }

// snapshot is what is known of an academy, with what is read from it here.
type snapshot struct{ *state.Snapshot }
