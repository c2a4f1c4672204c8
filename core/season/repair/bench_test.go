package repair

import (
	"testing"

	"github.com/stretchr/testify/require"

	"vereda/core/season"
	"vereda/core/season/search"
	"vereda/internal/seasontest"
)

// BenchmarkRepair mends a plan of each kind of season: how many classes change besides those that are closed, and how near the best it comes.
// `make bench-repair` prints it.
func BenchmarkRepair(b *testing.B) {
	for _, k := range seasontest.Kinds() {
		p := k.Problem
		p.Seconds = 1
		old, err := search.Solve(p, nil)
		require.NoError(b, err)
		x := old.Placements[len(old.Placements)/3]
		for _, t := range []struct {
			name     string
			happened Disruption
		}{
			{"closed early", Disruption{Kind: "closed", Week: 2}},
			{"closed midway", Disruption{Kind: "closed", Week: p.Weeks / 2}},
			{"class cancelled", Disruption{Kind: "cancelled", Week: x.Week, Class: x.Class}},
			{"coach out", Disruption{Kind: "coach_out", Week: p.Weeks / 2, Coach: p.Coaches[0].ID}},
			{"not reached", Disruption{Kind: "not_reached", Week: x.Week, Class: x.Class, Unit: x.Items[0].Unit}},
		} {
			b.Run(k.Name+"/"+t.name, func(b *testing.B) {
				changed, plan, err := Disrupted(p, old, []Disruption{t.happened})
				require.NoError(b, err)
				var r Repaired
				for b.Loop() {
					if r, err = Repair(changed, plan, t.happened.Week, t.happened); err != nil {
						b.Skip(err)
					}
				}
				require.Empty(b, seasontest.Breaches(changed, r.Plan.Placements))
				gone := 0
				for _, c := range r.Changes {
					if season.Closed(changed, c.Week, c.Class) {
						gone++
					}
				}
				b.ReportMetric(float64(b.Elapsed().Milliseconds())/float64(b.N), "ms")
				b.ReportMetric(0, "ns/op")
				b.ReportMetric(float64(gone), "closed")
				b.ReportMetric(float64(len(r.Changes)-gone), "changed")
				b.ReportMetric(100*r.Plan.Coverage/r.Anew, "of-best%")
			})
		}
	}
}
