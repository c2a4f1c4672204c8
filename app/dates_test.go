package app_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/seasons"
	"vereda/core/academy"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/internal/testkit"
)

// A grading day asks that its units are taught before it, a competition that nothing risky comes in the week before, a seminar takes the place of
// classes; the plan is mended to them, and says how it stands to each.
func TestAPlanWorksTowardItsDates(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	before := page(t, a, id)
	_, s := readSeason(t, a, id)

	// The unit that is taught last of those anybody is taught.
	first := map[string]int{}
	for _, x := range s.Plan.Placements {
		for _, it := range x.Items {
			if had := first[it.Unit]; it.Kind == season.Teach && (had == 0 || x.Week < had) {
				first[it.Unit] = x.Week
			}
		}
	}
	tracks, err := a.Seasons.Timetable(ctx, head)
	require.NoError(t, err)
	for _, x := range tracks.Tracks {
		for _, u := range x.Track.Assumed {
			delete(first, u) // known before
		}
	}
	late := ""
	for _, u := range before.Units {
		if first[u.ID] > first[late] {
			late = u.ID
		}
	}
	require.Greater(t, first[late], 3, "something is taught late")
	dates := []academy.SeasonDate{
		{Kind: "competition", Name: "Harbour open", On: s.Start + 33, Calm: true},
		{Kind: "grading", Name: "Grading", On: s.Start + 23, Seen: []string{late}},
		{Kind: "seminar", Name: "Leg seminar", On: s.Start + 12, Classes: []string{"nogi-weekend"}},
	}
	change, err := a.Seasons.SetDates(ctx, head, id, dates, nil)
	require.NoError(t, err)
	p := page(t, a, id)
	require.Len(t, p.Dates, 3)
	assert.Equal(t, []string{"Leg seminar", "Grading", "Harbour open"}, []string{p.Dates[0].Date.Name, p.Dates[1].Date.Name, p.Dates[2].Date.Name}, "by day")
	grading := p.Dates[1]
	assert.Equal(t, 4, grading.Week)
	assert.Equal(t, 3, grading.By)
	assert.Equal(t, 1, grading.Lacking)
	assert.Equal(t, "1 of 1 not taught by week 3.", grading.Says.String())
	assert.Equal(t, "Whatever loads a neck or twists a leg kept out of weeks 4 to 5.", p.Dates[2].Says.String())
	assert.Equal(t, []string{"Grading, " + (s.Start + 23).Words()}, say.Texts(p.Weeks[3].Dates))
	assert.True(t, slices.ContainsFunc(p.Breaks, func(b seasons.BreachLine) bool { return b.Rule == "wanted" && b.Unit == late }), "the plan breaks it: %v", p.Breaks)
	row := p.Rows[slices.IndexFunc(p.Rows, func(r seasons.SeasonRow) bool { return r.Class == "nogi-weekend" })]
	assert.Equal(t, "closed", row.Cells[1].State)
	assert.Equal(t, "Leg seminar", row.Cells[1].Why)

	// The plan is mended to what was set, nothing else having happened.
	what := seasons.Happening{Kind: "changed", Week: 1}
	proposal, err := a.Seasons.ProposeRepair(ctx, head, id, what)
	require.NoError(t, err)
	require.NotEmpty(t, proposal.Changes)
	_, err = a.Seasons.TakeSeasonRepair(ctx, head, id, what)
	require.NoError(t, err)
	p = page(t, a, id)
	assert.Equal(t, 0, p.Dates[1].Lacking)
	assert.Equal(t, "It is taught by week 3.", p.Dates[1].Says.String())
	for _, b := range p.Breaks {
		assert.True(t, b.Own, "%+v", b)
	}

	// Who sets them from an old form is told; undo takes them back.
	_, err = a.Seasons.SetDates(ctx, head, id, dates, nil)
	assert.ErrorContains(t, err, "The dates of Winter")
	_, err = a.State.Undo(ctx, head, change)
	assert.ErrorContains(t, err, "Winter", "the plan was mended since")
}

// Planned anew, the season keeps its dates; a date that cannot be kept is named.
func TestPlanningKeepsDates(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	_, s := readSeason(t, a, id)
	p := page(t, a, id)
	var seen []string // some that are taught somewhere
	for _, x := range s.Plan.Placements {
		for _, it := range x.Items {
			if it.Kind == season.Teach && len(seen) < 4 && !slices.Contains(seen, it.Unit) {
				seen = append(seen, it.Unit)
			}
		}
	}
	require.Len(t, seen, 4)
	require.Empty(t, p.Dates)
	_, err := a.Seasons.SetDates(ctx, head, id, []academy.SeasonDate{{Kind: "guest", Name: "A guest", On: s.Start + 30, Kept: seen[:1], Weeks: 2}, {Kind: "grading", Name: "Grading", On: s.Start + 37, Seen: seen}}, nil)
	require.NoError(t, err)
	_, err = a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.5))
	require.NoError(t, err)
	p = page(t, a, id)
	assert.Equal(t, 0, p.Dates[1].Lacking, "%+v", p.Dates[1])
	_, s = readSeason(t, a, id)
	from, to := s.Dates[0].Quiet(s)
	for _, x := range s.Plan.Placements {
		for _, it := range x.Items {
			assert.False(t, it.Unit == seen[0] && x.Week >= from && x.Week <= to, "week %d", x.Week)
		}
	}
}

// What is wrong with a date is said where it is.
func TestDatesThatCannotBe(t *testing.T) {
	a, id := laid(t)
	_, s := readSeason(t, a, id)
	for want, d := range map[string]academy.SeasonDate{
		"dates[0].on":      {Kind: "grading", Name: "Early", On: s.Start + 3, Seen: []string{page(t, a, id).Units[0].ID}},
		"dates[0].kind":    {Kind: "party", Name: "Party", On: s.Start + 10},
		"dates[0].name":    {Kind: "seminar", On: s.Start + 10},
		"dates[0].classes": {Kind: "seminar", Name: "S", On: s.Start + 10, Classes: []string{"nowhere"}},
		"dates[0].seen":    {Kind: "seminar", Name: "S", On: s.Start + 10, Seen: []string{"nothing"}},
		"dates[0].track":   {Kind: "seminar", Name: "S", On: s.Start + 10, Track: "nobody"},
		"dates[0].weeks":   {Kind: "seminar", Name: "S", On: s.Start + 10, Weeks: 40},
	} {
		_, err := a.Seasons.SetDates(t.Context(), head, id, []academy.SeasonDate{d}, nil)
		require.ErrorContains(t, err, want)
	}
	assert.Empty(t, page(t, a, id).Dates)
}
