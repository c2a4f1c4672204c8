package season

import (
	"fmt"
	"slices"
)

// Change is one class before and after a repair.
type Change struct {
	Week   int        `json:"week"`
	Class  string     `json:"class"`
	Before *Placement `json:"before,omitempty"`
	After  *Placement `json:"after,omitempty"`
}

// Repaired is a plan mended after something changed.
type Repaired struct {
	Plan    Plan     `json:"plan"`
	Before  float64  `json:"before" doc:"Coverage of the old plan, before the change"`
	Broken  float64  `json:"broken" doc:"Coverage if nothing were mended"`
	Anew    float64  `json:"anew" doc:"Coverage if everything that may move were planned anew"`
	Changes []Change `json:"changes"`
}

// Repair mends a plan so that it fits p, which already holds the change (a
// closure, a coach out). Placements before firstWeek stay as they are, also
// what was fixed; of the others it keeps whatever still keeps the rules, then
// adds or exchanges one item after another, the one that helps most for the
// classes it changes first, until coverage is within 1 % of planning everything anew, or nothing helps. When keeping leaves more than
// 1 % behind and planning anew does not, the new plan is taken.
func Repair(p Problem, old Plan, firstWeek int) (Repaired, error) {
	if bad := p.Check(); len(bad) > 0 {
		return Repaired{}, bad[0]
	}
	past := p
	past.Fixed = nil
	for _, x := range old.Placements {
		if x.Week < firstWeek && !closed(p, x.Week, x.Class) {
			past.Fixed = append(past.Fixed, x)
		}
	}
	for _, f := range p.Fixed {
		if f.Week >= firstWeek {
			past.Fixed = append(past.Fixed, f)
		}
	}
	anew, err := Solve(past)
	if err != nil {
		return Repaired{}, fmt.Errorf("nothing was changed: %w", err)
	}
	b := newBoard(past)
	b.keep(old)
	r := Repaired{Before: old.Coverage, Broken: b.coverage(), Anew: anew.Coverage}
	const enough = 0.99
	for b.coverage() < enough*anew.Coverage && (b.addBest() || b.swapBest()) {
	}
	r.Plan = b.plan()
	if r.Plan.Coverage < enough*anew.Coverage {
		r.Plan = anew
	}
	r.keepLeads(p, old)
	r.Changes = Diff(old, r.Plan)
	return r, nil
}

// keep puts the old plan's items back where they still may stand.
func (b *board) keep(old Plan) {
	for i := range b.squares {
		s := &b.squares[i]
		if s.fixed {
			continue
		}
		var had []Item
		for _, c := range s.classes {
			if x, ok := old.Find(s.week, c.ID); ok && len(x.Items) > len(had) {
				had = x.Items
			}
		}
		for _, it := range had {
			if b.mayHold(s, it) {
				b.put(s, it)
			}
		}
	}
}

// addBest adds the one item that raises coverage most for the classes it changes.
func (b *board) addBest() bool {
	best := option{worth: 1e-6}
	for i := range b.squares {
		s := &b.squares[i]
		if s.fixed {
			continue
		}
		for u := range b.p.Units {
			for _, kind := range []string{Teach, Review} {
				if !b.hasRoom(s, b.p.Units[u], kind) {
					continue
				}
				w := (b.gain(s, u, kind) + b.opens(s, u)*float64(halves(kind)-1)) / float64(len(s.classes))
				if it := (Item{b.p.Units[u].ID, kind}); w > best.worth && b.mayHold(s, it) {
					best = option{i, it, w}
				}
			}
		}
	}
	if best.worth <= 1e-6 {
		return false
	}
	b.put(&b.squares[best.square], best.item)
	return true
}

// swapBest exchanges the one item for another that raises coverage most for
// the classes it changes.
func (b *board) swapBest() bool {
	type swap struct {
		square, at int
		item       Item
	}
	best, found := 1e-6, swap{square: -1}
	before := b.coverage() * b.weights
	for i := range b.squares {
		s := &b.squares[i]
		for at := range s.items {
			if s.fixed {
				break
			}
			gone, kept := s.items[at], s.items
			s.items = slices.Delete(slices.Clone(kept), at, at+1)
			b.retally(b.units[gone.Unit])
			if b.holds(s.track) {
				lost := before - b.coverage()*b.weights
				for u := range b.p.Units {
					for _, kind := range []string{Teach, Review} {
						it := Item{b.p.Units[u].ID, kind}
						if !b.hasRoom(s, b.p.Units[u], kind) {
							continue
						}
						if w := (b.covers(s, u, kind) - lost) / float64(len(s.classes)); w > best && it != gone && b.mayHold(s, it) {
							best, found = w, swap{i, at, it}
						}
					}
				}
			}
			s.items = kept
			b.retally(b.units[gone.Unit])
		}
	}
	if found.square < 0 {
		return false
	}
	s := &b.squares[found.square]
	gone := s.items[found.at]
	s.items = slices.Delete(slices.Clone(s.items), found.at, found.at+1)
	b.retally(b.units[gone.Unit])
	b.put(s, found.item)
	return true
}

// keepLeads gives a class its old lead back where that still keeps the rules,
// so that a repair changes no coach without need.
func (r *Repaired) keepLeads(p Problem, old Plan) {
	b := newBoard(fixedAs(p, r.Plan))
	for w := 1; w <= p.Weeks; w++ {
		calls := b.calls(w)
		for i := range calls {
			calls[i].lead = ""
			was, ok := old.Find(w, calls[i].class)
			k := slices.IndexFunc(p.Coaches, func(c Coach) bool { return ok && c.ID == was.Lead })
			fixed := slices.ContainsFunc(p.Fixed, func(f Placement) bool { return f.Week == w && f.Class == calls[i].class })
			if k >= 0 && (fixed || p.Coaches[k].refusal(w, calls[i]) == "") {
				calls[i].lead = was.Lead
			}
		}
		leads, left := b.crew.week(w, calls, nil)
		if len(left) > 0 {
			continue // keeping them leaves a class alone: the new leads stay
		}
		for i := range r.Plan.Placements {
			if x := &r.Plan.Placements[i]; x.Week == w && leads[x.Class] != "" {
				x.Lead = leads[x.Class]
			}
		}
	}
}

// Diff lists the classes that differ between two plans, in the order they happen.
func Diff(before, after Plan) []Change {
	changes := []Change{}
	for _, x := range before.Placements {
		y, ok := after.Find(x.Week, x.Class)
		switch {
		case !ok:
			changes = append(changes, Change{x.Week, x.Class, &x, nil})
		case x.Lead != y.Lead || !slices.Equal(x.Items, y.Items):
			changes = append(changes, Change{x.Week, x.Class, &x, &y})
		}
	}
	for _, y := range after.Placements {
		if _, ok := before.Find(y.Week, y.Class); !ok {
			changes = append(changes, Change{y.Week, y.Class, nil, &y})
		}
	}
	slices.SortStableFunc(changes, func(a, b Change) int { return a.Week - b.Week })
	return changes
}
