package app_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"io"
	"slices"
	"strings"
	"testing"

	applibrary "vereda/app/library"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/state"
	"vereda/core/library"
	"vereda/exchange"
	"vereda/internal/testkit"
)

func drag() library.Technique {
	return library.Technique{Name: "Elbow lift from the side pin", Kind: "escape", From: &library.Place{Position: "side-pin", Part: library.Defend}, To: &library.Place{Position: "turtle", Part: library.Defend},
		Taught: library.Right, Context: library.Both, Summary: "Lift the {right} elbow and turn out.", SecondsPerRep: 6, TeachMinutes: 6, KeyPoints: []library.KeyPoint{{ID: "k1", Cue: "{Right} elbow up", Gate: true}}}
}

func problems(t *testing.T, err error) string {
	t.Helper()
	var refused *state.ValidationError
	require.ErrorAs(t, err, &refused)
	return refused.Error()
}

func TestATechniqueFromNothingToRestored(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	bad := drag()
	bad.From, bad.KeyPoints[0].Cue = nil, ""
	_, _, err := a.Library.AddTechnique(ctx, head, bad)
	assert.Contains(t, problems(t, err), "from: is empty")
	assert.Contains(t, problems(t, err), "key_points[0].cue")

	id, _, err := a.Library.AddTechnique(ctx, head, drag())
	require.NoError(t, err)
	assert.Equal(t, "elbow-lift-from-the-side-pin", id)
	_, _, err = a.Library.AddTechnique(ctx, head, drag())
	assert.Contains(t, problems(t, err), "is taken")

	page, err := a.Library.Technique(ctx, head, id, library.Left)
	require.NoError(t, err)
	assert.Equal(t, library.Text("Left elbow up"), page.Shown.KeyPoints[0].Cue)
	changed := page.Written
	changed.Summary = "Turn out under the {right} elbow, left foot first."
	_, err = a.Library.SaveTechnique(ctx, head, changed, page.Version)
	require.NoError(t, err)
	page, err = a.Library.Technique(ctx, head, id, "")
	require.NoError(t, err)
	require.Len(t, page.Warnings, 1, "left outside a token is worth a look")
	_, err = a.Library.SaveTechnique(ctx, head, changed, page.Version-1)
	var stale *state.ConflictError
	require.ErrorAs(t, err, &stale)

	states, err := a.Library.History(ctx, coach, applibrary.TechniqueRecord, id)
	require.NoError(t, err)
	require.Len(t, states, 2)
	assert.True(t, states[0].Current)
	assert.Equal(t, "Ines Falk", states[1].By)
	then, err := a.Library.StateAt(ctx, coach, applibrary.TechniqueRecord, id, states[1].Edit)
	require.NoError(t, err)
	assert.Contains(t, then.Lines, applibrary.DiffLine{Text: "Lift the {right} elbow and turn out.", In: "then"})
	assert.Contains(t, then.Lines, applibrary.DiffLine{Text: "Turn out under the {right} elbow, left foot first.", In: "now"})
	_, err = a.Library.Restore(ctx, head, applibrary.TechniqueRecord, id, states[1].Edit)
	require.NoError(t, err)
	page, err = a.Library.Technique(ctx, head, id, "")
	require.NoError(t, err)
	assert.Equal(t, drag().Summary, page.Written.Summary)

	taken, err := a.Library.DeleteRecord(ctx, head, applibrary.TechniqueRecord, id)
	require.NoError(t, err)
	_, err = a.Library.Technique(ctx, head, id, "")
	var missing *state.NotFoundError
	require.ErrorAs(t, err, &missing)
	_, err = a.State.Undo(ctx, head, taken)
	require.NoError(t, err)
	_, err = a.Library.Technique(ctx, head, id, "")
	require.NoError(t, err)
	noDifference(t, a)
}

func TestWhatIsSpokenOfStays(t *testing.T) {
	a := open(t)
	_, err := a.Library.DeleteRecord(t.Context(), head, applibrary.TechniqueRecord, "hip-escape")
	assert.Contains(t, problems(t, err), "is spoken of by")
	assert.Contains(t, problems(t, err), "merge it into another record")
	_, err = a.Library.DeleteRecord(t.Context(), head, applibrary.PositionRecord, "mount")
	assert.Contains(t, problems(t, err), "more: remove it there first")
	_, err = a.Library.DeleteRecord(t.Context(), head, applibrary.SetRecord, "mount-out")
	require.NoError(t, err)
	_, err = a.Library.DeleteRecord(t.Context(), head, applibrary.TableRecord, "mount-bottom")
	require.NoError(t, err)
}

// A merge rewrites curricula and units and is understood in what happened; undo
// takes all of it back.
func TestAMergeIsFollowedEverywhere(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	before, err := a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	edit, err := a.Library.MergeTechniques(ctx, head, "elbow-knee-mount", "bridge-roll", []string{"questions"})
	require.NoError(t, err)
	noDifference(t, a)
	after, err := a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	text, err := exchange.Write(after)
	require.NoError(t, err)
	_, err = exchange.Read(text)
	require.NoError(t, err, "what is left holds together")
	for _, c := range after.Curricula {
		_, still := c.Find("bridge-roll")
		assert.False(t, still)
	}
	for _, x := range after.Units {
		assert.NotContains(t, x.Techniques, "bridge-roll")
	}
	page, err := a.Library.Technique(ctx, head, "bridge-roll", "")
	require.NoError(t, err, "its old name leads to the new one")
	assert.Equal(t, "elbow-knee-mount", page.Line.ID)
	assert.Contains(t, page.Written.Aliases, "Bridge and roll")
	_, _, err = a.Library.AddTechnique(ctx, head, library.Technique{ID: "bridge-roll", Name: "Another", Kind: library.Movement, Context: library.Both, SecondsPerRep: 4, TeachMinutes: 4})
	assert.Contains(t, problems(t, err), "was merged into")
	_, err = a.Library.MergeTechniques(ctx, head, "elbow-knee-mount", "bridge-roll", nil)
	assert.Contains(t, problems(t, err), "is that record already")
	_, err = a.Library.MergeTechniques(ctx, head, "elbow-knee-mount", "heel-drag", []string{"colour"})
	assert.Contains(t, problems(t, err), "is not a section")
	_, err = a.Library.MergeTechniques(ctx, head, "fold-shield", "step-around-shield", nil)
	assert.Contains(t, problems(t, err), "the whole choice of The knee shield")

	_, err = a.State.Undo(ctx, head, edit)
	require.NoError(t, err)
	noDifference(t, a)
	undone, err := a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err)
	want, _ := json.Marshal(before)
	got, _ := json.Marshal(undone)
	assert.True(t, string(want) == string(got), "undo restores every word")
}

const knee = `---
name: Knee-slice pass
kind: pass
from: split-leg/attack
to: side-pin/attack
taught: right
context: both
seconds_per_rep: 8
teach_minutes: 8
---

Slice the knee across the thigh with the underhook.

## Key points

1. {Left} underhook first ` + "`u`" + ` gate
`

func folder() []exchange.TextFile {
	return []exchange.TextFile{
		{Name: "ours/knee-slice.md", Text: []byte(knee)},
		{Name: "ours/shrimp.md", Text: []byte(strings.Replace(strings.Replace(strings.Replace(strings.Replace(knee, "Knee-slice pass", "Shrimping", 1), "kind: pass", "kind: movement\naliases: [Hip escapes]", 1), "from: split-leg/attack\n", "", 1), "to: side-pin/attack\n", "", 1))},
		{Name: "ours/broken.md", Text: []byte("no front matter")},
		{Name: "ours/new.md", Text: []byte(strings.Replace(strings.Replace(knee, "Knee-slice pass", "Far ankle tow", 1), "Slice the knee across the thigh with the underhook.", "Tow the far ankle and sit to the left.", 1))},
	}
}

func TestImportOfAFolder(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	in := applibrary.LibraryImport{Files: folder(), Decisions: []applibrary.Decision{}}
	p, err := a.Library.PreviewImport(ctx, head, in)
	require.NoError(t, err)
	require.Len(t, p.Rows, 4)
	slice, shrimp, broken, fresh := p.Rows[0], p.Rows[1], p.Rows[2], p.Rows[3]
	assert.True(t, slice.Open)
	require.NotEmpty(t, slice.Duplicates)
	assert.Equal(t, "knee-cut", slice.Duplicates[0].Technique)
	assert.NotEmpty(t, slice.Duplicates[0].Sections)
	assert.Equal(t, "hip-escape", shrimp.Duplicates[0].Technique)
	assert.Equal(t, "wrong", broken.What)
	assert.Contains(t, broken.Wrong[0], "ours/broken.md: line 1: it does not begin with ---")
	assert.Equal(t, "Added", fresh.Summary.String())
	require.Len(t, fresh.Warnings, 1)
	assert.Contains(t, fresh.Warnings[0].String(), `"left" is written outside a token`)
	assert.False(t, p.Ready)
	assert.Equal(t, "3 of 4 rows wait for a decision.", p.Summary.String())
	_, err = a.Library.TakeImport(ctx, head, in)
	assert.Contains(t, problems(t, err), "wait for a decision", "all or nothing")
	_, err = a.Library.Technique(ctx, head, "far-ankle-tow", "")
	assert.Error(t, err, "nothing was written")

	in.Decisions = []applibrary.Decision{{Item: slice.Item, Do: "merge", Into: "knee-cut", Take: []string{"summary"}}, {Item: shrimp.Item, Do: "take"}, {Item: broken.Item, Do: "leave"}}
	p, err = a.Library.PreviewImport(ctx, head, in)
	require.NoError(t, err)
	assert.True(t, p.Ready, "%v", p)
	assert.Equal(t, "2 added, 0 rewritten, 1 merged, 0 as they are, 1 left out.", p.Summary.String())
	edit, err := a.Library.TakeImport(ctx, head, in)
	require.NoError(t, err)
	merged, err := a.Library.Technique(ctx, head, "knee-slice-pass", "")
	require.NoError(t, err)
	assert.Equal(t, "knee-cut", merged.Line.ID)
	assert.Equal(t, library.Text("Slice the knee across the thigh with the underhook."), merged.Written.Summary)
	assert.Greater(t, len(merged.Written.KeyPoints), 1, "the key points are the library's")
	noDifference(t, a)

	again := applibrary.LibraryImport{Files: folder()[:2], Decisions: nil}
	p, err = a.Library.PreviewImport(ctx, head, again)
	require.NoError(t, err)
	assert.Equal(t, "Was merged into Knee cut pass before: nothing to do", p.Rows[0].Summary.String())
	assert.Equal(t, "same", p.Rows[1].What, "sending it again changes nothing")

	_, err = a.State.Undo(ctx, head, edit)
	require.NoError(t, err)
	_, err = a.Library.Technique(ctx, head, "shrimping", "")
	assert.Error(t, err)
}

// An import whose records speak of nothing is refused whole, and says which.
func TestAnImportMustHoldTogether(t *testing.T) {
	a := open(t)
	lost := strings.Replace(knee, "from: split-leg/attack", "from: attic/attack", 1)
	lost = strings.Replace(lost, "Knee-slice pass", "Attic pass", 1)
	p, err := a.Library.PreviewImport(t.Context(), head, applibrary.LibraryImport{Files: []exchange.TextFile{{Name: "attic.md", Text: []byte(lost)}}})
	require.NoError(t, err)
	assert.False(t, p.Ready)
	require.Len(t, p.Problems, 1)
	assert.Contains(t, p.Problems[0].String(), `technique attic-pass: from: position "attic" is not in the library`)
	attic := "---\nrecord: position\nid: attic\nname: Attic\nfamily: pins\n---\n\n## Attacker\n\nAbove.\n\n## Defender\n\nBelow.\n"
	p, err = a.Library.PreviewImport(t.Context(), head, applibrary.LibraryImport{Files: []exchange.TextFile{{Name: "attic.md", Text: []byte(lost)}, {Name: "place.md", Text: []byte(attic)}}})
	require.NoError(t, err)
	assert.True(t, p.Ready, "what it speaks of may come with it: %s", p.Summary)
	twice, err := a.Library.PreviewImport(t.Context(), head, applibrary.LibraryImport{Files: []exchange.TextFile{{Name: "a.md", Text: []byte(attic)}, {Name: "b.md", Text: []byte(attic)}}})
	require.NoError(t, err)
	assert.Contains(t, twice.Rows[1].Wrong[0].String(), "is in this import twice, also in a.md")
}

// The library goes out as a folder with its pictures and comes back into an
// academy that has nothing.
func TestTheFolderTravelsWithItsPictures(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 4, 4))))
	kept, err := a.Library.Attach(t.Context(), head, bytes.NewReader(picture.Bytes()))
	require.NoError(t, err)
	page, err := a.Library.Technique(t.Context(), head, "knee-cut", "")
	require.NoError(t, err)
	page.Written.Media = []library.Attachment{{ID: "m1", File: kept.Digest, Type: "image/png", Name: "square.png", Bytes: kept.Bytes, Shows: "A grey square"}}
	_, err = a.Library.SaveTechnique(t.Context(), head, page.Written, page.Version)
	require.NoError(t, err)
	packed, err := a.Library.ExportFolder(t.Context(), head)
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(packed), int64(len(packed)))
	require.NoError(t, err)
	assert.Greater(t, len(z.File), 250)
	p, err := a.Library.PreviewImport(t.Context(), head, applibrary.LibraryImport{Files: []exchange.TextFile{{Name: "library.zip", Text: packed}}})
	require.NoError(t, err)
	for _, r := range p.Rows {
		assert.Equal(t, "same", r.What, "%s: %v", r.ID, r.Changes)
	}
	empty, err := exchange.Read([]byte(`{"format":"vereda-bundle/1","made_on":"2026-11-24","academy":{"id":"harbour","name":"Harbour Row Mats"}}`))
	require.NoError(t, err)
	_, err = a.Academies.Import(t.Context(), empty)
	require.NoError(t, err)
	there := state.User{Academy: "harbour", Roles: []state.Role{state.Head}, Person: "somebody"}
	_, err = a.Library.TakeImport(t.Context(), there, applibrary.LibraryImport{Files: []exchange.TextFile{{Name: "library.zip", Text: packed}}})
	require.NoError(t, err)
	ours, err := a.Library.Library(t.Context(), head)
	require.NoError(t, err)
	theirs, err := a.Library.Library(t.Context(), there)
	require.NoError(t, err)
	want, _ := json.Marshal([]any{ours.Positions(), ours.Techniques(), ours.VariantSets(), ours.ForkTables()})
	got, _ := json.Marshal([]any{theirs.Positions(), theirs.Techniques(), theirs.VariantSets(), theirs.ForkTables()})
	assert.True(t, string(want) == string(got))
	tech, _ := theirs.Technique("knee-cut")
	require.Len(t, tech.Drawings, 1, "a drawing is among its lines")
	file, kind, err := a.Library.Attachment(t.Context(), there, tech.Media[0].File)
	require.NoError(t, err)
	defer file.Close()
	assert.Equal(t, "image/png", kind)
}

func TestPicturesAreShownOnlyWhereTheyAreKept(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 4, 4))))
	_, err := a.Library.Attach(ctx, head, strings.NewReader("<script>"))
	assert.Contains(t, problems(t, err), "is not a picture")
	kept, err := a.Library.Attach(ctx, head, bytes.NewReader(picture.Bytes()))
	require.NoError(t, err)
	_, _, err = a.Library.Attachment(ctx, head, kept.Digest)
	assert.Error(t, err, "no record shows it yet")
	page, err := a.Library.Technique(ctx, head, "hip-bump", "")
	require.NoError(t, err)
	x := page.Written
	x.Media = []library.Attachment{{ID: "m1", File: strings.Repeat("0", 64), Type: "image/png", Name: "a.png", Bytes: 1, Shows: "A grey square"}}
	_, err = a.Library.SaveTechnique(ctx, head, x, page.Version)
	assert.Contains(t, problems(t, err), "is not stored here")
	x.Media[0].File = kept.Digest
	_, err = a.Library.SaveTechnique(ctx, head, x, page.Version)
	require.NoError(t, err)
	file, _, err := a.Library.Attachment(ctx, testkit.Users[state.Student], kept.Digest)
	require.NoError(t, err)
	content, err := io.ReadAll(file)
	require.NoError(t, err)
	file.Close()
	assert.Equal(t, picture.Bytes(), content)
	page, err = a.Library.Technique(ctx, head, "hip-bump", "")
	require.NoError(t, err)
	x.Media = append(x.Media, library.Attachment{ID: "m2", File: strings.Repeat("1", 64), Type: "image/png", Name: "b.png", Bytes: 1, Shows: "Nothing"})
	_, err = a.Library.SaveTechnique(ctx, head, x, page.Version)
	assert.Contains(t, problems(t, err), "is not stored here", "one that is missing beside one that is there")
	_, err = a.Academies.Export(ctx, head.Academy)
	require.NoError(t, err, "so that everything can be given out")
	_, _, err = a.Library.Attachment(ctx, state.User{Academy: "lantern-street", Roles: []state.Role{state.Head}}, "../../etc/passwd")
	assert.Error(t, err)
}

func TestForkTableFromHoleToWhole(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	table := library.ForkTable{Name: "Under the side pin", At: library.Place{Position: "side-pin", Part: library.Defend}, Table: library.Table{
		Cues: []library.Cue{{ID: "crossface", Values: []string{"in", "out"}}, {ID: "hips", Values: []string{"near", "switched"}}},
		Rows: []library.Row{{ID: "r1", When: map[string][]string{"crossface": {"out"}}, Then: "side-reguard", Priority: 1}, {ID: "r2", When: map[string][]string{"crossface": {"out"}, "hips": {"near"}}, Then: "side-underhook-up", Priority: 2}}}}
	v, err := a.Library.JudgeTable(ctx, coach, table)
	require.NoError(t, err)
	assert.Equal(t, [][]applibrary.CueValues{{{Cue: "crossface", Values: []string{"in"}}}}, v.Findings.Uncovered)
	assert.Equal(t, []string{"r2"}, v.Findings.Unreachable)
	assert.True(t, v.Smaller && v.MinimalExact)
	id, _, err := a.Library.SaveForkTable(ctx, head, table, 0)
	require.NoError(t, err)
	page, err := a.Library.ForkTable(ctx, head, id)
	require.NoError(t, err)
	table = page.Table
	table.Rows = append(v.Minimal, library.Row{ID: "r9", When: map[string][]string{"crossface": {"in"}}, Then: "side-underhook-up", Priority: 1})
	_, _, err = a.Library.SaveForkTable(ctx, head, table, page.Version)
	require.NoError(t, err)
	page, err = a.Library.ForkTable(ctx, head, id)
	require.NoError(t, err)
	assert.Empty(t, page.Verdict.Findings.Uncovered)
	broken := table
	broken.Rows = []library.Row{{ID: "r1", When: map[string][]string{"crossface": {"sideways"}}, Then: "nothing", Priority: 0}}
	v, err = a.Library.JudgeTable(ctx, head, broken)
	require.NoError(t, err)
	assert.Nil(t, v.Findings)
	assert.NotEmpty(t, v.Problems)
	_, _, err = a.Library.SaveForkTable(ctx, head, broken, page.Version)
	assert.Contains(t, problems(t, err), "is not one of its values")
}

// A missed row goes back to the first box and a known one climbs; the question
// does not give its answer away.
func TestQuizMovesRowsBetweenBoxes(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	student := testkit.Users[state.Student]
	table, err := a.Library.ForkTable(ctx, head, "half-bottom")
	require.NoError(t, err)
	last := ""
	for range 30 {
		q, err := a.Library.Quiz(ctx, student, "half-bottom", last)
		require.NoError(t, err)
		assert.NotEqual(t, last, q.Row)
		assert.True(t, len(q.Choices) >= 3 && len(q.Choices) <= 5)
		s := library.Situation{}
		for _, c := range q.Situation {
			s[c.Cue] = c.Value
		}
		row, ok := table.Table.Decides(s)
		require.True(t, ok)
		assert.Equal(t, q.Row, row.ID)
		right := row.Then != "knee-shield-up"
		given := row.Then
		if !right {
			given = "far-foot-roll"
		}
		v, err := a.Library.AnswerQuiz(ctx, student, "half-bottom", applibrary.QuizAnswer{Situation: q.Situation, Answer: given, Ms: 1200})
		require.NoError(t, err)
		assert.Equal(t, right, v.Right)
		if !right {
			assert.Equal(t, 1, v.Box)
		}
		last = q.Row
	}
	q, err := a.Library.Quiz(ctx, student, "half-bottom", "")
	require.NoError(t, err)
	assert.Equal(t, 30, q.Asked)
	assert.InDelta(t, 1.2, q.Seconds, 0.01)
	other, err := a.Library.Quiz(ctx, coach, "half-bottom", "")
	require.NoError(t, err)
	assert.Zero(t, other.Asked, "everybody has a card file of their own")
	v, err := a.Library.AnswerQuiz(ctx, coach, "half-bottom", applibrary.QuizAnswer{Situation: []applibrary.CueValue{{Cue: "underhook", Value: "mine"}, {Cue: "head", Value: "free"}, {Cue: "they", Value: "sit back"}}, Answer: "dogfight entri", Free: true})
	require.NoError(t, err)
	assert.True(t, v.Right, "an alias, misspelt, is understood: %s", v.Given)
	_, err = a.Library.AnswerQuiz(ctx, coach, "half-bottom", applibrary.QuizAnswer{Situation: []applibrary.CueValue{{Cue: "underhook", Value: "mine"}}, Answer: "x"})
	assert.Contains(t, problems(t, err), "draw again")
	sheet, err := a.Library.ReactionRound(ctx, coach, "half-bottom", 20, 4)
	require.NoError(t, err)
	assert.Len(t, sheet.Calls, 20)
	least, most := 99, 0
	for _, c := range sheet.Counts {
		least, most = min(least, c.Times), max(most, c.Times)
	}
	assert.LessOrEqual(t, most-least, 1, "rows come up fairly")
}

func TestMapOfWhatIsAskedAndHeld(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	all, err := a.Library.Map(ctx, head, applibrary.MapFilter{})
	require.NoError(t, err)
	assert.Len(t, all.Layout.Spots, 42)
	assert.False(t, all.Filtered)
	blue, err := a.Library.Map(ctx, head, applibrary.MapFilter{Curriculum: "blue-1"})
	require.NoError(t, err)
	assert.Less(t, len(blue.Arrows), len(all.Arrows))
	assert.NotEmpty(t, blue.Report.Opens)
	assert.Equal(t, all.Layout, blue.Layout, "a filter moves nothing on the picture")
	young, err := a.Library.Map(ctx, head, applibrary.MapFilter{Age: 10})
	require.NoError(t, err)
	for _, arrow := range young.Arrows {
		assert.NotNil(t, arrow.To, "the gates leave no finish to children: %v", arrow.Techniques)
	}
	held, err := a.Library.Map(ctx, coach, applibrary.MapFilter{Student: "oren-vask"})
	require.NoError(t, err)
	assert.Less(t, len(held.Arrows), len(blue.Arrows))
	_, err = a.Library.Map(ctx, testkit.Users[state.Student], applibrary.MapFilter{Student: "pilar-dunmore"})
	assert.Error(t, err, "a student sees only their own")
	_, err = a.Library.Map(ctx, testkit.Users[state.Student], applibrary.MapFilter{Student: "oren-vask"})
	require.NoError(t, err)

	c, err := a.Library.Chain(ctx, head, applibrary.MapFilter{}, "half-guard/attack", "finish", nil, false, false)
	require.NoError(t, err)
	require.True(t, c.Found)
	first := c.Steps[0].Technique
	turned, err := a.Library.Chain(ctx, head, applibrary.MapFilter{}, "half-guard/attack", "finish", nil, false, true)
	require.NoError(t, err)
	require.Len(t, turned.Steps, len(c.Steps))
	for i, s := range turned.Steps {
		assert.Equal(t, c.Steps[i].Technique, s.Technique, "turned, the way is the same")
		if s.Side != "" {
			assert.Equal(t, string(library.Side(c.Steps[i].Side).Other()), s.Side)
		}
		assert.Equal(t, library.Text(c.Steps[i].Opens).Sided(), library.Text(s.Opens).Sided())
	}
	assert.NotEqual(t, c.Steps[0].Opens, turned.Steps[0].Opens, "and its first cue is of the other side")
	other, err := a.Library.Chain(ctx, head, applibrary.MapFilter{}, "half-guard/attack", "finish", []string{first}, false, false)
	require.NoError(t, err)
	assert.NotEqual(t, first, other.Steps[0].Technique)
	none, err := a.Library.Chain(ctx, head, applibrary.MapFilter{Age: 10}, "half-guard/attack", "finish", nil, true, false)
	require.NoError(t, err)
	assert.False(t, none.Found)
	assert.NotEmpty(t, none.Reached)
	_, err = a.Library.Chain(ctx, head, applibrary.MapFilter{}, "attic/attack", "finish", nil, false, false)
	assert.Contains(t, problems(t, err), `position "attic" is not in the library`)
	_, err = a.Library.Chain(ctx, head, applibrary.MapFilter{}, "mount/beside", "finish", nil, false, false)
	assert.Contains(t, problems(t, err), "neither attack nor defend")
}

func TestPositionsAndVariantsAreKept(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	id, _, err := a.Library.SavePosition(ctx, head, library.Position{Name: "Ledge pin", Family: "pins", Attacker: "Above.", Defender: "Below."}, 0)
	require.NoError(t, err)
	all, err := a.Library.Positions(ctx, coach)
	require.NoError(t, err)
	assert.Len(t, all, 43)
	_, _, err = a.Library.SavePosition(ctx, head, library.Position{ID: id, Name: "Ledge pin", Family: "roofs", Attacker: "Above.", Defender: "Below."}, all[slices.IndexFunc(all, func(p applibrary.PositionLine) bool { return p.ID == id })].Version)
	assert.Contains(t, problems(t, err), "is not a family")
	_, _, err = a.Library.SaveVariants(ctx, head, library.VariantSet{Name: "Mount finishes", Variants: []library.Variant{{Technique: "straight-arm-mount", Gains: "x", Costs: "y"}}}, 0)
	assert.Contains(t, problems(t, err), "a choice needs two at least")
	_, _, err = a.Library.SaveVariants(ctx, head, library.VariantSet{Name: "Mount finishes", House: "mount-bent-arm", Reason: "It stays on top.",
		Variants: []library.Variant{{Technique: "straight-arm-mount", Gains: "x", Costs: "y"}, {Technique: "mount-bent-arm", Gains: "x", Costs: "y"}}}, 0)
	require.NoError(t, err)
	page, err := a.Library.Technique(ctx, head, "mount-bent-arm", "")
	require.NoError(t, err)
	require.Len(t, page.Sets, 1)
	assert.True(t, page.Sets[0].House)
	alike, err := a.Library.Duplicates(ctx, head, "mount-bent-arm")
	require.NoError(t, err)
	assert.NotContains(t, alike, "mount-bent-arm")
}
