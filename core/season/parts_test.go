package season

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestRefusalSaysWhyACoachCannotLead(t *testing.T) {
	coach := Coach{ID: "ines", Available: []string{"mon"}, Out: []Away{{3}}, Signoffs: []string{"throws"}, MaxPerWeek: 1}
	for _, c := range []struct {
		week int
		call call
		why  string
	}{
		{1, call{class: "mon"}, ""},
		{1, call{class: "tue"}, "not available"},
		{3, call{class: "mon"}, "out in week 3"},
		{1, call{class: "mon", signoffs: []string{"throws"}}, ""},
		{1, call{class: "mon", signoffs: []string{"throws", "leg attacks"}}, "not signed off for leg attacks"},
	} {
		assert.Equal(t, c.why, coach.refusal(c.week, c.call))
	}
}

// The judge of staffing: every way to give leads to the classes of a week.
func TestStaffingFindsLeadsWheneverThereAreAny(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := Problem{}
		var calls []call
		for i := range rapid.IntRange(1, 5).Draw(t, "classes") {
			c := call{class: fmt.Sprint("c", i)}
			if rapid.Bool().Draw(t, "asks a sign-off") {
				c.signoffs = []string{"legs"}
			}
			calls = append(calls, c)
		}
		for i := range rapid.IntRange(1, 4).Draw(t, "coaches") {
			c := Coach{ID: fmt.Sprint("k", i), MaxPerWeek: rapid.IntRange(0, 3).Draw(t, "limit"), Share: rapid.Float64Range(0, 1).Draw(t, "share")}
			for _, x := range calls {
				if rapid.Bool().Draw(t, "available") {
					c.Available = append(c.Available, x.class)
				}
			}
			if rapid.Bool().Draw(t, "signed off") {
				c.Signoffs = []string{"legs"}
			}
			p.Coaches = append(p.Coaches, c)
		}
		most := 0
		var try func(i, led int, used map[string]int)
		try = func(i, led int, used map[string]int) {
			if i == len(calls) {
				most = max(most, led)
				return
			}
			try(i+1, led, used)
			for _, c := range p.Coaches {
				if c.refusal(1, calls[i]) == "" && used[c.ID] < c.MaxPerWeek {
					used[c.ID]++
					try(i+1, led+1, used)
					used[c.ID]--
				}
			}
		}
		try(0, 0, map[string]int{})
		leads, left := newCrew(p).week(1, calls, nil)
		require.Len(t, leads, most, "as many classes are led as can be")
		require.Len(t, left, len(calls)-most)
		used := map[string]int{}
		for _, x := range calls {
			for _, c := range p.Coaches {
				if leads[x.class] == c.ID {
					require.Empty(t, c.refusal(1, x))
					used[c.ID]++
					require.LessOrEqual(t, used[c.ID], c.MaxPerWeek)
				}
			}
		}
	})
}

func TestFairSharesAndContinuity(t *testing.T) {
	p := Problem{Coaches: []Coach{{ID: "a", Available: []string{"mon"}, MaxPerWeek: 1, Share: 0.5}, {ID: "b", Available: []string{"mon"}, MaxPerWeek: 1, Share: 0.5}}}
	c := newCrew(p)
	led := map[string]int{}
	previous := map[string]string{}
	for week := range 12 {
		leads, _ := c.week(week+1, []call{{class: "mon"}}, previous)
		led[leads["mon"]]++
		c.load[leads["mon"]]++
		previous = leads
	}
	assert.InDelta(t, 6, led["a"], 1, "equal shares, nearly equal classes")
	c.load = map[string]int{"a": 3, "b": 3}
	leads, _ := c.week(9, []call{{class: "mon"}}, map[string]string{"mon": "b"})
	assert.Equal(t, "b", leads["mon"], "of two who led as much, the one of last week")
}

// Spacing counts from the last teach: one step for the first review, two for the second.
func TestWellSpaced(t *testing.T) {
	p := Problem{Weeks: 12, Goal: "full", Spacing: Spacing{Weeks: []int{1, 3, 7}, Tolerance: 0}, Tracks: []Track{{ID: "t", Mode: "same", Assumed: []string{"old"}}}, Classes: []Class{{"c", "t", 1, "18:00", 60}},
		Units: []Unit{{ID: "u", Tracks: []string{"t"}, Minutes: 10, ReviewMinutes: 5}, {ID: "old", Tracks: []string{"t"}, Minutes: 10, ReviewMinutes: 5}}}
	b := newBoard(p)
	at := func(week int) *square { return &b.squares[week-1] }
	at(2).items = []Item{{"u", Teach}}
	good := func(unit string) (weeks []int) {
		for w := 3; w <= 12; w++ {
			if b.wellSpaced(at(w), unit) {
				weeks = append(weeks, w)
			}
		}
		return weeks
	}
	assert.Equal(t, []int{3}, good("u"), "one week after the teach")
	at(3).items = []Item{{"u", Review}}
	assert.Equal(t, []int{5}, good("u")[len(good("u"))-1:], "three weeks after the teach")
	at(5).items = []Item{{"u", Review}}
	assert.Equal(t, 9, good("u")[len(good("u"))-1], "seven weeks after the teach")
	at(9).items = []Item{{"u", Review}}
	assert.NotContains(t, good("u"), 12, "three reviews are enough")
	assert.True(t, b.wellSpaced(at(1), "old"), "what is assumed counts as taught before week 1")
}

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
func TestEnvelope(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		points := []step{{0, rapid.Float64Range(0, 1).Draw(t, "start")}}
		for range rapid.IntRange(0, 12).Draw(t, "points") {
			points = append(points, step{float64(rapid.IntRange(1, 40).Draw(t, "cost")), rapid.Float64Range(0, 10).Draw(t, "value")})
		}
		all := slices.Clone(points)
		base := points[0].value
		steps := envelope(points)
		for i := 1; i < len(steps); i++ {
			require.GreaterOrEqual(t, steps[i-1].value/steps[i-1].cost, steps[i].value/steps[i].cost-1e-9)
		}
		for _, p := range all {
			at, left := base, p.cost
			for _, s := range steps {
				take := math.Min(1, left/s.cost)
				at += take * s.value
				left -= take * s.cost
				if left <= 0 {
					break
				}
			}
			require.GreaterOrEqual(t, at, p.value-1e-9)
		}
	})
}

// What Why says an item is worth is what the season loses without it.
func TestWhyAgreesWithCoverage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawProblem(t)
		plan, err := Solve(p)
		require.NoError(t, err)
		track := map[string]string{}
		for _, c := range p.Classes {
			track[c.ID] = c.Track
		}
		for _, x := range plan.Placements {
			for _, it := range x.Items {
				why, ok := Why(p, plan, x.Week, x.Class, it.Unit)
				require.True(t, ok)
				without, _ := Coverage(p, replaced(p, plan, x.Week, track[x.Class], it, nil))
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
	old, err := Solve(p)
	require.NoError(t, err)
	out := p
	out.Coaches = slices.Clone(p.Coaches)
	out.Coaches[0].Out = []Away{{4}}
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
	plan, err := Solve(small())
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
	plan, err := Solve(p)
	require.NoError(t, err)
	why := map[string]string{}
	for _, u := range plan.Unplaced {
		why[u.Unit] = u.Why
	}
	assert.Equal(t, "No coach who is signed off for leg attacks can lead a class of its tracks.", why["legs"])
	p = small()
	p.Units[0].Minutes = 99
	plan, err = Solve(p)
	require.NoError(t, err)
	i := slices.IndexFunc(plan.Unplaced, func(u Unplaced) bool { return u.Unit == "escape" })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, "It stands on Hip escape, which is not taught either.", plan.Unplaced[i].Why)
}

func TestFixedPlacementsStay(t *testing.T) {
	p := small()
	p.Fixed = []Placement{{Week: 1, Class: "tue", Lead: "ines", Items: []Item{{"legs", Teach}}}}
	plan, err := Solve(p)
	require.NoError(t, err)
	x, ok := plan.Find(1, "tue")
	require.True(t, ok)
	assert.Equal(t, p.Fixed[0], x, "as it was taught, even by somebody not signed off")
	_, ok = plan.Find(3, "tue")
	assert.False(t, ok, "closed")
}
