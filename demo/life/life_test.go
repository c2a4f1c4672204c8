package life

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/exchange"
)

// The hall is what demo/README.md says, and its bundle is one that any academy could send.
func TestTheHallIsAsItsStorySays(t *testing.T) {
	on := calendar.MustDay("2026-11-24")
	b, err := Academy(on)
	require.NoError(t, err)
	text, err := exchange.Write(b)
	require.NoError(t, err)
	_, err = exchange.Read(text)
	require.NoError(t, err)

	students, young, coaches := 0, 0, 0
	for _, p := range b.People {
		if p.Student {
			students++
			if age, known := p.Age(on); known && age < 16 {
				young++
				if p.Guardian != nil {
					assert.NotEmpty(t, p.Guardian.Name)
				}
			}
		}
		if p.Coach != nil {
			coaches++
		}
	}
	assert.InDelta(t, 90, students, 5)
	assert.InDelta(t, 25, young, 4)
	assert.Equal(t, 9, coaches)
	assert.Len(t, b.Classes, 13)
	assert.Len(t, b.Tracks, 5)
	require.Len(t, b.Seasons, 4)
	assert.Nil(t, b.Seasons[3].Published)
	assert.Equal(t, now, b.Seasons[2].WeekOf(on))
	var days []int
	for _, c := range b.Classes {
		days = append(days, c.Weekday)
	}
	slices.Sort(days)
	assert.Equal(t, []int{1, 2, 3, 4, 5, 6, 7}, slices.Compact(days), "whatever day it is, there is a class")
	missed := map[string]bool{}
	kinds := map[string]int{}
	for i, e := range b.Events {
		kinds[e.Kind]++
		assert.Less(t, e.Day, on)
		if i > 0 {
			assert.LessOrEqual(t, b.Events[i-1].Day, e.Day+7*weeks, "in the order they happened, within a season")
		}
		if e.Kind == academy.ClassReportEvent && strings.Contains(string(e.Body), `"not"`) {
			missed[e.ID] = true
		}
	}
	assert.Len(t, missed, 3, "three units not reached")
	assert.Greater(t, kinds[academy.AttendanceEvent], 2000)
	assert.Greater(t, kinds[academy.CheckEvent], 400)

	again, err := Academy(on)
	require.NoError(t, err)
	same, err := exchange.Write(again)
	require.NoError(t, err)
	assert.True(t, string(text) == string(same), "the same day, the same hall")
}

// Any day of the week will do.
func TestTheHallStandsOnAnyDay(t *testing.T) {
	for d := calendar.MustDay("2027-02-26"); d < calendar.MustDay("2027-03-05"); d += 2 {
		b, err := Academy(d)
		require.NoError(t, err, d)
		text, err := exchange.Write(b)
		require.NoError(t, err, d)
		_, err = exchange.Read(text)
		require.NoError(t, err, d)
	}
}
