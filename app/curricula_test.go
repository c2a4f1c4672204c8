package app_test

import (
	"bytes"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/curricula"
	"vereda/app/people"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/say"
	"vereda/exchange"
	"vereda/internal/testkit"
)

func curriculumPage(t *testing.T, a *app.App, id string) curricula.CurriculumPage {
	t.Helper()
	p, err := a.Curricula.Curriculum(t.Context(), head, id)
	require.NoError(t, err)
	return p
}

// A rank from nothing to published: the order keeps what is hard hard, and the
// version before is retired under the feet of nobody.
func TestARankFromNothingToPublished(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	require.Equal(t, 2, curriculumPage(t, a, "purple-1").Line.Students, "two stayed on the older version")
	before := map[string]int{}
	for _, id := range []string{"blue-1", "purple-1", "purple-2"} {
		before[id] = curriculumPage(t, a, id).Line.Students
	}
	id, _, err := a.Curricula.BeginCurriculum(t.Context(), head, curricula.NewCurriculum{Ladder: "adult", Rank: "blue"})
	require.NoError(t, err)
	require.Equal(t, "blue-2", id)
	require.Zero(t, curriculumPage(t, a, id).Line.Count, "it begins empty")
	_, err = a.Curricula.SetRequirement(t.Context(), head, id, curriculum.Requirement{Technique: "triangle", Rung: curriculum.Passed, BothSides: true, Weight: 1})
	require.NoError(t, err)
	_, err = a.Curricula.Publish(t.Context(), head, id, true)
	assert.ErrorContains(t, err, "Triangle strangle stands on", "what blocks is named")
	for range 20 {
		p := curriculumPage(t, a, id)
		if p.Line.Blocks == 0 {
			break
		}
		require.NotNil(t, p.Findings[0].Repair, p.Findings[0].Cause)
		_, err = a.Curricula.TakeRepair(t.Context(), head, id, p.Findings[0].ID)
		require.NoError(t, err)
	}
	p := curriculumPage(t, a, id)
	require.Zero(t, p.Line.Blocks)
	require.Empty(t, p.Order.Broken, "what was added went in front of what stands on it")
	_, err = a.Curricula.MoveRequirement(t.Context(), head, id, "guard-circles", len(p.Requirements))
	assert.ErrorContains(t, err, "Leg circles in guard", "an order in which it comes too late is refused")
	assert.Equal(t, p, curriculumPage(t, a, id), "nothing moved")

	_, err = a.Curricula.Publish(t.Context(), head, id, true)
	require.NoError(t, err)
	assert.Equal(t, "retired", curriculumPage(t, a, "blue-1").Line.State)
	for was, n := range before {
		assert.Equal(t, n, curriculumPage(t, a, was).Line.Students, "%s: everybody stays", was)
	}
	assert.Zero(t, curriculumPage(t, a, id).Line.Students)
	noDifference(t, a)
	for _, refused := range []curricula.NewCurriculum{{Ladder: "adult", Rank: "green"}, {Ladder: "nowhere", Rank: "blue"}, {From: "blue-9"}} {
		_, _, err = a.Curricula.BeginCurriculum(t.Context(), head, refused)
		assert.Error(t, err, "%+v", refused)
	}
}

// A move is an event; the projection made of the log alone says the same.
func TestStudentsAreMovedByAnEvent(t *testing.T) {
	a := open(t)
	v, err := a.Curricula.Version(t.Context(), head, "purple-2")
	require.NoError(t, err)
	assert.Equal(t, "Against version 1, which 2 students are on.", v.Against.String())
	assert.NotEmpty(t, slices.Concat(v.Added, v.Removed), "what it asks otherwise than what they are on")
	var stay []curricula.Affected
	for _, s := range v.Students {
		if !s.Moved {
			stay = append(stay, s)
		}
	}
	require.Len(t, stay, 2)
	assert.Equal(t, "version 1, retired", stay[0].Now.String())
	assert.NotEmpty(t, stay[0].Gains)
	for _, name := range stay[0].Loses {
		assert.NotContains(t, stay[0].Gains, name)
	}
	assert.ErrorContains(t, a.Curricula.MoveStudents(t.Context(), head, "purple-2", nil), "nobody is named")
	assert.ErrorContains(t, a.Curricula.MoveStudents(t.Context(), head, "brown-2", []string{stay[0].Student}), "a draft is nobody's yet")
	assert.ErrorContains(t, a.Curricula.MoveStudents(t.Context(), head, "blue-1", []string{stay[0].Student}), "does not work toward this rank")
	assert.ErrorContains(t, a.Curricula.MoveStudents(t.Context(), head, "purple-2", []string{"nobody"}), "nobody")
	require.NoError(t, a.Curricula.MoveStudents(t.Context(), head, "purple-2", []string{stay[0].Student}))
	require.NoError(t, a.Curricula.MoveStudents(t.Context(), head, "purple-2", []string{stay[0].Student}), "again changes nothing")
	assert.Equal(t, 1, curriculumPage(t, a, "purple-1").Line.Students)
	noDifference(t, a)
	after, err := a.Curricula.Version(t.Context(), head, "purple-2")
	require.NoError(t, err)
	for _, s := range after.Students {
		if s.Student == stay[0].Student {
			assert.True(t, s.Moved)
			assert.Equal(t, stay[0].After, s.Before, "the preview told the truth")
		}
	}
	text, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	moves := 0
	for _, x := range text.Events {
		if string(x.Kind) == "placement" {
			moves++
			assert.Equal(t, stay[0].Student, x.Student)
		}
	}
	assert.Equal(t, 1, moves, "one event, not two")
}

// Taken repairs, an order, acceptances and a list: each is undone to what was there,
// byte for byte.
func TestEveryEditOfADraftIsUndone(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	text := func() string {
		b, err := a.Academies.Export(t.Context(), head.Academy)
		require.NoError(t, err)
		out, err := exchange.Write(exchange.Bundle{Curricula: b.Curricula})
		require.NoError(t, err)
		return string(out)
	}
	draft := curriculumPage(t, a, "brown-2")
	require.NotEmpty(t, draft.Findings)
	for _, f := range draft.Findings {
		was := text()
		if f.Repair != nil {
			id, err := a.Curricula.TakeRepair(t.Context(), head, "brown-2", f.ID)
			require.NoError(t, err, f.ID)
			require.NotEqual(t, was, text(), f.ID)
			_, err = a.State.Undo(t.Context(), head, id)
			require.NoError(t, err)
			require.Equal(t, was, text(), f.ID)
		}
		id, err := a.Curricula.AcceptFinding(t.Context(), head, "brown-2", f.ID, "We know.")
		if f.Kind == curriculum.NotAllowed && f.Severity == curriculum.Blocks {
			assert.ErrorContains(t, err, "not accepted away", "a gate is not")
			continue
		}
		require.NoError(t, err, f.ID)
		quiet := curriculumPage(t, a, "brown-2")
		assert.Equal(t, draft.Line.Findings-1, quiet.Line.Findings)
		_, err = a.State.Undo(t.Context(), head, id)
		require.NoError(t, err)
		require.Equal(t, was, text(), f.ID)
	}
	was := text()
	id, err := a.Curricula.TakeOrder(t.Context(), head, "brown-2")
	require.NoError(t, err)
	assert.True(t, curriculumPage(t, a, "brown-2").Order.Same)
	assert.Empty(t, curriculumPage(t, a, "brown-2").Order.Broken)
	_, err = a.State.Undo(t.Context(), head, id)
	require.NoError(t, err)
	require.Equal(t, was, text())
	_, err = a.Curricula.AcceptFinding(t.Context(), head, "brown-2", "no such", "We know.")
	assert.ErrorContains(t, err, "look at the audit again")
	_, err = a.Curricula.AcceptFinding(t.Context(), head, "brown-1", draft.Findings[0].ID, "We know.")
	assert.ErrorContains(t, err, "Make a new version")
}

// A draft repaired, and accepted where nothing repairs, until the audit is quiet.
func TestADraftUntilTheAuditIsQuiet(t *testing.T) {
	a := open(t)
	for range 60 {
		p := curriculumPage(t, a, "brown-2")
		if p.Line.Findings == 0 {
			break
		}
		f := p.Findings[0]
		require.Empty(t, f.Accepted, "what is accepted comes last")
		var err error
		if f.Repair != nil {
			_, err = a.Curricula.TakeRepair(t.Context(), head, "brown-2", f.ID)
		} else {
			_, err = a.Curricula.AcceptFinding(t.Context(), head, "brown-2", f.ID, "Taught at the seminar.")
		}
		require.NoError(t, err)
	}
	assert.Zero(t, curriculumPage(t, a, "brown-2").Line.Findings)
	_, err := a.Curricula.Publish(t.Context(), head, "brown-2", true)
	require.NoError(t, err)
	require.True(t, curriculumPage(t, a, "brown-2").TakesBack, "nobody works on it yet")
	_, err = a.Curricula.Publish(t.Context(), head, "brown-2", false)
	require.NoError(t, err)
	require.False(t, curriculumPage(t, a, "blue-1").TakesBack)
	_, err = a.Curricula.Publish(t.Context(), head, "blue-1", false)
	assert.ErrorContains(t, err, "21 students work on it")
}

func TestListsOfRequirements(t *testing.T) {
	a := open(t)
	csv, err := a.Curricula.RequirementsCSV(t.Context(), head, "brown-2")
	require.NoError(t, err)
	p, err := a.Curricula.PreviewRequirements(t.Context(), head, "brown-2", exchange.TextFile{Name: "brown.csv", Text: csv})
	require.NoError(t, err)
	require.True(t, p.Ready, p.Summary)
	for _, r := range p.Rows {
		assert.Equal(t, "As it is", r.Summary.String(), r.Name)
	}
	was := curriculumPage(t, a, "brown-2")
	_, err = a.Curricula.TakeRequirements(t.Context(), head, "brown-2", exchange.TextFile{Name: "brown.csv", Text: csv})
	require.NoError(t, err)
	assert.Equal(t, was.Requirements, curriculumPage(t, a, "brown-2").Requirements, "out and in again loses nothing")

	bad := exchange.TextFile{Name: "bad.csv", Text: []byte("name;rung;sides;weight\ntriangulo;passed;both;1\nHip bmup;passed;both;1\nScissor sweep;flying;both;1\nScissor sweep;passed;three;1\nScissor sweep;passed;both;heavy\n")}
	p, err = a.Curricula.PreviewRequirements(t.Context(), head, "brown-2", bad)
	require.NoError(t, err)
	assert.False(t, p.Ready)
	assert.True(t, strings.HasPrefix(p.Rows[0].Summary.String(), "Added: passed"), p.Rows[0].Summary)
	assert.Equal(t, "Triangle strangle", p.Rows[0].Name, "by its alias")
	wrong := 0
	for _, r := range p.Rows {
		if r.Wrong {
			wrong++
			assert.NotEmpty(t, r.Summary)
			assert.Equal(t, wrong+2, r.Line)
		}
	}
	assert.Equal(t, 4, wrong)
	_, err = a.Curricula.TakeRequirements(t.Context(), head, "brown-2", bad)
	assert.ErrorContains(t, err, "4 of 5 rows are wrong")
	p, err = a.Curricula.PreviewRequirements(t.Context(), head, "brown-2", exchange.TextFile{Name: "x.csv", Text: []byte("a,b\n1,2\n")})
	require.NoError(t, err)
	assert.Contains(t, p.Summary, "x.csv: line 1: no column is called technique or name")
}

func TestSheetsCarryBothSidesAndTheCautions(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	for _, test := range []bool{false, true} {
		s, err := a.Curricula.RankSheet(t.Context(), head, "brown-1", test)
		require.NoError(t, err)
		require.NotEmpty(t, s.Items)
		assert.Equal(t, state.Defers, s.Defers)
		both, differ, cautions := 0, 0, 0
		for _, x := range s.Items {
			if len(x.Sides) == 2 {
				both++
				assert.Len(t, x.Sides[1].Points, len(x.Sides[0].Points), x.Name)
				if !assert.ObjectsAreEqual(x.Sides[0].Points, x.Sides[1].Points) {
					differ++
				}
				for _, s := range x.Sides {
					for _, k := range s.Points {
						assert.NotContains(t, k.Cue, "{", "%s: a side token is read", x.Name)
					}
				}
			}
			cautions += len(x.Cautions)
			if test {
				assert.NotContains(t, []string{"met", "drilled"}, strings.SplitN(x.Asked.String(), ",", 2)[0], x.Name)
			}
		}
		assert.Positive(t, both)
		assert.Positive(t, differ, "each side in its own words")
		assert.Positive(t, cautions)
		pdf, err := exchange.WriteSheetPDF(s, say.English)
		require.NoError(t, err)
		assert.True(t, bytes.HasPrefix(pdf, []byte("%PDF-")))
		assert.Contains(t, string(pdf[len(pdf)-8:]), "%%EOF")
	}
}

func TestLaddersAreKeptWithWhoIsOnThem(t *testing.T) {
	a := open(t)
	lines, err := a.Curricula.Ladders(t.Context(), head)
	require.NoError(t, err)
	var adult curricula.LadderLine
	for _, l := range lines {
		if l.ID == "adult" {
			adult = l
		}
	}
	require.Equal(t, "adult", adult.ID)
	l := adult.Ladder
	l.Ranks = l.Ranks[:len(l.Ranks)-4]
	_, _, err = a.Curricula.SaveLadder(t.Context(), head, l, adult.Version)
	assert.Contains(t, problems(t, err), "cannot go: ")
	_, _, err = a.Curricula.SaveLadder(t.Context(), head, adult.Ladder, adult.Version-1)
	assert.Error(t, err, "somebody else changed it meanwhile")
	id, change, err := a.Curricula.SaveLadder(t.Context(), head, curriculum.Ladder{Name: "No jacket", Audience: "adult", Context: "no-gi", Ranks: []curriculum.Rank{{ID: "start", Name: "Start", Belt: "white"}, {ID: "first", Name: "First", Belt: "blue", MinMonths: 6, MinClasses: 40, Stripes: 2}}}, 0)
	require.NoError(t, err)
	require.Equal(t, "no-jacket", id)
	first, _, err := a.Curricula.BeginCurriculum(t.Context(), head, curricula.NewCurriculum{Ladder: id, Rank: "first"})
	require.NoError(t, err)
	assert.Equal(t, "first-1", first)
	page, err := a.Curricula.LadderAtAGlance(t.Context(), head, id)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 0}, page.Counts)
	_, err = a.State.Undo(t.Context(), head, change)
	assert.ErrorContains(t, err, "the curriculum for First speaks of it now")

	page, err = a.Curricula.LadderAtAGlance(t.Context(), head, "adult")
	require.NoError(t, err)
	for _, r := range page.Rows {
		first := true
		for i, c := range r.Cells {
			if c.Rung == "" {
				continue
			}
			assert.Equal(t, !first, c.Rises, r.Name)
			if first {
				assert.Equal(t, r.Enters, i, r.Name)
			}
			first = false
		}
	}
}

// Who has come of age moves on by the rule of their ladder, and nobody else.
func TestMovingOnByTheRule(t *testing.T) {
	a := open(t)
	lines := func() (youth curricula.LadderLine) {
		all, err := a.Curricula.Ladders(t.Context(), head)
		require.NoError(t, err)
		for _, l := range all {
			if l.ID == "youth" {
				youth = l
			}
		}
		return youth
	}
	_, err := a.Curricula.MoveOn(t.Context(), head, "oren-vask")
	assert.ErrorContains(t, err, "Oren Vask stays on Adult ladder")
	_, err = a.Curricula.MoveOn(t.Context(), head, "nobody")
	assert.Error(t, err)
	youth := lines()
	before := len(youth.Moves)
	youth.Onward.Age = 8
	_, _, err = a.Curricula.SaveLadder(t.Context(), head, youth.Ladder, youth.Version)
	require.NoError(t, err)
	rule := lines()
	require.Greater(t, len(rule.Moves), before, "a lower age, more who move")
	who := rule.Moves[0]
	_, err = a.Curricula.MoveOn(t.Context(), head, who.Student)
	require.NoError(t, err)
	after := lines()
	assert.Equal(t, rule.Students-1, after.Students)
	for _, m := range after.Moves {
		assert.NotEqual(t, who.Student, m.Student)
	}
	noDifference(t, a)
	// It is a decision about a rank: another one corrects it.
	made := personPage(t, a, head, who.Student).Ranks[0]
	_, err = a.People.Promote(t.Context(), head, nil, []people.RankDecision{{Student: who.Student, Outcome: "not yet", Reason: "stays with the youth until summer", Replaces: made.ID}})
	require.NoError(t, err)
	assert.Equal(t, rule, lines())
	for rank := range rule.Onward.Ranks {
		rule.Onward.Ranks[rank] = ""
	}
	_, _, err = a.Curricula.SaveLadder(t.Context(), head, rule.Ladder, rule.Version)
	require.NoError(t, err)
	assert.Empty(t, lines().Moves, "every rank stays")
}

// Units made of a rank's order teach each of its techniques once, and what
// they stand on comes before.
func TestUnitsAreMadeOfTheOrder(t *testing.T) {
	a := open(t)
	_, err := a.Curricula.MakeUnits(t.Context(), head, "black-1", nil)
	assert.ErrorContains(t, err, "say which tracks")
	_, err = a.Curricula.MakeUnits(t.Context(), head, "black-1", []string{"nowhere"})
	assert.Error(t, err)
	before := curriculumPage(t, a, "black-1").Order.Groups
	change, err := a.Curricula.MakeUnits(t.Context(), head, "black-1", []string{"fundamentals"})
	require.NoError(t, err)
	b, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	in := map[string]int{}
	for _, u := range b.Units {
		if strings.HasPrefix(u.ID, "u-") {
			assert.LessOrEqual(t, len(u.Techniques), 3)
		}
		for _, x := range u.Techniques {
			in[x]++
		}
	}
	taught := 0
	for _, g := range before {
		for _, x := range g.Techniques {
			if in[x] > 0 {
				taught++
			}
			assert.LessOrEqual(t, in[x], 1, x)
		}
	}
	assert.Positive(t, taught)
	_, err = a.Curricula.MakeUnits(t.Context(), head, "black-1", []string{"fundamentals"})
	assert.ErrorContains(t, err, "in a unit already")
	_, err = a.State.Undo(t.Context(), head, change)
	require.NoError(t, err)
}

// The cells that may not stay empty are the academy's to say; the audit follows.
func TestWhichCellsMayStayEmpty(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	holes := func() (n int) {
		for _, f := range curriculumPage(t, a, "grey-1").Findings {
			if f.Kind == curriculum.EmptyCell {
				n++
			}
		}
		return n
	}
	page, err := a.Academies.Academy(t.Context(), head)
	require.NoError(t, err)
	require.True(t, page.Usual)
	usual := holes()
	require.Positive(t, usual)
	first, err := a.Academies.SetRequiredCells(t.Context(), head, []curriculum.RequiredCell{})
	require.NoError(t, err)
	assert.Zero(t, holes(), "none is asked for")
	b, err := a.Academies.Export(t.Context(), head.Academy)
	require.NoError(t, err)
	text, err := exchange.Write(b)
	require.NoError(t, err)
	back, err := exchange.Read(text)
	require.NoError(t, err)
	assert.NotNil(t, back.Settings.RequiredCells, "none at all travels as none at all")
	assert.Empty(t, back.Settings.RequiredCells)
	_, err = a.Academies.SetRequiredCells(t.Context(), head, []curriculum.RequiredCell{{Family: "leg entanglements", Kind: "control", From: 0}})
	require.NoError(t, err)
	assert.Equal(t, 1, holes())
	for says, wrong := range map[string][]curriculum.RequiredCell{
		"required_cells[0].family": {{Family: "nowhere", Kind: "sweep", From: 1}},
		"required_cells[0].kind":   {{Family: "guards", Kind: "movement", From: 1}},
		"required_cells[0].from":   {{Family: "guards", Kind: "sweep", From: 41}},
		"in the list twice":        {{Family: "guards", Kind: "sweep", From: 1}, {Family: "guards", Kind: "sweep", Audience: "adult", From: 2}},
		"adult or youth":           {{Family: "guards", Kind: "sweep", Audience: "all", From: 1}},
	} {
		_, err = a.Academies.SetRequiredCells(t.Context(), head, wrong)
		assert.Contains(t, problems(t, err), says)
	}
	_, err = a.State.Undo(t.Context(), head, first)
	assert.ErrorContains(t, err, "changed again since")
	_, err = a.Academies.SetRequiredCells(t.Context(), head, nil)
	require.NoError(t, err)
	assert.Equal(t, usual, holes(), "back to the usual ones")
}

// Whoever leaves the youth ladder at sixteen has never been asked a lock or a strangle, and is a colleague of those who were.
func TestTheBridgeFromYouthToAdults(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	pages, err := a.Curricula.Bridges(ctx, coach, "youth")
	require.NoError(t, err)
	require.Len(t, pages, 5, "from every rank the rule leads on")
	byRank := map[string]curricula.BridgePage{}
	for _, p := range pages {
		byRank[p.Rank] = p
	}
	assert.Empty(t, byRank["grey"].Items, "white asks nothing")
	orange := byRank["orange"]
	assert.Equal(t, "Adult ladder, Blue", orange.To)
	at := slices.IndexFunc(orange.Items, func(x curricula.BridgeLine) bool { return x.Technique == "straight-arm-guard" })
	require.GreaterOrEqual(t, at, 0)
	lock := orange.Items[at]
	assert.Equal(t, []string{"elbow"}, lock.Risks)
	assert.Equal(t, "not met", lock.Had)
	assert.Positive(t, lock.From, "the gates keep it from children")
	assert.Less(t, len(byRank["green"].Items), len(orange.Items), "a rank more on the youth ladder, less to catch up")
	require.Len(t, byRank["grey"].Students, 1, "only one of them is within a year of sixteen")
	assert.Equal(t, "Otis Calloway", byRank["grey"].Students[0].Name)
	assert.Equal(t, calendar.MustDay("2027-05-17"), byRank["grey"].Students[0].On)
	none, err := a.Curricula.Bridges(ctx, coach, "adult")
	require.NoError(t, err)
	assert.Empty(t, none, "nobody leaves it")
	_, err = a.Curricula.Bridges(ctx, coach, "attic")
	assert.Error(t, err)
}
