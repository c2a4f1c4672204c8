package store

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"time"
)

// Account is somebody who can sign in. It belongs to one academy.
type Account struct {
	ID       string
	Academy  string
	SignIn   string
	Password string // an argon2id hash; empty until an invitation is taken up
	Roles    []string
	Person   string   // empty for a place such as the desk
	Wards    []string // whose pages a guardian sees
	Email    string
	Created  time.Time
	Closed   *time.Time // since when it cannot be used
	Secret   string     // of the second factor; empty without one
	Since    *time.Time // when the second factor was confirmed; it is not asked for before
	Step     int64      // the last code of the second factor that was used
}

// ErrTaken says that somebody signs in with that name already.
var ErrTaken = errors.New("this name is taken")

const accountColumns = `a.id, a.academy, a.sign_in, a.password, a.roles, a.person, a.wards, a.email, a.created_at, a.closed_at, a.totp_secret, a.totp_since, a.totp_step`

func scanAccount(scan func(...any) error, more ...any) (Account, error) {
	var a Account
	var roles, wards string
	err := scan(append([]any{&a.ID, &a.Academy, &a.SignIn, &a.Password, &roles, &a.Person, &wards, &a.Email, &a.Created, &a.Closed, &a.Secret, &a.Since, &a.Step}, more...)...)
	if errors.Is(err, sql.ErrNoRows) {
		return a, ErrMissing
	}
	a.Roles, a.Wards = parts(roles), parts(wards)
	return a, err
}

func parts(list string) []string {
	if list == "" {
		return nil
	}
	return strings.Split(list, ",")
}

// AccountBySignIn finds an account by the name it signs in with, or ErrMissing.
func (s *Store) AccountBySignIn(ctx context.Context, signIn string) (Account, error) {
	return scanAccount(s.DB.QueryRowContext(ctx, `SELECT `+accountColumns+` FROM account a WHERE a.sign_in = ?`, signIn).Scan)
}

// AccountByID finds an account, or ErrMissing.
func (s *Store) AccountByID(ctx context.Context, id string) (Account, error) {
	return scanAccount(s.DB.QueryRowContext(ctx, `SELECT `+accountColumns+` FROM account a WHERE a.id = ?`, id).Scan)
}

// Accounts lists the accounts of one academy, or of all of them, by name, each with when somebody was last signed in with it.
func (s *Store) Accounts(ctx context.Context, academy string) (all []Account, seen map[string]time.Time, err error) {
	seen = map[string]time.Time{}
	err = s.query(ctx, `SELECT `+accountColumns+`, (SELECT MAX(d.seen_at) FROM known_device d WHERE d.account = a.id) FROM account a WHERE ? IN ('', a.academy) ORDER BY a.sign_in`, []any{academy}, func(rows *sql.Rows) error {
		var last sql.NullTime
		a, err := scanAccount(rows.Scan, &last)
		if last.Valid {
			seen[a.ID] = last.Time
		}
		all = append(all, a)
		return err
	})
	return all, seen, err
}

// AnyAccount says whether anybody can sign in at all.
func (s *Store) AnyAccount(ctx context.Context) (bool, error) {
	n := 0
	err := s.DB.QueryRowContext(ctx, `SELECT COUNT(*) FROM (SELECT 1 FROM account LIMIT 1) x`).Scan(&n)
	return n > 0, err
}

// Attempt is a try to sign in that is counted before the password is looked at.
type Attempt struct {
	ID string
	// The tries that failed or are under way, this one among them, and when the last one before it was: from this device for
	// this name, from unknown devices for this name, and from unknown devices at this address.
	OfDevice, OfName, OfAddress Tries
}

// Tries are how many there were, and when the last one before the one that asks was.
type Tries struct {
	Count int
	Last  time.Time
}

// clocksDiffer is how far the clocks of two servers may be apart.
const clocksDiffer = time.Minute

// BeginSignIn counts a try to sign in, and says how many there were since a time. device is empty for one that is not
// known. Tries of a time to come are none: the clock was set back since. The try is written first and counted then, so of several at once no two see the same number of tries before them.
func (s *Store) BeginSignIn(ctx context.Context, signIn, address, device string, at, since time.Time) (Attempt, error) {
	a := Attempt{ID: NewID()}
	if _, err := s.exec(ctx, `INSERT INTO sign_in_failure (id, sign_in, address, device, at, settled) VALUES (?,?,?,?,?,FALSE)`, a.ID, signIn, address, device, at); err != nil {
		return a, err
	}
	for _, x := range []struct {
		to    *Tries
		where string
		args  []any
	}{
		{&a.OfDevice, `sign_in = ? AND device = ? AND address = ?`, []any{signIn, device, address}},
		{&a.OfName, `sign_in = ? AND device = ''`, []any{signIn}},
		{&a.OfAddress, `address = ? AND device = ''`, []any{address}},
	} {
		var last sql.NullTime
		if err := s.DB.QueryRowContext(ctx, `SELECT COUNT(*), MAX(IF(id = ?, NULL, at)) FROM sign_in_failure WHERE at >= ? AND at <= ? AND `+x.where, append([]any{a.ID, since, at.Add(clocksDiffer)}, x.args...)...).Scan(&x.to.Count, &last); err != nil {
			return a, err
		}
		x.to.Last = last.Time
	}
	return a, nil
}

// ForgetSignIn takes a try back that succeeded, or was refused before the
// password was looked at.
func (s *Store) ForgetSignIn(ctx context.Context, a Attempt) error {
	_, err := s.exec(ctx, `DELETE FROM sign_in_failure WHERE id = ?`, a.ID)
	return err
}

// FailSignIn says that a try failed, and forgets those older than a day.
func (s *Store) FailSignIn(ctx context.Context, a Attempt, at time.Time) error {
	if _, err := s.exec(ctx, `UPDATE sign_in_failure SET settled = TRUE WHERE id = ?`, a.ID); err != nil {
		return err
	}
	_, err := s.exec(ctx, `DELETE FROM sign_in_failure WHERE at < ? LIMIT 1000`, at.Add(-24*time.Hour))
	return err
}

// KnowsDevice says whether somebody signed in with this browser before.
func (s *Store) KnowsDevice(ctx context.Context, signIn, hash string) (bool, error) {
	n := 0
	err := s.DB.QueryRowContext(ctx, `SELECT COUNT(*) FROM known_device d JOIN account a ON a.id = d.account WHERE a.sign_in = ? AND d.hash = ?`, signIn, hash).Scan(&n)
	return n > 0, err
}

// KeepDevice remembers a browser somebody signed in with.
func (s *Store) KeepDevice(ctx context.Context, account, hash string, at time.Time) error {
	_, err := s.exec(ctx, `INSERT INTO known_device (account, hash, seen_at) VALUES (?,?,?) ON DUPLICATE KEY UPDATE seen_at = VALUES(seen_at)`, account, hash, at)
	return err
}

// SignedIn is one place somebody is signed in at.
type SignedIn struct {
	ID             string
	Begun, Seen    time.Time
	Address, Agent string
}

// BeginSession keeps that somebody signed in.
func (s *Store) BeginSession(ctx context.Context, account string, x SignedIn) error {
	_, err := s.exec(ctx, `INSERT INTO signed_in (id, account, begun_at, seen_at, address, agent) VALUES (?,?,?,?,?,?)`, x.ID, account, x.Begun, x.Begun, x.Address, x.Agent)
	return err
}

// Session finds whose session it is, and when it was last seen; ErrMissing when it was ended.
func (s *Store) Session(ctx context.Context, id string) (Account, time.Time, error) {
	var seen time.Time
	a, err := scanAccount(s.DB.QueryRowContext(ctx, `SELECT `+accountColumns+`, x.seen_at FROM signed_in x JOIN account a ON a.id = x.account WHERE x.id = ?`, id).Scan, &seen)
	return a, seen, err
}

// SeeSession keeps that a session was used.
func (s *Store) SeeSession(ctx context.Context, id string, at time.Time) error {
	_, err := s.exec(ctx, `UPDATE signed_in SET seen_at = ? WHERE id = ?`, at, id)
	return err
}

// Sessions lists where an account is signed in, the last used first, and forgets those nobody used since a time.
func (s *Store) Sessions(ctx context.Context, account string, since time.Time) ([]SignedIn, error) {
	if _, err := s.exec(ctx, `DELETE FROM signed_in WHERE account = ? AND seen_at < ?`, account, since); err != nil {
		return nil, err
	}
	all := []SignedIn{}
	err := s.query(ctx, `SELECT id, begun_at, seen_at, address, agent FROM signed_in WHERE account = ? ORDER BY seen_at DESC, id`, []any{account}, func(rows *sql.Rows) error {
		var x SignedIn
		err := rows.Scan(&x.ID, &x.Begun, &x.Seen, &x.Address, &x.Agent)
		all = append(all, x)
		return err
	})
	return all, err
}

// Kinds of links.
const (
	SetupLink  = "setup"  // the first page of an installation nobody can sign in to
	InviteLink = "invite" // the first password
	ResetLink  = "reset"  // another password
)

// Link finds what a link opens: its kind, and of which account; ErrMissing when it was used or is too old.
func (s *Store) Link(ctx context.Context, hash string, now time.Time) (kind, account string, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT kind, COALESCE(account, '') FROM account_link WHERE hash = ? AND expires_at >= ?`, hash, now).Scan(&kind, &account)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrMissing
	}
	return kind, account, err
}

// UseStep uses up a code of the second factor: none counts twice, nor an older one after it.
func (s *Store) UseStep(ctx context.Context, account string, step int64) (bool, error) {
	done, err := s.exec(ctx, `UPDATE account SET totp_step = ? WHERE id = ? AND totp_step < ?`, step, account, step)
	if err != nil {
		return false, err
	}
	n, err := done.RowsAffected()
	return n > 0, err
}

// UseRecovery uses a recovery code up, and says whether there was one.
func (s *Store) UseRecovery(ctx context.Context, account, hash string) (bool, error) {
	done, err := s.exec(ctx, `DELETE FROM recovery_code WHERE account = ? AND hash = ?`, account, hash)
	if err != nil {
		return false, err
	}
	n, err := done.RowsAffected()
	return n > 0, err
}

// RecoveryLeft is how many recovery codes an account has left.
func (s *Store) RecoveryLeft(ctx context.Context, account string) (n int, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT COUNT(*) FROM recovery_code WHERE account = ?`, account).Scan(&n)
	return n, err
}

// Access is a line of the log of what opened or closed a door, or looked at what is private.
type Access struct {
	At            time.Time
	Account, Who  string
	What, Address string
}

// LogAccessOnce adds a line unless the same was logged within a time.
func (s *Store) LogAccessOnce(ctx context.Context, academy string, x Access, within time.Duration) error {
	n := 0
	err := s.DB.QueryRowContext(ctx, `SELECT COUNT(*) FROM access_log WHERE academy = ? AND at > ? AND account = ? AND what = ?`, academy, x.At.Add(-within), x.Account, x.What).Scan(&n)
	if err != nil || n > 0 {
		return err
	}
	return s.LogAccess(ctx, academy, x)
}

// AccessLog lists an academy's lines, newest first.
func (s *Store) AccessLog(ctx context.Context, academy string, limit int) ([]Access, error) {
	all := []Access{}
	err := s.query(ctx, `SELECT at, account, who, what, address FROM access_log WHERE academy = ? ORDER BY at DESC, id LIMIT ?`, []any{academy, limit}, func(rows *sql.Rows) error {
		var x Access
		err := rows.Scan(&x.At, &x.Account, &x.Who, &x.What, &x.Address)
		all = append(all, x)
		return err
	})
	return all, err
}
