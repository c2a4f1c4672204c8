package store

import (
	"context"
	"database/sql"
	"errors"
	"time"
)

// Account is somebody who can sign in. It belongs to one academy.
type Account struct {
	ID       string
	Academy  string
	SignIn   string
	Password string // an argon2id hash
	Role     string
	Person   string
}

// AddAccount keeps a new account.
func (s *Store) AddAccount(ctx context.Context, a Account, at time.Time) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO account (id, academy, sign_in, password, role, person, created_at) VALUES (?,?,?,?,?,?,?)`,
		a.ID, a.Academy, a.SignIn, a.Password, a.Role, a.Person, at)
	return err
}

// AccountBySignIn finds an account by the name it signs in with, or ErrMissing.
func (s *Store) AccountBySignIn(ctx context.Context, signIn string) (Account, error) {
	return s.account(ctx, `SELECT id, academy, sign_in, password, role, person FROM account WHERE sign_in = ?`, signIn)
}

// AccountByID finds an account, or ErrMissing.
func (s *Store) AccountByID(ctx context.Context, id string) (Account, error) {
	return s.account(ctx, `SELECT id, academy, sign_in, password, role, person FROM account WHERE id = ?`, id)
}

func (s *Store) account(ctx context.Context, query, arg string) (Account, error) {
	var a Account
	err := s.DB.QueryRowContext(ctx, query, arg).Scan(&a.ID, &a.Academy, &a.SignIn, &a.Password, &a.Role, &a.Person)
	if errors.Is(err, sql.ErrNoRows) {
		return a, ErrMissing
	}
	return a, err
}

// Attempt is a try to sign in that is counted before the password is looked at.
type Attempt struct {
	ID string
	// ForName and ForAddress count the tries that failed or are under way, this one among them.
	ForName, ForAddress int
}

// BeginSignIn counts a try to sign in, and says how many there were since a
// time for the name and for the address. The try is written first and counted then, so of several at
// once no two see the same number of tries before them.
func (s *Store) BeginSignIn(ctx context.Context, signIn, address string, at, since time.Time) (Attempt, error) {
	a := Attempt{ID: NewID()}
	if _, err := s.DB.ExecContext(ctx, `INSERT INTO sign_in_failure (id, sign_in, address, at, settled) VALUES (?,?,?,?,FALSE)`, a.ID, signIn, address, at); err != nil {
		return a, err
	}
	err := s.DB.QueryRowContext(ctx, `SELECT (SELECT COUNT(*) FROM sign_in_failure WHERE sign_in = ? AND at >= ?), (SELECT COUNT(*) FROM sign_in_failure WHERE address = ? AND at >= ?)`, signIn, since, address, since).Scan(&a.ForName, &a.ForAddress)
	return a, err
}

// ForgetSignIn takes a try back that succeeded, or was refused before the
// password was looked at.
func (s *Store) ForgetSignIn(ctx context.Context, a Attempt) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM sign_in_failure WHERE id = ?`, a.ID)
	return err
}

// FailSignIn says that a try failed, and forgets those older than a day.
func (s *Store) FailSignIn(ctx context.Context, a Attempt, at time.Time) error {
	if _, err := s.DB.ExecContext(ctx, `UPDATE sign_in_failure SET settled = TRUE WHERE id = ?`, a.ID); err != nil {
		return err
	}
	_, err := s.DB.ExecContext(ctx, `DELETE FROM sign_in_failure WHERE at < ? LIMIT 1000`, at.Add(-24*time.Hour))
	return err
}
