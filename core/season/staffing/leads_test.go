package staffing

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

// hall has a class on each of three days, and coaches with the same share of them.
func hall(coaches ...season.Coach) season.Problem {
	p := season.Problem{Weeks: 4, Tracks: []season.Track{{ID: "all", Mode: "split", School: "free"}}, Goal: "full"}
	for i, id := range []string{"mon", "wed", "fri"} {
		p.Classes = append(p.Classes, season.Class{ID: id, Track: "all", Weekday: 1 + 2*i, Start: "18:00", TeachMinutes: 30})
	}
	for _, id := range []string{"a", "b", "c"} {
		p.Units = append(p.Units, season.Unit{ID: id, Tracks: []string{"all"}, Minutes: 20, ReviewMinutes: 8, Area: id})
	}
	p.Units[2].Signoff = "legs"
	p.Coaches = coaches
	return p
}

func coach(id string, more ...func(*season.Coach)) season.Coach {
	c := season.Coach{ID: id, Available: []string{"mon", "wed", "fri"}, MaxPerWeek: 3, Share: 0.5}
	for _, m := range more {
		m(&c)
	}
	return c
}

// teach makes a plan with one unit in every class of every week.
func teach(p season.Problem, unit func(week int, class string) string) []season.Placement {
	var all []season.Placement
	for w := 1; w <= p.Weeks; w++ {
		for _, c := range p.Classes {
			all = append(all, season.Placement{Week: w, Class: c.ID, Items: []season.Item{{Unit: unit(w, c.ID), Kind: season.Teach}}})
		}
	}
	return all
}

func led(p season.Problem, all []season.Placement, was *season.Plan) []season.Placement {
	st := model.NewState(model.New(p))
	st.Put(all)
	Lead(st, all, was)
	return all
}

func counts(all []season.Placement) map[string]int {
	n := map[string]int{}
	for _, x := range all {
		n[x.Lead]++
	}
	return n
}

func only(unit string) func(int, string) string { return func(int, string) string { return unit } }

func TestSharesAreKept(t *testing.T) {
	p := hall(coach("sol"), coach("hana"))
	assert.Equal(t, map[string]int{"sol": 6, "hana": 6}, counts(led(p, teach(p, only("a")), nil)))
	p = hall(coach("sol", func(c *season.Coach) { c.Share = 0.75 }), coach("hana", func(c *season.Coach) { c.Share = 0.25 }))
	// With another area each week no block holds a coach to a class, and the shares alone decide.
	other := func(week int, _ string) string { return []string{"a", "b"}[week%2] }
	assert.Equal(t, map[string]int{"sol": 9, "hana": 3}, counts(led(p, teach(p, other), nil)))
}

func TestWhoMayNotLeadDoesNot(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*season.Coach)
		unit   string
		bars   func(x season.Placement) bool // classes that Hana may not lead
	}{
		"away for a week":         {func(c *season.Coach) { c.Out = []season.Away{{Week: 2}} }, "a", func(x season.Placement) bool { return x.Week == 2 }},
		"away from one class":     {func(c *season.Coach) { c.Out = []season.Away{{Week: 2, Class: "wed"}} }, "a", func(x season.Placement) bool { return x.Week == 2 && x.Class == "wed" }},
		"not there on Fridays":    {func(c *season.Coach) { c.Available = []string{"mon", "wed"} }, "a", func(x season.Placement) bool { return x.Class == "fri" }},
		"not signed off":          {func(*season.Coach) {}, "c", func(season.Placement) bool { return true }},
		"signed off as the other": {func(c *season.Coach) { c.Signoffs = []string{"legs"} }, "c", func(season.Placement) bool { return false }},
	} {
		sol := coach("sol", func(c *season.Coach) { c.Signoffs = []string{"legs"} })
		p := hall(sol, coach("hana", c.change))
		hers := 0
		for _, x := range led(p, teach(p, only(c.unit)), nil) {
			require.NotEmpty(t, x.Lead, "%s: somebody leads week %d %s", name, x.Week, x.Class)
			if x.Lead == "hana" {
				hers++
				assert.False(t, c.bars(x), "%s: week %d %s", name, x.Week, x.Class)
			}
		}
		assert.Equal(t, c.unit == "c" && name == "not signed off", hers == 0, name)
	}
}

func TestNobodyLeadsOverTheirLimit(t *testing.T) {
	p := hall(coach("sol", func(c *season.Coach) { c.MaxPerWeek = 1 }), coach("hana", func(c *season.Coach) { c.MaxPerWeek = 2; c.Share = 0.01 }))
	weekly := map[int]map[string]int{}
	for _, x := range led(p, teach(p, only("a")), nil) {
		if weekly[x.Week] == nil {
			weekly[x.Week] = map[string]int{}
		}
		weekly[x.Week][x.Lead]++
	}
	for w := 1; w <= p.Weeks; w++ {
		assert.Equal(t, map[string]int{"sol": 1, "hana": 2}, weekly[w], "week %d", w)
	}
}

func TestAClassNobodyCanLeadStaysWithoutOne(t *testing.T) {
	p := hall(coach("sol", func(c *season.Coach) { c.MaxPerWeek = 1 }))
	for _, x := range led(p, teach(p, only("a")), nil)[:3] {
		if x.Lead == "" {
			return
		}
	}
	t.Fatal("one coach with one class a week leads three")
}

func TestABlockStaysWithItsCoach(t *testing.T) {
	p := hall(coach("sol"), coach("hana"))
	all := led(p, teach(p, func(_ int, class string) string { return map[string]string{"mon": "a", "wed": "b", "fri": "a"}[class] }), nil)
	same := 0
	for i := 3; i < len(all); i++ {
		if all[i].Lead == all[i-3].Lead {
			same++
		}
	}
	assert.GreaterOrEqual(t, same, 5, "of 9 classes that go on with an area most go on with their coach: %v", all)
	assert.Equal(t, 12, counts(all)["sol"]+counts(all)["hana"])
}

func TestLeadsThatWereGivenStay(t *testing.T) {
	p := hall(coach("sol"), coach("hana"))
	all := teach(p, only("a"))
	all[0].Lead, all[1].Lead, all[1].Held = "hana", "sol", true
	led(p, all, nil)
	assert.Equal(t, []string{"hana", "sol"}, []string{all[0].Lead, all[1].Lead})
}

func TestARepairKeepsTheLeadOfWhatDidNotChange(t *testing.T) {
	p := hall(coach("sol"), coach("hana"))
	was := &season.Plan{Placements: teach(p, only("a"))}
	for i := range was.Placements {
		was.Placements[i].Lead = "hana" // far from fair, and given out so
	}
	now := teach(p, only("a"))
	now[4].Items[0].Unit = "b"
	led(p, now, was)
	for i, x := range now {
		if i != 4 {
			assert.Equal(t, "hana", x.Lead, "week %d %s did not change", x.Week, x.Class)
		}
	}
	assert.Equal(t, "sol", now[4].Lead, "what changed goes to whom it does most good")
}

// For one week the leads are the cheapest of all ways to hand its classes out, by what a lead costs: tried one by one.
func TestAWeekIsHandedOutAsCheaplyAsCanBe(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 3).Draw(t, "coaches")
		var coaches []season.Coach
		for k := range n {
			coaches = append(coaches, coach(string(rune('p'+k)), func(c *season.Coach) {
				c.MaxPerWeek = rapid.IntRange(1, 3).Draw(t, "limit")
				c.Share = rapid.SampledFrom([]float64{0.1, 0.3, 0.6}).Draw(t, "share")
				c.Available = rapid.SliceOfDistinct(rapid.SampledFrom([]string{"mon", "wed", "fri"}), func(s string) string { return s }).Draw(t, "available")
			}))
		}
		p := hall(coaches...)
		p.Weeks = 1
		all := led(p, teach(p, only("a")), nil)
		total := 0.0
		for _, c := range coaches {
			total += c.Share
		}
		cost := func(leads []string) float64 {
			sum, had := 0.0, map[string]int{}
			for i, id := range leads {
				if id == "" {
					sum += 100
					continue
				}
				c := coaches[slices.IndexFunc(coaches, func(c season.Coach) bool { return c.ID == id })]
				if !slices.Contains(c.Available, p.Classes[i].ID) || had[id] >= c.MaxPerWeek {
					return math.Inf(1)
				}
				sum += (float64(had[id]) + 0.5) / max(1, 3*c.Share/total)
				had[id]++
			}
			return sum
		}
		best := math.Inf(1)
		choices := []string{""}
		for _, c := range coaches {
			choices = append(choices, c.ID)
		}
		for _, a := range choices {
			for _, b := range choices {
				for _, c := range choices {
					best = min(best, cost([]string{a, b, c}))
				}
			}
		}
		require.InDelta(t, best, cost([]string{all[0].Lead, all[1].Lead, all[2].Lead}), 1e-9)
	})
}

// Whatever season is drawn, what the search lets through can be led, and no lead breaks a rule.
func TestDrawnSeasonsAreLedWithinTheRules(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := seasontest.DrawProblem(t)
		p.Fixed, p.Wanted = nil, nil
		m := model.New(p)
		st := model.NewState(m)
		for s := range m.Squares {
			for _, u := range m.Teaches[m.Squares[s].Track] {
				if items := append(slices.Clone(st.Items[s]), model.Item{Unit: u}); rapid.Bool().Draw(t, "teach") {
					st.Try(model.Change{Square: s, Items: items})
				}
			}
		}
		all := st.Placements()
		Lead(st, all, nil)
		require.Empty(t, seasontest.Breaches(p, all))
	})
}
