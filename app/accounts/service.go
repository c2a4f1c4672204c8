// Package accounts holds who can sign in: passwords and second factors, invitations and forgotten passwords, where
// somebody is signed in, and the log of what opened or closed a door.
package accounts

import (
	"context"

	"vereda/app/state"
	"vereda/store"
)

// Service is safe for concurrent use.
type Service struct {
	*state.State
	// URL is where people reach this installation, without a slash at its end: what letters point to.
	URL string
	// Outbox hands letters to the mail server; without one they wait.
	Outbox Outbox
}

// Outbox is told that a letter was written.
type Outbox interface{ Wake() }

type noPost struct{}

func (noPost) Wake() {}

// New makes a Service.
func New(s *state.State) *Service {
	go nobodysHash() // so that the first name nobody has takes no longer than the others
	return &Service{State: s, Outbox: noPost{}}
}

// snapshot is what is known of an academy, with what is read from it here.
type snapshot struct{ *state.Snapshot }

// log writes a line of what opened or closed a door.
func (a *Service) log(ctx context.Context, account store.Account, who, what, address string) error {
	return a.Store.LogAccess(ctx, account.Academy, store.Access{At: a.Now().UTC(), Account: account.ID, Who: who, What: what, Address: address})
}
