package search

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// From a plan of its own, the nearest one to another that covers as much: it keeps the rules, never differs in more classes than the one it began
// from, and counts as it goes what counting anew counts.
func TestNearestComesNearer(t *testing.T) {
	nearer := 0
	for seed := range uint64(6) {
		p := seasontest.As(seasontest.SmallSeason, seed, seed%2 == 0)
		m := model.New(p)
		planned := func(seed uint64, steps int64) *model.State {
			st, conflict := Begin(m, nil)
			require.Nil(t, conflict)
			Fill(st, nil)
			New(st, seed, steps).Run(nil)
			return st
		}
		was, st := planned(1, 40_000).Contents(), planned(2, 40_000)
		n := nearness{was: was, enough: 0.97 * st.Coverage()}
		n.count(st)
		before := n.then

		all := Nearest(st, was, n.enough, seed, 100_000)
		found := Spare(m, all)
		n.count(found)
		require.Empty(t, seasontest.Breaches(p, Plan(found, 1, nil).Placements))
		assert.GreaterOrEqual(t, found.Coverage(), n.enough)
		assert.LessOrEqual(t, n.then, before)
		nearer += before - n.then

		none := Nearest(Spare(m, was), was, 0, seed, 20_000)
		n.count(Spare(m, none))
		assert.Zero(t, n.then, "what is there and is enough stays")
	}
	assert.Greater(t, nearer, 12, "classes in all")
}

// What a change is said to gain, near another plan, is what it gains.
func TestWhatComesNearerIsSaidBefore(t *testing.T) {
	p := seasontest.As(seasontest.SmallSeason, 3, false)
	m := model.New(p)
	st, _ := Begin(m, nil)
	Fill(st, nil)
	h := New(st, 5, 100_000)
	h.near = &nearness{was: st.Contents(), enough: st.Coverage(), price: 0.01}
	h.heat = 1 // nearly all is taken
	made := 0
	for range 3000 {
		h.near.count(st)
		h.near.now = h.near.then
		before := h.worth()
		if !h.move() {
			continue
		}
		made++
		said, after := h.near.then, h.worth()
		h.near.count(st)
		require.Equal(t, h.near.then, said, "classes that differ")
		require.GreaterOrEqual(t, after-before, h.least-1e-9)
	}
	assert.Greater(t, made, 500)
}
