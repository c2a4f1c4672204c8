package bound

import (
	"cmp"
	"slices"
)

// Way is how often a unit is given in each of its dims, teaches and reviews by turns, and what that gains at the prices.
type Way struct {
	Counts []uint8
	Net    float64
}

// Ways lists the ways to give a unit that gain no more than slack less than the best. There may be too many to look at, or no time for it: most says how
// many may be, looked how many were, and ok whether that was all.
//
// Costs a look at the unit's value for each way whose price does not rule it out.
func (s *Subproblem) Ways(x *Relaxation, slack float64, most int) (ways []Way, looked int, ok bool) {
	_, best := s.best()
	ceiling := 0.0
	for _, n := range x.m.Units[s.Unit].Needs {
		ceiling += n.Weight
	}
	for _, c := range s.Charge {
		ceiling += max(0, -c)
	}
	counts := make([]uint8, 2*len(s.Dims))
	var at func(v int, cost float64) bool
	at = func(v int, cost float64) bool {
		if ceiling-cost < best-slack {
			return true
		}
		if v == len(counts) {
			if looked++; looked > most || looked%1024 == 0 && x.stopped() {
				return false
			}
			if !s.sound(counts) {
				return true
			}
			net := s.worth(x, counts) - s.spent(counts)
			best = max(best, net)
			ways = append(ways, Way{slices.Clone(counts), net})
			return true
		}
		d := &s.Dims[v/2]
		for n := 0; n <= d.top[v%2]; n++ {
			if v%2 == 1 && int(counts[v-1])+n > d.most {
				break
			}
			counts[v] = uint8(n)
			if !at(v+1, cost+float64(n)*s.Cost[v]) {
				return false
			}
		}
		counts[v] = 0
		return true
	}
	if !at(0, 0) {
		return nil, looked, false
	}
	ways = slices.DeleteFunc(ways, func(w Way) bool { return w.Net < best-slack })
	slices.SortStableFunc(ways, func(a, b Way) int { return cmp.Compare(b.Net, a.Net) })
	return ways, looked, true
}

// Place is the place in the counts of a teach that an audience of a track is given the unit, before that of a review; −1 where it has none.
func (s *Subproblem) Place(track int, audience int32) int {
	d := slices.IndexFunc(s.Dims, func(d Dim) bool { return d.track == track && d.audience == audience })
	if d < 0 {
		return -1
	}
	return 2 * d
}

// Room says how many more of each a dim can hold, teaches and reviews, and how many of both together.
func (d *Dim) Room() (teaches, reviews, both int) { return d.top[0], d.top[1], d.most }

// Track is the track of a dim.
func (d *Dim) Track() int { return d.track }
