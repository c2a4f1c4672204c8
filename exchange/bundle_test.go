package exchange

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
)

func demo(t require.TestingT) []byte {
	text, err := os.ReadFile("../demo/lantern-street.json")
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
	lib := library.New(b.Positions, b.Techniques)
	movements, techniques := 0, 0
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
		if tech.Kind == library.Movement {
			movements++
		} else {
			techniques++
		}
	}
	assert.GreaterOrEqual(t, len(b.Positions), 12)
	assert.GreaterOrEqual(t, techniques, 30)
	assert.GreaterOrEqual(t, movements, 8)
}

func TestBadBundlesAreRefusedWithPlaceAndMend(t *testing.T) {
	for name, c := range map[string]struct{ old, new, says string }{
		"cut short":      {"\"facts\": [", "\"facts\": [{", "line "},
		"another format": {Format, "something/9", "another kind of file"},
		"unknown field":  {`"made_on"`, `"maid_on"`, `unknown field "maid_on"`},
		"bad side token": {"{right}", "{rihgt}", "not a side token"},
		"lost reference": {`"technique": "level-change-step"`, `"technique": "nothing"`, `"nothing" is not in the library`},
		"bad time":       {`"start": "18:00"`, `"start": "six"`, "not a time such as 18:00"},
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
		for i, f := range after.Facts {
			require.Equal(t, before.Facts[i].Day-before.MadeOn, f.Day-today)
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
