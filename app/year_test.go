package app_test

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/classes"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/season"
	"vereda/internal/testkit"
)

// The year of a hall in the middle of its life, counted once more from what was exported: event by event, plan by plan.
func TestTheYearIsWhatReportsAndPlansSay(t *testing.T) {
	testkit.NothingAtOnce(t)
	a, b := lived(t)
	page, err := a.Seasons.Year(t.Context(), head)
	require.NoError(t, err)
	require.Len(t, page.Seasons, 4)
	var states []string
	for _, s := range page.Seasons {
		states = append(states, s.State)
	}
	assert.Equal(t, []string{"over", "over", "running", "to come"}, states)

	// Who counts here knows nothing of the page: reports by session, and plans of sessions without one.
	reports := map[string]academy.ClassReport{}
	for _, e := range b.Events {
		if e.Kind == academy.ClassReportEvent {
			r, err := e.ClassReport()
			require.NoError(t, err)
			reports[e.Class] = r
		}
	}
	counted := map[string]map[string]seasons.YearSeen{} // season, technique
	for _, s := range b.Seasons {
		of := map[string]seasons.YearSeen{}
		plan := s.Plan
		if s.Published != nil {
			plan = &s.Published.Plan
		}
		for w := range s.Weeks {
			for _, c := range b.Classes {
				on := s.Start + calendar.Day(7*w)
				for on.Weekday() != c.Weekday {
					on++
				}
				if r, ok := reports[academy.Occurrence(c.ID, on)]; ok {
					for _, it := range r.Items {
						x := of[it.Technique]
						switch it.Reached + " " + it.Kind {
						case "all teach", "part teach":
							x.Taught++
						case "all review", "part review":
							x.Reviewed++
						default:
							x.Missed++
						}
						of[it.Technique] = x
					}
					continue
				}
				if plan == nil || slices.ContainsFunc(s.Closures, func(k academy.Closure) bool { return k.Week == w+1 && (k.Class == "" || k.Class == c.ID) }) {
					continue
				}
				for _, p := range plan.Placements {
					if p.Week != w+1 || p.Class != c.ID {
						continue
					}
					for _, it := range p.Items {
						u := b.Units[slices.IndexFunc(b.Units, func(u academy.Unit) bool { return u.ID == it.Unit })]
						for _, id := range u.Techniques {
							x := of[id]
							x.Planned++
							of[id] = x
						}
					}
				}
			}
		}
		counted[s.ID] = of
	}
	rows, unseen, missed := 0, 0, 0
	for _, r := range page.Ranks {
		last, open := true, math.MaxInt
		for _, row := range r.Rows {
			rows++
			if len(row.Or) > 0 {
				continue // a variant counts as what it stands for
			}
			nothing := true
			for i, s := range page.Seasons {
				assert.Equal(t, counted[s.ID][row.Technique], row.Seen[i], "%s in %s", row.Name, s.Name)
				x := counted[s.ID][row.Technique]
				nothing = nothing && x.Taught+x.Reviewed+x.Planned == 0
				missed += x.Missed
			}
			assert.Equal(t, nothing, row.Unseen, row.Name)
			for _, u := range b.Units {
				assert.Equal(t, slices.Contains(u.Techniques, row.Technique), slices.ContainsFunc(row.Units, func(n state.Named) bool { return n.ID == u.ID }), "%s and the unit %s", row.Name, u.Name)
			}
			assert.False(t, row.Unseen && !last, "%s: what nobody sees stands first", row.Name)
			if row.Unseen && last {
				assert.LessOrEqual(t, row.Open, open, "%s: of those the one that most people wait for", row.Name)
			}
			last, open = row.Unseen, row.Open
			if row.Unseen {
				unseen++
			}
		}
	}
	assert.Greater(t, rows, 100)
	assert.Positive(t, missed, "the demo has some that were not reached")
	assert.Equal(t, unseen, page.Unseen)
}

// What was planned and not reached is still in no season; once a class taught it, it is.
func TestWhatWasNotReachedIsNotSeen(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	id, err := a.Seasons.LaySeason(ctx, head, seasons.NewSeason{Name: "Now", Start: calendar.DayOf(now) - 1, Weeks: 2})
	require.NoError(t, err)
	require.NotEmpty(t, id)
	find := func(technique string) (found []seasons.YearRow) {
		page, err := a.Seasons.Year(ctx, head)
		require.NoError(t, err)
		require.Len(t, page.Seasons, 1)
		for _, r := range page.Ranks {
			for _, row := range r.Rows {
				if row.Technique == technique {
					found = append(found, row)
				}
			}
		}
		require.NotEmpty(t, found, technique)
		return found
	}
	_, err = a.Classes.Choose(ctx, head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-half-guard", Kind: "teach"}}})
	require.NoError(t, err)
	page, err := a.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	technique := page.Techniques[0].ID
	assert.True(t, find(technique)[0].Unseen, "the season has no plan")
	report := func(reached string) {
		r := classes.SessionReport{}
		for _, x := range page.Techniques {
			r.Items = append(r.Items, ledger.Item{Technique: x.ID, Kind: x.Kind, Reached: reached})
		}
		require.NoError(t, a.Classes.Report(ctx, head, tonight, r))
	}
	report("not")
	row := find(technique)[0]
	assert.Equal(t, seasons.YearSeen{Missed: 1}, row.Seen[0])
	assert.True(t, row.Unseen)
	report("part")
	row = find(technique)[0]
	assert.Equal(t, seasons.YearSeen{Taught: 1}, row.Seen[0], "a correction takes the place of what was said before")
	assert.False(t, row.Unseen)
}
