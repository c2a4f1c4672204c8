package season

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestLine(t *testing.T) {
	p := Problem{Weeks: 3, Students: []Student{{ID: "a", Chance: map[string]float64{"c": 0.5}, Open: []Need{{Unit: "u", Need: 1, Weight: 2}, {Unit: "v", Need: 1, Had: 1, Weight: 1}}}, {ID: "b", Chance: map[string]float64{"c": 1}, Open: []Need{{Unit: "u", Need: 1.5, Weight: 1}}}}}
	plan := []Placement{{Week: 2, Class: "c", Items: []Item{{Unit: "u", Kind: Review}}}, {Week: 1, Class: "c", Items: []Item{{Unit: "u", Kind: Teach}}}}
	line := Line(p, plan, 0, 3, 1)
	require.Len(t, line, 4)
	for w, want := range []float64{1.0 / 4, 2.0 / 4, 3.0 / 4, 3.0 / 4} { // one unit is covered before; then a's with one half; then b's too
		assert.InDelta(t, want, line[w].Mean, 1e-12, "week %d", w)
		assert.True(t, line[w].Low <= line[w].Mean+1e-9 && line[w].Mean <= line[w].High+1e-9)
	}
	all, _ := Coverage(p, plan)
	assert.InDelta(t, all, line[3].Mean, 1e-12)
	assert.InDelta(t, 0.5, line[3].Low, 1e-12, "a stayed away")
	assert.InDelta(t, 1, line[3].High, 1e-12)
	assert.Equal(t, line, Line(p, plan, 0, 3, 1))
}
