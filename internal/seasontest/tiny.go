package seasontest

import (
	"math/rand/v2"
	"slices"
	"strconv"

	"vereda/core/season"
)

// Tiny draws a season small enough for every plan of it to be tried.
func Tiny(seed uint64) season.Problem {
	r := rand.New(rand.NewPCG(seed, 3))
	p := season.Problem{Weeks: 1 + r.IntN(3), Spacing: season.DefaultSpacing, Goal: "coverage", Seconds: 0.2}
	mode := []string{"same", "split"}[r.IntN(2)]
	p.Tracks = []season.Track{{ID: "t", Mode: mode, School: "free"}}
	classes := 1 + r.IntN(2)
	if mode == "split" && p.Weeks == 3 {
		classes = 1
	}
	for i := range classes {
		p.Classes = append(p.Classes, season.Class{ID: "c" + strconv.Itoa(i), Track: "t", Weekday: 1 + i*r.IntN(3), Start: "18:00", TeachMinutes: 12 + r.IntN(20)})
	}
	for i := range 2 + r.IntN(2) {
		u := season.Unit{ID: "u" + strconv.Itoa(i), Tracks: []string{"t"}, Minutes: 8 + r.IntN(10), ReviewMinutes: 4 + r.IntN(5), Area: "a"}
		if i > 0 && r.IntN(3) == 0 {
			u.Requires = []string{"u0"}
		}
		if r.IntN(4) == 0 {
			u.Signoff = "legs"
		}
		p.Units = append(p.Units, u)
	}
	for i := range 1 + r.IntN(3) {
		s := season.Student{ID: "s" + strconv.Itoa(i), Chance: map[string]float64{}}
		for _, c := range p.Classes {
			s.Chance[c.ID] = r.Float64()
		}
		for _, u := range p.Units {
			if r.IntN(3) > 0 {
				s.Open = append(s.Open, season.Need{Unit: u.ID, Need: 1 + float64(r.IntN(3))/2, Had: float64(r.IntN(2)) / 2, Weight: 1 + r.Float64()})
			}
		}
		p.Students = append(p.Students, s)
	}
	for i := range 1 + r.IntN(2) {
		c := season.Coach{ID: "k" + strconv.Itoa(i), MaxPerWeek: 1 + r.IntN(2), Share: 0.5}
		for _, k := range p.Classes {
			if r.IntN(4) > 0 {
				c.Available = append(c.Available, k.ID)
			}
		}
		if r.IntN(2) == 0 {
			c.Signoffs = []string{"legs"}
		}
		if r.IntN(5) == 0 {
			c.Out = []season.Away{{Week: 1 + r.IntN(p.Weeks)}}
		}
		p.Coaches = append(p.Coaches, c)
	}
	if r.IntN(4) == 0 {
		p.Closures = []season.Closure{{Week: 1 + r.IntN(p.Weeks), Class: "c0"}}
	}
	return p
}

// Exhausted is the judge of the optimum: every content of every class, every
// lead, judged by breaches alone.
func Exhausted(p season.Problem) (best float64) {
	Visit(p, func(all []season.Placement) {
		if c, _ := season.Coverage(p, all); c > best {
			VisitLeads(p, all, func([]season.Placement) { best = c })
		}
	})
	return best
}

// Visit goes through everything a tiny season may teach. Contents of mode same
// are given to every class that is long enough.
func Visit(p season.Problem, each func([]season.Placement)) {
	var contents [][]season.Item
	var grow func(had []season.Item)
	grow = func(had []season.Item) {
		contents = append(contents, slices.Clone(had))
		for _, u := range p.Units {
			if !slices.ContainsFunc(had, func(it season.Item) bool { return it.Unit == u.ID }) {
				for _, kind := range []string{season.Teach, season.Review} {
					grow(append(slices.Clone(had), season.Item{Unit: u.ID, Kind: kind}))
				}
			}
		}
	}
	grow(nil)
	minutes := func(items []season.Item) (sum int) {
		for _, it := range items {
			u := unitOf(p, it.Unit)
			if it.Kind == season.Teach {
				sum += u.Minutes
			} else {
				sum += u.ReviewMinutes
			}
		}
		return sum
	}
	even := len(p.Classes) == 1 || p.Tracks[0].Mode == "split" || p.Classes[0].TeachMinutes == p.Classes[1].TeachMinutes
	if even { // then their order changes nothing
		contents = slices.DeleteFunc(contents, func(items []season.Item) bool {
			return !slices.IsSortedFunc(items, func(a, b season.Item) int {
				if a.Unit < b.Unit {
					return -1
				}
				return 1
			})
		})
	}
	ordered := func(all []season.Placement) bool { // breaches that more classes later cannot mend
		return !slices.ContainsFunc(Breaches(anybody(p), all), func(string) bool { return true })
	}
	var squares [][]season.Placement
	for w := 1; w <= p.Weeks; w++ {
		var open []season.Placement
		for _, c := range p.Classes {
			if !season.Closed(p, w, c.ID) {
				open = append(open, season.Placement{Week: w, Class: c.ID})
			}
		}
		if p.Tracks[0].Mode == "same" {
			if len(open) > 0 {
				squares = append(squares, open)
			}
			continue
		}
		slices.SortStableFunc(open, func(a, b season.Placement) int { return weekday(p, a.Class) - weekday(p, b.Class) })
		for _, x := range open {
			squares = append(squares, []season.Placement{x})
		}
	}
	var try func(i int, all []season.Placement)
	try = func(i int, all []season.Placement) {
		if !ordered(all) {
			return
		}
		if i == len(squares) {
			each(all)
			return
		}
		for _, items := range contents {
			next := slices.Clone(all)
			reached := 0
			for _, x := range squares[i] {
				c := p.Classes[slices.IndexFunc(p.Classes, func(c season.Class) bool { return c.ID == x.Class })]
				n := len(items)
				for n > 0 && minutes(items[:n]) > c.TeachMinutes {
					n--
				}
				reached = max(reached, n)
				if n > 0 {
					x.Items = items[:n]
					next = append(next, x)
				}
			}
			if reached == len(items) {
				try(i+1, next)
			}
		}
	}
	try(0, nil)
}

func weekday(p season.Problem, class string) int {
	return p.Classes[slices.IndexFunc(p.Classes, func(c season.Class) bool { return c.ID == class })].Weekday
}

// anybody is the problem with one coach who may lead all, so that only what
// is taught is judged.
func anybody(p season.Problem) season.Problem {
	c := season.Coach{ID: "", MaxPerWeek: 99, Signoffs: []string{"legs"}}
	for _, k := range p.Classes {
		c.Available = append(c.Available, k.ID)
	}
	p.Coaches = []season.Coach{c}
	return p
}

// VisitLeads goes through the choices of leads that break no rule.
func VisitLeads(p season.Problem, all []season.Placement, each func([]season.Placement)) {
	next := slices.Clone(all)
	var try func(i int)
	try = func(i int) {
		if i == len(next) {
			if len(Breaches(p, next)) == 0 {
				each(next)
			}
			return
		}
		for _, c := range p.Coaches {
			next[i].Lead = c.ID
			try(i + 1)
		}
	}
	try(0)
}
