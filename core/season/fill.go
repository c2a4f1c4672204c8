package season

// fill gives every square, in the order of their days, the item worth most per
// minute, round after round, until nothing helps any more. Greedy by what an
// item covers, a quarter of the progress it makes, and a share of what it opens.
//
// Costs items placed × units of a track, each a look at one unit's value.
func (st *state) fill() {
	for more := true; more; {
		more = false
		for s := range st.m.squares {
			more = st.addBest(s) || more
		}
	}
}

// addBest adds to a square the item worth most per minute, if any is worth anything.
func (st *state) addBest(s int) bool {
	q := &st.m.squares[s]
	if q.fixed {
		return false
	}
	for barred := map[int32]bool{}; ; {
		best, found := 1e-9, item{unit: -1}
		for _, u := range st.m.teaches[q.track] {
			if barred[u] || hasUnit(st.sq[s], u) {
				continue
			}
			x := &st.m.units[u]
			first := st.first(q.track, u)
			for kind := teach; kind <= review; kind++ {
				if st.used[s]+x.cost[kind] > q.minutes || kind == review && first >= q.day {
					continue
				}
				gain := st.climbs(s, u, kind)
				if kind == teach && first == never {
					gain += softScoreAhead * st.ahead(s, u, 0)
				}
				if gain = gain / float64(x.cost[kind]); gain > best {
					best, found = gain, item{unit: u, kind: kind}
				}
			}
		}
		if found.unit < 0 {
			return false
		}
		if st.try(change{s, append(st.sq[s][:len(st.sq[s]):len(st.sq[s])], found)}) {
			return true
		}
		barred[found.unit] = true
	}
}

// softScoreAhead is the share of the worth of what a unit opens.
const softScoreAhead = 0.3

// climbs is what one more item in a square would add to coverage and to progress.
func (st *state) climbs(s int, u int32, kind uint8) float64 {
	if len(st.m.units[u].needs) == 0 {
		return 0
	}
	q := &st.m.squares[s]
	l := q.audiences[len(q.audiences)-1]
	if q.uneven { // who still has room for it
		used := st.used[s] + st.m.units[u].cost[kind]
		for i := len(q.classes) - 1; i >= 0; i-- {
			if l = q.audiences[i]; st.m.p.Classes[q.classes[i]].TeachMinutes >= used {
				break
			}
		}
	}
	now := st.climbed(u, st.mark[u], st.occs[u])
	more := append(st.occs[u][:len(st.occs[u]):len(st.occs[u])], occ{int32(s), l, kind})
	return st.climbed(u, st.mark[u]+st.m.audiences[l].mark[kind], more) - now
}

func (st *state) climbed(u int32, mark uint64, occs []occ) float64 {
	v := st.valueAt(u, mark, occs)
	return v[0] + softScoreStep*v[1]
}

// ahead is what the units that stand on u would be worth in the same square:
// why a movement nobody is asked for is taught all the same.
func (st *state) ahead(s int, u int32, depth int) float64 {
	sum := 0.0
	t := st.m.squares[s].track
	for _, d := range st.m.units[u].opens {
		if st.m.can[t][d] && st.first(t, d) == never && depth < 6 {
			sum += st.climbs(s, d, teach) + softScoreAhead*st.ahead(s, d, depth+1)
		}
	}
	return sum
}

func hasUnit(items []item, u int32) bool {
	for _, it := range items {
		if it.unit == u {
			return true
		}
	}
	return false
}
