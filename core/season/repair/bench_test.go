package repair

import (
	"testing"

	"github.com/stretchr/testify/require"

	"vereda/core/season/search"
	"vereda/internal/seasontest"
)

func BenchmarkRepair(b *testing.B) {
	for name, z := range map[string]seasontest.Size{"medium": seasontest.MediumSeason, "large": seasontest.LargeSeason} {
		p := seasontest.Generated(z, 1)
		p.Seconds = 2
		old, err := search.Solve(p, nil)
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
				require.Empty(b, seasontest.Breaches(changed, r.Plan.Placements))
				b.ReportMetric(float64(len(r.Changes)), "changed")
				b.ReportMetric(100*r.Plan.Coverage/r.Anew, "of-best%")
			})
		}
	}
}
