package bound

import (
	"cmp"
	"slices"
)

// peaks are the ranges of a unit's choices that promise most and are still open. Prices moved against the choices known alone leave the bound where it is as long as
// better ones are not ruled out: what such a range may bring is a function of the prices too, the highest of straight lines, and counts like a choice.
type peaks []*ranged

// mostPeaks is how many of a unit's ranges prices are moved against.
const mostPeaks = 20

// peaks are those of the last search at the prices as they are.
func (s *Subproblem) peaks() (p peaks) {
	if s.bestFirst == nil {
		return nil
	}
	open := slices.Clone(s.bestFirst.open)
	slices.SortFunc(open, func(a, b openRange) int { return cmp.Or(cmp.Compare(b.most, a.most), cmp.Compare(a.at, b.at)) })
	for _, o := range open[:min(len(open), mostPeaks)] {
		p = append(p, &s.bestFirst.ranges[o.at])
	}
	return p
}

// takes is the most a unit gains at the prices, by a choice known or one of the peaks. It turns the slopes of its items' prices against what that takes, and adds the
// tracks it teaches the unit to those given.
func (s *Subproblem) takes(p peaks, slope []float64, tracks []int32) (most float64, taught []int32) {
	choice, most := s.best()
	peak := (*ranged)(nil)
	for _, r := range p {
		if promised := s.bestFirst.promised(r, s.Cost); promised > most {
			peak, most = r, promised
		}
	}
	if peak == nil {
		for _, u := range choice.uses {
			slope[u.at] -= u.times
		}
		return most, append(tracks, choice.tracks...)
	}
	s.bestFirst.fill(peak, peak.gain, s.Cost)
	for v, n := range s.bestFirst.taken {
		slope[v] -= n
	}
	for t, c := range s.Charge {
		if s.pays(t, c, peak.least, peak.top) {
			tracks = append(tracks, int32(t))
		}
	}
	return most, tracks
}

// paid is what a range pays at least.
func (s *Subproblem) paid(least, top []uint8) float64 {
	sum := 0.0
	for v, n := range least {
		sum += float64(n) * s.Cost[v]
	}
	for t, c := range s.Charge {
		if s.pays(t, c, least, top) {
			sum += c
		}
	}
	return sum
}

// pays says whether a range pays a charge for being taught a track, where it may choose to; or is paid for it.
func (s *Subproblem) pays(track int, charge float64, least, top []uint8) bool {
	return charge > 0 && s.teaches(least, track) || charge < 0 && s.teaches(top, track)
}
