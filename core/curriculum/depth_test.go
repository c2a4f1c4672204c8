package curriculum

import (
	"fmt"
	"math"
	"math/rand"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/safety"
)

// academy draws a library with everything an audit looks at, and a case on it.
func drawCase(t *rapid.T) Case {
	families := []library.Family{"pins", "guards", "standing", "back"}
	var positions []library.Position
	for i, f := range families {
		positions = append(positions, library.Position{ID: fmt.Sprint("p", i), Name: fmt.Sprint("P", i), Family: f})
	}
	n := rapid.IntRange(3, 14).Draw(t, "techniques")
	id := func(label string) string { return fmt.Sprint("t", rapid.IntRange(0, n-1).Draw(t, label)) }
	place := func(label string) *library.Place {
		return &library.Place{Position: fmt.Sprint("p", rapid.IntRange(0, 3).Draw(t, label)), Part: rapid.SampledFrom([]library.Part{library.Attack, library.Defend}).Draw(t, label)}
	}
	var all []library.Technique
	for i := range n {
		x := library.Technique{ID: fmt.Sprint("t", i), Name: fmt.Sprint("T", i), Kind: rapid.SampledFrom([]library.Kind{"escape", "takedown", "submission", "sweep"}).Draw(t, "kind"), From: place("from"), To: place("to"),
			Taught: library.Right, Context: rapid.SampledFrom([]library.Context{library.Both, library.Gi}).Draw(t, "context"), SecondsPerRep: 6, TeachMinutes: 6}
		if rapid.Bool().Draw(t, "risky") {
			x.Risks = []safety.RiskClass{"elbow"}
		}
		for range rapid.IntRange(0, 2).Draw(t, "forks") {
			x.Forks = append(x.Forks, library.Fork{ID: fmt.Sprint("f", len(x.Forks)), Reaction: "Moves.", Answer: id("answer")})
		}
		if i > 0 && rapid.Bool().Draw(t, "stands") {
			x.Prerequisites = []library.Prerequisite{{Technique: fmt.Sprint("t", rapid.IntRange(0, i-1).Draw(t, "on"))}}
		}
		all = append(all, x)
	}
	var tables []library.ForkTable
	for k := range rapid.IntRange(0, 2).Draw(t, "tables") {
		table := library.ForkTable{ID: fmt.Sprint("table", k), Name: "Table", Table: library.Table{Cues: []library.Cue{{ID: "a", Values: []string{"x", "y", "z"}}}}}
		for i, v := range []string{"x", "y", "z"} {
			table.Rows = append(table.Rows, library.Row{ID: fmt.Sprint("r", i), When: map[string][]string{"a": {v}}, Then: id("then"), Priority: 1})
		}
		tables = append(tables, table)
	}
	var sets []library.VariantSet
	for k := range rapid.IntRange(0, 2).Draw(t, "sets") {
		s := library.VariantSet{ID: fmt.Sprint("set", k), Name: "Set", House: id("house"), Reason: "Ours."}
		s.Variants = []library.Variant{{Technique: s.House}, {Technique: id("variant")}}
		sets = append(sets, s)
	}
	draw := func(rank, label string) Curriculum {
		c := Curriculum{ID: "c-" + rank, Ladder: "adult", Rank: rank, State: "published", Version: 1}
		for _, x := range rapid.SliceOfNDistinct(rapid.IntRange(0, n-1), 0, n, func(i int) int { return i }).Draw(t, label) {
			c.Requirements = append(c.Requirements, Requirement{Technique: fmt.Sprint("t", x), Rung: rapid.SampledFrom(Rungs[1:]).Draw(t, "rung"), BothSides: true, Weight: float64(rapid.IntRange(1, 4).Draw(t, "weight"))})
		}
		return c
	}
	return Case{Curriculum: draw("blue", "blue"), All: []Curriculum{draw("white", "white")}, Ladder: Ladder{ID: "adult", Name: "Adult", Audience: "adult", Context: library.Both, Ranks: ladder.Ranks},
		Library: library.New(positions, all).With(sets, tables), Gates: []safety.Gate{{Class: "elbow", MinRank: 2}}, RequiredCells: []RequiredCell{{Family: "pins", Kind: "escape", From: 1}, {Family: "standing", Kind: "takedown", From: 1}},
		Supply: &Supply{MinutesPerWeek: float64(rapid.IntRange(0, 60).Draw(t, "supply")), Weeks: 4, ReviewShare: 0.3}}
}

// Taking any repair settles its finding and never adds one of the same kind.
func TestNoRepairAddsOneOfItsKind(t *testing.T) {
	kinds := map[FindingKind]int{}
	rapid.Check(t, func(t *rapid.T) {
		k := drawCase(t)
		before := k.Audit()
		for _, f := range before {
			kinds[f.Kind]++
			if f.Repair == nil {
				continue
			}
			after := k
			after.Curriculum = k.Curriculum.Take(*f.Repair)
			found := after.Audit()
			for _, g := range found {
				require.NotEqual(t, f.ID, g.ID, "%s is settled by %q", f.ID, f.Repair.Summary)
				if g.Kind == f.Kind {
					require.True(t, slices.ContainsFunc(before, func(h Finding) bool { return h.ID == g.ID }), "%q brings in %s", f.Repair.Summary, g.ID)
				}
			}
		}
	})
	for _, want := range []FindingKind{PrerequisiteNowhere, NotAllowed, EmptyCell, NoWayOut, ForkUnanswered, TableOpen, NoDrill, Duplicate, AgainstHouse, Time} {
		assert.Positive(t, kinds[want], "%s was among what was drawn", want)
	}
}

// Accepted findings stay, quiet and last.
func TestAcceptedIsQuiet(t *testing.T) {
	c := with("blue", "escape")
	k := Case{Curriculum: c, Ladder: ladder, Library: lib()}
	f := k.Audit()[0]
	k.Curriculum.Accepted = []Acceptance{{Finding: f.ID, Reason: "Taught in the first week to everybody.", By: "ines", On: calendar.MustDay("2026-11-24")}}
	assert.Equal(t, "Taught in the first week to everybody.", k.Audit()[0].Accepted)
}

// The smallest cut against every set of requirements.
func TestSmallestCutAgainstAllSets(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 9).Draw(t, "n")
		var c Curriculum
		var each []Needs
		total := 0
		for i := range n {
			m := rapid.IntRange(1, 40).Draw(t, "minutes")
			total += m
			each = append(each, Needs{Technique: fmt.Sprint("t", i), Minutes: m})
			c.Requirements = append(c.Requirements, Requirement{Technique: fmt.Sprint("t", i), Weight: float64(rapid.IntRange(1, 9).Draw(t, "weight"))})
		}
		over := rapid.IntRange(1, total).Draw(t, "over")
		best := math.Inf(1)
		for set := range 1 << n {
			minutes, weight := 0, 0.0
			for i := range n {
				if set>>i&1 == 1 {
					minutes, weight = minutes+each[i].Minutes, weight+c.Requirements[i].Weight
				}
			}
			if minutes >= over {
				best = min(best, weight)
			}
		}
		cut, weight := smallestCut(c, each, over)
		require.InDelta(t, best, weight, 1e-9)
		minutes, sum := 0, 0.0
		for _, id := range cut {
			i := slices.IndexFunc(each, func(x Needs) bool { return x.Technique == id })
			minutes, sum = minutes+each[i].Minutes, sum+c.Requirements[i].Weight
		}
		require.GreaterOrEqual(t, minutes, over, "it makes it fit")
		require.InDelta(t, best, sum, 1e-9)
	})
}

func TestBalanceWorkedExample(t *testing.T) {
	l := library.New([]library.Position{{ID: "g", Family: "guards"}}, []library.Technique{{ID: "a", From: &library.Place{Position: "g", Part: library.Attack}, Kind: "sweep", Taught: library.Right, SecondsPerRep: 8, TeachMinutes: 10}})
	c := Curriculum{Requirements: []Requirement{{Technique: "a", Rung: Passed, BothSides: true, Weight: 1}}}
	b := Balance(c, l, Supply{MinutesPerWeek: 10, Weeks: 4, ReviewShare: 0.25})
	// 10·1.4 to teach, 50·8·2·2/60 = 26.7 to drill, 2·2 to check, a quarter of 40.7 again.
	assert.Equal(t, 55, b.Needed)
	assert.Equal(t, 40, b.Offered)
	assert.Equal(t, []string{"a"}, b.Cut)
}

func TestOrderKeepsPrerequisites(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		k := drawCase(t)
		c := k.Curriculum
		steps := c.Order(k.Library)
		require.Equal(t, steps, c.Order(k.Library), "the same each time")
		ordered := c
		ordered.Requirements = nil
		for _, s := range steps {
			require.NotEmpty(t, s.Why)
			r, ok := c.Find(s.Technique)
			require.True(t, ok)
			ordered.Requirements = append(ordered.Requirements, r)
		}
		require.Len(t, ordered.Requirements, len(c.Requirements))
		require.Empty(t, ordered.BreaksOrder(k.Library))
		seen := map[string]bool{}
		for i, g := range c.Units(steps, k.Library) {
			require.True(t, len(g.Techniques) >= 1 && len(g.Techniques) <= mostInUnit)
			for _, id := range g.Techniques {
				require.False(t, seen[id])
				seen[id] = true
			}
			for _, j := range g.Requires {
				require.Less(t, j, i, "a unit stands on earlier ones")
			}
		}
		require.Len(t, seen, len(c.Requirements))
	})
}

func TestLadders(t *testing.T) {
	adult := Ladder{ID: "adult", Name: "Adult", Audience: "adult", Ranks: []Rank{{ID: "white", Name: "White"}, {ID: "blue", Name: "Blue"}}}
	youth := Ladder{ID: "youth", Name: "Youth", Audience: "youth", Ranks: []Rank{{ID: "y1", Name: "One"}, {ID: "y2", Name: "Two"}}, Onward: &Onward{Ladder: "adult", Age: 16, Ranks: map[string]string{"y1": "white", "y2": "blue"}}}
	all := map[string]Ladder{"adult": adult, "youth": youth}
	assert.Empty(t, youth.Check(all))
	ladder, rank, ok := youth.Moves("y2", 16)
	assert.True(t, ok)
	assert.Equal(t, "adult blue", ladder+" "+rank)
	_, _, ok = youth.Moves("y2", 15)
	assert.False(t, ok)
	_, _, ok = adult.Moves("blue", 40)
	assert.False(t, ok)
	bad := Ladder{ID: "Bad One", Audience: "seniors", Ranks: []Rank{{ID: "a", Name: "A", MinAge: 9, MaxAge: 8}, {ID: "a"}}, Onward: &Onward{Ladder: "nowhere", Ranks: map[string]string{"zz": "white"}}}
	var fields []string
	for _, p := range bad.Check(all) {
		fields = append(fields, p.Field)
	}
	assert.Equal(t, []string{"id", "name", "audience", "ranks[0].max_age", "ranks[1].id", "ranks[1].name", "onward.ladder", "onward.ranks"}, fields)
}

func BenchmarkAudit400In2000(b *testing.B) {
	r := rand.New(rand.NewSource(5))
	families := library.Families
	var positions []library.Position
	for i := range 80 {
		positions = append(positions, library.Position{ID: fmt.Sprint("p", i), Name: fmt.Sprint("P", i), Family: families[i%len(families)]})
	}
	var all []library.Technique
	for i := range 2000 {
		t := library.Technique{ID: fmt.Sprint("t", i), Name: fmt.Sprint("T", i), Kind: library.Kinds[r.Intn(len(library.Kinds))], Taught: library.Right, SecondsPerRep: 7, TeachMinutes: 7,
			From: &library.Place{Position: fmt.Sprint("p", r.Intn(80)), Part: library.Attack}, To: &library.Place{Position: fmt.Sprint("p", r.Intn(80)), Part: library.Attack}}
		for k := range 3 {
			t.Forks = append(t.Forks, library.Fork{ID: fmt.Sprint(k), Reaction: "Moves.", Answer: fmt.Sprint("t", r.Intn(2000))})
		}
		for range 2 {
			t.Prerequisites = append(t.Prerequisites, library.Prerequisite{Technique: fmt.Sprint("t", r.Intn(i/8+1))})
		}
		all = append(all, t)
	}
	c := Curriculum{ID: "c", Ladder: "adult", Rank: "blue", Version: 1}
	for i := range 400 {
		c.Requirements = append(c.Requirements, Requirement{Technique: fmt.Sprint("t", i*5), Rung: Passed, BothSides: true, Weight: 1 + float64(i%5)})
	}
	k := Case{Curriculum: c, Ladder: ladder, Library: library.New(positions, all), RequiredCells: DefaultRequiredCells, Supply: &Supply{MinutesPerWeek: 60, Weeks: 50, ReviewShare: 0.35}}
	for b.Loop() {
		k.Audit()
	}
}

// Of the versions of a rank one counts, whatever order they are met in.
func TestWhichVersionCounts(t *testing.T) {
	version := func(state string, n int) Curriculum { return Curriculum{State: state, Version: n} }
	for _, x := range []struct{ counts, other Curriculum }{
		{version("published", 1), version("draft", 2)},
		{version("published", 2), version("retired", 3)},
		{version("published", 2), version("published", 1)},
		{version("draft", 2), version("retired", 1)},
		{version("retired", 2), version("draft", 1)},
	} {
		assert.True(t, x.counts.CountsOver(x.other), "%v", x)
		assert.False(t, x.other.CountsOver(x.counts), "%v", x)
	}
	assert.False(t, version("draft", 1).CountsOver(version("draft", 1)), "not over itself")
}
