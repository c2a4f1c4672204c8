package app_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/seasons"
	"vereda/core/season"
	"vereda/core/season/repair"
	"vereda/internal/testkit"
)

// The rules of a track hold in what is planned, can be broken by hand, are marked then, and do not keep a plan from being published.
func TestTheRulesOfATrackAreKeptSaidAndOverruled(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	s, winter := readSeason(t, a, id)
	for _, x := range winter.Plan.Placements {
		assert.LessOrEqual(t, len(x.Items), s.Tracks["fundamentals"].Rules.MostUnits)
	}
	assert.Empty(t, page(t, a, id).Breaks)

	// One week taught twice: by hand it may be, and it is said.
	var first season.Placement
	for _, x := range winter.Plan.Placements {
		if x.Class == "fund-early" && x.Week == 2 {
			first = x
		}
	}
	require.NotEmpty(t, first.Items)
	var taught string
	for _, it := range first.Items {
		if it.Kind == season.Teach {
			taught = it.Unit
		}
	}
	require.NotEmpty(t, taught)
	third, _ := winter.Plan.Find(3, "fund-early")
	for _, it := range third.Items { // room for it
		_, err := a.Seasons.MakeMove(ctx, head, id, repair.Move{Unit: it.Unit, From: &repair.Spot{Week: 3, Class: "fund-early"}})
		require.NoError(t, err)
	}
	move := repair.Move{Unit: taught, Kind: season.Teach, To: &repair.Spot{Week: 3, Class: "fund-early"}}
	trial, err := a.Seasons.TryMove(ctx, head, id, move)
	require.NoError(t, err)
	var own []string
	for _, b := range trial.Breaks {
		if b.Own {
			own = append(own, b.What.String())
		}
	}
	require.NotEmpty(t, own)
	assert.Contains(t, own[0], "comes again sooner than its track's rules ask")
	_, err = a.Seasons.MakeMove(ctx, head, id, move)
	require.NoError(t, err)
	hard := 0
	for _, b := range page(t, a, id).Breaks {
		if !b.Own {
			hard++
		}
	}
	if hard == 0 {
		_, err = a.Seasons.PublishSeason(ctx, head, id, 0)
		require.NoError(t, err, "what the academy asks of itself it may leave undone")
	}
	_, err = a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.3))
	require.NoError(t, err)
	assert.Empty(t, page(t, a, id).Breaks, "planned again, all of it is kept")
}

func TestWhatTheRulesCostIsWorkedOutForEach(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	costs, err := a.Seasons.CostOfRules(ctx, head, id)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, costs.Free, costs.Coverage)
	require.Len(t, costs.Rules, 6, "as many as the demo's tracks ask")
	for _, r := range costs.Rules {
		assert.GreaterOrEqual(t, r.Cost, 0.0)
		assert.Equal(t, []string{"Fundamentals", "No-gi"}, r.Tracks)
	}
	s, _ := readSeason(t, a, id)
	track := s.Tracks["fundamentals"]
	track.Rules = season.Rules{MostUnits: 1, MostNew: 1, TeachEach: true, ReviewWeeks: []int{6}}
	_, _, err = a.Seasons.SaveTrack(ctx, head, track, s.Version("track", track.ID))
	require.NoError(t, err)
	strict, err := a.Seasons.CostOfRules(ctx, head, id)
	require.NoError(t, err)
	assert.Less(t, strict.Coverage, costs.Coverage, "one unit an evening covers less")
	track.Rules.TeachGap = 99
	s, _ = readSeason(t, a, id)
	_, _, err = a.Seasons.SaveTrack(ctx, head, track, s.Version("track", track.ID))
	assert.Contains(t, problems(t, err), "99")
}

func TestAUnitIsKeptOutOfWeeksAndThePlanIsRead(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	_, winter := readSeason(t, a, id)
	var at season.Placement
	for _, x := range winter.Plan.Placements {
		if x.Class == "fund-early" && x.Week >= 3 && len(x.Items) > 0 {
			at = x
			break
		}
	}
	require.NotEmpty(t, at.Items)
	unit := at.Items[0].Unit
	_, err := a.Seasons.TakeSeasonRepair(ctx, head, id, seasons.Happening{Kind: "barred", Week: at.Week, Weeks: 2, Unit: unit})
	require.NoError(t, err)
	_, after := readSeason(t, a, id)
	for _, x := range after.Plan.Placements {
		if x.Week == at.Week || x.Week == at.Week+1 {
			assert.NotContains(t, x.Items, season.Item{Unit: unit, Kind: season.Teach})
			assert.NotContains(t, x.Items, season.Item{Unit: unit, Kind: season.Review})
		}
	}
	_, err = a.Seasons.RemoveUnit(ctx, head, unit)
	assert.Error(t, err, "what a season speaks of stays")

	story, err := a.Seasons.Story(ctx, head, id)
	require.NoError(t, err)
	require.Len(t, story.Tracks, 2)
	for _, track := range story.Tracks {
		require.Len(t, track.Weeks, 6)
		assert.NotEmpty(t, track.Asks)
		for _, w := range track.Weeks {
			assert.NotEmpty(t, w.Says)
			assert.NotContains(t, w.Says, "u-", "units are called by their names: %s", w.Says)
		}
	}
	told := ""
	for _, w := range story.Tracks[0].Weeks {
		told += w.Says.String()
	}
	assert.True(t, strings.Contains(told, "New: "))
}
