package app_test

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/classes"
	"vereda/app/people"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/repair"
	"vereda/internal/testkit"
)

func today(t *testing.T, a *app.App, u state.User) (app.TodayPage, string) {
	t.Helper()
	p, err := a.Today(t.Context(), u)
	require.NoError(t, err)
	var all []string
	for i, l := range p.Lines {
		all = append(all, l.What.String())
		require.NotEmpty(t, l.Why, l.What)
		require.NotEmpty(t, l.Action, l.What)
		require.True(t, strings.HasPrefix(l.To, "/"), l.To)
		if i > 0 && p.Lines[i-1].Due == nil && l.Due != nil {
			assert.Greater(t, *l.Due, p.On-30)
		}
	}
	return p, strings.Join(all, "\n")
}

// What needs somebody stands on their first page, and is gone once it is settled.
func TestTodayEmptiesAsOneWorks(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	page, says := today(t, a, head)
	assert.Contains(t, says, "No season runs")
	assert.Contains(t, says, "Fundamentals, early week, today at 18:00 teaches nothing yet")
	assert.Contains(t, says, "Wilma Etherton")
	assert.Contains(t, says, "Adult ladder Brown, version 2, is a draft")
	require.Len(t, page.Days, 7)
	require.NotEmpty(t, page.Days[0].Classes)
	assert.Greater(t, page.Days[0].Classes[0].Expected, 3.0, "who comes is expected from what they did")
	assert.Nil(t, page.Season)

	id, err := a.Seasons.LaySeason(ctx, head, seasons.NewSeason{Name: "Winter", Start: calendar.DayOf(now), Weeks: 6})
	require.NoError(t, err)
	_, says = today(t, a, head)
	assert.Contains(t, says, "Winter has no plan")
	assert.NotContains(t, says, "No season runs")
	_, err = a.Seasons.PlanSeason(ctx, head, id, testkit.Seconds(0.3))
	require.NoError(t, err)
	_, says = today(t, a, head)
	assert.Contains(t, says, "Winter is not published")
	_, err = a.Seasons.PublishSeason(ctx, head, id, 0)
	require.NoError(t, err)
	page, says = today(t, a, head)
	assert.NotContains(t, says, "Winter")
	assert.NotContains(t, says, "teaches nothing yet", "the plan knows")
	require.NotNil(t, page.Season)
	assert.Equal(t, 1, page.Season.Week)

	// A plan that is changed by hand differs from what the coaches have; one that breaks a rule says so.
	_, winter := readSeason(t, a, id)
	at := winter.Plan.Placements[len(winter.Plan.Placements)-1]
	_, err = a.Seasons.MakeMove(ctx, head, id, repair.Move{Unit: at.Items[0].Unit, From: &repair.Spot{Week: at.Week, Class: at.Class}})
	require.NoError(t, err)
	_, says = today(t, a, head)
	assert.Contains(t, says, "differs from what the coaches have")
	early := ""
	for _, u := range readUnits(t, a, id) {
		if strings.Contains(u.Name, "Side pin to mount") {
			early = u.ID
		}
	}
	_, err = a.Seasons.MakeMove(ctx, head, id, repair.Move{Unit: early, Kind: season.Teach, To: &repair.Spot{Week: 1, Class: "fund-late"}})
	require.NoError(t, err)
	_, says = today(t, a, head)
	assert.Contains(t, says, "The plan of Winter breaks")

	// A hold is gone with its clearance.
	cleared := calendar.DayOf(now)
	holds := people.Clearance{On: &cleared, Clinician: "Dr. Larkin Osei"}
	_, err = a.People.Person(ctx, head, "wilma-etherton")
	require.NoError(t, err)
	p, err := a.People.Person(ctx, head, "wilma-etherton")
	require.NoError(t, err)
	require.NotEmpty(t, p.Holds)
	require.NoError(t, a.People.Clear(ctx, head, "wilma-etherton", p.Holds[0].ID, holds))
	_, says = today(t, a, head)
	assert.NotContains(t, says, "Wilma Etherton")
}

func readUnits(t *testing.T, a *app.App, id string) []state.Named {
	t.Helper()
	return page(t, a, id).Units
}

// What is worked out before anybody asks is what is asked then: warming changes nothing, and ends when it is told to.
func TestWarmingUpChangesNothing(t *testing.T) {
	a := open(t)
	before, _ := today(t, a, head)
	a.Warm(t.Context())
	after, _ := today(t, a, head)
	assert.Equal(t, before, after)
	noDifference(t, a)
	ended, stop := context.WithCancel(t.Context())
	stop()
	a.Warm(ended)
	a.KeepWarm(ended)

	t.Log("What is in use is known with what follows from it, and looking at that is no use of it.")
	ids, versions := a.State.InUse()
	require.Equal(t, []string{head.Academy}, ids)
	require.NoError(t, a.Classes.CheckIn(t.Context(), head, tonight, "oren-vask", "", ""))
	_, _ = today(t, a, head)
	_, again := a.State.InUse()
	assert.Equal(t, versions, again, "a check-in makes nothing anew")
	_ = reportWithStation(t, a, "oren-vask")
	_, _ = today(t, a, head)
	_, again = a.State.InUse()
	assert.Greater(t, again[head.Academy].LastReport, versions[head.Academy].LastReport)
}

// Each role sees its own: a coach not who comes less, the desk nothing of ranks, nobody what they may not open.
func TestTodayIsOfWhoeverLooks(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	_, err := a.Classes.AddGuest(ctx, head, tonight, classes.Guest{ID: "guest-0001", Name: "Sorrel Winthrop", Kind: "trial"})
	require.NoError(t, err)
	_, forDesk := today(t, a, testkit.Users[state.Desk])
	assert.Contains(t, forDesk, "Sorrel Winthrop came to try a class")
	assert.NotContains(t, forDesk, "draft")
	assert.NotContains(t, forDesk, "due for a refresh")
	_, forCoach := today(t, a, coach)
	assert.NotContains(t, forCoach, "draft")
	assert.NotContains(t, forCoach, "Sorrel")
	for role, u := range testkit.Users {
		if role == state.Student || role == state.Guardian {
			continue
		}
		page, err := a.Today(ctx, u)
		require.NoError(t, err)
		for _, l := range page.Lines {
			if role == state.Desk {
				assert.NotContains(t, l.What, "neck", "the desk is not told what is hurt")
			}
		}
	}
}

func TestAnythingIsFoundByItsName(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	all := func(string) bool { return true }
	for query, want := range map[string]string{
		"knee cut":     "/library/knee-cut",
		"corte joelho": "/library/knee-cut", // an alias, words left out
		"esgrima":      "/library/underhook-get-up",
		"wilma":        "/people/wilma-etherton",
		"ethertn":      "/people/wilma-etherton", // a letter short
		"half gard":    "/library/positions/half-guard",
		"password":     "/account",
		"fork tables":  "/library/fork-tables",
		"fundamentals": "/mat/fund-early.2026-11-24",
		"promotions":   "/people/promotions",
		"blue":         "/curricula/blue-1",
		"shortest cha": "/library/map",
	} {
		found, err := a.Find(ctx, head, query, say.English, all)
		require.NoError(t, err)
		var to []string
		for _, x := range found {
			to = append(to, x.To)
			assert.Positive(t, x.Like)
		}
		assert.Contains(t, to, want, query)
		assert.LessOrEqual(t, len(found), 12)
	}
	for query, want := range map[string]string{"personas": "/people", "peopel": "/people", "tablas de bifurc": "/library/fork-tables"} {
		found, err := a.Find(ctx, head, query, say.Spanish, all)
		require.NoError(t, err)
		if assert.NotEmpty(t, found, query) {
			assert.Equal(t, want, found[0].To, "by its name there, and by the English one")
		}
	}
	none, err := a.Find(ctx, head, "zzzzqq", say.English, all)
	require.NoError(t, err)
	assert.Empty(t, none)
	blank, err := a.Find(ctx, head, "  ", say.English, all)
	require.NoError(t, err)
	assert.Empty(t, blank)
	closed, err := a.Find(ctx, testkit.Users[state.Desk], "wilma", say.English, func(op string) bool { return op != "list-people" })
	require.NoError(t, err)
	for _, x := range closed {
		assert.NotEqual(t, "person", x.Kind, "what one may not open is not found")
	}
}
