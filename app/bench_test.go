package app_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"time"

	"vereda/app"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/internal/generate"
	"vereda/internal/testkit"
)

// What a page costs right after somebody changed something: the change itself,
// and reading what is known anew.
func BenchmarkChangeThenRead(b *testing.B) {
	a := app.New(testkit.New(b), func() time.Time { return now }, time.UTC, testkit.Files(b))
	a.Seasons.Patience = 0.05
	testkit.LoadDemo(b, a, calendar.DayOf(now))
	page, err := a.Library.Technique(b.Context(), head, "knee-cut", "")
	require.NoError(b, err)
	for b.Loop() {
		page.Written.SecondsPerRep = 8 + page.Version%2
		_, err := a.Library.SaveTechnique(b.Context(), head, page.Written, page.Version)
		require.NoError(b, err)
		page, err = a.Library.Technique(b.Context(), head, "knee-cut", "")
		require.NoError(b, err)
	}
}

// What the pages that show everybody cost right after a check: 600 students, two years.
func BenchmarkLedgerAfterACheck(b *testing.B) {
	s := testkit.New(b)
	a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(b))
	w := generate.Wish{ID: "large", Students: 600, Weeks: 104, Classes: 20, Visits: 120_000, Checks: 15_000, Today: calendar.DayOf(now), Seed: 1}
	bundle, events, err := generate.Academy(w)
	require.NoError(b, err)
	_, err = a.Academies.Import(b.Context(), bundle)
	require.NoError(b, err)
	require.NoError(b, s.Append(b.Context(), w.ID, events...))
	u := state.User{Academy: "large", Roles: []state.Role{state.Head}, Person: "ines-falk"}
	page, err := a.Students.CheckPage(b.Context(), u, "student-0001", "knee-cut", "right")
	require.NoError(b, err)
	k := students.KeepCheck{Student: "student-0001", Technique: "knee-cut", Side: "right", Observation: ledger.Observation{Points: map[string]ledger.Seen{}, Resistance: 1}}
	for _, p := range page.Technique.KeyPoints {
		k.Observation.Points[p.ID] = ledger.Shown
	}
	_, err = a.Students.Heat(b.Context(), u, "", students.PositionsFilter{})
	require.NoError(b, err)
	for b.Loop() {
		b.StopTimer()
		_, err := a.Students.KeepCheck(b.Context(), u, k)
		require.NoError(b, err)
		b.StartTimer()
		_, err = a.Students.Heat(b.Context(), u, "", students.PositionsFilter{})
		require.NoError(b, err)
	}
}

// Three hundred students with five years behind them: what each page of the ledger costs the first time and when it is asked for again.
func BenchmarkLedgerPages(b *testing.B) {
	s := testkit.New(b)
	a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(b))
	w := generate.Wish{ID: "large", Students: 600, Weeks: 260, Classes: 18, Visits: 300_000, Checks: 20_000, Today: calendar.DayOf(now), Seed: 2}
	bundle, events, err := generate.Academy(w)
	require.NoError(b, err)
	_, err = a.Academies.Import(b.Context(), bundle)
	require.NoError(b, err)
	for part := range slices.Chunk(events, 10_000) {
		require.NoError(b, s.Append(b.Context(), w.ID, part...))
	}
	u := state.User{Academy: "large", Roles: []state.Role{state.Head}, Person: "ines-falk"}
	ctx := b.Context()
	_, err = a.People.People(ctx, u)
	require.NoError(b, err)
	for _, page := range []struct {
		name string
		ask  func() error
	}{
		{"positions", func() error { _, err := a.Students.Positions(ctx, u, students.PositionsFilter{}); return err }},
		{"outlook of all", func() error { _, err := a.Students.OutlookList(ctx, u); return err }},
		{"outlook of one", func() error { _, err := a.Students.Outlook(ctx, u, "student-0001"); return err }},
		{"facts", func() error { _, err := a.Students.Facts(ctx, u, "student-0001", "knee-cut", "right"); return err }},
		{"backtest", func() error { _, err := a.Students.Backtest(ctx, u, 12); return err }},
		{"fading", func() error { _, err := a.Students.Fading(ctx, u); return err }},
		{"gaps", func() error { _, err := a.Students.Gaps(ctx, u); return err }},
		{"agreement", func() error { _, err := a.Students.Agreement(ctx, u, 52); return err }},
		{"stopping", func() error { _, err := a.Students.Stopping(ctx, u); return err }},
	} {
		b.Run(page.name, func(b *testing.B) {
			start := time.Now()
			require.NoError(b, page.ask())
			first := time.Since(start)
			for b.Loop() {
				require.NoError(b, page.ask())
			}
			b.ReportMetric(float64(first.Microseconds())/1000, "ms-first")
		})
	}
}

// A season of twelve weeks for six hundred students, published with briefs for its coaches: what its pages cost the first time, and what publishing does.
func BenchmarkSeasonPages(b *testing.B) {
	s := testkit.New(b)
	a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(b))
	w := generate.Wish{ID: "large", Students: 600, Weeks: 104, Classes: 20, Visits: 120_000, Checks: 15_000, Today: calendar.DayOf(now), Seed: 1}
	bundle, events, err := generate.Academy(w)
	require.NoError(b, err)
	for i, p := range bundle.People {
		if p.Coach != nil {
			bundle.People[i].Email = p.ID + "@lantern.example"
		}
	}
	_, err = a.Academies.Import(b.Context(), bundle)
	require.NoError(b, err)
	require.NoError(b, s.Append(b.Context(), w.ID, events...))
	u := state.User{Academy: "large", Roles: []state.Role{state.Head}, Person: "ines-falk"}
	ctx := b.Context()
	id, err := a.Seasons.LaySeason(ctx, u, seasons.NewSeason{Name: "Winter", Start: calendar.DayOf(now), Weeks: 12})
	require.NoError(b, err)
	_, err = a.Seasons.PlanSeason(ctx, u, id, 3)
	require.NoError(b, err)
	first := map[string]float64{}
	took := func(name string, ask func() error) {
		start := time.Now()
		require.NoError(b, ask())
		first[name] = time.Since(start).Seconds() * 1000
	}
	for b.Loop() {
		took("season", func() error { _, err := a.Seasons.Season(ctx, u, id); return err })
		took("preview", func() error { _, err := a.Seasons.PublishView(ctx, u, id); return err })
		took("publish", func() error { _, err := a.Seasons.PublishSeason(ctx, u, id, 0); return err })
		took("coverage", func() error { _, err := a.Seasons.CoverageLine(ctx, u, id); return err })
		took("rules", func() error { _, err := a.Seasons.CostOfRules(ctx, u, id); return err })
		took("misses", func() error { _, err := a.Seasons.Misses(ctx, u, id); return err })
		took("year", func() error { _, err := a.Seasons.Year(ctx, u); return err })
		took("today", func() error { _, err := a.Today(ctx, u); return err })
		for name, ms := range first {
			b.ReportMetric(ms, "ms-"+name)
		}
		b.StopTimer()
		_, err := a.Seasons.TakeSeasonRepair(ctx, u, id, seasons.Happening{Kind: "cancelled", Week: 9, Class: bundle.Classes[b.N%len(bundle.Classes)].ID})
		require.NoError(b, err)
		b.StartTimer()
	}
}
