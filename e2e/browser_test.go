package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"vereda/api"
	"vereda/app"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/internal/testkit"
	"vereda/store"
)

// now is the time of every journey: a Tuesday evening before class.
var now = time.Date(2026, 11, 24, 17, 45, 0, 0, time.UTC)

// house is a running server with the demo academy.
type house struct {
	url   string
	app   *app.App
	store *store.Store
}

func open(t *testing.T) house {
	t.Helper()
	return openWith(t, func(h house) { testkit.LoadDemo(t, h.app, calendar.DayOf(now)) })
}

// openWith is a running server with an academy that is loaded into it, and an account for each role.
func openWith(t *testing.T, load func(house)) house {
	t.Helper()
	s := testkit.New(t)
	a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(t))
	a.Seasons.Patience, a.Seasons.Stopwatch = 0.3, testkit.StepsAlone
	load(house{app: a, store: s})
	testkit.LoadAccounts(t, a)
	server := api.New(a, s, api.Options{})
	web := httptest.NewServer(server.Handler())
	t.Cleanup(func() {
		web.Close()
		a.Seasons.Wait()
		server.Stop()
	})
	return house{web.URL, a, s}
}

// browser is one person at one screen.
type browser struct {
	t   *testing.T
	ctx context.Context
	url string

	clicks, keys int // what it took a person
}

// chromium is the one browser of all tests: each person is a profile of their own in it, that begins empty.
var chromium = sync.OnceValues(func() (context.Context, error) {
	path, err := exec.LookPath("chromium")
	if err != nil {
		return nil, fmt.Errorf("chromium is not installed: make test installs it (%w)", err)
	}
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(path), chromedp.NoSandbox, chromedp.Flag("disable-gpu", true),
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-quic", true),
		chromedp.Flag("autoplay-policy", "no-user-gesture-required"))
	allocated, stop := chromedp.NewExecAllocator(context.Background(), opts...)
	ctx, cancel := chromedp.NewContext(allocated)
	endChromium = func() { cancel(); stop() }
	return ctx, chromedp.Do(ctx) // the first call starts the browser, which lives as long as its context
})

var endChromium = func() {}

func TestMain(m *testing.M) {
	code := m.Run()
	endChromium()
	os.Exit(code)
}

// person sits down at a screen of a given size, as somebody who never was here.
func (h house) person(t *testing.T, width, height int64) *browser {
	t.Helper()
	shared, err := chromium()
	require.NoError(t, err)
	ctx, cancel := chromedp.NewContext(shared, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	require.NoError(t, chromedp.Do(ctx, chromedp.EmulateViewport(width, height)))
	return &browser{t: t, ctx: ctx, url: h.url}
}

func (b *browser) do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 20*time.Second)
	defer cancel()
	require.NoError(b.t, chromedp.Do(ctx, steps...))
}

func eval[T any](b *browser, script string, args ...any) T {
	b.t.Helper()
	quoted := make([]any, len(args))
	for i, a := range args {
		text, err := json.Marshal(a)
		require.NoError(b.t, err)
		quoted[i] = string(text)
	}
	ctx, cancel := context.WithTimeout(b.ctx, 20*time.Second)
	defer cancel()
	for tries := 0; ; tries++ {
		out, err := chromedp.Run(ctx, chromedp.Evaluate[T](fmt.Sprintf(script, quoted...)))
		if err != nil && tries < 3 && strings.Contains(err.Error(), "navigated or closed") { // the page went on meanwhile: asked again of the next one
			time.Sleep(100 * time.Millisecond)
			continue
		}
		require.NoError(b.t, err)
		return out
	}
}

// find looks for a visible thing a person would name so: a button,
// link, tab, option, field or box whose accessible name, label or words are or
// begin with the given ones. Exact names win, also while they cannot be pressed
// yet: a person waits for them, and presses nothing that is only called alike.
const find = `(() => {
  const want = %s.trim().toLowerCase();
  const text = (s) => (s || "").replace(/\s+/g, " ").trim().toLowerCase();
  const name = (e) => {
    const label = e.getAttribute("aria-label");
    if (label) return text(label);
    if (e.labels && e.labels.length) return text(e.labels[0].innerText);
    return text(e.innerText || e.value);
  };
  const seen = (e) => { const r = e.getBoundingClientRect(); return r.width > 0 && r.height > 0 && getComputedStyle(e).visibility !== "hidden"; };
  const all = [...document.querySelectorAll("button,a[href],input,select,textarea,summary,[role=button],[role=tab],[role=option],[role=radio]")].filter(seen);
  const ready = all.filter((e) => !e.disabled);
  const exact = all.filter((e) => name(e) === want);
  if (exact.length) return exact.find((e) => !e.disabled) || null;
  return ready.find((e) => name(e).startsWith(want)) || ready.find((e) => name(e).includes(want)) || null;
})()`

// until waits for a script to say true.
func (b *browser) until(what, script string, args ...any) {
	b.t.Helper()
	for end := time.Now().Add(15 * time.Second); time.Now().Before(end); time.Sleep(40 * time.Millisecond) {
		if eval[bool](b, "!!("+script+")", args...) {
			return
		}
	}
	b.never(what)
}

// never ends the test with what the page shows instead.
func (b *browser) never(what string) {
	b.t.Helper()
	b.picture(filepath.Join(os.TempDir(), "vereda-failed.png"))
	require.Failf(b.t, "did not happen in 15 seconds", "%s\nThe page says:\n%s", what, b.words())
}

// words are what the page says.
func (b *browser) words() string { return eval[string](b, `document.body.innerText`) }

// sees waits until the page says something.
func (b *browser) sees(words ...string) {
	b.t.Helper()
	for _, w := range words {
		b.until("see: "+w, `document.body?.innerText.replace(/\s+/g," ").toLowerCase().includes(%s.toLowerCase())`, w)
	}
}

// seesNot waits until the page does not say something.
func (b *browser) seesNot(words string) {
	b.t.Helper()
	b.until("not see: "+words, `document.body && !document.body.innerText.replace(/\s+/g," ").toLowerCase().includes(%s.toLowerCase())`, words)
}

// click presses what is called so with the mouse.
func (b *browser) click(name string) {
	b.t.Helper()
	b.clickAt("find: "+name, find, name)
}

// clickOn presses what a selector names, for things without words of their own.
func (b *browser) clickOn(selector string) {
	b.t.Helper()
	b.clickAt("find: "+selector, `document.querySelector(%s)`, selector)
}

// clickAt presses the middle of what a script finds. What is still being laid
// out moves, and may be taken away and put up again: it is pressed where it
// was found twice in the same place.
func (b *browser) clickAt(what, script, arg string) {
	b.t.Helper()
	middle := `(() => { const e = ` + script + `; if (!e) return []; e.scrollIntoView({block: "center"}); const r = e.getBoundingClientRect(); return [r.x + r.width/2, r.y + r.height/2]; })()`
	var was []float64
	moved := 0
	for end := time.Now().Add(15 * time.Second); time.Now().Before(end); time.Sleep(25 * time.Millisecond) {
		at := eval[[]float64](b, middle, arg)
		if len(at) == 2 && (slices.Equal(was, at) || moved > 20) {
			b.clicks++
			b.do(chromedp.MouseClickXY(at[0], at[1]))
			return
		}
		was = at
		if len(at) == 2 {
			moved++
		}
	}
	b.never(what)
}

// fill replaces what stands in the field of that name.
func (b *browser) fill(field, words string) {
	b.t.Helper()
	b.until("find: "+field, `(() => { const e = `+find+`; if (!e) return false; e.scrollIntoView({block: "center"}); e.focus(); if (e.select) e.select(); return true; })()`, field)
	b.write(words)
}

// choose takes an option of a list.
func (b *browser) choose(field, option string) {
	b.t.Helper()
	b.until("find: "+field, `(() => { const e = `+find+`; if (!e) return false; e.focus(); return true; })()`, field)
	b.write(option)
}

// write types as a person does, into whatever has the focus.
func (b *browser) write(words string) {
	b.t.Helper()
	b.keys += len([]rune(words))
	b.do(chromedp.KeyEvent(words))
}

// press sends single keys.
func (b *browser) press(keys ...string) {
	b.t.Helper()
	for _, k := range keys {
		b.keys++
		b.do(chromedp.KeyEvent(k))
	}
}

// tabTo presses Tab until the focus is on what is called so, as somebody
// without a mouse does.
func (b *browser) tabTo(name string) {
	b.t.Helper()
	b.until("find: "+name, `!!`+find, name)
	for range 220 {
		if eval[bool](b, `document.activeElement === `+find, name) {
			return
		}
		b.press(kb.Tab)
	}
	require.Failf(b.t, "Tab does not reach it", "%s", name)
}

func (b *browser) goTo(path string) { b.t.Helper(); b.do(chromedp.Navigate(b.url + path)) }

// signIn signs in with the mouse.
func (b *browser) signIn(role state.Role) {
	b.t.Helper()
	b.goTo("/")
	b.fill("Name", testkit.SignIns[role])
	b.fill("Password", testkit.Password)
	b.click("Sign in")
	b.sees("Sign out")
}

func (b *browser) picture(file string) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 20*time.Second)
	defer cancel()
	png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
	require.NoError(b.t, err)
	require.NoError(b.t, os.WriteFile(file, png, 0o644))
}

// show keeps a picture for the documents when VEREDA_PICTURES names a folder.
func (b *browser) show(name string) {
	b.t.Helper()
	folder := os.Getenv("VEREDA_PICTURES")
	if folder == "" {
		return
	}
	eval[bool](b, `(() => { const s = document.querySelector("[aria-label='Dismiss']"); if (s) s.click(); document.activeElement && document.activeElement.blur(); window.scrollTo(0, 0); document.querySelectorAll("section").forEach((e) => { e.scrollTop = 0; }); return true; })()`)
	time.Sleep(300 * time.Millisecond)
	b.picture(filepath.Join(folder, name+".png"))
}

// attribute reads an attribute of the first thing a selector names.
func (b *browser) attribute(selector, name string) string {
	b.t.Helper()
	return eval[string](b, `document.querySelector(%s)?.getAttribute(%s) ?? ""`, selector, name)
}

// texts reads the words of everything a selector names.
func (b *browser) texts(selector string) []string {
	b.t.Helper()
	all := eval[[]string](b, `[...document.querySelectorAll(%s)].map((e) => e.innerText)`, selector)
	for i := range all {
		all[i] = strings.Join(strings.Fields(all[i]), " ")
	}
	return all
}
