package season

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// wander makes random moves of every kind, some of them taken back, and calls
// back after each.
func wander(t *rapid.T, p Problem, each func(h *search)) *state {
	m := newModel(p)
	st, conflict := m.begin()
	require.Nil(t, conflict)
	if rapid.Bool().Draw(t, "filled") {
		st.fill()
	}
	h := newSearch(st, rapid.Uint64().Draw(t, "random"), 1<<60)
	if len(h.open) == 0 || len(h.units) == 0 {
		return st
	}
	r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "wander"), 1))
	same := func(was [][]item, says string) {
		for s := range was {
			require.True(t, slices.Equal(was[s], st.sq[s]), "%s: square %d has %v, had %v", says, s, st.sq[s], was[s])
		}
	}
	for range rapid.IntRange(1, 60).Draw(t, "moves") {
		was := st.contents()
		switch r.IntN(4) {
		case 0:
			h.relay.do(h.units[r.IntN(len(h.units))], relayLure)
			if r.IntN(2) == 0 {
				h.relay.back()
				same(was, "laid anew and put back")
			}
		default:
			made := h.move()
			switch {
			case !made:
				same(was, "what cannot be done changes nothing")
			case r.IntN(2) == 0:
				st.undo()
				same(was, "done and undone")
			}
		}
		each(h)
	}
	return st
}

// Whatever moves were made and undone, what is kept along equals what a state
// made from scratch counts, and no rule is broken on the way.
func TestWhatIsKeptAlongEqualsWhatIsCounted(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawProblem(t)
		p.Goal = "full"
		wander(t, p, func(h *search) {
			st := h.st
			fresh := st.m.spare(st.contents())
			require.InDelta(t, fresh.sum, st.sum, 1e-9, "covered")
			require.Equal(t, fresh.softScore.sums, st.softScore.sums, "spacing, school, focus")
			require.Equal(t, fresh.used, st.used)
			require.Equal(t, fresh.mark, st.mark)
			require.Equal(t, fresh.staffing.asks, st.staffing.asks)
			placements := st.placements()
			st.lead(placements, nil)
			require.Empty(t, breaches(p, placements))
		})
	})
}

// A week can be staffed exactly when some way to hand out its classes works.
func TestMatchesEqualsTryingEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		coaches := rapid.IntRange(1, 4).Draw(t, "coaches")
		room := make([]int8, coaches)
		for k := range room {
			room[k] = int8(rapid.IntRange(0, 3).Draw(t, "room"))
		}
		masks := rapid.SliceOfN(rapid.Uint64Range(0, 1<<coaches-1), 0, 6).Draw(t, "classes")
		var try func(i int, left []int8) bool
		try = func(i int, left []int8) bool {
			if i == len(masks) {
				return true
			}
			for k := range left {
				if masks[i]&(1<<k) != 0 && left[k] > 0 {
					left[k]--
					ok := try(i+1, left)
					left[k]++
					if ok {
						return true
					}
				}
			}
			return false
		}
		require.Equal(t, try(0, slices.Clone(room)), matches(masks, room))
	})
}

// The judge that explains finds something exactly when the simple one does.
func TestBothJudgesAgreeOnBrokenPlans(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawProblem(t)
		plan, err := Solve(p, nil)
		require.NoError(t, err)
		all := slices.Clone(plan.Placements)
		for range rapid.IntRange(1, 3).Draw(t, "times") {
			if len(all) == 0 {
				return
			}
			i := rapid.IntRange(0, len(all)-1).Draw(t, "which")
			x := &all[i]
			x.Items = slices.Clone(x.Items)
			unit := rapid.SampledFrom(p.Units).Draw(t, "unit").ID
			switch rapid.IntRange(0, 5).Draw(t, "how") {
			case 0:
				x.Items = append(x.Items, Item{unit, Teach})
			case 1:
				x.Items = append(x.Items, Item{unit, Review})
			case 2:
				at := rapid.IntRange(0, len(x.Items)-1).Draw(t, "item")
				x.Items[at].Kind = map[string]string{Teach: Review, Review: Teach}[x.Items[at].Kind]
			case 3:
				x.Lead = rapid.SampledFrom(p.Coaches).Draw(t, "lead").ID
			case 4:
				x.Lead = ""
			case 5:
				if len(x.Items) > 1 {
					x.Items = x.Items[1:]
				}
			}
		}
		simple, explained := breaches(p, all), Breaches(p, all)
		require.Equal(t, len(simple) == 0, len(explained) == 0, "simple: %v\nexplained: %v", simple, explained)
		for _, b := range explained {
			require.NotEmpty(t, b.What)
			require.NotEmpty(t, b.Rule)
		}
	})
}

// softScoreFrom counts what the goal full counts straight from placements, by its
// words: nothing of the planner is used.
func softScoreFrom(p Problem, placements []Placement) (spacing, school, focus [2]int) {
	unit, class := map[string]Unit{}, map[string]Class{}
	for _, u := range p.Units {
		unit[u.ID] = u
	}
	for _, c := range p.Classes {
		class[c.ID] = c
	}
	type line struct {
		week int
		name string
	}
	lines := map[line][]Item{} // what a track, or in split a class, gives in a week
	for _, tr := range p.Tracks {
		weeks := map[string]map[int]bool{}
		first := map[string]int{}
		for _, x := range placements {
			if class[x.Class].Track != tr.ID {
				continue
			}
			name := tr.ID
			if tr.Mode == "split" {
				name = x.Class
			}
			if l := (line{x.Week, name}); len(x.Items) > len(lines[l]) {
				lines[l] = x.Items
			}
			for _, it := range x.Items {
				if weeks[it.Unit] == nil {
					weeks[it.Unit] = map[int]bool{}
				}
				weeks[it.Unit][x.Week] = true
				if had, ok := first[it.Unit]; it.Kind == Teach && (!ok || x.Week < had) {
					first[it.Unit] = x.Week
				}
			}
		}
		for u, start := range first {
			used := map[int]bool{}
			for _, gap := range p.Spacing.Weeks {
				if start+gap > p.Weeks {
					continue
				}
				spacing[1]++
				for w := start + gap - p.Spacing.Tolerance; w <= start+gap+p.Spacing.Tolerance; w++ {
					if w > start && weeks[u][w] && !used[w] {
						used[w] = true
						spacing[0]++
						break
					}
				}
			}
		}
		for l, items := range lines {
			if l.name != tr.ID && class[l.name].Track != tr.ID {
				continue
			}
			focus[1]++
			if len(items) <= 3 {
				focus[0]++
			}
			areas := func(all []Item) (found []string) {
				for _, it := range all {
					if it.Kind == Teach {
						found = append(found, unit[it.Unit].Area)
					}
				}
				return found
			}
			now, was := areas(items), areas(lines[line{l.week - 1, l.name}])
			if len(now) == 0 || len(was) == 0 || tr.School == "free" {
				continue
			}
			school[1]++
			common := slices.ContainsFunc(now, func(a string) bool { return slices.Contains(was, a) })
			if common == (tr.School == "block") {
				school[0]++
			}
		}
	}
	return spacing, school, focus
}

func TestWhatTheGoalFullCountsIsWhatItsWordsSay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawProblem(t)
		p.Goal, p.Closures = "full", nil
		for i := range p.Classes { // of one length, so that a week's list is heard as a whole
			p.Classes[i].TeachMinutes = 40
		}
		st := wander(t, p, func(*search) {})
		spacing, school, focus := softScoreFrom(p, st.placements())
		got := st.softScore.sums
		assert.Equal(t, spacing, [2]int{got.kept, got.asked}, "spacing")
		assert.Equal(t, school, [2]int{got.goods, got.pairs}, "school")
		assert.Equal(t, focus, [2]int{got.full - got.thick, got.full}, "focus")
	})
}

func TestFairnessAndContinuity(t *testing.T) {
	p := Problem{Weeks: 3, Tracks: []Track{{ID: "t", Mode: "split"}}, Classes: []Class{{ID: "a", Track: "t", TeachMinutes: 40}, {ID: "b", Track: "t", TeachMinutes: 40}},
		Units:   []Unit{{ID: "u", Tracks: []string{"t"}, Minutes: 10, ReviewMinutes: 5, Area: "guard"}, {ID: "v", Tracks: []string{"t"}, Minutes: 10, ReviewMinutes: 5, Area: "pins"}},
		Coaches: []Coach{{ID: "x", Share: 0.5}, {ID: "y", Share: 0.5}}}
	m := newModel(p)
	at := func(week int, class, lead, unit string) Placement {
		return Placement{Week: week, Class: class, Lead: lead, Items: []Item{{unit, Teach}}}
	}
	for _, c := range []struct {
		name             string
		all              []Placement
		fair, continuous float64
	}{
		{"nothing led", nil, 1, 1},
		{"half each", []Placement{at(1, "a", "x", "u"), at(1, "b", "y", "u")}, 1, 1},
		{"one leads all", []Placement{at(1, "a", "x", "u"), at(1, "b", "x", "u")}, 0.5, 1},
		{"three of four", []Placement{at(1, "a", "x", "u"), at(1, "b", "x", "v"), at(2, "a", "x", "u"), at(2, "b", "y", "v")}, 0.75, 0.5},
		{"another area, another coach", []Placement{at(1, "a", "x", "u"), at(2, "a", "y", "v")}, 1, 1},
		{"a week between", []Placement{at(1, "a", "x", "u"), at(3, "a", "y", "u")}, 1, 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			assert.InDelta(t, c.fair, m.fairness(c.all), 1e-12, "fairness")
			assert.InDelta(t, c.continuous, m.continuity(c.all), 1e-12, "continuity")
		})
	}
}

// A greedy first plan is whole: nothing that gains by itself fits anywhere any more.
func TestTheFirstPlanLeavesNoRoomForWhatGains(t *testing.T) {
	for seed := range uint64(8) {
		p := generatedAs(smallSeason, seed, seed%2 == 0)
		m := newModel(p)
		st, conflict := m.begin()
		require.Nil(t, conflict)
		st.fill()
		now := st.coverage()
		for s := range m.squares {
			for _, u := range m.teaches[m.squares[s].track] {
				for kind := teach; kind <= review; kind++ {
					if hasUnit(st.sq[s], u) || !st.try(change{s, append(slices.Clone(st.sq[s]), item{unit: u, kind: kind})}) {
						continue
					}
					assert.LessOrEqual(t, st.coverage(), now+1e-9, fmt.Sprintf("season %d: %s could still be put into week %d", seed, p.Units[u].ID, m.squares[s].week))
					st.undo()
				}
			}
		}
	}
}
