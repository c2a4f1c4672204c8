package e2e

import (
	"testing"

	"github.com/stretchr/testify/require"

	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/demo/life"
)

// openLife is a running server with the demo as `make demo` has it.
func openLife(t *testing.T) house {
	t.Helper()
	return openWith(t, func(h house) {
		b, err := life.Academy(calendar.DayOf(now))
		require.NoError(t, err)
		_, err = h.app.Academies.Import(t.Context(), b)
		require.NoError(t, err)
	})
}

// The demo shows its worth at the first visit: each main page opens on something, and the story of demo/README.md is on them.
func TestTheDemoIsFullOfLife(t *testing.T) {
	h := openLife(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.sees("The plan of Autumn season breaks", "was not reported", "Kerensa Lowe has come of age to move on", "3 planned units were not reached", "Ready for the next rank: Hanne Voss for Blue",
		"Comes less than before: Lorcan Mossley", "Silvan Brackwell: knee", "Fable Orrin came to try a class", "Autumn season, week 5 of 12")
	b.until("the coverage is drawn", `!!document.querySelector("figure[aria-label='Coverage over the season'] svg")`)
	b.show("today")
	b.click("Fix it: The plan of Autumn season breaks")
	b.sees("Expected coverage", "Broken rules", "The lead is out in week 6")
	b.show("season")
	b.click("Read it")
	b.sees("Fundamentals", "Rules of its classes", "What the rules cost")
	b.show("season-story")
	b.click("The year")
	b.sees("is in none of these seasons", "Unit that teaches it", "none: no plan can have it")
	b.click("Everything that is required")
	b.sees("Spring season", "Winter season", "taught")
	b.goTo("/mat")
	b.sees("This week", "Next: open")
	b.goTo("/ledger")
	b.sees("Ready soonest", "Hanne Voss", "What they wait for", "Whose standing fades")
	b.show("ledger")
	b.goTo("/ledger/sticking-points")
	b.sees("Passes without the underhook.")
	b.goTo("/ledger?view=agreement")
	b.sees("Wim Aldous", "kappa")
	b.goTo("/people")
	b.sees("Held", "Stay away", "Newest")
	b.show("people")
	b.goTo("/curricula/grey-1?view=ladder")
	b.sees("Bridge lists", "Kerensa Lowe", "Orange → Adult ladder, Blue, from 16 years")

	coach := h.person(t, 1280, 800)
	coach.signIn(state.Coach)
	coach.sees("The week from here", "Autumn season, week 5 of 12")
	coach.seesNot("Comes less than before")
}
