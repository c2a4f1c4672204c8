package api

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"net/http/httptest"
	"os"
	"slices"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/classes"
	"vereda/app/seasons"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/exchange"
	"vereda/internal/testkit"
)

// plainBook is what happened, written down as it was said: who was in which class, what each class came to, and each check. It knows nothing of
// events, corrections or projections.
type plainBook struct {
	came    map[string]map[string]string // student, session: part
	reports map[string]academy.ClassReport
	checks  []plainCheck
	goes    map[string]string // whose record somebody's is part of
}

type plainCheck struct {
	id, student, technique string
	side                   library.Side
	met, gone              bool
	rung                   curriculum.Rung
}

func (b *plainBook) of(student string) string {
	if to, ok := b.goes[student]; ok {
		return to
	}
	return student
}

func (b *plainBook) come(student, session, part string) {
	if b.came[student] == nil {
		b.came[student] = map[string]string{}
	}
	b.came[student][session] = part
}

// begin takes in what is on record before the year.
func (b *plainBook) begin(t *testing.T, events []academy.Event) {
	at := map[string]int{}
	for _, e := range events {
		switch e.Kind {
		case academy.AttendanceEvent:
			x, err := e.Attendance()
			require.NoError(t, err)
			if x.Present {
				b.come(e.Student, e.Class, x.Part)
			} else {
				delete(b.came[e.Student], e.Class)
			}
		case academy.ClassReportEvent:
			r, err := e.ClassReport()
			require.NoError(t, err)
			b.reports[e.Class] = r
		case academy.CheckEvent:
			x, err := e.Check()
			require.NoError(t, err)
			c := plainCheck{id: e.ID, student: e.Student, technique: x.Technique, side: x.Side, gone: x.Withdrawn()}
			c.met, c.rung = x.Stands()
			if i, ok := at[e.Replaces]; ok && e.Replaces != "" {
				b.checks[i], at[e.ID] = c, i
			} else {
				at[e.ID] = len(b.checks)
				b.checks = append(b.checks, c)
			}
		}
	}
}

// rungs is where somebody stands with each technique on each side, and how often they met it in half classes, counted anew from everything.
func (b *plainBook) rungs(student string, lib map[string]library.Technique, drilledAfter float64) (map[[2]string]curriculum.Rung, map[[2]string]int) {
	halves, rungs := map[[2]string]int{}, map[[2]string]curriculum.Rung{}
	for session, part := range b.came[student] {
		r, held := b.reports[session]
		if !held {
			continue
		}
		for _, it := range r.Items {
			n := map[string]int{"teach all": 2, "teach part": 1, "review all": 1, "review part": 1}[it.Kind+" "+it.Reached]
			if part != "" {
				n /= 2
			}
			taught := lib[it.Technique].Taught
			sides := []library.Side{""}
			switch {
			case taught == "":
			case it.OneSide && it.Side != "":
				sides = []library.Side{it.Side}
			case it.OneSide:
				sides = []library.Side{taught}
			default:
				sides = []library.Side{"left", "right"}
			}
			for _, s := range sides {
				if n > 0 {
					halves[[2]string{it.Technique, string(s)}] += n
				}
			}
		}
	}
	for k, n := range halves {
		rungs[k] = curriculum.Met
		if float64(n)/2 >= drilledAfter {
			rungs[k] = curriculum.Drilled
		}
	}
	for _, c := range b.checks {
		k := [2]string{c.technique, string(c.side)}
		if c.student == student && !c.gone && c.met && c.rung.Step() > rungs[k].Step() {
			rungs[k] = c.rung
		}
	}
	return rungs, halves
}

// year is an academy that is lived in, through its API alone.
type year struct {
	house
	head, desk client
	at         *time.Time
	r          *rand.Rand
	book       *plainBook
	lib        map[string]library.Technique
	drilled    float64
	sent       int
}

func (y *year) do(c client, method, path string, in, out any) {
	y.t.Helper()
	body := ""
	if in != nil {
		text, err := json.Marshal(in)
		require.NoError(y.t, err)
		body = string(text)
	}
	status, text := c.send(method, "/api"+path, body)
	y.sent++
	require.Less(y.t, status, 300, "%s %s %s: %.300s", method, path, body, text)
	if out != nil {
		require.NoError(y.t, json.Unmarshal([]byte(text), out))
	}
}

func (y *year) today() calendar.Day { return calendar.DayOf(*y.at) }

func (y *year) undo(change string) {
	y.do(y.head, "POST", "/changes/"+change+"/undo", nil, nil)
}

// An academy is lived in day by day: people come, come late, are noted by mistake; classes are reported, some late, some twice; checks are kept, taken
// back, overruled; classes move, records are merged, seasons are published and repaired, and some of it is undone. At the end of each month
// everybody's page says what a plain book says that was kept beside. With VEREDA_YEAR that many weeks (make year), else two.
func TestAYearIsWhatWasWrittenDown(t *testing.T) {
	weeks, month := 2, 1
	if n, err := strconv.Atoi(os.Getenv("VEREDA_YEAR")); err == nil {
		weeks, month = n, 4
	}
	at := now
	s := testkit.New(t)
	a := app.New(s, func() time.Time { return at }, time.UTC, testkit.Files(t))
	a.Seasons.Patience, a.Seasons.Stopwatch = testkit.Seconds(0.05), testkit.StepsAlone
	testkit.LoadDemo(t, a, calendar.DayOf(now))
	testkit.LoadAccounts(t, a)
	server := New(a, s, Options{})
	web := httptest.NewServer(server.Handler())
	t.Cleanup(func() { web.Close(); a.Seasons.Wait(); server.Stop() })
	h := house{t, web.URL, a, s}
	y := &year{house: h, head: h.as("ines"), desk: h.as("desk"), at: &at, r: rand.New(rand.NewPCG(48, uint64(weeks))), lib: map[string]library.Technique{},
		book: &plainBook{came: map[string]map[string]string{}, reports: map[string]academy.ClassReport{}, goes: map[string]string{}}}
	var b exchange.Bundle
	y.do(y.head, "GET", "/academy/bundle", nil, &b)
	for _, x := range b.Techniques {
		y.lib[x.ID] = x
	}
	y.drilled = b.Settings.WithDefaults().Standing.DrilledAfter
	y.book.begin(t, b.Events)
	y.compare("before the first day")
	for week := range weeks {
		if week%12 == 0 {
			y.season(week)
		}
		for range 7 {
			y.day()
			at = at.AddDate(0, 0, 1)
			if y.head.needsSignIn() {
				y.head, y.desk = h.as("ines"), h.as("desk")
			}
		}
		y.weekend(week)
		if (week+1)%month == 0 {
			y.compare(fmt.Sprintf("after week %d", week+1))
		}
	}
	t.Logf("%d weeks, %d requests, %d checks, %d classes reported", weeks, y.sent, len(y.book.checks), len(y.book.reports))
}

// needsSignIn says whether a session has ended: nobody's lasts for ever.
func (c client) needsSignIn() bool {
	status, _ := c.send("GET", "/api/session", "")
	return status == 401
}

func (y *year) season(n int) {
	var done Done
	y.do(y.head, "POST", "/seasons", seasons.NewSeason{Name: fmt.Sprintf("Season %d", n), Start: y.today(), Weeks: 12, Closures: []academy.Closure{}}, &done)
	y.do(y.head, "POST", "/seasons/"+done.ID+"/plan", nil, nil)
	var page seasons.PublishPage
	y.do(y.head, "GET", "/seasons/"+done.ID+"/publishing", nil, &page)
	y.do(y.head, "POST", fmt.Sprintf("/seasons/%s/publishing?version=%d", done.ID, page.Version), nil, nil)
}

func (y *year) day() {
	var week []classes.Day
	y.do(y.head, "GET", "/week?of="+y.today().String(), nil, &week)
	for _, d := range week {
		if d.On != y.today() {
			continue
		}
		for _, c := range d.Classes {
			if c.State != "closed" {
				y.class(c.Session)
			}
		}
	}
}

func (y *year) class(session string) {
	var page classes.SessionPage
	y.do(y.head, "GET", "/classes/"+session, nil, &page)
	if len(page.Items) == 0 && len(page.Units) > 0 && y.r.IntN(3) > 0 { // the season has nothing for it: somebody chooses
		unit := page.Units[y.r.IntN(len(page.Units))].Unit
		y.do(y.head, "PUT", "/classes/"+session+"/choice", map[string]any{"items": []map[string]string{{"unit": unit, "kind": []string{"teach", "review"}[y.r.IntN(2)]}}}, nil)
		y.do(y.head, "GET", "/classes/"+session, nil, &page)
	}
	var here []string
	for _, p := range page.Others {
		if p.Guest == "" && len(here) < 14 && y.r.Float64() < max(0.1, p.Chance) {
			part := []string{"", "", "", "", academy.CameLate, academy.LeftEarly}[y.r.IntN(6)]
			path := "/classes/" + session + "/attendance/" + p.ID
			y.do(y.desk, "PUT", path+"?part="+part, nil, nil)
			y.book.come(p.ID, session, part)
			switch y.r.IntN(15) {
			case 0: // a mistake
				y.do(y.desk, "DELETE", path, nil, nil)
				delete(y.book.came[p.ID], session)
				continue
			case 1: // for the whole class after all
				y.do(y.desk, "PUT", path+"?part=", nil, nil)
				y.book.come(p.ID, session, "")
			}
			here = append(here, p.ID)
		}
	}
	if len(page.Techniques) == 0 || y.r.IntN(12) == 0 {
		return // nobody reports it
	}
	for range 1 + y.r.IntN(8)/7 { // some report twice: the later word counts
		var r classes.SessionReport
		for _, x := range page.Techniques {
			it := ledger.Item{Technique: x.ID, Kind: x.Kind, Reached: []string{"all", "all", "part", "not"}[y.r.IntN(4)]}
			if x.Sided && y.r.IntN(4) == 0 {
				it.OneSide, it.Side = true, []library.Side{"", "left", "right"}[y.r.IntN(3)]
			}
			r.Items = append(r.Items, it)
		}
		y.do(y.head, "POST", "/classes/"+session+"/record", map[string]any{"items": r.Items, "faults": []any{}}, nil)
		y.book.reports[session] = academy.ClassReport{Items: r.Items}
	}
	for range min(len(here), y.r.IntN(3)) {
		y.check(session, here[y.r.IntN(len(here))], page.Techniques[y.r.IntN(len(page.Techniques))].ID)
	}
}

func (y *year) check(session, student, technique string) {
	x := y.lib[technique]
	side := x.Taught
	if side != "" && y.r.IntN(2) == 0 {
		side = side.Other()
	}
	k := students.KeepCheck{ID: fmt.Sprintf("year-%d", len(y.book.checks)), Student: student, Technique: technique, Side: side, Class: session,
		Observation: ledger.Observation{Points: map[string]ledger.Seen{}, Resistance: y.r.IntN(4)}}
	for _, p := range x.KeyPoints {
		k.Observation.Points[p.ID] = []ledger.Seen{ledger.Shown, ledger.Shown, ledger.Shown, ledger.Shown, ledger.Prompted, ledger.Missing}[y.r.IntN(6)]
	}
	text, err := json.Marshal(k)
	require.NoError(y.t, err)
	status, said := y.head.send("POST", "/api/checks", string(text))
	if status == 422 { // a hold or a gate keeps them from it
		return
	}
	require.Equal(y.t, 200, status, said)
	var kept students.Kept
	require.NoError(y.t, json.Unmarshal([]byte(said), &kept))
	c := plainCheck{id: kept.ID, student: student, technique: technique, side: side, met: kept.Verdict.Met, rung: kept.Verdict.Rung}
	switch y.r.IntN(12) {
	case 0:
		y.do(y.head, "POST", "/checks/"+kept.ID+"/withdraw", map[string]string{"reason": "somebody else's"}, nil)
		c.gone = true
	case 1:
		met := !c.met
		y.do(y.head, "POST", "/checks/"+kept.ID+"/overrule", map[string]any{"met": met, "reason": "seen by two"}, &kept)
		if c.met = met; met && c.rung == "" {
			c.rung = curriculum.Passed
		}
	}
	y.book.checks = append(y.book.checks, c)
}

// weekend is what is done at the desk, some of it taken back.
func (y *year) weekend(week int) {
	var done Done
	who := slices.Sorted(maps.Keys(y.book.came))[y.r.IntN(len(y.book.came))]
	y.do(y.head, "POST", "/people/"+who+"/notes", map[string]string{"text": "seen at the weekend", "readers": "coaches"}, &done)
	if y.r.IntN(2) == 0 {
		y.undo(done.Change)
	}
	switch week % 4 {
	case 0: // two records of one person
		id := fmt.Sprintf("twin-%d", week)
		var made Done
		y.do(y.head, "POST", "/people", map[string]any{"name": "Twin " + strconv.Itoa(week), "student": true, "ladder": "adult", "rank": "white"}, &made)
		id = made.ID
		sessions := slices.Sorted(maps.Keys(y.book.came[who]))
		if n := len(sessions); n > 0 {
			_, on, err := academy.SplitOccurrence(sessions[n-1])
			require.NoError(y.t, err)
			if on == y.today()-1 || on == y.today() {
				status, _ := y.head.send("PUT", "/api/classes/"+sessions[n-1]+"/attendance/"+id+"?part=", "")
				if status == 200 {
					y.book.come(who, sessions[n-1], "")
				}
			}
		}
		var merged Done
		y.do(y.head, "POST", "/people/"+who+"/merges", map[string]string{"drop": id}, &merged)
		y.book.goes[id] = who
	case 1: // a class moves to another day from next week on
		var table seasons.TimetablePage
		y.do(y.head, "GET", "/timetable", nil, &table)
		c := table.Classes[y.r.IntN(len(table.Classes))]
		c.Weekday = c.Weekday%7 + 1
		y.do(y.head, "PUT", fmt.Sprintf("/timetable/classes?version=%d&since=%s", c.Version, y.today()+1), c.Class, &done)
		if y.r.IntN(2) == 0 {
			y.undo(done.Change)
		}
	case 2:
		y.do(y.head, "POST", "/people/archive", map[string]any{"ids": []string{who}, "archived": true}, &done)
		y.undo(done.Change)
	case 3:
		status, said := y.head.send("POST", "/api/promotions", fmt.Sprintf(`{"decisions":[{"student":%q,"outcome":"stripe"}]}`, who))
		require.Contains(y.t, []int{200, 422}, status, said)
	}
}

// compare holds everybody's page against the book, and the log against itself.
func (y *year) compare(when string) {
	for _, student := range slices.Sorted(maps.Keys(y.book.came)) {
		if y.book.goes[student] != "" {
			continue
		}
		var page students.StudentPage
		y.do(y.head, "GET", "/students/"+student, nil, &page)
		assert.Equal(y.t, len(y.book.came[student]), page.Classes, "%s: classes of %s", when, student)
		rungs, halves := y.book.rungs(student, y.lib, y.drilled)
		for _, line := range page.Standing {
			for _, m := range line.Marks {
				want := cmp.Or(rungs[[2]string{line.ID, string(m.On)}], curriculum.NotMet)
				assert.Equal(y.t, want.Step(), m.Rung.Step(), "%s: %s, %s %s: %q and %q; %d half classes", when, student, line.ID, m.On, want, m.Rung, halves[[2]string{line.ID, string(m.On)}])
			}
		}
		stand, met := 0, 0
		for _, c := range y.book.checks {
			if c.student == student && !c.gone {
				stand++
				if c.met {
					met++
				}
			}
		}
		shown := 0
		for _, c := range page.Checks {
			if c.Met {
				shown++
			}
		}
		assert.GreaterOrEqual(y.t, len(page.Checks), stand, "%s: checks of %s", when, student)
		assert.Equal(y.t, met, shown, "%s: checks that were met, of %s", when, student)
	}
	var rebuilt struct {
		Different []string `json:"different"`
	}
	y.do(y.head, "GET", "/academy/rebuild", nil, &rebuilt)
	assert.Empty(y.t, rebuilt.Different, when)
	if y.t.Failed() {
		y.t.FailNow()
	}
}
