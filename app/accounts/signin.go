package accounts

import (
	"context"
	"errors"
	"strings"
	"time"

	"vereda/app/state"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
)

// Sessions end when nobody used them for a while, and anyway after some time.
const (
	idle     = 72 * time.Hour // a coach who comes twice a week stays in on the phone
	lifetime = 14 * 24 * time.Hour
)

// Failed tries slow the next ones down; nobody is shut out. Of one device, or one address that no device is known at, five
// are free for a name; then each doubles the pause before the next. All unknown devices together have twenty
// for a name, and a house whose people share an address a hundred, and then wait a little between two.
// Who signed in with their browser before waits for nobody else's guesses.
const (
	failWindow    = time.Hour
	freeOfDevice  = 5
	freeOfName    = 20
	freeOfAddress = 100
)

func pause(a store.Attempt, known bool, now time.Time) time.Duration {
	wait := func(t store.Tries, free int, most time.Duration) time.Duration {
		over := t.Count - 1 - free
		if over < 0 {
			return 0
		}
		p := most
		if over < 12 {
			p = min(most, time.Second<<over)
		}
		return min(p, p-now.Sub(t.Last)) // of servers whose clocks differ the other one's may be later
	}
	longest := wait(a.OfDevice, freeOfDevice, 15*time.Minute)
	if !known {
		longest = max(longest, wait(a.OfName, freeOfName, time.Minute), wait(a.OfAddress, freeOfAddress, 10*time.Second))
	}
	return max(0, longest)
}

// ErrSignIn is a wrong name or password; which of the two is not said.
var ErrSignIn = say.Errorf("this name and password do not go together")

// ErrCode is a wrong code of the second factor.
var ErrCode = say.Errorf("this code is wrong, or was used before: wait for the next one")

// Try is somebody who wants to sign in.
type Try struct {
	Name, Password string
	Code           string // of the second factor, or a recovery code
	Device         string // what the browser was given when somebody signed in with it before
	Address, Agent string
}

// Entered is what somebody who signed in gets.
type Entered struct {
	User      state.User
	Session   string
	Device    string // for the browser to keep
	WantsCode bool   // the password is right; nobody is signed in before the code is given
}

// SignIn lets somebody in by name and password, and the code of the second factor where there is one. A
// try is counted before the password is looked at, so that guessing in parallel passes no limit.
func (a *Service) SignIn(ctx context.Context, try Try) (Entered, error) {
	name := validation.Shorten(strings.ToLower(strings.TrimSpace(try.Name)), 100)
	try.Address, try.Agent = validation.Shorten(try.Address, 64), validation.Shorten(try.Agent, 200)
	if !validation.Readable(name) {
		return Entered{}, ErrSignIn
	}
	now := a.Now().UTC()
	device, known := "", false
	if try.Device != "" {
		var err error
		if known, err = a.Store.KnowsDevice(ctx, name, hashOf(try.Device)); err != nil {
			return Entered{}, err
		}
		if known {
			device = hashOf(try.Device)
		}
	}
	attempt, err := a.begin(ctx, name, try.Address, device, known)
	if err != nil {
		return Entered{}, err
	}
	account, err := a.Store.AccountBySignIn(ctx, name)
	if err != nil && !errors.Is(err, store.ErrMissing) {
		return Entered{}, err
	}
	hash := account.Password
	if err != nil || hash == "" {
		hash = nobodysHash() // takes as long as for somebody
	}
	if same := samePassword(hash, try.Password); err != nil || !same || account.Closed != nil {
		if err == nil {
			err = a.log(ctx, account, name, "Sign-in refused: wrong password", try.Address)
		} else {
			err = nil
		}
		return Entered{}, errors.Join(ErrSignIn, err, a.Store.FailSignIn(ctx, attempt, now))
	}
	if account.Since != nil {
		if try.Code == "" {
			return Entered{WantsCode: true}, a.Store.ForgetSignIn(ctx, attempt)
		}
		if ok, err := a.secondFactor(ctx, account, try.Code); err != nil || !ok {
			if err == nil {
				err = a.log(ctx, account, name, "Sign-in refused: wrong code of the second factor", try.Address)
			}
			return Entered{}, errors.Join(ErrCode, err, a.Store.FailSignIn(ctx, attempt, now))
		}
	}
	if err := a.Store.ForgetSignIn(ctx, attempt); err != nil {
		return Entered{}, err
	}
	return a.enter(ctx, account, try, "Signed in")
}

// begin counts a try before the secret is looked at, or refuses it until the pause is over. A refused try is forgotten: whoever
// keeps trying makes nobody's pause longer.
func (a *Service) begin(ctx context.Context, name, address, device string, known bool) (store.Attempt, error) {
	now := a.Now().UTC()
	attempt, err := a.Store.BeginSignIn(ctx, name, address, device, now, now.Add(-failWindow))
	if err != nil {
		return attempt, err
	}
	if wait := pause(attempt, known, now); wait > 0 {
		return attempt, errors.Join(&state.RateLimitError{Wait: wait}, a.Store.ForgetSignIn(ctx, attempt))
	}
	return attempt, nil
}

// enter begins a session.
func (a *Service) enter(ctx context.Context, account store.Account, try Try, what string) (Entered, error) {
	now := a.Now().UTC()
	in := Entered{Session: store.NewID(), Device: try.Device}
	if in.Device == "" || len(in.Device) > 64 {
		in.Device = newToken()
	}
	if err := a.Store.KeepDevice(ctx, account.ID, hashOf(in.Device), now); err != nil {
		return in, err
	}
	if err := a.Store.BeginSession(ctx, account.ID, store.SignedIn{ID: in.Session, Begun: now, Address: try.Address, Agent: try.Agent}); err != nil {
		return in, err
	}
	u, err := a.user(ctx, account)
	if err != nil {
		return in, err
	}
	in.User, in.User.Session, in.User.Address = u, in.Session, try.Address
	return in, a.log(ctx, account, u.Name, what, try.Address)
}

// UserBySession returns whose session it is; ErrSignIn when it was ended, or nobody used it for too long.
func (a *Service) UserBySession(ctx context.Context, session, address string) (state.User, error) {
	account, seen, err := a.Store.Session(ctx, session)
	if errors.Is(err, store.ErrMissing) {
		return state.User{}, ErrSignIn
	}
	if err != nil {
		return state.User{}, err
	}
	now := a.Now().UTC()
	if account.Closed != nil || now.Sub(seen) > idle {
		return state.User{}, errors.Join(ErrSignIn, a.Store.Act(ctx, account.Academy, func(act *store.Act) error { return act.EndSessions(account.ID, session, "") }))
	}
	if now.Sub(seen) > 5*time.Minute {
		if err := a.Store.SeeSession(ctx, session, now); err != nil {
			return state.User{}, err
		}
	}
	u, err := a.user(ctx, account)
	u.Session, u.Address = session, validation.Shorten(address, 64)
	return u, err
}

// SignOut ends the session somebody asks with.
func (a *Service) SignOut(ctx context.Context, u state.User) error {
	return a.act(ctx, u.Academy, func(act *store.Act) error {
		if err := act.EndSessions(u.Account, u.Session, ""); err != nil {
			return err
		}
		return act.Log(a.line(store.Account{ID: u.Account}, u.Name, "Signed out", u.Address))
	})
}

func (a *Service) user(ctx context.Context, account store.Account) (state.User, error) {
	f, err := state.Known[snapshot](ctx, a.State, account.Academy)
	if err != nil {
		return state.User{}, err
	}
	u := state.User{Account: account.ID, Academy: account.Academy, Person: account.Person, Wards: account.Wards}
	for _, r := range account.Roles {
		u.Roles = append(u.Roles, state.Role(r))
	}
	u.WantsFactor = f.Settings.SecondFactor && u.Is(state.Head) && account.Since == nil
	if p, ok := f.Person[account.Person]; ok {
		u.Name = p.Name
	} else { // the desk is a place, not somebody
		u.Name = account.SignIn
		if u.Person == "" {
			u.Person = state.PlacePrefix + account.SignIn
		}
	}
	return u, nil
}

// AcademyName is the name of the user's academy.
func (a *Service) AcademyName(ctx context.Context, u state.User) (string, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return "", err
	}
	return f.Name, nil
}

// AddAccount adds somebody who can sign in, with whatever password: for tests, and for the demo, which
// listens on this machine alone.
func (a *Service) AddAccount(ctx context.Context, academy, signIn, password string, role state.Role, person string) error {
	hash, err := hashPassword(password)
	if err != nil {
		return err
	}
	account := store.Account{ID: store.NewID(), SignIn: strings.ToLower(signIn), Password: hash, Roles: []string{string(role)}, Person: person}
	return a.Store.Act(ctx, academy, func(act *store.Act) error { return act.AddAccount(account, a.Now().UTC()) })
}
