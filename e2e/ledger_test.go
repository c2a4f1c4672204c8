package e2e

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/classes"
	"vereda/app/state"
	"vereda/core/season"
	"vereda/internal/testkit"
)

// From the picture of all students to one cell, to why it is so, to a check.
func TestFromTheGroupToTheLastFact(t *testing.T) {
	h := open(t)
	h.published(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/ledger")
	b.sees("30 students", "Above attack, below defence")
	assert.Positive(t, eval[int](b, `document.querySelectorAll("[data-cell]").length`))
	b.goTo("/ledger/oren-vask?position=closed-guard")
	b.sees("30 students", "Oren Vask: Closed guard", "When it will likely all be there")
	b.goTo("/ledger")
	b.fill("Find a student", "oren")
	b.sees("2 students.")
	b.clickOn("[data-cell^='oren-vask']")
	b.sees("Oren Vask: ", "When it will likely all be there", "By position", "To practise")
	b.clickOn("a[aria-label^='Why: ']")
	b.until("it is explained", `!!document.querySelector("section[aria-label=Why]")`)
	b.clickOn("section a[aria-label^='Check: ']")
	b.sees("Save check")

	t.Log("Who is ready when, what fades, who has the same gap.")
	b.goTo("/ledger?view=ready")
	b.sees("In half of the runs", "waits longest on")
	b.goTo("/ledger?view=fading")
	b.sees("How fast things fade here", "Classes that would refresh it")
	b.goTo("/ledger?view=gaps")
	b.sees("groups serve them")
	b.click("For the whole class")
	b.sees("is in ")
	b.click("Undo")
	b.sees("Undone")
	b.goTo("/ledger?view=agreement")
	b.sees("two coaches within 21 days")
	b.goTo("/ledger?view=stopping")
	b.sees("students have a past long enough")
}

// Who missed something catches it up at a station of tonight's class, and the record says so.
func TestSomeCatchUpAtAStation(t *testing.T) {
	h := open(t)
	_, err := h.app.Classes.Choose(t.Context(), testkit.Users[state.Head], "fund-early.2026-11-24", classes.SessionChoice{Items: []season.Item{{Unit: "u-half-guard", Kind: "teach"}}})
	require.NoError(t, err)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/ledger?view=gaps")
	b.sees("groups serve them")
	b.click("As a station")
	b.sees("has a station: ", "has a station there")
	b.goTo("/mat/fund-early.2026-11-24?view=stations")
	b.sees("caught up at a station:", "instead of")
	people := strings.Split(strings.SplitN(eval[string](b, `document.querySelector("[data-makeup]").innerText`), ";", 2)[0], ", ")
	require.NotEmpty(t, people)
	name := strings.TrimSuffix(people[0], " (not here)")
	f, err := h.app.State.Read(t.Context(), testkit.Users[state.Head].Academy)
	require.NoError(t, err)
	for _, p := range f.Students() {
		if p.Name == name || slices.Contains([]string{"hanne-voss", "nuno-harrow", "tam-ellery", "pilar-dunmore", "oren-vask", "wyn-ashdown"}, p.ID) {
			require.NoError(t, h.app.Classes.CheckIn(t.Context(), testkit.Users[state.Head], "fund-early.2026-11-24", p.ID, "", ""))
		}
	}
	b.until("who is here is known", `document.querySelector("[data-makeup]").innerText.includes(%s + ",") || document.querySelector("[data-makeup]").innerText.includes(%s + ";")`, name, name)
	b.clickOn("fieldset input[type=checkbox]")
	b.click("Plan the stations")
	b.sees("Planned the stations.", "Group 1")
	b.goTo("/mat/fund-early.2026-11-24?view=after")
	b.sees("Caught up", name, "counts half a class less")
	b.click("Save record")
	b.sees("Saved the record of the class.")
	person := ""
	for _, p := range f.Students() {
		if p.Name == name {
			person = p.ID
		}
	}
	page, err := h.app.Classes.Session(t.Context(), testkit.Users[state.Head], "fund-early.2026-11-24")
	require.NoError(t, err)
	require.Len(t, page.Recorded.Makeups, 1)
	assert.Contains(t, page.Recorded.Makeups[0].People, person)
}

// A day of tests is planned, checked from a phone, and read in the evening.
func TestADayOfTests(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/ledger?view=tests")
	b.click("New day of tests")
	b.sees("soonest ready first", "Oren Vask")
	b.click("Plan the day")
	b.sees("The day cannot be planned so:", "Day: ")
	b.fill("Name of the day", "Winter tests")
	eval[bool](b, `(() => { const e = document.querySelector("input[type=date]"); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, "2026-11-24"); e.dispatchEvent(new Event("input", {bubbles: true})); return true; })()`)
	b.click("Ines Falk")
	b.click("Tomas Reyl")
	for _, name := range []string{"Oren Vask", "Pilar Dunmore", "Tam Ellery"} { // the leaf beside it names some of them too
		eval[bool](b, `([...document.querySelectorAll("form label")].find((l) => l.innerText.includes(%s)).click(), true)`, name)
	}
	b.click("Plan the day")
	b.sees("Planned Winter tests.", "Results", "Partners differ by")
	tests := eval[int](b, `document.querySelectorAll("[data-slots] tr").length`)
	require.Greater(t, tests, 20)
	b.show("test-day")
	b.click("by examiner")
	b.sees("Ines Falk", "Tomas Reyl")

	t.Log("The examiner's phone.")
	phone := h.person(t, 390, 844)
	phone.signIn(state.Coach)
	student, technique := "oren-vask", eval[string](b, `new URL([...document.querySelectorAll("[data-slots] a")].find((a) => a.href.includes("oren-vask")).href).searchParams.get("technique")`)
	phone.goTo("/check?student=" + student + "&technique=" + technique)
	phone.sees("Save check")
	for range eval[int](phone, `document.querySelectorAll("ol li").length`) { // one after the other: each redraws the page
		eval[bool](phone, `([...document.querySelectorAll("ol li [role=radio], ol li button")].filter((b) => b.innerText.trim() === "Seen").find((b) => b.getAttribute("aria-checked") !== "true" && b.dataset.state !== "on" && b.dataset.state !== "checked")?.click(), true)`)
	}
	phone.click("Save check")
	phone.until("it is judged", `!!document.querySelector("[data-verdict]")`)
	b.goTo(eval[string](b, `location.pathname + location.search`))
	b.until("the result is there", `[...document.querySelectorAll("[data-slots] td b")].some((e) => /^(Met|In part|Not met)$/.test(e.innerText))`)
	b.click("All days of tests")
	b.sees(fmt.Sprintf("1 of %d tests done", tests))
}
