package curriculum

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/library"
	"vereda/core/safety"
)

var ladder = Ladder{ID: "adult", Name: "Adult", Audience: "adult", Ranks: []Rank{{ID: "white", Name: "White"}, {ID: "blue", Name: "Blue"}, {ID: "purple", Name: "Purple"}}}

func lib() *library.Library {
	return library.New(nil, []library.Technique{
		{ID: "move", Name: "Hip escape", Kind: library.Movement},
		{ID: "escape", Name: "Elbow escape", Kind: "escape", Taught: library.Right, Prerequisites: []library.Prerequisite{{Technique: "move", Reason: "the hips move first"}}},
		{ID: "lock", Name: "Straight arm lock", Kind: "submission", Taught: library.Right, Risks: []safety.RiskClass{"elbow"},
			Forks: []library.Fork{{ID: "f", Reaction: "Stacks you.", Answer: "sweep"}}},
		{ID: "sweep", Name: "Hip bump", Kind: "sweep", Taught: library.Right},
		{ID: "twist", Name: "Heel lock", Kind: "submission", Risks: []safety.RiskClass{"knee or ankle twisting"}},
	})
}

func with(rank string, techniques ...string) Curriculum {
	c := Curriculum{ID: "c-" + rank, Ladder: "adult", Rank: rank}
	for _, t := range techniques {
		c.Requirements = append(c.Requirements, Requirement{Technique: t, Rung: Passed, BothSides: true, Weight: 1})
	}
	return c
}

func TestAudit(t *testing.T) {
	gates := []safety.Gate{{Class: "knee or ankle twisting", MinRank: 2}}
	for name, c := range map[string]struct {
		c      Curriculum
		others []Curriculum
		want   []string // finding identifiers, in order
	}{
		"holds together":           {with("blue", "move", "escape"), nil, nil},
		"prerequisite before":      {with("blue", "escape"), []Curriculum{with("white", "move")}, nil},
		"prerequisite nowhere":     {with("blue", "escape"), nil, []string{"prerequisite nowhere/escape/move"}},
		"prerequisite late":        {with("blue", "escape"), []Curriculum{with("purple", "move")}, []string{"prerequisite late/escape/move"}},
		"its old self is no other": {with("blue", "escape"), []Curriculum{with("blue", "move", "escape")}, []string{"prerequisite nowhere/escape/move"}},
		"gate by rank":             {with("blue", "twist"), nil, []string{"not allowed/twist/"}},
		"gate reached":             {with("purple", "twist"), nil, nil},
		"fork unanswered":          {with("blue", "lock"), nil, []string{"fork unanswered/lock/sweep"}},
		"fork answered":            {with("blue", "lock", "sweep"), nil, nil},
		"asked for twice":          {with("purple", "sweep"), []Curriculum{with("blue", "sweep")}, []string{"duplicate/sweep/"}},
		"unknown, worst first":     {with("blue", "lock", "ghost"), nil, []string{"unknown technique/ghost/", "fork unanswered/lock/sweep"}},
	} {
		var got []string
		for _, f := range (Case{Curriculum: c.c, All: c.others, Ladder: ladder, Library: lib(), Gates: gates}).Audit() {
			got = append(got, f.ID)
			assert.NotEmpty(t, f.Cause, name)
			assert.NotNil(t, f.Repair, name)
		}
		assert.Equal(t, c.want, got, name)
	}
}

// Taking a repair settles its finding and brings none of the same kind.
func TestRepairSettles(t *testing.T) {
	all := []string{"move", "escape", "lock", "sweep", "twist", "ghost"}
	rapid.Check(t, func(t *rapid.T) {
		c := with("blue", rapid.SliceOfDistinct(rapid.SampledFrom(all), func(s string) string { return s }).Draw(t, "techniques")...)
		audit := func(c Curriculum) []Finding {
			return Case{Curriculum: c, Ladder: ladder, Library: lib(), Gates: []safety.Gate{{Class: "knee or ankle twisting", MinRank: 2}}}.Audit()
		}
		before := audit(c)
		for _, f := range before {
			kept := slices.Clone(c.Requirements)
			after := audit(c.Take(*f.Repair))
			require.Equal(t, kept, c.Requirements, "the given curriculum is not changed")
			require.False(t, slices.ContainsFunc(after, func(g Finding) bool { return g.ID == f.ID }), "%s is settled", f.ID)
			if len(f.Repair.Add) > 0 {
				count := func(all []Finding) (n int) {
					for _, g := range all {
						if g.Kind == f.Kind {
							n++
						}
					}
					return n
				}
				require.Less(t, count(after), count(before))
			}
		}
	})
}

func TestTakeRaisesNeverLowers(t *testing.T) {
	c := with("blue", "escape")
	got := c.Take(Repair{Add: []Addition{{Technique: "escape", Rung: Met}}})
	r, _ := got.Find("escape")
	assert.Equal(t, Passed, r.Rung)
	got = c.Take(Repair{Add: []Addition{{Technique: "escape", Rung: Live}}})
	r, _ = got.Find("escape")
	assert.Equal(t, Live, r.Rung)
}

func TestCheckNamesFieldAndMend(t *testing.T) {
	c := with("blue", "escape", "escape", "ghost")
	c.Requirements[0].Rung = "mastered"
	c.Requirements[1].Weight = 0
	var fields []string
	for _, p := range c.Check(ladder, lib()) {
		fields = append(fields, p.Field)
	}
	assert.Equal(t, []string{"requirements[0].rung", "requirements[1].technique", "requirements[1].weight", "requirements[2].technique"}, fields)
	assert.Empty(t, with("blue", "escape").Check(ladder, lib()))
	assert.Equal(t, "rank", with("green").Check(ladder, lib())[0].Field)
}
