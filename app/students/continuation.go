package students

import (
	"cmp"
	"slices"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/season"
)

// continuation is how a track likely goes on where nothing is planned: as many units taught and reviewed in a class as lately, each taught again as often as lately; new ones in the order of
// how little the plan has of them and how much the track's students need them; reviewed when the academy's spacing says.
type continuation struct {
	track   academy.Track
	spacing []int // weeks after a teach until it is reviewed
	queue   []academy.Unit
	need    map[string]float64 // unit: what the track's students have open of it, by how often they come
	times   map[string]int     // unit: how often the plan teaches it
	last    calendar.Day       // the last class planned
	classes int                // that were looked at for how much a class holds
	teaches float64            // units taught in them, a part of one as a part
	reviews float64
	taught  map[string]int // unit: on how many occasions it was taught lately: classes, or weeks in mode same

	at                     int // how far in the queue of new ones
	owed, owedAgain, again float64
	due                    []dueItem // what comes back, by day
	week                   calendar.Day
	items                  []likelyItem
}

// likelyItem is a unit in a class, and its place in the queue where it is from there: which unit stands in that place is not certain.
type likelyItem struct {
	season.Item
	slot int // −1 where the unit is certain: it comes back of what was planned
}

// dueItem is a unit that comes back from a day on.
type dueItem struct {
	on calendar.Day
	likelyItem
}

// What a class holds where nothing was taught yet; how many weeks later a unit is taught once more; and how many units are owed at most where there was nothing to pay with.
const (
	usualTeaches = 1.0
	usualReviews = 1.0
	teachAgain   = 4
	mostOwed     = 3
)

// continuation begins with what the track's classes held in the last half year.
func (f *snapshot) continuation(t academy.Track, from calendar.Day) *continuation {
	n := &continuation{track: t, spacing: weeksOf(f.Settings.Spacing), need: map[string]float64{}, times: map[string]int{}, taught: map[string]int{}}
	for _, unit := range f.Units {
		if slices.Contains(unit.Tracks, t.ID) && len(unit.Techniques) > 0 {
			n.queue = append(n.queue, unit)
		}
	}
	chances := f.Chances(from)
	for _, p := range f.Students() {
		visits := 0.0
		for _, c := range f.Classes {
			if c.Track == t.ID {
				visits += chances[p.ID][c.ID].Chance
			}
		}
		if visits < leastChance {
			continue
		}
		open := map[string]bool{}
		for _, g := range f.Readiness(p, from).Missing {
			if g.Has.Step() < curriculum.Drilled.Step() {
				open[g.Technique] = true
			}
		}
		for _, unit := range n.queue {
			for _, id := range unit.Techniques {
				if open[id] {
					n.need[unit.ID] += visits
				}
			}
		}
	}
	perUnit := 0.0 // techniques
	for _, unit := range n.queue {
		perUnit += float64(len(unit.Techniques)) / float64(len(n.queue))
	}
	occasions := map[string]bool{}
	for _, c := range f.Classes {
		if c.Track != t.ID || perUnit == 0 {
			continue
		}
		for _, s := range f.SessionsOf(c.ID) {
			if r, ok := f.ReportOf(s); ok && s.On > from-7*pastWeeks && s.On < from {
				n.classes++
				occasion := s.ID()
				if t.Mode == "same" {
					occasion = s.On.WeekStart(1).String()
				}
				for _, it := range r.Items {
					switch {
					case it.Reached == "not":
					case it.Kind == season.Review:
						n.reviews += 1 / perUnit
					default:
						n.teaches += float64(it.Exposure()) / 2 / perUnit
						for _, unit := range n.queue {
							if unit.Techniques[0] == it.Technique && !occasions[occasion+" "+unit.ID] {
								occasions[occasion+" "+unit.ID] = true
								n.taught[unit.ID]++
							}
						}
					}
				}
			}
		}
	}
	return n
}

// planned takes in a class of the plan.
func (n *continuation) planned(items []season.Item, on calendar.Day) {
	n.last = max(n.last, on)
	n.classes++
	for _, it := range items {
		if it.Kind == season.Teach {
			n.times[it.Unit]++
			n.teaches++
			n.comesBack(likelyItem{it, -1}, on)
		} else {
			n.reviews++
		}
	}
}

// order puts the units in the order they are taught in from here on. What nobody of the track needs is left out, unless nobody needs anything.
func (n *continuation) order() {
	if needed := slices.DeleteFunc(slices.Clone(n.queue), func(u academy.Unit) bool { return n.need[u.ID] == 0 }); len(needed) > 0 {
		n.queue = needed
	}
	slices.SortStableFunc(n.queue, func(a, b academy.Unit) int {
		return cmp.Or(cmp.Compare(n.times[a.ID], n.times[b.ID]), cmp.Compare(n.need[b.ID], n.need[a.ID]))
	})
	if n.classes == 0 {
		n.classes, n.teaches, n.reviews = 1, usualTeaches, usualReviews
	}
}

// comesBack notes when a unit that is taught on a day comes back.
func (n *continuation) comesBack(it likelyItem, on calendar.Day) {
	if n.track.Mode == "same" && slices.ContainsFunc(n.due, func(d dueItem) bool { return d.Unit == it.Unit && d.on > on && d.on <= on+7 }) {
		return // another class of the same week
	}
	for _, weeks := range n.spacing {
		n.due = append(n.due, dueItem{on + calendar.Day(7*weeks), likelyItem{season.Item{Unit: it.Unit, Kind: season.Review}, it.slot}})
	}
}

// repeats is how often a unit is taught again, once it was taught.
func (n *continuation) repeats() float64 {
	sum := 0
	for _, times := range n.taught {
		sum += times
	}
	if sum == 0 {
		return 0
	}
	return float64(sum)/float64(len(n.taught)) - 1
}

// class is what the next class likely holds. In mode same all classes of a week hold the same.
func (n *continuation) class(on calendar.Day) []likelyItem {
	if len(n.queue) == 0 {
		return nil
	}
	if week := on.WeekStart(1); n.track.Mode == "same" {
		if week == n.week {
			return n.items
		}
		n.week = week
	}
	n.owed = min(mostOwed, n.owed+n.teaches/float64(n.classes))
	n.owedAgain = min(mostOwed, n.owedAgain+n.reviews/float64(n.classes))
	n.items = nil
	for ; n.owed >= 1; n.owed-- {
		it, ok := n.take(season.Teach, on)
		if !ok {
			slot := n.at % len(n.queue)
			it = likelyItem{season.Item{Unit: n.queue[slot].ID, Kind: season.Teach}, slot}
			n.at++
			for n.again += n.repeats(); n.again >= 1; n.again-- {
				n.due = append(n.due, dueItem{on + 7*teachAgain, it})
			}
			n.comesBack(it, on)
		}
		n.items = append(n.items, it)
	}
	for n.owedAgain >= 1 {
		it, ok := n.take(season.Review, on)
		if !ok {
			break
		}
		n.items = append(n.items, it)
		n.owedAgain--
	}
	return n.items
}

// take is what has been due for longest, and is not in the class already.
func (n *continuation) take(kind string, on calendar.Day) (likelyItem, bool) {
	best := -1
	for i, d := range n.due {
		in := slices.ContainsFunc(n.items, func(it likelyItem) bool { return it.Unit == d.Unit })
		if d.Kind == kind && d.on <= on && !in && (best < 0 || d.on < n.due[best].on) {
			best = i
		}
	}
	if best < 0 {
		return likelyItem{}, false
	}
	it := n.due[best].likelyItem
	n.due = slices.Delete(n.due, best, best+1)
	return it, true
}

// weeksOf is after how many weeks something comes back: the academy's spacing, the usual one where it set none.
func weeksOf(s season.Spacing) []int {
	if len(s.Weeks) == 0 {
		return season.DefaultSpacing.Weeks
	}
	return s.Weeks
}
