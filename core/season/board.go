package season

import (
	"cmp"
	"slices"
	"strconv"
)

// board is a plan in the making. Its squares are what can be decided apart: a
// week of a track in mode same, one class of one week in mode split.
type board struct {
	p       Problem
	units   map[string]int
	squares []square
	tracks  map[string]Track
	chance  []map[string]float64 // per student
	needs   [][]need             // per unit: who needs it
	weights float64
	scratch tally // for sums that are only tried
	crew    crew
}

// square is one thing to decide. Items are kept in order; a class too short
// for all takes the leading ones that fit.
type square struct {
	track   string
	week    int
	day     int // week × 8 + weekday; week × 8 in mode same, where only the week orders
	classes []Class
	minutes int // of its longest class
	items   []Item
	fixed   bool // stays as it is
	asIs    bool // a class fixed itself: it gave all its items, whatever its minutes
}

type need struct {
	student int
	halves  int
	weight  float64
	tally   tally
}

func newBoard(p Problem) *board {
	b := &board{p: p, units: map[string]int{}, tracks: map[string]Track{}, needs: make([][]need, len(p.Units)), crew: newCrew(p)}
	for i, u := range p.Units {
		b.units[u.ID] = i
	}
	for _, t := range p.Tracks {
		b.tracks[t.ID] = t
	}
	for i, s := range p.Students {
		b.chance = append(b.chance, s.Chance)
		for _, n := range s.Open {
			u := b.units[n.Unit]
			b.needs[u] = append(b.needs[u], need{student: i, halves: n.missing(), weight: n.Weight})
			b.weights += n.Weight
		}
	}
	b.lay()
	for u := range p.Units {
		b.retally(u)
	}
	return b
}

// lay cuts the season into squares and puts in what is fixed.
func (b *board) lay() {
	fixed := map[string]Placement{}
	for _, f := range b.p.Fixed {
		fixed[key(f.Week, f.Class)] = f
	}
	for w := 1; w <= b.p.Weeks; w++ {
		for _, t := range b.p.Tracks {
			var open []Class
			for _, c := range b.p.Classes {
				if c.Track != t.ID {
					continue
				}
				f, isFixed := fixed[key(w, c.ID)]
				switch {
				case isFixed: // as it was taught, whatever the others do
					b.squares = append(b.squares, square{track: t.ID, week: w, day: b.day(t, w, c), classes: []Class{c}, minutes: c.TeachMinutes, items: slices.Clone(f.Items), fixed: true, asIs: true})
				case closed(b.p, w, c.ID):
				default:
					open = append(open, c)
				}
			}
			if t.Mode == "split" {
				for _, c := range open {
					b.squares = append(b.squares, square{track: t.ID, week: w, day: b.day(t, w, c), classes: []Class{c}, minutes: c.TeachMinutes})
				}
			} else if len(open) > 0 {
				longest := slices.MaxFunc(open, func(x, y Class) int { return cmp.Compare(x.TeachMinutes, y.TeachMinutes) })
				b.squares = append(b.squares, square{track: t.ID, week: w, day: w * 8, classes: open, minutes: longest.TeachMinutes})
			}
		}
	}
	slices.SortStableFunc(b.squares, func(x, y square) int { return cmp.Compare(x.day, y.day) })
	b.sameAsFixed()
}

// sameAsFixed: where one class of a week in mode same is fixed, the others of
// that week give the same.
func (b *board) sameAsFixed() {
	for i := range b.squares {
		if s := &b.squares[i]; !s.fixed && b.tracks[s.track].Mode == "same" {
			for _, other := range b.squares {
				if other.fixed && other.track == s.track && other.week == s.week && len(other.items) > 0 {
					s.items, s.fixed = slices.Clone(other.items), true
				}
			}
		}
	}
}

func (b *board) day(t Track, week int, c Class) int {
	if t.Mode == "same" {
		return week * 8
	}
	return week*8 + c.Weekday
}

// given lists the items a class really gives: the leading ones that fit.
func (b *board) given(s *square, c Class) []Item {
	if s.asIs {
		return s.items
	}
	left := c.TeachMinutes
	for i, it := range s.items {
		left -= b.p.Units[b.units[it.Unit]].cost(it.Kind)
		if left < 0 {
			return s.items[:i]
		}
	}
	return s.items
}

func (b *board) used(s *square) int {
	sum := 0
	for _, it := range s.items {
		sum += b.p.Units[b.units[it.Unit]].cost(it.Kind)
	}
	return sum
}

// taughtBefore says whether a unit was taught in a track before a day, or is
// assumed there.
func (b *board) taughtBefore(track, unit string, day int) bool {
	if slices.Contains(b.tracks[track].Assumed, unit) {
		return true
	}
	for i := range b.squares {
		s := &b.squares[i]
		if s.day >= day {
			return false
		}
		if s.track == track && slices.Contains(s.items, Item{unit, Teach}) {
			return true
		}
	}
	return false
}

// mayHold says whether an item may join a square.
func (b *board) mayHold(s *square, it Item) bool {
	u := b.p.Units[b.units[it.Unit]]
	if !b.hasRoom(s, u, it.Kind) {
		return false
	}
	if it.Kind == Review && !b.taughtBefore(s.track, it.Unit, s.day) {
		return false
	}
	if it.Kind == Teach {
		for _, r := range u.Requires {
			if !b.taughtBefore(s.track, r, s.day) {
				return false
			}
		}
	}
	return b.staffed(s, append(slices.Clone(s.items), it))
}

// hasRoom is the cheap part of mayHold: the track, the minutes, once in a class.
func (b *board) hasRoom(s *square, u Unit, kind string) bool {
	if s.fixed || !slices.Contains(u.Tracks, s.track) || b.used(s)+u.cost(kind) > s.minutes {
		return false
	}
	if b.p.Goal != "coverage" && len(s.items) >= mostItems {
		return false
	}
	for _, had := range s.items {
		if had.Unit == u.ID {
			return false
		}
	}
	return true
}

// staffed says whether the square's week can be led if it held these items.
func (b *board) staffed(s *square, items []Item) bool {
	kept := s.items
	s.items = items
	_, left := b.crew.week(s.week, b.calls(s.week), nil)
	s.items = kept
	return len(left) == 0
}

// calls lists the classes of a week that need a lead, and what they ask of one.
func (b *board) calls(week int) []call {
	var all []call
	for i := range b.squares {
		s := &b.squares[i]
		if s.week != week || len(s.items) == 0 {
			continue
		}
		for _, c := range s.classes {
			given := b.given(s, c)
			if len(given) == 0 {
				continue
			}
			x := call{class: c.ID}
			for _, it := range given {
				if sign := b.p.Units[b.units[it.Unit]].Signoff; sign != "" && !slices.Contains(x.signoffs, sign) {
					x.signoffs = append(x.signoffs, sign)
				}
			}
			for _, f := range b.p.Fixed {
				if f.Week == week && f.Class == c.ID {
					x.lead = f.Lead
				}
			}
			all = append(all, x)
		}
	}
	return all
}

// holds says whether every item of a track still stands on what it needs.
func (b *board) holds(track string) bool {
	for i := range b.squares {
		s := &b.squares[i]
		if s.track != track || s.fixed {
			continue
		}
		for _, it := range s.items {
			if it.Kind == Review && !b.taughtBefore(track, it.Unit, s.day) {
				return false
			}
			if it.Kind == Teach {
				for _, r := range b.p.Units[b.units[it.Unit]].Requires {
					if !b.taughtBefore(track, r, s.day) {
						return false
					}
				}
			}
		}
	}
	return true
}

// retally computes who has met a unit how often, from what the board holds.
func (b *board) retally(u int) {
	id := b.p.Units[u].ID
	for i := range b.needs[u] {
		b.needs[u][i].tally = newTally(b.needs[u][i].halves)
	}
	for i := range b.squares {
		s := &b.squares[i]
		for _, c := range s.classes {
			for _, it := range b.given(s, c) {
				if it.Unit != id {
					continue
				}
				for j := range b.needs[u] {
					n := &b.needs[u][j]
					n.tally.add(b.chance[n.student][c.ID], halves(it.Kind))
				}
			}
		}
	}
}

// put adds an item at the end of a square and brings the tallies along.
func (b *board) put(s *square, it Item) {
	s.items = append(s.items, it)
	b.retally(b.units[it.Unit])
}

// coverage is the expected coverage of the board as it stands.
func (b *board) coverage() float64 {
	if b.weights == 0 {
		return 1
	}
	sum := 0.0
	for _, unit := range b.needs {
		for _, n := range unit {
			sum += n.weight * n.tally.reached()
		}
	}
	return sum / b.weights
}

// placements reads the board off, with leads.
func (b *board) placements() []Placement {
	var all []Placement
	previous := map[string]string{}
	for w := 1; w <= b.p.Weeks; w++ {
		leads, _ := b.crew.week(w, b.calls(w), previous)
		for i := range b.squares {
			s := &b.squares[i]
			if s.week != w {
				continue
			}
			for _, c := range s.classes {
				if items := b.given(s, c); len(items) > 0 {
					all = append(all, Placement{Week: w, Class: c.ID, Lead: leads[c.ID], Items: slices.Clone(items)})
				}
			}
		}
		for class, lead := range leads {
			previous[class] = lead
			b.crew.load[lead]++
		}
	}
	clear(b.crew.load)
	sortPlacements(b.p, all)
	return all
}

// key names one class of one week.
func key(week int, class string) string { return strconv.Itoa(week) + "/" + class }
