// Package testkit gives each test a database of its own on a real MariaDB:
// the server named in VEREDA_TEST_DSN, or one started for the test.
package testkit

import (
	"context"
	"database/sql"
	"encoding/base64"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/argon2"

	"vereda/app"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/demo"
	"vereda/exchange"
	"vereda/store"
	"vereda/store/files"
	"vereda/store/mariadb"
)

// Password opens every account that LoadAccounts makes.
const Password = "a password for tests"

// New opens an empty, migrated database that is dropped when the test ends.
func New(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Migrate(context.Background(), Empty(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}

// Empty is the address of a database without tables, that is dropped when the test ends.
func Empty(t testing.TB) string {
	t.Helper()
	ctx := context.Background()
	dsn := os.Getenv("VEREDA_TEST_DSN")
	if dsn == "" {
		folder := t.TempDir()
		for dir := folder; dir != os.TempDir() && dir != "/"; dir = filepath.Dir(dir) {
			require.NoError(t, os.Chmod(dir, 0o755)) // the server may run as another user
		}
		server, err := mariadb.StartForgetful(ctx, folder)
		require.NoError(t, err)
		t.Cleanup(func() { server.Stop() })
		dsn = server.DSN("")
	}
	name := "t_" + strings.ReplaceAll(store.NewID(), "-", "")
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("CREATE DATABASE " + name)
	require.NoError(t, err)
	t.Cleanup(func() {
		db, err := sql.Open("mysql", dsn)
		require.NoError(t, err)
		defer db.Close()
		_, err = db.Exec("DROP DATABASE " + name)
		require.NoError(t, err)
	})
	return dsn + name
}

// Files is an empty folder for attached files that goes when the test ends.
func Files(t testing.TB) *files.Files {
	t.Helper()
	f, err := files.Open(t.TempDir())
	require.NoError(t, err)
	return f
}

// Users of the demo academy, by role.
var Users = map[state.Role]state.User{
	state.Head:      {Academy: "lantern-street", Roles: []state.Role{state.Head}, Person: "ines-falk", Name: "Ines Falk"},
	state.Coach:     {Academy: "lantern-street", Roles: []state.Role{state.Coach}, Person: "tomas-reyl", Name: "Tomas Reyl"},
	state.Desk:      {Academy: "lantern-street", Roles: []state.Role{state.Desk}, Person: "place:desk", Name: "desk"},
	state.Assistant: {Academy: "lantern-street", Roles: []state.Role{state.Assistant}, Person: "kaisa-brandt", Name: "Kaisa Brandt"},
	state.Guardian:  {Academy: "lantern-street", Roles: []state.Role{state.Guardian}, Person: "place:guardian", Name: "guardian", Wards: []string{"ruben-askew"}},
	state.Student:   {Academy: "lantern-street", Roles: []state.Role{state.Student}, Person: "oren-vask", Name: "Oren Vask"},
}

// SignIns are the names the demo's accounts sign in with.
var SignIns = map[state.Role]string{state.Head: "ines", state.Coach: "tomas", state.Desk: "desk", state.Student: "oren", state.Assistant: "kaisa", state.Guardian: "guardian"}

// laid is the demo academy as of each day that was asked for.
var laid sync.Map

// LoadDemo imports the demo academy as of a day.
func LoadDemo(t testing.TB, a *app.App, today calendar.Day) {
	t.Helper()
	once, _ := laid.LoadOrStore(today, sync.OnceValues(func() (exchange.Bundle, error) {
		bundle, err := demo.Bundle()
		if err != nil {
			return exchange.Bundle{}, err
		}
		text, err := exchange.Lay(bundle, today)
		if err != nil {
			return exchange.Bundle{}, err
		}
		return exchange.Read(text)
	}))
	b, err := once.(func() (exchange.Bundle, error))()
	require.NoError(t, err)
	_, err = a.Academies.Import(context.Background(), b)
	require.NoError(t, err)
}

// LoadAccounts makes an account for each role of the demo academy.
func LoadAccounts(t testing.TB, a *app.App) {
	t.Helper()
	for role, name := range SignIns {
		u := Users[role]
		account := store.Account{ID: store.NewID(), Academy: u.Academy, SignIn: name, Password: hash(), Roles: []string{string(role)}, Person: u.Person, Wards: u.Wards}
		if strings.HasPrefix(u.Person, state.PlacePrefix) {
			account.Person = ""
		}
		require.NoError(t, a.State.Store.Act(context.Background(), account.Academy, func(act *store.Act) error { return act.AddAccount(account, a.State.Now().UTC()) }))
	}
}

// hash is of Password, at the least cost there is: a hash says what it cost, and one of an academy takes a quarter of a second to
// make and as long at each sign-in.
var hash = sync.OnceValue(func() string {
	salt := []byte("salt for tests")
	b64 := base64.RawStdEncoding
	return fmt.Sprintf("argon2id$1$8$1$%s$%s", b64.EncodeToString(salt), b64.EncodeToString(argon2.IDKey([]byte(Password), salt, 1, 8, 1, 32)))
})
