package model

// shift is by how much a unit's mark would move.
type shift struct {
	unit int32
	by   uint64
}

// Gain is how much the score would change with other items in squares, whether or not the rules allow them: far
// cheaper than to try them. They must fit in minutes.
func (st *State) Gain(changes ...Change) float64 {
	return st.CoverageGain(changes) + st.SoftScore.gain(st, changes)
}

// Gains says whether that is so much at least. What the goal full adds is only worked out where it can tip the scale.
func (st *State) Gains(least float64, changes ...Change) bool {
	gain := st.CoverageGain(changes)
	return gain+st.SoftScore.most(len(st.shifts), len(changes)) >= least && gain+st.SoftScore.gain(st, changes) >= least
}

// CoverageGain is the same of coverage alone.
func (st *State) CoverageGain(changes []Change) float64 {
	for len(st.placed) < len(changes) {
		st.placed = append(st.placed, nil)
	}
	st.shifts = st.shifts[:0]
	for i, c := range changes {
		q := &st.Model.Squares[c.Square]
		st.placed[i] = append(st.placed[i][:0], c.Items...)
		if !q.Fixed {
			st.Model.Place(q, st.placed[i])
		}
		for _, it := range st.Items[c.Square] {
			if !has(st.placed[i], it) {
				st.shift(it, ^uint64(0))
			}
		}
		for _, it := range st.placed[i] {
			if !has(st.Items[c.Square], it) {
				st.shift(it, 1)
			}
		}
	}
	gain := 0.0
	for _, x := range st.shifts {
		if x.by == 0 {
			continue
		}
		mark := st.Marks[x.unit] + x.by
		if v := st.known(x.unit, mark); v != nil {
			gain += v[0] - st.Values[x.unit]
		} else {
			gain += st.compute(x.unit, mark, st.givenAfter(x.unit, changes))[0] - st.Values[x.unit]
		}
	}
	if st.Model.Weights > 0 {
		gain /= st.Model.Weights
	}
	return gain
}

// after is what a square holds after changes that were placed.
func (st *State) after(s int32, changes []Change) []Item {
	for i, c := range changes {
		if c.Square == int(s) {
			return st.placed[i]
		}
	}
	return st.Items[s]
}

// shift notes an item that comes (times 1) or goes (times −1).
func (st *State) shift(it Item, times uint64) {
	by := times * st.Model.Audiences[it.Audience].Mark[it.Kind]
	for i := range st.shifts {
		if st.shifts[i].unit == it.Unit {
			st.shifts[i].by += by
			return
		}
	}
	st.shifts = append(st.shifts, shift{it.Unit, by})
}

// givenAfter is how a unit would be given after changes that were placed.
func (st *State) givenAfter(u int32, changes []Change) []Occasion {
	st.given = st.given[:0]
next:
	for _, o := range st.Occasions[u] {
		for _, c := range changes {
			if int(o.Square) == c.Square {
				continue next
			}
		}
		st.given = append(st.given, o)
	}
	for i, c := range changes {
		for _, it := range st.placed[i] {
			if it.Unit == u {
				st.given = append(st.given, Occasion{Square: int32(c.Square), Audience: it.Audience, Kind: it.Kind})
			}
		}
	}
	return st.given
}
