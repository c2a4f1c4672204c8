package season

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// How much the planner likes what is not coverage itself, as factors on an
// item's worth under the goal "full". They order what is nearly equal; they never
// make an item that helps nobody worth its minutes.
const (
	likesSpacing = 1.25 // a review that falls where spacing asks for it
	mindsSpacing = 0.40 // a review that does not
	likesSchool  = 1.15 // block: the area of the week before; spiral: another one
	likesAhead   = 0.30 // share of the worth of what a unit opens
	likesStep    = 0.25 // share of progress toward a need that is not met yet
)

// mostItems is how many units a class touches at most under the goal "full":
// more would be counted as exposures and remembered by nobody.
const mostItems = 3

// Solve lays the season. It adds, again and again, the item that is worth most
// per minute, then takes squares apart one by one and refills them while that
// raises coverage. Every hard rule is kept by construction. The same problem
// gives the same plan.
//
// It is greedy, not optimal: the distance to the best is at most Bound −
// Coverage. Costs items placed × squares × units × needs
// of a unit: a season of 6 weeks, 4 classes, 20 units and 30 students takes
// tens of milliseconds.
func Solve(p Problem) (Plan, error) {
	if bad := p.Check(); len(bad) > 0 {
		return Plan{}, bad[0]
	}
	b := newBoard(p)
	if conflict := b.conflicts(); len(conflict) > 0 {
		return Plan{}, &Conflict{conflict}
	}
	b.fill()
	b.improve(2)
	return b.plan(), nil
}

// Conflict says that what is fixed cannot be kept together with the hard rules.
type Conflict struct{ Conditions []string }

func (c *Conflict) Error() string {
	return "what is fixed cannot be kept: " + strings.Join(c.Conditions, "; ")
}

func (b *board) conflicts() []string {
	var found []string
	for w := 1; w <= b.p.Weeks; w++ {
		if _, left := b.crew.week(w, b.calls(w), nil); len(left) > 0 {
			for _, x := range left {
				found = append(found, fmt.Sprintf("week %d, class %s: no coach can lead it", w, x.class))
			}
		}
	}
	return found
}

func (b *board) plan() Plan {
	placements := b.placements()
	coverage, _ := Coverage(b.p, placements)
	return Plan{Placements: placements, Coverage: coverage, Bound: bound(b.p), Unplaced: b.unplaced(),
		Scores: map[string]float64{"spacing": b.spacingKept(), "classes_used": float64(len(placements))}}
}

type option struct {
	square int
	item   Item
	worth  float64
}

// fill adds the best item while one is worth adding.
func (b *board) fill() {
	for {
		best := option{worth: 1e-9}
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
					it := Item{b.p.Units[u].ID, kind}
					if w := b.worth(s, u, kind); w > best.worth && b.mayHold(s, it) {
						best = option{i, it, w}
					}
				}
			}
		}
		if best.worth <= 1e-9 {
			return
		}
		b.put(&b.squares[best.square], best.item)
	}
}

// worth is what an item in a square adds, per minute.
func (b *board) worth(s *square, u int, kind string) float64 {
	unit := b.p.Units[u]
	if !slices.Contains(unit.Tracks, s.track) {
		return 0
	}
	gain := b.gain(s, u, kind)
	if kind == Teach && !b.taughtBefore(s.track, unit.ID, 1<<30) {
		gain += b.opens(s, u)
	}
	if b.p.Goal != "coverage" {
		if kind == Review {
			if b.wellSpaced(s, unit.ID) {
				gain *= likesSpacing
			} else {
				gain *= mindsSpacing
			}
		}
		if kind == Teach && b.suits(s, unit.Area) {
			gain *= likesSchool
		}
	}
	// Of two equal places the earlier leaves more room for what stands on it.
	return gain / float64(max(1, unit.cost(kind))) * (1 + 0.02*(1-float64(s.week)/float64(b.p.Weeks+1)))
}

// gain is the weight of needs newly met, and part of the progress toward those not met.
func (b *board) gain(s *square, u int, kind string) float64 {
	met, progress := b.adds(s, u, kind)
	return met + likesStep*progress
}

// covers is the weight of needs newly met alone.
func (b *board) covers(s *square, u int, kind string) float64 {
	met, _ := b.adds(s, u, kind)
	return met
}

func (b *board) adds(s *square, u int, kind string) (met, progress float64) {
	room := b.used(s)
	for _, n := range b.needs[u] {
		if n.halves == 0 {
			continue
		}
		b.scratch = append(b.scratch[:0], n.tally...)
		after := b.scratch
		for _, c := range s.classes {
			if room+b.p.Units[u].cost(kind) <= c.TeachMinutes {
				after.add(b.chance[n.student][c.ID], halves(kind))
			}
		}
		met += n.weight * (after.reached() - n.tally.reached())
		progress += n.weight * (after.progress() - n.tally.progress())
	}
	return met, progress
}

// opens is a share of what the units that stand on u would be worth in the
// same square: why a movement nobody is tested on is taught all the same.
func (b *board) opens(s *square, u int) float64 {
	sum := 0.0
	for d, unit := range b.p.Units {
		if slices.Contains(unit.Requires, b.p.Units[u].ID) && slices.Contains(unit.Tracks, s.track) && !b.taughtBefore(s.track, unit.ID, 1<<30) {
			sum += likesAhead * (b.gain(s, d, Teach) + b.opens(s, d))
		}
	}
	return sum
}

// wellSpaced says whether the next review of a unit belongs in a square: the
// first about one spacing step after it was last taught in the track, the second
// about two, and so on. What the track stands on counts as taught before week 1.
func (b *board) wellSpaced(s *square, unit string) bool {
	last, reviews := 0, 0
	for _, other := range b.squares {
		if other.track != s.track || other.week >= s.week {
			continue
		}
		if slices.Contains(other.items, Item{unit, Teach}) {
			last, reviews = other.week, 0
		} else if slices.Contains(other.items, Item{unit, Review}) {
			reviews++
		}
	}
	if reviews >= len(b.p.Spacing.Weeks) {
		return false
	}
	gap := s.week - last - b.p.Spacing.Weeks[reviews]
	return gap >= -b.p.Spacing.Tolerance && gap <= b.p.Spacing.Tolerance
}

func (b *board) suits(s *square, area string) bool {
	school := b.tracks[s.track].School
	if school != "block" && school != "spiral" {
		return false
	}
	same := false
	for _, other := range b.squares {
		if other.track != s.track || other.week != s.week-1 {
			continue
		}
		for _, it := range other.items {
			same = same || it.Kind == Teach && b.p.Units[b.units[it.Unit]].Area == area
		}
	}
	return same == (school == "block")
}

// improve empties one square after another, refills, and keeps what raised
// coverage; a square on which later ones stand is left alone.
func (b *board) improve(passes int) {
	for range passes {
		better := false
		for i := range b.squares {
			s := &b.squares[i]
			if s.fixed || len(s.items) == 0 {
				continue
			}
			before, had := b.coverage(), b.snapshot()
			gone := s.items
			s.items = nil
			for _, it := range gone {
				b.retally(b.units[it.Unit])
			}
			if b.holds(s.track) {
				b.fill()
				if b.coverage() > before+1e-9 {
					better = true
					continue
				}
			}
			b.restore(had)
		}
		if !better {
			return
		}
	}
}

func (b *board) snapshot() [][]Item {
	all := make([][]Item, len(b.squares))
	for i := range b.squares {
		all[i] = slices.Clone(b.squares[i].items)
	}
	return all
}

func (b *board) restore(had [][]Item) {
	for i := range b.squares {
		b.squares[i].items = had[i]
	}
	for u := range b.p.Units {
		b.retally(u)
	}
}

// spacingKept is the share of reviews that fall where spacing asks for them; 1
// when there are none.
func (b *board) spacingKept() float64 {
	kept, all := 0.0, 0.0
	for i := range b.squares {
		for _, it := range b.squares[i].items {
			if it.Kind == Review {
				all++
				if b.wellSpaced(&b.squares[i], it.Unit) {
					kept++
				}
			}
		}
	}
	if all == 0 {
		return 1
	}
	return kept / all
}

// unplaced says of each unit somebody needs and no class teaches, why.
func (b *board) unplaced() []Unplaced {
	found := []Unplaced{}
	for u, unit := range b.p.Units {
		if len(b.needs[u]) == 0 {
			continue
		}
		taught := false
		for i := range b.squares {
			taught = taught || slices.Contains(b.squares[i].items, Item{unit.ID, Teach})
		}
		for _, t := range unit.Tracks {
			taught = taught || slices.Contains(b.tracks[t].Assumed, unit.ID)
		}
		if !taught {
			found = append(found, Unplaced{unit.ID, b.whyNot(unit)})
		}
	}
	slices.SortFunc(found, func(x, y Unplaced) int { return cmp.Compare(x.Unit, y.Unit) })
	return found
}

func (b *board) whyNot(unit Unit) string {
	longest, led := 0, false
	for i := range b.squares {
		if s := &b.squares[i]; slices.Contains(unit.Tracks, s.track) && !s.fixed {
			longest = max(longest, s.minutes)
			led = led || b.staffed(s, []Item{{unit.ID, Teach}})
		}
	}
	if longest < unit.Minutes {
		return fmt.Sprintf("It takes %d minutes; the longest class of its tracks has %d.", unit.Minutes, longest)
	}
	if !led {
		return fmt.Sprintf("No coach who is signed off for %s can lead a class of its tracks.", unit.Signoff)
	}
	for _, r := range unit.Requires {
		somewhere := false
		for _, t := range unit.Tracks {
			somewhere = somewhere || b.taughtBefore(t, r, 1<<30)
		}
		if !somewhere {
			return fmt.Sprintf("It stands on %s, which is not taught either.", b.p.Units[b.units[r]].Name)
		}
	}
	return "No minutes are left; what is placed helps more students."
}
