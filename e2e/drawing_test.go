package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"vereda/app/state"
)

// A head instructor draws a moment from words: what cannot be read is said beside the line, a point is moved with the arrow keys, the
// drawing is kept and turns with the side.
func TestADrawingIsWrittenMovedAndTurned(t *testing.T) {
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/library/sprawl")
	b.click("Change all of it")
	b.click("Add a drawing")
	b.sees("names a side, but the technique has none")
	b.click("Cancel")
	b.goTo("/library/hip-bump")
	b.click("Change all of it")
	b.sees("Lines of drawing 1")
	b.fill("Lines of drawing 1", "you floating")
	b.sees("is not understood")
	b.fill("Lines of drawing 1", "they kneeling: head 0,1; hips 0,4; looks 0,-1\nyou sitting: head 0,0; hips 0,-2; looks 0,1\nyour {left} hand: -2,-4")
	b.until("the hand is a point to take hold of", `!!document.querySelector('circle[aria-label^="your left hand, at -2, -4"]')`)
	eval[bool](b, `(document.querySelector('circle[aria-label^="your left hand"]').focus(), true)`)
	b.press(kb.ArrowLeft)
	b.until("the arrow key moved it", `[...document.querySelectorAll("textarea")].some((x) => x.value.endsWith("your {left} hand: -2.5,-4"))`)
	b.fill("What the drawing shows", "The {left} hand is behind you.")
	b.click("Save technique")
	b.sees("Changed Hip bump sweep", "The left hand is behind you.")
	side := `[...document.querySelectorAll("svg.drawn text.side.you")].map((x) => x.textContent + Math.sign(x.getAttribute("x"))).join()`
	assert.Equal(t, "L-1", eval[string](b, side))
	b.click("Left side")
	b.sees("The right hand is behind you.")
	b.until("the drawing turned with the side", side+` === "R1"`)
}
