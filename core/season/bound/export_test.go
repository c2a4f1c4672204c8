package bound

import "slices"

// CanPack says whether a pack has a unit among its goods, as a kind, in an audience whose shortest class is so long.
// The tests of whole plans stand outside of the package, since the search that makes them stands on it.
func (x *Relaxation) CanPack(pack, unit int, kind uint8, length int) bool {
	return slices.ContainsFunc(x.Packing.Packs[pack].goods, func(g good) bool {
		return x.Subproblems[g.subproblem].Unit == unit && g.may[kind] && g.until == length
	})
}
