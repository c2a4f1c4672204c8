package search

import (
	"fmt"
	"slices"
	"strings"

	"vereda/core/season"
	"vereda/core/season/model"
)

// Conflict says which conditions cannot all be met: take away any one of them
// and the rest can.
type Conflict struct {
	Conditions []string `json:"conflict"`
	Smallest   bool     `json:"smallest" doc:"Proven: no fewer conditions are in conflict anywhere in the season"`
}

func (c *Conflict) Error() string {
	return "these cannot all be kept: " + strings.Join(c.Conditions, "; ")
}

// condition is one rule or wish of a problem that can be given up; without
// returns the problem as it would be.
type condition struct {
	words   string
	without func(p season.Problem) season.Problem
}

// conflict finds conditions of a problem that cannot be met together. Taking them
// away one by one leaves a set of which none can be spared; sets with fewer are then looked
// for directly, all of them while that stays within the seconds wished for. When goOn says no, what was found by then
// is a conflict still, though perhaps not a small one.
func conflict(p season.Problem, goOn func() bool) *Conflict {
	p = pertinent(p)
	all := conditions(p)
	kept := make([]bool, len(all))
	for i := range kept {
		kept[i] = true
	}
	if possible(relaxed(p, all, make([]bool, len(all)))) {
		for i := range all {
			if !goOn() {
				break
			}
			kept[i] = false
			kept[i] = possible(relaxed(p, all, kept))
		}
	}
	var found []int
	for i, k := range kept {
		if k {
			found = append(found, i)
		}
	}
	smaller, proven := smaller(p, all, len(found), goOn)
	if smaller != nil {
		found = smaller
	}
	c := &Conflict{Smallest: proven}
	for _, i := range found {
		c.Conditions = append(c.Conditions, all[i].words)
	}
	return c
}

// mostSets bounds how many sets are tried for a second that was wished for: on a large season they take
// about that long. There is no clock here.
const mostSets = 4000

// sets is how many sets may be tried within what was wished for.
func sets(p season.Problem) int {
	if p.Seconds <= 0 {
		return mostSets
	}
	return max(mostSets/20, int(mostSets*min(1, p.Seconds)))
}

// pertinent is the problem without what has no part in a conflict: students, and units that are neither
// fixed nor wanted nor stood on by those. Whether the rest can be met does not hang on them, and a large season is looked
// at a thousand times.
func pertinent(p season.Problem) season.Problem {
	in := involved(p)
	for _, f := range p.Fixed {
		for _, it := range f.Items {
			in[it.Unit] = true // of what was held, its minutes and order count
		}
	}
	out := func(id string) bool { return !in[id] }
	p.Students = nil
	p.Units = slices.DeleteFunc(slices.Clone(p.Units), func(u season.Unit) bool { return !in[u.ID] })
	for i, u := range p.Units {
		p.Units[i].Requires = slices.DeleteFunc(slices.Clone(u.Requires), out)
	}
	p.Tracks = slices.Clone(p.Tracks)
	for i, t := range p.Tracks {
		p.Tracks[i].Assumed = slices.DeleteFunc(slices.Clone(t.Assumed), out)
	}
	return p
}

// smaller looks for a conflict of fewer than n conditions, the fewest first.
func smaller(p season.Problem, all []condition, n int, goOn func() bool) (found []int, proven bool) {
	left := sets(p)
	for size := 1; size < n; size++ {
		set := make([]int, 0, size)
		var pick func(from int) bool
		pick = func(from int) bool {
			if len(set) == size {
				left--
				if !goOn() {
					left = -1
				}
				kept := make([]bool, len(all))
				for _, i := range set {
					kept[i] = true
				}
				return left >= 0 && !possible(relaxed(p, all, kept))
			}
			for i := from; i < len(all) && left >= 0; i++ {
				set = append(set, i)
				if pick(i + 1) {
					return true
				}
				set = set[:len(set)-1]
			}
			return false
		}
		if pick(0) {
			return set, true
		}
		if left < 0 {
			return nil, false
		}
	}
	return nil, true
}

// relaxed gives up every condition that is not kept.
func relaxed(p season.Problem, all []condition, kept []bool) season.Problem {
	p.Units, p.Coaches, p.Tracks, p.Classes = slices.Clone(p.Units), slices.Clone(p.Coaches), slices.Clone(p.Tracks), slices.Clone(p.Classes)
	p.Students = nil
	// From the back: what is taken out of a list leaves the places before it alone.
	for i := len(all) - 1; i >= 0; i-- {
		if !kept[i] {
			p = all[i].without(p)
		}
	}
	return p
}

func possible(p season.Problem) bool { return Feasible(model.New(p)) != nil }

// conditions lists what can be given up and has a part in what is fixed or wanted.
func conditions(p season.Problem) []condition {
	c := lister{p: p, units: involved(p)}
	c.given()
	c.rules()
	c.people()
	return c.all
}

type lister struct {
	p     season.Problem
	units map[string]bool
	all   []condition
}

func (l *lister) add(without func(season.Problem) season.Problem, format string, args ...any) {
	l.all = append(l.all, condition{fmt.Sprintf(format, args...), without})
}

// involved are the units that are fixed or wanted, and what they stand on.
func involved(p season.Problem) map[string]bool {
	at := model.PlacesOf(p.Units, func(u season.Unit) string { return u.ID })
	in := map[string]bool{}
	var add func(u string)
	add = func(u string) {
		if !in[u] {
			in[u] = true
			for _, r := range p.Units[at[u]].Requires {
				add(r)
			}
		}
	}
	for _, f := range p.Fixed {
		for _, it := range f.Items {
			if !f.Held {
				add(it.Unit)
			}
		}
	}
	for _, w := range p.Wanted {
		add(w.Unit)
	}
	return in
}

func (l *lister) given() {
	for i, f := range l.p.Fixed {
		if f.Held {
			continue
		}
		var items []string
		for _, it := range f.Items {
			items = append(items, it.Kind+" "+it.Unit)
		}
		led := ""
		if f.Lead != "" {
			led = ", led by " + f.Lead
		}
		l.add(func(p season.Problem) season.Problem {
			p.Fixed = without(p.Fixed, i)
			return p
		}, "week %d, %s is fixed: %s%s", f.Week, f.Class, strings.Join(items, ", "), led)
	}
	for i, w := range l.p.Wanted {
		l.add(func(p season.Problem) season.Problem {
			p.Wanted = without(p.Wanted, i)
			return p
		}, "%s is wanted by week %d", w.Unit, w.Week)
	}
	for i, k := range l.p.Closures {
		what := k.Class
		if what == "" {
			what = "every class"
		}
		l.add(func(p season.Problem) season.Problem {
			p.Closures = without(p.Closures, i)
			return p
		}, "week %d: %s is closed", k.Week, what)
	}
}

func (l *lister) rules() {
	for i, t := range l.p.Tracks {
		if t.Rules.Any() {
			l.add(func(p season.Problem) season.Problem {
				p.Tracks[i].Rules = season.Rules{}
				return p
			}, "the rules of %s for a class", t.ID)
		}
	}
	for i, b := range l.p.Barred {
		if l.units[b.Unit] {
			l.add(func(p season.Problem) season.Problem {
				p.Barred = without(p.Barred, i)
				return p
			}, "%s is kept out of weeks %d to %d", b.Unit, b.From, b.To)
		}
	}
	for i, u := range l.p.Units {
		if !l.units[u.ID] {
			continue
		}
		for _, r := range u.Requires {
			l.add(func(p season.Problem) season.Problem {
				p.Units[i].Requires = slices.DeleteFunc(slices.Clone(p.Units[i].Requires), func(x string) bool { return x == r })
				return p
			}, "%s requires %s", u.ID, r)
		}
		if u.Signoff != "" {
			l.add(func(p season.Problem) season.Problem {
				p.Units[i].Signoff = ""
				return p
			}, "%s is led by who is signed off for %s", u.ID, u.Signoff)
		}
		l.add(func(p season.Problem) season.Problem {
			p.Units[i].Tracks = nil
			for _, t := range p.Tracks {
				p.Units[i].Tracks = append(p.Units[i].Tracks, t.ID)
			}
			return p
		}, "%s is for %s", u.ID, strings.Join(u.Tracks, ", "))
	}
	for i, t := range l.p.Tracks {
		for _, u := range l.p.Units {
			if l.units[u.ID] && !slices.Contains(t.Assumed, u.ID) {
				l.add(func(p season.Problem) season.Problem {
					p.Tracks[i].Assumed = append(slices.Clone(p.Tracks[i].Assumed), u.ID)
					return p
				}, "%s is not known in %s before the season", u.ID, t.ID)
			}
		}
		if t.Mode == "same" {
			l.add(func(p season.Problem) season.Problem {
				p.Tracks[i].Mode = "split"
				return p
			}, "the classes of %s give the same in a week", t.ID)
		}
	}
	for i, c := range l.p.Classes {
		l.add(func(p season.Problem) season.Problem {
			p.Classes[i].TeachMinutes = 1_000_000
			return p
		}, "%s has %d minutes to teach", c.ID, c.TeachMinutes)
	}
}

func (l *lister) people() {
	for i, c := range l.p.Coaches {
		l.add(func(p season.Problem) season.Problem {
			p.Coaches[i].Available = nil
			for _, k := range p.Classes {
				p.Coaches[i].Available = append(p.Coaches[i].Available, k.ID)
			}
			return p
		}, "%s is available for %s", c.ID, nothingOr(c.Available))
		for _, o := range c.Out {
			l.add(func(p season.Problem) season.Problem {
				p.Coaches[i].Out = slices.DeleteFunc(slices.Clone(p.Coaches[i].Out), func(x season.Away) bool { return x == o })
				return p
			}, "%s is %s", c.ID, o.Words())
		}
		l.add(func(p season.Problem) season.Problem {
			p.Coaches[i].MaxPerWeek = 100
			return p
		}, "%s leads at most %d a week", c.ID, c.MaxPerWeek)
	}
	if len(l.p.Coaches) == 0 {
		l.add(func(p season.Problem) season.Problem {
			p.Coaches = []season.Coach{{ID: "anybody", MaxPerWeek: 100}}
			for _, k := range p.Classes {
				p.Coaches[0].Available = append(p.Coaches[0].Available, k.ID)
			}
			for _, u := range p.Units {
				p.Coaches[0].Signoffs = append(p.Coaches[0].Signoffs, u.Signoff)
			}
			return p
		}, "there is no coach")
	}
}

func nothingOr(all []string) string {
	if len(all) == 0 {
		return "no class"
	}
	return strings.Join(all, ", ")
}

func without[T any](all []T, i int) []T {
	return slices.Delete(slices.Clone(all), i, i+1)
}
