package exchange

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/say"
)

// brief is a class with so many techniques, each with so many lines.
func brief(techniques, lines int) Brief {
	b := Brief{Academy: "Lantern Street", Class: "Fundamentals", Start: "18:30", Mat: "Mat 1", Lead: "Sol Reed", On: calendar.MustDay("2026-11-24"), Minutes: 75, Note: "Left side is open.", NoteBy: "Hana",
		Why: []string{"It stands on the bridge."}, Movements: []string{"Bridging: hips first."}, Segments: []BriefSegment{{10, "Warm-up", ""}, {20, "Drill", "24 each"}}, Cautions: []string{"Tap early."}, Defers: "A clinician decides."}
	for i := range techniques {
		t := BriefTechnique{Name: fmt.Sprint("Technique ", i), Kind: []string{"teach", "review"}[i%2], Summary: "Under them, and over."}
		for j := range lines {
			line := fmt.Sprintf("line %d of it, said in some words so that it is as long as such a line is", j)
			t.Points, t.Gates, t.Watch, t.Asks, t.Forks = append(t.Points, line), append(t.Gates, line), append(t.Watch, line), append(t.Asks, line), append(t.Forks, line)
		}
		b.Techniques = append(b.Techniques, t)
	}
	return b
}

func TestABriefIsOnePageHoweverMuchThereIs(t *testing.T) {
	before, scratch := 99.0, newPaper("P", "")
	for _, c := range []struct {
		techniques, lines int
		short             bool
	}{{1, 1, false}, {2, 4, false}, {3, 3, false}, {4, 9, true}} {
		b := brief(c.techniques, c.lines)
		size, short := fitBrief(scratch, b)
		pdf := newPaper("P", "")
		writeBrief(pdf, b, size, short)
		assert.Equal(t, c.short, short, "%d techniques of %d lines", c.techniques, c.lines)
		if !short {
			assert.Equal(t, 1, pdf.PageCount())
		}
		assert.LessOrEqual(t, size, before, "the more there is, the smaller it is set")
		before = size
	}
	text, err := WriteBrief(brief(2, 3))
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(text), "%PDF-"))
}

func TestABriefAsHTMLNeedsNothingElse(t *testing.T) {
	mean := brief(1, 1)
	mean.Class, mean.Note, mean.Lead = `<script>alert(1)</script>`, `"quoted" & <b>bold</b>`, ""
	text, err := WriteBriefsHTML([]Brief{brief(2, 2), mean, brief(4, 9)})
	require.NoError(t, err)
	html := string(text)
	assert.Equal(t, 3, strings.Count(html, "<article"), "a sheet each")
	assert.NotContains(t, html, "<script>")
	assert.Contains(t, html, "&lt;script&gt;")
	assert.Contains(t, html, "no coach yet")
	assert.Equal(t, 1, strings.Count(html, "Shortened to one page"), "the one that did not fit says so")
	for _, from := range []string{"src=", "href=", "@import", "url("} {
		assert.NotContains(t, html, from, "it fetches nothing")
	}
}

func TestARanksSheetIsPrinted(t *testing.T) {
	s := RankSheet{Academy: "Lantern Street", Title: "Blue belt", Under: "As of March", Defers: "Competition rules differ."}
	for i := range 30 {
		s.Items = append(s.Items, SheetItem{Name: fmt.Sprint("Ōren's way ", i), Or: "another", Asked: "passed, both sides", Summary: "Under them.", Cautions: []say.Sentence{"Let go early."},
			Sides: []SheetSide{{Side: "right", Points: []SheetPoint{{Cue: "Grip", Gate: true}, {Cue: "Turn"}}}, {Side: "left", Points: []SheetPoint{{Cue: "Grip"}}}}})
	}
	booklet, err := WriteSheetPDF(s, say.English)
	require.NoError(t, err)
	s.Test = true
	test, err := WriteSheetPDF(s, say.English)
	require.NoError(t, err)
	for _, pdf := range [][]byte{booklet, test} {
		assert.True(t, strings.HasPrefix(string(pdf), "%PDF-"))
		assert.Greater(t, strings.Count(string(pdf), "/Type /Page\n"), 1)
	}
	assert.NotEqual(t, len(booklet), len(test), "a test sheet has room to mark")
	empty, err := WriteSheetPDF(RankSheet{Title: "White belt"}, say.English)
	require.NoError(t, err, "a rank that asks for nothing has a sheet too")
	assert.Equal(t, 1, strings.Count(string(empty), "/Type /Page\n"))
}

func TestFilesAreReadEachByItself(t *testing.T) {
	technique, err := WriteTechnique(library.Technique{ID: "bridge", Name: "Bridge", Kind: library.Movement, SecondsPerRep: 4, TeachMinutes: 5, Context: "both", Summary: "Hips up."})
	require.NoError(t, err)
	zip, err := Zip([]TextFile{{"techniques/bridge.md", technique}, {"readme.md", []byte("# ours")}, {".hidden.md", []byte("x")}, {"__MACOSX/bridge.md", []byte("x")}, {"notes.txt", []byte("x")}, {AttachmentFolder + "abc", []byte("picture")}})
	require.NoError(t, err)
	nothing, err := Zip([]TextFile{{"notes.txt", []byte("x")}})
	require.NoError(t, err)
	for name, c := range map[string]struct {
		file    TextFile
		records int
		wrong   string
	}{
		"a record":                 {TextFile{"bridge.md", technique}, 1, ""},
		"whatever case its name":   {TextFile{"BRIDGE.MD", technique}, 1, ""},
		"a zip":                    {TextFile{"all.zip", zip}, 1, ""},
		"a zip of nothing":         {TextFile{"all.zip", nothing}, 0, "there is no Markdown or JSON file in it"},
		"no zip at all":            {TextFile{"all.zip", []byte("PK but not really")}, 0, "it is not a zip, or a damaged one"},
		"a file that is too long":  {TextFile{"long.md", make([]byte, largestText+1)}, 0, "it is larger than 1 MB"},
		"JSON that is none":        {TextFile{"b.json", []byte("{")}, 0, "b.json: "},
		"a bundle without one":     {TextFile{"b.json", []byte(`{"format":"vereda/9"}`)}, 0, "b.json"},
		"words that are no record": {TextFile{"x.md", []byte("just some words")}, 0, "x.md"},
		"an attached file":         {TextFile{AttachmentFolder + "abc", []byte("picture")}, 0, ""},
	} {
		records, wrong := 0, ""
		for _, f := range ReadFolder([]TextFile{c.file}) {
			if f.Record.Technique != nil {
				records++
				assert.Equal(t, "bridge", f.Record.Technique.ID, name)
			}
			wrong += strings.Join(f.Wrong, " ")
		}
		assert.Equal(t, c.records, records, name)
		if c.wrong == "" {
			assert.Empty(t, wrong, name)
		} else {
			assert.Contains(t, wrong, c.wrong, name)
		}
	}
	all := ReadFolder([]TextFile{{"bad.md", []byte("x")}, {"bridge.md", technique}})
	require.Len(t, all, 2, "one bad file spoils no other one")
	_, _, _, _, err = LibraryOf(all)
	assert.ErrorContains(t, err, "bad.md", "but a whole is a whole")
	_, techniques, _, _, err := LibraryOf(all[1:])
	require.NoError(t, err)
	assert.Len(t, techniques, 1)
	attached := Attachments([]TextFile{{"all.zip", zip}, {"broken.zip", []byte("x")}, {AttachmentFolder + "def", []byte("clip")}})
	assert.Equal(t, []TextFile{{"abc", []byte("picture")}, {"def", []byte("clip")}}, attached)
}

func TestALibraryOutOfABundle(t *testing.T) {
	b := Bundle{Format: Format, Positions: []library.Position{{ID: "mount", Name: "Mount"}}, Techniques: []library.Technique{{ID: "bridge", Name: "Bridge"}}, Sets: []library.VariantSet{{ID: "v", Name: "Ways"}}, Tables: []library.ForkTable{{ID: "t", Name: "Answers"}}}
	text, err := Write(b)
	require.NoError(t, err)
	var names []string
	for _, f := range ReadFolder([]TextFile{{"academy.json", text}}) {
		assert.Empty(t, f.Wrong)
		names = append(names, f.Name)
	}
	assert.Equal(t, []string{"academy.json, position mount", "academy.json, technique bridge", "academy.json, variant set v", "academy.json, fork table t"}, names)
	empty, err := Write(Bundle{Format: Format})
	require.NoError(t, err)
	read := ReadFolder([]TextFile{{"academy.json", empty}})
	require.Len(t, read, 1)
	assert.Contains(t, strings.Join(read[0].Wrong, ""), "there is no library in it")
}
