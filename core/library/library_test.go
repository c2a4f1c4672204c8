package library

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/safety"
)

func sample() Technique {
	return Technique{
		ID: "hip-bump", Name: "Hip bump sweep", Aliases: []string{"Sit-up sweep", "Raspado de quadril"}, Kind: "sweep",
		From: &Place{"closed-guard", Defend}, To: &Place{"mount", Attack}, Taught: Right, Context: Both,
		Summary: "Sit up over your {right} hip. {Left} hand posts.", SecondsPerRep: 8, TeachMinutes: 6,
		KeyPoints: []KeyPoint{{ID: "post", Cue: "Post the {left} hand", Gate: true,
			Faults: []Fault{{ID: "f1", What: "Posts on the {right}", Consequence: "Falls {left}", Correction: "Other hand"}}}},
		Forks: []Fork{{ID: "k1", KeyPoint: "post", Reaction: "Leans to your {left}", Answer: "hip-bump", BackTo: "post"}},
	}
}

func TestMirrorSwapsEverySide(t *testing.T) {
	m := sample().Mirror()
	assert.Equal(t, Left, m.Taught)
	assert.Equal(t, "Sit up over your left hip. Right hand posts.", m.Summary.Read())
	assert.Equal(t, Text("Post the {right} hand"), m.KeyPoints[0].Cue)
	assert.Equal(t, Text("Falls {right}"), m.KeyPoints[0].Faults[0].Consequence)
	assert.Equal(t, Text("Leans to your {right}"), m.Forks[0].Reaction)
	assert.Equal(t, Text("Post the {left} hand"), sample().KeyPoints[0].Cue, "the original is not written through")
	assert.Equal(t, "Post the left hand", sample().On(Right).KeyPoints[0].Cue.Read())
	assert.Equal(t, Text("Post the right hand"), sample().On(Left).KeyPoints[0].Cue)
	solo := sample()
	solo.Taught = ""
	assert.Equal(t, solo, solo.Mirror(), "what has no sides has no other side")
}

func TestMirrorTwiceIsIdentity(t *testing.T) {
	words := rapid.SliceOf(rapid.SampledFrom([]string{"{left}", "{right}", "{Left}", "{Right}", "{", "}", "left", "hip ", "é", "{x}"}))
	rapid.Check(t, func(t *rapid.T) {
		text := Text(strings.Join(words.Draw(t, "words"), ""))
		require.Equal(t, text, text.Mirror().Mirror())
		tech := sample()
		tech.Summary, tech.KeyPoints[0].Detail, tech.Forks[0].Then = text, text, text
		require.Equal(t, tech, tech.Mirror().Mirror())
		require.Equal(t, text.Sided(), text.Mirror().Read() != text.Read())
	})
}

func TestTextProblems(t *testing.T) {
	assert.Empty(t, Text("Turn to the {left}, not {Right}.").Problems())
	bare := Text("Grip with the Left hand").Problems()
	require.Len(t, bare, 1)
	assert.True(t, bare[0].Warn)
	assert.Contains(t, bare[0].What.String(), "{left}")
	unknown := Text("Grip with the {lefft} hand").Problems()
	require.Len(t, unknown, 1)
	assert.False(t, unknown[0].Warn)
}

func lib() *Library {
	one := sample()
	return New([]Position{{ID: "closed-guard", Name: "Closed guard", Family: "guards"}, {ID: "mount", Name: "Mount", Family: "pins"}},
		[]Technique{one,
			{ID: "elbow-escape", Name: "Elbow–knee escape", Aliases: []string{"Shrimp escape", "Fuga de cotovelo"}, Prerequisites: []Prerequisite{{"hip-escape", "moves the hips"}}},
			{ID: "hip-escape", Name: "Hip escape", Aliases: []string{"Camarão"}, Kind: Movement, Prerequisites: []Prerequisite{{"elbow-escape", "a ring"}}},
			{ID: "bridge", Name: "Bridge and roll", Aliases: []string{"Upa", "Trap and roll"}}})
}

func TestSearch(t *testing.T) {
	for _, c := range []struct{ query, first, matched string }{
		{"camarao", "hip-escape", "Camarão"},
		{"CAMARÃO", "hip-escape", "Camarão"},
		{"kamarao", "hip-escape", "Camarão"},
		{"shirmp escape", "elbow-escape", "Shrimp escape"},
		{"quadrill raspado", "hip-bump", "Raspado de quadril"},
		{"brige", "bridge", "Bridge and roll"},
		{"bri", "bridge", "Bridge and roll"},
		{"upa", "bridge", "Upa"},
		{"hip bump", "hip-bump", "Hip bump sweep"},
		{"sit up", "hip-bump", "Sit-up sweep"},
	} {
		hits := lib().Search(c.query)
		if assert.NotEmpty(t, hits, c.query) {
			assert.Equal(t, c.first, hits[0].Technique.ID, c.query)
			assert.Equal(t, c.matched, hits[0].Matched, c.query)
		}
	}
	assert.Empty(t, lib().Search("triangle"))
	assert.Empty(t, lib().Search("upe"), "three letters leave no room for a slip")
	assert.Len(t, lib().Search("  "), 4)
}

// The judge of editDistance: try every way to get from one word to the other.
func TestEditDistanceAgainstRecursion(t *testing.T) {
	var slow func(a, b []rune) int
	slow = func(a, b []rune) int {
		if len(a) == 0 || len(b) == 0 {
			return len(a) + len(b)
		}
		if a[0] == b[0] {
			return slow(a[1:], b[1:])
		}
		best := 1 + min(slow(a[1:], b), slow(a, b[1:]), slow(a[1:], b[1:]))
		if len(a) > 1 && len(b) > 1 && a[0] == b[1] && a[1] == b[0] {
			best = min(best, 1+slow(a[2:], b[2:]))
		}
		return best
	}
	rapid.Check(t, func(t *rapid.T) {
		word := rapid.SliceOfN(rapid.RuneFrom([]rune("abc")), 0, 6)
		a, b := word.Draw(t, "a"), word.Draw(t, "b")
		most := rapid.IntRange(0, 8).Draw(t, "most")
		require.Equal(t, min(slow(a, b), most+1), editDistance(a, b, most))
		require.Equal(t, editDistance(a, b, most), editDistance(b, a, most))
	})
}

func TestNeedsWalksARingOnce(t *testing.T) {
	assert.Equal(t, []string{"hip-escape"}, lib().Needs("elbow-escape"))
}

func TestCheckNamesFieldAndMend(t *testing.T) {
	l := lib()
	assert.Empty(t, l.Check(sample()))
	for field, spoil := range map[string]func(*Technique){
		"name":                         func(t *Technique) { t.Name = " " },
		"kind":                         func(t *Technique) { t.Kind = "trick" },
		"context":                      func(t *Technique) { t.Context = "" },
		"taught":                       func(t *Technique) { t.Taught = "up" },
		"from":                         func(t *Technique) { t.From = nil },
		"to":                           func(t *Technique) { t.To = &Place{"moon", Attack} },
		"seconds_per_rep":              func(t *Technique) { t.SecondsPerRep = 1 },
		"teach_minutes":                func(t *Technique) { t.TeachMinutes = 91 },
		"risks":                        func(t *Technique) { t.Risks = []safety.RiskClass{"hair"} },
		"key_points[0].cue":            func(t *Technique) { t.KeyPoints[0].Cue = "" },
		"key_points[0].id":             func(t *Technique) { t.KeyPoints[0].ID = "" },
		"key_points[0].faults[0].what": func(t *Technique) { t.KeyPoints[0].Faults[0].What = "" },
		"key_points[0].detail":         func(t *Technique) { t.KeyPoints[0].Detail = "{up}" },
		"forks[0].answer":              func(t *Technique) { t.Forks[0].Answer = "nothing" },
		"forks[0].back_to":             func(t *Technique) { t.Forks[0].BackTo = "nowhere" },
		"prerequisites[0]":             func(t *Technique) { t.Prerequisites = []Prerequisite{{"nothing", ""}} },
	} {
		broken := sample().deepCopy()
		spoil(&broken)
		found := l.Check(broken)
		fields := make([]string, len(found))
		for i, p := range found {
			fields[i] = p.Field
			assert.NotEmpty(t, p.What)
		}
		assert.Contains(t, fields, field)
	}
	finish := sample()
	finish.To, finish.Finish = nil, true
	assert.Equal(t, "risks", l.Check(finish)[0].Field, "a finish says what it loads")
}

func TestVariantsLaidOut(t *testing.T) {
	lib := New(nil, []Technique{{ID: "a", Name: "A"}, {ID: "b", Name: "B"}, {ID: "c", Name: "C"}})
	set := VariantSet{ID: "s", Name: "S", Variants: []Variant{{Technique: "a", Gains: "x", Costs: "y", At: []string{"high", "in"}}, {Technique: "b", Gains: "x", Costs: "y", At: []string{"low", "in"}}, {Technique: "c", Gains: "x", Costs: "y", At: []string{"low", "in"}}},
		Choices: []VariantChoice{{Name: "hand", Options: []string{"high", "low"}}, {Name: "arm", Options: []string{"in", "out"}}}}
	assert.Empty(t, lib.CheckVariants(set))
	g := set.Grid()
	assert.Equal(t, [][][]string{{{"a"}, {}}, {{"b", "c"}, {}}}, g.Cells)
	assert.Equal(t, 2, g.Empty)
	assert.Empty(t, VariantSet{Variants: set.Variants}.Grid().Rows, "no choices, no grid")
	one := VariantSet{Choices: set.Choices[:1], Variants: []Variant{{Technique: "a", At: []string{"low"}}}}
	assert.Equal(t, VariantGrid{Rows: []string{"high", "low"}, Columns: []string{""}, Cells: [][][]string{{{}}, {{"a"}}}, Empty: 1}, one.Grid())
	for name, c := range map[string]struct {
		change func(*VariantSet)
		field  string
	}{
		"an option that is none":  {func(s *VariantSet) { s.Variants[0].At = []string{"middle", "in"} }, "variants[0].at"},
		"one choice not made":     {func(s *VariantSet) { s.Variants[1].At = []string{"low"} }, "variants[1].at"},
		"a third choice":          {func(s *VariantSet) { s.Choices = append(slices.Clone(s.Choices), s.Choices[0]) }, "choices"},
		"a choice without a name": {func(s *VariantSet) { s.Choices = slices.Clone(s.Choices); s.Choices[0].Name = " " }, "choices[0].name"},
		"a choice of one":         {func(s *VariantSet) { s.Choices = []VariantChoice{{"hand", []string{"high"}}, s.Choices[1]} }, "choices[0].options"},
		"an option twice":         {func(s *VariantSet) { s.Choices = []VariantChoice{s.Choices[0], {"arm", []string{"in", "in"}}} }, "choices[1].options"},
	} {
		wrong := set
		wrong.Variants = slices.Clone(set.Variants)
		c.change(&wrong)
		var fields []string
		for _, p := range lib.CheckVariants(wrong) {
			fields = append(fields, p.Field)
		}
		assert.Contains(t, fields, c.field, name)
	}
}
