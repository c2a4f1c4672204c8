package e2e

import (
	"testing"
	"vereda/app/state"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// The front desk checks people in, and is shown nothing else.
func TestTheFrontDesk(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Desk)
	b.sees("The week from here")
	b.seesNot("draft")
	b.click("Mat3")
	b.sees("Front desk", "Likely tonight")
	assert.Equal(t, []string{"Today", "Library1", "Curricula2", "Mat3", "People4"}, b.texts("nav[aria-label=Areas] a"))
	b.seesNot("Open the clock")
	b.seesNot("After class")
	b.fill("Name of who came", "zzz")
	b.sees("Nobody of that name.")
	b.fill("Name of who came", "etherton")
	b.press(kb.Enter)
	b.sees("Wilma Etherton is here.", "Not paired: ask the coach")
	b.click("Wilma Etherton is not here")
	b.sees("Wilma Etherton is not here after all.", "Here 0")
	b.click("People")
	b.sees("36 people", "Wilma Etherton · held", "ask the coach before training")
	b.seesNot("minor")
	b.goTo("/ledger")
	b.sees("A front desk may not do this.")
}

// An empty house offers the first step, an unknown address says so, and the way back works.
func TestWrongTurns(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/library/no-such-technique")
	b.sees(`There is no technique "no-such-technique" here.`)
	b.fill("Search the library by name or alias", "zzzzzz")
	b.sees("Nothing is called that")
	b.goTo("/season")
	b.sees("No season yet", "New season")
	b.goTo("/season/nothing")
	b.sees(`There is no season "nothing" here.`)
	b.goTo("/mat/fund-early.2026-11-25")
	b.sees("There is no class")
	b.goTo("/nowhere")
	b.sees("The week from here")
	b.goTo("/clock/fund-early.2026-11-24")
	b.sees("left of the class")
	b.goTo("/mat/fund-early.2026-11-24")
	b.click("Choose what to teach")
	b.choose("Unit", "Knee-line")
	b.click("Teach it")
	b.sees("Chose what this class teaches.", "Knee-line frame · chosen by hand", "On the right side, head off the mat")
	b.click("Pairs")
	b.click("Pair them")
	b.sees("0 can be paired: check in at least two who are not held")
	b.click("Go back to the plan")
	b.sees("Went back to the plan.")
}

// The pages of the phone fit it, and the desk's do not scroll sideways at 1280.
func TestPagesFitTheirScreens(t *testing.T) {
	h := open(t)
	desk := h.person(t, 1280, 800)
	desk.signIn(state.Head)
	for _, path := range []string{"/library/knee-cut", "/curricula", "/season", "/mat/" + tonight, "/ledger/oren-vask", "/people", "/academy"} {
		desk.goTo(path)
		desk.until("open "+path, `!!document.querySelector("#main h1, #main h2")`)
		assert.True(t, eval[bool](desk, `document.documentElement.scrollWidth <= innerWidth`), path)
	}
	phone := h.person(t, 390, 844)
	phone.signIn(state.Coach)
	for _, path := range []string{"/check?student=oren-vask&technique=knee-cut", "/run/" + tonight, "/run", "/library/knee-cut"} {
		phone.goTo(path)
		phone.until("open "+path, `!!document.querySelector("h1")`)
		assert.True(t, eval[bool](phone, `document.documentElement.scrollWidth <= innerWidth`), path)
	}
	phone.goTo("/check?student=oren-vask&technique=knee-cut")
	phone.sees("Save check")
	small := eval[float64](phone, `Math.min(...[...document.querySelectorAll("[role=radio]")].map((e) => e.getBoundingClientRect().height))`)
	assert.GreaterOrEqual(t, small, 44.0, "targets for a thumb")
}

// Every control has a name, every picture a text, every page one heading.
func TestNamesForThoseWhoDoNotSee(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	for _, path := range []string{"/library/knee-cut", "/curricula", "/season", "/mat/" + tonight, "/ledger/oren-vask", "/people", "/academy", "/check?student=oren-vask&technique=knee-cut", "/clock/" + tonight} {
		b.goTo(path)
		b.until("open "+path, `!!document.querySelector("h1, [role=timer], main p")`)
		nameless := eval[[]string](b, `[...document.querySelectorAll("button,a[href],input,select,textarea,[role=img]")].filter((e) => {
			const label = e.getAttribute("aria-label") || (e.labels && [...e.labels].map((l) => l.innerText).join("")) || e.innerText || e.textContent /* not laid out yet */ || e.getAttribute("title");
			return !(label || "").trim();
		}).map((e) => e.outerHTML.slice(0, 120))`)
		assert.Empty(t, nameless, path)
		assert.LessOrEqual(t, len(b.texts("h1")), 2, path)
		assert.Equal(t, "en", b.attribute("html", "lang"))
	}
}
