package matching

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The judge: the lowest vertex not yet paired goes with each of the others.
func brute(n int, cost [][]int64) int64 {
	best := map[int]int64{}
	var least func(done int) int64
	least = func(done int) int64 {
		if done == 1<<n-1 {
			return 0
		}
		if had, ok := best[done]; ok {
			return had
		}
		i := 0
		for done>>i&1 == 1 {
			i++
		}
		b := int64(1) << 60
		for j := i + 1; j < n; j++ {
			if done>>j&1 == 0 {
				b = min(b, cost[i][j]+least(done|1<<i|1<<j))
			}
		}
		best[done] = b
		return b
	}
	return least(0)
}

func TestCheapestAgainstBruteForce(t *testing.T) {
	c := New(14) // one solver for all: its memory is used again
	rapid.Check(t, func(t *rapid.T) {
		n := 2 * rapid.IntRange(1, 7).Draw(t, "pairs")
		most := rapid.SampledFrom([]int64{1, 3, 20, 1e6, 1e12}).Draw(t, "most")
		cost := make([][]int64, n)
		for i := range cost {
			cost[i] = make([]int64, n)
			for j := range i {
				cost[i][j] = rapid.Int64Range(0, most).Draw(t, "cost")
				cost[j][i] = cost[i][j]
			}
		}
		partner := make([]int, n)
		c.Solve(n, func(i, j int) int64 { return cost[i][j] }, partner)
		sum := int64(0)
		for i, j := range partner {
			require.GreaterOrEqual(t, j, 0)
			require.NotEqual(t, i, j)
			require.Equal(t, i, partner[j])
			if i < j {
				sum += cost[i][j]
			}
		}
		require.Equal(t, brute(n, cost), sum)
	})
}

func BenchmarkCheapest(b *testing.B) {
	for _, n := range []int{12, 30, 60, 120} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			r := rand.New(rand.NewPCG(1, 2))
			cost := make([][]int64, n)
			for i := range cost {
				cost[i] = make([]int64, n)
				for j := range i {
					cost[i][j] = r.Int64N(100000)
					cost[j][i] = cost[i][j]
				}
			}
			c, partner := New(n), make([]int, n)
			for b.Loop() {
				c.Solve(n, func(i, j int) int64 { return cost[i][j] }, partner)
			}
		})
	}
}
