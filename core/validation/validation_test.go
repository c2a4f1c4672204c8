package validation

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// lines writes what was found, field by field.
func lines(f Found) []string {
	var all []string
	for _, p := range f {
		all = append(all, p.Error())
	}
	return all
}

func TestTextsAndNames(t *testing.T) {
	for name, c := range map[string]struct {
		judge func(*Found)
		want  []string
	}{
		"a name":                            {func(f *Found) { f.Name("name", "Ōsoto", "technique") }, nil},
		"a name of characters, not bytes":   {func(f *Found) { f.Name("name", strings.Repeat("柔", MostName), "technique") }, nil},
		"one character too many":            {func(f *Found) { f.Name("name", strings.Repeat("柔", MostName+1), "technique") }, []string{"name: has 121 characters: keep it under 120"}},
		"no name":                           {func(f *Found) { f.Name("name", "", "unit") }, []string{"name: is empty: give the unit a name"}},
		"a name of blanks":                  {func(f *Found) { f.Name("name", " \t ", "unit") }, []string{"name: is empty: give the unit a name"}},
		"a text that is empty":              {func(f *Found) { f.Text("note", "", MostText) }, nil},
		"a text of lines and tabs":          {func(f *Found) { f.Text("note", "one\n\ttwo", MostText) }, nil},
		"a text that is no text":            {func(f *Found) { f.Text("note", "a\xffb", MostText) }, []string{"note: holds characters that cannot be shown: type it again"}},
		"a text with a bell in it":          {func(f *Found) { f.Text("note", "a\x07b", MostText) }, []string{"note: holds characters that cannot be shown: type it again"}},
		"an identifier":                     {func(f *Found) { f.ID("id", "knee-cut.2") }, nil},
		"no identifier":                     {func(f *Found) { f.ID("id", "") }, []string{"id: is empty: give it an identifier"}},
		"an identifier that goes elsewhere": {func(f *Found) { f.ID("id", "../etc") }, []string{`id: "../etc": use letters, digits, dots and dashes`}},
		"an identifier that asks":           {func(f *Found) { f.ID("id", "a?b") }, []string{`id: "a?b": use letters, digits, dots and dashes`}},
		"an identifier with a blank":        {func(f *Found) { f.ID("id", "a b") }, []string{`id: "a b": use letters, digits, dots and dashes`}},
		"a number at its bounds":            {func(f *Found) { f.Between("n", 1, 1, 5, "weeks"); f.Between("n", 5, 1, 5, "weeks") }, nil},
		"a number below":                    {func(f *Found) { f.Between("n", 0, 1, 5, "weeks") }, []string{"n: 0 is outside 1 to 5 weeks"}},
		"a number above":                    {func(f *Found) { f.Between("n", 6, 1, 5, "weeks") }, []string{"n: 6 is outside 1 to 5 weeks"}},
		"as many lines as may be":           {func(f *Found) { f.Count("list", 5, 5) }, nil},
		"one line more":                     {func(f *Found) { f.Count("list", 6, 5) }, []string{"list: holds 6 lines: keep it under 5"}},
	} {
		var f Found
		c.judge(&f)
		assert.Equal(t, c.want, lines(f), name)
	}
	var long Found
	long.ID("id", strings.Repeat("a", MostID+1))
	assert.Contains(t, long[0].What.String(), "is longer than 64 characters")
}

// What another judge found comes under a prefix, and stays as it was there.
func TestProblemsComeUnderAPrefix(t *testing.T) {
	var inner, outer Found
	inner.Bad("name", "is empty")
	inner = append(inner, Problem{Field: "note", What: "looks odd", Warn: true})
	outer.Add("coach.", inner)
	outer.Add("", inner[:1])
	assert.Equal(t, []string{"coach.name: is empty", "coach.note: looks odd", "name: is empty"}, lines(outer))
	assert.True(t, outer[1].Warn)
	assert.Equal(t, "name", inner[0].Field)
}

func TestShorten(t *testing.T) {
	for in, want := range map[string]string{"": "", "short": "short", "Ōsoto": "Ōsoto"} {
		assert.Equal(t, want, Shorten(in, 10))
	}
	cut := Shorten(strings.Repeat("柔", 50), 10)
	assert.LessOrEqual(t, len([]rune(cut)), 10)
	assert.True(t, Readable(cut), "cut between characters")
	assert.False(t, Readable("\xff"))
}

// What turns the direction of a text, or cannot be seen at all, is no name.
func TestANameCanBeSeen(t *testing.T) {
	for name, fine := range map[string]bool{"Ada": true, "Łukasz": true, "李": true, "\u202e": false, "\u202eevil": false, "\u200b\u200b": false, "\u2066a": false, " \t": false, "\u0301": false} {
		var found Found
		found.Name("name", name, "person")
		assert.Equal(t, fine, len(found) == 0, "%q", name)
	}
}
