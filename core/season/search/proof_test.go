package search

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/season"
	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// Where a unit's ways are too many to list, the rest of the time goes to the bound, and what that came to is not lost.
func TestAProofThatCannotListTheWaysBoundsInItsTime(t *testing.T) {
	for _, seed := range []uint64{1, 5} {
		p := seasontest.Generated(seasontest.Size{Weeks: 8, Classes: 5, Units: 16, Students: 40, Coaches: 4, Tracks: []season.Track{{ID: "a", Mode: "same"}, {ID: "b", Mode: "split"}}}, seed)
		p.Goal = "coverage"
		m := model.New(p)
		st := model.NewState(m)
		Fill(st, nil)
		h := New(st, 1, stepsPerSecond/2)
		h.Run(nil)
		require.True(t, provable(h))
		e := newExhaust(m, find{score: h.score, plan: h.best}, nil)
		_, ok := e.begin(1)
		require.False(t, ok, "seed %d has more ways than can be listed in a second", seed)
		assert.LessOrEqual(t, e.readied, 950_000*2/3, "time is left for the bound")
		came := prove(m, find{score: h.score, plan: h.best}, stepsPerSecond, ended(h), nil)
		assert.False(t, came.done)
		assert.GreaterOrEqual(t, came.most, came.score-1e-9)
		assert.LessOrEqual(t, came.most, 1.02*h.score)
	}
}
