package accounts

import (
	"cmp"
	"context"
	"errors"
	"regexp"
	"strings"
	"time"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
)

// How long an address opens what it is for.
const (
	setupFor  = time.Hour
	inviteFor = 72 * time.Hour
	resetFor  = time.Hour
)

// errLink is an address that opens nothing any more.
func errLink() error {
	return state.Invalid("link", "this address was used before, or is too old: ask for another one")
}

// BeginSetup makes the address of the first page of an installation nobody can sign in to, and gives its secret.
func (a *Service) BeginSetup(ctx context.Context) (string, error) {
	token, now := newToken(), a.Now().UTC()
	return token, a.Store.Act(ctx, "", func(act *store.Act) error {
		return act.AddLink(hashOf(token), store.SetupLink, "", now.Add(setupFor), now)
	})
}

// Opened is what an address is for.
type Opened struct {
	Kind    string `json:"kind" enum:"setup,invite,reset"`
	Academy string `json:"academy,omitempty"`
	Name    string `json:"name,omitempty"`
	SignIn  string `json:"sign_in,omitempty"`
	Least   int    `json:"least" doc:"The least length of a password"`
}

// OpenLink says what an address is for, and uses nothing up.
func (a *Service) OpenLink(ctx context.Context, token string) (Opened, error) {
	kind, id, err := a.Store.Link(ctx, hashOf(token), a.Now().UTC())
	if errors.Is(err, store.ErrMissing) {
		err = errLink()
	}
	if err != nil || id == "" {
		return Opened{Kind: kind, Least: LeastPassword}, err
	}
	account, err := a.Store.AccountByID(ctx, id)
	if err != nil {
		return Opened{}, err
	}
	u, err := a.user(ctx, account)
	if err != nil {
		return Opened{}, err
	}
	name, err := a.AcademyName(ctx, u)
	return Opened{Kind: kind, Academy: name, Name: u.Name, SignIn: account.SignIn, Least: LeastPassword}, err
}

// UseLink sets a password by an invitation, or another one where it was forgotten, and signs in. A second factor is asked for as ever.
func (a *Service) UseLink(ctx context.Context, token string, try Try) (Entered, error) {
	now := a.Now().UTC()
	kind, id, err := a.Store.Link(ctx, hashOf(token), now)
	if errors.Is(err, store.ErrMissing) || err == nil && kind == store.SetupLink {
		return Entered{}, errLink()
	}
	if err != nil {
		return Entered{}, err
	}
	account, err := a.Store.AccountByID(ctx, id)
	if err != nil {
		return Entered{}, err
	}
	if account.Closed != nil {
		return Entered{}, errLink()
	}
	u, err := a.user(ctx, account)
	if err != nil {
		return Entered{}, err
	}
	name, err := a.AcademyName(ctx, u)
	if err != nil {
		return Entered{}, err
	}
	if err := checkPassword(try.Password, account.SignIn, u.Name, name); err != nil {
		return Entered{}, err
	}
	if account.Since != nil {
		if try.Code == "" {
			return Entered{WantsCode: true}, nil
		}
		attempt, err := a.begin(ctx, account.SignIn, try.Address, "", false)
		if err != nil {
			return Entered{}, err
		}
		if ok, err := a.secondFactor(ctx, account, try.Code); err != nil || !ok {
			return Entered{}, errors.Join(ErrCode, err, a.Store.FailSignIn(ctx, attempt, now))
		}
		if err := a.Store.ForgetSignIn(ctx, attempt); err != nil {
			return Entered{}, err
		}
	}
	hash, err := hashPassword(try.Password)
	if err != nil {
		return Entered{}, err
	}
	what := "Accepted the invitation"
	var letter *store.Letter
	if kind == store.ResetLink || account.Password != "" {
		what = "Set another password by letter"
		if letter, err = a.told(ctx, account, u.Name, "Password changed"); err != nil {
			return Entered{}, err
		}
	}
	err = a.act(ctx, account.Academy, func(act *store.Act) error {
		if err := act.UseLink(hashOf(token), now); err != nil {
			return err
		}
		if err := act.SetPassword(account.ID, hash); err != nil {
			return err
		}
		return errors.Join(act.EndSessions(account.ID, "", ""), act.ForgetDevices(account.ID))
	}, letter)
	if errors.Is(err, store.ErrMissing) {
		return Entered{}, errLink()
	}
	if err != nil {
		return Entered{}, err
	}
	try.Device = ""
	return a.enter(ctx, account, try, what)
}

// First is what the first page asks.
type First struct {
	Academy   string `json:"academy" maxLength:"200"`
	Zone      string `json:"zone" maxLength:"64" doc:"A time zone such as Europe/Lisbon"`
	WeekStart int    `json:"week_start" minimum:"1" maximum:"7" doc:"First day of the week, Monday is 1"`
	Name      string `json:"name" maxLength:"200" doc:"The head instructor's"`
	SignIn    string `json:"sign_in" maxLength:"100"`
	Password  string `json:"password" maxLength:"200"`
}

// Setup makes the academy and its head instructor's account, and signs them in. It is done once: the address is used up.
func (a *Service) Setup(ctx context.Context, token string, first First, try Try) (Entered, error) {
	now := a.Now().UTC()
	if kind, _, err := a.Store.Link(ctx, hashOf(token), now); errors.Is(err, store.ErrMissing) || err == nil && kind != store.SetupLink {
		return Entered{}, errLink()
	} else if err != nil {
		return Entered{}, err
	}
	signIn, err := checkSignIn(first.SignIn)
	if err != nil {
		return Entered{}, err
	}
	var found validation.Found
	found.Name("academy", first.Academy, "academy")
	found.Name("name", first.Name, "person")
	if _, err := time.LoadLocation(first.Zone); err != nil || !academy.ZoneName(first.Zone) {
		found.Bad("zone", "%.64q is not a time zone such as Europe/Lisbon", first.Zone)
	}
	if first.WeekStart < 1 || first.WeekStart > 7 {
		found.Bad("week_start", "%d is outside 1 (Monday) to 7", first.WeekStart)
	}
	if err := state.InvalidAll(found); err != nil {
		return Entered{}, err
	}
	if err := checkPassword(first.Password, signIn, first.Name, first.Academy); err != nil {
		return Entered{}, err
	}
	hash, err := hashPassword(first.Password)
	if err != nil {
		return Entered{}, err
	}
	had, err := a.Store.Academies(ctx)
	if err != nil {
		return Entered{}, err
	}
	id := documents.FreeID(library.Identifier(first.Academy), "academy", func(id string) bool {
		for _, h := range had {
			if h == id {
				return true
			}
		}
		return false
	})
	person := documents.FreeID(library.Identifier(first.Name), "head", func(string) bool { return false })
	c := &state.Change{}
	c.Create, c.By, c.At, c.Summary = first.Academy, person, now, say.F("Began %s", first.Academy)
	settings := academy.Settings{Zone: first.Zone, WeekStart: first.WeekStart, Gates: safety.UsualGates()}
	if err := errors.Join(c.Put(documents.Settings, "settings", settings), c.Put(documents.Person, person, academy.Person{ID: person, Name: first.Name, Joined: state.DayIn(now, first.Zone)})); err != nil {
		return Entered{}, err
	}
	account := store.Account{ID: store.NewID(), Academy: id, SignIn: signIn, Password: hash, Roles: []string{string(state.Head), string(state.Coach)}, Person: person}
	c.Also = func(act *store.Act) error {
		if err := act.UseLink(hashOf(token), now); err != nil {
			return err
		}
		return act.AddAccount(account, now)
	}
	switch _, err := a.Store.Commit(ctx, id, 0, c.Batch); {
	case errors.Is(err, store.ErrMissing):
		return Entered{}, errLink()
	case err != nil:
		return Entered{}, err
	}
	return a.enter(ctx, account, try, "Began the academy")
}

var signInName = regexp.MustCompile(`^[\p{L}\p{N}][\p{L}\p{N}._@+-]{1,98}$`)

// checkSignIn reads the name somebody signs in with.
func checkSignIn(name string) (string, error) {
	name = strings.ToLower(strings.TrimSpace(name))
	if !signInName.MatchString(name) {
		return "", state.Invalid("sign_in", "%.100q: give 2 to 99 letters, digits, points, dashes or an e-mail address, without spaces", name)
	}
	return name, nil
}

// Forgotten sends a letter by which another password can be set, if there is an account of that name with an address. What it
// answers, and when, is the same whether or not there is one.
func (a *Service) Forgotten(ctx context.Context, name, address string) error {
	name = strings.ToLower(strings.TrimSpace(validation.Shorten(name, 100)))
	if !validation.Readable(name) {
		return nil
	}
	now := a.Now().UTC()
	// Asking counts as a try: whoever asks a hundred times waits, and the desk's letter box does not fill.
	attempt, err := a.Store.BeginSignIn(ctx, "forgotten:"+name, validation.Shorten(address, 64), "", now, now.Add(-failWindow))
	if err != nil {
		return err
	}
	if attempt.OfName.Count > 5 || attempt.OfAddress.Count > freeOfAddress {
		return nil
	}
	account, err := a.Store.AccountBySignIn(ctx, name)
	if errors.Is(err, store.ErrMissing) || err == nil && (account.Closed != nil || account.Password == "") {
		return nil
	}
	if err != nil {
		return err
	}
	to, err := a.reach(ctx, account)
	if err != nil || to.address == "" {
		return err
	}
	token := newToken()
	letter := a.letter(account, to, "Another password", say.F("Somebody, probably you, asked for another password for %q.\n\nSet it here, within an hour:\n%s\n\nIf it was not you, nothing needs to be done: the old password stays.\n", account.SignIn, a.address(token)))
	return a.act(ctx, account.Academy, func(act *store.Act) error {
		if err := act.AddLink(hashOf(token), store.ResetLink, account.ID, now.Add(resetFor), now); err != nil {
			return err
		}
		return act.Log(a.line(account, name, "Requested another password", address))
	}, letter)
}

// addressee is where letters to an account go, and the language its person would rather read.
type addressee struct {
	address string // empty when there is none
	in      say.Language
}

// reach finds where letters to an account go: its own address, else the person's.
func (a *Service) reach(ctx context.Context, account store.Account) (addressee, error) {
	f, err := state.Known[snapshot](ctx, a.State, account.Academy)
	if err != nil {
		return addressee{}, err
	}
	p := f.Person[account.Person]
	return addressee{cmp.Or(account.Email, p.Email), say.Asked(p.Language)}, nil
}

// told is the letter that tells an account's owner what was changed of what opens it; nil where there is no address: whoever did
// not do it themselves hears of it at once.
func (a *Service) told(ctx context.Context, account store.Account, who string, what say.Sentence) (*store.Letter, error) {
	to, err := a.reach(ctx, account)
	if err != nil || to.address == "" {
		return nil, err
	}
	return a.letter(account, to, what, say.F("For the account %q: %s, by %s.\n\nIf that was you, nothing needs to be done. If it was not, ask for another password at\n%s\nand tell your head instructor.\n",
		account.SignIn, what.Lower(), who, a.URL)), nil
}

// address is what opens a link: the secret stands behind a #, so that no server writes it into its log.
func (a *Service) address(token string) string { return a.URL + "/link#" + token }

func (a *Service) letter(account store.Account, to addressee, subject, text say.Sentence) *store.Letter {
	return &store.Letter{ID: store.NewID(), Academy: account.Academy, To: to.address, Subject: validation.Shorten(subject.In(to.in), 250), Body: text.In(to.in), Made: a.Now().UTC()}
}
