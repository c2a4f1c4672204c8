package search

import (
	"slices"

	"vereda/core/season/model"
)

// nearness is what a search for a plan near another one climbs: what is covered up to what is enough, less a price for each class that differs.
type nearness struct {
	was    [][]model.Item // per square
	enough float64        // coverage that is
	price  float64        // of a class that differs, in coverage
	now    int            // classes that differ, as the state stands
	then   int            // and with what is tried
	least  int            // the fewest found with enough
	covers float64        // and how much those cover
}

const (
	nearHeat  = 2    // of the price, at the beginning
	nearCold  = 0.02 // of that, at the end
	nearPrice = 0.5  // of what a class covers in the mean
	restores  = 10   // of a hundred small moves make a square or two what they were
)

// Nearest looks for contents that cover enough and differ from was in as few classes as can be, from those a state has on. It answers with the best it
// came by: those of the state, unless it found better.
//
// Costs so many steps, whatever the season.
func Nearest(st *model.State, was [][]model.Item, enough float64, seed uint64, steps int64) [][]model.Item {
	h := New(st, seed, steps)
	classes := 0
	for s := range st.Items {
		classes += len(st.Model.Squares[s].Classes)
	}
	if len(h.open) == 0 || len(h.units) == 0 {
		return h.best
	}
	h.near = &nearness{was: was, enough: enough, price: nearPrice * st.Coverage() / float64(classes)}
	h.near.count(st)
	h.near.now, h.near.least, h.near.covers = h.near.then, h.near.then, st.Coverage()
	h.round(nearHeat*h.near.price, nearCold, steps, nil)
	return h.best
}

func (n *nearness) worth(covered float64, differing int) float64 {
	return min(covered, n.enough) - n.price*float64(differing)
}

// better says whether a state is enough with fewer classes than were known, or as many that cover more.
func (n *nearness) better(st *model.State) bool {
	covers := st.Coverage()
	if covers < n.enough || n.covers >= n.enough && (n.now > n.least || n.now == n.least && covers <= n.covers+1e-12) {
		return false
	}
	n.least, n.covers = n.now, covers
	return true
}

// gain is what changes would bring; those that come to what was become that, in its order.
func (n *nearness) gain(st *model.State, changes []model.Change) float64 {
	n.then = n.now
	for i := range changes {
		c := &changes[i]
		if !st.Model.Squares[c.Square].Uneven && sameUnits(c.Items, n.was[c.Square]) {
			c.Items = n.was[c.Square]
		}
		n.then += n.differing(st, c.Square, c.Items) - n.differing(st, c.Square, st.Items[c.Square])
	}
	covered := st.Coverage()
	return n.worth(covered+st.CoverageGain(changes), n.then) - n.worth(covered, n.now)
}

// differing is how many classes differ when a square holds these items.
func (n *nearness) differing(st *model.State, s int, items []model.Item) int {
	if slices.EqualFunc(items, n.was[s], sameUnit) {
		return 0
	}
	return len(st.Model.Squares[s].Classes)
}

// count counts the classes that differ anew.
func (n *nearness) count(st *model.State) {
	n.then = 0
	for s := range st.Items {
		if !st.Model.Squares[s].Fixed {
			n.then += n.differing(st, s, st.Items[s])
		}
	}
}

func sameUnit(a, b model.Item) bool { return a.Unit == b.Unit && a.Kind == b.Kind }

// sameUnits says whether two squares hold the same in whatever order.
func sameUnits(a, b []model.Item) bool {
	return len(a) == len(b) && !slices.ContainsFunc(a, func(x model.Item) bool {
		return !slices.ContainsFunc(b, func(y model.Item) bool { return sameUnit(x, y) })
	})
}

// restore makes a square or two what they were.
func (h *Search) restore() bool {
	var changes [2]model.Change
	n, of := 0, 1+h.rng.IntN(2)
	for tries := 0; tries < 30 && n < of; tries++ {
		s := int(h.open[h.rng.IntN(len(h.open))])
		if h.near.differing(h.st, s, h.st.Items[s]) > 0 && (n == 0 || changes[0].Square != s) {
			changes[n] = model.Change{Square: s, Items: h.near.was[s]}
			n++
		}
	}
	return n > 0 && h.try(changes[:n]...)
}
