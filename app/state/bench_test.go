package state_test

import (
	"os"
	"slices"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/internal/generate"
	"vereda/internal/testkit"
)

// What it costs to read an academy for the first time: 300 students, two and a half years. VEREDA_YEARS
// multiplies the time.
func BenchmarkFirstRead(b *testing.B) {
	s := testkit.New(b)
	now := time.Date(2026, 11, 24, 18, 0, 0, 0, time.UTC)
	factor, _ := strconv.Atoi(os.Getenv("VEREDA_YEARS"))
	factor = max(1, factor)
	w := generate.Wish{ID: "large", Students: 300, Weeks: 130 * factor, Classes: 20, Visits: 100_000 * factor, Checks: 10_000 * factor, Today: calendar.DayOf(now), Seed: 1}
	bundle, events, err := generate.Academy(w)
	require.NoError(b, err)
	a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(b))
	_, err = a.Academies.Import(b.Context(), bundle)
	require.NoError(b, err)
	for some := range slices.Chunk(events, 4000) {
		require.NoError(b, s.Append(b.Context(), w.ID, some...))
	}
	b.ReportAllocs()
	for b.Loop() {
		st := state.New(s, func() time.Time { return now }, time.UTC, nil)
		_, err := st.Read(b.Context(), w.ID)
		require.NoError(b, err)
	}
}
