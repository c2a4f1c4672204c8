package season

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
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

// At the end of every week the mean is the coverage of the classes up to it, and the range holds the mean of what was drawn, also where a part of the
// plan was held: what is known of it is in had, and counts once.
func TestLineIsTheCoverageOfEachWeek(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := Problem{Weeks: 3}
		for s := range rapid.IntRange(1, 2).Draw(t, "students") {
			one := Student{ID: fmt.Sprint(s), Chance: map[string]float64{}}
			for _, c := range []string{"c", "d"} {
				one.Chance[c] = rapid.SampledFrom([]float64{0, 0.2, 0.5, 0.9, 1}).Draw(t, "chance")
			}
			for u := range 3 {
				need := rapid.SampledFrom([]float64{1, 1.5, 2}).Draw(t, "need")
				had := rapid.SampledFrom([]float64{0, 0.5, need}).Draw(t, "had")
				one.Open = append(one.Open, Need{Unit: fmt.Sprint(u), Need: need, Had: min(need, had), Weight: float64(u + 1)})
			}
			p.Students = append(p.Students, one)
		}
		var plan []Placement
		for w := 1; w <= p.Weeks; w++ {
			for _, c := range []string{"d", "c"} {
				x := Placement{Week: w, Class: c}
				for u := range 3 {
					if rapid.IntRange(0, 2).Draw(t, "has") == 0 {
						x.Items = append(x.Items, Item{Unit: fmt.Sprint(u), Kind: rapid.SampledFrom([]string{Teach, Review}).Draw(t, "kind")})
					}
				}
				plan = append(plan, x)
				if w < 2 {
					x.Held, x.Known = true, rapid.Bool().Draw(t, "known")
					x.Items = x.Items[:rapid.IntRange(0, len(x.Items)).Draw(t, "reached")]
					p.Fixed = append(p.Fixed, x)
				}
			}
		}
		from := rapid.IntRange(0, 2).Draw(t, "from")
		for _, at := range Line(p, plan, from, p.Weeks, 3) {
			var upTo []Placement
			for _, x := range plan {
				if x.Week <= at.Week {
					upTo = append(upTo, x)
				}
			}
			want, _ := Coverage(p, upTo)
			require.InDelta(t, want, at.Mean, 1e-9)
			// 200 runs: the tenth and the ninetieth of a hundred are there to five deviations.
			const off = 0.107
			require.Greater(t, chanceOf(p, upTo, func(share float64) bool { return share <= at.Low+1e-9 }), 0.1-off)
			require.Less(t, chanceOf(p, upTo, func(share float64) bool { return share < at.Low-1e-9 }), 0.1+off)
			require.Greater(t, chanceOf(p, upTo, func(share float64) bool { return share >= at.High-1e-9 }), 0.1-off)
			require.Less(t, chanceOf(p, upTo, func(share float64) bool { return share > at.High+1e-9 }), 0.1+off)
		}
	})
}

// chanceOf is the chance that the share covered is so, from everything that can happen, counted out.
func chanceOf(p Problem, placements []Placement, so func(share float64) bool) float64 {
	placements = counting(p, placements)
	sum, weights := 0.0, 0.0
	type one struct{ share, chance float64 }
	all := []one{{0, 1}}
	for _, s := range p.Students {
		var next []one
		for which := range 1 << len(placements) {
			chance, had := 1.0, map[string]int{}
			for i, x := range placements {
				if which>>i&1 == 0 {
					chance *= 1 - s.Chance[x.Class]
					continue
				}
				chance *= s.Chance[x.Class]
				for _, it := range x.Items {
					had[it.Unit] += halves(it.Kind)
				}
			}
			share := 0.0
			for _, n := range s.Open {
				if had[n.Unit] >= n.Missing() {
					share += n.Weight
				}
			}
			for _, o := range all {
				if chance > 0 {
					next = append(next, one{o.share + share, o.chance * chance})
				}
			}
		}
		all = next
		for _, n := range s.Open {
			weights += n.Weight
		}
	}
	for _, o := range all {
		if so(o.share / weights) {
			sum += o.chance
		}
	}
	return sum
}
