package e2e

import (
	"context"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/state"
	"vereda/core/library"
	"vereda/internal/testkit"
)

// fillAt replaces what stands in the field a selector names.
func (b *browser) fillAt(selector, words string) {
	b.t.Helper()
	b.until("find: "+selector, `!!document.querySelector(%s)`, selector)
	eval[bool](b, `(() => { const e = document.querySelector(%s); e.scrollIntoView({block: "center"}); e.focus(); if (e.select) e.select(); return true; })()`, selector)
	b.write(words)
}

// chooseAt takes an option of the list a selector names, by typing it. A list
// forgets what was typed after a second: on a busy machine it is typed again.
func (b *browser) chooseAt(selector, option string) {
	b.t.Helper()
	for range 5 {
		b.fillAt(selector, option)
		for range 10 {
			if eval[bool](b, `document.querySelector(%s).selectedOptions[0].text.toLowerCase().startsWith(%s.toLowerCase())`, selector, option) {
				return
			}
			time.Sleep(50 * time.Millisecond)
		}
		b.press(kb.Escape)
	}
	require.Failf(b.t, "not chosen", "%s in %s", option, selector)
}

// labelled names a field by its label inside a part of the page.
func labelled(within, label string) string {
	return within + ` [data-label="` + label + `"]`
}

// Write a technique from nothing, with gates, faults, forks and a side; mirror
// it; print it; change it, and restore what it was.
func TestWriteATechniqueFromNothing(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/library")
	b.click("Write a technique")
	b.sees("New technique", "Written for the right side")
	b.click("Save technique")
	b.sees("Not saved.", "is empty: give the technique a name", "say from which position and part it starts")
	b.fill("Name", "Elbow lift to the knees")
	b.fill("Other names", "Elbow lift; Levantada")
	b.chooseAt(`form select[data-label="Kind"]`, "escape")
	b.chooseAt(`select[data-label="From"]`, "Side pin")
	b.chooseAt(`select[aria-label="From: part"]`, "defender")
	b.chooseAt(`select[data-label="To"]`, "Turtle")
	b.chooseAt(`select[aria-label="To: part"]`, "defender")
	b.fill("In a sentence", "Lift the {right} elbow, turn out and come to the knees on the left.")
	b.click("Add a key point")
	first, second := `section[aria-label="Key points"] > ol > li:nth-child(1)`, `section[aria-label="Key points"] > ol > li:nth-child(2)`
	b.fillAt(labelled(first, "Cue"), "{Right} elbow off the mat")
	b.fillAt(labelled(first, "Limb"), "your {right} elbow")
	b.click("Gate")
	b.click("Add a fault at key point 1")
	b.fillAt(labelled(first, "What goes wrong"), "Lifts with a flat back")
	b.fillAt(labelled(first, "What it gives the partner"), "They mount")
	b.fillAt(labelled(first, "Fix"), "Side first")
	b.chooseAt(labelled(first, "You end up in"), "Mount")
	b.click("Add a key point")
	b.fillAt(labelled(second, "Cue"), "Turn out under the {left} arm")
	b.click("Add a fork")
	fork := `section[aria-label="Forks"]`
	b.fillAt(labelled(fork, "The partner"), "They spread the legs and sprawl")
	b.chooseAt(labelled(fork, "Your answer"), "Stand up from turtle")
	b.chooseAt(labelled(fork, "At key point"), "2.")
	b.click("Add what it stands on")
	b.chooseAt(labelled(`section[aria-label="Stands on"]`, "Movement or technique"), "Hip escape")
	b.click("Add a layer")
	b.fillAt(labelled(`section[aria-label="Layers"]`, "Lesson"), "The path, unhurried")
	b.click("Add a drill")
	b.fillAt(labelled(`section[aria-label="Drills"]`, "Drill"), "Elbow and back")
	b.fillAt(labelled(`section[aria-label="Drills"]`, "How"), "Lift, turn a quarter, come back")
	attach(t, b)
	b.click("Save technique")
	b.sees("Added Elbow lift to the knees", "Right elbow off the mat", "gate", "Lifts with a flat back", "Stand up from turtle, break the lock", "The path, unhurried", "Elbow and back", "A grey square")
	b.sees(`"left" is written outside a token and will not be mirrored`)
	picture := eval[bool](b, `[...document.images].some((i) => i.src.includes("/api/files/") && i.naturalWidth === 6)`)
	assert.True(t, picture, "the attached picture is shown")

	b.click("Left side")
	b.sees("Left elbow off the mat", "Turn out under the right arm", "The picture itself shows the right side")
	b.click("Stand up from turtle, break the lock")
	b.sees("Pull it to your left hip") // the chain goes on, on the side it was turned to
	b.goTo("/library/elbow-lift-to-the-knees?side=left")
	b.click("Card")
	b.sees("Technique cards", "Right elbow off the mat", "Left elbow off the mat")
	assert.Equal(t, []string{"right", "left"}, eval[[]string](b, `[...document.querySelectorAll("article[data-side]")].map((e) => e.dataset.side)`))
	assert.Equal(t, 1, pages(t, b), "both sides are on one sheet")

	b.goTo("/library/elbow-lift-to-the-knees")
	b.click("Change all of it")
	b.fill("In a sentence", "Something else entirely.")
	b.click("Save technique")
	b.sees("Changed Elbow lift to the knees", "Something else entirely.")
	b.click("History")
	b.sees("Ines Falk", "Added Elbow lift to the knees", "as it is now")
	b.clickOn(`section[aria-label="History"] tbody tr:nth-child(2) button`)
	b.sees("Lift the {right} elbow, turn out", "Lines marked − stood only then")
	b.click("Restore this state")
	b.sees("Restored the earlier state.", "Lift the right elbow, turn out and come to the knees")
	b.click("Delete")
	b.sees("Deleted ", "What a careful reader would stop at")
	b.click("Undo")
	b.sees("Undone")
	b.goTo("/library/elbow-lift-to-the-knees")
	b.sees("Right elbow off the mat")
}

// attach chooses a file that is no picture, which is refused, then a picture.
func attach(t *testing.T, b *browser) {
	t.Helper()
	folder := t.TempDir()
	page := filepath.Join(folder, "page.png")
	require.NoError(t, os.WriteFile(page, []byte("<!doctype html><script>1</script>"), 0o600))
	square := filepath.Join(folder, "square.png")
	f, err := os.Create(square)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, image.NewGray(image.Rect(0, 0, 6, 6))))
	require.NoError(t, f.Close())
	b.upload(`form input[type=file]`, page)
	b.sees("page.png: The file is not a picture")
	b.upload(`form input[type=file]`, square)
	b.fill("What square.png shows", "A grey square")
	b.chooseAt(labelled(`section[aria-label="Pictures and clips"]`, "At key point"), "1.")
}

func (b *browser) upload(selector string, files ...string) {
	b.t.Helper()
	b.do(chromedp.SetUploadFiles(selector, files, chromedp.NodeReady))
}

// pages prints the page and counts its sheets.
func pages(t *testing.T, b *browser) int {
	t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 20*time.Second)
	defer cancel()
	out, err := chromedp.Call(ctx, page.PrintToPDF, page.PrintToPDFParams{})
	require.NoError(t, err)
	return strings.Count(string(out.Data), "/Type /Page\n") + strings.Count(string(out.Data), "/Type /Page ") + strings.Count(string(out.Data), "/Type/Page/")
}

// A fork table with a hole: it says so while it is written, and closes with one action.
func TestForkTableWithAHole(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/library")
	b.click("Fork tables")
	b.sees("17 fork tables", "Two answers")
	b.click("New fork table")
	b.fill("Name", "Under the side pin")
	b.chooseAt(`select[data-label="Belongs to"]`, "Side pin")
	b.chooseAt(`select[aria-label="Belongs to: part"]`, "defender")
	b.click("Add a cue")
	b.fillAt(`input[aria-label="Cue cue 1"]`, "crossface")
	b.fillAt(`input[aria-label="Values of crossface"]`, "in, out")
	b.click("Add a cue")
	b.fillAt(`input[aria-label="Cue cue 2"]`, "hips")
	b.fillAt(`input[aria-label="Values of hips"]`, "near, switched")
	b.click("Add a row")
	b.sees("row 1.then: is empty: name the answer")
	b.click("r1: crossface out")
	b.chooseAt(`select[aria-label="Answer of r1"]`, "Frame and re-guard from the side pin")
	b.seesNot("is empty: name the answer")
	b.sees("2 of 4 situations have an answer", "crossface in", "No two rows contradict each other")
	b.click("Add a row")
	b.click("r2: crossface out")
	b.click("r2: hips near")
	b.chooseAt(`select[aria-label="Answer of r2"]`, "Underhook up")
	b.sees("r1 and r2: crossface out, hips near")
	b.fill("Priority of r2", "2")
	b.sees("never applies: stronger rows decide all it matches")
	b.click("Use the smaller table")
	b.seesNot("never applies")
	b.click("Add a row for it")
	b.chooseAt(`select[aria-label="Answer of r2"]`, "Underhook up")
	b.sees("4 of 4 situations have an answer", "Every situation is answered.", "not saved yet")
	b.click("Save table")
	b.sees("Added Under the side pin", "18 fork tables")
	b.show("fork-table")

	b.click("Quiz")
	b.until("a situation is drawn", `!!document.querySelector("[data-situation]")`)
	b.press("a")
	b.until("it is judged", `!!document.querySelector("[data-right]")`)
	b.sees("lies in box")
	b.click("Next situation")
	b.until("the next one is drawn", `!document.querySelector("[data-right]")`)
	b.click("Answer in my own words")
	b.fill("Your answer", "side control escape")
	b.click("Answer")
	b.until("it is judged", `!!document.querySelector("[data-right]")`)
	b.click("Rounds for the mat")
	b.sees("reaction rounds", "12 situations", "No row comes up more than once more often")
	b.click("Show one at a time")
	b.sees("1 of 12")
	b.click("Next")
	b.sees("2 of 12")
}

// Find a chain; avoid its first step; ask for less than is there; see what a
// student holds.
func TestFindAChain(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/library")
	b.click("Map")
	b.sees("226 techniques on the map", "What the map says", "Dilemmas", "Circuits", "Funnels")
	b.show("map")
	b.fill("Find a position on the map", "half guard")
	b.sees("The attacker goes to", "Underhook get-up", "One comes here from")
	b.click("Find it")
	b.until("a chain", `document.querySelector("[data-chain]")?.dataset.chain > 0`)
	first := b.texts("[data-chain] li a")[0]
	b.click("Avoid " + first)
	b.until("another chain", `document.querySelector("[data-chain] li a")?.innerText !== %s && document.querySelector("[data-chain]")?.dataset.chain > 0`, first)
	b.fill("Allowed at age", "10")
	b.sees("No chain leads from Half guard, attacking to a finish on this map", "From there one gets to")
	b.click("All of it")
	b.click("Back to what the map says")
	b.chooseAt(`select[data-label="Required for"]`, "Adult")
	b.sees("What to teach next")
	seen := eval[float64](b, `performance.now()`)
	b.chooseAt(`select[data-label="Jacket"]`, "no-gi")
	b.until("the map follows", `document.querySelector("h1 + .cap").innerText !== ""`)
	assert.Less(t, eval[float64](b, `performance.now()`)-seen, 3000.0)
	for _, link := range []string{"/api/map/map.graphml", "/api/map/map.dot"} {
		status := eval[float64](b, `(() => { const r = new XMLHttpRequest(); r.open("GET", %s, false); r.send(); return r.status; })()`, link)
		assert.Equal(t, 200.0, status, link)
	}
}

// A folder with two likely duplicates and a bad file: one is merged, one added,
// the bad one left out; all of it undone.
func TestImportAFolder(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	folder := t.TempDir()
	head := "---\nname: %\nkind: pass\nfrom: split-leg/attack\nto: side-pin/attack\ntaught: right\ncontext: both\nseconds_per_rep: 8\nteach_minutes: 8\n---\n\nSlice across the thigh.\n\n## Key points\n\n1. {Left} underhook first `u` gate\n"
	write := func(name, text string) string {
		path := filepath.Join(folder, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	files := []string{write("slice.md", strings.Replace(head, "%", "Knee-slice pass", 1)), write("step.md", strings.Replace(head, "%", "Long step pass", 1)), write("broken.md", "just words"), write("tow.md", strings.Replace(head, "%", "Far ankle tow", 1))}
	b.goTo("/library")
	b.click("Import and export")
	b.upload(`label input[type=file]`, files...)
	b.sees("wait for a decision", "Likely the same as Knee cut pass: decide", "broken.md: line 1: it does not begin with ---")
	b.click("Compare Knee-slice pass")
	b.sees("Stays: Knee cut pass", "Goes: Knee-slice pass", "is much like")
	b.clickOn(`input[aria-label="summary: Knee-slice pass"]`)
	b.click("Merge into Knee cut pass")
	b.sees("Merged into Knee cut pass")
	b.click("Compare Long step pass")
	b.click("It is another one: add it")
	b.click("Leave out broken.md")
	b.sees("2 added, 0 rewritten, 1 merged, 0 as they are, 1 left out.")
	b.click("Import")
	b.sees("Imported into the library.")
	lib, err := h.app.Library.Library(t.Context(), testkit.Users[state.Head])
	require.NoError(t, err)
	merged, ok := lib.Technique("knee-slice-pass")
	require.True(t, ok)
	assert.Equal(t, "knee-cut", merged.ID)
	assert.Equal(t, library.Text("Slice across the thigh."), merged.Summary)
	b.click("Undo")
	b.sees("Undone")
	lib, err = h.app.Library.Library(t.Context(), testkit.Users[state.Head])
	require.NoError(t, err)
	_, ok = lib.Technique("long-step-pass")
	assert.False(t, ok)
	b.goTo("/library/knee-cut")
	b.click("Alike")
	b.sees("Likely the same")
}

// A student reads, quizzes and looks at the map, and changes nothing; a coach
// neither.
func TestTheLibraryForThoseWhoDoNotWriteIt(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Coach)
	b.goTo("/library/fork-tables/half-bottom")
	b.sees("Half guard, underneath", "Every situation is answered.")
	b.seesNot("Save table")
	b.goTo("/library/hook-sweep")
	b.sees("Layers", "Drills", "History")
	b.seesNot("Delete")
	b.goTo("/library/variants")
	b.sees("house choice", "Why the house")
	b.seesNot("New set of variants")
	b.goTo("/library/positions/half-guard")
	b.sees("The attacker", "The defender", "From here", "Into here")
	phone := h.person(t, 390, 844)
	phone.signIn(state.Student)
	phone.goTo("/library/fork-tables/half-bottom/quiz")
	phone.until("a situation is drawn", `!!document.querySelector("[data-situation]")`)
	phone.goTo("/library/map")
	phone.sees("techniques on the map")
	students := phone.texts(`select option`)
	assert.NotContains(t, strings.Join(students, " "), "Pilar")
}
