package search

import (
	"cmp"
	"math"
	"slices"

	"vereda/core/season/model"
)

// longestChain is how many units, one upon another, are introduced for a unit at most.
const longestChain = 8

// introduce teaches a track what something else is to stand on, where it is not taught yet, whatever that costs: a unit gains by nothing that stands on it, so
// only together do they come into a plan. It says the day it is first taught; Never where it cannot be.
func (r *Relay) introduce(t int, u int32, tilt float64, depth int) int {
	st := r.State
	if first := st.First(t, u); first != model.Never || !st.Model.Can[t][u] || depth >= longestChain {
		return first
	}
	ground := 0
	for _, need := range st.Model.Units[u].Requires {
		if ground = max(ground, r.introduce(t, need, tilt, depth+1)); ground == model.Never {
			return model.Never
		}
	}
	r.FindRooms(t, u)
	var ways []grown
	starts := r.starts(ground)
	for i := range starts {
		x := &starts[i]
		g := r.grow(t, u, st.Model.Squares[x.Square].Day, x, tilt)
		if len(g.items) == 0 {
			g = grown{[]choiceOf{{x, model.Teach}}, -x.Cost}
		}
		ways = append(ways, g)
	}
	slices.SortStableFunc(ways, func(a, b grown) int { return cmp.Compare(b.net, a.net) })
	for _, freed := range []bool{false, true} {
		for _, g := range ways {
			if freed && !r.free(u, g.items[0].room.Square) {
				continue
			}
			r.apply(u, g)
			if first := st.First(t, u); first != model.Never {
				return first
			}
		}
	}
	return model.Never
}

// free takes out of a class what only a coach can lead who is signed off for a unit: of the class of its week that loses least by it. It says whether there is
// one.
func (r *Relay) free(u int32, square int32) bool {
	st := r.State
	m := st.Model
	if m.Problem.Units[u].Signoff == "" {
		return false
	}
	const held = 1e9 // what something stands on is given up last, if at all
	at, least := int32(-1), math.Inf(1)
	for _, s := range m.ByWeek[m.Squares[square].Week] {
		q := &m.Squares[s]
		if s == square || q.Stays() {
			continue
		}
		sum, any := 0.0, false
		for _, it := range st.Items[s] {
			if m.Units[it.Unit].MayLead&^m.Units[u].MayLead == 0 {
				any = true
				sum += min(held, r.Loss(q.Track, s, it))
			}
		}
		if any && sum < least {
			at, least = s, sum
		}
	}
	if at < 0 {
		return false
	}
	var rest []model.Item
	for _, it := range st.Items[at] {
		if m.Units[it.Unit].MayLead&^m.Units[u].MayLead != 0 {
			rest = append(rest, it)
		}
	}
	return r.try(int(at), rest)
}
