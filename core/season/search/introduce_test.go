package search

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/season"
	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// A unit is laid with what it stands on, though nobody needs that and the one who may teach it is busy elsewhere: there the class gives it up. Put back, all is
// as it was.
func TestAUnitIsLaidWithWhatItStandsOn(t *testing.T) {
	p := season.Problem{Weeks: 3, Tracks: []season.Track{{ID: "t", Mode: "split"}, {ID: "v", Mode: "split"}},
		Classes:  []season.Class{{ID: "mon", Track: "t", Weekday: 1, Start: "18:00", TeachMinutes: 20}, {ID: "wed", Track: "v", Weekday: 3, Start: "18:00", TeachMinutes: 20}},
		Units:    []season.Unit{{ID: "ground", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Signoff: "throws"}, {ID: "on it", Tracks: []string{"t"}, Minutes: 20, ReviewMinutes: 10, Requires: []string{"ground"}}, {ID: "elsewhere", Tracks: []string{"v"}, Minutes: 20, ReviewMinutes: 10, Signoff: "throws"}},
		Students: []season.Student{{ID: "many", Chance: map[string]float64{"mon": 1}, Open: []season.Need{{Unit: "on it", Need: 1, Weight: 9}}}, {ID: "one", Chance: map[string]float64{"wed": 0.5}, Open: []season.Need{{Unit: "elsewhere", Need: 1, Weight: 1}}}},
		Coaches:  []season.Coach{{ID: "signed off", Available: []string{"mon", "wed"}, Signoffs: []string{"throws"}, MaxPerWeek: 1, Share: 0.5}, {ID: "other", Available: []string{"mon", "wed"}, MaxPerWeek: 2, Share: 0.5}}, Goal: "coverage"}
	require.Empty(t, p.Check())
	m := model.New(p)
	st, conflict := Begin(m, nil)
	require.Nil(t, conflict)
	for s := range m.Squares {
		if m.Problem.Classes[m.Squares[s].Classes[0]].ID == "wed" {
			require.True(t, st.Try(model.Change{Square: s, Items: []model.Item{{Unit: int32(m.UnitAt["elsewhere"]), Kind: model.Teach}}}))
		}
	}
	before, score := st.Contents(), st.Score()
	r := Relay{State: st}
	require.True(t, r.do(int32(m.UnitAt["on it"]), relayLure))
	assert.NotEqual(t, model.Never, st.First(0, int32(m.UnitAt["ground"])))
	assert.Greater(t, st.First(0, int32(m.UnitAt["on it"])), st.First(0, int32(m.UnitAt["ground"])))
	assert.Greater(t, st.Score(), score)
	assert.Empty(t, seasontest.Breaches(p, Plan(st, 1, nil).Placements))
	r.back()
	assert.Equal(t, fmt.Sprint(before), fmt.Sprint(st.Contents()))
	assert.InDelta(t, score, st.Score(), 1e-12)

	// Who is signed off for nothing that helps makes nobody give anything up.
	p.Coaches[0].Signoffs = nil
	m = model.New(p)
	st, _ = Begin(m, nil)
	r = Relay{State: st}
	r.do(int32(m.UnitAt["on it"]), relayLure)
	assert.Equal(t, model.Never, st.First(0, int32(m.UnitAt["on it"])))
}
