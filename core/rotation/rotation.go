// Package rotation says who works with whom: pairs and groups over some rounds, and groups that move between stations with a coach
// each.
//
// What is better comes in this order. Nobody works with somebody they must not. Nobody is with the coach twice before everybody was
// once. No two meet twice before they must. Whoever makes a group larger does so in turn. Then, in an order the coach
// can change: not with whom one worked in the last weeks, sizes close, the wanted mix of ranks, somebody who knows it with somebody
// who missed it.
//
// Nothing here reads a clock: how long is searched depends on the input alone, so the same input and seed give the same answer.
package rotation

import (
	"fmt"
	"math"
	"slices"

	"vereda/core/validation"
)

// Person is somebody on the mat.
type Person struct {
	ID    string   `json:"id"`
	Kg    float64  `json:"kg,omitempty" minimum:"0" maximum:"400" doc:"0 when unknown: no matter whose size"`
	Rank  int      `json:"rank,omitempty" minimum:"0" maximum:"99" doc:"Position on the ladder, from 0 upward"`
	Helps []string `json:"helps,omitempty" doc:"Those who missed what this one knows"`
	Apart []string `json:"apart,omitempty" doc:"Those they never work with; one of the two need say it"`
	Held  bool     `json:"held,omitempty" doc:"Left out"`
}

// Met is two who worked together in an earlier class.
type Met struct {
	Pair     [2]string `json:"pair"`
	WeeksAgo float64   `json:"weeks_ago" minimum:"0" maximum:"520"`
}

// Where those go who are left when the number does not divide.
const (
	Larger = "larger" // one group takes them in
	Coach  = "coach"  // they work with the coach
)

// How ranks are mixed in a group.
const (
	AnyMix  = "any"
	Similar = "similar"
	Mixed   = "mixed"
)

// What a coach can put in order; the first matters most.
const (
	ByMet   = "met"
	BySize  = "size"
	ByMix   = "mix"
	ByHelps = "helps"
)

// Order is what matters after repeats, the usual way.
var Order = []string{ByMet, BySize, ByMix, ByHelps}

// Problem is a rotation that is wanted.
type Problem struct {
	People    []Person     `json:"people"`
	GroupSize int          `json:"group_size" minimum:"2" maximum:"12"`
	Rounds    int          `json:"rounds" minimum:"1" maximum:"60" doc:"In all, with those that ran"`
	Odd       string       `json:"odd,omitempty" enum:"larger,coach" doc:"Where those go who are left; larger when left out"`
	Mix       string       `json:"mix,omitempty" enum:"any,similar,mixed"`
	Order     []string     `json:"order,omitempty" doc:"What matters after repeats, the first most: met, size, mix, helps"`
	Met       []Met        `json:"met,omitempty"`
	Ran       [][][]string `json:"ran,omitempty" doc:"Rounds already held: they stay as they are, the first of the answer's"`
	Seed      uint64       `json:"seed,omitempty"`
}

// Round is who works with whom at one time.
type Round struct {
	Groups [][]string `json:"groups"`
	Coach  []string   `json:"coach" doc:"Those who work with the coach"`
}

// Answer is a rotation.
type Answer struct {
	Rounds       []Round `json:"rounds"`
	Repeats      int     `json:"repeats" doc:"Meetings of two beyond their first, in all rounds"`
	RepeatsBound int     `json:"repeats_bound" doc:"Fewer cannot be"`
	MeanGapKg    float64 `json:"mean_gap_kg" doc:"Mean difference in weight over all meetings of the rounds to come"`
	Score        float64 `json:"score" doc:"1 where every meeting of the rounds to come is as wished, 0 to 1"`
	ScoreBound   float64 `json:"score_bound" doc:"No rotation with as few repeats has a higher score"`
}

// Bounds of what is taken in.
const (
	MostPeople = 400
	MostRounds = 60
	MostGroup  = 12
)

// Check says what is wrong with a problem as it is written.
func (p Problem) Check() []validation.Problem {
	var found validation.Found
	if len(p.People) > MostPeople {
		found.Bad("people", "%d are more than %d", len(p.People), MostPeople)
		return found
	}
	found.Between("group_size", p.GroupSize, 2, MostGroup, "people")
	found.Between("rounds", p.Rounds, 1, MostRounds, "rounds")
	if p.Odd != "" && p.Odd != Larger && p.Odd != Coach {
		found.Bad("odd", "%.40q: say larger or coach", p.Odd)
	}
	if p.Mix != "" && p.Mix != AnyMix && p.Mix != Similar && p.Mix != Mixed {
		found.Bad("mix", "%.40q: say any, similar or mixed", p.Mix)
	}
	for i, o := range p.Order {
		if !slices.Contains(Order, o) || slices.Contains(p.Order[:i], o) {
			found.Bad(fmt.Sprintf("order[%d]", i), "%.40q: each of met, size, mix and helps at most once", o)
		}
	}
	known := checkPeople(&found, p.People)
	for i, m := range p.Met {
		for k, id := range m.Pair {
			if !known[id] {
				found.Bad(fmt.Sprintf("met[%d].pair[%d]", i, k), "%.60q is not among the people", id)
			}
		}
		if !(m.WeeksAgo >= 0 && m.WeeksAgo <= 520) {
			found.Bad(fmt.Sprintf("met[%d].weeks_ago", i), "%g is outside 0 to 520 weeks", m.WeeksAgo)
		}
	}
	if len(p.Ran) > p.Rounds {
		found.Bad("ran", "%d rounds ran, more than the %d in all", len(p.Ran), p.Rounds)
	}
	for r, groups := range p.Ran {
		there := map[string]bool{}
		for g, group := range groups {
			for k, id := range group {
				at := fmt.Sprintf("ran[%d][%d][%d]", r, g, k)
				if id == "" {
					found.Bad(at, "is empty")
				}
				if there[id] {
					found.Bad(at, "%.60q is in the round twice", id)
				}
				there[id] = true
			}
		}
	}
	return found
}

func checkPeople(found *validation.Found, people []Person) map[string]bool {
	known := map[string]bool{}
	for i, x := range people {
		at := fmt.Sprintf("people[%d]", i)
		if x.ID == "" {
			found.Bad(at+".id", "is empty: give each person an identifier")
		} else if known[x.ID] {
			found.Bad(at+".id", "%.60q is there twice", x.ID)
		}
		known[x.ID] = true
		if !(x.Kg >= 0 && x.Kg <= 400) {
			found.Bad(at+".kg", "%g is outside 0 to 400 kg", x.Kg)
		}
		if x.Rank < 0 || x.Rank > 99 {
			found.Bad(at+".rank", "%d is outside 0 to 99", x.Rank)
		}
	}
	return known
}

// Rotate makes the rounds. A problem that Check finds nothing wrong with always has an answer: who cannot work with anybody there works with
// the coach.
//
// For pairs each round is the cheapest perfect matching with the pairs used before barred, from several starts (and from
// the circle of the round-robin tournament where rounds come near n − 1), improved by taking rounds out and matching them again. Larger groups come from
// designs where one fits (affine planes, transversal designs, the schoolgirls), else from annealing by exchanges. Costs about n³ a
// round for pairs, some million exchanges for larger groups.
func Rotate(p Problem) Answer {
	f := newFloor(p)
	plan := f.search()
	return f.answer(p, plan)
}

// weeksHalf is after how many weeks having worked together matters half as much.
const weeksHalf = 2.0

// unlike is what a meeting of two costs, as the coach ordered what matters; 0 is as wished.
func unlike(p Problem, a, b Person, weeksAgo float64, anybodyHelps bool) float64 {
	order := p.Order
	if len(order) == 0 {
		order = Order
	}
	sum := 0.0
	for i, what := range order {
		weight := 4 / math.Pow(2, float64(i))
		switch what {
		case ByMet:
			if weeksAgo >= 0 {
				sum += weight * math.Pow(0.5, weeksAgo/weeksHalf)
			}
		case BySize:
			if a.Kg > 0 && b.Kg > 0 {
				// A little more than in proportion: one pair of very different sizes is worse than several that differ somewhat.
				gap := math.Abs(a.Kg - b.Kg)
				sum += weight * (gap + gap*gap/400) / 20
			}
		case ByMix:
			apart := math.Abs(float64(a.Rank - b.Rank))
			switch p.Mix {
			case Similar:
				sum += weight * min(apart, 4) / 4
			case Mixed:
				sum += weight * max(0, 2-apart) / 2
			}
		case ByHelps:
			if anybodyHelps && !slices.Contains(a.Helps, b.ID) && !slices.Contains(b.Helps, a.ID) {
				sum += weight
			}
		}
	}
	return sum
}
