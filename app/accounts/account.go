package accounts

import (
	"context"
	"slices"
	"time"

	"vereda/app/state"
	"vereda/store"
)

// Place is one place somebody is signed in at.
type Place struct {
	ID      string    `json:"id"`
	Begun   time.Time `json:"begun"`
	Seen    time.Time `json:"seen"`
	Address string    `json:"address"`
	Agent   string    `json:"agent" doc:"What the browser calls itself"`
	Here    bool      `json:"here" doc:"The one that asks"`
}

// Own is somebody's own account.
type Own struct {
	SignIn   string       `json:"sign_in"`
	Email    string       `json:"email"`
	Roles    []state.Role `json:"roles"`
	Factor   bool         `json:"factor" doc:"A second factor is asked for"`
	Wanted   bool         `json:"wanted" doc:"The academy wants one of them"`
	Recovery int          `json:"recovery" doc:"Recovery codes that are left"`
	Places   []Place      `json:"places"`
	Least    int          `json:"least" doc:"The least length of a password"`
}

// Own shows somebody their account.
func (a *Service) Own(ctx context.Context, u state.User) (Own, error) {
	account, err := a.Store.AccountByID(ctx, u.Account)
	if err != nil {
		return Own{}, err
	}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return Own{}, err
	}
	own := Own{SignIn: account.SignIn, Email: account.Email, Roles: u.Roles, Factor: account.Since != nil, Wanted: f.Settings.SecondFactor && u.Is(state.Head), Places: []Place{}, Least: LeastPassword}
	if own.Recovery, err = a.Store.RecoveryLeft(ctx, account.ID); err != nil {
		return own, err
	}
	in, err := a.Store.Sessions(ctx, account.ID, a.Now().UTC().Add(-idle))
	for _, x := range in {
		own.Places = append(own.Places, Place{x.ID, x.Begun, x.Seen, x.Address, x.Agent, x.ID == u.Session})
	}
	return own, err
}

// ChangePassword takes another password, and ends the session everywhere else.
func (a *Service) ChangePassword(ctx context.Context, u state.User, now, password string) error {
	account, err := a.own(ctx, u, "now", now)
	if err != nil {
		return err
	}
	name, err := a.AcademyName(ctx, u)
	if err != nil {
		return err
	}
	if err := checkPassword(password, account.SignIn, u.Name, name); err != nil {
		return err
	}
	hash, err := hashPassword(password)
	if err != nil {
		return err
	}
	letter, err := a.told(ctx, account, u.Name, "Password changed")
	if err != nil {
		return err
	}
	return a.act(ctx, account.Academy, func(act *store.Act) error {
		if err := act.SetPassword(account.ID, hash); err != nil {
			return err
		}
		if err := act.EndSessions(account.ID, "", u.Session); err != nil {
			return err
		}
		return act.Log(a.line(account, u.Name, "Password changed", u.Address))
	}, letter)
}

// EndSessions signs somebody out: at one place, or everywhere but here.
func (a *Service) EndSessions(ctx context.Context, u state.User, only string) error {
	except := u.Session
	if only != "" {
		except = ""
	}
	account, err := a.Store.AccountByID(ctx, u.Account)
	if err != nil {
		return err
	}
	what := "Signed out everywhere else"
	if only != "" {
		what = "Signed out at another place"
	}
	return a.act(ctx, account.Academy, func(act *store.Act) error {
		if err := act.EndSessions(u.Account, only, except); err != nil {
			return err
		}
		return act.Log(a.line(account, u.Name, what, u.Address))
	})
}

// roles reads roles, in the order of what they may do, each once.
func roles(given []state.Role) ([]string, error) {
	var all []string
	for _, r := range state.Roles {
		if slices.Contains(given, r) {
			all = append(all, string(r))
		}
	}
	for _, r := range given {
		if !slices.Contains(state.Roles, r) {
			return nil, state.Invalid("roles", "%.40q is not a role", string(r))
		}
	}
	if len(all) == 0 {
		return nil, state.Invalid("roles", "choose at least one")
	}
	return all, nil
}
