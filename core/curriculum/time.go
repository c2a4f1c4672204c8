package curriculum

import (
	"cmp"
	"math"
	"slices"

	"vereda/core/library"
)

// Supply is what the timetable offers a typical student who works toward a rank.
type Supply struct {
	MinutesPerWeek float64 `json:"minutes_per_week" doc:"Teaching minutes of the classes open to them × the chance of coming"`
	Weeks          float64 `json:"weeks" doc:"The least time at the rank before"`
	ReviewShare    float64 `json:"review_share" doc:"Part of the teaching that is taught again"`
}

// Minutes is everything that is offered.
func (s Supply) Minutes() int { return int(s.MinutesPerWeek * s.Weeks) }

// repetitions is how many each partner does on each side until a rung is
// likely: the house's numbers.
var repetitions = map[Rung]int{Met: 8, Drilled: 30, Passed: 50, Live: 50, Teaches: 50}

// The house's other minutes, per side.
const (
	checkMinutes = 2.0
	roundMinutes = 12.0 // situational rounds, for what is asked for live
	teachBack    = 6.0
	otherSide    = 0.4 // of the teaching minutes, to show the other side
)

// Needs is what one requirement takes, in minutes.
type Needs struct {
	Technique string  `json:"technique"`
	Family    string  `json:"family"`
	Teach     float64 `json:"teach" doc:"To show it, on both sides where asked"`
	Drill     float64 `json:"drill" doc:"Repetitions of both partners"`
	Check     float64 `json:"check" doc:"Checks and rounds"`
	Review    float64 `json:"review"`
	Minutes   int     `json:"minutes"`
}

// NeedsOf works out the minutes of one requirement. Of variants the cheapest
// as many as are asked for count.
func NeedsOf(r Requirement, lib *library.Library, review float64) Needs {
	var each []Needs
	for _, id := range r.Options() {
		if t, ok := lib.Technique(id); ok {
			each = append(each, needsOf(r, t, lib, review))
		}
	}
	slices.SortStableFunc(each, func(a, b Needs) int { return cmp.Compare(a.Minutes, b.Minutes) })
	sum := Needs{Technique: r.Technique}
	for _, n := range each[:min(r.Count(), len(each))] {
		sum.Family = n.Family
		sum.Teach, sum.Drill, sum.Check, sum.Review = sum.Teach+n.Teach, sum.Drill+n.Drill, sum.Check+n.Check, sum.Review+n.Review
		sum.Minutes += n.Minutes
	}
	return sum
}

func needsOf(r Requirement, t library.Technique, lib *library.Library, review float64) Needs {
	n := Needs{Technique: t.ID, Family: string(lib.Family(t)), Teach: float64(t.TeachMinutes)}
	if n.Family == "" {
		n.Family = "movement"
	}
	sides := 1.0
	if r.BothSides && t.Taught != "" {
		sides = 2
		n.Teach *= 1 + otherSide
	}
	partners := 2.0
	if t.Kind == library.Movement {
		partners = 1 // everybody at the same time
	}
	n.Drill = float64(repetitions[r.Rung]*t.SecondsPerRep) * partners * sides / 60
	if r.Rung.Step() >= Passed.Step() {
		n.Check += checkMinutes * sides
	}
	if r.Rung.Step() >= Live.Step() {
		n.Check += roundMinutes
	}
	if r.Rung == Teaches {
		n.Check += teachBack
	}
	n.Review = review * (n.Teach + n.Drill)
	n.Minutes = int(math.Ceil(n.Teach + n.Drill + n.Check + n.Review))
	return n
}

// TimeBalance compares what a curriculum takes with what is offered.
type TimeBalance struct {
	Needed  int      `json:"needed" doc:"Minutes"`
	Offered int      `json:"offered" doc:"Minutes"`
	Each    []Needs  `json:"each"`
	Cut     []string `json:"cut" doc:"The requirements of least weight that would have to go to make it fit; empty when it fits"`
	CutBy   float64  `json:"cut_by" doc:"Their weight: no cut that fits weighs less"`
}

// Balance works out both sides, and the smallest cut: of all sets of
// requirements whose minutes make up for what is too much, one of the least weight; of
// these one of the fewest minutes. It is exact: a knapsack by dynamic
// programming over minutes.
//
// Costs requirements × minutes too many.
func Balance(c Curriculum, lib *library.Library, s Supply) TimeBalance {
	b := TimeBalance{Offered: s.Minutes(), Each: []Needs{}, Cut: []string{}}
	for _, r := range c.Requirements {
		n := NeedsOf(r, lib, s.ReviewShare)
		b.Each = append(b.Each, n)
		b.Needed += n.Minutes
	}
	if over := b.Needed - b.Offered; over > 0 {
		b.Cut, b.CutBy = smallestCut(c, b.Each, over)
	}
	return b
}

// smallestCut finds the least weight of requirements with at least the given
// minutes. least[m] is the least weight that takes out m minutes or more.
func smallestCut(c Curriculum, each []Needs, over int) (cut []string, weight float64) {
	least := make([]float64, over+1)
	for m := 1; m <= over; m++ {
		least[m] = math.Inf(1)
	}
	took := make([][]bool, len(each))
	for i, n := range each {
		took[i] = make([]bool, over+1)
		for m := over; m > 0; m-- {
			if w := least[max(0, m-n.Minutes)] + c.Requirements[i].Weight; w < least[m]-1e-9 {
				least[m], took[i][m] = w, true
			}
		}
	}
	cut = []string{}
	if math.IsInf(least[over], 1) {
		return cut, 0
	}
	for i, m := len(each)-1, over; i >= 0 && m > 0; i-- {
		if took[i][m] {
			cut = append(cut, each[i].Technique)
			m = max(0, m-each[i].Minutes)
		}
	}
	slices.Reverse(cut)
	return cut, least[over]
}
