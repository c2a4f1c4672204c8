package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"

	"vereda/app/state"
)

// The first page says what waits; its button leads to where that is settled. Anything else is found by its name, misspelt too, by keys alone.
func TestTheFirstPageAndFindingAnything(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.sees("Fundamentals, early week, today at 18:00 teaches nothing yet", "No season runs", "The week from here")
	b.click("See the audit: Adult ladder Brown, version 2, is a draft")
	b.sees("Audit", "Brown")
	b.press("0")
	b.sees("The week from here")
	h.published(t)
	b.goTo("/today")
	b.sees("Winter season, week 1 of 6", "Open the brief")
	b.seesNot("No season runs")

	b.click("Find anything")
	b.write("esgrma")
	b.sees("Underhook get-up")
	b.press(kb.Enter)
	b.sees("Left underhook deep")
	b.click("Find anything")
	b.write("wilma")
	b.sees("Wilma Etherton")
	b.press(kb.Enter)
	b.until("the page of the person", `location.pathname === "/people/wilma-etherton"`)
	b.click("Find anything")
	b.write("xqzzy")
	b.sees("Nothing is called so, nor nearly so.")
	b.press(kb.Escape)
	b.seesNot("Nothing is called so")
}
