// Package e2e drives the real interface in a real browser against a real
// database.
package e2e

import (
	"context"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/internal/testkit"
)

const tonight = "fund-early.2026-11-24"

// The whole walk: from the library to the ledger.
func TestFromTheLibraryToTheLedger(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)

	t.Log("1. Sign in: a wrong password is refused and the name stays.")
	b.goTo("/")
	b.fill("Name", "ines")
	b.fill("Password", "not this one")
	b.click("Sign in")
	b.sees("This name and password do not go together")
	assert.Equal(t, "ines", eval[string](b, `document.querySelector("input[name=name]").value`))
	b.fill("Password", testkit.Password)
	b.click("Sign in")
	b.sees("Ines Falk", "head instructor", "No season runs", "Wilma Etherton")
	b.click("Library1")
	b.sees("techniques and movements")

	t.Log("2. Library: find by an alias, misspelt and without accents; mirror; change a key point and undo it.")
	b.fill("Search the library by name or alias", "kamarao")
	b.sees("Hip escape", "Camarão", "1 found")
	b.fill("Search the library by name or alias", "esgrima")
	b.click("Underhook get-up")
	b.sees("Key points", "Elbow, then hand", "gate", "checkpoint", "Fix:", "Forks", "Stands on", "Left underhook deep")
	b.show("library")
	b.click("Left side")
	b.sees("Right underhook deep", "From half guard on the left side, win the underhook")
	b.seesNot("Left underhook deep")
	b.click("Right side")
	b.click("Change key point 1")
	b.fill("Cue", "{left} underhook deeeep {lft}")
	b.click("Save key point")
	b.sees("{lft} is not a side token: write {left} or {right}")
	assert.Contains(t, eval[string](b, `document.querySelector("form[aria-label='Change key point'] textarea").value`), "{lft}", "nothing is lost from the form")
	b.fill("Cue", "{Left} underhook up to the shoulder blade")
	b.click("Save key point")
	b.sees("Left underhook up to the shoulder blade", "Changed key point")
	b.click("Undo")
	b.sees("Undone", "Left underhook deep")
	b.seesNot("up to the shoulder blade ")

	t.Log("3. Curricula: require a technique; the audit proposes the missing prerequisite; take it.")
	b.click("Curricula")
	b.sees("For Blue", "students work on it as it is")
	b.click("New version")
	b.sees("version 2 · draft")
	b.fill("Name or alias", "triangulo")
	b.sees("Triangle strangle")
	b.click("Require it")
	b.sees("Triangle strangle stands on Leg circles in guard, which is required only at Purple", "1 finding keeps it from being published")
	b.click("Require Leg circles in guard here, drilled")
	b.sees("40 requirements")
	b.goTo("/curricula/blue-1")
	b.sees("38 requirements")

	t.Log("4. Season: lay six weeks with a closure in week 3, plan, ask why, cancel a class, take the repair.")
	b.click("Season")
	b.click("New season")
	b.fill("Name", "Winter season")
	b.click("Close a week")
	b.fill("Week", "9")
	b.click("Create the season")
	b.sees("week 9 is not in a season of 6 weeks")
	b.fill("Week", "3")
	b.fill("Why", "new mats")
	b.click("Create the season")
	b.sees("Winter season", "new mats", "Not planned yet")
	b.click("Plan")
	b.sees("Expected coverage", "no plan can reach more than", "Left out")
	coverage := b.texts("[data-coverage]")[0]
	b.clickOn(`button[aria-haspopup="dialog"]`)
	b.sees("the chance that, with what they had before")
	b.press(kb.Escape)
	b.clickOn(`[data-cell="2/fund-early"]`)
	b.sees("Why here.", "stands on", "Without it the season loses", "Why ")
	b.fill("Why (shown in the plan)", "hall is let")
	b.click("Show the repair")
	b.sees("The best found with everything free to move", "nothing")
	b.click("Repair plan")
	b.sees("and repaired the plan")
	b.sees("hall is let")
	b.click("Undo")
	b.sees("Undone")
	b.seesNot("hall is let")
	b.clickOn(`[data-cell="2/fund-early"]`)
	b.sees("no plan can reach more than")
	b.covers(coverage) // undo restores the plan

	t.Log("5. Tonight: the sheet, eight students, a late ninth, a held one, the clock, what was reached.")
	b.goTo("/mat/" + tonight)
	b.sees("Repetitions", "each, each side", "of 75 minutes", "Gates", "Last note:")
	b.show("mat-sheet")
	eight := []string{"Oren Vask", "Pilar Dunmore", "Tam Ellery", "Nuno Harrow", "Gil Abernath", "Matti Soren", "Hanne Voss", "Rafe Tolliver"}
	for _, name := range eight {
		b.fill("Name of who came", name)
		b.click("Check in " + name)
		b.sees(name + " is here.")
	}
	b.sees("Here 8")
	b.click("Pairs")
	b.click("Pair them")
	b.sees("Round 1", "7 are possible before a pair must repeat")
	assertPairs(t, b, 8, false)
	b.click("This round was run")
	b.sees("1 already run")
	first := b.texts("[data-round]")[0]
	b.click("Here 8")
	b.fill("Name of who came", "Yara")
	b.press(kb.Enter)
	b.sees("Yara Quill is here.")
	b.fill("Name of who came", "Wilma")
	b.press(kb.Enter)
	b.sees("Wilma Etherton is here.", "Not paired: held from all partner drills until cleared")
	b.click("Pairs")
	b.sees("Somebody came or left.", "Wilma Etherton is not paired: held")
	b.click("Pair again")
	b.seesNot("Somebody came or left.")
	assert.Equal(t, first, b.texts("[data-round]")[0], "the round already run stays")
	assertPairs(t, b, 9, true)
	b.show("mat-pairs")
	theClock(t, b)
	recordTonight(b)

	t.Log("6. Check one student on one technique and side, on a phone; the verdict; overrule it.")
	before := ledgerOf(t, b, "oren-vask")
	phone := h.person(t, 390, 844)
	phone.signIn(state.Head)
	checkOnAPhone(t, phone)

	t.Log("7. Ledger: the standing and the heat map have moved; readiness says what is missing.")
	after := ledgerOf(t, b, "oren-vask")
	assert.NotEqual(t, before, after, "the standing moved")
	b.sees("Toward Blue:", "What is missing", "overruled: Saw it twice in sparring last week")
	assert.Contains(t, after, "Knee cut pass, left, passed")

	b.click("People")
	b.sees("36 people", "Wilma Etherton")
	b.click("Academy")
	b.sees("Share to pass a check", "Changed lately", "Undid: Changed Underhook get-up")
	b.show("academy")

	t.Log("8. The student sees only their own; the coach runs own classes and does not publish.")
	theStudent(t, h)
	theCoach(t, h)

	r, err := h.app.Academies.Rebuild(context.Background(), "lantern-street")
	require.NoError(t, err)
	assert.Empty(t, r.Different, "what is held is what the log says")
	assert.Equal(t, 30, r.Students)
}

// assertPairs: nobody twice in a round, no pair twice, nobody kept apart is
// together, and the odd one has a place.
func assertPairs(t *testing.T, b *browser, people int, trio bool) {
	t.Helper()
	rounds := eval[[][]string](b, `[...document.querySelectorAll("[data-round]")].map((r) => [...r.querySelectorAll("[data-pair]")].map((p) => p.dataset.pair))`)
	require.NotEmpty(t, rounds)
	used := map[string]bool{}
	for i, round := range rounds {
		here := map[string]bool{}
		trios := 0
		for _, pair := range round {
			ids := strings.Fields(pair)
			if len(ids) == 3 {
				trios++
			}
			for _, id := range ids {
				assert.False(t, here[id], "%s twice in round %d", id, i+1)
				here[id] = true
			}
			key := ids[0] + " " + ids[1]
			if ids[1] < ids[0] {
				key = ids[1] + " " + ids[0]
			}
			// One of the n−1 rounds falls to the pair kept apart; until then nobody meets twice. A trio's three meet each other, so
			// that there are fewer rounds before somebody must.
			limit := people - 2
			if trio {
				limit = 4
			}
			assert.False(t, used[key] && i < limit, "%s meet twice by round %d", key, i+1)
			used[key] = true
			assert.NotEqual(t, "gil-abernath nuno-harrow", key, "they must not be paired")
		}
		assert.NotContains(t, here, "wilma-etherton", "she is held")
		if trio && i > 0 {
			assert.Equal(t, 1, trios, "the odd one is in a trio")
			assert.Len(t, here, people)
		}
	}
}

func theClock(t *testing.T, b *browser) {
	t.Helper()
	b.click("Open the clock")
	b.sees("left of the class", "Start")
	size := eval[float64](b, `parseFloat(getComputedStyle(document.querySelector("[role=timer]")).fontSize)`)
	assert.Greater(t, size, 0.3*800, "readable from ten metres: a third of the screen's height")
	b.click("Start")
	b.until("the clock runs", `document.querySelector("[role=timer]").dataset.running === "true"`)
	chimes := eval[string](b, `document.documentElement.dataset.chimed ?? "0"`)
	b.click("Next")
	b.click("Next")
	b.until("it sounds at the change", `(document.documentElement.dataset.chimed ?? "0") !== %s`, chimes)
	b.show("clock")
	b.click("Stop")
	left := b.texts("[role=timer]")[0]
	b.click("Refit what is left")
	b.sees("left of the class")
	assert.NotEmpty(t, left)
	b.goTo("/mat/" + tonight)
}

func recordTonight(b *browser) {
	b.t.Helper()
	b.click("After class")
	b.sees("Faults seen, of 10 here")
	b.click("Part")
	b.click("One more:")
	b.click("One more:")
	b.fill("Note for the next coach", "Reached key point 3; left side not done.")
	b.click("Save record")
	b.sees("Saved the record of the class.", "Recorded.")
}

// checkOnAPhone marks the knee cut on the left: the first gate only when
// prompted, so the computed verdict is "not yet"; then overrules it.
func checkOnAPhone(t *testing.T, b *browser) {
	t.Helper()
	b.goTo("/check?student=oren-vask&technique=knee-cut&class=" + tonight)
	b.sees("Oren Vask", "Underhook", "gate")
	b.click("Left")
	b.sees("Left underhook and head in place")
	b.click("Save check")
	b.sees("nothing marked for")
	b.clickOn("ol li:nth-child(1) [role=radio]:nth-child(2)")
	for _, n := range []string{"2", "3", "4", "5", "6"} {
		b.clickOn("ol li:nth-child(" + n + ") [role=radio]:nth-child(1)")
	}
	wide := eval[bool](b, `document.documentElement.scrollWidth <= innerWidth`)
	assert.True(t, wide, "the phone page does not scroll sideways")
	b.click("Save check")
	b.sees("Not yet", "Gate only when prompted")
	b.click("Overrule: met")
	b.sees("say why, it stays on record")
	b.fill("Why it is met after all", "Saw it twice in sparring last week")
	b.click("Overrule: met")
	b.sees("Overruled.", "Computed: not met")
	assert.Equal(t, "met", b.attribute("[data-verdict]", "data-verdict"))
}

// ledgerOf reads the waymarks of a student's row in the heat map and leaf.
func ledgerOf(t *testing.T, b *browser, student string) string {
	t.Helper()
	b.goTo("/ledger/" + student)
	b.sees("Toward Blue", "Standing", "Likely to come")
	return strings.Join(eval[[]string](b, `[...document.querySelectorAll("svg[role=img]")].filter((e) => e.closest("section + section")).map((e) => e.getAttribute("aria-label"))`), "\n")
}

func theStudent(t *testing.T, h house) {
	t.Helper()
	b := h.person(t, 390, 844)
	b.signIn(state.Student)
	b.sees("Oren Vask", "Toward Blue:", "Standing")
	words := b.words()
	for _, other := range []string{"Pilar", "Wilma", "Nuno"} {
		assert.NotContains(t, words, other)
	}
	b.show("student-phone")
	for _, path := range []string{"/api/students/pilar-dunmore", "/api/heat", "/api/people", "/api/classes/" + tonight} {
		status := eval[float64](b, `(() => { const r = new XMLHttpRequest(); r.open("GET", %s, false); r.send(); return r.status; })()`, path)
		assert.Contains(t, []float64{403, 404}, status, path)
	}
	own := eval[float64](b, `(() => { const r = new XMLHttpRequest(); r.open("GET", "/api/students/oren-vask", false); r.send(); return r.status; })()`)
	assert.Equal(t, 200.0, own)
}

// ledBy finds a class still to come that somebody leads.
func ledBy(t *testing.T, h house, name string) string {
	t.Helper()
	for week := range calendar.Day(6) {
		days, err := h.app.Classes.Week(t.Context(), testkit.Users[state.Head], new(calendar.DayOf(now)+7*week), false)
		require.NoError(t, err)
		for _, d := range days {
			for _, c := range d.Classes {
				if d.On > calendar.DayOf(now) && c.Lead == name && c.State == "ready" {
					return c.Session
				}
			}
		}
	}
	require.Failf(t, "leads nothing", "%s", name)
	return ""
}

func theCoach(t *testing.T, h house) {
	t.Helper()
	b := h.person(t, 1280, 800)
	b.signIn(state.Coach)
	b.goTo("/curricula")
	b.sees("For Blue")
	b.seesNot("Back to draft")
	b.seesNot("Require it")
	status := eval[float64](b, `(() => { const r = new XMLHttpRequest(); r.open("PUT", "/api/curricula/blue-1/state", false); r.setRequestHeader("content-type", "application/json"); r.send('{"published":false}'); return r.status; })()`)
	assert.Equal(t, 403.0, status)
	b.goTo("/mat/" + ledBy(t, h, "Tomas Reyl"))
	b.sees("led by Tomas Reyl", "Open the clock")
	b.click("Here 0")
	b.goTo("/check?student=pilar-dunmore&technique=bridge-roll")
	b.sees("Pilar Dunmore", "Save check")
}

// The same walk by keyboard alone, up to the repaired season: no mouse.
func TestByKeyboardAlone(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)

	b.goTo("/")
	b.until("the name has the focus", `document.activeElement?.name === "name"`)
	b.write("ines")
	b.press(kb.Tab)
	b.write(testkit.Password)
	b.press(kb.Enter)
	b.sees("Ines Falk", "The week from here")
	b.press("1")
	b.sees("techniques and movements")

	b.press("/")
	b.write("kamarao")
	b.sees("1 found")
	b.press(kb.Enter)
	b.sees("Onto the right shoulder")
	b.tabTo("Right side")
	b.press(kb.ArrowRight)
	b.until("the focus moves on", `document.activeElement.innerText === "Left side"`)
	b.press(" ")
	b.sees("Onto the left shoulder")
	b.press(kb.ArrowLeft)
	b.until("the focus moves back", `document.activeElement.innerText === "Right side"`)
	b.press(" ")
	b.sees("Onto the right shoulder")
	b.tabTo("Change key point 2")
	b.press(kb.Enter)
	b.until("the cue has the focus", `document.activeElement?.tagName === "TEXTAREA"`)
	b.press(kb.End)
	b.write(", sole flat")
	b.tabTo("Save key point")
	b.press(kb.Enter)
	b.sees("Left foot close to the seat, sole flat")
	b.until("the focus left the form", `!document.activeElement?.matches("input,textarea,select")`)
	b.press("u")
	b.sees("Undone")
	b.seesNot("close to the seat, sole flat gate")

	b.press("2")
	b.sees("For Blue")
	b.tabTo("New version")
	b.press(kb.Enter)
	b.sees("version 2 · draft")
	b.until("the focus left the button", `(document.activeElement.blur(), true)`)
	b.press("/")
	b.write("triangulo")
	b.until("it is found", `document.querySelector("[role=option]")?.innerText.startsWith("Triangle strangle") && !document.querySelector("form button[type=submit]").disabled`)
	b.press(kb.Enter)
	b.sees("Triangle strangle stands on Leg circles in guard")
	b.tabTo("Require Leg circles in guard here, drilled")
	b.press(kb.Enter)
	b.sees("40 requirements")

	b.until("the focus left the form", `(document.activeElement.blur(), true)`)
	b.press("3")
	b.tabTo("New season")
	b.press(kb.Enter)
	b.until("the name has the focus", `document.activeElement?.placeholder === "Winter season"`)
	b.write("Winter season")
	b.tabTo("Close a week")
	b.press(kb.Enter)
	b.tabTo("Week")
	b.write("3")
	b.tabTo("Create the season")
	b.press(kb.Enter)
	b.sees("Not planned yet")
	b.tabTo("Plan")
	b.press(kb.Enter)
	b.sees("Expected coverage")
	b.tabTo("Tue 1 Dec, Fundamentals, early week")
	b.press(kb.ArrowDown, kb.ArrowUp, kb.Enter)
	b.sees("Why here.")
	b.tabTo("Show the repair")
	b.press(kb.Enter)
	b.sees("The best found with everything free to move")
	b.tabTo("Repair plan")
	b.press(kb.Enter)
	b.sees("and repaired the plan")
}
