package bound

import (
	"slices"

	"vereda/core/season/model"
)

// CanPack says whether a pack has a unit among its goods, as a kind, in an audience whose shortest class is so long.
// The tests of whole plans stand outside of the package, since the search that makes them stands on it.
func (x *Relaxation) CanPack(pack, unit int, kind uint8, length int) bool {
	return slices.ContainsFunc(x.Packing.Packs[pack].goods, func(g good) bool {
		return x.Subproblems[g.subproblem].Unit == unit && g.may[kind] && g.until == length
	})
}

// Soonest is the first day a track may be taught a unit.
func (x *Relaxation) Soonest(track, unit int) int { return x.soonest[track][unit] }

// Paid is what the pack of a square is paid at most, of the contents listed, when each of some items brings one and nothing else anything.
func (x *Relaxation) Paid(square int, items []model.Item) float64 {
	k := &x.Packing
	p := &k.Packs[k.PackOf[square]]
	if p.contents == nil {
		k.list(p)
	}
	for i := range x.Subproblems {
		s := &x.Subproblems[i]
		clear(s.Cost)
		for _, it := range items {
			if int(it.Unit) == s.Unit {
				s.Cost[s.Place(x.m.Squares[square].Track, it.Audience)+int(it.Kind)] = 1
			}
		}
	}
	return k.Fill(p, nil, nil)
}

// LeadCuts are all cuts by what a square asks of its leads, decided or not.
func (d *Daily) LeadCuts() (all []Cut) {
	for s, of := range d.x.Packing.PackOf {
		if of < 0 || d.x.Packing.Packs[of].contents == nil {
			continue
		}
		for at := range 1 + len(d.x.Packing.Packs[of].contents.allowed) {
			all = append(all, Cut{square: s, asks: 1 << at})
		}
	}
	return all
}

// Kinds are what the square of a cut may ask of its leads.
func (n *Node) Kinds(cut Cut) uint64 { return uint64(n.kinds[cut.square]) }
