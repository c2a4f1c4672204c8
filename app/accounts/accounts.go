package accounts

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"runtime"
	"strconv"
	"strings"
	"time"

	"golang.org/x/crypto/argon2"

	"vereda/app/state"
	"vereda/core/validation"
	"vereda/store"
)

// Limits of failed sign-ins: a name may fail five times, an address thirty
// times, in a quarter of an hour.
const (
	failWindow     = 15 * time.Minute
	failsPerName   = 5
	failsPerSource = 30
)

// ErrSignIn is a wrong name or password; which of the two is not said.
var ErrSignIn = errors.New("this name and password do not go together")

// TooMany says to wait.
type TooMany struct{ Wait time.Duration }

func (t *TooMany) Error() string {
	return fmt.Sprintf("too many attempts: wait %d minutes and try again", int(t.Wait.Minutes()))
}

// hashing bounds how many passwords are hashed at once: each takes 32 MiB.
var hashing = make(chan struct{}, 2*runtime.NumCPU())

// SignIn returns the account for a name and password. A try is counted before
// the password is looked at, so that guessing in parallel passes no limit.
func (a *Service) SignIn(ctx context.Context, name, password, address string) (state.User, error) {
	name = validation.Shorten(strings.ToLower(strings.TrimSpace(name)), 100)
	address = validation.Shorten(address, 64)
	if !validation.Readable(name) {
		return state.User{}, ErrSignIn
	}
	now := a.Now().UTC()
	attempt, err := a.Store.BeginSignIn(ctx, name, address, now, now.Add(-failWindow))
	if err != nil {
		return state.User{}, err
	}
	if attempt.ForName > failsPerName || attempt.ForAddress > failsPerSource {
		return state.User{}, errors.Join(&state.RateLimitError{Wait: failWindow}, a.Store.ForgetSignIn(ctx, attempt))
	}
	account, err := a.Store.AccountBySignIn(ctx, name)
	if err != nil && !errors.Is(err, store.ErrMissing) {
		return state.User{}, err
	}
	hash := account.Password
	if err != nil {
		hash = nobodysHash // takes as long as for somebody
	}
	select {
	case hashing <- struct{}{}:
	case <-ctx.Done():
		return state.User{}, ctx.Err()
	}
	same := samePassword(hash, password)
	<-hashing
	if err != nil || !same {
		return state.User{}, errors.Join(ErrSignIn, a.Store.FailSignIn(ctx, attempt, now))
	}
	if err := a.Store.ForgetSignIn(ctx, attempt); err != nil {
		return state.User{}, err
	}
	return a.user(ctx, account)
}

// UserByAccount returns who an account is; for a session that goes on.
func (a *Service) UserByAccount(ctx context.Context, id string) (state.User, error) {
	account, err := a.Store.AccountByID(ctx, id)
	if err != nil {
		return state.User{}, err
	}
	return a.user(ctx, account)
}

func (a *Service) user(ctx context.Context, account store.Account) (state.User, error) {
	f, err := state.Known[snapshot](ctx, a.State, account.Academy)
	if err != nil {
		return state.User{}, err
	}
	u := state.User{Account: account.ID, Academy: account.Academy, Role: state.Role(account.Role), Person: account.Person}
	if p, ok := f.Person[account.Person]; ok {
		u.Name = p.Name
	} else if account.Role != "" { // the desk is a place, not somebody
		u.Name = strings.ToUpper(account.Role[:1]) + account.Role[1:]
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

// AddAccount adds somebody who can sign in.
func (a *Service) AddAccount(ctx context.Context, academy, signIn, password string, role state.Role, person string) error {
	hash, err := hashPassword(password)
	if err != nil {
		return err
	}
	return a.Store.AddAccount(ctx, store.Account{ID: store.NewID(), Academy: academy, SignIn: strings.ToLower(signIn), Password: hash, Role: string(role), Person: person}, a.Now().UTC())
}

// argon2id with the first recommended option of RFC 9106 scaled to a small
// server: one pass less memory, more passes.
const (
	argonTime    = 3
	argonMemory  = 32 * 1024 // KiB
	argonThreads = 1
)

var nobodysHash = func() string { h, _ := hashPassword("nobody"); return h }()

func hashPassword(password string) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, 32)
	b64 := base64.RawStdEncoding
	return fmt.Sprintf("argon2id$%d$%d$%d$%s$%s", argonTime, argonMemory, argonThreads, b64.EncodeToString(salt), b64.EncodeToString(key)), nil
}

func samePassword(hash, password string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[0] != "argon2id" {
		return false
	}
	t, errT := strconv.ParseUint(parts[1], 10, 32)
	m, errM := strconv.ParseUint(parts[2], 10, 32)
	p, errP := strconv.ParseUint(parts[3], 10, 8)
	salt, errS := base64.RawStdEncoding.DecodeString(parts[4])
	want, errW := base64.RawStdEncoding.DecodeString(parts[5])
	if errors.Join(errT, errM, errP, errS, errW) != nil {
		return false
	}
	got := argon2.IDKey([]byte(password), salt, uint32(t), uint32(m), uint8(p), uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
}
