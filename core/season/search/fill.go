package search

import (
	"vereda/core/season/model"
)

// Fill gives every square, in the order of their days, the item worth most per
// minute, round after round, until nothing helps any more. Greedy by what an
// item covers, a quarter of the progress it makes, and a share of what it opens.
//
// Costs items placed × units of a track, each a look at one unit's value. stop, when there is one, ends it between two items.
func Fill(st *model.State, stop func() bool) {
	for more := true; more; {
		more = false
		for s := range st.Model.Squares {
			if stop != nil && stop() {
				return
			}
			more = addBest(st, s) || more
		}
	}
}

// addBest adds to a square the item worth most per minute, if any is worth anything.
func addBest(st *model.State, s int) bool {
	q := &st.Model.Squares[s]
	if q.Stays() {
		return false
	}
	full, taught := st.Model.Full(s, st.Items[s])
	if full {
		return false
	}
	for barred := map[int32]bool{}; ; {
		best, found := 1e-9, model.Item{Unit: -1}
		for _, u := range st.Model.Teaches[q.Track] {
			if barred[u] || model.HasUnit(st.Items[s], u) {
				continue
			}
			x := &st.Model.Units[u]
			first, off := st.First(q.Track, u), st.Model.OffLine(q, u)
			for kind := model.Teach; kind <= model.Review; kind++ {
				if st.Used[s]+x.Cost[kind] > q.Minutes || kind == model.Review && first >= q.Day || kind == model.Teach && (taught || off) {
					continue
				}
				gain := climbs(st, s, u, kind)
				if kind == model.Teach && first == model.Never {
					gain += softScoreAhead * ahead(st, s, u, 0)
				}
				if gain = gain / float64(x.Cost[kind]); gain > best {
					best, found = gain, model.Item{Unit: u, Kind: kind}
				}
			}
		}
		if found.Unit < 0 {
			return false
		}
		if st.Try(model.Change{Square: s, Items: append(st.Items[s][:len(st.Items[s]):len(st.Items[s])], found)}) {
			return true
		}
		barred[found.Unit] = true
	}
}

// softScoreAhead is the share of the worth of what a unit opens.
const softScoreAhead = 0.3

// climbs is what one more item in a square would add to coverage and to progress.
func climbs(st *model.State, s int, u int32, kind uint8) float64 {
	if len(st.Model.Units[u].Needs) == 0 {
		return 0
	}
	q := &st.Model.Squares[s]
	l := st.Model.HeardBy(q, st.Used[s]+st.Model.Units[u].Cost[kind])
	then := st.ValueWith(u, model.Occasion{Square: int32(s), Audience: l, Kind: kind})
	return then[0] - st.Values[u] + model.SoftScoreStep*(then[1]-st.Ways[u])
}

// ahead is what the units that stand on u would be worth in the same square:
// why a movement nobody is asked for is taught all the same.
func ahead(st *model.State, s int, u int32, depth int) float64 {
	sum := 0.0
	t := st.Model.Squares[s].Track
	for _, d := range st.Model.Units[u].Opens {
		if st.Model.Can[t][d] && st.First(t, d) == model.Never && depth < 6 {
			sum += climbs(st, s, d, model.Teach) + softScoreAhead*ahead(st, s, d, depth+1)
		}
	}
	return sum
}
