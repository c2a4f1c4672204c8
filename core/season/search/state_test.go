package search

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/core/season/model"
	"vereda/core/season/staffing"
	"vereda/internal/seasontest"
)

// wander makes random moves of every kind, some of them taken back, and calls
// back after each.
func wander(t *rapid.T, p season.Problem, each func(h *Search)) *model.State {
	m := model.New(p)
	st, conflict := Begin(m, nil)
	require.Nil(t, conflict)
	if rapid.Bool().Draw(t, "filled") {
		Fill(st, nil)
	}
	h := New(st, rapid.Uint64().Draw(t, "random"), 1<<60)
	if len(h.open) == 0 || len(h.units) == 0 {
		return st
	}
	h.rewrites = rapid.SampledFrom([]int{0, rewrites}).Draw(t, "rewrites")
	r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "wander"), 1))
	same := func(was [][]model.Item, says string) {
		for s := range was {
			require.True(t, slices.Equal(was[s], st.Items[s]), "%s: square %d has %v, had %v", says, s, st.Items[s], was[s])
		}
	}
	for range rapid.IntRange(1, 60).Draw(t, "moves") {
		was := st.Contents()
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
				st.Undo()
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
		p := seasontest.DrawProblem(t)
		p.Goal = "full"
		wander(t, p, func(h *Search) {
			st := h.st
			fresh := Spare(st.Model, st.Contents())
			require.InDelta(t, fresh.Sum, st.Sum, 1e-9, "covered")
			require.Equal(t, fresh.SoftScore.Sums, st.SoftScore.Sums, "spacing, school, focus")
			require.Equal(t, fresh.Used, st.Used)
			require.Equal(t, fresh.Marks, st.Marks)
			require.Equal(t, fresh.Staffing.Asks, st.Staffing.Asks)
			placements := st.Placements()
			staffing.Lead(st, placements, nil)
			require.Empty(t, seasontest.Breaches(p, placements))
		})
	})
}

// softScoreFrom counts what the goal full counts straight from placements, by its
// words: nothing of the planner is used.
func softScoreFrom(p season.Problem, placements []season.Placement) (spacing, school, focus [2]int) {
	unit, class := map[string]season.Unit{}, map[string]season.Class{}
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
	lines := map[line][]season.Item{} // what a track, or in split a class, gives in a week
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
				if had, ok := first[it.Unit]; it.Kind == season.Teach && (!ok || x.Week < had) {
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
			areas := func(all []season.Item) (found []string) {
				for _, it := range all {
					if it.Kind == season.Teach {
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
		p := seasontest.DrawProblem(t)
		p.Goal, p.Closures = "full", nil
		for i := range p.Classes { // of one length, so that a week's list is heard as a whole
			p.Classes[i].TeachMinutes = 40
		}
		st := wander(t, p, func(*Search) {})
		spacing, school, focus := softScoreFrom(p, st.Placements())
		got := st.SoftScore.Sums
		assert.Equal(t, spacing, [2]int{got.Kept, got.Asked}, "spacing")
		assert.Equal(t, school, [2]int{got.Goods, got.Pairs}, "school")
		assert.Equal(t, focus, [2]int{got.Full - got.Thick, got.Full}, "focus")
	})
}

func TestFairnessAndContinuity(t *testing.T) {
	p := season.Problem{Weeks: 3, Tracks: []season.Track{{ID: "t", Mode: "split"}}, Classes: []season.Class{{ID: "a", Track: "t", TeachMinutes: 40}, {ID: "b", Track: "t", TeachMinutes: 40}},
		Units:   []season.Unit{{ID: "u", Tracks: []string{"t"}, Minutes: 10, ReviewMinutes: 5, Area: "guard"}, {ID: "v", Tracks: []string{"t"}, Minutes: 10, ReviewMinutes: 5, Area: "pins"}},
		Coaches: []season.Coach{{ID: "x", Share: 0.5}, {ID: "y", Share: 0.5}}}
	m := model.New(p)
	at := func(week int, class, lead, unit string) season.Placement {
		return season.Placement{Week: week, Class: class, Lead: lead, Items: []season.Item{{Unit: unit, Kind: season.Teach}}}
	}
	for _, c := range []struct {
		name             string
		all              []season.Placement
		fair, continuous float64
	}{
		{"nothing led", nil, 1, 1},
		{"half each", []season.Placement{at(1, "a", "x", "u"), at(1, "b", "y", "u")}, 1, 1},
		{"one leads all", []season.Placement{at(1, "a", "x", "u"), at(1, "b", "x", "u")}, 0.5, 1},
		{"three of four", []season.Placement{at(1, "a", "x", "u"), at(1, "b", "x", "v"), at(2, "a", "x", "u"), at(2, "b", "y", "v")}, 0.75, 0.5},
		{"another area, another coach", []season.Placement{at(1, "a", "x", "u"), at(2, "a", "y", "v")}, 1, 1},
		{"a week between", []season.Placement{at(1, "a", "x", "u"), at(3, "a", "y", "u")}, 1, 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			assert.InDelta(t, c.fair, fairness(m, c.all), 1e-12, "fairness")
			assert.InDelta(t, c.continuous, continuity(m, c.all), 1e-12, "continuity")
		})
	}
}

// A greedy first plan is whole: nothing that gains by itself fits anywhere any more.
func TestTheFirstPlanLeavesNoRoomForWhatGains(t *testing.T) {
	for seed := range uint64(8) {
		p := seasontest.As(seasontest.SmallSeason, seed, seed%2 == 0)
		m := model.New(p)
		st, conflict := Begin(m, nil)
		require.Nil(t, conflict)
		Fill(st, nil)
		now := st.Coverage()
		for s := range m.Squares {
			for _, u := range m.Teaches[m.Squares[s].Track] {
				for kind := model.Teach; kind <= model.Review; kind++ {
					if model.HasUnit(st.Items[s], u) || !st.Try(model.Change{Square: s, Items: append(slices.Clone(st.Items[s]), model.Item{Unit: u, Kind: kind})}) {
						continue
					}
					assert.LessOrEqual(t, st.Coverage(), now+1e-9, fmt.Sprintf("season %d: %s could still be put into week %d", seed, p.Units[u].ID, m.Squares[s].Week))
					st.Undo()
				}
			}
		}
	}
}
