package api

import (
	"context"

	"vereda/app/accounts"
	"vereda/app/state"
)

// Me is who is signed in.
type Me struct {
	Name    string        `json:"name"`
	Roles   []state.Role  `json:"roles"`
	Person  string        `json:"person"`
	Account string        `json:"account" doc:"Their account: what waits on a device to be sent is this account's alone"`
	Wards   []state.Named `json:"wards" doc:"Whose pages a guardian sees"`
	Academy string        `json:"academy"`
	May     []string      `json:"may" doc:"Operations open to them"`
	Home    string        `json:"home" doc:"The page they begin on"`
	// WantsFactor: the academy wants a second factor first.
	WantsFactor bool   `json:"wants_factor,omitempty" doc:"Nothing else is open before they set up a second factor"`
	Areas       []Area `json:"areas" doc:"The parts of the interface open to them, in the order of the work"`
}

// Entered is what came of signing in.
type Entered struct {
	WantsCode bool `json:"wants_code" doc:"The password is right: send it again with the code of the second factor"`
	Me        *Me  `json:"me,omitempty"`
}

// Token is the secret of an address that opens something once.
type Token struct {
	Token string `json:"token" minLength:"1" maxLength:"100"`
}

func (s *Server) account() {
	operation(s, post, "/session", "sign-in", "Sign in", func(ctx context.Context, _ state.User, in *struct {
		Body struct {
			Name     string `json:"name" minLength:"1" maxLength:"100"`
			Password string `json:"password" minLength:"1" maxLength:"200"`
			Code     string `json:"code,omitempty" maxLength:"40" doc:"Of the second factor, or a recovery code"`
		}
	}) (Entered, error) {
		try := tryOf(ctx)
		try.Name, try.Password, try.Code = in.Body.Name, in.Body.Password, in.Body.Code
		e, err := s.app.Accounts.SignIn(ctx, try)
		return s.entered(ctx, e, err)
	})
	operation(s, remove, "/session", "sign-out", "Sign out", func(ctx context.Context, u state.User, _ *nothing) (nothing, error) {
		if err := s.app.Accounts.SignOut(ctx, u); err != nil {
			return nothing{}, err
		}
		return nothing{}, s.sessions.Destroy(ctx)
	})
	operation(s, get, "/session", "who-am-i", "Who is signed in", func(ctx context.Context, u state.User, _ *nothing) (Me, error) {
		return s.me(ctx, u)
	})
	operation(s, post, "/links/open", "open-link", "What an address that opens something once is for", func(ctx context.Context, _ state.User, in *struct{ Body Token }) (accounts.Opened, error) {
		return s.app.Accounts.OpenLink(ctx, in.Body.Token)
	})
	operation(s, post, "/links/use", "use-link", "Set a password by an invitation, or another one, and sign in", func(ctx context.Context, _ state.User, in *struct {
		Body struct {
			Token
			Password string `json:"password" minLength:"1" maxLength:"200"`
			Code     string `json:"code,omitempty" maxLength:"40"`
		}
	}) (Entered, error) {
		try := tryOf(ctx)
		try.Password, try.Code = in.Body.Password, in.Body.Code
		e, err := s.app.Accounts.UseLink(ctx, in.Body.Token.Token, try)
		return s.entered(ctx, e, err)
	})
	operation(s, post, "/links/setup", "set-up", "Make the academy and its head instructor's account, once", func(ctx context.Context, _ state.User, in *struct {
		Body struct {
			Token
			accounts.First
		}
	}) (Entered, error) {
		e, err := s.app.Accounts.Setup(ctx, in.Body.Token.Token, in.Body.First, tryOf(ctx))
		return s.entered(ctx, e, err)
	})
	operation(s, post, "/forgotten", "forgotten-password", "Send a letter by which another password can be set; the answer is the same whether or not there is such an account", func(ctx context.Context, _ state.User, in *struct {
		Body struct {
			Name string `json:"name" minLength:"1" maxLength:"100"`
		}
	}) (nothing, error) {
		address := callerOf(ctx).address
		later := context.WithoutCancel(ctx)
		s.background.Go(func() { // how long it takes does not tell whether there is such an account
			if err := s.app.Accounts.Forgotten(later, in.Body.Name, address); err != nil {
				logFailure("a letter for a forgotten password could not be written", err)
			}
		})
		return nothing{}, nil
	})
	s.ownAccount()
	s.manageAccounts()
}

func (s *Server) ownAccount() {
	operation(s, get, "/account", "get-account", "One's own account", func(ctx context.Context, u state.User, _ *nothing) (accounts.Own, error) {
		return s.app.Accounts.Own(ctx, u)
	})
	operation(s, put, "/account/password", "change-password", "Set another password; everywhere else one is signed out", func(ctx context.Context, u state.User, in *struct {
		Body struct {
			Now      string `json:"now" maxLength:"200"`
			Password string `json:"password" maxLength:"200"`
		}
	}) (nothing, error) {
		return nothing{}, s.app.Accounts.ChangePassword(ctx, u, in.Body.Now, in.Body.Password)
	})
	operation(s, remove, "/account/sessions", "end-sessions", "Sign out everywhere else, or at one place", func(ctx context.Context, u state.User, in *struct {
		Only string `query:"only" maxLength:"64"`
	}) (nothing, error) {
		return nothing{}, s.app.Accounts.EndSessions(ctx, u, in.Only)
	})
	type password struct {
		Body struct {
			Password string `json:"password" maxLength:"200"`
		}
	}
	operation(s, post, "/account/second-factor", "begin-second-factor", "The secret of a second factor, to be confirmed", func(ctx context.Context, u state.User, in *password) (accounts.NewFactor, error) {
		return s.app.Accounts.BeginSecondFactor(ctx, u, in.Body.Password)
	})
	operation(s, put, "/account/second-factor", "confirm-second-factor", "Ask for the second factor from now on; gives the recovery codes", func(ctx context.Context, u state.User, in *struct {
		Body struct {
			Code string `json:"code" maxLength:"40"`
		}
	}) ([]string, error) {
		return s.app.Accounts.ConfirmSecondFactor(ctx, u, in.Body.Code)
	})
	operation(s, post, "/account/second-factor/removal", "remove-second-factor", "Ask for no second factor any more", func(ctx context.Context, u state.User, in *password) (nothing, error) {
		return nothing{}, s.app.Accounts.RemoveSecondFactor(ctx, u, in.Body.Password)
	})
}

func (s *Server) manageAccounts() {
	operation(s, get, "/accounts", "list-accounts", "Who can sign in", func(ctx context.Context, u state.User, _ *nothing) ([]accounts.AccountLine, error) {
		return s.app.Accounts.Accounts(ctx, u)
	})
	operation(s, get, "/roles", "list-roles", "The roles an account can have", func(context.Context, state.User, *nothing) ([]accounts.RoleLine, error) {
		return s.app.Accounts.RoleLines(), nil
	})
	operation(s, post, "/accounts", "invite", "Make an account, and the address by which its password is set", func(ctx context.Context, u state.User, in *struct{ Body accounts.Wish }) (accounts.Invited, error) {
		return s.app.Accounts.Invite(ctx, u, in.Body)
	})
	operation(s, post, "/accounts/{id}/invitation", "invite-again", "Another address by which an account's password is set", func(ctx context.Context, u state.User, in *ByID) (accounts.Invited, error) {
		return s.app.Accounts.InviteAgain(ctx, u, in.ID)
	})
	operation(s, put, "/accounts/{id}", "change-account", "Change what an account may do, or close it", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			accounts.Wish
			Closed bool `json:"closed"`
		}
	}) (nothing, error) {
		return nothing{}, s.app.Accounts.Change(ctx, u, in.ID, in.Body.Wish, in.Body.Closed)
	})
	operation(s, remove, "/accounts/{id}/sessions", "sign-out-everywhere", "End every session of an account", func(ctx context.Context, u state.User, in *ByID) (nothing, error) {
		return nothing{}, s.app.Accounts.SignOutEverywhere(ctx, u, in.ID)
	})
	operation(s, remove, "/accounts/{id}/second-factor", "reset-second-factor", "Remove somebody's second factor, who lost it", func(ctx context.Context, u state.User, in *ByID) (nothing, error) {
		return nothing{}, s.app.Accounts.ResetSecondFactor(ctx, u, in.ID)
	})
	operation(s, get, "/access-log", "access-log", "What opened or closed a door, or looked at what is private", func(ctx context.Context, u state.User, _ *nothing) ([]accounts.AccessLine, error) {
		return s.app.Accounts.Log(ctx, u)
	})
}

func tryOf(ctx context.Context) accounts.Try {
	c := callerOf(ctx)
	return accounts.Try{Device: c.device, Address: c.address, Agent: c.agent}
}

// entered begins the browser's session for somebody who was let in.
func (s *Server) entered(ctx context.Context, e accounts.Entered, err error) (Entered, error) {
	if err != nil || e.WantsCode {
		return Entered{WantsCode: e.WantsCode}, err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return Entered{}, err
	}
	s.sessions.Put(ctx, "session", e.Session)
	callerOf(ctx).keepDevice(e.Device)
	me, err := s.me(ctx, e.User)
	return Entered{Me: &me}, err
}

func (s *Server) me(ctx context.Context, u state.User) (Me, error) {
	name, err := s.app.Accounts.AcademyName(ctx, u)
	if err != nil {
		return Me{}, err
	}
	me := Me{Name: u.Name, Roles: u.Roles, Person: u.Person, Account: u.Account, Academy: name, May: []string{}, Areas: areasOf(u.Roles), Home: homeOf(u.Roles)}
	if u.WantsFactor {
		me.WantsFactor, me.Home, me.Areas = true, "/account", []Area{}
	}
	for id := range permissions {
		if may(u.Roles, id) && (!u.WantsFactor || beforeFactor[id]) {
			me.May = append(me.May, id)
		}
	}
	me.Wards, err = s.app.People.Names(ctx, u, u.Wards)
	return me, err
}
