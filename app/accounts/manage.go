package accounts

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/say"
	"vereda/store"
)

// AccountLine is one account as the head instructor sees it.
type AccountLine struct {
	ID     string        `json:"id"`
	SignIn string        `json:"sign_in"`
	Person string        `json:"person,omitempty"`
	Name   string        `json:"name"`
	Roles  []state.Role  `json:"roles"`
	Email  string        `json:"email,omitempty"`
	Wards  []state.Named `json:"wards" doc:"Whose pages a guardian sees"`
	State  string        `json:"state" enum:"open,invited,closed"`
	Factor bool          `json:"factor" doc:"A second factor is asked for"`
	Seen   *time.Time    `json:"seen,omitempty" doc:"When somebody last signed in with it"`
}

// RoleLine is a role with what it means.
type RoleLine struct {
	Role  state.Role   `json:"role"`
	Means say.Sentence `json:"means"`
}

// RoleLines are the roles there are, the one with the most to say first.
func (a *Service) RoleLines() []RoleLine {
	all := []RoleLine{}
	for _, r := range state.Roles {
		all = append(all, RoleLine{r, state.RoleMeans[r]})
	}
	return all
}

// Accounts lists the academy's accounts.
func (a *Service) Accounts(ctx context.Context, u state.User) ([]AccountLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	accounts, seen, err := a.Store.Accounts(ctx, u.Academy)
	all := []AccountLine{}
	for _, x := range accounts {
		all = append(all, f.line(x, seen))
	}
	return all, err
}

func (f *snapshot) line(x store.Account, seen map[string]time.Time) AccountLine {
	l := AccountLine{ID: x.ID, SignIn: x.SignIn, Person: x.Person, Name: x.SignIn, Email: x.Email, State: "open", Factor: x.Since != nil, Wards: []state.Named{}}
	if p, ok := f.Person[x.Person]; ok {
		l.Name = p.Name
	}
	for _, r := range x.Roles {
		l.Roles = append(l.Roles, state.Role(r))
	}
	for _, w := range x.Wards {
		l.Wards = append(l.Wards, state.Named{ID: w, Name: f.NameOf(w)})
	}
	switch {
	case x.Closed != nil:
		l.State = "closed"
	case x.Password == "":
		l.State = "invited"
	}
	if at, ok := seen[x.ID]; ok {
		l.Seen = &at
	}
	return l
}

// Wish is what an account should be.
type Wish struct {
	SignIn string       `json:"sign_in" maxLength:"100"`
	Person string       `json:"person,omitempty" maxLength:"100" doc:"Whose it is; nobody's for a place such as the desk"`
	Email  string       `json:"email,omitempty" maxLength:"200"`
	Roles  []state.Role `json:"roles" maxItems:"10"`
	Wards  []string     `json:"wards,omitempty" maxItems:"20"`
}

// Invited is an account that waits for its first password.
type Invited struct {
	ID      string    `json:"id"`
	Address string    `json:"address" doc:"Opens it once; shown this once, to be handed over where no letter goes"`
	To      string    `json:"to,omitempty" doc:"Where the letter goes"`
	Until   time.Time `json:"until"`
}

func (f *snapshot) check(w Wish) (signIn string, all []string, err error) {
	if signIn, err = checkSignIn(w.SignIn); err != nil {
		return "", nil, err
	}
	if all, err = roles(w.Roles); err != nil {
		return "", nil, err
	}
	if p, ok := f.Person[w.Person]; w.Person != "" && (!ok || p.Archived != nil) {
		return "", nil, state.Invalid("person", "%.64q is nobody here", w.Person)
	}
	if w.Person == "" && (slices.Contains(w.Roles, state.Student) || slices.Contains(w.Roles, state.Coach)) {
		return "", nil, state.Invalid("person", "a student's or a coach's account belongs to somebody: choose who")
	}
	if w.Email != "" && !academy.Address(w.Email) {
		return "", nil, state.Invalid("email", "%.80q is not one address such as name@example.net", w.Email)
	}
	if slices.Contains(w.Roles, state.Guardian) && len(w.Wards) == 0 {
		return "", nil, state.Invalid("wards", "a guardian sees their child's page: choose whose")
	}
	for _, ward := range w.Wards {
		if _, ok := f.Person[ward]; !ok {
			return "", nil, state.Invalid("wards", "%.64q is nobody here", ward)
		}
	}
	return signIn, all, nil
}

// Invite makes an account and the address by which its first password is set, and sends it where there is an e-mail address.
func (a *Service) Invite(ctx context.Context, u state.User, w Wish) (Invited, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return Invited{}, err
	}
	signIn, all, err := f.check(w)
	if err != nil {
		return Invited{}, err
	}
	account := store.Account{ID: store.NewID(), Academy: u.Academy, SignIn: signIn, Roles: all, Person: w.Person, Wards: w.Wards, Email: strings.TrimSpace(w.Email)}
	in, err := a.invite(ctx, u, account, func(act *store.Act) error { return act.AddAccount(account, a.Now().UTC()) })
	if errors.Is(err, store.ErrTaken) {
		return Invited{}, state.Invalid("sign_in", "%q is taken: choose another name", signIn)
	}
	return in, err
}

// InviteAgain makes another address for an account: the one before it opens nothing any more.
func (a *Service) InviteAgain(ctx context.Context, u state.User, id string) (Invited, error) {
	account, err := a.find(ctx, u, id)
	if err != nil {
		return Invited{}, err
	}
	if account.Closed != nil {
		return Invited{}, state.Invalid("id", "%s is closed: open it first", account.SignIn)
	}
	return a.invite(ctx, u, account, func(*store.Act) error { return nil })
}

// invite makes the address that opens an account, and whatever first does before.
func (a *Service) invite(ctx context.Context, u state.User, account store.Account, first func(*store.Act) error) (Invited, error) {
	token, now := newToken(), a.Now().UTC()
	in := Invited{ID: account.ID, Address: a.address(token), Until: now.Add(inviteFor)}
	to, err := a.reach(ctx, account)
	if err != nil {
		return in, err
	}
	var letter *store.Letter
	if in.To = to.address; in.To != "" {
		name, err := a.AcademyName(ctx, u)
		if err != nil {
			return in, err
		}
		letter = a.letter(account, to, say.F("An account at %s", name), say.F("%s invites you to Vereda at %s. You sign in as %q.\n\nSet your password here, within three days:\n%s\n", u.Name, name, account.SignIn, in.Address))
	}
	return in, a.act(ctx, account.Academy, func(act *store.Act) error {
		if err := first(act); err != nil {
			return err
		}
		if err := act.AddLink(hashOf(token), store.InviteLink, account.ID, in.Until, now); err != nil {
			return err
		}
		return act.Log(a.line(account, u.Name, "Invited "+account.SignIn+" as "+strings.Join(account.Roles, ", "), u.Address))
	}, letter)
}

// Change keeps what an account may do and whose it is; closed is whether it is shut. Where letters to it go elsewhere from now on, who
// had them until now is told: whoever reads the new address can set another password.
func (a *Service) Change(ctx context.Context, u state.User, id string, w Wish, closed bool) error {
	account, err := a.find(ctx, u, id)
	if err != nil {
		return err
	}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	w.SignIn = account.SignIn
	_, all, err := f.check(w)
	if err != nil {
		return err
	}
	was := account
	what := "Changed the account " + account.SignIn + ": " + strings.Join(all, ", ")
	account.Roles, account.Person, account.Wards, account.Email = all, w.Person, w.Wards, strings.TrimSpace(w.Email)
	switch now := a.Now().UTC(); {
	case closed && account.Closed == nil:
		account.Closed, what = &now, "Closed the account "+account.SignIn
	case !closed && account.Closed != nil:
		account.Closed, what = nil, "Opened the account "+account.SignIn+" again"
	}
	letter, err := a.movedAway(ctx, u, was, account)
	if err != nil {
		return err
	}
	err = a.act(ctx, u.Academy, func(act *store.Act) error {
		if err := act.ChangeAccount(account, string(state.Head)); err != nil {
			return err
		}
		if closed {
			if err := act.EndSessions(account.ID, "", ""); err != nil {
				return err
			}
		}
		return act.Log(a.line(account, u.Name, what, u.Address))
	}, letter)
	if errors.Is(err, store.ErrLastHead) {
		return state.Invalid("roles", "nobody else can sign in as head instructor: make somebody one first")
	}
	return err
}

// movedAway is the letter to where letters to an account went before it was changed; nil where they still go there.
func (a *Service) movedAway(ctx context.Context, u state.User, was, is store.Account) (*store.Letter, error) {
	before, err := a.reach(ctx, was)
	if err != nil || before.address == "" {
		return nil, err
	}
	after, err := a.reach(ctx, is)
	if err != nil || strings.EqualFold(before.address, after.address) {
		return nil, err
	}
	return a.letter(was, before, "Letters go to another address", say.F("Letters for the account %q, invitations and new passwords among them, go to another address from now on. It was changed by %s.\n\nIf you know of it, nothing needs to be done. If you do not, sign in at\n%s\nchange your password, and tell your head instructor.\n", was.SignIn, u.Name, a.URL)), nil
}

// SignOutEverywhere ends every session of an account.
func (a *Service) SignOutEverywhere(ctx context.Context, u state.User, id string) error {
	account, err := a.find(ctx, u, id)
	if err != nil {
		return err
	}
	return a.act(ctx, u.Academy, func(act *store.Act) error {
		if err := act.EndSessions(account.ID, "", ""); err != nil {
			return err
		}
		return act.Log(a.line(account, u.Name, "Signed "+account.SignIn+" out everywhere", u.Address))
	})
}

// ResetSecondFactor removes somebody's second factor, who lost their phone and their recovery codes.
func (a *Service) ResetSecondFactor(ctx context.Context, u state.User, id string) error {
	account, err := a.find(ctx, u, id)
	if err != nil {
		return err
	}
	return a.setFactor(ctx, u, account, "", nil, nil, say.F("Removed the second factor of %s", account.SignIn))
}

func (a *Service) find(ctx context.Context, u state.User, id string) (store.Account, error) {
	account, err := a.Store.AccountByID(ctx, id)
	if errors.Is(err, store.ErrMissing) || err == nil && account.Academy != u.Academy {
		return account, state.NotFound("account", id)
	}
	return account, err
}

// AccessLine is one line of the log.
type AccessLine struct {
	At      time.Time `json:"at"`
	Who     string    `json:"who"`
	What    string    `json:"what"`
	Address string    `json:"address"`
}

// Log lists what opened or closed a door, or looked at what is private, newest first.
func (a *Service) Log(ctx context.Context, u state.User) ([]AccessLine, error) {
	lines, err := a.Store.AccessLog(ctx, u.Academy, 500)
	all := []AccessLine{}
	for _, l := range lines {
		all = append(all, AccessLine{l.At, l.Who, l.What, l.Address})
	}
	return all, err
}
