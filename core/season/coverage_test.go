package season

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

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
		d := NewTally(need)
		for _, p := range all {
			d.Add(p.Chance, p.Halves)
		}
		sum := 0.0
		for _, p := range d {
			sum += p
		}
		require.InDelta(t, 1, sum, 1e-9, "a distribution")
		require.GreaterOrEqual(t, d.progress(), d.Reached()-1e-12)
	})
}

func TestMissingRoundsUpToHalfUnits(t *testing.T) {
	for _, c := range []struct {
		need, had float64
		halves    int
	}{{2, 0, 4}, {2, 0.5, 3}, {2, 0.75, 3}, {2, 2, 0}, {2, 3, 0}, {1, 0.9, 1}} {
		assert.Equal(t, c.halves, Need{Need: c.need, Had: c.had}.Missing(), "%+v", c)
	}
}

// The judge of coverage: every subset of presences.
func bruteCovered(all []Presence, need int) float64 {
	sum := 0.0
	for s := range 1 << len(all) {
		p, got := 1.0, 0
		for i, x := range all {
			if s>>i&1 == 1 {
				p *= x.Chance
				got += x.Halves
			} else {
				p *= 1 - x.Chance
			}
		}
		if got >= need {
			sum += p
		}
	}
	return sum
}

func TestChanceCoveredEqualsEnumeration(t *testing.T) {
	assert.InDelta(t, 0.7*0.4, ChanceCovered([]Presence{{0.7, 2}, {0.4, 2}}, 4), 1e-12, "two full teaches asked for")
	assert.InDelta(t, 1-0.3*0.6, ChanceCovered([]Presence{{0.7, 2}, {0.4, 2}}, 2), 1e-12, "either will do")
	rapid.Check(t, func(t *rapid.T) {
		all := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Presence {
			return Presence{rapid.Float64Range(0, 1).Draw(t, "p"), rapid.IntRange(1, 2).Draw(t, "v")}
		}), 0, 10).Draw(t, "presences")
		need := rapid.IntRange(0, 8).Draw(t, "need")
		require.InDelta(t, bruteCovered(all, need), ChanceCovered(all, need), 1e-9)
	})
}
