package ledger

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/calendar"
	"vereda/core/say"
)

// weekly is one class a week for some weeks that touches each need in turn.
func weekly(chance float64, weeks, needs, halves int) []Coming {
	var all []Coming
	for w := range weeks {
		s := Coming{On: today + calendar.Day(7*w), Class: "c", Chance: chance}
		if needs > 0 {
			s.Touches = []Touch{{w % needs, halves}}
		}
		all = append(all, s)
	}
	return all
}

// The simulation is judged by the exact distribution where there is one.
func TestForecastAgreesWithTheExactDistribution(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for range 20 {
		o := Outlook{Today: today, Runs: 4000, Seed: r.Uint64(), Sessions: weekly(0.2+0.7*r.Float64(), 120, 2, 1+r.IntN(2)), Needs: []Need{{ID: "a", Halves: 1 + r.IntN(6)}, {ID: "b", Halves: 1 + r.IntN(6)}}}
		exact := Forecast(o)
		require.True(t, exact.Exact)
		done, last := o.simulate(nil)
		simulated := o.likely(done, last)
		for _, pair := range [][2]*calendar.Day{{exact.P10, simulated.P10}, {exact.P50, simulated.P50}, {exact.P90, simulated.P90}} {
			require.NotNil(t, pair[0])
			require.NotNil(t, pair[1])
			assert.InDelta(t, int(*pair[0]), int(*pair[1]), 14.01, "a class that touches it more or less")
		}
	}
	one := Forecast(Outlook{Today: today, Needs: []Need{{ID: "a", Halves: 2}}, Sessions: weekly(0.5, 4, 1, 2)})
	assert.InDelta(t, 1-math.Pow(0.5, 4), one.Within, 1e-12)
	assert.Equal(t, today, *one.P50, "the first class already is one of two")
	assert.Equal(t, today+21, *one.P90)
}

func TestForecastKnowsTimeAndClasses(t *testing.T) {
	o := Outlook{Today: today, Earliest: today + 100, Sessions: weekly(1, 30, 0, 0)}
	l := Forecast(o)
	assert.Equal(t, today+100, *l.P10, "nothing is missing but time")
	o.MinClasses, o.Classes, o.Earliest = 10, 4, today
	l = Forecast(o)
	assert.Equal(t, today+35, *l.P50, "the sixth class from now")
	assert.Equal(t, []LastNeed{{waitCount, 1}}, l.Last)
	o.MinClasses = 100
	l = Forecast(o)
	assert.Nil(t, l.P50)
	assert.Zero(t, l.Within)
	ready := Forecast(Outlook{Today: today})
	assert.Equal(t, today, *ready.P90, "ready already")
}

// Of true days drawn anew from what the forecast knows, eight of ten lie in its range.
func TestForecastHoldsEightOfTen(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	in, all := 0, 0
	for n := range 400 {
		o := Outlook{Today: today, Runs: 300, Seed: uint64(n), ChecksPerVisit: 0.3 + r.Float64(), PassRate: 0.5 + 0.4*r.Float64(), Sessions: weekly(0.3+0.6*r.Float64(), 500, 4, 2)}
		for i := range 4 {
			o.Needs = append(o.Needs, Need{ID: fmt.Sprint(i), Halves: r.IntN(7), Check: r.IntN(2) == 0, Met: r.IntN(2) == 0})
		}
		if n%2 == 0 { // what is not certain besides: the chance, the order after the plan, what is checked
			o.Habits, o.Reached = CheckHabits{Early: r.Float64(), Again: r.Float64()}, r.IntN(9)
			o.Orders = []Order{{Slots: [][]int{{0}, {1}, {}, {2, 3}}, Loose: 4 * r.Float64()}}
			for i := range o.Sessions {
				o.Sessions[i].Visits = 8
				if i >= 10 {
					o.Sessions[i].Touches, o.Sessions[i].Slots = nil, []SlotTouch{{0, i % 4, 2}}
				}
			}
			require.Empty(t, o.Problems())
		}
		l := Forecast(o)
		truth := o
		truth.Runs, truth.Seed = 1, r.Uint64()|1<<40
		done, _ := truth.simulate(nil)
		if l.P10 == nil || l.P90 == nil || done[0] == never {
			continue
		}
		all++
		if done[0] >= *l.P10 && done[0] <= *l.P90 {
			in++
		}
	}
	t.Logf("%d of %d true days lie within", in, all)
	assert.InDelta(t, 0.8, float64(in)/float64(all), 0.08)
}

// What an outlook names that is not there is told with its place.
func TestAnOutlookSaysWhatIsWrongWithIt(t *testing.T) {
	o := Outlook{Today: today, ChecksPerVisit: -1, PassRate: 2, Runs: 30_000, Reached: -1, Habits: CheckHabits{Early: math.NaN()}, Needs: []Need{{ID: "a"}, {ID: "a", Halves: -1}},
		Orders:   []Order{{Slots: [][]int{{0, 5}}, Loose: -1}},
		Sessions: []Coming{{On: today + 7, Chance: 1.5, Visits: -1, Touches: []Touch{{Need: 9}}}, {On: today, Slots: []SlotTouch{{Order: 1}, {Order: 0, Slot: 4}, {Halves: -2}}}}}
	var fields []string
	for _, p := range o.Problems() {
		fields = append(fields, p.Field)
	}
	for _, want := range []string{"checks_per_visit", "pass_rate", "runs", "reached", "habits.early", "needs[1].id", "needs[1].halves", "orders[0].loose", "orders[0].slots[0][1]", "sessions[0].chance", "sessions[0].visits",
		"sessions[0].touches[0].need", "sessions[1].on", "sessions[1].slots[0].order", "sessions[1].slots[1].slot", "sessions[1].slots[2].halves"} {
		assert.Contains(t, fields, want)
	}
	assert.Empty(t, Outlook{Today: today, Sessions: weekly(0.5, 3, 0, 0)}.Problems())
}

// Each run has an order and a chance of its own around those that are likely: more of them end early and late, and the middle stays.
func TestWhatIsNotCertainWidensTheRange(t *testing.T) {
	o := Outlook{Today: today, Runs: 3000, Needs: []Need{{ID: "a", Halves: 4}}, Sessions: weekly(0.5, 200, 1, 1)}
	sure, last := o.simulate(nil)
	narrow := o.likely(sure, last)
	for i := range o.Sessions {
		o.Sessions[i].Visits = 4
	}
	unsure, last := o.simulate(nil)
	wide := o.likely(unsure, last)
	assert.Less(t, *narrow.P90-*narrow.P10, *wide.P90-*wide.P10)
	assert.InDelta(t, float64(*narrow.P50), float64(*wide.P50), 14.01)
	o = Outlook{Today: today, Runs: 3000, Needs: []Need{{ID: "a", Halves: 2}}, Orders: []Order{{Slots: [][]int{{}, {}, {}, {}, {0}, {}, {}, {}, {}}}}}
	for i := range 27 {
		o.Sessions = append(o.Sessions, Coming{On: today + calendar.Day(7*i), Chance: 1, Slots: []SlotTouch{{0, i % 9, 2}}})
	}
	fixed, last := o.simulate(nil)
	in := o.likely(fixed, last)
	assert.Equal(t, today+28, *in.P10)
	assert.Equal(t, today+28, *in.P90, "the fifth class, for certain")
	o.Orders[0].Loose = 3
	loose, last := o.simulate(nil)
	in = o.likely(loose, last)
	assert.Less(t, *in.P10, today+28)
	assert.Greater(t, *in.P90, today+28)
	assert.Equal(t, today+28, *in.P50)
}

// Where it does not come to an end, what is missing in most runs is what is waited for, wherever it stands in the list.
func TestWhatIsNeverThereIsWaitedFor(t *testing.T) {
	o := Outlook{Today: today, Needs: []Need{{ID: "often", Halves: 8}, {ID: "hardly", Halves: 300}, {ID: "soon", Halves: 2}}, Sessions: weekly(0.5, 60, 1, 1)}
	for i := range o.Sessions {
		o.Sessions[i].Touches = []Touch{{0, 1}, {1, 1}, {2, 1}}
	}
	l := Forecast(o)
	assert.Nil(t, l.P10)
	assert.Equal(t, []LastNeed{{"hardly", 1}}, l.Last)
}

func TestForwardNamesWhatHelps(t *testing.T) {
	o := Outlook{Today: today, ChecksPerVisit: 0.3, PassRate: 0.7, Needs: []Need{{ID: "a", Halves: 6, Check: true}}}
	for w := range 150 {
		o.Sessions = append(o.Sessions, Coming{On: today + calendar.Day(7*w), Class: "monday", Chance: 0.3, Touches: []Touch{{0, 2}}}, Coming{On: today + calendar.Day(7*w+2), Class: "wednesday", Chance: 0.3})
	}
	gains := Forward(o)
	require.NotEmpty(t, gains)
	assert.Equal(t, "class", gains[0].Kind)
	assert.Equal(t, "monday", gains[0].ID, "the class that teaches it")
	for _, g := range gains {
		assert.Positive(t, g.Days)
	}
	assert.Equal(t, gains, Forward(o))
}

// A truth that is planted is found again, and only where there is enough to find it in.
func TestFitFindsAPlantedCurve(t *testing.T) {
	truth := Curve{First: 45, Growth: 1.5, Shrink: 0.6}
	r := rand.New(rand.NewPCG(3, 3))
	var courses []Course
	for range 400 {
		c := Course{Checks: []CheckedOn{{today - 500, true}}}
		h, on := truth.First, today-500
		for range 5 {
			wait := 5 + r.IntN(80)
			met := r.Float64() < math.Pow(2, -float64(wait)/h)
			on += calendar.Day(wait)
			c.Checks = append(c.Checks, CheckedOn{on, met})
			if met {
				h *= truth.Growth
			} else {
				h = max(14, h*truth.Shrink)
				c.Refreshed = append(c.Refreshed, on) // the class shows it again
			}
		}
		courses = append(courses, c)
	}
	// After a failure the time goes on from the last success or class: the day of the failure is a class.
	for i := range courses {
		for j := range courses[i].Refreshed {
			courses[i].Refreshed[j]++
		}
	}
	fit := FitRetention(courses, DefaultStanding)
	t.Logf("planted %+v, fitted %+v of %d checks; default %+v, fitted %+v", truth, fit.Fitted, fit.Checks, fit.OfDefault, fit.OfFitted)
	assert.True(t, fit.EnoughData && fit.Better)
	assert.InDelta(t, truth.First, fit.Fitted.First, 0.15*truth.First)
	assert.InDelta(t, truth.Growth, fit.Fitted.Growth, 0.25)
	assert.InDelta(t, truth.Shrink, fit.Fitted.Shrink, 0.25)

	few := FitRetention(courses[:8], DefaultStanding)
	assert.False(t, few.EnoughData)
	assert.Equal(t, few.Default, few.Fitted)
	assert.NotEmpty(t, CourseProblems([]Course{{Checks: []CheckedOn{{today, true}, {today - 1, true}}}}))
}

func TestKappa(t *testing.T) {
	// 50 ratings: both yes 20, both no 15, and 5 and 10 apart (a textbook's table): kappa 0.4.
	var pairs [][2]string
	add := func(a, b string, n int) {
		for range n {
			pairs = append(pairs, [2]string{a, b})
		}
	}
	add("yes", "yes", 20)
	add("yes", "no", 5)
	add("no", "yes", 10)
	add("no", "no", 15)
	k := Kappa(pairs)
	assert.InDelta(t, 0.7, k.Same, 1e-12)
	assert.InDelta(t, 0.5, k.ByChance, 1e-12)
	assert.InDelta(t, 0.4, k.Kappa, 1e-12)
	assert.InDelta(t, 0.4-1.96*0.127, k.Low, 0.01)
	assert.False(t, Kappa(pairs[:3]).Known, "too few")
	assert.False(t, Kappa(pairs[:20]).Known, "all the same: nothing to agree on")
	all := Kappa([][2]string{{"a", "a"}, {"b", "b"}, {"a", "a"}, {"b", "b"}, {"a", "a"}, {"b", "b"}})
	assert.InDelta(t, 1, all.Kappa, 1e-12)
	assert.Less(t, all.Low, 0.5, "six of six is not sure")
}

func TestStopping(t *testing.T) {
	assert.False(t, Stopping(8, 24, 4, 12).Falling, "as before")
	gone := Stopping(0, 24, 4, 12)
	assert.True(t, gone.Falling)
	assert.InDelta(t, math.Pow(0.75, 24), gone.P, 1e-12)
	assert.False(t, Stopping(0, 3, 4, 12).Falling, "too little to say")
	assert.False(t, Stopping(0, 0, 4, 12).Falling)
	sum := 0.0
	for k := range 13 {
		sum = Stopping(k, 12-k, 4, 12).P
	}
	assert.InDelta(t, 1, sum, 1e-12)
}

func TestPartOfAClassCountsHalfLess(t *testing.T) {
	items := []Item{{Technique: "escape", Kind: "teach", Reached: "all"}, {Technique: "move", Kind: "review", Reached: "all"}}
	for _, part := range []bool{false, true} {
		all := Standings(lib(), DefaultStanding, []Attended{{On: today, Part: part, Items: items}}, nil)
		got := map[string]float64{}
		for _, s := range all {
			got[s.Technique] = s.Exposures
		}
		if part {
			assert.Equal(t, map[string]float64{"escape": 0.5}, got, "a review of which half was missed gives nothing")
		} else {
			assert.Equal(t, map[string]float64{"escape": 1, "move": 0.5}, got)
		}
	}
}

func TestWorthOfACheck(t *testing.T) {
	ready := Prospect{Weight: 1, Has: "drilled", Needs: "passed", PassRate: 0.8, Missing: 10}
	assert.True(t, ready.Ready())
	base, why := ready.Worth()
	assert.InDelta(t, 0.8*1.1, base, 1e-12)
	assert.Equal(t, []string{"ready: drilled, passed is asked"}, say.Texts(why))
	for name, change := range map[string]func(*Prospect){
		"tonight": func(p *Prospect) { p.Tonight = true }, "nearly there": func(p *Prospect) { p.Missing = 1 }, "long unseen": func(p *Prospect) { p.Weeks = 8 },
	} {
		p := ready
		change(&p)
		more, why := p.Worth()
		assert.Greater(t, more, base, name)
		assert.Len(t, why, 2, name)
	}
	failed := ready
	failed.Failed = 2
	less, _ := failed.Worth()
	assert.InDelta(t, base*0.49, less, 1e-12)
	assert.False(t, Prospect{Has: "met", Needs: "passed"}.Ready(), "not drilled yet")
	assert.True(t, Prospect{Due: true, Has: "passed", Needs: "passed"}.Ready())
}

// What is foretold of each need comes with what Forecast foretells of the whole, counted out where that can be and simulated else.
func TestForecastEachForetellsTheWholeToo(t *testing.T) {
	for n := range 40 {
		r := rand.New(rand.NewPCG(uint64(n), 7))
		o := Outlook{Today: today, Runs: 300, Seed: r.Uint64(), Sessions: weekly(0.2+0.7*r.Float64(), 60, 2, 1+r.IntN(2)), Needs: []Need{{ID: "a", Halves: 1 + r.IntN(6)}, {ID: "b", Halves: 1 + r.IntN(6), Check: n%2 == 1}}}
		o.ChecksPerVisit, o.PassRate = 0.5, 0.7
		whole, ranges, shares := ForecastEach(o, today+200)
		require.Equal(t, Forecast(o), whole)
		require.Len(t, ranges, 2)
		require.Len(t, shares, 2)
	}
}
