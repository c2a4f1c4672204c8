package app_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/classes"
	"vereda/app/documents"
	"vereda/app/seasons"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/season/repair"
	"vereda/internal/testkit"
)

// A season that begins before there were years is refused; one that got in all the same is
// set aside, and the academy goes on.
func TestOneRecordThatCannotBeReadTakesNothingDown(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	_, err := a.Seasons.LaySeason(ctx, head, seasons.NewSeason{Name: "Ancient", Start: calendar.First - 400000, Weeks: 6})
	assert.ErrorContains(t, err, "is not between Mon 1 Jan 1900")
	_, err = a.Seasons.LaySeason(ctx, head, seasons.NewSeason{Name: "Far", Start: calendar.Last, Weeks: 6})
	assert.ErrorContains(t, err, "is not between Mon 1 Jan 1900")

	_, err = a.State.Store.DB.Exec(`UPDATE document SET body = JSON_SET(body, '$.start', '0000-01-01'), version = version + 1 WHERE academy = ? AND kind = ? AND id = ?`, head.Academy, documents.Season, id)
	require.NoError(t, err)
	_, err = a.State.Store.DB.Exec(`UPDATE academy SET revision = revision + 1`)
	require.NoError(t, err)
	seasons, err := a.Seasons.Seasons(ctx, head)
	require.NoError(t, err)
	assert.Empty(t, seasons)
	_, err = a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	noDifference(t, a)
	view, err := a.Academies.Academy(ctx, head)
	require.NoError(t, err)
	require.Len(t, view.Broken, 1)
	assert.Equal(t, id, view.Broken[0].ID)
	others, err := a.Academies.Academy(ctx, coach)
	require.NoError(t, err)
	assert.Empty(t, others.Broken)

	change, err := a.Academies.MendBroken(ctx, head, documents.Season, id, false)
	require.NoError(t, err)
	assert.NotEmpty(t, change)
	seasons, err = a.Seasons.Seasons(ctx, head)
	require.NoError(t, err)
	require.Len(t, seasons, 1)
	assert.True(t, seasons[0].Planned, "as it was last, with its plan")
	_, err = a.Academies.MendBroken(ctx, head, documents.Season, id, true)
	assert.Error(t, err, "it is not broken any more")
}

// What somebody changes while the planner works is not written over: it plans again.
func TestPlanningWritesNothingOver(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	_, winter := readSeason(t, a, id)
	done := make(chan error, 1)
	go func() {
		_, err := a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.6))
		done <- err
	}()
	closures := []academy.Closure{{Week: 3, Why: "Holiday"}}
	_, err := a.Seasons.SetClosures(ctx, head, id, closures, winter.Closures)
	require.NoError(t, err)
	require.NoError(t, <-done)
	_, winter = readSeason(t, a, id)
	assert.Equal(t, closures, winter.Closures)
	for _, x := range winter.Plan.Placements {
		assert.NotEqual(t, 3, x.Week, "planned on what is there now")
	}
}

// A unit whose class was held is taken out of its tracks, as the program advises: planning
// goes on.
func TestAHeldUnitLeavesItsTracks(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	s, winter := readSeason(t, a, id)
	held := 0
	for _, x := range winter.Plan.Placements {
		c, _ := s.Class(x.Class)
		on := winter.DayOf(x.Week, c)
		if on > s.Today() || len(x.Items) == 0 {
			continue
		}
		held++
		require.NoError(t, a.Classes.Report(ctx, head, academy.Occurrence(x.Class, on), recordOf(s.Records, x.Items[0].Unit)))
		u, _ := s.Unit(x.Items[0].Unit)
		u.Tracks = []string{}
		_, _, err := a.Seasons.SaveUnit(ctx, head, u, s.Version(documents.Unit, u.ID))
		require.NoError(t, err)
		break
	}
	require.Equal(t, 1, held, "today's class is held")
	_, err := a.Seasons.PlanSeason(ctx, head, id, 0)
	require.NoError(t, err)
	assert.Empty(t, page(t, a, id).Breaks)
}

// Away on Saturday is away on Saturday, and there on Tuesday.
func TestADayOffIsADayOff(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	s, winter := readSeason(t, a, id)
	c, _ := s.Class("nogi-weekend")
	saturday := winter.DayOf(2, c)
	terms := *s.Person["ines-falk"].Coach
	terms.Available = []string{"nogi-weekend", "fund-early", "fund-late"}
	terms.Out = []academy.Span{{From: saturday, To: saturday}}
	_, err := a.Seasons.SaveCoach(ctx, head, "ines-falk", "ines@lantern-street.example", terms, s.Version(documents.Person, "ines-falk"))
	require.NoError(t, err)
	gives := func(class string) error {
		_, err := a.Seasons.TryMove(ctx, head, id, moveLead(2, class, "ines-falk"))
		return err
	}
	why, err := a.Seasons.TryMove(ctx, head, id, moveLead(2, "nogi-weekend", "ines-falk"))
	if err == nil {
		assert.NotEmpty(t, why.Breaks, "not on the day she is away")
	}
	require.NoError(t, gives("fund-early"))
	tuesday, err := a.Seasons.TryMove(ctx, head, id, moveLead(2, "fund-early", "ines-falk"))
	require.NoError(t, err)
	assert.Empty(t, tuesday.Breaks, "there on the others")
}

// moveLead gives a class of a week to a coach.
func moveLead(week int, class, coach string) repair.Move {
	return repair.Move{To: &repair.Spot{Week: week, Class: class}, Lead: coach}
}

// recordOf says that a class reached all a unit teaches.
func recordOf(r academy.Records, unit string) classes.SessionReport {
	u, _ := r.Unit(unit)
	var out classes.SessionReport
	for _, t := range u.Techniques {
		out.Items = append(out.Items, ledger.Item{Technique: t, Kind: "teach", Reached: "all"})
	}
	return out
}
