package e2e

import (
	"encoding/json"
	"io"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/notify"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/demo"
	"vereda/exchange"
	"vereda/internal/testkit"
	"vereda/standin/mail"
)

// bare is the demo academy before it has a timetable: tracks, units and people,
// but no class, nobody available, nothing recorded.
func (h house) bare(t *testing.T) {
	t.Helper()
	text, err := demo.Bundle()
	require.NoError(t, err)
	var all map[string]json.RawMessage
	require.NoError(t, json.Unmarshal(text, &all))
	all["academy"] = json.RawMessage(`{"id":"harbour","name":"Harbour Row Mats"}`)
	all["classes"], all["events"], all["seasons"] = json.RawMessage(`[]`), json.RawMessage(`[]`), json.RawMessage(`[]`)
	var people []academy.Person
	require.NoError(t, json.Unmarshal(all["people"], &people))
	for i := range people {
		if people[i].Coach != nil {
			people[i].Coach.Available = []string{}
		}
	}
	all["people"], err = json.Marshal(people)
	require.NoError(t, err)
	text, err = json.Marshal(all)
	require.NoError(t, err)
	b, err := exchange.Read(text)
	require.NoError(t, err)
	_, err = h.app.Academies.Import(t.Context(), b)
	require.NoError(t, err)
	require.NoError(t, h.app.Accounts.AddAccount(t.Context(), "harbour", "harbour", testkit.Password, state.Head, "ines-falk"))
}

// drop puts a file into the file field of the page.
func (b *browser) drop(name, text string) {
	b.t.Helper()
	b.until("find the file field", `!!document.querySelector("input[type=file]")`)
	eval[bool](b, `(() => { const f = new DataTransfer(); f.items.add(new File([%s], %s)); const e = document.querySelector("input[type=file]"); e.files = f.files; e.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`, text, name)
}

// From an empty timetable to a published season, with the interface alone.
func TestFromAnEmptyTimetableToAPublishedSeason(t *testing.T) {
	h := open(t)
	h.bare(t)
	folder := t.TempDir()
	post, err := mail.Start(folder)
	require.NoError(t, err)
	defer post.Close()
	sender := notify.Start(h.app.State.Store, notify.Post{Addr: post.Addr(), From: "hall@harbour-row.example"}, time.Now)
	defer sender.Stop()
	h.app.Seasons.Outbox = sender
	b := h.person(t, 1280, 800)
	b.goTo("/")
	b.fill("Name", "harbour")
	b.fill("Password", testkit.Password)
	b.click("Sign in")
	b.sees("Sign out")

	t.Log("The timetable: one list with a wrong row, mended; one class by hand.")
	b.goTo("/season?view=timetable")
	b.sees("Weekly classes", "Bring in a timetable")
	b.drop("week.csv", "name;track;weekday;start;minutes;teach minutes;mat\nFundamentals, early;Fundamentals;tuesday;18:00;75;40;Mat one\nNo-gi, early;No-gi;8;19:30;60;35;Mat two\n")
	b.sees("8 is outside 1 (Monday) to 7", "1 rows are wrong")
	b.drop("week.csv", "name;track;weekday;start;minutes;teach minutes;mat\nFundamentals, early;Fundamentals;tuesday;18:00;75;40;Mat one\nNo-gi, early;No-gi;monday;19:30;60;35;Mat two\n")
	b.sees("Bring in 2 classes")
	b.click("Bring in 2 classes")
	b.sees("Brought the timetable in")
	b.click("Add a class")
	b.fill("Class name", "Fundamentals, late")
	b.fill("Minutes in all", "75")
	b.fill("Minutes to teach", "90")
	b.click("Save class")
	b.sees("90 is outside 0 to the 75 minutes of the class")
	b.fill("Minutes to teach", "40")
	b.choose("Weekday", "Thu")
	b.click("Save class")
	b.sees("Added the class Fundamentals, late")

	t.Log("The coaches: who is there for what.")
	for _, coach := range []string{"Ines Falk", "Tomas Reyl"} {
		b.click(coach)
		for _, n := range []string{"1", "2", "3"} { // every class of the week
			b.clickOn(`form[aria-label="` + coach + `"] fieldset:first-of-type label:nth-of-type(` + n + `) input`)
		}
		b.fill("At most a week", "3")
		b.click("Save terms")
		b.sees("Changed the terms of " + coach)
	}

	t.Log("The season: laid, planned with progress, published.")
	b.goTo("/season")
	b.click("New season")
	b.fill("Name", "First season")
	b.click("Create the season")
	b.sees("First season", "Not planned yet")
	b.click("Plan")
	b.sees("Planned First season", "Expected coverage")
	b.click("Publish")
	b.sees("Not published yet", "These coaches will be told", "ines@lantern-street.example")
	b.click("Publish the season")
	b.sees("Published. 2 coaches were told", "Published, number 1", "Nothing has changed since")
	b.sees("Your classes: Harbour Row Mats, First season")
	var letters []mail.Letter
	require.Eventually(t, func() bool {
		letters, err = mail.Letters(folder, 10)
		return err == nil && len(letters) == 2
	}, 10*time.Second, 50*time.Millisecond)
	assert.Contains(t, letters[0].Text, "is yours: ")

	t.Log("A private calendar: made, read without signing in, revoked.")
	b.click("Make one for Ines Falk")
	b.sees("/calendar/")
	path := b.attribute(`[data-feeds] a[href^="/calendar/"]`, "href")
	status, text := read(t, h.url+path)
	require.Equal(t, 200, status)
	assert.Contains(t, text, "BEGIN:VEVENT")
	assert.Contains(t, text, "Led by Ines Falk")
	assert.NotContains(t, text, "Led by Tomas Reyl")
	assert.Regexp(t, regexp.MustCompile(`(?m)^SUMMARY:(Fundamentals|No-gi)`), text)
	b.click("Revoke the address for Ines Falk")
	b.sees("Revoked the address for Ines Falk")
	status, _ = read(t, h.url+path)
	assert.Equal(t, 404, status)
}

func read(t *testing.T, url string) (int, string) {
	t.Helper()
	r, err := http.Get(url)
	require.NoError(t, err)
	defer r.Body.Close()
	text, err := io.ReadAll(r.Body)
	require.NoError(t, err)
	return r.StatusCode, string(text)
}

// planned is the head instructor in front of a planned season.
func planned(t *testing.T) (*browser, string) {
	t.Helper()
	h := open(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/season")
	b.click("New season")
	b.fill("Name", "Winter season")
	b.click("Create the season")
	b.sees("Not planned yet")
	b.click("Plan")
	b.sees("Planned Winter season", "Expected coverage")
	return b, b.texts("[data-coverage]")[0]
}

// covers waits until the coverage shown is this one again.
func (b *browser) covers(coverage string) {
	b.t.Helper()
	b.until("coverage "+coverage, `document.querySelector("[data-coverage]")?.textContent.trim() === %s`, coverage)
}

// A coach falls ill: what follows is shown before it is taken, taken as one
// action, and undone by another.
func TestACoachFallsIll(t *testing.T) {
	b, coverage := planned(t)
	b.goTo(eval[string](b, `location.pathname`) + "?view=load")
	b.sees("Most a week", "Ines Falk")
	b.click("If away")
	b.sees("Weeks away")
	b.click("Close")
	eval[bool](b, `(() => { [...document.querySelectorAll("[data-load] tr")].find((r) => r.innerText.includes("Ines Falk")).querySelector("button").click(); return true; })()`)
	b.sees("If Ines Falk is away")
	b.fill("From week", "2")
	b.click("Show what happens")
	b.sees("if nothing else changes", "repaired")
	rows := b.texts("[data-repair] tbody tr")
	require.NotEmpty(t, rows, "Ines leads in weeks 2 and 3")
	away := regexp.MustCompile(`^\w+ (30 Nov|[1-9] Dec|1[0-3] Dec) `)
	inThoseWeeks := 0
	for _, r := range rows {
		if away.MatchString(r) {
			inThoseWeeks++
			assert.False(t, strings.HasSuffix(r, "· IF"), "she leads nothing while she is away: %s", r)
		}
	}
	assert.Positive(t, inThoseWeeks)
	b.click("Repair plan")
	b.sees("Removed Ines Falk from weeks 2 to 3 and repaired the plan")
	b.sees("away")
	b.click("Undo")
	b.sees("Undone")
	b.until("nobody is away", `![...document.querySelectorAll("[data-load] td")].some((e) => e.innerText === "away")`)
	b.covers(coverage)
}

// A hand move that breaks a prerequisite is explained before it is made, marked
// after, and undone. It is made by keys alone.
func TestAHandMoveThatBreaksAPrerequisite(t *testing.T) {
	b, coverage := planned(t)
	// A class that reviews something taught in week 1 or later: its teach is moved behind it.
	from := eval[string](b, `(() => {
		const cells = [...document.querySelectorAll("[data-cell]")];
		const first = {};
		for (const c of cells) {
			const label = c.querySelector(".sr-only").textContent;
			if (!label.includes("Fundamentals, early")) continue;
			for (const m of label.matchAll(/teach ([^,]+)/g)) first[m[1]] ??= c;
		}
		for (const c of cells) {
			const label = c.querySelector(".sr-only").textContent;
			if (!label.includes("Fundamentals, early")) continue;
			for (const m of label.matchAll(/review ([^,]+)/g)) {
				const f = first[m[1]];
				const teaches = f ? [...f.querySelector(".sr-only").textContent.matchAll(/teach ([^,]+)/g)].length : 0;
				if (f && teaches === 1 && f.querySelector(".sr-only").textContent.split(": ")[1].startsWith("teach " + m[1]) && Number(f.dataset.cell.split("/")[0]) < Number(c.dataset.cell.split("/")[0])) return f.dataset.cell;
			}
		}
		return "";
	})()`)
	require.NotEmpty(t, from, "some unit is taught and reviewed later")
	b.until("focus", `(() => { const e = document.querySelector('[data-cell="' + %s + '"]'); e.focus(); return document.activeElement === e; })()`, from)
	b.press("m")
	b.sees("Picked up", "Pick the class it goes to")
	for range 6 - int(from[0]-'0') {
		b.press(kb.ArrowRight)
	}
	b.press(kb.Enter)
	b.sees("It breaks:", "cannot be reviewed: it is not taught in this track before", "Make this move all the same")
	b.click("Make this move all the same")
	b.sees("Moved", "pinned")
	b.press(kb.Escape)
	b.sees("Broken rules", "cannot be reviewed")
	b.click("Publish")
	b.sees("It cannot be published")
	b.click("The plan")
	b.click("Undo")
	b.sees("Undone")
	b.seesNot("Broken rules")
	b.covers(coverage)
}

// Who misses what, what would help, four ways, chances by hand: each shows
// before it changes, and what changed is undone.
func TestTheSeasonIsPlayedWith(t *testing.T) {
	b, coverage := planned(t)
	b.click("Who misses what")
	b.sees("Chance covered by the season")
	b.clickOn("[data-misses] tbody tr:last-child td button")
	b.sees("What would help most:")
	b.click("Apply this change")
	b.sees("Changed the plan for")
	b.click("Undo")
	b.sees("Undone")
	b.covers(coverage)

	b.click("Block or spiral")
	b.click("Compare the four strategies")
	b.sees("block, same", "spiral, split", "Under half covered", "Compare again")
	require.Len(t, b.texts("[data-ways] tbody tr"), 4)
	b.click("Use this plan")
	b.sees("Planned Winter season as block, same")
	b.click("Undo")
	b.sees("Undone")

	b.click("Who comes")
	b.fill("Oren Vask, Fundamentals, early week: set by hand", "95")
	b.press(kb.Enter)
	b.sees("Set the chance of Oren Vask")
	b.click("Undo")
	b.sees("Undone")

	b.click("The plan")
	b.choose("Look for", "a minute")
	b.click("Plan again")
	b.sees("best so far", "Stop with the best so far")
	time.Sleep(600 * time.Millisecond)
	b.click("Stop with the best so far")
	b.sees("Planned Winter season.")
}
