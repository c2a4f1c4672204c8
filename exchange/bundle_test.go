package exchange_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/safety"
	lantern "vereda/demo"
	. "vereda/exchange"
)

func demo(t require.TestingT) []byte {
	text, err := lantern.Bundle()
	require.NoError(t, err)
	return text
}

func TestRoundTripLosesNothing(t *testing.T) {
	b, err := Read(demo(t))
	require.NoError(t, err)
	text, err := Write(b)
	require.NoError(t, err)
	assert.JSONEq(t, stripDefaults(string(demo(t))), stripDefaults(string(text)))
	again, err := Read(text)
	require.NoError(t, err)
	twice, err := Write(again)
	require.NoError(t, err)
	assert.Equal(t, string(text), string(twice))
}

// stripDefaults leaves out the settings, where writing spells out what reading
// may leave to the default.
func stripDefaults(text string) string {
	i, j := strings.Index(text, `"settings"`), strings.Index(text, `"positions"`)
	return text[:i] + text[j:]
}

// The demo library is as deep as it says.
func TestDemoLibrary(t *testing.T) {
	b, err := Read(demo(t))
	require.NoError(t, err)
	lib := b.Library()
	movements, techniques, layered, drilled := 0, 0, 0, 0
	points := map[int]int{}
	for _, tech := range b.Techniques {
		faults := 0
		for _, k := range tech.KeyPoints {
			faults += len(k.Faults)
		}
		points[len(tech.KeyPoints)]++
		assert.NotEmpty(t, tech.KeyPoints, tech.ID)
		assert.GreaterOrEqual(t, faults, 2, tech.ID)
		if tech.Kind != library.Movement {
			assert.NotEmpty(t, tech.Forks, tech.ID)
		}
		assert.NotEmpty(t, tech.Aliases, tech.ID)
		assert.NotEmpty(t, tech.Gates(), tech.ID)
		for _, p := range lib.Check(tech) {
			assert.Fail(t, p.Error(), tech.ID)
		}
		if len(tech.Risks) > 0 {
			assert.NotEmpty(t, tech.Caution, tech.ID)
		}
		if len(tech.Layers) > 0 {
			layered++
		}
		if len(tech.Drills) > 0 {
			drilled++
		}
		if tech.Kind == library.Movement {
			movements++
		} else {
			techniques++
		}
	}
	// As many key points as it takes, not a number of them.
	for n := 5; n <= 8; n++ {
		assert.Positive(t, points[n], "techniques with %d key points", n)
	}
	assert.Less(t, points[5], len(b.Techniques)*3/10, "exactly five key points are a pattern")
	assert.GreaterOrEqual(t, len(b.Positions), 30)
	assert.GreaterOrEqual(t, techniques, 160)
	assert.GreaterOrEqual(t, movements, 16)
	assert.GreaterOrEqual(t, layered, 140)
	assert.GreaterOrEqual(t, drilled, 140)
	assert.GreaterOrEqual(t, len(b.Tables), 12)
	assert.GreaterOrEqual(t, len(b.Sets), 10)
	for _, s := range b.Sets {
		assert.NotEmpty(t, s.House, s.ID)
		assert.NotEmpty(t, s.Reason, s.ID)
	}
	for _, table := range b.Tables {
		for _, p := range lib.CheckForkTable(table) {
			assert.Fail(t, p.Error(), table.ID)
		}
	}
}

// What is taught first, and what loads a neck, a spine, a knee or an ankle, is written to its end: three lessons, drills that get harder, and for whom it must change.
func TestWhatComesFirstAndWhatIsDangerousIsWrittenWhole(t *testing.T) {
	b, err := Read(demo(t))
	require.NoError(t, err)
	lib := library.New(b.Positions, b.Techniques)
	whole := map[string]string{}
	for _, c := range b.Curricula {
		if c.Rank != "blue" && !(c.Rank == "purple" && c.Version == 2) {
			continue
		}
		for _, r := range c.Requirements {
			for _, id := range r.Options() {
				whole[id] = c.Rank
			}
		}
	}
	for _, tech := range b.Techniques {
		for _, r := range tech.Risks {
			if slices.Contains([]safety.RiskClass{"neck or spine", "knee or ankle twisting", "knee extension", "ankle compression"}, r) {
				whole[tech.ID] = string(r)
			}
		}
	}
	assert.Greater(t, len(whole), 130)
	drills, forms := map[int]int{}, map[library.Form]int{}
	for id, why := range whole {
		tech, ok := lib.Technique(id)
		require.True(t, ok, id)
		assert.Len(t, tech.Layers, 3, "%s (%s): without defence, with a correct one, with all", id, why)
		assert.NotEmpty(t, tech.Drills, "%s (%s)", id, why)
		assert.NotEmpty(t, tech.Questions, id)
		assert.True(t, slices.ContainsFunc(tech.KeyPoints, func(k library.KeyPoint) bool { return k.Moment != "" }), "%s (%s): when?", id, why)
		assert.True(t, slices.ContainsFunc(tech.KeyPoints, func(k library.KeyPoint) bool { return k.Checkpoint }), "%s (%s): what does one see?", id, why)
		drills[len(tech.Drills)]++
		for _, d := range tech.Drills {
			forms[d.Form]++
			if d.Resistance >= 3 && tech.Finish {
				assert.NotEqual(t, library.Form("full repetitions"), d.Form, "%s: nobody finishes against somebody who resists", id)
			}
			if why == "knee or ankle twisting" {
				assert.LessOrEqual(t, d.Resistance, 3, id)
			}
		}
	}
	t.Logf("%d techniques; drills a technique %v; forms %v", len(whole), drills, forms)
	assert.Greater(t, len(drills), 2, "as many drills as it needs, not a number of them")
	assert.Greater(t, len(forms), 4, "footwork, set-up, full and reaction repetitions, situational rounds")
}

// No two texts of the demo library are the same: each was written for its place.
func TestDemoTextsAreNotAPattern(t *testing.T) {
	b, err := Read(demo(t))
	require.NoError(t, err)
	where := map[string]string{}
	texts := 0
	note := func(id string, words library.Text) {
		if len(words) < 40 {
			return // short cues are the mat's own words and come again
		}
		texts++
		assert.Empty(t, where[string(words)], "%s says what %s says: %q", id, where[string(words)], words)
		where[string(words)] = id
	}
	for _, x := range b.Techniques {
		note(x.ID, x.Summary)
		for _, k := range x.KeyPoints {
			note(x.ID, k.Detail)
			for _, f := range k.Faults {
				note(x.ID, f.Consequence)
				note(x.ID, f.Correction)
			}
		}
	}
	assert.Greater(t, texts, 300)
}

func TestFolderAndZip(t *testing.T) {
	b, err := Read(demo(t))
	require.NoError(t, err)
	lib := b.Library()
	folder, err := WriteFolder(lib)
	require.NoError(t, err)
	packed, err := Zip(append(folder, TextFile{"README.md", []byte("for people")}, TextFile{"notes.txt", []byte("x")}))
	require.NoError(t, err)
	read := ReadFolder([]TextFile{{"library.zip", packed}})
	require.Len(t, read, len(folder))
	positions, techniques, sets, tables, err := LibraryOf(read)
	require.NoError(t, err)
	again := library.New(positions, techniques).With(sets, tables)
	for _, pair := range [][2]any{{lib.Positions(), again.Positions()}, {lib.Techniques(), again.Techniques()}, {lib.VariantSets(), again.VariantSets()}, {lib.ForkTables(), again.ForkTables()}} {
		want, _ := json.Marshal(pair[0])
		got, _ := json.Marshal(pair[1])
		assert.True(t, string(want) == string(got), "the folder gives back what was written into it")
	}
	bad := ReadFolder([]TextFile{{"x.zip", []byte("PK nothing")}, {"y.json", []byte("{}")}, {"z.md", []byte("hello")}, {"w.md", folder[0].Text}})
	require.Len(t, bad, 4)
	assert.Contains(t, bad[0].Wrong.Error(), "pack the folder again")
	assert.Contains(t, bad[1].Wrong.Error(), "y.json: format:")
	assert.Contains(t, bad[2].Wrong.Error(), "z.md: line 1:")
	assert.Empty(t, bad[3].Wrong, "one bad file does not spoil the others")
}

func TestBadBundlesAreRefusedWithPlaceAndMend(t *testing.T) {
	require.Contains(t, string(demo(t)), `"technique": "level-change-step"`)
	for name, c := range map[string]struct{ old, new, says string }{
		"cut short":      {"\"events\": [", "\"events\": [{", "line "},
		"another format": {Format, "something/9", "another kind of file"},
		"unknown field":  {`"made_on"`, `"maid_on"`, `unknown field "maid_on"`},
		"bad side token": {"{right}", "{rihgt}", "not a side token"},
		"lost reference": {`"technique": "level-change-step"`, `"technique": "nothing"`, `"nothing" is not in the library`},
		"bad time":       {`"start": "18:00"`, `"start": "six"`, "not a time such as 18:30"},
		"bad date":       {`"day": "`, `"day": "x`, "is not a date"},
	} {
		_, err := Read([]byte(strings.Replace(string(demo(t)), c.old, c.new, 1)))
		if assert.Error(t, err, name) {
			assert.Contains(t, err.Error(), c.says, name)
		}
	}
}

func TestLayKeepsIntervalsAndWeekdays(t *testing.T) {
	before, err := Read(demo(t))
	require.NoError(t, err)
	for _, days := range []calendar.Day{-900, -8, -1, 0, 1, 2, 3, 4, 5, 6, 7, 431} {
		today := before.MadeOn + days
		text, err := Lay(demo(t), today)
		require.NoError(t, err)
		after, err := Read(text)
		require.NoError(t, err)
		require.Equal(t, today, after.MadeOn)
		class := map[string]academy.Class{}
		tonight := 0
		for _, c := range after.Classes {
			class[c.ID] = c
			if c.Weekday == today.Weekday() {
				tonight++
			}
		}
		require.Positive(t, tonight, "there is always a class tonight")
		for i, f := range after.Events {
			require.Equal(t, before.Events[i].Day-before.MadeOn, f.Day-today)
			id, on, err := academy.SplitOccurrence(f.Class)
			require.NoError(t, err)
			require.Equal(t, f.Day, on)
			require.Equal(t, class[id].Weekday, on.Weekday(), "a class was held on its weekday")
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(`{"format":"vereda-bundle/1"}`))
	f.Add([]byte(`{`))
	f.Add([]byte(`{"format":"vereda-bundle/1","made_on":"2026-11-24","academy":{"id":"a","name":"A"}}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		b, err := Read(text)
		if err != nil {
			return
		}
		out, err := Write(b)
		require.NoError(t, err)
		_, err = Read(out)
		require.NoError(t, err)
	})
}

// One validation for whoever brings a record: what a form refuses, a bundle cannot bring.
func TestABundleBringsNothingAFormRefuses(t *testing.T) {
	good, err := Read(demo(t))
	require.NoError(t, err)
	// Without the library, which would be judged every time: one unit of one movement that stands on nothing.
	small := good
	base := library.Technique{ID: "base", Name: "Base", Kind: "movement", Context: "both", Summary: "Sit and stand.", SecondsPerRep: 5, TeachMinutes: 5, KeyPoints: []library.KeyPoint{{ID: "k1", Cue: "Hand behind"}}}
	small.Techniques, small.Sets, small.Tables, small.Curricula, small.Files = []library.Technique{base}, nil, nil, nil, nil
	small.Units = []academy.Unit{{ID: "u", Name: "Base", Area: "movement", Techniques: []string{small.Techniques[0].ID}, Minutes: 10, ReviewMinutes: 5, Tracks: []string{good.Tracks[0].ID}}}
	small.Tracks = slices.Clone(good.Tracks)
	for i := range small.Tracks {
		small.Tracks[i].Assumed = nil
	}
	event := func(kind string) int {
		return slices.IndexFunc(good.Events, func(e academy.Event) bool { return e.Kind == kind })
	}
	for name, c := range map[string]struct {
		spoil func(b *Bundle)
		says  string
	}{
		"a start without its zero": {func(b *Bundle) { b.Classes[0].Start = "9:30" }, `class "fund-early": start: "9:30" is not a time`},
		"an hour there is not":     {func(b *Bundle) { b.Classes[0].Start = "25:00" }, "is not a time"},
		"a class twice":            {func(b *Bundle) { b.Classes = append(b.Classes, b.Classes[0]) }, "is used twice"},
		"a mode there is not":      {func(b *Bundle) { b.Tracks[0].Mode = "nonsense" }, `mode: "nonsense": choose same or split`},
		"a unit of no minutes":     {func(b *Bundle) { b.Units[0].Minutes = 0 }, "minutes: 0 is outside 1 to"},
		"a name too long":          {func(b *Bundle) { b.People[0].Name = strings.Repeat("Ō", 200) }, "name: has 200 characters"},
		"a name that cannot be":    {func(b *Bundle) { b.People[0].Name = "a\x00b" }, "characters that cannot be shown"},
		"nobody's address":         {func(b *Bundle) { b.People[0].Email = "a@b,c@d" }, "is not one address"},
		"a season before time": {func(b *Bundle) {
			b.Seasons = []academy.Season{{ID: "s", Name: "Old", Start: calendar.First - 9, Weeks: 6}}
		}, "is not between"},
		"a season past the end":   {func(b *Bundle) { b.Seasons = []academy.Season{{ID: "s", Name: "Far", Start: calendar.Last, Weeks: 6}} }, "is not between"},
		"a season without end":    {func(b *Bundle) { b.Seasons = []academy.Season{{ID: "s", Name: "Long", Start: b.MadeOn, Weeks: 6000}} }, "6000 is outside 1 to 60"},
		"a kind of event unknown": {func(b *Bundle) { b.Events[0].Kind = "song" }, `kind: "song" is not one of attendance`},
		"an event twice":          {func(b *Bundle) { b.Events[1].ID = b.Events[0].ID }, "the identifier is used twice"},
		"a correction of nothing": {func(b *Bundle) { b.Events[0].Replaces = "nothing" }, "does not stand before it"},
		"an event on another day": {func(b *Bundle) { b.Events[0].Day++ }, "is not a class on"},
		"more seen than tried": {func(b *Bundle) {
			b.Events[event(academy.ClassReportEvent)].Body = []byte(`{"lead":"","items":[],"faults":[{"technique":"knee-cut","fault":"x","seen":3,"tries":2}]}`)
		}, "cannot be seen more often than it was tried"},
		"tries without end": {func(b *Bundle) {
			b.Events[event(academy.ClassReportEvent)].Body = []byte(`{"lead":"","items":[],"faults":[{"technique":"knee-cut","fault":"x","seen":9000000000000000000,"tries":9000000000000000000}]}`)
		}, "is outside 0 to 10000"},
		"a gate of no ladder":   {func(b *Bundle) { b.Settings.Gates[0].Ladder = "attic" }, `"attic" is not a ladder`},
		"a zone there is not":   {func(b *Bundle) { b.Settings.Zone = "../../etc" }, "is not a time zone"},
		"a share over all":      {func(b *Bundle) { b.Settings.Standard.PassShare = 7 }, "700 % is outside 5 to 100 %"},
		"a coach of no class":   {func(b *Bundle) { b.People[0].Coach = &academy.Terms{Available: []string{"attic"}} }, `class "attic" is not in the timetable`},
		"paired with nobody":    {func(b *Bundle) { b.People[0].NeverWith = []string{"nobody"} }, `"nobody" is nobody else here`},
		"an academy of no name": {func(b *Bundle) { b.Academy.ID = "a/b" }, "use letters, digits"},
	} {
		b := small
		b.Classes, b.Tracks, b.Units, b.People, b.Events, b.Settings.Gates = slices.Clone(b.Classes), slices.Clone(b.Tracks), slices.Clone(b.Units), slices.Clone(b.People), slices.Clone(b.Events), slices.Clone(b.Settings.Gates)
		c.spoil(&b)
		text, err := Write(b)
		require.NoError(t, err)
		_, err = Read(text)
		if assert.Error(t, err, name) {
			assert.Contains(t, err.Error(), c.says, name)
		}
	}
	text, err := Write(good)
	require.NoError(t, err)
	_, err = Read(append(text, []byte(`{"more":true}`)...))
	assert.ErrorContains(t, err, "follows after the end of the bundle")
}

// A bundle of the format before is read as what it meant.
func TestABundleOfTheFormatBefore(t *testing.T) {
	b, err := Read([]byte(`{"format":"vereda-bundle/1","made_on":"2026-11-24","academy":{"id":"harbour","name":"Harbour Row Mats"},
		"settings":{"week_start":1,"standard":{"pass_share":0,"live_share":{},"live_default":0,"live_tries":0},"spacing":{"weeks":[],"tolerance":0},"gates":[],"season_need":0,"musts":[{"family":"pins","kind":"escape","from":1}]},
		"positions":[],"techniques":[],"ladders":[{"id":"adult","name":"Adult","audience":"adult","ranks":[{"id":"white","name":"White","belt":"white","min_months":0,"min_classes":0},{"id":"blue","name":"Blue","belt":"blue","min_months":12,"min_classes":60}]}],"curricula":[],
		"tracks":[{"id":"fund","name":"Fundamentals","audience":"all","context":"both","mode":"same","school":"block"}],"classes":[{"id":"c","name":"Evening","track":"fund","weekday":2,"start":"18:00","minutes":60,"teach_minutes":30,"mat":""}],"units":[],
		"people":[{"id":"oren","name":"Oren","birth":"1990-01-01","ladder":"adult","rank":"white","rank_since":"2026-01-01","joined":"2026-01-01","student":true}],"seasons":[],
		"nights":[{"id":"c.2026-11-24","lead":""}],
		"facts":[{"id":"b","kind":"void","day":"2026-11-24","student":"oren","class":"c.2026-11-24","replaces":"a","body":{},"recorded_at":"2026-11-24T18:05:00Z","recorded_by":"ines"},
			{"id":"a","kind":"attendance","day":"2026-11-24","student":"oren","class":"c.2026-11-24","body":{},"recorded_at":"2026-11-24T18:00:00Z","recorded_by":"ines"},
			{"id":"t","kind":"taught","day":"2026-11-24","class":"c.2026-11-24","body":{"lead":"ines","items":[],"faults":[]},"recorded_at":"2026-11-24T19:00:00Z","recorded_by":"ines"},
			{"id":"m","kind":"moved","day":"2026-11-24","student":"oren","body":{"from":"a","to":"b"},"recorded_at":"2026-11-24T20:00:00Z","recorded_by":"ines"}]}`))
	require.NoError(t, err)
	var kinds []string
	for _, e := range b.Events {
		kinds = append(kinds, e.ID+" "+e.Kind)
	}
	assert.Equal(t, []string{"a attendance", "b attendance", "t class report", "m placement"}, kinds, "in the order of their clock, which was meant then")
	out, err := b.Events[1].Attendance()
	require.NoError(t, err)
	assert.False(t, out.Present, "void: not there")
	assert.Len(t, b.Sessions, 1)
	assert.Len(t, b.Settings.RequiredCells, 1)
}

// Weekly classes from calendars of other zones, and what is no weekly class.
func TestATimetableFromACalendar(t *testing.T) {
	york, err := time.LoadLocation("America/New_York")
	require.NoError(t, err)
	today := calendar.MustDay("2026-11-24")
	read := func(lines ...string) ([]academy.Class, []string) {
		text := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:No-gi\r\n" + strings.Join(lines, "\r\n") + "\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
		classes, left, err := ReadTimetableCalendar([]byte(text), york, today)
		require.NoError(t, err)
		return classes, left
	}
	classes, left := read("DTSTART:20261124T020000Z", "DTEND:20261124T033000Z", "RRULE:FREQ=WEEKLY;BYDAY=TU,TH")
	assert.Empty(t, left)
	require.Len(t, classes, 2)
	assert.Equal(t, []int{1, 3}, []int{classes[0].Weekday, classes[1].Weekday}, "02:00 on Tuesday in Greenwich is Monday evening in New York")
	assert.Equal(t, "21:00", classes[0].Start)
	assert.Equal(t, 90, classes[0].Minutes)
	classes, _ = read("DTSTART:20261124T180000", "DTEND:20261124T190000", "RRULE:FREQ=WEEKLY;BYDAY=TU")
	assert.Equal(t, "18:00", classes[0].Start, "without a zone it is the academy's clock")
	assert.Equal(t, 2, classes[0].Weekday)
	for says, rule := range map[string]string{
		"recurs every 2 weeks": "FREQ=WEEKLY;INTERVAL=2;BYDAY=TU", "it ended on Fri 30 Oct 2026": "FREQ=WEEKLY;BYDAY=TU;UNTIL=20261030T235959Z",
		"does not recur weekly": "FREQ=MONTHLY", `"XX" is not a weekday`: "FREQ=WEEKLY;BYDAY=XX", `end "soon" cannot be read`: "FREQ=WEEKLY;UNTIL=soon",
	} {
		classes, left := read("DTSTART:20261124T180000Z", "DTEND:20261124T190000Z", "RRULE:"+rule)
		assert.Empty(t, classes, rule)
		require.Len(t, left, 1, rule)
		assert.Contains(t, strings.ToLower(left[0]), strings.ToLower(says), rule)
	}
	classes, _ = read("DTSTART:20261124T180000Z", "DTEND:20261124T190000Z", "RRULE:FREQ=WEEKLY;INTERVAL=1;BYDAY=TU;UNTIL=20271030")
	assert.Len(t, classes, 1)
	lines := strings.Split(string(Calendar{Name: "Hall", Zone: york, Events: []Event{{ID: "1", Title: "No-gi"}}}.Write()), "\n")
	for _, l := range lines[:len(lines)-1] {
		assert.True(t, strings.HasSuffix(l, "\r"), "lines end as the format says: %q", l)
	}
}

// A zip inside a zip is not unpacked, and one that would fill the memory is not begun.
func TestAZipInsideAZip(t *testing.T) {
	pack := func(name string, content []byte) []byte {
		packed, err := Zip([]TextFile{{Name: name, Text: content}})
		require.NoError(t, err)
		return packed
	}
	inner := pack(AttachmentFolder+strings.Repeat("a", 64), make([]byte, 1<<20))
	outer := pack(AttachmentFolder+"more.zip", inner)
	all := Attachments([]TextFile{{Name: "x.zip", Text: outer}})
	require.Len(t, all, 1)
	assert.Equal(t, inner, all[0].Text, "a file like any other")
	assert.Empty(t, Attachments([]TextFile{{Name: "x.zip", Text: pack(AttachmentFolder+"big", make([]byte, 48<<20+1))}}))
	read := ReadFolder([]TextFile{{Name: "x.zip", Text: pack("big.md", make([]byte, 48<<20+1))}})
	require.Len(t, read, 1)
	assert.ErrorContains(t, read[0].Wrong, "import it in parts")
}
