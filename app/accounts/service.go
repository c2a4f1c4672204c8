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

// line is a line of what opened or closed a door.
func (a *Service) line(account store.Account, who, what, address string) store.Access {
	return store.Access{At: a.Now().UTC(), Account: account.ID, Who: who, What: what, Address: address}
}

func (a *Service) log(ctx context.Context, account store.Account, who, what, address string) error {
	return a.Store.LogAccess(ctx, account.Academy, a.line(account, who, what, address))
}

// act does something to an account: all of it, the line in the log and the letters among it, or nothing.
func (a *Service) act(ctx context.Context, academyID string, do func(*store.Act) error, letters ...*store.Letter) error {
	err := a.Store.Act(ctx, academyID, func(act *store.Act) error {
		if err := do(act); err != nil {
			return err
		}
		for _, l := range letters {
			if l != nil {
				if err := act.Write(*l); err != nil {
					return err
				}
			}
		}
		return nil
	})
	if err == nil {
		a.Outbox.Wake()
	}
	return err
}
