package e2e

import (
	"context"
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"vereda/app/state"
)

// violation is what axe finds against a page.
type violation struct {
	ID    string   `json:"id"`
	Help  string   `json:"help"`
	Where []string `json:"where"`
}

// accessible runs axe-core's rules of WCAG 2.2 A and AA on the page as it stands.
func (b *browser) accessible(page string) {
	b.t.Helper()
	if !eval[bool](b, `typeof axe !== "undefined"`) {
		script, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
		require.NoError(b.t, err)
		ctx, cancel := context.WithTimeout(b.ctx, 20*time.Second)
		defer cancel()
		_, err = chromedp.Run(ctx, chromedp.Evaluate[bool](string(script)+";true")) // past the page's own policy, as a debugger is
		require.NoError(b.t, err)
	}
	eval[bool](b, `(axe.run(document, {runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"], resultTypes: ["violations"]}).then((r) => { window.axeFound = r.violations.map((v) => ({id: v.id, help: v.help, where: v.nodes.slice(0, 3).map((n) => n.target.join(" ") + " " + n.html.slice(0, 120))})); }), true)`)
	b.until("axe is done", `!!window.axeFound`)
	for _, v := range eval[[]violation](b, `window.axeFound`) {
		b.t.Errorf("%s: %s: %s\n%s", page, v.ID, v.Help, fmt.Sprint(v.Where))
	}
	eval[bool](b, `(delete window.axeFound, true)`)
}

// rests waits until nothing on the page moves or fades any more: what is half way is neither to be read nor to be measured.
func (b *browser) rests() {
	b.t.Helper()
	b.until("nothing moves", `document.getAnimations().every((a) => a.playState !== "running" || a.effect?.getTiming().iterations === Infinity)`)
}

// No page has anything that the automatic rules of WCAG 2.2 AA find.
func TestPagesAreAccessible(t *testing.T) {
	h := openLife(t)
	b := h.person(t, 1280, 800)
	b.goTo("/")
	b.sees("Sign in")
	b.accessible("sign in")
	b.signIn(state.Head)
	b.sees("The week from here")
	for _, path := range []string{"/library", "/library/fork-tables/half-bottom", "/today", "/library/knee-cut", "/library/positions", "/library/variants", "/library/map", "/library/files", "/curricula/blue-1", "/curricula/grey-1?view=ladder",
		"/season/season-3", "/season/season-3?view=story", "/season/season-3?view=taught", "/season/season-3?view=misses", "/season/season-3?view=timetable", "/season/season-3?view=units", "/season/season-3?view=chances", "/season/season-3?view=publish", "/season/season-3?view=dates", "/season/season-3?view=load",
		"/mat", "/mat/fund-tue.2026-11-24", "/ledger", "/ledger/hanne-voss", "/ledger?view=techniques", "/ledger?view=ready", "/ledger?view=fading", "/ledger?view=gaps", "/ledger?view=agreement", "/ledger/sticking-points", "/people", "/people/hanne-voss", "/people/promotions", "/academy", "/academy/accounts", "/account"} {
		b.goTo(path)
		b.until("the page is there", `!!document.querySelector("main, #main") && document.body.innerText.length > 400`)
		b.rests()
		b.accessible(path)
	}

	// Dark ground, as it is chosen on the account's page, reads as well.
	b.goTo("/account")
	b.click("Dark")
	b.until("the ground is dark", `document.documentElement.dataset.ground === "dark"`)
	for _, path := range []string{"/account", "/today", "/library/knee-cut", "/season/season-3", "/ledger", "/mat/fund-tue.2026-11-24", "/curricula/blue-1"} {
		b.goTo(path)
		b.until("the page is there", `document.body.innerText.length > 400`)
		b.rests()
		b.accessible("dark " + path)
	}
}
