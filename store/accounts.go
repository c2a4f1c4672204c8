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

// FailedSignIn notes a failed attempt and forgets those older than a day.
func (s *Store) FailedSignIn(ctx context.Context, signIn, address string, at time.Time) error {
	if _, err := s.DB.ExecContext(ctx, `DELETE FROM sign_in_failure WHERE at < ?`, at.Add(-24*time.Hour)); err != nil {
		return err
	}
	_, err := s.DB.ExecContext(ctx, `INSERT INTO sign_in_failure (id, sign_in, address, at) VALUES (?,?,?,?)`, NewID(), signIn, address, at)
	return err
}

// FailedSince counts failed attempts since a time, for a name and for an address.
func (s *Store) FailedSince(ctx context.Context, signIn, address string, since time.Time) (forName, forAddress int, err error) {
	err = s.DB.QueryRowContext(ctx, `SELECT COALESCE(SUM(sign_in = ?), 0), COALESCE(SUM(address = ?), 0) FROM sign_in_failure WHERE at >= ?`, signIn, address, since).Scan(&forName, &forAddress)
	return forName, forAddress, err
}
