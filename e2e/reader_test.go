package e2e

import (
	"context"
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/accessibility"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/classes"
	"vereda/app/state"
	"vereda/core/season"
	"vereda/internal/testkit"
)

// heard is one thing as a screen reader has it from the browser.
type heard struct {
	role, name, value string
	focused           bool
}

// tree is the page as a screen reader has it, what is passed over left out.
func (b *browser) tree() (all []heard) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 20*time.Second)
	defer cancel()
	got, err := chromedp.Run(ctx, chromedp.Action[accessibility.GetFullAXTreeResult](func(ctx context.Context, t *chromedp.Target) (accessibility.GetFullAXTreeResult, error) {
		return cdp.Call(ctx, t, accessibility.GetFullAXTree, accessibility.GetFullAXTreeParams{})
	}))
	require.NoError(b.t, err)
	words := func(v *accessibility.Value) string {
		if v == nil {
			return ""
		}
		var text string
		if json.Unmarshal(v.Value, &text) != nil {
			return string(v.Value)
		}
		return strings.Join(strings.Fields(text), " ")
	}
	for _, n := range got.Nodes {
		if n.Ignored {
			continue
		}
		h := heard{role: words(n.Role), name: words(n.Name), value: words(n.Value)}
		for _, p := range n.Properties {
			if p.Name == "focused" && p.Value != nil && string(p.Value.Value) == "true" {
				h.focused = true
			}
		}
		all = append(all, h)
	}
	return all
}

// hears waits until the page has something of a role whose name begins so.
func (b *browser) hears(role, name string) heard {
	b.t.Helper()
	for end := time.Now().Add(15 * time.Second); time.Now().Before(end); time.Sleep(60 * time.Millisecond) {
		for _, h := range b.tree() {
			if h.role == role && strings.HasPrefix(h.name, name) {
				return h
			}
		}
	}
	b.never("hear: " + role + " " + name)
	return heard{}
}

// named says that whatever can be used on the page has a name, that there is one main part, and one heading over it.
func (b *browser) named(page string) {
	b.t.Helper()
	count := map[string]int{}
	for _, h := range b.tree() {
		count[h.role]++
		switch h.role {
		case "button", "link", "textbox", "searchbox", "combobox", "checkbox", "radio", "tab", "spinbutton", "img", "table", "dialog":
			assert.NotEmpty(b.t, h.name, "%s: a %s without a name", page, h.role)
		}
	}
	assert.Equal(b.t, 1, count["main"], "%s: one main part", page)
	assert.Positive(b.t, count["heading"], "%s: headings to walk by", page)
}

// A class from the sign-in to its record by keys alone, with what a screen reader says on the way.
func TestAClassByKeysAndByEar(t *testing.T) {
	h := openHall(t)
	_, err := h.app.Classes.Choose(t.Context(), testkit.Users[state.Head], tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-half-guard", Kind: "teach"}}})
	require.NoError(t, err)
	b := h.person(t, 1280, 800)
	b.goTo("/")
	assert.True(t, b.hears("textbox", "Name").focused, "one can begin to write")
	b.write(testkit.SignIns[state.Head])
	b.press(kb.Tab)
	b.write(testkit.Password)
	b.press(kb.Enter)
	b.hears("heading", "Today")
	b.hears("navigation", "Areas")
	b.hears("navigation", "This week")
	b.named("today")

	b.press("4") // the mat
	b.hears("link", "Tue 24 Nov, 18:00")
	b.named("mat")
	b.tabTo("Tue 24 Nov, 18:00")
	b.press(kb.Enter)
	b.until("the class has its own address", `location.pathname.endsWith(%s)`, tonight)
	b.hears("heading", "Fundamentals, early week")
	assert.Contains(t, b.hears("tab", "Here").name, "Here 0")
	b.named("class")

	b.press("/") // the field for a name
	b.until("it has the focus", `document.activeElement?.getAttribute("aria-label") === %s`, "Name of who came")
	assert.True(t, b.hears("searchbox", "Name of who came").focused)
	b.press(kb.Backspace) // the driver writes the key besides, a keyboard does not
	b.write("Zofia")
	b.seesNot("Senna Okoro") // the list has what is written
	b.hears("button", "Check in Zofia Crane")
	b.press(kb.Enter)
	b.hears("StaticText", "Zofia Crane is here.") // in the line that is read aloud
	b.hears("status", "")
	b.hears("tab", "Here 1")

	b.tabTo("Here 1")
	for _, next := range []string{"Pairs", "Stations", "After class"} {
		b.press(kb.ArrowRight)
		b.until("the next tab is chosen", `(document.activeElement.getAttribute("role") === "tab" && document.activeElement.getAttribute("aria-selected") === "true" && document.activeElement.innerText.startsWith(%s))`, next)
	}
	b.hears("radiogroup", "What was reached of")
	b.named("after the class")
	b.tabTo("Save record")
	b.press(kb.Enter)
	b.hears("StaticText", "Saved the record of the class.")
	b.hears("tab", "After class")
}
