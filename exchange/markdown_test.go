package exchange

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/library"
	"vereda/core/safety"
)

// words draws a text a person could have pasted from anywhere: empty lines,
// bullets, backslashes, backticks, bars, spaces at the ends.
func words(t *rapid.T, label string) string {
	parts := []string{"{Right} arm", "- gate", "1. ", "`", "\\", "\n", "\n\n", " ", "|", "at `x`", " at", "at", ": ", ", ", "#", "## Faults", "any", "---", "é", "\t", "\r", "> ", "n", "danger", "- mend: x", "“", "\u2028", "\u00a0"}
	n := rapid.IntRange(0, 6).Draw(t, label)
	var b strings.Builder
	for range n {
		b.WriteString(rapid.SampledFrom(parts).Draw(t, label))
	}
	return b.String()
}

func text(t *rapid.T, label string) library.Text { return library.Text(words(t, label)) }

func some[T any](t *rapid.T, label string, draw func(i int) T) []T {
	var all []T
	for i := range rapid.IntRange(0, 3).Draw(t, label) {
		all = append(all, draw(i))
	}
	return all
}

func drawPlace(t *rapid.T, label string) *library.Place {
	if rapid.Bool().Draw(t, label) {
		return nil
	}
	return &library.Place{Position: rapid.SampledFrom([]string{"mount", "side-pin"}).Draw(t, label), Part: rapid.SampledFrom([]library.Part{library.Attack, library.Defend}).Draw(t, label)}
}

// drawTechnique fills every field a technique has.
func drawTechnique(t *rapid.T) library.Technique {
	id := func(kind string) func(i int) string {
		return func(i int) string { return kind + words(t, kind) + fmt.Sprint(i) }
	}
	flag := func(label string) bool { return rapid.Bool().Draw(t, label) }
	x := library.Technique{ID: "a-technique", Name: "N" + words(t, "name"), Aliases: some(t, "aliases", id("alias")), Kind: rapid.SampledFrom(library.Kinds).Draw(t, "kind"),
		From: drawPlace(t, "from"), To: drawPlace(t, "to"), Finish: flag("finish"), Taught: rapid.SampledFrom([]library.Side{"", library.Left, library.Right}).Draw(t, "taught"),
		Context: rapid.SampledFrom([]library.Context{library.Gi, library.NoGi, library.Both}).Draw(t, "context"), ContextNote: text(t, "note"), Summary: text(t, "summary"), Caution: text(t, "caution"),
		Risks: some(t, "risks", func(int) safety.RiskClass { return rapid.SampledFrom(safety.Classes()).Draw(t, "risk") }), SecondsPerRep: 7, TeachMinutes: 9, Formerly: some(t, "formerly", id("old"))}
	faults := 0
	x.KeyPoints = some(t, "points", func(i int) library.KeyPoint {
		k := library.KeyPoint{ID: id("k")(i), Cue: text(t, "cue"), Detail: text(t, "detail"), Limb: text(t, "limb"), Gate: flag("gate"), Checkpoint: flag("checkpoint"), Moment: text(t, "moment"), Closes: text(t, "closes")}
		if flag("measured") {
			k.Measure = &library.Measure{Of: "angle", Value: words(t, "value")}
		}
		k.Faults = some(t, "faults", func(int) library.Fault {
			faults++
			return library.Fault{ID: id("f")(faults), What: text(t, "what"), Consequence: text(t, "gives"), LeadsTo: drawPlace(t, "leads"), Correction: text(t, "mend"), Danger: flag("danger")}
		})
		return k
	})
	x.Forks = some(t, "forks", func(i int) library.Fork {
		f := library.Fork{ID: id("r")(i), Reaction: text(t, "reaction"), Answer: words(t, "answer"), Then: text(t, "then"), BackTo: words(t, "back")}
		if len(x.KeyPoints) > 0 && flag("bound") {
			f.KeyPoint = x.KeyPoints[0].ID
		}
		return f
	})
	x.Prerequisites = some(t, "needs", func(i int) library.Prerequisite {
		return library.Prerequisite{Technique: id("t")(i), Reason: text(t, "reason")}
	})
	x.Bodies = some(t, "bodies", func(i int) library.BodyNote { return library.BodyNote{Body: id("b")(i), Note: text(t, "body")} })
	x.Questions = some(t, "questions", func(int) library.Text { return text(t, "question") })
	x.Layers = some(t, "layers", func(i int) library.Layer {
		return library.Layer{Defence: library.Defences[i], Lesson: text(t, "lesson"), Partner: text(t, "partner")}
	})
	x.Drills = some(t, "drills", func(i int) library.Drill {
		return library.Drill{ID: id("d")(i), Name: words(t, "drill"), Form: rapid.SampledFrom(library.Forms).Draw(t, "form"), Pace: "slow", Resistance: i, How: text(t, "how"), Wins: text(t, "wins")}
	})
	x.Media = some(t, "media", func(i int) library.Attachment {
		return library.Attachment{ID: id("m")(i), KeyPoint: words(t, "point"), File: "abc", Type: "image/png", Name: words(t, "file"), Bytes: int64(i), At: "1:05", Shows: text(t, "shows")}
	})
	x.Drawings = some(t, "drawings", func(i int) library.Drawing {
		lines := rapid.SliceOfN(rapid.StringMatching(`[a-z {}0-9,.:;-]{0,20}`), 0, 3).Draw(t, "lines")
		return library.Drawing{ID: id("v")(i), KeyPoint: words(t, "point"), Shows: text(t, "shows"), Lines: library.Text(strings.Join(lines, "\n"))}
	})
	return x
}

func same(t require.TestingT, want, got any) {
	w, err := json.Marshal(want)
	require.NoError(t, err)
	g, err := json.Marshal(got)
	require.NoError(t, err)
	require.Equal(t, string(w), string(g))
}

// Whatever a technique holds, Markdown gives it back, and as JSON gives it.
func TestTechniqueRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := drawTechnique(t)
		md, err := WriteTechnique(x)
		require.NoError(t, err)
		r, err := ReadRecord("x.md", md)
		require.NoError(t, err, "%s", md)
		same(t, x, r.Technique)
		again, err := WriteTechnique(*r.Technique)
		require.NoError(t, err)
		require.Equal(t, string(md), string(again))
	})
}

func TestOtherRecordsRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := library.Position{ID: "p", Name: "P" + words(t, "name"), Family: "pins", Aliases: some(t, "aliases", func(i int) string { return words(t, "alias") + "a" }), Attacker: words(t, "attacker"), Defender: words(t, "defender")}
		md, err := WritePosition(p)
		require.NoError(t, err)
		r, err := ReadRecord("p.md", md)
		require.NoError(t, err, "%s", md)
		same(t, p, r.Position)

		s := library.VariantSet{ID: "s", Name: "S" + words(t, "name"), Question: words(t, "question"), House: words(t, "house"), Reason: words(t, "reason"), Variants: []library.Variant{{Technique: "a" + words(t, "id"), Gains: words(t, "gains"), Costs: words(t, "costs")}}}
		if flag := rapid.Bool().Draw(t, "grid"); flag {
			s.Choices = []library.VariantChoice{{Name: "c" + words(t, "choice"), Options: []string{"any", "o" + words(t, "option")}}}
			s.Variants[0].At = []string{"any"}
		}
		md, err = WriteSet(s)
		require.NoError(t, err)
		r, err = ReadRecord("s.md", md)
		require.NoError(t, err, "%s", md)
		same(t, s, r.Set)

		table := library.ForkTable{ID: "t", Name: "T", At: library.Place{Position: "mount", Part: library.Defend}, Note: words(t, "note")}
		table.Cues = []library.Cue{{ID: "row", Values: []string{"any", "x" + words(t, "value")}}, {ID: "c" + words(t, "cue"), Values: []string{"1", "2,3"}}}
		table.Rows = []library.Row{}
		for i := range rapid.IntRange(0, 3).Draw(t, "rows") {
			row := library.Row{ID: fmt.Sprint("r", i) + words(t, "row"), When: map[string][]string{}, Then: "t" + words(t, "then"), Priority: i + 1}
			for _, c := range table.Cues {
				if rapid.Bool().Draw(t, "open") {
					row.When[c.ID] = c.Values[:rapid.IntRange(1, 2).Draw(t, "n")]
				}
			}
			table.Rows = append(table.Rows, row)
		}
		md, err = WriteTable(table)
		require.NoError(t, err)
		r, err = ReadRecord("t.md", md)
		require.NoError(t, err, "%s", md)
		same(t, table, r.Table)
	})
}

// A file as somebody writes it by hand: no identifiers, wrapped lines, faults
// bound by number.
const handWritten = `---
name: Far-side underhook lift
kind: sweep
from: half-guard
to: single-leg/attack
taught: left
context: both
risks: []
seconds_per_rep: 9
teach_minutes: 8
---

Win the far underhook and lift them
over the trapped knee.

## Key points

1. Elbow inside first
   The hand follows
   the elbow.
   - limb: your {right} arm
2. Shoulder under theirs ` + "`under`" + ` gate checkpoint
   - measure: angle: 45°

## Faults

- Reaches with the hand ` + "`f1`" + ` at ` + "`1`" + `
  - gives: The whizzer comes down.
  - leads to: side-pin/defend
  - mend: Elbow first.

## Forks

- They whizzer hard. at ` + "`under`" + `
  - back to: under

## Stands on

- hip-escape: Room for the elbow.
`

// What is only blanks comes back too; as a block of the front matter it did not.
func TestBlanksInTheFrontMatter(t *testing.T) {
	for _, blank := range []string{"\t\n", "\n", " \n ", "\t", "\r\n", "a\n\t", "\n- b: c"} {
		set := library.VariantSet{ID: "s", Name: "S" + blank, House: blank, Variants: []library.Variant{{Technique: "a"}}}
		text, err := WriteSet(set)
		require.NoError(t, err)
		back, err := ReadRecord("s.md", text)
		require.NoError(t, err, "%q: %s", blank, text)
		same(t, set, back.Set)
	}
}

func TestHandWrittenFile(t *testing.T) {
	r, err := ReadRecord("lift.md", []byte(strings.ReplaceAll(handWritten, "\n", "\r\n")))
	require.NoError(t, err)
	x := r.Technique
	assert.Equal(t, "far-side-underhook-lift", x.ID)
	assert.Equal(t, library.Text("Win the far underhook and lift them over the trapped knee."), x.Summary)
	assert.Equal(t, []string{"k1", "under"}, []string{x.KeyPoints[0].ID, x.KeyPoints[1].ID})
	assert.Equal(t, library.Text("The hand follows the elbow."), x.KeyPoints[0].Detail)
	assert.Equal(t, library.Text("The whizzer comes down."), x.KeyPoints[0].Faults[0].Consequence)
	assert.Equal(t, &library.Place{Position: "half-guard", Part: library.Attack}, x.From)
	assert.Equal(t, library.Fork{ID: "r1", KeyPoint: "under", Reaction: "They whizzer hard.", BackTo: "under"}, x.Forks[0])
	assert.Equal(t, "45°", x.KeyPoints[1].Measure.Value)
}

func TestMarkdownErrorsNamePlaceAndMend(t *testing.T) {
	for name, x := range map[string]struct{ change, with, says string }{
		"no front matter":       {"---\nname", "name", "line 1: it does not begin with ---"},
		"unknown field":         {"kind: sweep", "knd: sweep", "knd is not a field of this record"},
		"unknown section":       {"## Forks", "## Forkes", `line 32: there is no section "forkes" in a technique: use Caution`},
		"unknown label":         {"- mend:", "- remedy:", `line 30: "remedy" is not said of a point here: use gives, leads to, mend`},
		"fault bound to none":   {"at `1`", "at `7`", "line 27: the fault \"Reaches with the hand\" is bound to no key point"},
		"unknown flag":          {"gate checkpoint", "gates", `"gates" after the identifier: only gate or checkpoint`},
		"measure without value": {"angle: 45°", "steep", `measure "steep": write what is measured and how much`},
		"words after a list":    {"## Faults", "Mind this.\n\n## Faults", `line 25: "Mind this." stands at the edge after a list`},
		"unknown record":        {"name: Far", "record: song\nname: Far", `record "song" is not a kind of record`},
	} {
		_, err := ReadRecord("lift.md", []byte(strings.Replace(handWritten, x.change, x.with, 1)))
		require.Error(t, err, name)
		assert.Contains(t, err.Error(), x.says, name)
		assert.True(t, strings.HasPrefix(err.Error(), "lift.md: "), name)
	}
}

// A zip that unpacks to more than is read at once is refused while it unpacks.
func TestZipBombIsRefused(t *testing.T) {
	large := TextFile{"a.md", make([]byte, largestAll+10)}
	packed, err := Zip([]TextFile{large})
	require.NoError(t, err)
	assert.Less(t, len(packed), 1<<20)
	_, err = Unzip("bomb.zip", packed)
	require.ErrorContains(t, err, "import it in parts")
}

// Whatever is thrown at a reader, it answers; and what it accepts it can write and read again.
func FuzzReadRecord(f *testing.F) {
	f.Add([]byte(handWritten))
	f.Add([]byte("---\nrecord: fork table\nid: t\nname: T\nat: mount/defend\n---\n\n## Cues\n\n- collar: held, free\n\n## Rows\n\n| row | collar | then | priority |\n| --- | --- | --- | --- |\n| r1 | any | x | 1 |\n"))
	f.Add([]byte("---\nrecord: variant set\nid: s\nname: S\n---\n\n## Variants\n\n- a\n  - gains: x\n"))
	f.Add([]byte("---\nrecord: position\nid: p\n---\n\n## Attacker\n\nx\n"))
	f.Fuzz(func(t *testing.T, in []byte) {
		r, err := ReadRecord("x.md", in)
		if err != nil {
			assert.NotEmpty(t, err.Error())
			return
		}
		if r.Technique == nil || slices.Contains([]string{r.Technique.ID, r.Technique.Name}, "") {
			return
		}
		md, err := WriteTechnique(*r.Technique)
		require.NoError(t, err)
		again, err := ReadRecord("x.md", md)
		require.NoError(t, err, "%q", md)
		want, _ := json.Marshal(r.Technique)
		got, _ := json.Marshal(again.Technique)
		assert.Equal(t, string(want), string(got))
	})
}

func FuzzUnzip(f *testing.F) {
	packed, err := Zip([]TextFile{{"a.md", []byte(handWritten)}})
	require.NoError(f, err)
	f.Add(packed)
	f.Fuzz(func(t *testing.T, in []byte) {
		files, err := Unzip("x.zip", in)
		if err != nil {
			assert.NotEmpty(t, err.Error())
		}
		ReadFolder(files)
	})
}
