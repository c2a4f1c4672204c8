package generate_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/exchange"
	"vereda/internal/generate"
)

// What is generated is an academy like any other: the ordinary reader takes it, the same
// wish gives the same one, and the numbers wished for are about met.
func TestAGeneratedAcademyIsAnAcademy(t *testing.T) {
	w := generate.Wish{ID: "gen", Students: 40, Weeks: 30, Classes: 8, Visits: 3000, Checks: 300, Today: calendar.MustDay("2026-11-24"), Seed: 3}
	b, events, err := generate.Academy(w)
	require.NoError(t, err)
	_, again, err := generate.Academy(w)
	require.NoError(t, err)
	assert.Equal(t, events, again)
	counts := map[string]int{}
	for _, e := range events {
		counts[e.Kind]++
	}
	assert.InDelta(t, 3000, counts[academy.AttendanceEvent], 600)
	assert.InDelta(t, 300, counts[academy.CheckEvent], 10)
	assert.InDelta(t, 30*8, counts[academy.ClassReportEvent], 8)
	b.Events = events
	text, err := exchange.Write(b)
	require.NoError(t, err)
	_, err = exchange.Read(text)
	require.NoError(t, err)
}
