package app_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/seasons"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/internal/testkit"
)

// Every class that is taught in the season that runs moves to the next weekday, at another hour, from next week on: what its weeks said before stays
// word for word, day by day and over the season, and what is to come is on the new days.
func TestMovingClassesLeavesThePast(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, _ := lived(t)
	ctx := t.Context()
	today := calendar.DayOf(now)
	page, err := a.Seasons.Seasons(ctx, head)
	require.NoError(t, err)
	runs, next := "", today
	for _, s := range page {
		if s.Start < today-14 && s.End >= today+7 {
			runs = s.ID
			next = s.Start + (today-s.Start)/7*7 + 7
		}
	}
	require.NotEmpty(t, runs, "a season runs")
	before, err := a.Seasons.Taught(ctx, head, runs)
	require.NoError(t, err)
	require.Greater(t, before.Totals.Reported, 10)
	year, err := a.Seasons.Year(ctx, head)
	require.NoError(t, err)
	var weeks []any
	for day := today - 28; day <= today-7; day += 7 {
		week, err := a.Classes.Week(ctx, head, &day, false)
		require.NoError(t, err)
		weeks = append(weeks, week)
	}
	table, err := a.Seasons.Timetable(ctx, head)
	require.NoError(t, err)
	for _, c := range table.Classes {
		c.Weekday, c.Start, c.Minutes, c.TeachMinutes = c.Weekday%7+1, "06:15", c.Minutes-5, max(0, c.TeachMinutes-5)
		_, _, err := a.Seasons.SaveClass(ctx, head, c.Class, c.Version, next.String())
		require.NoError(t, err)
	}
	after, err := a.Seasons.Taught(ctx, head, runs)
	require.NoError(t, err)
	assert.Equal(t, before, after)
	again, err := a.Seasons.Year(ctx, head)
	require.NoError(t, err)
	assert.Equal(t, year, again)
	for i, day := 0, today-28; day <= today-7; i, day = i+1, day+7 {
		week, err := a.Classes.Week(ctx, head, &day, false)
		require.NoError(t, err)
		assert.Equal(t, weeks[i], any(week))
	}
	week, err := a.Classes.Week(ctx, head, &next, false)
	require.NoError(t, err)
	met := 0
	for _, d := range week {
		for _, c := range d.Classes {
			assert.Equal(t, "06:15", c.Start)
			met++
		}
	}
	assert.Len(t, table.Classes, met)
	// A class that begins was not missing before.
	_, _, err = a.Seasons.SaveClass(ctx, head, academy.Class{Name: "Another", Track: table.Classes[0].Track, Hours: table.Classes[0].Hours, From: &today}, 0, "")
	require.NoError(t, err)
	after, err = a.Seasons.Taught(ctx, head, runs)
	require.NoError(t, err)
	assert.Equal(t, before.Totals, after.Totals)
	// What was wrong all along is mended everywhere.
	table, err = a.Seasons.Timetable(ctx, head)
	require.NoError(t, err)
	c := table.Classes[0]
	require.Len(t, c.Before, 1)
	c.Mat = "Mat two"
	_, _, err = a.Seasons.SaveClass(ctx, head, c.Class, c.Version, seasons.Always)
	require.NoError(t, err)
	table, err = a.Seasons.Timetable(ctx, head)
	require.NoError(t, err)
	assert.Empty(t, table.Classes[0].Before)
}

// What a class was asked to do stays in the plan, whatever was reached of it and however often the plan is repaired and published: what was
// taught is compared with that.
func TestRepairsKeepWhatWasHeld(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, _ := lived(t)
	a.Seasons.Patience, a.Seasons.Stopwatch = testkit.Seconds(0.05), testkit.StepsAlone
	ctx := t.Context()
	taught := func() seasons.TaughtPage {
		p, err := a.Seasons.Taught(ctx, head, "season-3")
		require.NoError(t, err)
		return p
	}
	before := taught()
	require.Positive(t, before.Totals.Not)
	var silent seasons.TaughtLine // over, planned, and nobody wrote what it came to
	week := 0
	for _, w := range before.Weeks {
		for _, l := range w.Lines {
			if len(l.Units) > 0 && l.Units[0].Reached == "unknown" && l.Closed == "" {
				silent, week = l, w.Week
			}
		}
	}
	require.NotEmpty(t, silent.Session)
	class, _, err := academy.SplitOccurrence(silent.Session)
	require.NoError(t, err)
	for _, h := range []seasons.Happening{
		{Kind: "wanted", Week: 12, Unit: silent.Units[0].Unit},
		{Kind: "not_reached", Week: week, Class: class, Unit: silent.Units[0].Unit},
		{Kind: "changed", Week: week},
	} {
		proposal, err := a.Seasons.ProposeRepair(ctx, head, "season-3", h)
		require.NoError(t, err)
		for _, c := range proposal.Changes {
			assert.GreaterOrEqual(t, c.On, calendar.DayOf(now), "what is past does not change")
		}
		_, err = a.Seasons.TakeSeasonRepair(ctx, head, "season-3", h)
		require.NoError(t, err)
		page, err := a.Seasons.Season(ctx, head, "season-3")
		require.NoError(t, err)
		assert.InDelta(t, proposal.After, page.Line.Coverage, 1e-9)
		_, err = a.Seasons.PublishSeason(ctx, head, "season-3", 0)
		require.NoError(t, err)
		after := taught()
		if h.Kind == "wanted" {
			assert.Equal(t, before, after)
		}
	}
	after := taught()
	assert.Equal(t, before.Totals.Planned, after.Totals.Planned)
	assert.Equal(t, before.Totals.Not+1, after.Totals.Not)
	assert.Equal(t, before.Totals.Unknown-1, after.Totals.Unknown)
}
