// Package tonight chooses which checks to do in the minutes there are: who is watched by which coach on what, and when, so that
// together they are worth the most.
package tonight

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"vereda/core/validation"
)

// Problem is what could be checked, and by whom.
type Problem struct {
	Minutes        float64     `json:"minutes" doc:"That each coach has"`
	ChangeMinutes  float64     `json:"change_minutes" doc:"Between two checks of one coach"`
	Coaches        []Coach     `json:"coaches"`
	Candidates     []Candidate `json:"candidates"`
	MostPerStudent int         `json:"most_per_student" doc:"Checks of one student; 1 when left out"`
}

// Coach is somebody who checks.
type Coach struct {
	ID       string   `json:"id"`
	Signoffs []string `json:"signoffs"`
}

// Candidate is one check that could be done.
type Candidate struct {
	Student   string  `json:"student"`
	Technique string  `json:"technique"`
	Side      string  `json:"side,omitempty"`
	Minutes   float64 `json:"minutes"`
	Value     float64 `json:"value"`
	Signoff   string  `json:"signoff,omitempty" doc:"What the coach must be signed off for; empty for anybody"`
}

// Check is a chosen one with its time.
type Check struct {
	Coach     string  `json:"coach"`
	Student   string  `json:"student"`
	Technique string  `json:"technique"`
	Side      string  `json:"side,omitempty"`
	Start     float64 `json:"start" doc:"Minutes from the beginning"`
	Candidate int     `json:"-"` // its place in the problem
}

// Answer is what to check. No choice is worth more than Bound; Proven says that none is worth more than this one.
type Answer struct {
	Checks []Check `json:"checks"`
	Value  float64 `json:"value"`
	Bound  float64 `json:"bound"`
	Proven bool    `json:"proven"`
}

// Most of each that a problem may have.
const (
	MostCoaches    = 20
	MostCandidates = 2000
	MostMinutes    = 480
)

// Problems says what is wrong with a problem.
func (p Problem) Problems() []validation.Problem {
	var found validation.Found
	number := func(field string, x, low, high float64) {
		if !(x >= low && x <= high) {
			found.Bad(field, "%g is outside %g to %g", x, low, high)
		}
	}
	number("minutes", p.Minutes, 0, MostMinutes)
	number("change_minutes", p.ChangeMinutes, 0, MostMinutes)
	found.Count("coaches", len(p.Coaches), MostCoaches)
	found.Count("candidates", len(p.Candidates), MostCandidates)
	found.Between("most_per_student", p.MostPerStudent, 0, MostCandidates, "checks")
	named := map[string]bool{}
	for i, c := range p.Coaches {
		at := fmt.Sprintf("coaches[%d].id", i)
		found.Name(at, c.ID, "coach")
		if named[c.ID] {
			found.Bad(at, "%.64q is there twice", c.ID)
		}
		named[c.ID] = true
	}
	seen := map[[3]string]bool{}
	for i, c := range p.Candidates {
		at := fmt.Sprintf("candidates[%d].", i)
		found.Name(at+"student", c.Student, "student")
		found.Name(at+"technique", c.Technique, "technique")
		if !(c.Minutes > 0 && c.Minutes <= MostMinutes) {
			found.Bad(at+"minutes", "%g is outside more than 0 to %d", c.Minutes, MostMinutes)
		}
		number(at+"value", c.Value, 0, 1e6)
		key := [3]string{c.Student, c.Technique, c.Side}
		if seen[key] {
			found.Bad(at+"side", "this check of %.64q is there twice", c.Student)
		}
		seen[key] = true
	}
	return found
}

// tie is how little two values may differ to count as the same.
const tie = 1e-9

// item is a candidate that somebody can check in the time there is.
type item struct {
	of      int // its place in the problem
	student int
	size    float64 // minutes with the change after them
	value   float64
	can     []bool // by coach
}

// Choose finds the checks that are worth the most. Where all take the same time the answer is exact, by a flow of the least cost in
// coaches × checks × candidates steps. Else it is searched by branch and bound over multipliers on what one student and one candidate may use; where the
// search comes to its end the answer is exact too, else Bound says how far it can be from the best. The same problem has the same answer.
func Choose(p Problem) Answer {
	s := newSearch(p)
	if len(s.items) == 0 || len(p.Coaches) == 0 {
		return Answer{Checks: []Check{}, Proven: true}
	}
	if s.equal() {
		return s.flow()
	}
	return s.branch(inf)
}

type search struct {
	p        Problem
	items    []item
	students int
	most     int
	room     float64 // minutes of a coach, with the change after the last check
}

func newSearch(p Problem) *search {
	s := &search{p: p, most: max(1, p.MostPerStudent), room: p.Minutes + p.ChangeMinutes}
	index := map[string]int{}
	for i, c := range p.Candidates {
		x := item{of: i, size: c.Minutes + p.ChangeMinutes, value: c.Value, can: make([]bool, len(p.Coaches))}
		any := false
		for k, coach := range p.Coaches {
			x.can[k] = c.Signoff == "" || slices.Contains(coach.Signoffs, c.Signoff)
			any = any || x.can[k]
		}
		if !any || c.Minutes > p.Minutes+tie || c.Value <= 0 {
			continue
		}
		n, ok := index[c.Student]
		if !ok {
			n = len(index)
			index[c.Student] = n
		}
		x.student = n
		s.items = append(s.items, x)
	}
	s.students = len(index)
	return s
}

func (s *search) equal() bool {
	return !slices.ContainsFunc(s.items, func(x item) bool { return x.size != s.items[0].size })
}

// answer makes one out of what each coach checks, by place in items, at its minute.
func (s *search) answer(by [][]int, at [][]float64, bound float64) Answer {
	a := Answer{Checks: []Check{}, Bound: bound}
	for k, list := range by {
		for n, i := range list {
			c := s.p.Candidates[s.items[i].of]
			a.Checks = append(a.Checks, Check{s.p.Coaches[k].ID, c.Student, c.Technique, c.Side, at[k][n], s.items[i].of})
			a.Value += c.Value
		}
	}
	slices.SortStableFunc(a.Checks, func(x, y Check) int { return cmp.Or(cmp.Compare(x.Coach, y.Coach), cmp.Compare(x.Start, y.Start)) })
	a.Bound = max(a.Bound, a.Value)
	a.Proven = a.Bound-a.Value <= 1e-6*max(1, a.Value)
	if a.Proven {
		a.Bound = a.Value
	}
	return a
}

// inf is a cost that nothing reaches.
var inf = math.Inf(1)
