package rules

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/search"
	"vereda/internal/seasontest"
)

// The judge that explains finds something exactly when the simple one does.
func TestBothJudgesAgreeOnBrokenPlans(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := seasontest.DrawHabits(t)
		plan, err := search.Solve(p, nil)
		require.NoError(t, err)
		all := slices.Clone(plan.Placements)
		for range rapid.IntRange(1, 3).Draw(t, "times") {
			if len(all) == 0 {
				return
			}
			i := rapid.IntRange(0, len(all)-1).Draw(t, "which")
			x := &all[i]
			x.Items = slices.Clone(x.Items)
			unit := rapid.SampledFrom(p.Units).Draw(t, "unit").ID
			switch rapid.IntRange(0, 5).Draw(t, "how") {
			case 0:
				x.Items = append(x.Items, season.Item{Unit: unit, Kind: season.Teach})
			case 1:
				x.Items = append(x.Items, season.Item{Unit: unit, Kind: season.Review})
			case 2:
				at := rapid.IntRange(0, len(x.Items)-1).Draw(t, "item")
				x.Items[at].Kind = map[string]string{season.Teach: season.Review, season.Review: season.Teach}[x.Items[at].Kind]
			case 3:
				x.Lead = rapid.SampledFrom(p.Coaches).Draw(t, "lead").ID
			case 4:
				x.Lead = ""
			case 5:
				if len(x.Items) > 1 {
					x.Items = x.Items[1:]
				}
			}
		}
		simple, explained := seasontest.Breaches(p, all), Hard(Breaches(p, all))
		require.Equal(t, len(simple) == 0, len(explained) == 0, "simple: %v\nexplained: %v", simple, explained)
		for _, b := range explained {
			require.NotEmpty(t, b.What)
			require.NotEmpty(t, b.Rule)
		}
		if len(simple) == 0 { // what no plan may break comes first
			own, read := Own(Breaches(p, all)), seasontest.Habits(p, all)
			require.Equal(t, len(read) == 0, len(own) == 0, "read: %v\nfound: %v", read, own)
		}
	})
}

// What a unit stands on was taught on an earlier day: another class of the same evening is too late.
func TestWhatItStandsOnIsOfAnEarlierDay(t *testing.T) {
	p := season.Problem{Weeks: 2, Tracks: []season.Track{{ID: "t", Mode: "split", School: "free"}},
		Classes:  []season.Class{{ID: "first", Track: "t", Weekday: 1, Start: "17:00", TeachMinutes: 40}, {ID: "second", Track: "t", Weekday: 1, Start: "19:00", TeachMinutes: 40}, {ID: "later", Track: "t", Weekday: 2, Start: "17:00", TeachMinutes: 40}},
		Units:    []season.Unit{{ID: "a", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Area: "x"}, {ID: "b", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Area: "x", Requires: []string{"a"}}},
		Coaches:  []season.Coach{{ID: "c", Available: []string{"first", "second", "later"}, MaxPerWeek: 9}},
		Students: []season.Student{{ID: "s", Chance: map[string]float64{"first": 1, "second": 1, "later": 1}, Open: []season.Need{{Unit: "a", Need: 1, Weight: 1}, {Unit: "b", Need: 1, Weight: 1}}}}}
	for class, broken := range map[string]bool{"second": true, "later": false} {
		found := Hard(Breaches(p, []season.Placement{
			{Week: 1, Class: "first", Lead: "c", Items: []season.Item{{Unit: "a", Kind: season.Teach}}},
			{Week: 1, Class: class, Lead: "c", Items: []season.Item{{Unit: "b", Kind: season.Teach}}},
		}))
		require.Equal(t, broken, len(found) > 0, "%s: %v", class, found)
	}
}
