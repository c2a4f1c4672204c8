package calendar

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestMonthsAndYears(t *testing.T) {
	for _, c := range []struct {
		from, to string
		months   int
	}{
		{"2026-01-15", "2026-02-14", 0},
		{"2026-01-15", "2026-02-15", 1},
		{"2026-01-31", "2026-02-28", 1},
		{"2026-01-31", "2026-02-27", 0},
		{"2024-02-29", "2025-02-28", 12},
		{"2010-11-25", "2026-11-24", 191},
		{"2010-11-24", "2026-11-24", 192},
	} {
		from, to := MustDay(c.from), MustDay(c.to)
		assert.Equal(t, c.months, to.MonthsSince(from), "%s to %s", c.from, c.to)
		assert.Equal(t, c.months/12, to.YearsSince(from))
	}
	assert.Equal(t, MustDay("2026-02-28"), MustDay("2026-01-31").AddMonths(1))
	assert.Equal(t, MustDay("2027-02-24"), MustDay("2026-11-24").AddMonths(3))
}

func TestWeekStart(t *testing.T) {
	tue := MustDay("2026-11-24")
	assert.Equal(t, 2, tue.Weekday())
	assert.Equal(t, 7, MustDay("2026-11-29").Weekday())
	assert.Equal(t, MustDay("2026-11-23"), tue.WeekStart(1))
	assert.Equal(t, MustDay("2026-11-22"), tue.WeekStart(7))
	assert.Equal(t, tue, tue.WeekStart(2))
}

func TestDayIsTextBothWays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := Day(rapid.IntRange(int(First), int(Last)).Draw(t, "day"))
		text, err := json.Marshal(d)
		require.NoError(t, err)
		var back Day
		require.NoError(t, json.Unmarshal(text, &back))
		require.Equal(t, d, back)
		start := d.WeekStart(rapid.IntRange(1, 7).Draw(t, "first"))
		require.True(t, start <= d && d < start+7)
	})
	_, err := ParseDay("24.11.2026")
	assert.EqualError(t, err, `"24.11.2026" is not a date: write year-month-day, such as 2026-11-24`)
}

func TestWordsOfADay(t *testing.T) {
	d, err := ParseDay("2026-12-09")
	require.NoError(t, err)
	assert.Equal(t, "Wed 9 Dec 2026", d.Words())
	assert.Equal(t, 3, d.Weekday(), "the same weekday as it says")
}

func TestDatesHaveBounds(t *testing.T) {
	for _, text := range []string{"0000-01-01", "1899-12-31", "2201-01-01", "9999-12-31", "12026-01-01", "2026-13-01", "yesterday"} {
		_, err := ParseDay(text)
		assert.Error(t, err, text)
	}
	for _, text := range []string{"1900-01-01", "2200-12-31"} {
		d, err := ParseDay(text)
		require.NoError(t, err)
		assert.Equal(t, text, d.String())
	}
}
