package e2e

import (
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/internal/testkit"
)

// What a season is planned with: a unit is added, refused where it would stand on
// itself, made too long for its class and undone; a track counts it as known.
func TestUnitsAreWrittenAndAPlanSaysWhatNoLongerFits(t *testing.T) {
	b, coverage := planned(t)
	taught := eval[string](b, `document.querySelector("[data-cell] [draggable=true].font-semibold").innerText.trim()`)
	b.click("Units")
	b.sees("Units to teach", "Still there in Winter season", "Add a unit")
	b.show("season-units")

	t.Log("A new one, with what is missing said field by field.")
	b.click("Add a unit")
	b.fill("Unit name", "Frames and the way home")
	b.click("Save unit")
	b.sees("names none: choose what the unit teaches", "is empty: name the area it belongs to")
	b.fill("Area", "half guard")
	b.choose("Add a technique", "Knee cut pass")
	b.click("Add a technique: Knee cut pass")
	b.until("it is listed", `!!document.querySelector("[aria-label='Remove from Teaches: Knee cut pass']")`)
	b.choose("Add a unit it stands on", "Hips on the floor")
	b.click("Add a unit it stands on: Hips on the floor")
	b.click("Save unit")
	b.sees("Added the unit Frames and the way home.", "none: it is never taught")

	t.Log("What it stands on cannot stand on it.")
	b.fill("Search units", "Hips on the floor")
	b.click("Hips on the floor")
	b.sees("Frames and the way home", "stand on it")
	b.choose("Add a unit it stands on", "Frames and the way home")
	b.click("Add a unit it stands on: Frames and the way home")
	b.click("Save unit")
	b.sees("they would stand on each other: Hips on the floor, which stands on Frames and the way home, which stands on Hips on the floor")
	b.click("Delete")
	b.sees("Hips on the floor stays: ", "stands on it. Remove it there first")
	b.click("Cancel")

	t.Log("A unit that is planned is made longer than its classes.")
	b.fill("Search units", taught)
	b.click(taught)
	b.until("its form", `document.querySelector("[data-unit-form] h1")?.innerText.trim() === %s`, taught)
	b.fill("Minutes", "170")
	b.click("Save unit")
	b.sees("Changed the unit " + taught)
	b.click("The plan")
	b.sees("Broken rules", "minutes")
	b.click("Undo")
	b.sees("Undone")
	b.seesNot("Broken rules")
	b.covers(coverage)
}

// Coaches and tracks: somebody is made a coach, given a class by hand, and stays
// as long as they lead something; a track is told what it knows before.
func TestSomebodyIsMadeACoachAndGivenAClass(t *testing.T) {
	b, coverage := planned(t)
	b.click("Timetable and coaches")
	b.choose("Add a coach", "Oren Vask")
	b.click("Make them a coach")
	b.sees("Oren Vask, a new coach")
	b.fill("At most a week", "50")
	b.click("Save terms")
	b.sees("50 is outside 0 to 40")
	b.fill("At most a week", "2")
	b.clickOn(`form[aria-label="Oren Vask, a new coach"] fieldset:first-of-type label:nth-of-type(2) input`)
	b.click("Save terms")
	b.sees("Made Oren Vask a coach.")

	t.Log("The class he may lead, and one he may not.")
	b.click("The plan")
	b.clickOn(`[data-cell="2/fund-late"]`)
	b.sees("Why ")
	b.click("Give it to Oren Vask")
	b.sees("Another coach", "It breaks:", "not available")
	b.click("Cancel")
	b.clickOn(`[data-cell="2/fund-early"]`)
	b.click("Give it to Oren Vask")
	b.sees("Another coach", "Coverage")
	b.until("the trial answers", `/No rule is broken|It breaks/.test(document.querySelector("[data-trial]").innerText)`)
	b.click("Give them the class")
	b.sees("to Oren Vask")
	b.until("his initials stand there", `document.querySelector('[data-cell="2/fund-early"]').innerText.includes("OV")`)

	b.click("Timetable and coaches")
	b.click("Oren Vask")
	b.click("No coach any more")
	b.sees("leads Fundamentals, early week in week 2 of Winter season")
	b.click("The plan")
	b.clickOn(`[data-cell="2/fund-early"]`) // puts the class away
	b.covers(coverage)

	t.Log("What a track knows before.")
	b.click("Timetable and coaches")
	b.clickOn("[data-tracks] tbody tr:first-child button")
	b.sees("Known before: taught to nobody, and may be reviewed at once")
	b.click("Knee-line frame")
	b.click("Save track")
	b.sees("Changed the track Fundamentals.")
	b.until("it is known before", `/known before: .*Knee-line frame/.test(document.querySelector("[data-tracks]").innerText)`)
}

// Closures are set in the season's own list; a week that falls out later is
// repaired from the plan, and both are undone.
func TestWeeksAreClosed(t *testing.T) {
	b, coverage := planned(t)
	b.click("Timetable and coaches")
	b.click("Add a closure")
	b.fill("Week", "40")
	b.click("Save closures")
	b.sees("week 40 is not in a season of 6 weeks")
	b.fill("Week", "6")
	b.choose("Which", "No-gi, weekend")
	b.fill("Why", "The hall is let")
	b.click("Save closures")
	b.sees("Set the closures of Winter season.")
	b.click("The plan")
	b.sees("The hall is let")
	b.click("Undo")
	b.sees("Undone")
	b.seesNot("The hall is let")

	b.clickOn(`[data-cell="3/fund-early"]`)
	b.sees("Something happened")
	b.choose("What", "The whole week is closed")
	b.fill("Why (shown in the plan)", "Flood")
	b.click("Show the repair")
	b.sees("if nothing else changes", "repaired", "nothing")
	rows := b.texts("[data-repair] tbody tr")
	gone := 0
	for _, r := range rows {
		if regexp.MustCompile(`^\w+ (7|8|9|10|11|12|13) Dec .* nothing$`).MatchString(r) {
			gone++
		}
	}
	require.Equal(t, 4, gone, "all four classes of that week: %v", rows)
	b.click("Repair plan")
	b.sees("and repaired the plan", "Flood")
	b.until("the four classes say why", `[...document.querySelectorAll("[data-cell]")].filter((e) => e.innerText.includes("Flood")).length === 4`)
	b.click("Undo")
	b.sees("Undone")
	b.seesNot("Flood")
	b.clickOn(`[data-cell="3/fund-early"]`) // puts the class away again
	b.covers(coverage)
}

// A unit is dragged with the mouse to another week: what it would lead to is
// shown, made, and undone. The class it went to is pinned.
func TestAUnitIsDragged(t *testing.T) {
	b, coverage := planned(t)
	b.clickOn(`[aria-label="Dismiss"]`)
	// Something that is reviewed in a class of the second week, to a later class of its track.
	from := eval[string](b, `(() => {
		for (const c of document.querySelectorAll("[data-cell]")) {
			if (c.dataset.cell.startsWith("2/") && c.querySelector("[draggable=true].text-soft")) return c.dataset.cell;
		}
		return "";
	})()`)
	require.NotEmpty(t, from)
	to := ""
	for week := 3; week <= 5 && to == ""; week++ {
		to = eval[string](b, `(() => {
			const unit = document.querySelector("[data-cell='" + %s + "'] [draggable=true].text-soft").innerText.trim();
			const to = document.querySelector("[data-cell='" + %s + "']");
			return to.innerText.includes(unit) ? "" : to.dataset.cell;
		})()`, from, strconv.Itoa(week)+from[1:])
	}
	require.NotEmpty(t, to, "a later class without it")
	unit := eval[string](b, `document.querySelector("[data-cell='" + %s + "'] [draggable=true].text-soft").innerText.trim()`, from)
	time.Sleep(300 * time.Millisecond)
	b.do(chromedp.DragAndDrop(chromedp.CSS(`[data-cell="`+from+`"] [draggable=true].text-soft`), chromedp.CSS(`[data-cell="`+to+`"]`)))
	b.sees("Picked up", "Coverage")
	b.until("the trial answers", `/No rule is broken|It breaks/.test(document.querySelector("[data-trial]")?.innerText)`)
	b.click("Make this move")
	b.sees("Moved " + unit)
	b.until("it is there, pinned", `(() => { const e = document.querySelector("[data-cell='" + %s + "']"); return e.innerText.includes(%s) && e.textContent.includes(", pinned"); })()`, to, unit)
	b.until("and gone where it was", `!document.querySelector("[data-cell='" + %s + "']").innerText.includes(%s)`, from, unit)
	b.press(kb.Escape)
	b.click("Undo")
	b.sees("Undone")
	b.covers(coverage)
}

// A season of thirty weeks prints on one sheet: in two bands, since thirty columns would be too narrow to read.
func TestASeasonPrintsOnOneSheet(t *testing.T) {
	h := open(t)
	ctx := t.Context()
	head := testkit.Users[state.Head]
	id, err := h.app.Seasons.LaySeason(ctx, head, seasons.NewSeason{Name: "Long season", Start: calendar.DayOf(now), Weeks: 30})
	require.NoError(t, err)
	_, err = h.app.Seasons.PlanSeason(ctx, head, id, 0.2)
	require.NoError(t, err)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/season/" + id)
	b.sees("Long season", "Plan again")
	require.Len(t, b.texts(".season-sheet table"), 1)
	require.Equal(t, 31, eval[int](b, `document.querySelectorAll(".season-sheet thead th").length`))
	pdf, err := chromedp.Run(b.ctx, chromedp.PrintToPDF(func(p *page.PrintToPDFParams) { yes := true; p.PreferCSSPageSize = &yes }))
	require.NoError(t, err)
	pages := regexp.MustCompile(`/Type /Page\b[^s]`).FindAll(pdf, -1)
	assert.Len(t, pages, 1)
	size := regexp.MustCompile(`/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]`).FindSubmatch(pdf)
	require.NotNil(t, size)
	assert.Regexp(t, `^119[01]`, string(size[1]), "A3 across, in points")

	eval[bool](b, `(window.dispatchEvent(new Event("beforeprint")), true)`)
	require.Len(t, b.texts(".season-sheet table"), 2)
	heads := eval[[]string](b, `[...document.querySelectorAll(".season-sheet thead th")].map((e) => e.innerText)`)
	assert.Len(t, heads, 32)
	assert.Equal(t, eval[int](b, `document.querySelectorAll("[data-cell]").length`), 30*4, "every class once")
	eval[bool](b, `(window.dispatchEvent(new Event("afterprint")), true)`)
	b.until("one again", `document.querySelectorAll(".season-sheet table").length === 1`)
}

// A date is set, the plan says that it does not keep it, is repaired to it, and the date goes again.
func TestADateIsSetAndThePlanRepairedToIt(t *testing.T) {
	h := openLife(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/season/season-4?view=dates")
	b.sees("Guest coach: leg locks")
	b.click("New date")
	b.choose("Kind", "Grading day")
	b.fill("Name", "Midwinter grading")
	last := eval[string](b, `document.querySelector("input[type=date]").max`)
	eval[bool](b, `(() => { const e = document.querySelector("input[type=date]"); const on = new Date(Date.parse(e.min) + 51 * 86400e3).toISOString().slice(0, 10); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, on); e.dispatchEvent(new Event("input", {bubbles: true})); return true; })()`)
	require.NotEmpty(t, last)
	// What the winter plan teaches late, or never, in the track chosen.
	b.choose("For", "Fundamentals")
	for _, unit := range []string{"Knee cut", "Arm lock and triangle"} {
		b.choose("Taught before it", unit)
		b.click("Add: Taught before it")
		b.sees(unit + " ✕")
	}
	b.click("Save")
	b.sees("Midwinter grading", "by week 7")
	if words := b.words(); !strings.Contains(words, "All 2 are taught") {
		b.click("Show the repair")
		b.click("Repair plan")
		b.sees("All 2 are taught by week 7.")
	}
	b.goTo("/season/season-4")
	b.sees("Midwinter grading")
	b.goTo("/season/season-4?view=dates")
	b.sees("Midwinter grading")
	b.click("Delete")
	b.sees("Saved the dates of Winter season.")
}
