package app_test

import (
	"archive/zip"
	"io"
	"maps"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/academies"
	applibrary "vereda/app/library"
	"vereda/app/people"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/exchange"
	"vereda/internal/testkit"
)

// known is what the tests read of the academy.
type known struct{ *state.Snapshot }

func personPage(t *testing.T, a *app.App, u state.User, id string) people.PersonPage {
	t.Helper()
	p, err := a.People.Person(t.Context(), u, id)
	require.NoError(t, err)
	return p
}

func TestPeopleAreAddedChangedArchivedAndMerged(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	birth := calendar.MustDay("1999-02-03")
	id, change, err := a.People.Add(ctx, head, people.Fields{Name: "Runa Feld", Called: "Ru", Birth: &birth, Student: true, Ladder: "adult", Rank: "white", Weight: 61.5, NeverWith: []string{"oren-vask"}})
	require.NoError(t, err)
	assert.Equal(t, "runa-feld", id)
	p := personPage(t, a, head, id)
	assert.Equal(t, "Ru", p.Line.Called)
	assert.Equal(t, calendar.DayOf(now), p.Line.Joined)
	assert.Equal(t, []state.Named{{ID: "oren-vask", Name: "Oren Vask"}}, p.NeverWith)
	_, err = a.State.Undo(ctx, head, change)
	require.NoError(t, err)
	id, _, err = a.People.Add(ctx, head, people.Fields{Name: "Runa Feld", Student: true, Ladder: "adult", Rank: "white"})
	require.NoError(t, err)
	for field, x := range map[string]people.Fields{
		"name": {Name: " "}, "rank": {Name: "x", Student: true, Ladder: "adult", Rank: "plaid"}, "weight_kg": {Name: "x", Weight: 900}, "email": {Name: "x", Email: "a@b,c@d"}, "language": {Name: "x", Language: "Portuguese"},
		"guardian.phone": {Name: "x", Guardian: &academy.Guardian{Name: "y", Phone: "call me"}}, "jacket": {Name: "x", Jacket: "silk"}, "stripes": {Name: "x", Stripes: 99}, "never_with[0]": {Name: "x", NeverWith: []string{"nobody"}},
	} {
		_, _, err := a.People.Add(ctx, head, x)
		var refused *state.ValidationError
		require.ErrorAs(t, err, &refused, field)
		assert.Equal(t, field, refused.Problems[0].Field)
	}

	// A form that was opened before somebody else saved is refused, and nothing is lost.
	v := personPage(t, a, head, id).Version
	fields := *personPage(t, a, head, id).Fields
	fields.Called = "Runi"
	_, err = a.People.Save(ctx, head, id, fields, v)
	require.NoError(t, err)
	_, err = a.People.Save(ctx, head, id, fields, v)
	var conflict *state.ConflictError
	require.ErrorAs(t, err, &conflict)

	_, err = a.People.Archive(ctx, head, []string{"tomas-reyl"}, true)
	assert.ErrorContains(t, err, "is a coach")
	gone, err := a.People.Archive(ctx, head, []string{id, "gil-abernath"}, true)
	require.NoError(t, err)
	_, err = a.People.Person(ctx, coach, id)
	assert.Error(t, err, "who is archived is shown to the head instructor alone")
	list, err := a.People.People(ctx, coach)
	require.NoError(t, err)
	for _, l := range list {
		assert.NotContains(t, []string{id, "gil-abernath"}, l.ID)
	}
	_, err = a.State.Undo(ctx, head, gone)
	require.NoError(t, err)

	// Two records of one person: what happened to either counts for the one that stays, and it can be undone.
	classes := func(id string) int { return personPage(t, a, head, id).Classes }
	had, hadToo := classes("oren-vask"), classes("pilar-dunmore")
	require.Positive(t, hadToo)
	merge, err := a.People.Merge(ctx, head, "oren-vask", "pilar-dunmore")
	require.NoError(t, err)
	assert.GreaterOrEqual(t, classes("oren-vask"), max(had, hadToo))
	assert.LessOrEqual(t, classes("oren-vask"), had+hadToo)
	_, err = a.People.Person(ctx, head, "pilar-dunmore")
	assert.Error(t, err)
	held, anew, gaps, err := a.State.Reprojected(ctx, head.Academy)
	require.NoError(t, err)
	assert.Empty(t, gaps)
	assert.Empty(t, held.Differences(anew), "projected anew it is the same")
	b, err := a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	text, err := exchange.Write(b)
	require.NoError(t, err)
	_, err = exchange.Read(text)
	require.NoError(t, err, "what happened to the other record is still somebody's")
	_, err = a.State.Undo(ctx, head, merge)
	require.NoError(t, err)
	assert.Equal(t, []int{had, hadToo}, []int{classes("oren-vask"), classes("pilar-dunmore")})
	_, err = a.People.Merge(ctx, head, "oren-vask", "oren-vask")
	assert.ErrorContains(t, err, "the same record")
}

func TestHoldsKeepPeopleOutUntilTheyAreCleared(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	effect, err := a.People.TryHold(ctx, head, "oren-vask", people.NewHold{Regions: []safety.Region{"knee"}, Note: "twisted on Sunday"})
	require.NoError(t, err)
	assert.Equal(t, "knee", effect.Coach.String())
	assert.Equal(t, "ask the coach before training", effect.Desk.String())
	assert.NotEmpty(t, effect.Tonight)
	require.NoError(t, a.People.Hold(ctx, head, "oren-vask", people.NewHold{ID: "h1", Regions: []safety.Region{"knee"}, Note: "twisted on Sunday"}))
	require.NoError(t, a.People.Hold(ctx, head, "oren-vask", people.NewHold{ID: "h1", Regions: []safety.Region{"knee"}, Note: "twisted on Sunday"}), "sent twice it is one")
	p := personPage(t, a, head, "oren-vask")
	require.Len(t, p.Holds, 1)
	assert.Equal(t, "twisted on Sunday", p.Holds[0].Note)
	assert.Equal(t, "Ines Falk", p.Holds[0].By)
	lines, err := a.Accounts.Log(ctx, head)
	require.NoError(t, err)
	require.NotEmpty(t, lines)
	assert.Equal(t, "Read the health note on Oren Vask", lines[0].What)

	seen := personPage(t, a, coach, "oren-vask")
	assert.Equal(t, "knee", seen.Line.Held.String())
	require.Len(t, seen.Holds, 1)
	assert.Empty(t, seen.Holds[0].Note, "a coach sees what, and not why")
	door := personPage(t, a, testkit.Users[state.Desk], "oren-vask")
	assert.Equal(t, "ask the coach before training", door.Line.Held.String())
	assert.Empty(t, door.Holds)
	class, err := a.Classes.Session(ctx, coach, "fund-early."+calendar.DayOf(now).String())
	require.NoError(t, err)
	for _, x := range append(class.Here, class.Others...) {
		if x.ID == "oren-vask" {
			assert.NotEmpty(t, x.Out+x.NoLive, "the hold reaches the mat")
		}
	}

	// A form of the person's record does not write the hold into it, nor take it away.
	_, err = a.People.Save(ctx, head, "oren-vask", *p.Fields, p.Version)
	require.NoError(t, err)
	require.Len(t, personPage(t, a, head, "oren-vask").Holds, 1)

	// A correction stands in its place; a clearance ends it, and is not before it.
	require.NoError(t, a.People.Hold(ctx, head, "oren-vask", people.NewHold{ID: "h2", Regions: []safety.Region{"ankle"}, Replaces: "h1"}))
	p = personPage(t, a, head, "oren-vask")
	require.Len(t, p.Holds, 1)
	assert.Equal(t, "ankle", p.Holds[0].Summary.String())
	early := calendar.DayOf(now) - 1
	assert.ErrorContains(t, a.People.Clear(ctx, head, "oren-vask", "h1", people.Clearance{Clinician: "Dr. Vale", On: &early}), "is not between")
	require.NoError(t, a.People.Clear(ctx, head, "oren-vask", "h1", people.Clearance{ID: "c1", Clinician: "Dr. Vale"}))
	p = personPage(t, a, head, "oren-vask")
	assert.False(t, p.Holds[0].Active)
	assert.Equal(t, "Dr. Vale", p.Holds[0].Clinician)
	assert.Equal(t, "Ines Falk", p.Holds[0].ClearedBy)
	assert.Empty(t, p.Line.Held)

	// One of the record, from before holds were events, is cleared too.
	require.NotEmpty(t, personPage(t, a, head, "wilma-etherton").Line.Held)
	require.NoError(t, a.People.Clear(ctx, head, "wilma-etherton", "", people.Clearance{Clinician: "Dr. Vale"}))
	assert.Empty(t, personPage(t, a, head, "wilma-etherton").Line.Held)
	for _, x := range []people.NewHold{{}, {Regions: []safety.Region{"tail"}}} {
		assert.Error(t, a.People.Hold(ctx, head, "oren-vask", x))
	}
	again, err := a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	text, err := exchange.Write(again)
	require.NoError(t, err)
	_, err = exchange.Read(text)
	require.NoError(t, err, "what was given out is read again")
}

func TestPromotionsAreDecidedAndCorrected(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	rank := func(id string) string { return personPage(t, a, head, id).Line.RankID }
	all, err := a.People.Candidates(ctx, head)
	require.NoError(t, err)
	require.NotEmpty(t, all)
	for i := 1; i < len(all); i++ {
		if all[i-1].Readiness.Ready == all[i].Readiness.Ready {
			assert.GreaterOrEqual(t, all[i-1].Readiness.Share, all[i].Readiness.Share, "the nearest first")
		}
	}
	ids, err := a.People.Promote(ctx, head, nil, []people.RankDecision{{ID: "p1", Student: "oren-vask", Outcome: "rank"}, {ID: "p2", Student: "pilar-dunmore", Outcome: "not yet", Reason: "Escapes from the side pin first"}})
	require.NoError(t, err)
	assert.Equal(t, []string{"p1", "p2"}, ids)
	assert.Equal(t, []string{"blue", "white"}, []string{rank("oren-vask"), rank("pilar-dunmore")})
	p := personPage(t, a, head, "pilar-dunmore")
	assert.Equal(t, "Escapes from the side pin first", p.Ranks[0].Reason)
	_, err = a.People.Promote(ctx, head, nil, []people.RankDecision{{ID: "p1", Student: "oren-vask", Outcome: "rank"}, {ID: "p2", Student: "pilar-dunmore", Outcome: "not yet", Reason: "Escapes from the side pin first"}})
	var conflict *state.ConflictError
	require.ErrorAs(t, err, &conflict, "from blue the next one is another decision: its identifier was used")
	assert.Equal(t, "blue", rank("oren-vask"))

	// The form of the record promotes nobody, and what it says of the rank is left as it was written.
	o := personPage(t, a, head, "oren-vask")
	x := *o.Fields
	x.Rank, x.Called = "black", "O"
	_, err = a.People.Save(ctx, head, "oren-vask", x, o.Version)
	require.NoError(t, err)
	assert.Equal(t, "blue", rank("oren-vask"))
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	written, _ := f.Written("oren-vask")
	assert.Equal(t, "white", written.Rank)

	// A correction is another fact, and stands in the place of the first.
	_, err = a.People.Promote(ctx, head, nil, []people.RankDecision{{ID: "p3", Student: "oren-vask", Outcome: "not yet", Reason: "It was Orin", Replaces: "p1"}})
	require.NoError(t, err)
	assert.Equal(t, "white", rank("oren-vask"))
	_, err = a.People.Promote(ctx, head, nil, []people.RankDecision{{ID: "p4", Student: "oren-vask", Outcome: "rank", To: "purple", Replaces: "p3"}})
	require.NoError(t, err)
	assert.Equal(t, "purple", rank("oren-vask"))
	_, err = a.People.Promote(ctx, head, nil, []people.RankDecision{{ID: "p5", Student: "oren-vask", Outcome: "rank", Replaces: "p1"}})
	assert.Error(t, err, "what was corrected before is not corrected again")

	tomorrow := calendar.DayOf(now) + 1
	_, err = a.People.Promote(ctx, head, &tomorrow, []people.RankDecision{{Student: "tam-ellery", Outcome: "rank"}})
	assert.ErrorContains(t, err, "still to come")
	for why, d := range map[string]people.RankDecision{
		"is no student here": {Student: "nobody", Outcome: "rank"}, "say why not yet": {Student: "tam-ellery", Outcome: "not yet"}, "has this rank": {Student: "tam-ellery", Outcome: "rank", To: "white"},
		"is no rank of the ladder": {Student: "tam-ellery", Outcome: "rank", To: "plaid"},
	} {
		_, err := a.People.Promote(ctx, head, nil, []people.RankDecision{{Student: "cosmo-birk", Outcome: "rank"}, d})
		assert.ErrorContains(t, err, why)
	}
	assert.Equal(t, "white", rank("cosmo-birk"), "all of it or nothing")

	day, err := a.People.RankDay(ctx, head, calendar.DayOf(now))
	require.NoError(t, err)
	require.Len(t, day.Given, 1)
	assert.Equal(t, "Oren Vask", day.Given[0].Name)
	require.Len(t, day.NotYet, 1)
	papers, err := a.People.Certificates(ctx, head, calendar.DayOf(now))
	require.NoError(t, err)
	pdf, err := exchange.WriteCertificates(papers)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(pdf), "%PDF"))

	// From the youth ladder to the adult one: it offers itself, and is decided.
	otis := personPage(t, a, head, "otis-calloway")
	require.Equal(t, "grey", otis.Line.RankID)
	_, err = a.People.Promote(ctx, head, nil, []people.RankDecision{{Student: "otis-calloway", Outcome: "rank", Ladder: "adult", To: "white"}})
	require.NoError(t, err)
	assert.Equal(t, "adult", personPage(t, a, head, "otis-calloway").Line.Ladder)
	held, anew, _, err := a.State.Reprojected(ctx, head.Academy)
	require.NoError(t, err)
	assert.Empty(t, held.Differences(anew))
}

func TestARosterIsReadRowByRowAndDoublesNobody(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	file := exchange.TextFile{Name: "roster.csv", Text: []byte("First name\tLast name\tDate of birth\tBelt\tKG\tGuardian\tGuardian phone\tRole\n" +
		"Ebba\tLorne\t14.3.1990\tblue\t61,5\t\t\t\nTove\tMarsh-Hall\t2014-05-06\tgrey\t\tAda Marsh-Hall\t+44 20 7946 0000\t\nOrin\tVask\t\twhite\t\t\t\t\nJarl\tSund\t3/4/1990\twhite\t\t\t\t\nIda\tKoch\t\tplaid\t\t\t\t\nLev\tAmsel\t1980-01-01\tbrown\t\t\t\tcoach\n")}
	p, err := a.People.PreviewRoster(ctx, head, file, nil)
	require.NoError(t, err)
	do := map[string]string{}
	for _, r := range p.Rows {
		do[r.Name] = r.Do
	}
	assert.Equal(t, map[string]string{"Ebba Lorne": "add", "Tove Marsh-Hall": "add", "Orin Vask": "ask", "Jarl Sund": "wrong", "Ida Koch": "wrong", "Lev Amsel": "add"}, do)
	assert.False(t, p.Ready)
	assert.Contains(t, p.Rows[3].Wrong[0], "may be two days")
	assert.Contains(t, p.Rows[4].Wrong[0], "is on no ladder here")
	_, err = a.People.TakeRoster(ctx, head, file, nil)
	assert.ErrorContains(t, err, "line 4, Orin Vask: say whether they are Oren Vask")
	decided := []people.RosterDecision{{Line: 4, As: "oren-vask"}, {Line: 5, As: "leave"}, {Line: 6, As: "leave"}}
	change, err := a.People.TakeRoster(ctx, head, file, decided)
	require.NoError(t, err)
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	assert.Equal(t, "Orin Vask", f.Person["oren-vask"].Name)
	assert.Equal(t, 61.5, f.Person["ebba-lorne"].Weight)
	assert.Equal(t, "youth", f.Person["tove-marsh-hall"].Ladder, "a child stands on the ladder for children")
	assert.Equal(t, "Ada Marsh-Hall", f.Person["tove-marsh-hall"].Guardian.Name)
	require.NotNil(t, f.Person["lev-amsel"].Coach)
	assert.Len(t, f.Person["lev-amsel"].Coach.Available, len(f.Classes))
	_, err = a.People.TakeRoster(ctx, head, file, decided)
	assert.ErrorContains(t, err, "nothing to import", "taken again it doubles nobody")
	_, err = a.State.Undo(ctx, head, change)
	require.NoError(t, err)

	// Everything that goes out comes back in as it was.
	out, err := a.People.Roster(ctx, head)
	require.NoError(t, err)
	p, err = a.People.PreviewRoster(ctx, head, exchange.TextFile{Name: "roster.csv", Text: out}, nil)
	require.NoError(t, err)
	for _, r := range p.Rows {
		assert.Equal(t, "same", r.Do, "%s: %s %v", r.Name, r.Summary, r.Wrong)
	}
	_, err = a.People.PreviewRoster(ctx, head, exchange.TextFile{Name: "x.csv", Text: []byte("colour,size\nred,3\n")}, nil)
	assert.ErrorContains(t, err, "no column is called name")
}

func TestPastAttendanceComesIn(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	list := exchange.TextFile{Name: "visits.csv", Text: []byte("member;date;time\nOren Vask;2026-08-04;18:00\nOren Vask;4.8.2026;18:00\nPILAR DUNMORE;2026-08-06;\n")}
	had := personPage(t, a, head, "oren-vask").Classes
	p, err := a.People.PreviewAttendance(ctx, head, list)
	require.NoError(t, err)
	require.True(t, p.Ready, p.Summary)
	n, err := a.People.TakeAttendance(ctx, head, list)
	require.NoError(t, err)
	assert.Equal(t, p.New, n)
	assert.LessOrEqual(t, personPage(t, a, head, "oren-vask").Classes, had+1, "one visit, told twice")
	p, err = a.People.PreviewAttendance(ctx, head, list)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 3}, []int{p.New, p.Had})
	wrong := exchange.TextFile{Name: "visits.csv", Text: []byte("member;date;class\nNobody;2026-08-04;\nOren Vask;2026-08-05;\nOren Vask;2027-08-04;\nOren Vask;2026-08-04;Attic\n")}
	p, err = a.People.PreviewAttendance(ctx, head, wrong)
	require.NoError(t, err)
	assert.Equal(t, 4, p.Wrong)
	_, err = a.People.TakeAttendance(ctx, head, wrong)
	assert.ErrorContains(t, err, "line 2", "all of it or nothing")
}

func TestNotesAreReadByWhomTheyAreFor(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	for readers, text := range map[string]string{"head": "moves house in spring", "coaches": "rushes the underhook", "self": "well done on Tuesday"} {
		_, err := a.People.AddNote(ctx, head, "oren-vask", text, readers)
		require.NoError(t, err)
	}
	_, err := a.People.AddNote(ctx, coach, "oren-vask", "x", "head")
	assert.ErrorContains(t, err, "theirs to write")
	read := func(u state.User) (all []string) {
		for _, n := range personPage(t, a, u, "oren-vask").Notes {
			all = append(all, n.Text)
		}
		return all
	}
	assert.Len(t, read(head), 3)
	assert.ElementsMatch(t, []string{"rushes the underhook", "well done on Tuesday"}, read(coach))
	assert.Empty(t, read(testkit.Users[state.Desk]))
	note := personPage(t, a, coach, "oren-vask").Notes[0].ID
	_, err = a.People.RemoveNote(ctx, coach, "oren-vask", note)
	assert.ErrorContains(t, err, "Only who wrote a note")
	_, err = a.People.RemoveNote(ctx, head, "oren-vask", note)
	require.NoError(t, err)
	assert.Len(t, read(head), 2)
}

// Erased for good: nothing that is kept says who it was, and what happened still counts.
func TestAnErasedPersonIsNobody(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	testkit.LoadAccounts(t, a)
	_, err := a.People.AddNote(ctx, head, "oren-vask", "rushes the zunderhook", "coaches")
	require.NoError(t, err)
	require.NoError(t, a.People.Hold(ctx, head, "oren-vask", people.NewHold{Regions: []safety.Region{"knee"}, Note: "zwisted"}))
	_ = personPage(t, a, head, "oren-vask")
	o := seen(a, t, "knee-cut", ledger.Shown)
	o.Partner = "oren-vask"
	_, err = a.Students.KeepCheck(ctx, head, students.KeepCheck{Student: "pilar-dunmore", Technique: "knee-cut", Side: "left", Observation: o})
	require.NoError(t, err)
	_ = reportWithStation(t, a, "oren-vask")
	_, _, err = a.Students.PlanTestDay(ctx, head, students.TestDayForm{Name: "Winter tests", On: new(calendar.DayOf(now) + 7), Start: "10:00", Minutes: 240, Examiners: []string{"ines-falk"}, People: []string{"oren-vask", "pilar-dunmore"}})
	require.NoError(t, err)
	data, err := a.People.Data(ctx, head, "oren-vask")
	require.NoError(t, err)
	assert.NotEmpty(t, data.Events)
	assert.Len(t, data.Accounts, 1)
	own, err := a.People.Data(ctx, testkit.Users[state.Student], "oren-vask")
	require.NoError(t, err)
	assert.Empty(t, own.Record.Notes, "what was written for coaches is not theirs to read")
	_, err = a.People.Data(ctx, testkit.Users[state.Student], "pilar-dunmore")
	assert.Error(t, err)

	assert.ErrorContains(t, a.People.Erase(ctx, head, "oren-vask", "Oren"), "as it stands there")
	assert.ErrorContains(t, a.People.Erase(ctx, head, "tomas-reyl", "Tomas Reyl"), "is a coach")
	before, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	visits := 0
	for s := range before.Sessions {
		visits += len(s.Here())
	}
	require.NoError(t, a.People.Erase(ctx, head, "oren-vask", "Oren Vask"))
	after, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	still := 0
	for s := range after.Sessions {
		still += len(s.Here())
	}
	assert.Equal(t, visits, still, "who was there counts still")
	assert.Empty(t, after.Visits("oren-vask"))
	held, anew, _, err := a.State.Reprojected(ctx, head.Academy)
	require.NoError(t, err)
	assert.Empty(t, held.Differences(anew))

	// Nothing in any table names them.
	file := filepath.Join(t.TempDir(), "all.zip")
	_, err = a.Academies.Backup(ctx, file)
	require.NoError(t, err)
	z, err := zip.OpenReader(file)
	require.NoError(t, err)
	defer z.Close()
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		r.Close()
		for _, name := range []string{"oren-vask", "Oren Vask", "rushes the zunderhook", "zwisted"} {
			if i := strings.Index(string(text), name); i >= 0 {
				assert.Fail(t, "named", "%s in %s: …%s…", name, f.Name, text[max(0, i-200):min(len(text), i+60)])
			}
		}
	}
	b, err := a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	out, err := exchange.Write(b)
	require.NoError(t, err)
	_, err = exchange.Read(out)
	assert.NoError(t, err, "and what is given out can be read")
}

func TestOldNotesAreForgotten(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	_, err := a.People.AddNote(ctx, head, "oren-vask", "old", "coaches")
	require.NoError(t, err)
	f, err := a.State.Read(ctx, head.Academy)
	require.NoError(t, err)
	page, err := a.Academies.Academy(ctx, head)
	require.NoError(t, err)
	form := page.Form
	form.Numbers["notes_months"] = 6
	moves, err := a.Academies.TrySettings(ctx, head, form)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(say.Texts(moves), " "), "older than 6 months are deleted")
	_, err = a.Academies.SaveSettings(ctx, head, form, f.Version("settings", "settings"))
	require.NoError(t, err)
	_, err = a.Academies.SaveSettings(ctx, head, form, f.Version("settings", "settings"))
	var conflict *state.ConflictError
	require.ErrorAs(t, err, &conflict)
	require.NoError(t, a.People.Forget(ctx))
	assert.Len(t, personPage(t, a, head, "oren-vask").Notes, 1)
	*at = at.AddDate(0, 7, 0)
	require.NoError(t, a.People.Forget(ctx))
	assert.Empty(t, personPage(t, a, head, "oren-vask").Notes)
}

// What a gate moves is said before it is kept.
func TestSettingsSayWhatTheyMove(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	page, err := a.Academies.Academy(ctx, head)
	require.NoError(t, err)
	form := func(spoil func(*academies.SettingsForm)) academies.SettingsForm {
		f := page.Form
		f.Gates, f.Numbers, f.Sheets = slices.Clone(f.Gates), maps.Clone(f.Numbers), slices.Clone(f.Sheets)
		f.Sheets[0].Segments = slices.Clone(f.Sheets[0].Segments)
		spoil(&f)
		return f
	}
	moves := func(spoil func(*academies.SettingsForm)) string {
		all, err := a.Academies.TrySettings(ctx, head, form(spoil))
		require.NoError(t, err)
		return strings.Join(say.Texts(all), " ")
	}
	set := func(key string, x float64) func(*academies.SettingsForm) {
		return func(f *academies.SettingsForm) { f.Numbers[key] = x }
	}
	assert.Empty(t, moves(func(*academies.SettingsForm) {}))
	assert.Contains(t, moves(func(f *academies.SettingsForm) { f.Gates = nil }), "a technique opens")
	assert.Contains(t, moves(func(f *academies.SettingsForm) { f.Gates[0].MinAge = 60 }), "one closes")
	assert.Contains(t, moves(set("pass_share", 0.9)), "stay as they were judged")
	assert.Contains(t, moves(set("season_need", 3)), "The next planning")
	assert.NotContains(t, moves(set("drilled_after", 0.5)), "0 standings of 0 people", "whoever met something has drilled it then")
	assert.Contains(t, moves(set("due_below", 0.95)), "becomes due")
	assert.Contains(t, moves(set("half_life_weeks", 52)), "chance of coming")
	assert.Contains(t, moves(func(f *academies.SettingsForm) { f.Sheets[0].Segments[0].Want++ }), "other minutes")

	for field, spoil := range map[string]func(*academies.SettingsForm){
		"zone":                      func(f *academies.SettingsForm) { f.Zone = "Middle/Nowhere" },
		"numbers.pass_share":        set("pass_share", 2),
		"numbers.live_tries":        set("live_tries", 2.5),
		"numbers.season_need":       set("season_need", 0),
		"numbers.nonsense":          set("nonsense", 1),
		"numbers.least_half_life":   set("least_half_life", 40),
		"resistance[2]":             func(f *academies.SettingsForm) { f.Resistance = []string{"a", "b", "", "d", "e"} },
		"signoffs[1]":               func(f *academies.SettingsForm) { f.Signoffs = []string{"legs", "legs"} },
		"sheets[0].segments[0].min": func(f *academies.SettingsForm) { f.Sheets[0].Segments[0].Min = 99 },
		"gates[0].technique":        func(f *academies.SettingsForm) { f.Gates = []safety.Gate{{Technique: "nothing"}} },
		"gates[0].tracks[0]": func(f *academies.SettingsForm) {
			f.Gates = []safety.Gate{{Class: "wrist", Tracks: []string{"nothing"}}}
		},
	} {
		_, err := a.Academies.SaveSettings(ctx, head, form(spoil), page.Version)
		var wrong *state.ValidationError
		if assert.ErrorAs(t, err, &wrong, field) {
			assert.Equal(t, field, wrong.Problems[0].Field)
		}
	}
}

// A gate of one technique keeps it from whoever is below, and out of tracks it does not name; it follows when its technique is
// merged into another.
func TestAGateOfOneTechnique(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	page, err := a.Academies.Academy(ctx, head)
	require.NoError(t, err)
	f, err := state.Known[known](ctx, a.State, head.Academy)
	require.NoError(t, err)
	i := slices.IndexFunc(f.Units, func(u academy.Unit) bool { return len(u.Tracks) > 0 && f.Gated(u, f.Tracks[u.Tracks[0]]) == "" })
	require.GreaterOrEqual(t, i, 0)
	unit := f.Units[i]
	technique := unit.Techniques[0]
	track := unit.Tracks[0]
	x := page.Form
	x.Gates = append(slices.Clone(x.Gates), safety.Gate{Technique: technique, MinAge: 70})
	_, err = a.Academies.SaveSettings(ctx, head, x, page.Version)
	require.NoError(t, err)
	f, err = state.Known[known](ctx, a.State, head.Academy)
	require.NoError(t, err)
	shut, _ := f.Library.Technique(technique)
	for _, p := range f.Students() {
		if len(f.Refusals(p, shut, f.Today())) == 0 {
			age, _ := p.Age(f.Today())
			assert.GreaterOrEqual(t, age, 70, p.Name)
		}
	}
	assert.Contains(t, f.Gated(unit, f.Tracks[track]).String(), "from age 70")
	x.Gates[len(x.Gates)-1] = safety.Gate{Technique: technique, Tracks: []string{"nowhere"}}
	_, err = a.Academies.SaveSettings(ctx, head, x, page.Version+1)
	assert.Error(t, err, "no such track")
	other := ""
	for id := range f.Tracks {
		if id != track {
			other = id
		}
	}
	x.Gates[len(x.Gates)-1] = safety.Gate{Technique: technique, Tracks: []string{other}}
	_, err = a.Academies.SaveSettings(ctx, head, x, page.Version+1)
	require.NoError(t, err)
	f, err = state.Known[known](ctx, a.State, head.Academy)
	require.NoError(t, err)
	assert.Contains(t, f.Gated(unit, f.Tracks[track]), "other tracks")
	history, err := a.Library.History(ctx, head, applibrary.SettingsRecord, "settings")
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(history), 3)
	was, err := a.Library.StateAt(ctx, head, applibrary.SettingsRecord, "settings", history[1].Edit)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(was.Lines, func(l applibrary.DiffLine) bool { return l.In == "then" && strings.Contains(l.Text, "from age 70") }), "reads what it was")
	_, err = a.Library.Restore(ctx, head, applibrary.SettingsRecord, "settings", history[1].Edit)
	require.NoError(t, err)
	_, err = a.Library.DeleteRecord(ctx, head, applibrary.SettingsRecord, "settings")
	assert.Error(t, err, "the settings are not taken out")
}
