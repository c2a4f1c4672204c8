package draw

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestDrawsFollowFromTheirSeed(t *testing.T) {
	a, b, other := New(1, 2), New(1, 2), New(1, 3)
	same := true
	var counts [6]int
	sum := 0.0
	for range 60_000 {
		x := a.Next()
		assert.Equal(t, x, b.Next())
		same = same && x == other.Next()
	}
	assert.False(t, same, "another stream is another one")
	for range 60_000 {
		counts[a.IntN(6)]++
		f := a.Float64()
		assert.True(t, f >= 0 && f < 1)
		sum += f
	}
	for _, n := range counts {
		assert.InDelta(t, 10_000, n, 500, "a fair die")
	}
	assert.InDelta(t, 0.5, sum/60_000, 0.01)
	p := a.Perm(20)
	slices.Sort(p)
	for i, x := range p {
		assert.Equal(t, i, x, "each once")
	}
}
