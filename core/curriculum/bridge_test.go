package curriculum

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func same(id string) string { return id }

func TestABridgeIsWhatTheOtherLadderAskedMore(t *testing.T) {
	ask := func(rank string, all ...Requirement) Curriculum { return Curriculum{Rank: rank, Requirements: all} }
	r := func(id string, rung Rung, or ...string) Requirement {
		return Requirement{Technique: id, Rung: rung, Or: or}
	}
	two := r("a", Drilled, "b", "c")
	two.N = 2
	for name, c := range map[string]struct {
		here, there []Curriculum
		want        []string
	}{
		"never asked":            {nil, []Curriculum{ask("blue", r("lock", Passed))}, []string{"lock passed from not met by blue"}},
		"asked as much":          {[]Curriculum{ask("grey", r("roll", Passed))}, []Curriculum{ask("blue", r("roll", Drilled))}, nil},
		"asked less":             {[]Curriculum{ask("grey", r("roll", Drilled))}, []Curriculum{ask("blue", r("roll", Passed))}, []string{"roll passed from drilled by blue"}},
		"asked less, then more":  {[]Curriculum{ask("grey", r("roll", Drilled)), ask("yellow", r("roll", Live))}, []Curriculum{ask("blue", r("roll", Passed))}, nil},
		"twice there, once here": {nil, []Curriculum{ask("blue", r("lock", Drilled)), ask("purple", r("lock", Live), r("roll", Met))}, []string{"lock live from not met by blue", "roll met from not met by purple"}},
		"a variant is enough":    {[]Curriculum{ask("grey", r("b", Passed))}, []Curriculum{ask("blue", r("a", Passed, "b"))}, nil},
		"one of two variants":    {[]Curriculum{ask("grey", r("b", Passed))}, []Curriculum{ask("blue", two)}, []string{"a drilled from not met by blue"}},
		"both of two variants":   {[]Curriculum{ask("grey", r("b", Passed), r("c", Drilled))}, []Curriculum{ask("blue", two)}, nil},
		"a choice here is none":  {[]Curriculum{ask("grey", r("a", Passed, "b"))}, []Curriculum{ask("blue", r("b", Passed))}, []string{"b passed from not met by blue"}},
	} {
		var got []string
		for _, x := range Bridge(c.here, c.there, same) {
			got = append(got, fmt.Sprintf("%s %s from %s by %s", x.Technique, x.Rung, x.Had, x.Rank))
		}
		assert.Equal(t, c.want, got, name)
	}
}

// Whoever has caught up the list and comes with what their ladder asked has all that was asked there; nothing on the list was theirs.
func TestABridgeCloses(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		curricula := func(label string) []Curriculum {
			var all []Curriculum
			for i := range rapid.IntRange(0, 3).Draw(t, label) {
				c := Curriculum{Rank: fmt.Sprint(label, i)}
				for range rapid.IntRange(0, 4).Draw(t, "requirements") {
					c.Requirements = append(c.Requirements, Requirement{Technique: rapid.SampledFrom([]string{"a", "b", "c", "d", "e"}).Draw(t, "technique"), Rung: rapid.SampledFrom(Rungs[1:]).Draw(t, "rung")})
				}
				all = append(all, c)
			}
			return all
		}
		here, there := curricula("here"), curricula("there")
		items := Bridge(here, there, same)
		caught := Curriculum{}
		for _, x := range items {
			caught.Requirements = append(caught.Requirements, x.Requirement)
			require.Less(t, x.Had.Step(), x.Rung.Step())
		}
		require.Empty(t, Bridge(append(slices.Clone(here), caught), there, same))
	})
}

func TestTheNewestPublishedVersionCounts(t *testing.T) {
	l := Ladder{ID: "adult", Ranks: []Rank{{ID: "white"}, {ID: "blue"}, {ID: "purple"}, {ID: "brown"}}}
	all := []Curriculum{
		{ID: "p1", Ladder: "adult", Rank: "purple", State: "published", Version: 1}, {ID: "b2", Ladder: "adult", Rank: "blue", State: "published", Version: 2},
		{ID: "b1", Ladder: "adult", Rank: "blue", State: "published", Version: 1}, {ID: "b3", Ladder: "adult", Rank: "blue", State: "draft", Version: 3},
		{ID: "x1", Ladder: "youth", Rank: "blue", State: "published", Version: 9}, {ID: "n1", Ladder: "adult", Rank: "brown", State: "published", Version: 1},
	}
	var got []string
	for _, c := range UpTo(l, "purple", slices.Values(all)) {
		got = append(got, c.ID)
	}
	assert.Equal(t, []string{"b2", "p1"}, got)
	assert.Empty(t, UpTo(l, "nowhere", slices.Values(all)))
}
