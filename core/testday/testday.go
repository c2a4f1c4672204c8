// Package testday plans a day of tests: who is examined on what by whom and when, with whom as partner.
package testday

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"vereda/core/validation"
)

// Problem is a day of tests.
type Problem struct {
	Minutes   int         `json:"minutes" doc:"The day has"`
	Change    int         `json:"change_minutes" doc:"Between two tests of one examiner"`
	Rest      int         `json:"rest_minutes" doc:"Of somebody tested before they are tested again"`
	Breaks    []Break     `json:"breaks,omitempty" required:"false" doc:"In which nothing is tested"`
	Examiners []Examiner  `json:"examiners"`
	People    []Candidate `json:"people" doc:"Those who are tested, and those who only help"`
}

// Break is a time in which nothing is tested, in minutes from the beginning.
type Break struct {
	Start int `json:"start"`
	End   int `json:"end"`
}

// Examiner is somebody who tests.
type Examiner struct {
	ID       string   `json:"id"`
	Signoffs []string `json:"signoffs"`
}

// Candidate is somebody with what they are tested on.
type Candidate struct {
	ID    string   `json:"id"`
	Kg    float64  `json:"kg,omitempty" required:"false"`
	Apart []string `json:"apart,omitempty" required:"false" doc:"Whom they must not work with"`
	Helps bool     `json:"helps" doc:"May be somebody's partner"`
	Tests []Test   `json:"tests"`
}

// Test is one of them.
type Test struct {
	ID      string `json:"id"`
	Minutes int    `json:"minutes"`
	Hard    int    `json:"hard" doc:"They come from easy to hard"`
	Signoff string `json:"signoff,omitempty" required:"false"`
	Alone   bool   `json:"alone,omitempty" required:"false" doc:"Wants no partner"`
}

// Slot is a test with its time.
type Slot struct {
	Person   string `json:"person"`
	Test     string `json:"test"`
	Examiner string `json:"examiner"`
	Partner  string `json:"partner,omitempty"`
	Start    int    `json:"start"`
	End      int    `json:"end"`
}

// Answer is the plan. No plan ends before Bound; GapKg is the mean difference in weight between those who work together.
type Answer struct {
	Slots   []Slot  `json:"slots"`
	End     int     `json:"end"`
	Bound   int     `json:"bound"`
	Proven  bool    `json:"proven" doc:"It ends as early as can be"`
	GapKg   float64 `json:"mean_gap_kg"`
	LeftOut []Left  `json:"left_out" doc:"Tests the day has no time, no examiner or no partner for"`
}

// Left is a test that has no place.
type Left struct {
	Person string `json:"person"`
	Test   string `json:"test"`
}

// Problems says what is wrong with a day.
func (p Problem) Problems() []validation.Problem {
	var found validation.Found
	found.Between("minutes", p.Minutes, 1, 1440, "minutes")
	found.Between("change_minutes", p.Change, 0, 120, "minutes")
	found.Between("rest_minutes", p.Rest, 0, 240, "minutes")
	found.Count("examiners", len(p.Examiners), 30)
	found.Count("people", len(p.People), 300)
	for i, b := range p.Breaks {
		if b.Start < 0 || b.End <= b.Start {
			found.Bad(fmt.Sprintf("breaks[%d].end", i), "from %d to %d: it ends after it begins", b.Start, b.End)
		}
	}
	names := map[string]bool{}
	for i, e := range p.Examiners {
		found.Name(fmt.Sprintf("examiners[%d].id", i), e.ID, "examiner")
		if names[e.ID] {
			found.Bad(fmt.Sprintf("examiners[%d].id", i), "%.60q is there twice", e.ID)
		}
		names[e.ID] = true
	}
	people := map[string]bool{}
	for i, c := range p.People {
		at := fmt.Sprintf("people[%d].", i)
		found.Name(at+"id", c.ID, "person")
		if people[c.ID] {
			found.Bad(at+"id", "%.60q is there twice", c.ID)
		}
		people[c.ID] = true
		tests := map[string]bool{}
		for j, t := range c.Tests {
			field := fmt.Sprintf("%stests[%d]", at, j)
			if t.ID == "" || tests[t.ID] {
				found.Bad(field+".id", "%.60q: give each test of a person an identifier of its own", t.ID)
			}
			tests[t.ID] = true
			found.Between(field+".minutes", t.Minutes, 1, 240, "minutes")
		}
	}
	return found
}

// rounds are how often the order is changed in search of an earlier end.
const rounds = 2000

// Plan gives each test the examiner and the partner it needs: each person's tests from easy to hard with rest between them, an examiner one test at a time
// with the change between two, a partner who is not tested or helping then and as near in weight as can be, breaks kept. It ends as early as the search
// finds: tests are placed one after the other as soon as they can be, in an order that begins with those who have most before them and is then changed
// wherever that ends earlier. Costs rounds × tests × people.
func Plan(p Problem) Answer {
	s := newSchedule(p)
	best := s.place(s.order())
	bound := s.bound()
	rng := uint64(1)
	draw := func(n int) int {
		rng = rng*6364136223846793005 + 1442695040888963407
		return int((rng >> 33) % uint64(n))
	}
	order := s.order()
	for range rounds {
		if best.end <= bound && len(best.left) == 0 || len(order) < 2 {
			break
		}
		next := slices.Clone(order)
		i, j := draw(len(next)), draw(len(next))
		x := next[i]
		next = slices.Insert(slices.Delete(next, i, i+1), j, x)
		if made := s.place(next); made.cost() <= best.cost() {
			best, order = made, next
		}
	}
	a := Answer{Slots: best.slots, End: best.end, Bound: bound, LeftOut: best.left, Proven: len(best.left) == 0 && best.end <= bound}
	n := 0
	for _, x := range a.Slots {
		if x.Partner != "" {
			a.GapKg += gap(s.person(x.Person), s.person(x.Partner))
			n++
		}
	}
	a.GapKg /= max(1, float64(n))
	slices.SortStableFunc(a.Slots, func(x, y Slot) int {
		return cmp.Or(cmp.Compare(x.Start, y.Start), cmp.Compare(x.Examiner, y.Examiner))
	})
	return a
}

type schedule struct {
	p     Problem
	tests [][]Test // of each person, from easy to hard
}

func newSchedule(p Problem) *schedule {
	s := &schedule{p: p}
	for _, c := range p.People {
		tests := slices.Clone(c.Tests)
		slices.SortStableFunc(tests, func(a, b Test) int { return cmp.Compare(a.Hard, b.Hard) })
		s.tests = append(s.tests, tests)
	}
	return s
}

func (s *schedule) person(id string) Candidate {
	i := slices.IndexFunc(s.p.People, func(c Candidate) bool { return c.ID == id })
	return s.p.People[i]
}

// order names people as often as they have tests, those with most minutes before them first.
func (s *schedule) order() []int {
	left, next := make([]int, len(s.tests)), make([]int, len(s.tests))
	total := 0
	for i, tests := range s.tests {
		for _, t := range tests {
			left[i] += t.Minutes + s.p.Rest
		}
		total += len(tests)
	}
	var order []int
	for len(order) < total {
		most := -1
		for i := range left {
			if next[i] < len(s.tests[i]) && (most < 0 || left[i] > left[most]) {
				most = i
			}
		}
		left[most] -= s.tests[most][next[most]].Minutes + s.p.Rest
		next[most]++
		order = append(order, most)
	}
	return order
}

type made struct {
	slots []Slot
	left  []Left
	end   int
	gap   float64
}

func (m made) cost() float64 { return float64(len(m.left))*1e6 + float64(m.end)*100 + m.gap }

// place puts tests one after the other where they can be soonest.
func (s *schedule) place(order []int) made {
	m := made{slots: []Slot{}, left: []Left{}}
	tested, helping := make([][]Break, len(s.p.People)), make([][]Break, len(s.p.People))
	examines := make([][]Break, len(s.p.Examiners))
	next, after := make([]int, len(s.p.People)), make([]int, len(s.p.People))
	lost := make([]bool, len(s.p.People))
	for _, i := range order {
		t := s.tests[i][next[i]]
		next[i]++
		if lost[i] { // what comes after something that had no place has none either: easy before hard
			m.left = append(m.left, Left{s.p.People[i].ID, t.ID})
			continue
		}
		start, examiner, partner := s.soonest(i, t, after[i], tested, helping, examines)
		if start < 0 {
			m.left, lost[i] = append(m.left, Left{s.p.People[i].ID, t.ID}), true
			continue
		}
		end := start + t.Minutes
		x := Slot{Person: s.p.People[i].ID, Test: t.ID, Examiner: s.p.Examiners[examiner].ID, Start: start, End: end}
		tested[i] = append(tested[i], Break{start, end})
		examines[examiner] = append(examines[examiner], Break{start, end})
		if partner >= 0 {
			x.Partner = s.p.People[partner].ID
			helping[partner] = append(helping[partner], Break{start, end})
			m.gap += gap(s.p.People[i], s.p.People[partner])
		}
		after[i] = end + s.p.Rest
		m.slots, m.end = append(m.slots, x), max(m.end, end)
	}
	return m
}

// soonest is the first minute at which a test can begin, with whom.
func (s *schedule) soonest(i int, t Test, from int, tested, helping, examines [][]Break) (start, examiner, partner int) {
	for start = from; start+t.Minutes <= s.p.Minutes; start++ {
		end := start + t.Minutes
		if meets(s.p.Breaks, start, end) || meets(helping[i], start, end) || meets(tested[i], start-s.p.Rest, end+s.p.Rest) {
			continue
		}
		examiner = -1
		for k, e := range s.p.Examiners {
			can := t.Signoff == "" || slices.Contains(e.Signoffs, t.Signoff)
			if can && !meets(examines[k], start-s.p.Change, end+s.p.Change) && (examiner < 0 || len(e.Signoffs) < len(s.p.Examiners[examiner].Signoffs)) {
				examiner = k
			}
		}
		if examiner < 0 {
			continue
		}
		if t.Alone {
			return start, examiner, -1
		}
		partner = -1
		for k, c := range s.p.People {
			if k == i || !c.Helps || slices.Contains(c.Apart, s.p.People[i].ID) || slices.Contains(s.p.People[i].Apart, c.ID) || meets(tested[k], start, end) || meets(helping[k], start, end) {
				continue
			}
			if partner < 0 || gap(c, s.p.People[i])+float64(len(helping[k])) < gap(s.p.People[partner], s.p.People[i])+float64(len(helping[partner])) {
				partner = k
			}
		}
		if partner >= 0 {
			return start, examiner, partner
		}
	}
	return -1, -1, -1
}

func meets(all []Break, start, end int) bool {
	for _, b := range all {
		if start < b.End && b.Start < end {
			return true
		}
	}
	return false
}

func gap(a, b Candidate) float64 {
	if a.Kg == 0 || b.Kg == 0 {
		return 10
	}
	return math.Abs(a.Kg - b.Kg)
}

// bound is a time no plan ends before: somebody's own tests with the rests between; the tests that only some examiners may do, shared by those; all tests,
// two people at each; with the breaks that lie before it.
func (s *schedule) bound() int {
	need := 0
	pairs, people := 0, 0
	for i, tests := range s.tests {
		own := 0
		for n, t := range tests {
			own += t.Minutes
			if n > 0 {
				own += s.p.Rest
			}
			pairs += t.Minutes
			if !t.Alone {
				pairs += t.Minutes
			}
		}
		need = max(need, own)
		if s.p.People[i].Helps || len(tests) > 0 {
			people++
		}
	}
	if people > 0 {
		need = max(need, (pairs+people-1)/people)
	}
	kinds := []string{""}
	for _, tests := range s.tests {
		for _, t := range tests {
			if !slices.Contains(kinds, t.Signoff) {
				kinds = append(kinds, t.Signoff)
			}
		}
	}
	for _, kind := range kinds {
		minutes, n, can := 0, 0, 0
		for _, tests := range s.tests {
			for _, t := range tests {
				if kind == "" || t.Signoff == kind {
					minutes, n = minutes+t.Minutes, n+1
				}
			}
		}
		for _, e := range s.p.Examiners {
			if kind == "" || slices.Contains(e.Signoffs, kind) {
				can++
			}
		}
		if can > 0 { // between two tests of an examiner lies the change: n tests of so many examiners have n less so many of them
			minutes += s.p.Change * max(0, n-can)
			need = max(need, (minutes+can-1)/can)
		}
	}
	breaks := slices.Clone(s.p.Breaks)
	slices.SortFunc(breaks, func(a, b Break) int { return cmp.Compare(a.Start, b.Start) })
	until, pause := 0, max(s.p.Rest, s.p.Change)
	for _, b := range breaks { // one that begins before the end of what must be done makes it end later, but a rest or a change can lie in it
		if start := max(b.Start, until); start < need && b.End > start {
			need += max(0, b.End-start-pause)
			until = b.End
		}
	}
	return need
}
