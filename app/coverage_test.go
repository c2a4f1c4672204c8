package app_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/classes"
	"vereda/app/people"
	"vereda/app/seasons"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/internal/testkit"
)

// Two weeks of a published season are taught as planned to whoever is likely there: what happened rises from where the forecast began, and what is
// expected from here begins where that ends.
func TestCoverageOverASeason(t *testing.T) {
	testkit.NothingAtOnce(t)
	clock := now
	a := app.New(testkit.New(t), func() time.Time { return clock }, time.UTC, testkit.Files(t))
	testkit.LoadDemo(t, a, calendar.DayOf(now))
	ctx := t.Context()
	start := calendar.DayOf(now) + 6
	id, err := a.Seasons.LaySeason(ctx, head, seasons.NewSeason{Name: "Winter", Start: start, Weeks: 5})
	require.NoError(t, err)
	plan, err := a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.3))
	require.NoError(t, err)
	_ = plan
	before, err := a.Seasons.CoverageLine(ctx, head, id)
	require.NoError(t, err)
	assert.Nil(t, before.Published)
	_, err = a.Seasons.PublishSeason(ctx, head, id, 0)
	require.NoError(t, err)
	line, err := a.Seasons.CoverageLine(ctx, head, id)
	require.NoError(t, err)
	require.Len(t, line.Forecast, 6)
	season, err := a.Seasons.Season(ctx, head, id)
	require.NoError(t, err)
	assert.InDelta(t, season.Line.Coverage, line.Forecast[5].Mean, 1e-9, "at the end it is the number of the plan")
	for w := 1; w <= 5; w++ {
		assert.GreaterOrEqual(t, line.Forecast[w].Mean, line.Forecast[w-1].Mean)
		assert.True(t, line.Forecast[w].Low <= line.Forecast[w].Mean+0.02 && line.Forecast[w].Mean <= line.Forecast[w].High+0.02)
	}
	assert.Equal(t, 0, line.Now)
	assert.InDelta(t, line.Forecast[0].Mean, line.Happened[0].Share, 1e-9)

	for day := start; day < start+14; day++ {
		clock = now.AddDate(0, 0, int(day-calendar.DayOf(now)))
		week, err := a.Classes.Week(ctx, head, &day, false)
		require.NoError(t, err)
		for _, d := range week {
			for _, c := range d.Classes {
				if d.On != day {
					continue
				}
				page, err := a.Classes.Session(ctx, head, c.Session)
				require.NoError(t, err)
				r := classes.SessionReport{}
				for _, x := range page.Techniques {
					r.Items = append(r.Items, ledger.Item{Technique: x.ID, Kind: x.Kind, Reached: "all"})
				}
				for _, p := range page.Others {
					if p.Chance > 0.4 {
						require.NoError(t, a.Classes.CheckIn(ctx, head, c.Session, p.ID, "", ""))
					}
				}
				require.NoError(t, a.Classes.Report(ctx, head, c.Session, r))
			}
		}
	}
	clock = now.AddDate(0, 0, int(start-calendar.DayOf(now))+14)
	line, err = a.Seasons.CoverageLine(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, 2, line.Now)
	require.Len(t, line.Happened, 3)
	t.Logf("forecast %.3f %.3f %.3f, happened %.3f %.3f %.3f", line.Forecast[0].Mean, line.Forecast[1].Mean, line.Forecast[2].Mean, line.Happened[0].Share, line.Happened[1].Share, line.Happened[2].Share)
	assert.Greater(t, line.Happened[2].Share, line.Happened[0].Share)
	assert.InDelta(t, line.Forecast[2].Mean, line.Happened[2].Share, 0.15, "about as it was expected")
	require.NotEmpty(t, line.From)
	assert.InDelta(t, line.Happened[2].Share, line.From[0].Mean, 1e-9, "from here begins where that ended")
	assert.GreaterOrEqual(t, line.From[len(line.From)-1].Mean, line.From[0].Mean)

	taught, err := a.Seasons.Taught(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, taught.Totals.Planned, taught.Totals.Whole, "all as planned: %+v", taught.Totals)
	assert.Zero(t, taught.Totals.Not+taught.Totals.Unknown)

	again, err := a.Seasons.CoverageLine(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, line, again, "asked again, nothing having happened")
	clock = clock.AddDate(0, 0, 1)
	tomorrow, err := a.Seasons.CoverageLine(ctx, head, id)
	require.NoError(t, err)
	assert.NotEqual(t, line.From, tomorrow.From, "another day has other classes to come")

	// What was said at the first publication stays, whatever is published, promoted, asked otherwise or merged since; it lies inside its own band, and
	// so does what is said at the second.
	first, happened := line.Forecast, line.Happened
	_, err = a.Seasons.TakeSeasonRepair(ctx, head, id, seasons.Happening{Kind: "closed", Week: 5})
	require.NoError(t, err)
	_, err = a.Seasons.PublishSeason(ctx, head, id, 0)
	require.NoError(t, err)
	line, err = a.Seasons.CoverageLine(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, first, line.Forecast)
	assert.Equal(t, happened, line.Happened)
	require.NotEmpty(t, line.Revised)
	assert.Equal(t, 2, line.Revised[0].Week)
	for _, w := range slices.Concat(line.Forecast, line.Revised, line.From) {
		assert.True(t, w.Low <= w.Mean+0.01 && w.Mean <= w.High+0.01, "%+v", w)
	}
	rows, err := a.People.People(ctx, head)
	require.NoError(t, err)
	promoted := 0
	for _, p := range rows {
		if _, err := a.People.Promote(ctx, head, nil, []people.RankDecision{{Student: p.ID, Outcome: academy.NextRank}}); err == nil {
			promoted++
		}
	}
	assert.Greater(t, promoted, 10)
	after, err := a.Seasons.CoverageLine(ctx, head, id)
	require.NoError(t, err)
	assert.Equal(t, happened, after.Happened, "whoever rises has had what they had")
	assert.Equal(t, first, after.Forecast)
}
