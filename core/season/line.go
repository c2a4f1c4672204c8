package season

import (
	"math"
	"slices"

	"vereda/core/draw"
)

// WeekCoverage is the coverage of a plan by the end of a week, with the range that holds eight of ten runs in which each student is in
// each class or not.
type WeekCoverage struct {
	Week int     `json:"week" doc:"0 is before the first"`
	Mean float64 `json:"mean"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// lineRuns are simulated for the range.
const lineRuns = 200

// meeting is a class of a student's that may give them something of what they need.
type meeting struct {
	at     int // of the line
	chance float64
	gives  []given
}

type given struct{ need, halves int }

// Line is the coverage week by week of some placements, from a week on: the mean exactly, as Coverage has it; the range from runs in which each
// student is in each class or not, so that what they need of one class hangs together. Costs students × placements, and as much for each run
// of what concerns a student.
func Line(p Problem, placements []Placement, from, to int, seed uint64) []WeekCoverage {
	line := make([]WeekCoverage, to-from+1)
	for i := range line {
		line[i].Week = from + i
	}
	placements = counting(p, placements)
	slices.SortStableFunc(placements, func(a, b Placement) int { return a.Week - b.Week })
	draws := draw.New(seed, 0)
	shares := make([][]float64, len(line))
	for i := range shares {
		shares[i] = make([]float64, lineRuns)
	}
	weights := 0.0
	for _, s := range p.Students {
		place := make(map[string]int, len(s.Open))
		missing, before := make([]int, len(s.Open)), 0.0
		for j, n := range s.Open {
			place[n.Unit], missing[j] = j, n.Missing()
			weights += n.Weight
			if missing[j] == 0 {
				before += n.Weight
			}
		}
		var meetings []meeting
		for _, x := range placements {
			m := meeting{at: max(0, x.Week-from), chance: s.Chance[x.Class]}
			for _, it := range x.Items {
				if j, open := place[it.Unit]; open && missing[j] > 0 && m.chance > 0 {
					m.gives = append(m.gives, given{j, halves(it.Kind)})
				}
			}
			if len(m.gives) > 0 && m.at < len(line) {
				meetings = append(meetings, m)
			}
		}
		tallies, reached := make([]tally, len(s.Open)), make([]float64, len(s.Open))
		for j := range tallies {
			tallies[j] = NewTally(missing[j])
			reached[j] = tallies[j].Reached()
		}
		at := 0
		for i := range line {
			for ; at < len(meetings) && meetings[at].at <= i; at++ {
				for _, g := range meetings[at].gives {
					tallies[g.need].Add(meetings[at].chance, g.halves)
					reached[g.need] = tallies[g.need].Reached()
				}
			}
			for j, n := range s.Open {
				line[i].Mean += n.Weight * reached[j]
			}
		}
		left := make([]int, len(missing))
		for run := range lineRuns {
			copy(left, missing)
			now, at := before, 0
			for i := range line {
				for ; at < len(meetings) && meetings[at].at <= i; at++ {
					if draws.Float64() >= meetings[at].chance {
						continue
					}
					for _, g := range meetings[at].gives {
						if left[g.need] > 0 {
							if left[g.need] -= g.halves; left[g.need] <= 0 {
								now += s.Open[g.need].Weight
							}
						}
					}
				}
				shares[i][run] += now
			}
		}
	}
	for i := range line {
		if weights == 0 {
			line[i].Mean, line[i].Low, line[i].High = 1, 1, 1
			continue
		}
		slices.Sort(shares[i])
		line[i].Mean /= weights
		line[i].Low, line[i].High = shares[i][lineRuns/10]/weights, shares[i][int(math.Ceil(0.9*lineRuns))-1]/weights
	}
	return line
}
