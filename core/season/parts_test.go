package season

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The judge of staffing: every way to give leads to the classes of a week.
// Spacing counts from the last teach: one step for the first review, two for the second.
// Adding a presence never lowers the chance, and more exposure never less.
func TestChanceCoveredIsMonotone(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		all := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Presence {
			return Presence{rapid.Float64Range(0, 1).Draw(t, "p"), rapid.IntRange(1, 2).Draw(t, "v")}
		}), 0, 12).Draw(t, "presences")
		need := rapid.IntRange(0, 8).Draw(t, "need")
		base := ChanceCovered(all, need)
		require.True(t, base >= 0 && base <= 1+1e-12)
		extra := Presence{rapid.Float64Range(0, 1).Draw(t, "q"), rapid.IntRange(1, 2).Draw(t, "w")}
		require.GreaterOrEqual(t, ChanceCovered(append(slices.Clone(all), extra), need), base-1e-12)
		require.LessOrEqual(t, ChanceCovered(all, need+1), base+1e-12)
		reversed := slices.Clone(all)
		slices.Reverse(reversed)
		require.InDelta(t, base, ChanceCovered(reversed, need), 1e-12, "their order does not matter")
		d := newTally(need)
		for _, p := range all {
			d.add(p.Chance, p.Halves)
		}
		sum := 0.0
		for _, p := range d {
			sum += p
		}
		require.InDelta(t, 1, sum, 1e-9, "a distribution")
		require.GreaterOrEqual(t, d.progress(), d.reached()-1e-12)
	})
}

func TestMissingRoundsUpToHalfUnits(t *testing.T) {
	for _, c := range []struct {
		need, had float64
		halves    int
	}{{2, 0, 4}, {2, 0.5, 3}, {2, 0.75, 3}, {2, 2, 0}, {2, 3, 0}, {1, 0.9, 1}} {
		assert.Equal(t, c.halves, Need{Need: c.need, Had: c.had}.missing(), "%+v", c)
	}
}

// The envelope lies on or above every point, and each step yields less than
// the one before.
// What Why says an item is worth is what the season loses without it.
func TestWhyAgreesWithCoverage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawProblem(t)
		for i := range p.Classes { // else what stands behind it would move up into shorter classes
			p.Classes[i].TeachMinutes = p.Classes[0].TeachMinutes
		}
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		track := map[string]string{}
		for _, c := range p.Classes {
			track[c.ID] = c.Track
		}
		for _, x := range plan.Placements {
			for _, it := range x.Items {
				why, ok := Why(p, plan, x.Week, x.Class, it.Unit)
				require.True(t, ok)
				var rest []Placement
				for _, y := range plan.Placements {
					if p.Tracks[slices.IndexFunc(p.Tracks, func(t Track) bool { return t.ID == track[x.Class] })].Mode == "same" && y.Week == x.Week && track[y.Class] == track[x.Class] || y.Class == x.Class && y.Week == x.Week {
						y.Items = slices.DeleteFunc(slices.Clone(y.Items), func(o Item) bool { return o == it })
					}
					rest = append(rest, y)
				}
				without, _ := Coverage(p, rest)
				require.InDelta(t, plan.Coverage-without, why.Worth, 1e-12)
				require.Equal(t, x.Lead, why.Lead)
				require.Len(t, why.LeadWhy, len(p.Coaches)-1)
				for _, g := range why.Gains {
					require.Greater(t, g.With, g.Without)
				}
				for _, s := range why.WaitsFor {
					require.Less(t, s.Week, x.Week+1)
				}
			}
		}
	})
}

// A coach falls out for a week: only who leads changes where others can.
func TestRepairOfACoachWhoIsOut(t *testing.T) {
	p := small()
	p.Coaches = append(p.Coaches, Coach{ID: "tam", Available: []string{"mon", "wed", "tue", "fri"}, Signoffs: []string{"leg attacks"}, MaxPerWeek: 4, Share: 0.2})
	old, err := Solve(p, nil)
	require.NoError(t, err)
	out := p
	out.Coaches = slices.Clone(p.Coaches)
	out.Coaches[0].Out = []Away{{Week: 4}}
	r, err := Repair(out, old, 4)
	require.NoError(t, err)
	require.Empty(t, breaches(out, r.Plan.Placements))
	assert.InDelta(t, old.Coverage, r.Plan.Coverage, 0.01)
	for _, c := range r.Changes {
		assert.Equal(t, 4, c.Week, "%+v", c)
		require.NotNil(t, c.After)
		assert.NotEqual(t, "ines", c.After.Lead)
	}
}

func TestDiffOfAPlanWithItselfIsEmpty(t *testing.T) {
	plan, err := Solve(small(), nil)
	require.NoError(t, err)
	assert.Empty(t, Diff(plan, plan))
	gone := Plan{Placements: plan.Placements[1:]}
	require.Len(t, Diff(plan, gone), 1)
	assert.Nil(t, Diff(plan, gone)[0].After)
	assert.Nil(t, Diff(gone, plan)[0].Before)
}

func TestUnplacedSaysWhy(t *testing.T) {
	p := small()
	p.Coaches[1].Signoffs = nil
	plan, err := Solve(p, nil)
	require.NoError(t, err)
	why := map[string]string{}
	for _, u := range plan.Unplaced {
		why[u.Unit] = u.Why
	}
	assert.Equal(t, "No coach who is signed off for leg attacks can lead a class of its tracks.", why["legs"])
	p = small()
	p.Units[0].Minutes = 99
	plan, err = Solve(p, nil)
	require.NoError(t, err)
	i := slices.IndexFunc(plan.Unplaced, func(u Unplaced) bool { return u.Unit == "escape" })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, "It stands on Hip escape, which its tracks do not teach either.", plan.Unplaced[i].Why)
}
