package e2e

import (
	"strconv"
	"strings"
	"testing"
	"time"
	"vereda/app/state"
)

// A rank is made from nothing: a ladder, its curriculum, the repairs the audit
// proposes, its sheets, until it is published.
func TestARankFromNothingToPublished(t *testing.T) {
	b := open(t).person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/curricula/blue-1?view=ladder")
	b.sees("Whole ladder", "mo, ", "Triangle strangle")
	b.click("New ladder")
	b.fill("Ladder", "No jacket")
	b.click("Add a rank")
	last := `section[aria-label="Ranks"] > ol > li:last-child`
	b.fillAt(labelled(last, "Rank"), "Start")
	b.click("Add a rank")
	b.until("the second row", `document.querySelectorAll('section[aria-label="Ranks"] > ol > li').length === 2`)
	b.fillAt(labelled(last, "Rank"), "First")
	b.fillAt(labelled(last, "Belt"), "blue")
	b.fillAt(labelled(last, "Months"), "8")
	b.fillAt(labelled(last, "Classes"), "50")
	b.click("Save ladder")
	b.sees("Added No jacket", "8 mo, 50 cl")
	b.click("Begin a curriculum for First")
	b.sees("Began a curriculum", "0 requirements · version 1 · draft")
	b.until("its rank stands among the others", `document.querySelector("nav[aria-label=Curricula]").innerText.includes("First")`)
	b.click("What would go there: Collar-and-sleeve tie, takedown")
	b.sees("Collar-and-sleeve tie, takedown:", "Collar drag")
	b.click("Collar drag")
	b.sees("Required Collar drag, passed", "1 requirements · version 1")
	b.click("Undo")
	b.sees("0 requirements · version 1")
	b.click("Close")
	b.fill("Name or alias", "triangulo")
	b.sees("Triangle strangle")
	b.click("Require it")
	b.sees("keeps it from being published", "Triangle strangle stands on Leg circles in guard")
	b.click("Publish")
	b.sees("Take the repair, or take the technique out, then publish.")
	for range 20 {
		blocking := eval[string](b, `[...document.querySelectorAll("section[aria-label=Audit] details")].find(d => d.innerText.startsWith("Publishing waits"))?.querySelector("button")?.innerText ?? ""`)
		if blocking == "" {
			break
		}
		before := eval[string](b, `document.querySelector("section[aria-label=Audit]").innerText`)
		b.click(blocking)
		b.until("the audit answered", `document.querySelector("section[aria-label=Audit]").innerText !== %s`, before)
	}
	b.sees("Nothing keeps it from being published.")
	b.click("Publish")
	b.sees("Published the curriculum for First.", "version 1 · published")
	b.click("Sheets and lists")
	b.sees("Booklet", "Test sheet")
	b.click("Matrix")
	b.seesNot("Require it")
}

// A draft is repaired, and accepted with a reason where nothing repairs, until
// the audit is quiet; one step is undone on the way.
func TestADraftIsRepairedUntilTheAuditIsQuiet(t *testing.T) {
	b := open(t).person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/curricula/brown-2")
	b.sees("finding keeps it from being published", "Slide under to deep half, which no rank requires")
	b.show("curricula")
	count := func() string { return eval[string](b, `document.querySelector("section[aria-label=Audit]").innerText`) }
	eval[bool](b, `(document.querySelectorAll("section[aria-label=Audit] details").forEach(d => d.open = true), true)`)
	first := count()
	repair := eval[string](b, `document.querySelector("section[aria-label=Audit] details button").innerText`)
	b.click(repair)
	b.sees("Repaired: " + repair)
	b.click("Undo")
	b.sees("Undone")
	b.until("the audit is as it was", `document.querySelector("section[aria-label=Audit]").innerText.startsWith(%s)`, strings.SplitN(first, "\n\n", 2)[0])
	accepted := 0
	for range 60 {
		// A list that is at rest: what was just answered may still be on its way out.
		before := count()
		for was := ""; was != before; {
			was = before
			time.Sleep(120 * time.Millisecond)
			before = count()
		}
		// The first finding's repair where it has one, else its Accept.
		what := eval[string](b, `(() => {
			document.querySelectorAll("section[aria-label=Audit] details").forEach(d => d.open = true);
			const x = document.querySelector("section[aria-label=Audit] details button");
			return x ? x.getAttribute("aria-label") ?? x.innerText : "";
		})()`)
		if what == "" {
			break
		}
		before = count()
		b.click(what)
		if strings.HasPrefix(what, "Accept: ") {
			b.fill("Why it is accepted", "Taught at the seminar")
			b.click("Accept it")
			accepted++
		}
		b.until("the audit answered", `document.querySelector("section[aria-label=Audit]").innerText !== %s && !document.querySelector("[aria-label='Why it is accepted']")`, before)
	}
	b.sees("Nothing keeps it from being published. The audit is quiet.")
	if accepted > 0 {
		b.sees("Accepted " + strconv.Itoa(accepted))
	}
	b.click("Publish")
	b.sees("Published the curriculum for Brown.")
}

// Students are moved to the newer version after the preview said what it means
// for each.
func TestStudentsAreMovedWithAPreview(t *testing.T) {
	b := open(t).person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/curricula/purple-2?view=version")
	b.sees("2 are on another version and stay there until they are moved", "Would gain", "version 1, retired")
	b.until("two to move", `document.querySelectorAll("section[aria-label='Who it concerns'] input[type=checkbox]").length === 2`)
	name := eval[string](b, `document.querySelector("section[aria-label='Who it concerns'] input[type=checkbox]").getAttribute("aria-label")`)
	b.click(name)
	b.click("Move the 1 chosen")
	b.sees("Moved one student to this version. It is in the ledger.", "1 are on another version")
	b.until("one to move", `document.querySelectorAll("section[aria-label='Who it concerns'] input[type=checkbox]").length === 1`)
	b.click("Move all 1")
	b.sees("0 are on another version")
	b.goTo("/curricula/purple-1")
	b.sees("retired · 0 students work on it")

	b.goTo("/academy")
	b.sees("Cells that may not stay empty", "These are the usual ones.")
	b.click("Change them")
	b.click("Remove: Cells 1")
	b.click("Save cells")
	b.sees("Set the cells that may not stay empty.")
	b.seesNot("These are the usual ones.")
	b.click("Change them")
	b.click("Back to the usual ones")
	b.sees("These are the usual ones.")

	b.goTo("/curricula/purple-2?view=time")
	b.sees("teaching minutes a week reach a typical student")
}
