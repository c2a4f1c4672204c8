package testday

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func random(r *rand.Rand, people, examiners, tests int) Problem {
	p := Problem{Minutes: 240, Change: r.IntN(3), Rest: r.IntN(4)}
	for k := range examiners {
		e := Examiner{ID: fmt.Sprint("e", k)}
		if k == 0 || r.IntN(2) == 0 {
			e.Signoffs = []string{"neck"}
		}
		p.Examiners = append(p.Examiners, e)
	}
	for i := range people {
		c := Candidate{ID: fmt.Sprint("p", i), Kg: 55 + float64(r.IntN(50)), Helps: true}
		for j := range 1 + r.IntN(tests) {
			c.Tests = append(c.Tests, Test{ID: fmt.Sprint("t", j), Minutes: 2 + r.IntN(5), Hard: r.IntN(3), Signoff: []string{"", "", "neck"}[r.IntN(3)], Alone: r.IntN(5) == 0})
		}
		p.People = append(p.People, c)
	}
	return p
}

// kept fails where a plan breaks a rule.
func kept(t *testing.T, p Problem, a Answer) {
	t.Helper()
	of := func(id string) Candidate { return newSchedule(p).person(id) }
	n := 0
	for _, c := range p.People {
		n += len(c.Tests)
	}
	assert.Equal(t, n, len(a.Slots)+len(a.LeftOut), "every test is placed or named")
	for i, x := range a.Slots {
		c := of(x.Person)
		test := c.Tests[slices.IndexFunc(c.Tests, func(t Test) bool { return t.ID == x.Test })]
		e := p.Examiners[slices.IndexFunc(p.Examiners, func(e Examiner) bool { return e.ID == x.Examiner })]
		assert.Equal(t, test.Minutes, x.End-x.Start)
		assert.True(t, x.Start >= 0 && x.End <= p.Minutes)
		assert.True(t, test.Signoff == "" || slices.Contains(e.Signoffs, test.Signoff))
		assert.Equal(t, test.Alone, x.Partner == "")
		assert.False(t, meets(p.Breaks, x.Start, x.End), "in a break")
		if x.Partner != "" {
			assert.NotEqual(t, x.Person, x.Partner)
			assert.True(t, of(x.Partner).Helps && !slices.Contains(c.Apart, x.Partner) && !slices.Contains(of(x.Partner).Apart, x.Person))
		}
		for _, y := range a.Slots[:i] {
			apart := func(least int) bool { return x.Start >= y.End+least || y.Start >= x.End+least }
			if x.Examiner == y.Examiner {
				assert.True(t, apart(p.Change), "%v and %v of one examiner", x, y)
			}
			if x.Person == y.Person {
				assert.True(t, apart(p.Rest), "%v and %v of one person", x, y)
				other := c.Tests[slices.IndexFunc(c.Tests, func(t Test) bool { return t.ID == y.Test })]
				assert.True(t, y.Start > x.Start || other.Hard <= test.Hard, "easy before hard")
			}
			for _, who := range []string{x.Person, x.Partner} {
				if who != "" && (who == y.Person || who == y.Partner) {
					assert.True(t, apart(0), "%s is at two places: %v %v", who, x, y)
				}
			}
		}
		assert.LessOrEqual(t, x.End, a.End)
	}
	assert.GreaterOrEqual(t, a.End, min(a.Bound, a.End))
	if len(a.LeftOut) == 0 {
		assert.GreaterOrEqual(t, a.End, a.Bound)
	}
}

func TestPlansKeepTheRules(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	proven := 0
	for n := range 40 {
		p := random(r, 2+r.IntN(8), 1+r.IntN(3), 4)
		if n%3 == 0 {
			p.Breaks = []Break{{20, 30}}
		}
		a := Plan(p)
		kept(t, p, a)
		assert.Empty(t, a.LeftOut)
		if a.Proven {
			proven++
		}
		assert.Equal(t, a, Plan(p), "the same day has the same plan")
	}
	t.Logf("%d of 40 proven to end as early as can be", proven)
}

// brute is the earliest end of any order in which tests are placed as soon as they can be.
func brute(p Problem) int {
	s := newSchedule(p)
	order := s.order()
	slices.Sort(order)
	best := 1 << 30
	var permute func(left map[int]int, so []int)
	permute = func(left map[int]int, so []int) {
		if len(so) == len(order) {
			if m := s.place(so); len(m.left) == 0 {
				best = min(best, m.end)
			}
			return
		}
		for i, n := range left {
			if n > 0 {
				left[i]--
				permute(left, append(slices.Clone(so), i))
				left[i]++
			}
		}
	}
	left := map[int]int{}
	for _, i := range order {
		left[i]++
	}
	permute(left, nil)
	return best
}

func TestSmallDaysEndAsEarlyAsAnyOrder(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 2))
	for range 60 {
		p := random(r, 2+r.IntN(3), 1+r.IntN(2), 2)
		a := Plan(p)
		kept(t, p, a)
		assert.Equal(t, brute(p), a.End, "%+v", p)
		assert.LessOrEqual(t, a.Bound, a.End)
	}
}

func TestWhatHasNoPlaceIsNamed(t *testing.T) {
	p := Problem{Minutes: 10, Examiners: []Examiner{{ID: "e"}}, People: []Candidate{{ID: "a", Tests: []Test{{ID: "throw", Minutes: 4}, {ID: "lock", Minutes: 3, Signoff: "neck", Alone: true, Hard: 1}}}, {ID: "b", Helps: true, Kg: 80}}}
	a := Plan(p)
	assert.Equal(t, []Left{{"a", "lock"}}, a.LeftOut, "nobody is signed off for it")
	require.Len(t, a.Slots, 1)
	assert.Equal(t, Slot{"a", "throw", "e", "b", 0, 4}, a.Slots[0])
	p.People[0].Apart = []string{"b"}
	assert.Len(t, Plan(p).LeftOut, 2, "no partner is left, and what is harder comes after")
	assert.NotEmpty(t, Problem{Minutes: 0}.Problems())
	assert.NotEmpty(t, Problem{Minutes: 9, People: []Candidate{{ID: "a"}, {ID: "a"}}}.Problems())
}

func BenchmarkPlan(b *testing.B) {
	p := random(rand.New(rand.NewPCG(5, 5)), 24, 4, 6)
	for b.Loop() {
		Plan(p)
	}
}

func TestABreakLasts(t *testing.T) {
	p := Problem{Minutes: 60}
	for b, wrong := range map[Break]bool{{20, 20}: true, {20, 19}: true, {-1, 5}: true, {20, 21}: false, {0, 1}: false} {
		p.Breaks = []Break{b}
		fields := []string{}
		for _, x := range p.Problems() {
			fields = append(fields, x.Field)
		}
		assert.Equal(t, wrong, slices.Contains(fields, "breaks[0].end"), "%v", b)
	}
}
