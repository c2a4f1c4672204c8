package model

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A week can be staffed exactly when some way to hand out its classes works.
func TestMatchesEqualsTryingEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		coaches := rapid.IntRange(1, 4).Draw(t, "coaches")
		room := make([]int8, coaches)
		for k := range room {
			room[k] = int8(rapid.IntRange(0, 3).Draw(t, "room"))
		}
		masks := rapid.SliceOfN(rapid.Uint64Range(0, 1<<coaches-1), 0, 6).Draw(t, "classes")
		var try func(i int, left []int8) bool
		try = func(i int, left []int8) bool {
			if i == len(masks) {
				return true
			}
			for k := range left {
				if masks[i]&(1<<k) != 0 && left[k] > 0 {
					left[k]--
					ok := try(i+1, left)
					left[k]++
					if ok {
						return true
					}
				}
			}
			return false
		}
		require.Equal(t, try(0, slices.Clone(room)), matches(masks, room))
	})
}
