package e2e

import (
	"fmt"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/api"
	"vereda/app"
	"vereda/demo"
	"vereda/internal/testkit"
)

// empty is a running server with nothing in it, and the address of its first page.
func empty(t *testing.T) (house, string) {
	t.Helper()
	s := testkit.New(t)
	a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(t))
	a.Seasons.Patience, a.Seasons.Stopwatch = 0.3, testkit.StepsAlone
	a.Academies.Starter = demo.Starter
	server := api.New(a, s, api.Options{})
	web := httptest.NewServer(server.Handler())
	a.Accounts.URL = web.URL
	t.Cleanup(func() {
		web.Close()
		a.Seasons.Wait()
		server.Stop()
	})
	token, err := a.Accounts.BeginSetup(t.Context())
	require.NoError(t, err)
	return house{web.URL, a, s}, "/link#" + token
}

// give hands a file to the field of that name.
func (b *browser) give(label, name, text string) {
	b.t.Helper()
	file := filepath.Join(b.t.TempDir(), name)
	require.NoError(b.t, os.WriteFile(file, []byte(text), 0o644))
	b.until("find: "+label, `(() => { const l = [...document.querySelectorAll("label")].find((e) => e.innerText.trim().toLowerCase().startsWith(%s.toLowerCase())); const i = l && l.querySelector("input[type=file]"); if (!i) return false; document.querySelectorAll("[data-upload]").forEach((e) => e.removeAttribute("data-upload")); i.setAttribute("data-upload", "1"); return true; })()`, label)
	b.clicks++
	b.upload("[data-upload]", file)
}

func (b *browser) firstPage(address string) {
	b.t.Helper()
	b.goTo(address)
	b.sees("Your academy begins here")
	b.fill("Academy", "Harbour Row Mats")
	b.choose("Time zone", "Europe/Lisbon")
	b.fill("Head instructor", "Mara Quince")
	b.fill("Sign in as", "mara")
	b.fill("Password", "short")
	b.click("Begin")
	b.sees("5 characters are too few")
	b.fill("Password", "passwordpassword")
	b.click("Begin")
	b.sees("guessed first")
	b.fill("Password", "nine grey herons asleep")
	b.click("Begin")
	b.sees("From nothing to the first class", "0 of 8 done")
}

// From an empty database to a printed class sheet, with the files a person has: what it takes is counted.
func TestAnAcademyBeginsFromFiles(t *testing.T) {
	h, address := empty(t)
	b := h.person(t, 1280, 800)
	b.firstPage(address)
	b.show("begin")

	t.Log("The first page opens once.")
	other := h.person(t, 1280, 800)
	other.goTo(address)
	other.sees("used before, or is too old")

	t.Log("The library and the ladders that ship.")
	b.click("Use the whole starter library")
	b.sees("The library is here")
	b.click("Use all 2")
	b.sees("2 ladders")

	t.Log("The timetable: a track, and a list of classes.")
	b.click(": Timetable")
	b.click("Add a track")
	b.fill("Track name", "Fundamentals")
	b.click("Save track")
	b.sees("Added the track Fundamentals")
	b.give("Bring in a timetable", "week.csv", "class,track,day,time,length,teach\nFundamentals early,Fundamentals,Tue,18:00,75,40\nFundamentals late,Fundamentals,Thu,18:00,75,40\n")
	b.click("Bring in 2 classes")
	b.sees("2 weekly classes")

	t.Log("The first curriculum, and units of it.")
	b.click(": First curriculum and units")
	b.click("Start Blue")
	b.sees("as a draft")
	b.click("Publish the curriculum for Blue")
	b.sees("1 curriculum, 1 published")
	b.click("Make units")
	b.sees("Made units")
	b.seesNot("no units")

	t.Log("The people, with a wrong row that is left out, and two coaches among them.")
	b.click(": People")
	var roster strings.Builder
	roster.WriteString("Name;Born;Belt;Joined;Weight;Role\n")
	for i := range 20 {
		fmt.Fprintf(&roster, "Student %s Weir;%d-03-%02d;White;2026-0%d-01;%d;\n", string(rune('A'+i)), 1985+i%15, 1+i, 1+i%9, 58+2*i)
	}
	roster.WriteString("Jonna Tarn;1988-05-05;Brown;2020-01-01;70;coach\nIvo Sandel;1990-06-06;Purple;2021-01-01;81;coach\nNobody Atall;1990-06-06;Turquoise;;;\n")
	b.give("Roster", "roster.csv", roster.String())
	b.sees("22 to add", "1 wrong", "is on no ladder here")
	b.choose("What becomes of Nobody Atall", "leave out")
	b.sees("22 to add, 0 to change, 0 the same, 1 left out")
	b.click("Import people")
	b.sees("20 students")

	t.Log("Who came to what.")
	b.click(": Coaches")
	b.sees("Jonna Tarn", "Fundamentals early")
	b.click(": Past attendance")
	var visits strings.Builder
	visits.WriteString("student,date\n")
	for i := range 20 {
		for w := range 6 {
			if (i+w)%3 != 0 {
				fmt.Fprintf(&visits, "Student %s Weir,%s\n", string(rune('A'+i)), now.AddDate(0, 0, -7*(w+1)).Format("2.1.2006"))
			}
		}
	}
	b.give("Attendance", "visits.csv", visits.String())
	b.sees("80 new, 0 here already, 0 wrong")
	b.click("Import attendance")
	b.sees("80 visits")

	t.Log("A plan.")
	b.click(": Plan the first season")
	b.click("Plan the first season")
	b.sees("Planned.")
	b.until("the season's page", `location.pathname.startsWith("/season/")`)

	b.sees("coverage")

	t.Log("And tonight's sheet.")
	b.goTo("/begin")
	b.sees("8 of 8 done")
	b.click("Open the next class sheet")
	b.sees("Fundamentals early", "Teach: ", "Likely tonight")
	clicks, keys := b.clicks, b.keys
	t.Logf("By files, from nothing to a printed class sheet: %d presses, choices and files, %d keystrokes", clicks, keys)
	assert.Less(t, clicks, 60)

	t.Log("Brought in again, nothing is doubled.")
	b.goTo("/people/roster")
	b.give("Roster", "roster.csv", strings.Replace(roster.String(), "Nobody Atall;1990-06-06;Turquoise;;;\n", "", 1))
	b.sees("0 to add, 0 to change, 22 the same")
}

// The same by hand, for twenty people: each is written with name and rank.
func TestAnAcademyBeginsByHand(t *testing.T) {
	h, address := empty(t)
	b := h.person(t, 1280, 800)
	b.firstPage(address)
	b.click("Use the whole starter library")
	b.sees("The library is here")
	b.click("Use all 2")
	b.sees("2 ladders")
	b.click(": Timetable")
	b.click("Add a track")
	b.fill("Track name", "Fundamentals")
	b.click("Save track")
	b.sees("Added the track Fundamentals")
	for _, day := range []string{"Tue", "Thu"} {
		b.click("Add a class")
		b.fill("Class name", "Fundamentals "+day)
		b.choose("Weekday", day)
		b.fill("Minutes in all", "75")
		b.fill("Minutes to teach", "40")
		b.click("Save class")
		b.sees("Added the class Fundamentals " + day)
	}
	b.click(": First curriculum and units")
	b.click("Start Blue")
	b.sees("as a draft")
	b.click("Publish the curriculum for Blue")
	b.sees("1 curriculum, 1 published")
	b.click("Make units")
	b.sees("Made units")
	b.goTo("/people/new")
	for i := range 20 {
		b.until("the form", `document.querySelector("form[aria-label='Add a person']")`)
		b.fill("Name", "Student "+string(rune('A'+i))+" Weir")
		b.fill("Born", "03041990")
		b.choose("Ladder", "Adult ladder")
		b.click("Save person")
		b.sees("Added Student " + string(rune('A'+i)) + " Weir")
		b.until("the form is put away", `!document.querySelector("form[aria-label='Add a person']")`) // the next one is another
		b.click("Add a person")
	}
	b.goTo("/begin")
	b.click(": Coaches")
	b.choose("Add a coach", "Mara Quince")
	b.click("Make them a coach")
	b.click("Fundamentals Tue")
	b.click("Fundamentals Thu")
	b.click("Save terms")
	b.sees("1 coach, 1 with classes they can lead")
	b.click(": Plan the first season")
	b.click("Plan the first season")
	b.sees("Planned.")
	b.goTo("/begin")
	b.sees("7 of 8 done")
	b.click("Open the next class sheet")
	b.sees("Fundamentals T", "Teach: ")
	t.Logf("By hand, with twenty people: %d presses and choices, %d keystrokes", b.clicks, b.keys)
	assert.Less(t, b.clicks, 200)
}
