package app_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/accounts"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/demo"
	"vereda/internal/testkit"
)

// begun is an academy that its first page made, and its head instructor.
func begun(t *testing.T) (*app.App, state.User) {
	t.Helper()
	a := app.New(testkit.New(t), func() time.Time { return now }, time.UTC, testkit.Files(t))
	a.Seasons.Patience, a.Seasons.Stopwatch = 0.1, testkit.StepsAlone
	a.Academies.Starter = demo.Starter
	token, err := a.Accounts.BeginSetup(t.Context())
	require.NoError(t, err)
	in, err := a.Accounts.Setup(t.Context(), token, accounts.First{Academy: "Harbour Row Mats", Zone: "Europe/Lisbon", WeekStart: 1, Name: "Mara Quince", SignIn: "Mara", Password: "nine grey herons asleep"}, accounts.Try{Address: "10.0.0.1"})
	require.NoError(t, err)
	return a, in.User
}

// The whole beginning by the use cases: each step says what it has and what is missing, and the last one plans.
func TestAnAcademyBegins(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, mara := begun(t)
	ctx := t.Context()
	assert.Equal(t, "harbour-row-mats", mara.Academy)
	assert.True(t, mara.Is(state.Head) && mara.Is(state.Coach))
	f, err := a.State.Read(ctx, mara.Academy)
	require.NoError(t, err)
	assert.Equal(t, "Europe/Lisbon", f.Zone.String())
	assert.Len(t, f.Settings.Gates, len(safety.UsualGates()), "gates are there from the first moment")
	done := func() (all []string) {
		p, err := a.Academies.Begin(ctx, mara)
		require.NoError(t, err)
		for _, s := range p.Steps {
			if s.Done {
				all = append(all, s.ID)
			} else {
				assert.NotEqual(t, "", s.Name)
			}
		}
		return all
	}
	assert.Empty(t, done())
	_, err = a.Academies.BeginLibrary(ctx, mara, []library.Family{"pins"})
	require.NoError(t, err)
	_, err = a.Academies.BeginLibrary(ctx, mara, library.Families)
	require.NoError(t, err)
	_, err = a.Academies.BeginLadders(ctx, mara, []string{"adult", "youth"})
	require.NoError(t, err)
	_, err = a.Academies.BeginCurriculum(ctx, mara, "blue-1")
	require.NoError(t, err)
	_, err = a.Curricula.Publish(ctx, mara, "blue-1", true)
	require.NoError(t, err)
	track, _, err := a.Seasons.SaveTrack(ctx, mara, academy.Track{Name: "Fundamentals", Audience: "all", Context: "both", Mode: "same", School: "block"}, 0)
	require.NoError(t, err)
	_, _, err = a.Seasons.SaveClass(ctx, mara, academy.Class{Name: "Early", Track: track, Hours: academy.Hours{Weekday: 2, Start: "18:00", Minutes: 75, TeachMinutes: 40}}, 0, "")
	require.NoError(t, err)
	_, err = a.Curricula.MakeUnits(ctx, mara, "blue-1", []string{track})
	require.NoError(t, err)
	assert.Equal(t, []string{"library", "ladders", "curricula", "timetable"}, done())
}
