package exchange_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
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
	for _, tech := range b.Techniques {
		faults := 0
		for _, k := range tech.KeyPoints {
			faults += len(k.Faults)
		}
		assert.GreaterOrEqual(t, len(tech.KeyPoints), 5, tech.ID)
		assert.GreaterOrEqual(t, faults, 3, tech.ID)
		assert.NotEmpty(t, tech.Forks, tech.ID)
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
	assert.GreaterOrEqual(t, len(b.Positions), 30)
	assert.GreaterOrEqual(t, techniques, 160)
	assert.GreaterOrEqual(t, movements, 16)
	assert.GreaterOrEqual(t, layered, 10)
	assert.GreaterOrEqual(t, drilled, 10)
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
