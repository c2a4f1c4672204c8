package app_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/documents"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/season/repair"
	"vereda/internal/testkit"
)

func units(t *testing.T, a *app.App, season string) seasons.UnitsPage {
	t.Helper()
	p, err := a.Seasons.Units(t.Context(), head, season)
	require.NoError(t, err)
	return p
}

func unit(t *testing.T, p seasons.UnitsPage, name string) seasons.UnitLine {
	t.Helper()
	i := slices.IndexFunc(p.Units, func(x seasons.UnitLine) bool { return x.Name == name })
	require.GreaterOrEqual(t, i, 0, "there is no unit %q", name)
	return p.Units[i]
}

func TestUnitsAreWrittenUndoneAndKeptWhileSpokenOf(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	cut := unit(t, units(t, a, id), "Knee cut")
	x := academy.Unit{Name: "Knee cut", Area: "passing", Techniques: cut.Techniques, Tracks: cut.Tracks, Minutes: 15, ReviewMinutes: 5, Requires: []string{cut.ID}}
	fresh, change, err := a.Seasons.SaveUnit(ctx, head, x, 0)
	require.NoError(t, err)
	assert.NotEqual(t, cut.ID, fresh, "the same name, an identifier of its own")
	after := units(t, a, id)
	was := after.Units[slices.IndexFunc(after.Units, func(x seasons.UnitLine) bool { return x.ID == cut.ID })]
	assert.Contains(t, was.Opens, "Knee cut")

	var refused *state.ValidationError
	_, err = a.Seasons.RemoveUnit(ctx, head, cut.ID)
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, err.Error(), "stays: ")
	_, _, err = a.Seasons.SaveUnit(ctx, head, academy.Unit{ID: cut.ID, Name: cut.Name, Area: cut.Area, Techniques: cut.Techniques, Tracks: cut.Tracks, Minutes: cut.Minutes, ReviewMinutes: cut.ReviewMinutes, Requires: []string{fresh}}, cut.Version)
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, err.Error(), "stand on each other")
	_, err = a.Seasons.RemoveUnit(ctx, head, "nothing")
	var missing *state.NotFoundError
	require.ErrorAs(t, err, &missing)
	x.ID = "nothing"
	_, _, err = a.Seasons.SaveUnit(ctx, head, x, 0)
	require.ErrorAs(t, err, &missing)

	// What was added goes again, unless something has come to stand on it.
	x.ID, x.Name, x.Requires = "", "Knee cut, again", []string{fresh}
	_, second, err := a.Seasons.SaveUnit(ctx, head, x, 0)
	require.NoError(t, err)
	_, err = a.State.Undo(ctx, head, change)
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, err.Error(), "Knee cut, again speaks of it now")
	for _, c := range []string{second, change} {
		_, err = a.State.Undo(ctx, head, c)
		require.NoError(t, err)
	}
	assert.Equal(t, units(t, a, id).Units, slices.DeleteFunc(units(t, a, id).Units, func(x seasons.UnitLine) bool { return x.ID == fresh }))

	// A planned unit made longer than any class: the plan stands and says so.
	require.Empty(t, page(t, a, id).Breaks)
	taught := page(t, a, id).Rows[0].Cells[2].Items[0]
	long := unit(t, units(t, a, id), taught.Name).Unit
	long.Minutes, long.ReviewMinutes = 170, 170
	_, change, err = a.Seasons.SaveUnit(ctx, head, long, version(t, a, documents.Unit, long.ID))
	require.NoError(t, err)
	assert.NotEmpty(t, page(t, a, id).Breaks)
	_, err = a.Seasons.RemoveUnit(ctx, head, long.ID)
	require.ErrorAs(t, err, &refused)
	_, err = a.State.Undo(ctx, head, change)
	require.NoError(t, err)
	assert.Empty(t, page(t, a, id).Breaks)
}

// Demand is every unit once and the part that comes again; supply what the
// season still has, by hand counted here.
func TestMinutesOfATrackAreDemandAndSupply(t *testing.T) {
	a, id := laid(t)
	ctx := t.Context()
	at := func(p seasons.UnitsPage, track string) seasons.UnitTrack {
		return p.Tracks[slices.IndexFunc(p.Tracks, func(x seasons.UnitTrack) bool { return x.ID == track })]
	}
	before := units(t, a, id)
	tracks, err := a.Seasons.Timetable(ctx, head)
	require.NoError(t, err)
	of := func(track string) academy.Track {
		return tracks.Tracks[slices.IndexFunc(tracks.Tracks, func(x seasons.TrackLine) bool { return x.ID == track })].Track
	}
	demand := 0.0
	for _, x := range before.Units {
		if slices.Contains(x.Tracks, "fundamentals") && !slices.Contains(of("fundamentals").Assumed, x.ID) {
			demand += 1.35 * float64(x.Minutes)
		}
	}
	fund := at(before, "fundamentals")
	assert.InDelta(t, demand, fund.Demand, 1e-9)
	assert.Equal(t, 6*35, fund.Supply, "six weeks, the same in both classes: the longest has 35")
	assert.False(t, fund.Enough)
	assert.Equal(t, "Winter", fund.Season)
	assert.Equal(t, 5*28+6*40, at(before, "no-gi").Supply, "split: each class, but the one of yesterday")

	_, err = a.Seasons.SetClosures(ctx, head, id, []academy.Closure{{Week: 2}, {Week: 3, Class: "nogi-weekend"}}, page(t, a, id).Closures)
	require.NoError(t, err)
	after := units(t, a, id)
	assert.Equal(t, 5*35, at(after, "fundamentals").Supply)
	assert.Equal(t, 4*28+4*40, at(after, "no-gi").Supply)
	assert.Equal(t, after.Tracks, units(t, a, "").Tracks, "the latest season where none is named")

	// A track that takes younger people is refused what its gates keep from them.
	nogi := of("no-gi")
	nogi.MinAge = 9
	_, _, err = a.Seasons.SaveTrack(ctx, head, nogi, version(t, a, documents.Track, nogi.ID))
	require.NoError(t, err)
	refusals := 0
	for _, x := range units(t, a, id).Units {
		refusals += len(x.Refused)
	}
	assert.Greater(t, refusals, 1, "leg attacks are not for nine-year-olds")
	nogi.Assumed = append(nogi.Assumed, "nothing")
	_, _, err = a.Seasons.SaveTrack(ctx, head, nogi, version(t, a, documents.Track, nogi.ID))
	var refused *state.ValidationError
	require.ErrorAs(t, err, &refused)
}

func TestCoachesComeAndGo(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, id := laid(t)
	ctx := t.Context()
	others := func() []state.Named {
		p, err := a.Seasons.Timetable(ctx, head)
		require.NoError(t, err)
		var all []state.Named
		for _, o := range p.Others {
			all = append(all, o.Named)
		}
		return all
	}
	oren := state.Named{ID: "oren-vask", Name: "Oren Vask"}
	require.Contains(t, others(), oren)
	_, err := a.Seasons.SaveCoach(ctx, head, "oren-vask", "", academy.Terms{Available: []string{"fund-early"}, Signoffs: []string{}, MaxPerWeek: 1, Share: 0.1}, version(t, a, documents.Person, "oren-vask"))
	require.NoError(t, err)
	assert.NotContains(t, others(), oren)

	to := repair.Spot{Week: 2, Class: "fund-early"}
	trial, err := a.Seasons.TryMove(ctx, head, id, repair.Move{To: &to, Lead: "oren-vask"})
	require.NoError(t, err)
	assert.Regexp(t, `^Give Fundamentals, early week on \w+ \d+ \w+ \d+ to Oren Vask$`, trial.Summary.String())
	assert.Equal(t, strings.Replace(trial.Summary.String(), "Give", "Gave", 1), trial.Done.String())
	assert.InDelta(t, trial.Before, trial.After, 1e-12, "who leads changes nobody's chance")
	given, err := a.Seasons.MakeMove(ctx, head, id, repair.Move{To: &to, Lead: "oren-vask"})
	require.NoError(t, err)
	_, err = a.Seasons.RemoveCoach(ctx, head, "oren-vask")
	var refused *state.ValidationError
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, err.Error(), "leads Fundamentals, early week in week 2 of Winter")
	_, err = a.State.Undo(ctx, head, given)
	require.NoError(t, err)
	gone, err := a.Seasons.RemoveCoach(ctx, head, "oren-vask")
	require.NoError(t, err)
	assert.Contains(t, others(), oren)
	_, err = a.State.Undo(ctx, head, gone)
	require.NoError(t, err)
	assert.NotContains(t, others(), oren)
	var missing *state.NotFoundError
	_, err = a.Seasons.RemoveCoach(ctx, head, "piet-lindqvar")
	assert.ErrorAs(t, err, &missing)
}
