package app_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"time"
	"vereda/app"
	"vereda/core/calendar"
	"vereda/internal/testkit"
)

// What a page costs right after somebody changed something: the change itself,
// and reading what is known anew.
func BenchmarkChangeThenRead(b *testing.B) {
	a := app.New(testkit.New(b), func() time.Time { return now }, time.UTC, testkit.Files(b))
	a.Patience = 0.05
	testkit.LoadDemo(b, a, calendar.DayOf(now))
	page, err := a.Technique(b.Context(), head, "knee-cut", "")
	require.NoError(b, err)
	for b.Loop() {
		page.Written.SecondsPerRep = 8 + page.Version%2
		_, err := a.SaveTechnique(b.Context(), head, page.Written, page.Version)
		require.NoError(b, err)
		page, err = a.Technique(b.Context(), head, "knee-cut", "")
		require.NoError(b, err)
	}
}
