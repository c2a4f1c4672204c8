package e2e

import (
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/classes"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/internal/testkit"
)

// published is a season that began yesterday, planned and given to the coaches.
func (h house) published(t *testing.T) string {
	t.Helper()
	head := testkit.Users[state.Head]
	id, err := h.app.Seasons.LaySeason(t.Context(), head, seasons.NewSeason{Name: "Winter season", Start: calendar.DayOf(now) - 1, Weeks: 6})
	require.NoError(t, err)
	_, err = h.app.Seasons.PlanSeason(t.Context(), head, id, 0.3)
	require.NoError(t, err)
	_, err = h.app.Seasons.PublishSeason(t.Context(), head, id, 0)
	require.NoError(t, err)
	return id
}

// Checks at the mat's edge: who is worth checking is chosen already, three touches keep one, also without network.
func TestChecksAtTheMatsEdge(t *testing.T) {
	h := openHall(t)
	h.published(t)
	head := testkit.Users[state.Head]
	for _, id := range []string{"oren-vask", "pilar-dunmore", "tam-ellery", "nuno-harrow", "gil-abernath", "matti-soren"} {
		require.NoError(t, h.app.Classes.CheckIn(t.Context(), head, tonight, id, "", ""))
	}
	b := h.person(t, 390, 844)
	b.signIn(state.Head)
	b.goTo("/run/" + tonight)
	b.until("the class is on the device", `!!document.documentElement.dataset.kept`)
	b.click("People 6")
	b.fill("Name of who came", "Kaja Brandt")
	b.click("Somebody else: add a guest")
	b.click("A visit")
	b.fill("Weight in kg, for a partner of their size", "68")
	b.click("Add guest")
	b.sees("People 7", "Kaja Brandt · guest")
	b.choose("How much of the class Oren Vask was in", "c")
	b.until("all is sent", `!document.querySelector("[data-waiting]")`)
	here, err := h.app.Classes.Session(t.Context(), head, tonight)
	require.NoError(t, err)
	require.Len(t, here.Here, 7)
	for _, a := range here.Here {
		assert.Equal(t, a.Name == "Oren Vask", a.Part == "late", a.Name)
		assert.Equal(t, a.Name == "Kaja Brandt", a.Guest == "visitor", a.Name)
	}

	b.click("Checks")
	b.sees("Worth most now", "No other choice is worth more")
	b.show("check-phone")
	touches := b.clicks
	b.clickOn("[data-suggested]")
	b.click("Save check")
	b.until("it is judged", `/passed|not yet/.test(document.querySelector("[data-kept]")?.innerText)`)
	assert.Equal(t, 2, b.clicks-touches, "a check in which all was seen is two touches")
	b.click("Next: ")
	touches = b.clicks
	b.clickOn(`[aria-label^="missing: key point 1"]`)
	b.click("Save check")
	b.until("it is judged", `/not yet|passed/.test(document.querySelector("[data-kept]")?.innerText)`)
	assert.Equal(t, 2, b.clicks-touches, "one with something missing is one more")

	t.Log("Without network.")
	h.down()
	b.click("Next: ")
	b.click("Save check")
	b.sees("kept on this device")
	b.click("After")
	b.click("Somebody was hurt, or nearly")
	b.choose("To whom", "Tam")
	b.fill("What happened, as you saw it", "Turned an ankle in the second round.")
	b.click("Save incident")
	b.sees("3 wait to be sent", "Noted what happened to Tam Ellery")
	h.up()
	b.until("all is sent", `!document.querySelector("[data-waiting]")`)
	checks := 0
	for c := range h.snapshot(t).AllChecks {
		if c.On == calendar.DayOf(now) {
			checks++
		}
	}
	assert.GreaterOrEqual(t, checks, 3)
	who, err := h.app.People.Person(t.Context(), head, "tam-ellery")
	require.NoError(t, err)
	assert.Equal(t, "all partner drills", who.Line.Held.String())
	require.NotEmpty(t, who.Notes)
	assert.Equal(t, "Turned an ankle in the second round.", who.Notes[len(who.Notes)-1].Text)
	b.click("People 7")
	b.sees("Not paired: held")
}

func (h house) snapshot(t *testing.T) *state.Snapshot {
	t.Helper()
	held, _, _, err := h.app.State.Reprojected(t.Context(), "lantern-street")
	require.NoError(t, err)
	return held
}

// What a class did not come to is offered as a repair where the coach stands, and stands beside the plan afterwards.
func TestNotReachedIsRepairedFromTheClass(t *testing.T) {
	h := open(t)
	season := h.published(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/mat/" + tonight)
	b.click("After class")
	unit := eval[string](b, `document.body.innerText.match(/teach ([^\n,]+)/)?.[1] ?? ""`)
	require.NotEmpty(t, unit)
	for range eval[int](b, `[...document.querySelectorAll("button")].filter((e) => e.innerText.trim() === "Not reached").length`) {
		eval[bool](b, `([...document.querySelectorAll("button")].find((e) => e.innerText.trim() === "Not reached" && e.getAttribute("aria-checked") !== "true" && e.getAttribute("data-state") !== "on")?.click(), true)`)
	}
	b.click("Save record")
	b.sees("was not reached.")
	b.click("Show the repair")
	b.sees("if nothing else changes", "repaired")
	b.click("Repair plan")
	b.sees("and repaired the plan")
	b.until("it is offered no more", `!document.querySelector("section[aria-label='Not reached']")`)
	b.goTo("/season/" + season + "?view=taught")
	b.sees("planned units reached", "not reached", "Week 1")
}

// A fault that was counted becomes a segment of one of the next classes.
func TestAStickingPointBecomesASegment(t *testing.T) {
	h := open(t)
	season := h.published(t)
	head := testkit.Users[state.Head]
	class, err := h.app.Classes.Session(t.Context(), head, tonight)
	require.NoError(t, err)
	require.NotEmpty(t, class.Techniques)
	technique := class.Techniques[0]
	require.NotEmpty(t, technique.Faults)
	r := classes.SessionReport{}
	for _, x := range class.Techniques {
		r.Items = append(r.Items, ledger.Item{Technique: x.ID, Kind: x.Kind, Reached: "all"})
	}
	r.Faults = append(r.Faults, academy.FaultCount{Technique: technique.ID, Fault: technique.Faults[0].ID, Seen: 9, Tries: 10})
	require.NoError(t, h.app.Classes.Report(t.Context(), head, tonight, r))

	// What each class to come teaches: where it is put is where there is something more.
	taught := func() map[string][]string {
		page, err := h.app.Seasons.Season(t.Context(), head, season)
		require.NoError(t, err)
		all := map[string][]string{}
		for _, row := range page.Rows {
			for _, cell := range row.Cells {
				if class := row.Class + "." + cell.On.String(); cell.On > calendar.DayOf(now) {
					for _, it := range cell.Items {
						all[class] = append(all[class], it.Name)
					}
				}
			}
		}
		return all
	}
	before := taught()

	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	b.goTo("/ledger/sticking-points")
	b.sees("Ordered by the share that is sure", technique.Faults[0].What)
	b.click(technique.Faults[0].What)
	b.sees("Into one of the next classes")
	b.click("Try it in the plan")
	b.sees("Coverage of", "of the season")
	b.click("Put it in")
	b.sees("is in one of the next classes.")

	next := ""
	for class, items := range taught() {
		for _, unit := range items {
			if !slices.Contains(before[class], unit) {
				next = class
			}
		}
	}
	require.NotEmpty(t, next, "a class to come has the unit")
	_, err = h.app.Seasons.PublishSeason(t.Context(), head, season, 0)
	require.NoError(t, err)
	b.goTo("/mat/" + next)
	b.sees(technique.Name)
}

// A coach who did not plan the class gets its brief with the notice, prints it on one page, and runs the class from it.
func TestACoachRunsItFromThePrintedBrief(t *testing.T) {
	h := open(t)
	h.published(t)
	letters, err := h.store.Letters(t.Context(), "lantern-street", 50)
	require.NoError(t, err)
	require.NotEmpty(t, letters)
	brief, address := "", ""
	for _, want := range letters {
		l, err := h.store.ClaimLetter(t.Context(), want.ID, now.AddDate(0, 0, 1), now.AddDate(0, 0, 2))
		require.NoError(t, err)
		if l.To == h.snapshot(t).Person["tomas-reyl"].Email {
			brief, address = string(l.Attachment), l.To
			assert.Equal(t, "briefs.html", l.AttachedAs)
			assert.Contains(t, l.Body, "come with this letter")
		}
	}
	require.NotEmpty(t, brief, "a letter to %q has the briefs; there are %d letters", address, len(letters))
	assert.NotRegexp(t, `(src|href)=`, brief, "it fetches nothing")
	file := filepath.Join(t.TempDir(), "briefs.html")
	require.NoError(t, os.WriteFile(file, []byte(brief), 0o600))
	paper := h.person(t, 800, 1000)
	paper.do(chromedp.Navigate("file://" + file))
	paper.sees("Gates", "Watch", "Cautions", "The movement it stands on")
	sheets := eval[int](paper, `document.querySelectorAll("article").length`)
	require.Positive(t, sheets)
	pdf, err := chromedp.Run(paper.ctx, chromedp.PrintToPDF(func(p *page.PrintToPDFParams) { yes := true; p.PreferCSSPageSize = &yes }))
	require.NoError(t, err)
	assert.Len(t, regexp.MustCompile(`/Type /Page\b[^s]`).FindAll(pdf, -1), sheets, "a page each")
	head := eval[string](paper, `document.querySelector("article p").innerText`)
	minutes := eval[[]string](paper, `[...document.querySelectorAll("article:first-of-type td.minutes")].map((e) => e.innerText)`)
	names := eval[[]string](paper, `[...document.querySelectorAll("article:first-of-type td.minutes + td")].map((e) => e.innerText)`)
	require.NotEmpty(t, names)

	t.Log("The phone shows what the paper says, segment by segment.")
	session := ""
	coach := testkit.Users[state.Coach]
	for on := calendar.DayOf(now); on < calendar.DayOf(now)+14 && session == ""; on++ {
		week, err := h.app.Classes.Week(t.Context(), coach, &on, false)
		require.NoError(t, err)
		for _, d := range week {
			for _, c := range d.Classes {
				if d.On == on && c.Mine && strings.Contains(head, c.Start) && strings.Contains(head, on.Words()) {
					session = c.Session
				}
			}
		}
	}
	require.NotEmpty(t, session, head)
	phone := h.person(t, 390, 844)
	phone.signIn(state.Coach)
	phone.goTo("/run/" + session)
	phone.sees(names[0], "Next: "+names[1])
	class, err := h.app.Classes.Session(t.Context(), coach, session)
	require.NoError(t, err)
	for i, s := range class.Segments {
		assert.Equal(t, s.Name.String(), names[i])
	}
	total := 0
	for _, m := range minutes {
		n, err := strconv.Atoi(m)
		require.NoError(t, err)
		total += n
	}
	assert.Contains(t, head, strconv.Itoa(total)+" minutes", "the paper's segments fill the class")
}

// A check of the wrong side is corrected from the student's page; one that never was is taken back.
func TestACheckIsCorrectedAndTakenBack(t *testing.T) {
	h := open(t)
	head := testkit.Users[state.Head]
	page, err := h.app.Library.Technique(t.Context(), head, "knee-cut", "")
	require.NoError(t, err)
	o := ledger.Observation{Points: map[string]ledger.Seen{}, Resistance: 2}
	for _, k := range page.Written.KeyPoints {
		o.Points[k.ID] = ledger.Shown
	}
	_, err = h.app.Students.KeepCheck(t.Context(), head, students.KeepCheck{ID: "phone-1", Student: "agathe-linden", Technique: "knee-cut", Side: library.Left, Observation: o})
	require.NoError(t, err)
	checks := func() (all []state.Checked) {
		for c := range h.snapshot(t).AllChecks {
			if c.Student == "agathe-linden" && c.Technique == "knee-cut" {
				all = append(all, c)
			}
		}
		return all
	}
	b := h.person(t, 390, 844)
	b.signIn(state.Head)
	b.goTo("/ledger/agathe-linden")
	b.clickOn(`a[aria-label^="Correct: Knee cut pass, left"]`)
	b.sees("Correcting: Agathe Linden: Knee cut pass, left")
	b.until("what was seen is marked", `document.querySelectorAll('[data-state="on"]').length > 5`)
	b.click("Right")
	b.until("the other side is asked about, with the marks", `document.querySelector('[aria-label="Side"] [data-state="on"]')?.innerText === "Right" && document.querySelectorAll('[data-state="on"]').length > 5`)
	b.click("Save correction")
	b.until("it is judged", `!!document.querySelector('[data-verdict="met"]')`)
	require.Len(t, checks(), 1)
	assert.Equal(t, library.Right, checks()[0].Side)

	b.click("Correct this check")
	b.sees("Withdraw this check")
	b.click("Withdraw check")
	b.sees("say why, it stays on record")
	b.fill("Why it is withdrawn", "It was somebody else")
	b.click("Withdraw check")
	b.sees("Withdrew the check")
	assert.Empty(t, checks())
}
