package e2e

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"vereda/app/state"
)

// How long a person takes for what a browser does at once: to find a button and press it, to press a key, and to read a page that is new to them.
// The first two are the keystroke-level model's (Card, Moran and Newell 1980): 1.1 s to point, 0.2 s to press, 1.35 s to think; 0.28 s for a key.
const (
	perPress = 2650 * time.Millisecond
	perKey   = 280 * time.Millisecond
	perPage  = 20 * time.Second
)

// Sunday night: from signing in to a week that is planned, staffed and briefed. What a machine waits for is measured, what a person takes is reckoned.
func TestFromSignInToABriefedWeek(t *testing.T) {
	h := openLife(t)
	b := h.person(t, 1280, 800)
	begun := time.Now()
	pages := 1
	b.signIn(state.Head)
	b.keys += 24 // name and password
	b.sees("The plan of Autumn season breaks")
	pages++
	b.click("Fix it: The plan of Autumn season breaks")
	b.sees("Expected coverage", "Broken rules")
	pages++
	b.click("Plan again")
	b.sees("Planned Autumn season.")
	b.until("no rule is broken", `!document.body.innerText.includes("Broken rules")`)
	b.click("Publish")
	b.sees("These coaches will be told", "differ from what the coaches have")
	pages++
	b.click("Publish the changes")
	b.sees("Published.", "Nothing has changed since.")
	b.until("the week is read", `(fetch("/api/week?ahead=true").then((r) => r.json()).then((w) => { window.week = w; }), !!window.week)`)
	for _, s := range eval[[]string](b, `window.week.flatMap((d) => d.classes.map((c) => c.state + (c.lead || c.state === "closed" ? "" : ", nobody")))`) {
		assert.Contains(t, []string{"ready", "closed", "recorded", "not recorded"}, s, "every class of the next seven days has its content and its coach")
	}
	b.goTo("/mat")
	pages++
	b.clicks++ // the area's name
	b.sees("This week")
	class := eval[string](b, `window.fetch && [...document.querySelectorAll("nav[aria-label='This week'] a")].map((a) => a.getAttribute("href")).pop()`)
	b.goTo(class)
	b.clicks++ // its tick
	pages++
	b.sees("Brief for another coach")
	b.clicks++
	b.until("the brief comes", `(fetch(document.querySelector("a[href*='brief.pdf']").href).then((r) => r.blob()).then((x) => { window.brief = x.size; }), window.brief > 2000)`)
	waited := time.Since(begun)
	person := time.Duration(b.clicks)*perPress + time.Duration(b.keys)*perKey + time.Duration(pages)*perPage
	t.Logf("From signing in to a planned, staffed and briefed week: %d presses, %d keys, %d pages: %.0f s of a person, %.0f s of the machine and of looking", b.clicks, b.keys, pages, person.Seconds(), waited.Seconds())
	assert.Less(t, person+waited, 10*time.Minute)
}
