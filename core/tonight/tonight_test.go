package tonight_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/tonight"
)

// random is a problem of some size; equal ones have checks of the same length.
func random(r *rand.Rand, coaches, candidates, students int, equal bool) tonight.Problem {
	p := tonight.Problem{Minutes: float64(4 + r.IntN(8)), ChangeMinutes: []float64{0, 0.5, 1}[r.IntN(3)], MostPerStudent: 1 + r.IntN(3)}
	for k := range coaches {
		c := tonight.Coach{ID: fmt.Sprint("c", k)}
		for _, s := range []string{"leg-attacks", "neck"} {
			if r.IntN(2) == 0 {
				c.Signoffs = append(c.Signoffs, s)
			}
		}
		p.Coaches = append(p.Coaches, c)
	}
	for i := range candidates {
		c := tonight.Candidate{Student: fmt.Sprint("s", r.IntN(students)), Technique: fmt.Sprint("t", i), Minutes: 2, Value: float64(1+r.IntN(99)) / 100, Signoff: []string{"", "", "leg-attacks", "neck"}[r.IntN(4)]}
		if !equal {
			c.Minutes = []float64{1, 1.5, 2, 3, 4.5}[r.IntN(5)]
		}
		p.Candidates = append(p.Candidates, c)
	}
	return p
}

// kept fails where an answer breaks a rule.
func kept(t *testing.T, p tonight.Problem, a tonight.Answer) {
	t.Helper()
	value, of := 0.0, map[string]int{}
	for i, x := range a.Checks {
		c := p.Candidates[x.Candidate]
		assert.Equal(t, [3]string{c.Student, c.Technique, c.Side}, [3]string{x.Student, x.Technique, x.Side})
		at := slices.IndexFunc(p.Coaches, func(k tonight.Coach) bool { return k.ID == x.Coach })
		require.GreaterOrEqual(t, at, 0)
		assert.True(t, c.Signoff == "" || slices.Contains(p.Coaches[at].Signoffs, c.Signoff), "%s is not signed off for %s", x.Coach, c.Signoff)
		assert.True(t, x.Start >= 0 && x.Start+c.Minutes <= p.Minutes+1e-6, "%v outside the time", x)
		value += c.Value
		of[x.Student]++
		for _, y := range a.Checks[:i] {
			other := p.Candidates[y.Candidate]
			assert.NotEqual(t, x.Candidate, y.Candidate, "done twice")
			if y.Coach == x.Coach {
				assert.True(t, y.Start+other.Minutes+p.ChangeMinutes <= x.Start+1e-6 || x.Start+c.Minutes+p.ChangeMinutes <= y.Start+1e-6, "%v and %v of one coach", x, y)
			}
			if y.Student == x.Student {
				assert.True(t, y.Start+other.Minutes <= x.Start+1e-6 || x.Start+c.Minutes <= y.Start+1e-6, "%v and %v of one student", x, y)
			}
		}
	}
	for s, n := range of {
		assert.LessOrEqual(t, n, max(1, p.MostPerStudent), s)
	}
	assert.InDelta(t, value, a.Value, 1e-9)
	assert.GreaterOrEqual(t, a.Bound, a.Value-1e-9)
}

// brute is the most that can be had: every way to append checks in the order of their beginnings.
func brute(p tonight.Problem) float64 {
	next, free, count, done := make([]float64, len(p.Coaches)), map[string]float64{}, map[string]int{}, make([]bool, len(p.Candidates))
	best := 0.0
	var go1 func(value, last float64)
	go1 = func(value, last float64) {
		best = max(best, value)
		for i, c := range p.Candidates {
			if done[i] || count[c.Student] == max(1, p.MostPerStudent) {
				continue
			}
			for k, coach := range p.Coaches {
				start := max(next[k], free[c.Student])
				if c.Signoff != "" && !slices.Contains(coach.Signoffs, c.Signoff) || start < last-1e-9 || start+c.Minutes > p.Minutes+1e-9 {
					continue
				}
				n, f := next[k], free[c.Student]
				next[k], free[c.Student], done[i] = start+c.Minutes+p.ChangeMinutes, start+c.Minutes, true
				count[c.Student]++
				go1(value+c.Value, start)
				count[c.Student]--
				next[k], free[c.Student], done[i] = n, f, false
			}
		}
	}
	go1(0, 0)
	return best
}

// The judge of small problems tries everything.
func TestChooseIsExactOnSmallProblems(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for n := range 400 {
		p := random(r, 1+r.IntN(2), 1+r.IntN(6), 1+r.IntN(4), n%2 == 0)
		a := tonight.Choose(p)
		kept(t, p, a)
		assert.InDelta(t, brute(p), a.Value, 1e-6, "%+v", p)
		assert.True(t, a.Proven, "%+v", p)
	}
}

// Two coaches, one student with the two dearest checks, no time for both one after the other: they cannot be at two places.
func TestNobodyIsAtTwoPlaces(t *testing.T) {
	p := tonight.Problem{Minutes: 3, Coaches: []tonight.Coach{{ID: "c1"}, {ID: "c2"}}, MostPerStudent: 2, Candidates: []tonight.Candidate{
		{Student: "s1", Technique: "t1", Minutes: 2, Value: 1}, {Student: "s1", Technique: "t2", Minutes: 3, Value: 0.9}, {Student: "s2", Technique: "t1", Minutes: 2, Value: 0.1}}}
	a := tonight.Choose(p)
	kept(t, p, a)
	assert.InDelta(t, 1.1, a.Value, 1e-9)
	assert.True(t, a.Proven)
}

func TestLargerProblemsKeepTheRules(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	proven, far := 0, 0.0
	for n := range 24 {
		p := random(r, 4, 200, 30, n%2 == 0)
		p.Minutes = 12
		a := tonight.Choose(p)
		kept(t, p, a)
		if a.Proven {
			proven++
		}
		far = max(far, a.Bound/a.Value-1)
		assert.Equal(t, a, tonight.Choose(p), "the same problem has the same answer")
	}
	t.Logf("200 candidates, 4 coaches: %d of 24 proven, the bound at most %.2f %% above", proven, 100*far)
	assert.Less(t, far, 0.03)
	assert.GreaterOrEqual(t, proven, 12)
}

func TestWhatCannotBeIsLeftOut(t *testing.T) {
	p := tonight.Problem{Minutes: 2, Coaches: []tonight.Coach{{ID: "c1"}}, Candidates: []tonight.Candidate{
		{Student: "s1", Technique: "t1", Minutes: 3, Value: 1}, {Student: "s1", Technique: "t2", Minutes: 1, Value: 1, Signoff: "neck"}, {Student: "s1", Technique: "t3", Minutes: 1}}}
	assert.Equal(t, tonight.Answer{Checks: []tonight.Check{}, Proven: true}, tonight.Choose(p))
	for field, bad := range map[string]tonight.Problem{
		"minutes":               {Minutes: -1},
		"change_minutes":        {ChangeMinutes: 1e9},
		"coaches[1].id":         {Coaches: []tonight.Coach{{ID: "a"}, {ID: "a"}}},
		"candidates[0].minutes": {Candidates: []tonight.Candidate{{Student: "s", Technique: "t"}}},
		"candidates[1].side":    {Candidates: []tonight.Candidate{{Student: "s", Technique: "t", Minutes: 1}, {Student: "s", Technique: "t", Minutes: 1}}},
	} {
		found := bad.Problems()
		require.NotEmpty(t, found, field)
		assert.Equal(t, field, found[0].Field)
	}
}

func BenchmarkChoose(b *testing.B) {
	for _, equal := range []bool{true, false} {
		b.Run(map[bool]string{true: "equal", false: "mixed"}[equal], func(b *testing.B) {
			r := rand.New(rand.NewPCG(5, 6))
			p := random(r, 4, 200, 40, equal)
			p.Minutes, p.ChangeMinutes = 12, 0.5
			slowest := time.Duration(0)
			for b.Loop() {
				start := time.Now()
				tonight.Choose(p)
				slowest = max(slowest, time.Since(start))
			}
			b.ReportMetric(float64(slowest.Milliseconds()), "ms-slowest")
		})
	}
}
