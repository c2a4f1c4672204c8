package bound

import (
	"container/heap"
	"slices"
)

// Way is how often a unit is given in each of its dims, teaches and reviews by turns, and what that gains at the prices.
type Way struct {
	Counts []uint8
	Net    float64
}

// Ways lists the ways to give a unit that gain no more than slack less than the best: those of all ranges (see bestFirst) that hold any, cut down to where they are listed.
// There may be too many, or no time for it: it may take about so many microseconds; took is how many it did, and ok whether that was all.
func (s *Subproblem) Ways(x *Relaxation, slack float64, most int) (ways []Way, took int, ok bool) {
	_, best := s.best()
	d := s.searched(x)
	d.ways, d.listing = nil, true
	d.reprice(best - slack - tight)
	for len(d.open) > 0 && d.work+len(d.ways)*wayWork/10 < most && len(d.ways) <= mostWays && !x.stopped() {
		d.branch(heap.Pop(&d.open).(openRange).at)
	}
	ways, d.ways, d.listing, d.stale = d.ways, nil, false, true
	return ways, d.work + len(ways)*wayWork/10, len(d.open) == 0 && len(ways) <= mostWays
}

// wayWork is how many tenths of a microsecond a way takes to be kept and looked up.
const wayWork = 7

// mostWays is how many ways of a unit are listed at most.
const mostWays = 500_000

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
