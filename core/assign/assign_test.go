package assign

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The cheapest assignment, against every assignment.
func TestAssignIsTheCheapest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		const nobody = 2000.0
		n, m := rapid.IntRange(0, 4).Draw(t, "rows"), rapid.IntRange(1, 5).Draw(t, "columns")
		cost := make([][]float64, n)
		for i := range cost {
			for range m {
				cost[i] = append(cost[i], float64(rapid.IntRange(0, 30).Draw(t, "cost")))
			}
		}
		sum := func(columns []int) (sum float64) {
			for i, j := range columns {
				if j < 0 {
					sum += nobody
				} else {
					sum += cost[i][j]
				}
			}
			return sum
		}
		best := 1e18
		columns := make([]int, n)
		var try func(i int, taken int)
		try = func(i, taken int) {
			if i == n {
				best = min(best, sum(columns))
				return
			}
			columns[i] = -1
			try(i+1, taken)
			for j := range m {
				if taken>>j&1 == 0 {
					columns[i] = j
					try(i+1, taken|1<<j)
				}
			}
		}
		try(0, 0)
		got := Cheapest(cost, nobody)
		seen := map[int]bool{}
		for _, j := range got {
			require.False(t, j >= 0 && seen[j])
			seen[j] = true
		}
		require.InDelta(t, best, sum(got), 1e-6)
	})
}
