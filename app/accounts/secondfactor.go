package accounts

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/base32"
	"encoding/base64"
	"image/png"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"

	"vereda/app/state"
	"vereda/core/say"
	"vereda/store"
)

// codes are of RFC 6238 as every authenticator knows them: six digits, thirty seconds, SHA-1.
const period = 30

// secondFactor says whether a code is right: of the authenticator, now or half a minute to either side, or a recovery
// code. Each counts once.
func (a *Service) secondFactor(ctx context.Context, account store.Account, code string) (bool, error) {
	code = strings.ToLower(strings.Join(strings.FieldsFunc(code, func(r rune) bool { return r == ' ' || r == '-' }), ""))
	now := a.Now().UTC()
	for _, at := range []time.Time{now, now.Add(-period * time.Second), now.Add(period * time.Second)} {
		ok, err := totp.ValidateCustom(code, account.Secret, at, totp.ValidateOpts{Period: period, Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1})
		if err == nil && ok {
			return a.Store.UseStep(ctx, account.ID, at.Unix()/period)
		}
	}
	return a.Store.UseRecovery(ctx, account.ID, hashOf(account.ID+code))
}

// NewFactor is a second factor that waits to be confirmed.
type NewFactor struct {
	Secret  string `json:"secret" doc:"To be typed where no picture can be read"`
	Picture string `json:"picture" doc:"The same as a picture to read with a phone: a PNG, as a data address"`
}

// BeginSecondFactor makes the secret of a second factor. It is asked for once it was confirmed with a code.
func (a *Service) BeginSecondFactor(ctx context.Context, u state.User, password string) (NewFactor, error) {
	account, err := a.own(ctx, u, "password", password)
	if err != nil {
		return NewFactor{}, err
	}
	if account.Since != nil {
		return NewFactor{}, state.Invalid("code", "there is a second factor already: remove it first")
	}
	name, err := a.AcademyName(ctx, u)
	if err != nil {
		return NewFactor{}, err
	}
	key, err := totp.Generate(totp.GenerateOpts{Issuer: "Vereda, " + name, AccountName: account.SignIn, Period: period})
	if err != nil {
		return NewFactor{}, err
	}
	picture, err := key.Image(220, 220)
	if err != nil {
		return NewFactor{}, err
	}
	var b bytes.Buffer
	if err := png.Encode(&b, picture); err != nil {
		return NewFactor{}, err
	}
	err = a.act(ctx, account.Academy, func(act *store.Act) error { return act.SetSecondFactor(account.ID, key.Secret(), nil, nil) })
	if err != nil {
		return NewFactor{}, err
	}
	return NewFactor{key.Secret(), "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())}, nil
}

// recoveryCodes is how many there are: each opens the account once, where the phone is lost.
const recoveryCodes = 10

// ConfirmSecondFactor begins to ask for the second factor, and gives the recovery codes, which are not shown again.
func (a *Service) ConfirmSecondFactor(ctx context.Context, u state.User, code string) ([]string, error) {
	account, err := a.Store.AccountByID(ctx, u.Account)
	if err != nil {
		return nil, err
	}
	if account.Secret == "" || account.Since != nil {
		return nil, state.Invalid("code", "there is nothing to confirm: begin again")
	}
	if ok, err := a.secondFactor(ctx, account, code); err != nil || !ok {
		if err == nil {
			err = state.Invalid("code", "this code is not the one the picture gives now: look whether the phone's clock is right")
		}
		return nil, err
	}
	codes, hashes := make([]string, recoveryCodes), make([]string, recoveryCodes)
	for i := range codes {
		raw := make([]byte, 10)
		_, _ = rand.Read(raw)
		c := strings.ToLower(base32.StdEncoding.EncodeToString(raw))
		codes[i], hashes[i] = c[:8]+"-"+c[8:], hashOf(account.ID+c)
	}
	now := a.Now().UTC()
	return codes, a.setFactor(ctx, u, account, account.Secret, &now, hashes, "Second factor begun")
}

// RemoveSecondFactor asks for no second factor any more.
func (a *Service) RemoveSecondFactor(ctx context.Context, u state.User, password string) error {
	account, err := a.own(ctx, u, "password", password)
	if err != nil {
		return err
	}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	if f.Settings.SecondFactor && u.Is(state.Head) {
		return state.Forbidden("The academy wants a second factor of its head instructors.")
	}
	return a.setFactor(ctx, u, account, "", nil, nil, "Second factor removed")
}

// setFactor keeps a second factor or none, and tells the account's owner.
func (a *Service) setFactor(ctx context.Context, u state.User, account store.Account, secret string, since *time.Time, recovery []string, what say.Sentence) error {
	letter, err := a.told(ctx, account, u.Name, what)
	if err != nil {
		return err
	}
	return a.act(ctx, account.Academy, func(act *store.Act) error {
		if err := act.SetSecondFactor(account.ID, secret, since, recovery); err != nil {
			return err
		}
		return act.Log(a.line(account, u.Name, what.In(say.English), u.Address))
	}, letter)
}

// own is the account of who asks, once they gave its password; field is where they wrote it.
func (a *Service) own(ctx context.Context, u state.User, field, password string) (store.Account, error) {
	account, err := a.Store.AccountByID(ctx, u.Account)
	if err != nil {
		return account, err
	}
	attempt, err := a.begin(ctx, account.SignIn, u.Address, hashOf(u.Session), true)
	if err != nil {
		return account, err
	}
	if !samePassword(account.Password, password) {
		return account, a.failed(ctx, attempt, field)
	}
	return account, a.Store.ForgetSignIn(ctx, attempt)
}

func (a *Service) failed(ctx context.Context, attempt store.Attempt, field string) error {
	if err := a.Store.FailSignIn(ctx, attempt, a.Now().UTC()); err != nil {
		return err
	}
	return state.Invalid(field, "this is not your password now")
}
