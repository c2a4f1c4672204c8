package main

import (
	"context"
	"net"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/accounts"
	"vereda/app/state"
	"vereda/internal/testkit"
)

func TestAnotherPortIsTakenWhenOneIsNotFree(t *testing.T) {
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer taken.Close()
	l, err := listenOn(taken.Addr().String(), true)
	require.NoError(t, err)
	assert.NotEqual(t, taken.Addr().String(), l.Addr().String())
	assert.True(t, strings.HasPrefix(l.Addr().String(), "127.0.0.1:"), "still this machine alone")
	l.Close()
	_, err = listenOn(taken.Addr().String(), false)
	assert.ErrorContains(t, err, "choose another with --listen")
	_, err = listenOn("nonsense", true)
	assert.ErrorContains(t, err, "is not an address such as 127.0.0.1:8080")
}

func TestClockAndZone(t *testing.T) {
	t.Setenv("VEREDA_CLOCK", "2026-11-24T18:00:00Z")
	now, err := clock()
	require.NoError(t, err)
	assert.Equal(t, time.Date(2026, 11, 24, 18, 0, 0, 0, time.UTC), now())
	t.Setenv("VEREDA_CLOCK", "tonight")
	_, err = clock()
	assert.ErrorContains(t, err, "write it as 2026-11-24T18:00:00Z")
	file := filepath.Join(t.TempDir(), "clock")
	t.Setenv("VEREDA_CLOCK", file)
	_, err = clock()
	assert.ErrorContains(t, err, "or name a file")
	require.NoError(t, os.WriteFile(file, []byte("2026-11-24T18:00:00Z\n"), 0o600))
	now, err = clock()
	require.NoError(t, err)
	assert.Equal(t, time.Date(2026, 11, 24, 18, 0, 0, 0, time.UTC), now())
	for text, want := range map[string]int{"2026-11-25T18:00:00Z": 25, "": 25, "nonsense": 25} {
		if text == "" || text == "nonsense" { // half written: it stands where it stood
			require.NoError(t, os.WriteFile(file, []byte("2026-11-25T18:00:00Z"), 0o600))
			now()
		}
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
		assert.Equal(t, want, now().Day(), text)
	}
	t.Setenv("VEREDA_ZONE", "Middle/Nowhere")
	_, err = zone()
	assert.ErrorContains(t, err, "is not a time zone")
}

// The demo is loaded once, whatever the day, and everybody it prints can sign in.
func TestDemoIsLoadedOnce(t *testing.T) {
	for _, clock := range []string{"2026-11-24T18:00:00Z", "2027-02-28T06:00:00Z"} {
		t.Setenv("VEREDA_CLOCK", clock)
		t.Setenv("VEREDA_ZONE", "UTC")
		at, err := time.Parse(time.RFC3339, clock)
		require.NoError(t, err)
		s := testkit.New(t)
		a := app.New(s, func() time.Time { return at }, time.UTC, testkit.Files(t))
		a.Seasons.Patience = 0.05
		ctx := context.Background()
		require.NoError(t, loadDemo(ctx, a, s))
		revision, err := s.Head(ctx, "lantern-street")
		require.NoError(t, err)
		require.NoError(t, loadDemo(ctx, a, s))
		again, err := s.Head(ctx, "lantern-street")
		require.NoError(t, err)
		assert.Equal(t, revision, again)
		for _, x := range demoAccounts {
			in, err := a.Accounts.SignIn(ctx, accounts.Try{Name: x.signIn, Password: demoPassword, Address: "here"})
			require.NoError(t, err, x.signIn)
			assert.Equal(t, []state.Role{x.role}, in.User.Roles)
		}
		week, err := a.Classes.Week(ctx, state.User{Academy: "lantern-street", Roles: []state.Role{state.Head}}, nil, false)
		require.NoError(t, err)
		tonight := 0
		for _, d := range week {
			if d.Today {
				tonight = len(d.Classes)
			}
		}
		assert.Positive(t, tonight, "there is always a class tonight")
	}
}

// A first start may be interrupted at any moment: whatever it had done by then, the next one makes it whole.
func TestAnInterruptedFirstStartIsMadeWhole(t *testing.T) {
	t.Setenv("VEREDA_CLOCK", "2026-11-24T18:00:00Z")
	t.Setenv("VEREDA_ZONE", "UTC")
	at := time.Date(2026, 11, 24, 18, 0, 0, 0, time.UTC)
	s := testkit.New(t)
	a := app.New(s, func() time.Time { return at }, time.UTC, testkit.Files(t))
	a.Seasons.Patience = 0.05
	for _, after := range []time.Duration{0, 20 * time.Millisecond, 300 * time.Millisecond, 900 * time.Millisecond, 1500 * time.Millisecond} {
		ctx, cancel := context.WithTimeout(t.Context(), after)
		_ = loadDemo(ctx, a, s)
		cancel()
		academies, err := s.Academies(t.Context())
		require.NoError(t, err)
		if len(academies) > 0 { // then it is the whole of it
			week, err := a.Classes.Week(t.Context(), state.User{Academy: "lantern-street", Roles: []state.Role{state.Head}}, nil, false)
			require.NoError(t, err, "interrupted after %s", after)
			require.Len(t, week, 7)
		}
	}
	require.NoError(t, loadDemo(t.Context(), a, s))
	for _, x := range demoAccounts {
		_, err := a.Accounts.SignIn(t.Context(), accounts.Try{Name: x.signIn, Password: demoPassword, Address: "here"})
		require.NoError(t, err, x.signIn)
	}
}
