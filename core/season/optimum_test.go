package season

import (
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/require"
)

// tiny draws a season small enough for every plan of it to be tried.
func tiny(seed uint64) Problem {
	r := rand.New(rand.NewPCG(seed, 3))
	p := Problem{Weeks: 1 + r.IntN(3), Spacing: DefaultSpacing, Goal: "coverage", Seconds: 0.2}
	mode := []string{"same", "split"}[r.IntN(2)]
	p.Tracks = []Track{{ID: "t", Mode: mode, School: "free"}}
	classes := 1 + r.IntN(2)
	if mode == "split" && p.Weeks == 3 {
		classes = 1
	}
	for i := range classes {
		p.Classes = append(p.Classes, Class{ID: "c" + strconv.Itoa(i), Track: "t", Weekday: 1 + i*r.IntN(3), Start: "18:00", TeachMinutes: 12 + r.IntN(20)})
	}
	for i := range 2 + r.IntN(2) {
		u := Unit{ID: "u" + strconv.Itoa(i), Tracks: []string{"t"}, Minutes: 8 + r.IntN(10), ReviewMinutes: 4 + r.IntN(5), Area: "a"}
		if i > 0 && r.IntN(3) == 0 {
			u.Requires = []string{"u0"}
		}
		if r.IntN(4) == 0 {
			u.Signoff = "legs"
		}
		p.Units = append(p.Units, u)
	}
	for i := range 1 + r.IntN(3) {
		s := Student{ID: "s" + strconv.Itoa(i), Chance: map[string]float64{}}
		for _, c := range p.Classes {
			s.Chance[c.ID] = r.Float64()
		}
		for _, u := range p.Units {
			if r.IntN(3) > 0 {
				s.Open = append(s.Open, Need{u.ID, 1 + float64(r.IntN(3))/2, float64(r.IntN(2)) / 2, 1 + r.Float64()})
			}
		}
		p.Students = append(p.Students, s)
	}
	for i := range 1 + r.IntN(2) {
		c := Coach{ID: "k" + strconv.Itoa(i), MaxPerWeek: 1 + r.IntN(2), Share: 0.5}
		for _, k := range p.Classes {
			if r.IntN(4) > 0 {
				c.Available = append(c.Available, k.ID)
			}
		}
		if r.IntN(2) == 0 {
			c.Signoffs = []string{"legs"}
		}
		if r.IntN(5) == 0 {
			c.Out = []Away{{Week: 1 + r.IntN(p.Weeks)}}
		}
		p.Coaches = append(p.Coaches, c)
	}
	if r.IntN(4) == 0 {
		p.Closures = []Closure{{Week: 1 + r.IntN(p.Weeks), Class: "c0"}}
	}
	return p
}

// exhausted is the judge of the optimum: every content of every class, every
// lead, judged by breaches alone.
func exhausted(p Problem) (best float64) {
	visit(p, func(all []Placement) {
		if c, _ := Coverage(p, all); c > best {
			visitLeads(p, all, func([]Placement) { best = c })
		}
	})
	return best
}

// visit goes through everything a tiny season may teach. Contents of mode same
// are given to every class that is long enough.
func visit(p Problem, each func([]Placement)) {
	var contents [][]Item
	var grow func(had []Item)
	grow = func(had []Item) {
		contents = append(contents, slices.Clone(had))
		for _, u := range p.Units {
			if !slices.ContainsFunc(had, func(it Item) bool { return it.Unit == u.ID }) {
				for _, kind := range []string{Teach, Review} {
					grow(append(slices.Clone(had), Item{u.ID, kind}))
				}
			}
		}
	}
	grow(nil)
	minutes := func(items []Item) (sum int) {
		for _, it := range items {
			u := p.Units[slices.IndexFunc(p.Units, func(u Unit) bool { return u.ID == it.Unit })]
			if it.Kind == Teach {
				sum += u.Minutes
			} else {
				sum += u.ReviewMinutes
			}
		}
		return sum
	}
	even := len(p.Classes) == 1 || p.Tracks[0].Mode == "split" || p.Classes[0].TeachMinutes == p.Classes[1].TeachMinutes
	if even { // then their order changes nothing
		contents = slices.DeleteFunc(contents, func(items []Item) bool {
			return !slices.IsSortedFunc(items, func(a, b Item) int {
				if a.Unit < b.Unit {
					return -1
				}
				return 1
			})
		})
	}
	ordered := func(all []Placement) bool { // breaches that more classes later cannot mend
		return !slices.ContainsFunc(breaches(anybody(p), all), func(string) bool { return true })
	}
	var squares [][]Placement
	for w := 1; w <= p.Weeks; w++ {
		var open []Placement
		for _, c := range p.Classes {
			if !closed(p, w, c.ID) {
				open = append(open, Placement{Week: w, Class: c.ID})
			}
		}
		if p.Tracks[0].Mode == "same" {
			if len(open) > 0 {
				squares = append(squares, open)
			}
			continue
		}
		slices.SortStableFunc(open, func(a, b Placement) int { return weekday(p, a.Class) - weekday(p, b.Class) })
		for _, x := range open {
			squares = append(squares, []Placement{x})
		}
	}
	var try func(i int, all []Placement)
	try = func(i int, all []Placement) {
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
				c := p.Classes[slices.IndexFunc(p.Classes, func(c Class) bool { return c.ID == x.Class })]
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

func weekday(p Problem, class string) int {
	return p.Classes[slices.IndexFunc(p.Classes, func(c Class) bool { return c.ID == class })].Weekday
}

// anybody is the problem with one coach who may lead all, so that only what
// is taught is judged.
func anybody(p Problem) Problem {
	c := Coach{ID: "", MaxPerWeek: 99, Signoffs: []string{"legs"}}
	for _, k := range p.Classes {
		c.Available = append(c.Available, k.ID)
	}
	p.Coaches = []Coach{c}
	return p
}

// visitLeads goes through the choices of leads that break no rule.
func visitLeads(p Problem, all []Placement, each func([]Placement)) {
	next := slices.Clone(all)
	var try func(i int)
	try = func(i int) {
		if i == len(next) {
			if len(breaches(p, next)) == 0 {
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

func TestSmallSeasonsAreSolvedToTheProvenOptimum(t *testing.T) {
	proven, nodes := 0, 300
	if testing.Short() {
		nodes = 60
	}
	for seed := range uint64(nodes) {
		p := tiny(seed)
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		require.Empty(t, breaches(p, plan.Placements), "seed %d", seed)
		best := exhausted(p)
		require.InDelta(t, best, plan.Coverage, 1e-9, "seed %d", seed)
		require.GreaterOrEqual(t, newModel(p).bound(plan.Coverage), best-1e-9, "the bound alone, seed %d", seed)
		if plan.Proven {
			proven++
		}
	}
	t.Logf("%d of %d seasons: the optimum of brute force; proven without it: %d", nodes, nodes, proven)
	require.Equal(t, nodes, proven)
}
