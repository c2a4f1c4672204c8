package repair

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/search"
	"vereda/internal/seasontest"
)

// What was not reached comes back, or is named: it never vanishes because little is lost without it.
func TestWhatWasNotReachedComesBackOrIsNamed(t *testing.T) {
	back, named := 0, 0
	for round := 0; round < 6 && (back == 0 || named == 0); round++ { // few seasons have no room for it
		rapid.Check(t, func(t *rapid.T) { comesBackOrIsNamed(t, &back, &named) })
	}
	assert.Positive(t, back)
	assert.Positive(t, named)
}

func comesBackOrIsNamed(t *rapid.T, back, named *int) {
	p := seasontest.DrawProblem(t)
	old, err := search.Solve(p, nil)
	require.NoError(t, err)
	if len(old.Placements) == 0 {
		return
	}
	x := old.Placements[rapid.IntRange(0, len(old.Placements)-1).Draw(t, "class")]
	it := x.Items[rapid.IntRange(0, len(x.Items)-1).Draw(t, "item")]
	happened := []Disruption{{Kind: "not_reached", Week: x.Week, Class: x.Class, Unit: it.Unit}}
	changed, plan, err := Disrupted(p, old, happened)
	require.NoError(t, err)
	r, err := Repair(changed, plan, x.Week+1, happened...)
	if err != nil {
		return // what came after stands on it and cannot be taught any more
	}
	require.Empty(t, seasontest.Breaches(changed, r.Plan.Placements))
	k := slices.IndexFunc(p.Classes, func(c season.Class) bool { return c.ID == x.Class })
	track := p.Classes[k].Track
	taught := slices.ContainsFunc(r.Plan.Placements, func(y season.Placement) bool {
		of := slices.IndexFunc(p.Classes, func(c season.Class) bool { return c.ID == y.Class })
		return p.Classes[of].Track == track && slices.Contains(y.Items, season.Item{Unit: it.Unit, Kind: season.Teach})
	})
	assumed := slices.ContainsFunc(p.Tracks, func(t season.Track) bool { return t.ID == track && slices.Contains(t.Assumed, it.Unit) })
	if taught || assumed {
		*back++
		assert.Empty(t, r.Dropped)
	} else {
		*named++
		assert.Equal(t, []Missed{{it.Unit, track}}, r.Dropped)
	}
}

// A unit worth less than the tolerance comes back all the same when there is room.
func TestAMissedUnitIsNotLetGoForLittle(t *testing.T) {
	p := seasontest.Generated(seasontest.MediumSeason, 2)
	p.Seconds = 0.1
	old, err := search.Solve(p, nil)
	require.NoError(t, err)
	tried := 0
	for _, x := range old.Placements {
		if x.Week > 3 || tried > 5 || len(x.Items) == 0 || x.Items[0].Kind != season.Teach {
			continue
		}
		happened := []Disruption{{Kind: "not_reached", Week: x.Week, Class: x.Class, Unit: x.Items[0].Unit}}
		changed, plan, err := Disrupted(p, old, happened)
		require.NoError(t, err)
		if len(missed(changed, plan, happened)) == 0 {
			continue // it is taught again anyway
		}
		tried++
		r, err := Repair(changed, plan, x.Week+1, happened...)
		require.NoError(t, err)
		assert.Empty(t, r.Dropped, "%s in week %d", x.Class, x.Week)
		assert.NotEmpty(t, r.Changes)
	}
	assert.Positive(t, tried)
}
