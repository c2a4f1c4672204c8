package season

import (
	"math"
	"slices"

	"vereda/core/draw"
)

// WeekCoverage is the coverage by the end of a week: what is expected, and the range that eight runs of ten lie in.
type WeekCoverage struct {
	Week int     `json:"week" doc:"0 is before the first"`
	Mean float64 `json:"mean"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// lineRuns are simulated for the range.
const lineRuns = 200

// Line is the coverage week by week of some placements, from a week on: the mean exactly, as Coverage has it; the range from runs in which each student is in each
// class or not, so that what they need of one class hangs together. Costs weeks × Coverage, and runs × students × placements.
func Line(p Problem, placements []Placement, from, to int, seed uint64) []WeekCoverage {
	placements = slices.Clone(placements)
	slices.SortStableFunc(placements, func(a, b Placement) int { return a.Week - b.Week })
	line := make([]WeekCoverage, 0, to-from+1)
	for w := from; w <= to; w++ {
		upTo := placements[:firstAfter(placements, w)]
		mean, _ := Coverage(p, upTo)
		line = append(line, WeekCoverage{Week: w, Mean: mean, Low: mean, High: mean})
	}
	shares := make([][]float64, len(line))
	draws := draw.New(seed, 0)
	for range lineRuns {
		covered, weights := make([]float64, len(line)), 0.0
		for _, s := range p.Students {
			left := make(map[string]int, len(s.Open))
			worth := make(map[string]float64, len(s.Open))
			now := 0.0
			for _, n := range s.Open {
				left[n.Unit], worth[n.Unit] = n.Missing(), n.Weight
				weights += n.Weight
				if n.Missing() == 0 {
					now += n.Weight
				}
			}
			at := 0
			for i := range line {
				for ; at < len(placements) && placements[at].Week <= line[i].Week; at++ {
					x := placements[at]
					if draws.Float64() >= s.Chance[x.Class] {
						continue
					}
					for _, it := range x.Items {
						if n, open := left[it.Unit]; open && n > 0 {
							if left[it.Unit] = max(0, n-halves(it.Kind)); left[it.Unit] == 0 {
								now += worth[it.Unit]
							}
						}
					}
				}
				covered[i] += now
			}
		}
		for i := range line {
			if weights > 0 {
				shares[i] = append(shares[i], covered[i]/weights)
			}
		}
	}
	for i, all := range shares {
		if len(all) == 0 {
			continue
		}
		slices.Sort(all)
		line[i].Low, line[i].High = all[len(all)/10], all[int(math.Ceil(0.9*float64(len(all))))-1]
	}
	return line
}

func firstAfter(placements []Placement, week int) int {
	n := 0
	for n < len(placements) && placements[n].Week <= week {
		n++
	}
	return n
}
