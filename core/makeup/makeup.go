// Package makeup gathers people with the same gap into as few groups as can be: which unit is taught once more in which weekly class,
// so that everybody who missed something can come to it.
package makeup

import (
	"cmp"
	"slices"
)

// Person is somebody with what they missed and when they come.
type Person struct {
	ID     string   `json:"id"`
	Missed []string `json:"missed" doc:"Units"`
	Comes  []string `json:"comes" doc:"Weekly classes they are usually in"`
}

// Group is one unit in one weekly class, for those who missed it and come then.
type Group struct {
	Unit   string   `json:"unit"`
	Class  string   `json:"class"`
	People []string `json:"people"`
}

// Answer is the groups, most people first. Fewer groups than Bound cannot do; Proven says that these are as few as can be.
type Answer struct {
	Groups []Group `json:"groups"`
	Bound  int     `json:"bound"`
	Proven bool    `json:"proven"`
	Nobody []Left  `json:"nobody" doc:"Who comes to no class in which it could be taught"`
}

// Left is somebody for whom no class fits.
type Left struct {
	Person string `json:"person"`
	Unit   string `json:"unit"`
}

// exactUpTo is up to how many classes of a unit the smallest choice is searched; its cost doubles with each.
const exactUpTo = 20

// Groups finds the smallest number of groups. A group serves one unit, so each unit is a set cover of its own: exact for up to 20 classes (every choice,
// fewest first), else greedy, with the bound of people no two of whom share a class. fits says whether a unit can be taught in a class.
func Groups(people []Person, fits func(unit, class string) bool) Answer {
	a := Answer{Groups: []Group{}, Proven: true, Nobody: []Left{}}
	var units []string
	for _, p := range people {
		for _, u := range p.Missed {
			if !slices.Contains(units, u) {
				units = append(units, u)
			}
		}
	}
	slices.Sort(units)
	for _, unit := range units {
		var who []Person
		var classes []string
		for _, p := range people {
			if !slices.Contains(p.Missed, unit) {
				continue
			}
			p.Comes = slices.DeleteFunc(slices.Clone(p.Comes), func(c string) bool { return !fits(unit, c) })
			if len(p.Comes) == 0 {
				a.Nobody = append(a.Nobody, Left{p.ID, unit})
				continue
			}
			for _, c := range p.Comes {
				if !slices.Contains(classes, c) {
					classes = append(classes, c)
				}
			}
			who = append(who, p)
		}
		slices.Sort(classes)
		chosen, proven := cover(who, classes)
		a.Proven = a.Proven && proven
		if proven {
			a.Bound += len(chosen)
		} else {
			a.Bound += apart(who)
		}
		for _, c := range chosen {
			g := Group{Unit: unit, Class: c, People: []string{}}
			for _, p := range who {
				if slices.Contains(p.Comes, c) {
					g.People = append(g.People, p.ID)
				}
			}
			a.Groups = append(a.Groups, g)
		}
	}
	slices.SortStableFunc(a.Groups, func(x, y Group) int {
		return cmp.Or(cmp.Compare(len(y.People), len(x.People)), cmp.Compare(x.Unit, y.Unit), cmp.Compare(x.Class, y.Class))
	})
	return a
}

// cover is the fewest classes to which everybody comes to one; of as few, those to which more come.
func cover(who []Person, classes []string) (chosen []string, proven bool) {
	if len(who) == 0 {
		return nil, true
	}
	if len(classes) > exactUpTo {
		return greedy(who, classes), false
	}
	masks := make([]uint32, len(who)) // of each person, the classes they come to
	for i, p := range who {
		for k, c := range classes {
			if slices.Contains(p.Comes, c) {
				masks[i] |= 1 << k
			}
		}
	}
	best, reach, size := uint32(0), -1, len(classes)+1
	for set := uint32(1); set < 1<<len(classes); set++ {
		n := ones(set)
		if n > size {
			continue
		}
		all, sum := true, 0
		for _, m := range masks {
			if m&set == 0 {
				all = false
				break
			}
			sum += ones(m & set)
		}
		if all && (n < size || sum > reach) {
			best, reach, size = set, sum, n
		}
	}
	for k, c := range classes {
		if best&(1<<k) != 0 {
			chosen = append(chosen, c)
		}
	}
	return chosen, true
}

func ones(x uint32) int {
	n := 0
	for ; x != 0; x &= x - 1 {
		n++
	}
	return n
}

func greedy(who []Person, classes []string) []string {
	left := slices.Clone(who)
	var chosen []string
	for len(left) > 0 {
		best, most := "", 0
		for _, c := range classes {
			n := 0
			for _, p := range left {
				if slices.Contains(p.Comes, c) {
					n++
				}
			}
			if n > most {
				best, most = c, n
			}
		}
		chosen = append(chosen, best)
		left = slices.DeleteFunc(left, func(p Person) bool { return slices.Contains(p.Comes, best) })
	}
	return chosen
}

// apart counts people no two of whom share a class: each needs a group of their own.
func apart(who []Person) int {
	taken, n := map[string]bool{}, 0
	sorted := slices.Clone(who)
	slices.SortStableFunc(sorted, func(a, b Person) int { return cmp.Compare(len(a.Comes), len(b.Comes)) })
	for _, p := range sorted {
		if slices.ContainsFunc(p.Comes, func(c string) bool { return taken[c] }) {
			continue
		}
		n++
		for _, c := range p.Comes {
			taken[c] = true
		}
	}
	return n
}
