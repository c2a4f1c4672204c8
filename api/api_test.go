package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/people"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/safety"
	"vereda/exchange"
	"vereda/internal/testkit"
	"vereda/standin/door"
	"vereda/store"
)

var now = time.Date(2026, 11, 24, 17, 45, 0, 0, time.UTC)

type house struct {
	t     *testing.T
	url   string
	app   *app.App
	store *store.Store
}

func open(t *testing.T) house {
	t.Helper()
	s := testkit.New(t)
	a := app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(t))
	a.Seasons.Patience = 0.05
	testkit.LoadDemo(t, a, calendar.DayOf(now))
	testkit.LoadAccounts(t, a)
	server := New(a, s, Options{Metrics: true})
	web := httptest.NewServer(server.Handler())
	t.Cleanup(func() {
		web.Close()
		a.Seasons.Wait()
		server.Stop()
	})
	return house{t, web.URL, a, s}
}

// client is somebody with a session.
type client struct {
	house
	http *http.Client
}

func (h house) anybody() client {
	jar, _ := cookiejar.New(nil)
	return client{h, &http.Client{Jar: jar}}
}

func (h house) as(signIn string) client {
	c := h.anybody()
	status, body := c.send("POST", "/api/session", fmt.Sprintf(`{"name":%q,"password":%q}`, signIn, testkit.Password))
	require.Equal(h.t, 200, status, body)
	return c
}

func (c client) send(method, path, body string) (int, string) {
	c.t.Helper()
	status, _, text := c.request(method, path, body, "")
	return status, text
}

// request sends a request, in a language unless that is empty.
func (c client) request(method, path, body, language string) (int, http.Header, string) {
	c.t.Helper()
	r, err := http.NewRequest(method, c.url+path, strings.NewReader(body))
	require.NoError(c.t, err)
	if body != "" {
		r.Header.Set("Content-Type", "application/json")
	}
	if language != "" {
		r.Header.Set("Accept-Language", language)
	}
	answer, err := c.http.Do(r)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	var out bytes.Buffer
	_, err = out.ReadFrom(answer.Body)
	require.NoError(c.t, err)
	return answer.StatusCode, answer.Header, out.String()
}

// call is a request that is well-formed for the demo academy.
type call struct{ method, path, body string }

const settingsForm = `{"zone":"UTC","week_start":1,"numbers":{"pass_share":0.75},"live_share":{},"spacing":[1,3,7],"resistance":["a","b","c","d","e"],"signoffs":[],"second_factor":false,"gates":[],"sheets":[]}`

// calls holds one for every operation, so that a new one cannot be forgotten.
func calls(season string) map[string]call {
	table := `{"id":"t","name":"Drawn","at":{"position":"mount","part":"attack"},"cues":[],"rows":[]}`
	point := `{"id":"under","cue":"{Left} underhook deep"}`
	return map[string]call{
		"sign-in": {"POST", "/session", `{"name":"ines","password":"` + testkit.Password + `"}`}, "sign-out": {"DELETE", "/session", ""}, "who-am-i": {"GET", "/session", ""}, "my-page": {"GET", "/me", ""},
		"week": {"GET", "/week?of=2026-11-24", ""}, "list-techniques": {"GET", "/techniques?q=esgrima", ""}, "get-technique": {"GET", "/techniques/underhook-get-up?side=left", ""},
		"save-technique": {"PUT", "/techniques/hip-switch?version=99", `{"id":"hip-switch","name":"Hip switch","kind":"movement","context":"both","summary":"x","seconds_per_rep":4,"teach_minutes":4}`}, "save-key-point": {"PUT", "/techniques/underhook-get-up/points/under?version=1", point},
		"add-technique": {"POST", "/techniques", `{"id":"","name":"Toe drag","kind":"movement","context":"both","summary":"x","seconds_per_rep":4,"teach_minutes":4}`}, "list-duplicates": {"GET", "/techniques/knee-cut/duplicates", ""}, "merge-techniques": {"POST", "/techniques/knee-cut/merges", `{"drop":"nothing","take":[]}`},
		"check-log": {"GET", "/academy/rebuild", ""}, "mend-broken": {"POST", "/academy/broken/season/nothing", ""}, "delete-broken": {"DELETE", "/academy/broken/season/nothing", ""},
		"library-words": {"GET", "/library/words", ""}, "list-positions": {"GET", "/positions", ""}, "save-position": {"PUT", "/positions?version=0", `{"id":"","name":"Ledge","family":"pins","attacker":"x","defender":"y"}`}, "list-variant-sets": {"GET", "/variant-sets", ""}, "save-variant-set": {"PUT", "/variant-sets?version=0", `{"id":"","name":"","question":"","variants":[]}`},
		"list-fork-tables": {"GET", "/fork-tables", ""}, "get-fork-table": {"GET", "/fork-tables/half-bottom", ""}, "save-fork-table": {"PUT", "/fork-tables?version=0", table}, "judge-fork-table": {"POST", "/fork-tables/verdict", table}, "draw-technique": {"POST", "/library/drawings", `{"id":"hip-switch","name":"Hip switch","kind":"movement","context":"both","summary":"x","seconds_per_rep":4,"teach_minutes":4}`}, "review-library": {"GET", "/library/review", ""}, "review-technique": {"POST", "/library/review", `{"id":"hip-switch","name":"Hip switch","kind":"movement","context":"both","summary":"x","seconds_per_rep":4,"teach_minutes":4}`},
		"quiz": {"GET", "/fork-tables/half-bottom/quiz", ""}, "answer-quiz": {"POST", "/fork-tables/half-bottom/quiz", `{"situation":[],"answer":"x","ms":10}`}, "reaction-round": {"GET", "/fork-tables/half-bottom/reaction-round?n=6&seed=2", ""},
		"get-map": {"GET", "/map?context=gi", ""}, "find-chain": {"GET", "/map/chain?from=mount/defend&to=finish", ""}, "export-map-dot": {"GET", "/map/map.dot", ""}, "export-map-graphml": {"GET", "/map/map.graphml", ""}, "export-folder": {"GET", "/library/folder.zip", ""},
		"delete-record": {"DELETE", "/records/position/nothing", ""}, "record-history": {"GET", "/records/technique/knee-cut/history", ""}, "record-state": {"GET", "/records/technique/knee-cut/history/nothing", ""}, "restore-record": {"POST", "/records/technique/knee-cut/history/nothing/restore", ""},
		"preview-import": {"POST", "/library/imports/preview", `{"files":[],"decisions":[]}`}, "take-import": {"POST", "/library/imports", `{"files":[],"decisions":[]}`}, "attach-file": {"POST", "/files", "hello"}, "get-file": {"GET", "/files/" + strings.Repeat("0", 64), ""},
		"list-curricula": {"GET", "/curricula", ""}, "get-curriculum": {"GET", "/curricula/blue-1", ""}, "set-requirement": {"PUT", "/curricula/blue-2/requirements/triangle", `{"rung":"met","both_sides":false,"weight":1}`},
		"remove-requirement": {"DELETE", "/curricula/blue-2/requirements/hip-bump", ""}, "take-audit-repair": {"POST", "/curricula/blue-2/repairs", `{"finding":"x"}`}, "publish-curriculum": {"PUT", "/curricula/blue-1/state", `{"published":true}`},
		"begin-curriculum": {"POST", "/curricula", `{"ladder":"adult","rank":"attic"}`}, "move-requirement": {"PUT", "/curricula/blue-2/requirements/hip-bump/place", `{"to":3}`}, "take-order": {"POST", "/curricula/blue-2/order", ""}, "make-units": {"POST", "/curricula/blue-2/units", `{"tracks":[]}`},
		"accept-finding": {"PUT", "/curricula/blue-2/accepted", `{"finding":"x","reason":"y"}`}, "compare-version": {"GET", "/curricula/blue-1/version", ""}, "move-students": {"POST", "/curricula/blue-1/students", `{"students":[]}`},
		"get-sheet": {"GET", "/curricula/blue-1/sheet", ""}, "export-booklet": {"GET", "/curricula/blue-1/booklet.pdf", ""}, "export-test-sheet": {"GET", "/curricula/blue-1/test-sheet.pdf", ""}, "export-list": {"GET", "/curricula/blue-1/list.csv", ""},
		"preview-list": {"POST", "/curricula/blue-2/list/preview", `{"name":"a.csv","text":"YQ=="}`}, "take-list": {"POST", "/curricula/blue-2/list", `{"name":"a.csv","text":"YQ=="}`},
		"move-on": {"POST", "/students/oren-vask/onward", ""}, "set-required-cells": {"PUT", "/academy/required-cells", `{"required_cells":[{"family":"nowhere","kind":"sweep","from":1}]}`}, "list-ladders": {"GET", "/ladders", ""}, "today": {"GET", "/today", ""}, "find": {"GET", "/find?q=knee", ""}, "list-bridges": {"GET", "/ladders/youth/bridges", ""}, "save-ladder": {"PUT", "/ladders?version=0", `{"id":"seniors","name":"","audience":"adult","ranks":[]}`}, "get-ladder": {"GET", "/ladders/adult", ""},
		"list-seasons": {"GET", "/seasons", ""}, "lay-season": {"POST", "/seasons", `{"name":"Spring","start":"2027-03-01","weeks":4,"closures":[]}`}, "get-season": {"GET", "/seasons/" + season, ""}, "plan-season": {"POST", "/seasons/" + season + "/plan", ""},
		"set-dates":    {"PUT", "/seasons/" + season + "/dates", `{"dates":[{"id":"","kind":"party","name":"x","on":"2027-01-01"}],"was":[]}`},
		"set-closures": {"PUT", "/seasons/" + season + "/closures", `{"closures":[{"week":99}]}`}, "start-planning": {"POST", "/seasons/" + season + "/planning", `{"seconds":0.01}`}, "get-planning": {"GET", "/seasons/" + season + "/planning", ""}, "stop-planning": {"DELETE", "/seasons/" + season + "/planning", ""},
		"cost-of-rules": {"POST", "/seasons/" + season + "/rules/costs", ""}, "season-story": {"GET", "/seasons/" + season + "/story", ""}, "compare-ways": {"POST", "/seasons/" + season + "/ways", ""}, "take-way": {"PUT", "/seasons/" + season + "/ways", `{"school":"block","mode":"same"}`}, "list-chances": {"GET", "/seasons/" + season + "/chances", ""}, "set-chance": {"PUT", "/seasons/" + season + "/chances", `{"student":"oren-vask","class":"attic","chance":0.5}`},
		"try-move": {"POST", "/seasons/" + season + "/moves/trial", `{"unit":"u-base","to":{"week":5,"class":"fund-early"}}`}, "make-move": {"POST", "/seasons/" + season + "/moves", `{"unit":"u-base","to":{"week":5,"class":"fund-early"}}`}, "pin-class": {"PUT", "/seasons/" + season + "/weeks/2/classes/attic/pin", `{"pinned":true}`},
		"who-misses-what": {"GET", "/seasons/" + season + "/misses", ""}, "season-coverage": {"GET", "/seasons/" + season + "/coverage", ""}, "see-year": {"GET", "/year", ""}, "season-taught": {"GET", "/seasons/" + season + "/taught", ""}, "find-help": {"GET", "/seasons/" + season + "/help?student=oren-vask", ""}, "take-help": {"POST", "/seasons/" + season + "/help?unit=attic", ""}, "preview-publishing": {"GET", "/seasons/" + season + "/publishing", ""}, "publish-season": {"POST", "/seasons/" + season + "/publishing?version=1", ""},
		"make-feed": {"POST", "/feeds?scope=track&target=attic", ""}, "revoke-feed": {"DELETE", "/feeds?scope=all", ""}, "list-letters": {"GET", "/letters", ""}, "get-timetable": {"GET", "/timetable", ""}, "save-track": {"PUT", "/timetable/tracks", `{"id":"attic","name":"Attic","audience":"all","context":"gi","mode":"same","school":"free"}`},
		"save-class": {"PUT", "/timetable/classes", `{"id":"attic","name":"Attic","track":"attic","weekday":1,"start":"18:00","minutes":60,"teach_minutes":30,"mat":"x"}`}, "remove-class": {"DELETE", "/timetable/classes/attic", ""}, "remove-coach": {"DELETE", "/timetable/coaches/attic", ""}, "list-units": {"GET", "/units?season=attic", ""}, "save-unit": {"PUT", "/units", `{"id":"attic","name":"Attic","techniques":["x"],"tracks":["attic"],"minutes":10,"review_minutes":5,"area":"attic"}`}, "remove-unit": {"DELETE", "/units/attic", ""}, "save-coach": {"PUT", "/timetable/coaches/attic", `{"terms":{"available":[],"signoffs":[],"max_per_week":1,"share":0.1}}`},
		"preview-timetable": {"POST", "/timetable/import/preview?track=attic", `{"name":"a.csv","text":"YQ=="}`}, "take-timetable": {"POST", "/timetable/import?track=attic", `{"name":"a.csv","text":"YQ=="}`},
		"explain-placement": {"GET", "/seasons/" + season + "/weeks/2/classes/fund-early", ""}, "propose-repair": {"POST", "/seasons/" + season + "/repairs/proposals", `{"week":2,"class":"fund-early"}`}, "take-repair": {"POST", "/seasons/" + season + "/repairs", `{"week":2,"class":"fund-early"}`},
		"get-class": {"GET", "/classes/fund-early.2026-11-24", ""}, "choose-class": {"PUT", "/classes/nogi-early.2026-11-23/choice", `{"items":[{"unit":"u-base","kind":"teach"}]}`}, "check-in": {"PUT", "/classes/fund-early.2026-11-24/attendance/oren-vask", ""}, "list-test-days": {"GET", "/test-days", ""}, "get-test-day": {"GET", "/test-days/nothing", ""}, "remove-test-day": {"DELETE", "/test-days/nothing", ""},
		"plan-test-day":         {"POST", "/test-days", `{"name":"Winter tests","on":"2026-12-05","start":"10:00","minutes":180,"change_minutes":1,"rest_minutes":2,"breaks":[],"examiners":["ines-falk"],"people":["oren-vask","pilar-dunmore"],"helpers":[]}`},
		"export-student-report": {"GET", "/students/oren-vask/report.pdf", ""}, "export-student-report-html": {"GET", "/students/oren-vask/report.html", ""}, "export-rank-report": {"GET", "/curricula/blue-1/report.pdf", ""}, "export-rank-report-html": {"GET", "/curricula/blue-1/report.html", ""},
		"export-season-report": {"GET", "/seasons/" + season + "/report.pdf", ""}, "export-season-report-html": {"GET", "/seasons/" + season + "/report.html", ""},
		"ledger-positions": {"GET", "/ledger/positions", ""}, "student-position": {"GET", "/students/oren-vask/positions/movements", ""}, "student-facts": {"GET", "/students/oren-vask/facts?technique=hip-escape", ""}, "student-outlook": {"GET", "/students/oren-vask/outlook", ""},
		"ledger-outlook": {"GET", "/ledger/outlook", ""}, "ledger-fading": {"GET", "/ledger/fading", ""}, "use-fit": {"POST", "/ledger/fading/fit", ""}, "ledger-gaps": {"GET", "/ledger/gaps", ""}, "ledger-backtest": {"GET", "/ledger/backtest?weeks=8", ""}, "ledger-stopping": {"GET", "/ledger/stopping", ""}, "ledger-agreement": {"GET", "/ledger/agreement", ""},
		"add-unit-to-class": {"POST", "/classes/nogi-early.2026-11-23/units", `{"unit":"u-base","kind":"review"}`}, "add-makeup": {"POST", "/classes/nogi-early.2026-11-23/makeups", `{"unit":"u-base","people":["oren-vask"]}`}, "class-checks": {"GET", "/classes/fund-early.2026-11-24/checks?minutes=12", ""}, "add-guest": {"POST", "/classes/fund-early.2026-11-24/guests", `{"id":"guest-of-tonight","name":"Kaja Brandt","kind":"trial"}`}, "note-incident": {"POST", "/classes/nogi-early.2026-11-23/incidents", `{"id":"incident-1","student":"oren-vask","text":"Turned an ankle in the second round."}`}, "check-out": {"DELETE", "/classes/fund-early.2026-11-24/attendance/oren-vask", ""},
		"pair-class": {"POST", "/classes/nogi-early.2026-11-23/rotation", `{"run":0,"odd":"larger","mix":"any"}`}, "get-clock": {"GET", "/classes/fund-early.2026-11-24/clock", ""}, "plan-stations": {"PUT", "/classes/nogi-early.2026-11-23/stations", `{"stations":[],"coaches":[],"minutes":30,"change_minutes":1,"groups":2,"by":"size"}`}, "clear-stations": {"DELETE", "/classes/nogi-early.2026-11-23/stations", ""}, "list-doors": {"GET", "/doors", ""}, "add-door": {"POST", "/doors", `{"name":"Front door"}`}, "end-door": {"DELETE", "/doors/nothing", ""}, "tap-door": {"POST", "/door/taps", `{"person":"oren-vask"}`}, "sticking-points": {"GET", "/sticking?weeks=8", ""}, "export-brief": {"GET", "/classes/nogi-early.2026-11-23/brief.pdf", ""}, "export-brief-html": {"GET", "/classes/nogi-early.2026-11-23/brief.html", ""}, "turn-clock": {"POST", "/classes/nogi-early.2026-11-23/clock", `{"do":"stop"}`}, "edit-sheet": {"PUT", "/classes/nogi-early.2026-11-23/sheet", `{"edits":[],"order":[]}`}, "tally-class": {"POST", "/classes/nogi-early.2026-11-23/tally", `{"id":"tap-1","technique":"knee-cut","count":0,"words":"grip at the heel"}`}, "record-class": {"POST", "/classes/nogi-early.2026-11-23/record", `{"items":[],"faults":[]}`},
		"get-check": {"GET", "/checks/sheet?student=oren-vask&technique=knee-cut&side=left", ""}, "keep-check": {"POST", "/checks", `{"student":"oren-vask","technique":"knee-cut","side":"left","observation":{"points":{},"caution_broken":false,"resistance":1}}`},
		"get-made-check": {"GET", "/checks/nothing", ""}, "withdraw-check": {"POST", "/checks/nothing/withdraw", `{"reason":"because"}`},
		"correct-check":  {"POST", "/checks/nothing/correct", `{"technique":"x","side":"left","observation":{"points":{},"caution_broken":false,"resistance":1}}`},
		"overrule-check": {"POST", "/checks/nothing/overrule", `{"met":true,"reason":"because"}`}, "heat-map": {"GET", "/heat", ""}, "get-student": {"GET", "/students/oren-vask", ""}, "list-people": {"GET", "/people", ""},
		"open-link": {"POST", "/links/open", `{"token":"nothing"}`}, "use-link": {"POST", "/links/use", `{"token":"nothing","password":"nine grey herons asleep"}`}, "forgotten-password": {"POST", "/forgotten", `{"name":"nobody"}`},
		"set-up":      {"POST", "/links/setup", `{"token":"nothing","academy":"x","zone":"UTC","week_start":1,"name":"x","sign_in":"xx","password":"nine grey herons asleep"}`},
		"get-account": {"GET", "/account", ""}, "change-password": {"PUT", "/account/password", `{"now":"wrong","password":"nine grey herons asleep"}`}, "end-sessions": {"DELETE", "/account/sessions", ""}, "begin-second-factor": {"POST", "/account/second-factor", `{"password":"wrong"}`},
		"confirm-second-factor": {"PUT", "/account/second-factor", `{"code":"1"}`}, "remove-second-factor": {"POST", "/account/second-factor/removal", `{"password":"wrong"}`},
		"list-accounts": {"GET", "/accounts", ""}, "list-roles": {"GET", "/roles", ""}, "invite": {"POST", "/accounts", `{"sign_in":"x y","roles":["coach"]}`}, "invite-again": {"POST", "/accounts/nothing/invitation", ""}, "change-account": {"PUT", "/accounts/nothing", `{"sign_in":"xx","roles":["coach"],"closed":false}`},
		"sign-out-everywhere": {"DELETE", "/accounts/nothing/sessions", ""}, "reset-second-factor": {"DELETE", "/accounts/nothing/second-factor", ""}, "access-log": {"GET", "/access-log", ""},
		"get-person": {"GET", "/people/ruben-askew", ""}, "add-person": {"POST", "/people", `{"name":"","student":true}`}, "save-person": {"PUT", "/people/nothing?version=1", `{"name":"x","student":true}`}, "archive-people": {"POST", "/people/archive", `{"ids":["nothing"],"archived":true}`},
		"merge-people": {"POST", "/people/oren-vask/merges", `{"drop":"nothing"}`}, "add-note": {"POST", "/people/nothing/notes", `{"text":"x","readers":"coaches"}`}, "remove-note": {"DELETE", "/people/nothing/notes/nothing", ""},
		"try-hold": {"POST", "/people/oren-vask/holds/trial", `{"regions":["knee"]}`}, "hold-person": {"POST", "/people/nothing/holds", `{"regions":["knee"]}`}, "clear-hold": {"POST", "/people/oren-vask/clearances?hold=nothing", `{"clinician":"x"}`},
		"list-candidates": {"GET", "/promotions/candidates", ""}, "promote": {"POST", "/promotions", `{"decisions":[{"student":"nothing","outcome":"rank"}]}`}, "rank-day": {"GET", "/promotions/2026-11-24", ""},
		"preview-roster": {"POST", "/people/roster/preview", `{"file":{"name":"a.csv","text":"YQ=="}}`}, "take-roster": {"POST", "/people/roster", `{"file":{"name":"a.csv","text":"YQ=="}}`}, "preview-attendance": {"POST", "/people/attendance/preview", `{"name":"a.csv","text":"YQ=="}`}, "take-attendance": {"POST", "/people/attendance", `{"name":"a.csv","text":"YQ=="}`}, "preview-checks": {"POST", "/people/checks/preview", `{"name":"a.csv","text":"YQ=="}`}, "take-checks": {"POST", "/people/checks", `{"name":"a.csv","text":"YQ=="}`}, "export-attendance": {"GET", "/people/attendance.csv", ""}, "export-checks": {"GET", "/people/checks.csv", ""},
		"export-roster": {"GET", "/people/roster.csv", ""}, "export-certificates": {"GET", "/promotions/2026-11-24/certificates.pdf", ""}, "get-begin": {"GET", "/begin", ""}, "begin-library": {"POST", "/begin/library", `{"families":[]}`}, "begin-ladders": {"POST", "/begin/ladders", `{"ladders":["attic"]}`}, "begin-from-starter": {"POST", "/begin/curricula/nothing", ""},
		"erase-person": {"POST", "/people/oren-vask/erasure", `{"name":"nobody"}`}, "export-person": {"GET", "/people/oren-vask/data.json", ""}, "try-settings": {"POST", "/academy/settings/trial", settingsForm}, "save-settings": {"PUT", "/academy/settings?version=99", settingsForm},
		"get-academy": {"GET", "/academy", ""}, "export-academy": {"GET", "/academy/bundle", ""}, "list-changes": {"GET", "/changes", ""}, "undo-change": {"POST", "/changes/nothing/undo", ""},
	}
}

func (h house) layAndPlan() string {
	ines := h.as("ines")
	status, body := ines.send("POST", "/api/seasons", `{"name":"Winter","start":"2026-11-24","weeks":6,"closures":[{"week":3}]}`)
	require.Equal(h.t, 200, status, body)
	drafted, said := ines.send("POST", "/api/curricula", `{"ladder":"adult","rank":"blue","from":"blue-1"}`)
	require.Equal(h.t, 200, drafted, said)
	var done Done
	require.NoError(h.t, json.Unmarshal([]byte(body), &done))
	status, body = ines.send("POST", "/api/seasons/"+done.ID+"/plan", "")
	require.Equal(h.t, 200, status, body)
	return done.ID
}

// Every operation, asked by every role and by nobody: exactly those in the
// table get past the door.
func TestPermissionsOperationByOperation(t *testing.T) {
	h := open(t)
	all := calls(h.layAndPlan())
	for id := range permissions {
		require.Contains(t, all, id, "an operation without a test")
	}
	for role, signIn := range testkit.SignIns {
		c := h.as(signIn)
		for id, call := range all {
			if id == "sign-out" || len(permissions[id]) == 0 {
				continue
			}
			status, body := c.send(call.method, "/api"+call.path, call.body)
			if slices.Contains(permissions[id], role) {
				assert.NotContains(t, []int{401, 403, 500}, status, "%s as %s: %s", id, role, body)
			} else {
				assert.Equal(t, 403, status, "%s as %s: %s", id, role, body)
			}
		}
	}
	nobody := h.anybody()
	for id, call := range all {
		if len(permissions[id]) == 0 {
			continue
		}
		status, _ := nobody.send(call.method, "/api"+call.path, call.body)
		assert.Equal(t, 401, status, "%s without signing in", id)
	}
}

// Somebody of another academy asks for everything and sees nothing of this one.
func TestAnotherAcademySeesNothing(t *testing.T) {
	h := open(t)
	all := calls(h.layAndPlan())
	other, err := exchange.Read([]byte(`{"format":"vereda-bundle/2","made_on":"2026-11-24","academy":{"id":"harbour","name":"Harbour Row Mats"},"settings":{"week_start":1,"standard":{"pass_share":0,"live_share":{},"live_default":0,"live_tries":0},"spacing":{"weeks":[],"tolerance":0},"gates":[],"season_need":0},
		"positions":[],"techniques":[],"ladders":[],"curricula":[],"tracks":[],"classes":[],"units":[],"people":[],"seasons":[],"events":[]}`))
	require.NoError(t, err)
	_, err = h.app.Academies.Import(t.Context(), other)
	require.NoError(t, err)
	require.NoError(t, h.app.Accounts.AddAccount(t.Context(), "harbour", "rival", testkit.Password, state.Head, "rival"))
	before, err := h.store.Head(t.Context(), "lantern-street")
	require.NoError(t, err)
	c := h.as("rival")
	ours := regexp.MustCompile(`(?i)oren|pilar|underhook|fundamentals|lantern|blue-1|triangle`)
	for id, call := range all {
		if id == "sign-out" || len(permissions[id]) == 0 {
			continue
		}
		status, body := c.send(call.method, "/api"+call.path, call.body)
		assert.NotEqual(t, 500, status, "%s: %s", id, body)
		if status == 200 {
			assert.False(t, ours.MatchString(body), "%s shows %s", id, body)
		}
	}
	after, err := h.store.Head(t.Context(), "lantern-street")
	require.NoError(t, err)
	assert.Equal(t, before, after, "and changes nothing")
}

// What the interface reads is always there: lists are empty, never missing.
func TestAnswersHoldNoNulls(t *testing.T) {
	h := open(t)
	all := calls(h.layAndPlan())
	for role, signIn := range testkit.SignIns {
		c := h.as(signIn)
		for id, call := range all {
			if call.method == "GET" && slices.Contains(permissions[id], role) {
				status, body := c.send("GET", "/api"+call.path, "")
				if id == "get-file" || id == "get-test-day" || id == "record-state" || id == "get-made-check" || id == "export-certificates" || (id == "export-person" || id == "student-position" || id == "student-facts" || id == "student-outlook" || strings.HasPrefix(id, "export-student-report")) && role == state.Guardian { // not their child
					assert.Equal(t, 404, status, "%s: %s", id, body)
					continue
				}
				assert.Equal(t, 200, status, "%s: %s", id, body)
				if at := strings.Index(body, ":null"); at >= 0 && id != "export-academy" {
					assert.Fail(t, "null", "%s: …%s", id, body[max(0, at-60):at+10])
				}
			}
		}
	}
}

func TestBadInputIsNamedWithItsMend(t *testing.T) {
	h := open(t)
	season := h.layAndPlan()
	c := h.as("ines")
	for name, x := range map[string]struct {
		call
		status int
		says   string
	}{
		"unknown technique":     {call{"GET", "/techniques/nothing", ""}, 404, `There is no technique \"nothing\" here.`},
		"side that is none":     {call{"GET", "/techniques/knee-cut?side=up", ""}, 422, "side"},
		"not JSON":              {call{"POST", "/seasons", "{"}, 400, ""},
		"field too many":        {call{"POST", "/seasons", `{"name":"x","start":"2027-01-01","weeks":3,"closures":[],"colour":"red"}`}, 422, "colour"},
		"date that is none":     {call{"POST", "/seasons", `{"name":"x","start":"soon","weeks":3,"closures":[]}`}, 422, "2026-11-24"},
		"no name":               {call{"POST", "/seasons", `{"name":" ","start":"2027-03-01","weeks":3,"closures":[]}`}, 422, "give the season a name"},
		"too many weeks":        {call{"POST", "/seasons", `{"name":"x","start":"2027-03-01","weeks":99,"closures":[]}`}, 422, "outside 1 to 60"},
		"overlapping season":    {call{"POST", "/seasons", `{"name":"x","start":"2026-12-01","weeks":3,"closures":[]}`}, 422, "overlap Winter"},
		"unknown rung":          {call{"PUT", "/curricula/blue-2/requirements/triangle", `{"rung":"mastered","both_sides":true,"weight":1}`}, 422, "choose met, drilled, passed, live or teaches"},
		"unknown weight":        {call{"PUT", "/curricula/blue-2/requirements/triangle", `{"rung":"met","both_sides":true,"weight":0}`}, 422, "outside 0.1 to 10"},
		"stale version":         {call{"PUT", "/techniques/underhook-get-up/points/under?version=0", `{"id":"under","cue":"x"}`}, 409, "changed by somebody else"},
		"bad side token":        {call{"PUT", "/techniques/underhook-get-up/points/under?version=1", `{"id":"under","cue":"{lft} arm"}`}, 422, "write {left} or {right}"},
		"unknown key point":     {call{"PUT", "/techniques/underhook-get-up/points/zzz?version=1", `{"id":"zzz","cue":"x"}`}, 404, "key point"},
		"class on a wrong day":  {call{"GET", "/classes/fund-early.2026-11-25", ""}, 404, "no class"},
		"check in tomorrow":     {call{"PUT", "/classes/fund-late.2026-11-26/attendance/oren-vask", ""}, 422, "has not begun"},
		"check in a stranger":   {call{"PUT", "/classes/fund-early.2026-11-24/attendance/nobody", ""}, 404, "student"},
		"check out who is away": {call{"DELETE", "/classes/fund-early.2026-11-24/attendance/oren-vask", ""}, 404, "check-in"},
		"pair nobody":           {call{"POST", "/classes/fund-early.2026-11-24/rotation", `{"run":0,"odd":"larger","mix":"any"}`}, 422, "check in at least two"},
		"fault of another":      {call{"POST", "/classes/fund-early.2026-11-24/record", `{"items":[],"faults":[{"technique":"knee-cut","fault":"f99","seen":1,"tries":2}]}`}, 422, "not a fault"},
		"seen more than tried":  {call{"POST", "/classes/fund-early.2026-11-24/record", `{"items":[],"faults":[{"technique":"knee-cut","fault":"f1","seen":3,"tries":2}]}`}, 422, "cannot be seen more often"},
		"key points unmarked":   {call{"POST", "/checks", `{"student":"oren-vask","technique":"knee-cut","side":"left","observation":{"points":{},"caution_broken":false,"resistance":1}}`}, 422, "mark it seen, prompted or missing"},
		"held student":          {call{"POST", "/checks", `{"student":"wilma-etherton","technique":"knee-cut","side":"left","observation":{"points":{},"caution_broken":false,"resistance":1}}`}, 422, "held from all partner drills"},
		"too young":             {call{"POST", "/checks", `{"student":"ruben-askew","technique":"bent-arm-side","side":"left","observation":{"points":{},"caution_broken":false,"resistance":1}}`}, 422, "shoulder from age 16"},
		"week out of season":    {call{"POST", "/seasons/" + season + "/repairs", `{"week":9,"class":"fund-early"}`}, 422, "not in a season of 6 weeks"},
		"cancel what is over":   {call{"POST", "/seasons/" + season + "/repairs", `{"week":1,"class":"nogi-early"}`}, 422, "is over"},
		"cancel what is closed": {call{"POST", "/seasons/" + season + "/repairs", `{"week":3,"class":"fund-early"}`}, 422, "closed in week 3 already"},
		"unknown finding":       {call{"POST", "/curricula/blue-2/repairs", `{"finding":"x"}`}, 422, "look at the audit again"},
		"unknown operation":     {call{"GET", "/nothing", ""}, 404, "no such operation"},
	} {
		status, body := c.send(x.method, "/api"+x.path, x.body)
		assert.Equal(t, x.status, status, "%s: %s", name, body)
		assert.Contains(t, body, x.says, name)
	}
}

func TestPublishingWaitsForTheAudit(t *testing.T) {
	h := open(t)
	h.layAndPlan()
	c := h.as("ines")
	status, body := c.send("PUT", "/api/curricula/blue-2/requirements/triangle", `{"rung":"passed","both_sides":true,"weight":1}`)
	require.Equal(t, 200, status, body)
	status, body = c.send("PUT", "/api/curricula/blue-2/state", `{"published":true}`)
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "Leg circles in guard")
	status, body = c.send("POST", "/api/curricula/blue-2/repairs", `{"finding":"prerequisite late/triangle/guard-circles"}`)
	require.Equal(t, 200, status, body)
	status, body = c.send("PUT", "/api/curricula/blue-2/state", `{"published":true}`)
	assert.Equal(t, 200, status, body)
}

// Whoever guesses is slowed down; whom they guess at is not shut out of the browser they know.
func TestGuessingIsSlowedDown(t *testing.T) {
	h := open(t)
	own := h.as("oren")
	assert.Equal(t, 200, first(own.send("DELETE", "/api/session", "")))
	c := h.anybody()
	for range 5 {
		status, body := c.send("POST", "/api/session", `{"name":"oren","password":"wrong"}`)
		require.Equal(t, 401, status, body)
		require.Contains(t, body, "do not go together")
	}
	status, body := c.send("POST", "/api/session", `{"name":"oren","password":"`+testkit.Password+`"}`)
	assert.Equal(t, 429, status)
	assert.Contains(t, body, "wait 1 second ")
	assert.Equal(t, 200, first(own.send("POST", "/api/session", `{"name":"oren","password":"`+testkit.Password+`"}`)), "their own browser lets them in")
	status, body = c.send("POST", "/api/session", `{"name":"nobody-at-all","password":"wrong"}`)
	assert.Equal(t, 401, status)
	assert.Contains(t, body, "do not go together", "a name that is not there is told nothing else")
	assert.Equal(t, 200, first(h.as("ines").send("GET", "/api/session", "")), "others of the house are not shut out")
}

func first(status int, _ string) int { return status }

func TestSignOutEndsTheSession(t *testing.T) {
	h := open(t)
	c := h.as("ines")
	assert.Equal(t, 200, first(c.send("DELETE", "/api/session", "")))
	assert.Equal(t, 401, first(c.send("GET", "/api/session", "")))
}

func TestAnotherSiteCannotSend(t *testing.T) {
	h := open(t)
	c := h.as("ines")
	r, err := http.NewRequest("POST", h.url+"/api/seasons", strings.NewReader(`{"name":"x","start":"2027-03-01","weeks":3,"closures":[]}`))
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("Origin", "http://elsewhere.invalid")
	r.Header.Set("Sec-Fetch-Site", "cross-site")
	answer, err := c.http.Do(r)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, 403, answer.StatusCode)
}

func TestPagesLoadNothingFromElsewhere(t *testing.T) {
	h := open(t)
	c := h.anybody()
	for _, path := range []string{"/", "/library/knee-cut", "/api/docs", "/api/openapi.json"} {
		answer, err := c.http.Get(h.url + path)
		require.NoError(t, err)
		var out bytes.Buffer
		_, _ = out.ReadFrom(answer.Body)
		answer.Body.Close()
		assert.Equal(t, 200, answer.StatusCode, path)
		policy := answer.Header.Get("Content-Security-Policy")
		assert.Contains(t, policy, "default-src 'self'")
		assert.NotContains(t, policy, "unsafe")
		assert.Equal(t, "nosniff", answer.Header.Get("X-Content-Type-Options"))
		assert.NotRegexp(t, `(src|href)="(https?:)?//`, out.String(), path)
	}
	_, docs := c.send("GET", "/api/docs", "")
	for id := range permissions {
		assert.Contains(t, docs, `id="`+id+`"`, "the page shows every operation")
	}
}

// The desk and the student are told nothing about anybody's health.
func TestHealthNotesStayWithThoseWhoNeedThem(t *testing.T) {
	h := open(t)
	_, people := h.as("ines").send("GET", "/api/people/wilma-etherton", "")
	assert.Contains(t, people, "clinician's clearance is on file")
	_, people = h.as("tomas").send("GET", "/api/people", "")
	assert.Contains(t, people, "all partner drills")
	assert.NotContains(t, people, "clinician's clearance")
	for _, path := range []string{"/api/people", "/api/classes/fund-early.2026-11-24"} {
		_, seen := h.as("desk").send("GET", path, "")
		assert.NotContains(t, seen, "partner drills until")
		assert.NotContains(t, seen, "clinician's clearance")
		assert.Contains(t, seen, "ask the coach")
	}
}

// A minor's birth date stands in no list, and health notes and guardians' contacts in nothing that is asked by whoever does not need
// them: every operation is asked by every role, and what it answers is looked through.
func TestWhatIsPrivateIsShownToNobodyElse(t *testing.T) {
	h := open(t)
	all := calls(h.layAndPlan())
	ctx := t.Context()
	ines := testkit.Users[state.Head]
	page, err := h.app.People.Person(ctx, ines, "ruben-askew")
	require.NoError(t, err)
	fields := *page.Fields
	fields.Guardian = &academy.Guardian{Name: "Zelda Askew", Email: "zelda@example.net", Phone: "+44 20 7946 0001"}
	_, err = h.app.People.Save(ctx, ines, "ruben-askew", fields, page.Version)
	require.NoError(t, err)
	require.NoError(t, h.app.People.Hold(ctx, ines, "ruben-askew", people.NewHold{Regions: []safety.Region{"knee"}, Note: "zealous zebra"}))
	_, err = h.app.People.AddNote(ctx, ines, "ruben-askew", "for the head alone: quiet quokka", academy.ForHead)
	require.NoError(t, err)
	all["get-person"] = call{"GET", "/people/ruben-askew", ""}
	all["get-student"] = call{"GET", "/students/ruben-askew", ""}
	all["export-person"] = call{"GET", "/people/ruben-askew/data.json", ""}
	birth := fields.Birth.String()
	// Who may read what, where it is asked for by itself.
	may := map[string]map[state.Role][]string{
		birth:               {state.Head: {"get-person", "export-person", "export-academy", "export-roster", "record-state", "record-history"}, state.Guardian: {"export-person"}},
		"zealous zebra":     {state.Head: {"get-person", "export-person", "export-academy"}, state.Guardian: {"export-person"}},
		"quiet quokka":      {state.Head: {"get-person", "export-person", "export-academy", "list-candidates"}},
		"zelda@example.net": {state.Head: {"get-person", "export-person", "export-academy", "export-roster"}, state.Desk: {"get-person"}, state.Guardian: {"export-person"}},
	}
	for role, signIn := range testkit.SignIns {
		c := h.as(signIn)
		for id, call := range all {
			if call.method != "GET" || !slices.Contains(permissions[id], role) {
				continue
			}
			_, body := c.send("GET", "/api"+call.path, "")
			for secret, readers := range may {
				if strings.Contains(body, secret) && !slices.Contains(readers[role], id) {
					assert.Fail(t, "shown", "%s shows %q to the %s", id, secret, role)
				}
			}
		}
	}
	c := h.as("desk")
	_, body := c.send("GET", "/api/people/ruben-askew", "")
	assert.Contains(t, body, "zelda@example.net", "the desk knows whom to call")
	_, body = h.as("tomas").send("GET", "/api/people/ruben-askew", "")
	assert.Contains(t, body, "knee", "a coach sees what they are kept out of")
}

// Where the academy wants a second factor, nothing but setting one up is open to a head instructor without one.
func TestNothingIsOpenBeforeTheWantedSecondFactor(t *testing.T) {
	h := open(t)
	ines, tomas := h.as("ines"), h.as("tomas")
	form := strings.Replace(settingsForm, `"second_factor":false`, `"second_factor":true`, 1)
	_, page := ines.send("GET", "/api/academy", "")
	version := regexp.MustCompile(`"version":(\d+),"numbers"`).FindStringSubmatch(page)
	require.NotEmpty(t, version, "the settings' version")
	status, body := ines.send("PUT", "/api/academy/settings?version="+version[1], form)
	require.Equal(t, 200, status, body)
	status, body = ines.send("GET", "/api/techniques", "")
	assert.Equal(t, 403, status)
	assert.Contains(t, body, "second factor")
	status, body = ines.send("GET", "/api/academy/bundle", "")
	assert.Equal(t, 403, status, "downloads too: "+body)
	status, body = ines.send("GET", "/api/session", "")
	require.Equal(t, 200, status)
	assert.Contains(t, body, `"wants_factor":true`)
	assert.Contains(t, body, `"home":"/account"`)
	status, _ = ines.send("GET", "/api/account", "")
	assert.Equal(t, 200, status)
	status, _ = tomas.send("GET", "/api/techniques", "")
	assert.Equal(t, 200, status, "of coaches it is not wanted")
}

// A reader at the door checks people in with its own key; a second tap changes nothing, and an ended key opens nothing.
func TestADoorReader(t *testing.T) {
	h := open(t)
	ines := h.as("ines")
	status, body := ines.send("POST", "/api/doors", `{"name":"Front door"}`)
	require.Equal(t, 200, status, body)
	var made struct{ ID, Key string }
	require.NoError(t, json.Unmarshal([]byte(body), &made))
	reader := door.Reader{URL: ines.url, Key: made.Key}
	ctx := t.Context()
	for i := range 3 {
		shown, err := reader.Tap(ctx, "oren-vask")
		require.NoError(t, err)
		assert.Equal(t, "Oren Vask", shown.Name)
		if i == 0 {
			assert.Equal(t, "here", shown.Summary, shown.Class)
		} else {
			assert.Equal(t, "here already", shown.Summary)
		}
	}
	_, page := ines.send("GET", "/api/classes/fund-early.2026-11-24", "")
	assert.Contains(t, page[strings.Index(page, `"here"`):], "Oren Vask")
	_, err := reader.Tap(ctx, "nobody")
	assert.ErrorContains(t, err, "404")
	_, err = door.Reader{URL: reader.URL, Key: "wrong"}.Tap(ctx, "oren-vask")
	assert.ErrorContains(t, err, "401")
	status, list := ines.send("GET", "/api/doors", "")
	require.Equal(t, 200, status)
	assert.Contains(t, list, "Front door")
	assert.NotContains(t, list, made.Key, "the key is shown once")
	status, _ = ines.send("DELETE", "/api/doors/"+made.ID, "")
	require.Equal(t, 200, status)
	_, err = reader.Tap(ctx, "oren-vask")
	assert.ErrorContains(t, err, "401")
}
