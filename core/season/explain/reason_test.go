package explain

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/search"
	"vereda/internal/seasontest"
)

// What Why says an item is worth is what the season loses without it.
func TestWhyAgreesWithCoverage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := seasontest.DrawProblem(t)
		for i := range p.Classes { // else what stands behind it would move up into shorter classes
			p.Classes[i].TeachMinutes = p.Classes[0].TeachMinutes
		}
		plan, err := search.Solve(p, nil)
		require.NoError(t, err)
		track := map[string]string{}
		for _, c := range p.Classes {
			track[c.ID] = c.Track
		}
		for _, x := range plan.Placements {
			for _, it := range x.Items {
				why, ok := Why(p, plan, x.Week, x.Class, it.Unit)
				require.True(t, ok)
				var rest []season.Placement
				for _, y := range plan.Placements {
					if p.Tracks[slices.IndexFunc(p.Tracks, func(t season.Track) bool { return t.ID == track[x.Class] })].Mode == "same" && y.Week == x.Week && track[y.Class] == track[x.Class] || y.Class == x.Class && y.Week == x.Week {
						y.Items = slices.DeleteFunc(slices.Clone(y.Items), func(o season.Item) bool { return o == it })
					}
					rest = append(rest, y)
				}
				without, _ := season.Coverage(p, rest)
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
