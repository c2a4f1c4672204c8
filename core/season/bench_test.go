package season

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// BenchmarkSeasons plans generated seasons: coverage in percent, how far it is
// under the proven bound, when the first complete plan is there.
// `scarce` ones have minutes for less than half of what is asked, where no cheap bound is close.
func BenchmarkSeasons(b *testing.B) {
	for _, c := range []struct {
		name    string
		problem Problem
		seconds float64
	}{
		{"small", generated(smallSeason, 1), 1},
		{"medium", generated(mediumSeason, 1), 1}, {"medium5s", generated(mediumSeason, 1), 5},
		{"large", generated(largeSeason, 1), 3},
		{"scarceMedium", scarce(mediumSeason, 1), 1}, {"scarceLarge", scarce(largeSeason, 1), 3},
	} {
		for _, goal := range []string{"coverage", "full"} {
			b.Run(c.name+"/"+goal, func(b *testing.B) {
				p := c.problem
				p.Goal, p.Seconds = goal, c.seconds
				var plan Plan
				var first time.Duration
				for b.Loop() {
					start, err := time.Now(), error(nil)
					first = 0
					plan, err = Solve(p, func(Progress) bool {
						if first == 0 {
							first = time.Since(start)
						}
						return true
					})
					require.NoError(b, err)
				}
				require.Empty(b, breaches(p, plan.Placements))
				b.ReportMetric(100*plan.Coverage, "coverage%")
				b.ReportMetric(100*(1-plan.Coverage/plan.Bound), "under-bound%")
				b.ReportMetric(float64(first.Milliseconds()), "first-ms")
				b.ReportMetric(100*plan.Scores["spacing"], "spacing%")
			})
		}
	}
}

// BenchmarkMove is one small move of the search on the large season, tried and
// judged: it costs what the square's units touch, not the season.
func BenchmarkMove(b *testing.B) {
	for name, z := range map[string]size{"medium": mediumSeason, "large": largeSeason} {
		b.Run(name, func(b *testing.B) {
			st, _ := newModel(generated(z, 1)).begin()
			st.fill()
			h := newSearch(st, 1, 1<<60)
			for range 2000 {
				h.move()
			}
			for b.Loop() {
				if h.move() && st.score() < h.score-0.01 {
					st.undo()
				}
			}
		})
	}
}

func BenchmarkRepair(b *testing.B) {
	for name, z := range map[string]size{"medium": mediumSeason, "large": largeSeason} {
		p := generated(z, 1)
		p.Seconds = 2
		old, err := Solve(p, nil)
		require.NoError(b, err)
		for what, d := range map[string]Disruption{"cancelled": {Kind: "cancelled", Week: 3, Class: "c1"}, "coach": {Kind: "coach_out", Week: 4, Coach: "k0"}, "closed": {Kind: "closed", Week: 5}, "wanted": {Kind: "wanted", Week: 4, Unit: "u9"}} {
			b.Run(name+"/"+what, func(b *testing.B) {
				changed, plan, err := Disrupted(p, old, []Disruption{d})
				require.NoError(b, err)
				var r Repaired
				for b.Loop() {
					r, err = Repair(changed, plan, 2)
					require.NoError(b, err)
				}
				require.Empty(b, breaches(changed, r.Plan.Placements))
				b.ReportMetric(float64(len(r.Changes)), "changed")
				b.ReportMetric(100*r.Plan.Coverage/r.Anew, "of-best%")
			})
		}
	}
}

// A large season in which a unit is wanted before what it stands on can be taught: finding
// out which conditions are in conflict.
func BenchmarkConflict(b *testing.B) {
	p := generated(largeSeason, 1)
	for _, u := range p.Units[120:] {
		if len(u.Requires) > 0 {
			p.Wanted = append(p.Wanted, Wanted{Unit: u.ID, Track: u.Tracks[0], Week: 1})
		}
	}
	b.ReportAllocs()
	for b.Loop() {
		_, err := Solve(p, nil)
		if err == nil {
			b.Fatal("there is no conflict")
		}
	}
}
