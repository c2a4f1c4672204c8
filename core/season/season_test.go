package season

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The judge of coverage: every subset of presences.
func bruteCovered(all []Presence, need int) float64 {
	sum := 0.0
	for s := range 1 << len(all) {
		p, got := 1.0, 0
		for i, x := range all {
			if s>>i&1 == 1 {
				p *= x.Chance
				got += x.Halves
			} else {
				p *= 1 - x.Chance
			}
		}
		if got >= need {
			sum += p
		}
	}
	return sum
}

func TestChanceCoveredEqualsEnumeration(t *testing.T) {
	assert.InDelta(t, 0.7*0.4, ChanceCovered([]Presence{{0.7, 2}, {0.4, 2}}, 4), 1e-12, "two full teaches asked for")
	assert.InDelta(t, 1-0.3*0.6, ChanceCovered([]Presence{{0.7, 2}, {0.4, 2}}, 2), 1e-12, "either will do")
	rapid.Check(t, func(t *rapid.T) {
		all := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Presence {
			return Presence{rapid.Float64Range(0, 1).Draw(t, "p"), rapid.IntRange(1, 2).Draw(t, "v")}
		}), 0, 10).Draw(t, "presences")
		need := rapid.IntRange(0, 8).Draw(t, "need")
		require.InDelta(t, bruteCovered(all, need), ChanceCovered(all, need), 1e-9)
	})
}

// breaches is the judge of plans: it knows the rules and nothing of the
// planner, and reads placements one by one.
func breaches(p Problem, placements []Placement) []string {
	var found []string
	bad := func(format string, args ...any) { found = append(found, fmt.Sprintf(format, args...)) }
	class, unit, track, coach := map[string]Class{}, map[string]Unit{}, map[string]Track{}, map[string]Coach{}
	for _, c := range p.Classes {
		class[c.ID] = c
	}
	for _, u := range p.Units {
		unit[u.ID] = u
	}
	for _, t := range p.Tracks {
		track[t.ID] = t
	}
	for _, c := range p.Coaches {
		coach[c.ID] = c
	}
	date := func(x Placement) int {
		if track[class[x.Class].Track].Mode == "same" {
			return x.Week * 10
		}
		return x.Week*10 + class[x.Class].Weekday
	}
	before := func(x Placement, u string) bool {
		tr := class[x.Class].Track
		if slices.Contains(track[tr].Assumed, u) {
			return true
		}
		for _, y := range placements {
			if class[y.Class].Track == tr && date(y) < date(x) && slices.Contains(y.Items, Item{u, Teach}) {
				return true
			}
		}
		return false
	}
	weekly := map[string]int{}
	for _, x := range placements {
		weekly[fmt.Sprint(x.Week, x.Lead)]++
	}
	seen := map[string]bool{}
	for _, x := range placements {
		c := class[x.Class]
		at := fmt.Sprintf("week %d %s", x.Week, x.Class)
		if seen[at] {
			bad("%s twice", at)
		}
		seen[at] = true
		for _, k := range p.Closures {
			if k.Week == x.Week && (k.Class == "" || k.Class == x.Class) {
				bad("%s is closed", at)
			}
		}
		if x.Held {
			continue
		}
		minutes, names := 0, map[string]bool{}
		lead := coach[x.Lead]
		for _, it := range x.Items {
			u := unit[it.Unit]
			for _, r := range u.Requires {
				if !before(x, r) {
					bad("%s: %s before %s", at, it.Unit, r)
				}
			}
			if names[it.Unit] {
				bad("%s: %s twice", at, it.Unit)
			}
			names[it.Unit] = true
			if it.Kind == Teach {
				minutes += u.Minutes
			} else {
				minutes += u.ReviewMinutes
				if !before(x, it.Unit) {
					bad("%s: review of %s before it was taught", at, it.Unit)
				}
			}
			if !slices.Contains(u.Tracks, c.Track) {
				bad("%s: %s is not for %s", at, it.Unit, c.Track)
			}
			if u.Signoff != "" && !slices.Contains(lead.Signoffs, u.Signoff) {
				bad("%s: %q is not signed off for %s", at, x.Lead, it.Unit)
			}
		}
		if minutes > c.TeachMinutes {
			bad("%s: %d minutes in %d", at, minutes, c.TeachMinutes)
		}
		if !slices.Contains(lead.Available, x.Class) || slices.Contains(lead.Out, Away{Week: x.Week}) {
			bad("%s: %q is not there", at, x.Lead)
		}
		if weekly[fmt.Sprint(x.Week, x.Lead)] > lead.MaxPerWeek {
			bad("%s: %s over the weekly limit", at, x.Lead)
		}
		for _, y := range placements {
			o := class[y.Class]
			if y.Week == x.Week && !y.Held && o.Track == c.Track && track[c.Track].Mode == "same" && o.TeachMinutes >= c.TeachMinutes {
				if len(x.Items) > len(y.Items) || !slices.Equal(x.Items, y.Items[:len(x.Items)]) {
					bad("%s differs from %s", at, y.Class)
				} else if len(x.Items) < len(y.Items) { // a shorter class leaves out only what has no room there
					next := y.Items[len(x.Items)]
					if cost := map[string]int{Teach: unit[next.Unit].Minutes, Review: unit[next.Unit].ReviewMinutes}[next.Kind]; minutes+cost <= c.TeachMinutes {
						bad("%s leaves out %s, which fits", at, next.Unit)
					}
				}
			}
		}
	}
	return found
}

func drawProblem(t *rapid.T) Problem {
	n := func(low, high int, what string) int { return rapid.IntRange(low, high).Draw(t, what) }
	p := Problem{Weeks: n(1, 5, "weeks"), Seconds: 0.01, Spacing: DefaultSpacing, Goal: rapid.SampledFrom([]string{"full", "coverage"}).Draw(t, "goal")}
	for i := range n(1, 2, "tracks") {
		p.Tracks = append(p.Tracks, Track{ID: fmt.Sprint("t", i), Mode: rapid.SampledFrom([]string{"same", "split"}).Draw(t, "mode"), School: rapid.SampledFrom([]string{"block", "spiral", "free"}).Draw(t, "school")})
	}
	for i := range n(1, 4, "classes") {
		p.Classes = append(p.Classes, Class{ID: fmt.Sprint("c", i), Track: fmt.Sprint("t", i%len(p.Tracks)), Weekday: n(1, 7, "day"), Start: "18:00", TeachMinutes: n(10, 50, "minutes")})
	}
	for range n(0, 2, "closures") {
		p.Closures = append(p.Closures, Closure{Week: n(1, p.Weeks, "week"), Class: rapid.SampledFrom([]string{"", "c0"}).Draw(t, "class")})
	}
	for i := range n(1, 6, "units") {
		u := Unit{ID: fmt.Sprint("u", i), Minutes: n(5, 30, "teach"), ReviewMinutes: n(3, 10, "review"), Area: fmt.Sprint("a", i%2), Signoff: rapid.SampledFrom([]string{"", "", "legs"}).Draw(t, "signoff")}
		for j := range len(p.Tracks) {
			if j == 0 || rapid.Bool().Draw(t, "both tracks") {
				u.Tracks = append(u.Tracks, fmt.Sprint("t", j))
			}
		}
		if i > 0 && rapid.Bool().Draw(t, "requires") {
			u.Requires = []string{fmt.Sprint("u", n(0, i-1, "which"))}
		}
		p.Units = append(p.Units, u)
	}
	for i := range n(0, 4, "students") {
		s := Student{ID: fmt.Sprint("s", i), Chance: map[string]float64{}}
		for _, c := range p.Classes {
			s.Chance[c.ID] = rapid.Float64Range(0, 1).Draw(t, "chance")
		}
		for _, u := range p.Units {
			if rapid.Bool().Draw(t, "needs") {
				s.Open = append(s.Open, Need{u.ID, float64(n(1, 3, "need")), float64(n(0, 3, "had")) / 2, 1})
			}
		}
		p.Students = append(p.Students, s)
	}
	for i := range n(1, 3, "coaches") {
		c := Coach{ID: fmt.Sprint("k", i), MaxPerWeek: n(0, 4, "limit"), Share: 0.5}
		for _, class := range p.Classes {
			if i == 0 || rapid.Bool().Draw(t, "available") {
				c.Available = append(c.Available, class.ID)
			}
		}
		if rapid.Bool().Draw(t, "signed off") {
			c.Signoffs = []string{"legs"}
		}
		if rapid.Bool().Draw(t, "out") {
			c.Out = []Away{{Week: n(1, p.Weeks, "out in")}}
		}
		p.Coaches = append(p.Coaches, c)
	}
	return p
}

func TestPlanNeverBreaksAHardRule(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawProblem(t)
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		require.Empty(t, breaches(p, plan.Placements))
		again, _ := Coverage(p, plan.Placements)
		require.InDelta(t, again, plan.Coverage, 1e-9)
		require.LessOrEqual(t, plan.Coverage, plan.Bound+1e-9)
		st := newState(newModel(p))
		st.put(plan.Placements)
		require.InDelta(t, again, st.coverage(), 1e-9, "the running sum equals the sum from scratch")
		require.Empty(t, Breaches(p, plan.Placements), "and the explaining judge agrees")
		twice, err := Solve(p, nil)
		require.NoError(t, err)
		require.Equal(t, plan, twice, "the same problem gives the same plan")
	})
}

func TestRepairNeverBreaksAHardRule(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawProblem(t)
		old, err := Solve(p, nil)
		require.NoError(t, err)
		changed := p
		first := rapid.IntRange(1, p.Weeks).Draw(t, "first week")
		changed.Closures = append(slices.Clone(p.Closures), Closure{Week: rapid.IntRange(first, p.Weeks).Draw(t, "cancelled in"), Class: "c0"})
		r, err := Repair(changed, old, first)
		require.NoError(t, err)
		require.Empty(t, breaches(changed, r.Plan.Placements))
		require.GreaterOrEqual(t, r.Plan.Coverage, 0.99*r.Anew-1e-9)
		require.Equal(t, Diff(old, r.Plan), r.Changes)
	})
}

func small() Problem {
	return Problem{Weeks: 6, Seconds: 0.05, Goal: "full", Spacing: DefaultSpacing,
		Tracks:   []Track{{ID: "fund", Mode: "same", School: "block"}, {ID: "nogi", Mode: "split", School: "free"}},
		Classes:  []Class{{"mon", "fund", 1, "18:00", 30}, {"wed", "fund", 3, "18:00", 30}, {"tue", "nogi", 2, "19:00", 30}, {"fri", "nogi", 5, "18:00", 30}},
		Closures: []Closure{{Week: 3}},
		Units: []Unit{{ID: "move", Name: "Hip escape", Tracks: []string{"fund"}, Minutes: 10, ReviewMinutes: 4, Area: "pins"},
			{ID: "escape", Name: "Elbow escape", Tracks: []string{"fund"}, Minutes: 20, ReviewMinutes: 8, Requires: []string{"move"}, Area: "pins"},
			{ID: "legs", Name: "Straight ankle lock", Tracks: []string{"nogi"}, Minutes: 25, ReviewMinutes: 10, Area: "legs", Signoff: "leg attacks"},
			{ID: "huge", Name: "Everything at once", Tracks: []string{"nogi"}, Minutes: 50, ReviewMinutes: 10, Area: "legs"}},
		Students: []Student{{"ana", map[string]float64{"mon": 0.4, "wed": 0.3, "tue": 0.2}, []Need{{"escape", 2, 0, 1}}}, {"ben", map[string]float64{"tue": 0.8, "fri": 0.6}, []Need{{"legs", 2, 0.5, 2}, {"huge", 1, 0, 1}}}},
		Coaches:  []Coach{{ID: "ines", Available: []string{"mon", "wed", "tue"}, MaxPerWeek: 3, Share: 0.5}, {ID: "dov", Available: []string{"tue", "fri"}, Signoffs: []string{"leg attacks"}, MaxPerWeek: 2, Share: 0.5}}}
}

func TestSmallSeason(t *testing.T) {
	p := small()
	plan, err := Solve(p, nil)
	require.NoError(t, err)
	require.Empty(t, breaches(p, plan.Placements))
	for _, x := range plan.Placements {
		assert.NotEqual(t, 3, x.Week, "closed")
		if slices.Contains(x.Items, Item{"legs", Teach}) {
			assert.Equal(t, "dov", x.Lead)
		}
	}
	assert.Greater(t, plan.Coverage, 0.6)
	assert.Equal(t, []Unplaced{{"huge", "It takes 50 minutes; the longest class of its tracks has 30."}}, plan.Unplaced)

	i := slices.IndexFunc(plan.Placements, func(x Placement) bool { return slices.Contains(x.Items, Item{"escape", Teach}) })
	require.GreaterOrEqual(t, i, 0)
	x := plan.Placements[i]
	why, ok := Why(p, plan, x.Week, x.Class, "escape")
	require.True(t, ok)
	require.Len(t, why.WaitsFor, 1)
	assert.Equal(t, "move", why.WaitsFor[0].Unit)
	assert.Less(t, why.WaitsFor[0].Week, x.Week)
	require.NotEmpty(t, why.Gains)
	assert.Equal(t, "ana", why.Gains[0].Student)
	assert.Positive(t, why.Worth)
	assert.Equal(t, []Other{{"dov", "not available"}}, why.LeadWhy)
	_, ok = Why(p, plan, 3, "mon", "escape")
	assert.False(t, ok)
}

func TestRepairOfACancelledClass(t *testing.T) {
	p := small()
	old, err := Solve(p, nil)
	require.NoError(t, err)
	p.Closures = append(p.Closures, Closure{Week: 2, Class: "mon"})
	r, err := Repair(p, old, 2)
	require.NoError(t, err)
	assert.Empty(t, breaches(p, r.Plan.Placements))
	for _, c := range r.Changes {
		assert.GreaterOrEqual(t, c.Week, 2, "what is past does not move")
	}
	i := slices.IndexFunc(r.Changes, func(c Change) bool { return c.Week == 2 && c.Class == "mon" })
	require.GreaterOrEqual(t, i, 0)
	assert.Nil(t, r.Changes[i].After)
	assert.LessOrEqual(t, len(r.Changes), 4)
}

func TestCheckNamesFieldAndMend(t *testing.T) {
	for field, spoil := range map[string]func(*Problem){
		"weeks":                    func(p *Problem) { p.Weeks = 0 },
		"classes[0].track":         func(p *Problem) { p.Classes[0].Track = "x" },
		"classes[0].weekday":       func(p *Problem) { p.Classes[0].Weekday = 8 },
		"closures[0].class":        func(p *Problem) { p.Closures[0].Class = "x" },
		"units[0].minutes":         func(p *Problem) { p.Units[0].Minutes = 0 },
		"units[1].requires":        func(p *Problem) { p.Units[1].Requires = []string{"x"} },
		"units":                    func(p *Problem) { p.Units[0].Requires = []string{"escape"} },
		"students[0].chance.mon":   func(p *Problem) { p.Students[0].Chance["mon"] = 1.5 },
		"students[0].open[0].unit": func(p *Problem) { p.Students[0].Open[0].Unit = "x" },
		"tracks[0].mode":           func(p *Problem) { p.Tracks[0].Mode = "x" },
		"classes[1].id":            func(p *Problem) { p.Classes[1].ID = p.Classes[0].ID },
		"goal":                     func(p *Problem) { p.Goal = "most" },
		"closures[0].week":         func(p *Problem) { p.Closures[0].Week = 7 },
		"students[1].open[0].need": func(p *Problem) { p.Students[1].Open[0].Need = 99 },
		"coaches[0].available":     func(p *Problem) { p.Coaches[0].Available = []string{"x"} },
		"fixed[0].lead":            func(p *Problem) { p.Fixed = []Placement{{Week: 1, Class: "mon", Lead: "x"}} },
		"wanted[0].week":           func(p *Problem) { p.Wanted = []Wanted{{Unit: "move", Week: 9}} },
		"spacing.tolerance":        func(p *Problem) { p.Spacing.Tolerance = -1 },
		"fixed[0]":                 func(p *Problem) { p.Fixed = []Placement{{Week: 9, Class: "mon"}} },
	} {
		p := small()
		spoil(&p)
		found := p.Check()
		require.NotEmpty(t, found, field)
		assert.Equal(t, field, found[0].Field)
		_, err := Solve(p, nil)
		assert.Error(t, err)
	}
}
