package people

import (
	"context"
	"encoding/json"
	"log/slog"
	"slices"
	"time"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/safety"
	"vereda/store"
)

// Data is everything kept of one person.
type Data struct {
	Academy  string          `json:"academy"`
	Made     time.Time       `json:"made"`
	Record   academy.Person  `json:"record"`
	Events   []academy.Event `json:"events" doc:"Attendances, checks, decisions about ranks, holds and clearances, as they were recorded"`
	Accounts []DataAccount   `json:"accounts"`
	Standing json.RawMessage `json:"standing" doc:"What follows from it: technique, side, rung"`
}

// DataAccount is an account of theirs, without what opens it.
type DataAccount struct {
	SignIn  string    `json:"sign_in"`
	Email   string    `json:"email,omitempty"`
	Roles   []string  `json:"roles"`
	Created time.Time `json:"created"`
}

// Data gives somebody, their guardian or the head instructor everything that is kept of them. What others wrote for other readers
// alone is left out of what they get themselves.
func (a *Service) Data(ctx context.Context, u state.User, id string) (Data, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return Data{}, err
	}
	p, ok := f.Written(id)
	if !ok || !u.Is(state.Head) && !u.Sees(id) {
		return Data{}, state.NotFound("person", id)
	}
	d := Data{Academy: f.Name, Made: a.Now().UTC(), Events: []academy.Event{}, Accounts: []DataAccount{}}
	p.Notes = slices.DeleteFunc(slices.Clone(p.Notes), func(n academy.Note) bool { return !u.Is(state.Head) && n.Readers != academy.ForSelf })
	if !u.Is(state.Head) {
		p.NeverWith = nil // names others
	}
	if !u.Is(state.Head) { // a hold's note is the head instructor's alone
		p.Holds = slices.Clone(p.Holds)
		for i := range p.Holds {
			p.Holds[i].Note = ""
		}
	}
	d.Record = p
	if err := a.Store.EventsOf(ctx, u.Academy, append([]string{id}, p.Merged...), func(e academy.Event) error {
		if e.Kind == academy.HoldEvent && !u.Is(state.Head) {
			h, err := e.Hold()
			if err != nil {
				return err
			}
			h.Note = ""
			if e.Body, err = json.Marshal(h); err != nil {
				return err
			}
		}
		d.Events = append(d.Events, e)
		return nil
	}); err != nil {
		return d, err
	}
	accounts, _, err := a.Store.Accounts(ctx, u.Academy)
	if err != nil {
		return d, err
	}
	for _, x := range accounts {
		if x.Person == id {
			d.Accounts = append(d.Accounts, DataAccount{x.SignIn, x.Email, x.Roles, x.Created})
		}
	}
	if d.Standing, err = json.Marshal(append(f.Standings(id)[:0:0], f.Standings(id)...)); err != nil {
		return d, err
	}
	return d, a.Store.LogAccess(ctx, u.Academy, store.Access{At: a.Now().UTC(), Account: u.Account, Who: u.Name, What: store.ExportedPerson + p.Name, Address: u.Address})
}

// Erase takes somebody out for good: their record, notes, accounts and letters go, and what happened stays as counts that point to
// nobody. It is one act, done whole or not at all, and cannot be undone.
func (a *Service) Erase(ctx context.Context, u state.User, id, name string) error {
	nobody := academy.GonePrefix + store.NewID()[24:]
	_, err := state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		p, ok := f.Written(id)
		switch {
		case !ok:
			return state.NotFound("person", id)
		case p.Name != name:
			return state.Invalid("name", "write %q as it stands there: this cannot be undone", p.Name)
		case p.Coach != nil:
			return state.Invalid("name", "%s is a coach: say first that they are none any more, so that their classes are given to others", p.Name)
		case id == u.Person:
			return state.Invalid("name", "this is you: another head instructor erases you")
		}
		emails, err := a.addressesOf(ctx, f, p)
		if err != nil {
			return err
		}
		b.Summary = "Erased somebody"
		b.Erase = &store.Erasure{IDs: append([]string{id}, p.Merged...), Name: p.Name, Nobody: nobody, Emails: emails}
		b.Also = func(act *store.Act) error {
			return act.Log(store.Access{At: b.At, Account: u.Account, Who: u.Name, What: "Erased somebody", Address: u.Address})
		}
		for _, other := range f.AsWritten() {
			if i := slices.Index(other.NeverWith, id); i >= 0 && other.ID != id {
				other.NeverWith = slices.Delete(slices.Clone(other.NeverWith), i, i+1)
				if err := b.Put(documents.Person, other.ID, other); err != nil {
					return err
				}
			}
		}
		for _, s := range f.Seasons {
			chances := slices.DeleteFunc(slices.Clone(s.Chances), func(c academy.SetChance) bool { return c.Student == id })
			if len(chances) != len(s.Chances) {
				s.Chances = chances
				if err := b.Put(documents.Season, s.ID, s); err != nil {
					return err
				}
			}
		}
		return b.Put(documents.Person, id, nil)
	})
	return err
}

// addressesOf lists the addresses that are somebody's alone: a family may share one.
func (a *Service) addressesOf(ctx context.Context, f *snapshot, p academy.Person) ([]string, error) {
	accounts, _, err := a.Store.Accounts(ctx, f.Academy)
	if err != nil {
		return nil, err
	}
	emails, others := []string{p.Email}, map[string]bool{"": true}
	for _, x := range accounts {
		if x.Person == p.ID {
			emails = append(emails, x.Email)
		} else {
			others[x.Email] = true
		}
	}
	for _, other := range f.AsWritten() {
		if other.ID != p.ID {
			others[other.Email] = true
		}
		if other.ID != p.ID && other.Guardian != nil {
			others[other.Guardian.Email] = true
		}
	}
	return slices.DeleteFunc(emails, func(to string) bool { return others[to] }), nil
}

// Forget deletes notes and the notes of ended holds that are older than each academy keeps them.
func (a *Service) Forget(ctx context.Context) error {
	all, err := a.Store.Academies(ctx)
	if err != nil {
		return err
	}
	for _, id := range all {
		f, err := state.Known[snapshot](ctx, a.State, id)
		if err != nil {
			return err
		}
		if f.Settings.NotesMonths == 0 {
			continue
		}
		before := f.Today().AddMonths(-f.Settings.NotesMonths)
		if err := a.Store.ForgetHealth(ctx, id, before.String()); err != nil {
			return err
		}
		old := func(n academy.Note) bool { return n.On < before }
		ended := func(h safety.Hold) bool { return h.ClearedOn != nil && *h.ClearedOn < before }
		if !slices.ContainsFunc(f.AsWritten(), func(p academy.Person) bool {
			return slices.ContainsFunc(p.Notes, old) || slices.ContainsFunc(p.Holds, ended)
		}) {
			continue
		}
		_, err = state.Decide(ctx, a.State, state.User{Academy: id, Person: "import"}, func(f *snapshot, b *state.Change) error {
			b.Summary = "Deleted notes that are older than they are kept"
			for _, p := range f.AsWritten() {
				if !slices.ContainsFunc(p.Notes, old) && !slices.ContainsFunc(p.Holds, ended) {
					continue
				}
				p.Notes, p.Holds = slices.DeleteFunc(slices.Clone(p.Notes), old), slices.DeleteFunc(slices.Clone(p.Holds), ended)
				if err := b.Put(documents.Person, p.ID, p); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// ForgetDaily forgets once a day until the context ends.
func (a *Service) ForgetDaily(ctx context.Context) {
	for {
		if err := a.Forget(ctx); err != nil && ctx.Err() == nil {
			slog.Error("old notes could not be deleted", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(24 * time.Hour):
		}
	}
}
