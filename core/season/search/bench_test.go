package search

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"vereda/core/season"
	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// BenchmarkSeasons plans generated seasons: coverage in percent, how far it is
// under the proven bound, when the first complete plan is there.
// `scarce` ones have minutes for less than half of what is asked, where no cheap bound is close.
func BenchmarkSeasons(b *testing.B) {
	for _, c := range []struct {
		name    string
		problem season.Problem
		seconds float64
	}{
		{"small", seasontest.Generated(seasontest.SmallSeason, 1), 1},
		{"medium", seasontest.Generated(seasontest.MediumSeason, 1), 1}, {"medium5s", seasontest.Generated(seasontest.MediumSeason, 1), 5},
		{"large", seasontest.Generated(seasontest.LargeSeason, 1), 3},
		{"scarceMedium", seasontest.Scarce(seasontest.MediumSeason, 1), 1}, {"scarceLarge", seasontest.Scarce(seasontest.LargeSeason, 1), 3},
	} {
		for _, goal := range []string{"coverage", "full"} {
			b.Run(c.name+"/"+goal, func(b *testing.B) {
				p := c.problem
				p.Goal, p.Seconds = goal, c.seconds
				var plan season.Plan
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
				require.Empty(b, seasontest.Breaches(p, plan.Placements))
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
	for name, z := range map[string]seasontest.Size{"medium": seasontest.MediumSeason, "large": seasontest.LargeSeason} {
		b.Run(name, func(b *testing.B) {
			st, _ := Begin(model.New(seasontest.Generated(z, 1)), nil)
			Fill(st, nil)
			h := New(st, 1, 1<<60)
			for range 2000 {
				h.move()
			}
			for b.Loop() {
				if h.move() && st.Score() < h.score-0.01 {
					st.Undo()
				}
			}
		})
	}
}

// A large season in which a unit is wanted before what it stands on can be taught: finding
// out which conditions are in conflict.
func BenchmarkConflict(b *testing.B) {
	p := seasontest.Generated(seasontest.LargeSeason, 1)
	for _, u := range p.Units[120:] {
		if len(u.Requires) > 0 {
			p.Wanted = append(p.Wanted, season.Wanted{Unit: u.ID, Track: u.Tracks[0], Week: 1})
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
