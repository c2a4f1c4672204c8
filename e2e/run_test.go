package e2e

import (
	"context"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/api"
	"vereda/app"
	"vereda/app/classes"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/core/season"
	"vereda/internal/testkit"
)

// hall is a server that can be taken away and brought back at the same address.
type hall struct {
	house
	t      *testing.T
	server *api.Server
	at     string
	web    *http.Server
}

func openHall(t *testing.T) *hall {
	t.Helper()
	s := testkit.New(t)
	a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(t))
	a.Seasons.Patience, a.Seasons.Stopwatch = 0.3, testkit.StepsAlone
	testkit.LoadDemo(t, a, calendar.DayOf(now))
	testkit.LoadAccounts(t, a)
	h := &hall{t: t, server: api.New(a, s, api.Options{}), at: "127.0.0.1:0"}
	h.up()
	h.house = house{"http://" + h.at, a, s}
	t.Cleanup(func() {
		h.down()
		a.Seasons.Wait()
		h.server.Stop()
	})
	return h
}

func (h *hall) up() {
	h.t.Helper()
	var l net.Listener
	require.Eventually(h.t, func() bool {
		var err error
		l, err = net.Listen("tcp", h.at)
		return err == nil
	}, 5*time.Second, 50*time.Millisecond)
	h.at = l.Addr().String()
	h.web = &http.Server{Handler: h.server.Handler()}
	go h.web.Serve(l)
}

func (h *hall) down() { _ = h.web.Close() }

// A whole class on a phone whose network goes away: everything is there exactly once when it is back.
func TestAClassWithoutNetwork(t *testing.T) {
	h := openHall(t)
	ctx := t.Context()
	head := testkit.Users[state.Head]
	_, err := h.app.Classes.Choose(ctx, head, tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-half-guard", Kind: "teach"}}})
	require.NoError(t, err)

	b := h.person(t, 390, 844)
	b.signIn(state.Head)
	b.goTo("/run")
	b.sees("The next seven days")
	b.until("the week is on the device", `(document.documentElement.dataset.kept ?? "").includes("fund-early")`)
	b.goTo("/run/" + tonight)
	b.sees("Start", "Next:")
	b.show("run-now")

	t.Log("The network goes away, and the page is opened anew.")
	h.down()
	b.goTo("/run/" + tonight)
	b.sees("Start", "Next:")
	b.click("Start")
	b.sees("No network: this clock runs by itself")
	b.until("the clock runs", `document.querySelector("[role=timer]").dataset.running === "true"`)
	b.click("People ")
	for _, name := range []string{"Oren Vask", "Pilar Dunmore", "Tam Ellery"} {
		b.fill("Name of who came", name)
		b.click("Check in " + name)
	}
	b.sees("People 3", "3 wait to be sent")
	b.click("Tam Ellery is not here")
	b.sees("People 2", "4 wait to be sent")
	b.click("Tally")
	taps := b.clicks
	b.clickOn(`main ul li:first-child button`)
	b.clickOn(`main ul li:first-child button`)
	b.clickOn(`main ul li:nth-child(2) button`)
	t.Logf("a fault is counted by %d touch each", (b.clicks-taps)/3)
	b.choose("Of whom", "Oren Vask")
	b.fill("A correction in words", "Grip at the heel")
	b.click("Note it")
	b.sees("8 wait to be sent")
	b.click("After")
	b.click("Part")
	b.fill("Note for the next coach", "Reached key point 3.")
	b.click("Save record")
	b.sees("9 wait to be sent", "Recorded.")

	t.Log("The phone is put away and taken out again: nothing is lost.")
	b.goTo("/run/" + tonight)
	b.sees("9 wait to be sent")

	t.Log("The network is back.")
	h.up()
	b.until("everything is sent", `!document.querySelector("[data-waiting]")`)
	page, err := h.app.Classes.Session(ctx, head, tonight)
	require.NoError(t, err)
	var here []string
	for _, a := range page.Here {
		here = append(here, a.Name)
	}
	assert.ElementsMatch(t, []string{"Oren Vask", "Pilar Dunmore"}, here)
	seen := 0
	for _, f := range page.Tally {
		seen += f.Seen
	}
	assert.Equal(t, 3, seen, "three taps")
	require.Len(t, page.Told, 1)
	assert.Equal(t, "Grip at the heel", page.Told[0].Summary)
	require.NotNil(t, page.Recorded)
	assert.Equal(t, "Reached key point 3.", page.Recorded.Note)
	assert.Equal(t, "part", page.Recorded.Items[0].Reached)
	b.until("the others hear of the clock", `true`)
	require.Eventually(t, func() bool {
		clock, err := h.app.Classes.Clock(ctx, head, tonight)
		return err == nil && clock.Running
	}, 10*time.Second, 200*time.Millisecond, "the clock that ran alone runs for everybody")
	held, anew, _, err := h.app.State.Reprojected(ctx, head.Academy)
	require.NoError(t, err)
	assert.Empty(t, held.Differences(anew))

	t.Log("Signing out empties the device.")
	b.goTo("/account")
	b.click("Sign out")
	b.sees("Sign in")
	b.until("nothing is kept", `(() => { caches.open("mat").then((c) => c.keys()).then((k) => { window.left = k.length; }); return window.left === 0; })()`)
}

// A page that came past the worker, as one does that is asked for while the worker is just starting, is taken by it:
// its class is on the device all the same.
func TestAPageThatCamePastTheWorkerIsKept(t *testing.T) {
	h := openHall(t)
	b := h.person(t, 390, 844)
	b.signIn(state.Head)
	b.goTo("/run/" + tonight)
	kept := `(document.documentElement.dataset.kept ?? "").includes("fund-early")`
	b.until("the class is on the device", kept)
	eval[bool](b, `(window.before = true)`)
	b.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, page.Reload, page.ReloadParams{IgnoreCache: new(true)})
		return err
	}))
	b.until("the page is another one", `!window.before`)
	b.until("the class is on the device", kept)
	h.down()
	b.goTo("/run/" + tonight)
	b.sees("Start", "Next:")
}

// The wall follows the phone: both show the same second.
func TestThePhoneDrivesTheWall(t *testing.T) {
	h := open(t)
	_, err := h.app.Classes.Choose(t.Context(), testkit.Users[state.Head], tonight, classes.SessionChoice{Items: []season.Item{{Unit: "u-half-guard", Kind: "teach"}}})
	require.NoError(t, err)
	wall, phone := h.person(t, 1280, 800), h.person(t, 390, 844)
	wall.signIn(state.Head)
	wall.goTo("/clock/" + tonight)
	wall.sees("Start", "Try the sound")
	phone.signIn(state.Head)
	phone.goTo("/run/" + tonight)
	phone.sees("Start")
	phone.click("Start")
	wall.until("it runs on the wall", `document.querySelector("[role=timer]").dataset.running === "true"`)
	phone.click("Next")
	wall.until("the wall goes on too", `!document.body.innerText.includes("Arrive and warm up") || document.querySelector("main p.head").innerText.indexOf("Arrive") < 0`)
	phone.click("Stop")
	wall.until("it stops on the wall", `document.querySelector("[role=timer]").dataset.running === "false"`)
	a, b := wall.texts("[role=timer]")[0], phone.texts("[role=timer]")[0]
	assert.Equal(t, strings.TrimSpace(a), strings.TrimSpace(b), "the same second")
	small := eval[float64](phone, `Math.min(...[...document.querySelectorAll("main button, nav button, header button")].map((e) => e.getBoundingClientRect().height))`)
	assert.GreaterOrEqual(t, small, 48.0, "targets for a thumb")
}
