package repair

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/rules"
	"vereda/core/season/search"
	"vereda/internal/seasontest"
)

// A move by hand changes the two squares it speaks of and nothing else, its
// coverage is the coverage, and what the explaining judge says is broken is broken for
// the other judge too.
func TestAMoveByHandChangesWhatItSpeaksOf(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := seasontest.DrawProblem(t)
		old, err := search.Solve(p, nil)
		require.NoError(t, err)
		spot := func(what string) Spot {
			return Spot{rapid.IntRange(1, p.Weeks).Draw(t, what+" week"), p.Classes[rapid.IntRange(0, len(p.Classes)-1).Draw(t, what+" class")].ID}
		}
		to := spot("to")
		v := Move{Unit: p.Units[rapid.IntRange(0, len(p.Units)-1).Draw(t, "unit")].ID, Kind: rapid.SampledFrom([]string{season.Teach, season.Review}).Draw(t, "kind"), To: &to}
		if len(old.Placements) > 0 && rapid.Bool().Draw(t, "from a class") {
			x := old.Placements[rapid.IntRange(0, len(old.Placements)-1).Draw(t, "which")]
			v.Unit, v.From = x.Items[0].Unit, &Spot{x.Week, x.Class}
		}
		moved, err := Moved(p, old, v)
		if err != nil {
			require.True(t, season.Closed(p, to.Week, to.Class), "%v", err)
			return
		}
		again, _ := season.Coverage(p, moved.Placements)
		require.InDelta(t, again, moved.Coverage, 1e-12)
		require.Equal(t, len(seasontest.Breaches(p, moved.Placements)) == 0, len(rules.Breaches(p, moved.Placements)) == 0, "%v\n%v", seasontest.Breaches(p, moved.Placements), rules.Breaches(p, moved.Placements))
		for _, c := range Diff(old, moved) {
			require.True(t, c.Week == to.Week || v.From != nil && c.Week == v.From.Week, "%+v", c)
		}
		x, ok := moved.Find(to.Week, to.Class)
		if i := slices.IndexFunc(p.Classes, func(c season.Class) bool { return c.ID == to.Class }); p.Tracks[slices.IndexFunc(p.Tracks, func(t season.Track) bool { return t.ID == p.Classes[i].Track })].Mode == "split" {
			require.True(t, ok)
			require.Contains(t, x.Items, season.Item{Unit: v.Unit, Kind: v.Kind})
		}
	})
}

func TestMovesThatCannotBeMade(t *testing.T) {
	p := seasontest.Small()
	old, err := search.Solve(p, nil)
	require.NoError(t, err)
	p.Fixed = []season.Placement{{Week: 1, Class: "tue", Held: true, Items: []season.Item{{Unit: "legs", Kind: season.Teach}}}}
	for why, v := range map[string]Move{
		"is not among the units":     {Unit: "x", To: &Spot{1, "mon"}},
		"is not in":                  {Unit: "huge", From: &Spot{1, "mon"}},
		"is closed in week 3":        {Unit: "legs", To: &Spot{3, "tue"}},
		"was held: it does not move": {Unit: "legs", To: &Spot{1, "tue"}},
		"is not in the season":       {Unit: "legs", To: &Spot{9, "tue"}},
		"is not among the coaches":   {Lead: "x", To: &Spot{1, "mon"}},
		"there is nothing to lead":   {Lead: "dov", To: &Spot{3, "mon"}},
	} {
		_, err := Moved(p, old, v)
		assert.ErrorContains(t, err, why)
	}
	led, err := Moved(p, old, Move{Lead: "dov", To: &Spot{1, "mon"}})
	require.NoError(t, err)
	found := rules.Breaches(p, led.Placements)
	require.NotEmpty(t, found)
	assert.Equal(t, "lead", found[0].Rule)
	assert.Equal(t, "The lead is not available.", found[0].What.String())
}

// No other single exchange that keeps the rules helps more.
func TestHelpsFindsTheBestExchange(t *testing.T) {
	helped := 0
	for seed := range uint64(40) {
		p := seasontest.Tiny(seed)
		if p.Tracks[0].Mode == "same" && len(p.Classes) > 1 {
			continue // emptying one class of a week is no plan in mode same
		}
		plan, err := search.Solve(p, nil)
		require.NoError(t, err)
		if len(plan.Placements) > 0 { // as if a class had been emptied by hand
			plan.Placements = plan.Placements[:len(plan.Placements)-1]
			plan.Coverage, _ = season.Coverage(p, plan.Placements)
		}
		mean := func(all []season.Covered) (sum float64) {
			weights := 0.0
			for _, c := range all {
				if c.Student == "s0" {
					sum, weights = sum+c.Weight*c.Chance, weights+c.Weight
				}
			}
			return sum / max(weights, 1e-9)
		}
		_, each := season.Coverage(p, plan.Placements)
		h, ok := Helps(p, plan, "s0", "")
		if !ok {
			continue
		}
		helped++
		require.InDelta(t, mean(each), h.Before, 1e-9, "seed %d", seed)
		require.Greater(t, h.After, h.Before)
	}
	require.Positive(t, helped)
}
