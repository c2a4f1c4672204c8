package search

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/season"
	"vereda/core/season/model"
	"vereda/internal/seasontest"
)

func TestConflictsNameTheSmallestSet(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(*season.Problem)
		want  []string
	}{
		"a lead without the sign-off": {func(p *season.Problem) {
			p.Fixed = []season.Placement{{Week: 1, Class: "tue", Lead: "ines", Items: []season.Item{{Unit: "legs", Kind: season.Teach}}}}
		}, []string{"week 1, tue is fixed: teach legs, led by ines", "legs is led by who is signed off for leg attacks"}},
		"a fixed class in a closed week": {func(p *season.Problem) {
			p.Fixed = []season.Placement{{Week: 3, Class: "tue", Lead: "dov", Items: []season.Item{{Unit: "legs", Kind: season.Teach}}}}
		}, []string{"week 3, tue is fixed: teach legs, led by dov", "week 3: every class is closed"}},
		"too long for the class": {func(p *season.Problem) {
			p.Fixed = []season.Placement{{Week: 1, Class: "tue", Items: []season.Item{{Unit: "huge", Kind: season.Teach}}}}
		}, []string{"week 1, tue is fixed: teach huge", "tue has 30 minutes to teach"}},
		"before what it stands on": {func(p *season.Problem) {
			p.Fixed = []season.Placement{{Week: 1, Class: "mon", Items: []season.Item{{Unit: "escape", Kind: season.Teach}}}}
		}, []string{"week 1, mon is fixed: teach escape", "escape requires move", "move is not known in fund before the season"}},
		"two classes that differ": {func(p *season.Problem) {
			p.Fixed = []season.Placement{{Week: 2, Class: "mon", Items: []season.Item{{Unit: "move", Kind: season.Teach}}}, {Week: 2, Class: "wed", Items: []season.Item{{Unit: "escape", Kind: season.Teach}}}}
		}, []string{"week 2, mon is fixed: teach move", "week 2, wed is fixed: teach escape", "the classes of fund give the same in a week"}},
		"a coach who is out": {func(p *season.Problem) {
			p.Coaches[1].Out = []season.Away{{Week: 2}}
			p.Fixed = []season.Placement{{Week: 2, Class: "fri", Lead: "dov", Items: []season.Item{{Unit: "legs", Kind: season.Teach}}}}
		}, []string{"week 2, fri is fixed: teach legs, led by dov", "dov is out in week 2"}},
		"more than a coach leads": {func(p *season.Problem) {
			p.Coaches[1].MaxPerWeek = 1
			p.Fixed = []season.Placement{{Week: 2, Class: "fri", Lead: "dov", Items: []season.Item{{Unit: "legs", Kind: season.Teach}}}, {Week: 2, Class: "tue", Lead: "dov", Items: []season.Item{{Unit: "legs", Kind: season.Teach}}}}
		}, []string{"week 2, fri is fixed: teach legs, led by dov", "week 2, tue is fixed: teach legs, led by dov", "dov leads at most 1 a week"}},
	} {
		t.Run(name, func(t *testing.T) {
			p := seasontest.Small()
			c.spoil(&p)
			_, err := Solve(p, nil)
			var conflict *Conflict
			require.ErrorAs(t, err, &conflict)
			assert.ElementsMatch(t, c.want, conflict.Conditions)
			assert.True(t, conflict.Smallest)
		})
	}
}

// Each conflict is one: together the conditions cannot be met, without any
// one of them they can.
func TestConflictsAreMinimal(t *testing.T) {
	found := 0
	for seed := range uint64(200) {
		p := seasontest.Tiny(seed)
		p.Fixed = []season.Placement{{Week: 1, Class: "c0", Items: []season.Item{{Unit: "u1", Kind: season.Teach}, {Unit: "u0", Kind: season.Review}}}}
		p.Wanted = []season.Wanted{{Unit: "u0", Week: 1}}
		if Feasible(model.New(p)) != nil {
			continue
		}
		found++
		all := conditions(p)
		in := map[string]bool{}
		for _, words := range conflict(p, func() bool { return true }).Conditions {
			in[words] = true
		}
		kept := make([]bool, len(all))
		for i := range all {
			kept[i] = in[all[i].words]
		}
		require.False(t, possible(relaxed(p, all, kept)), "seed %d", seed)
		for i := range all {
			if kept[i] {
				kept[i] = false
				require.True(t, possible(relaxed(p, all, kept)), "seed %d: %s can be spared", seed, all[i].words)
				kept[i] = true
			}
		}
	}
	require.Greater(t, found, 20)
}

// A search for a conflict that is stopped, at whatever moment, names conditions that cannot all be met: perhaps not the
// fewest, and it does not say that they are.
func TestAStoppedSearchNamesAConflictStill(t *testing.T) {
	p := seasontest.Small()
	p.Wanted = []season.Wanted{{Unit: "escape", Track: "fund", Week: 1}, {Unit: "legs", Track: "nogi", Week: 1}}
	p.Closures = append(p.Closures, season.Closure{Week: 1})
	all := conditions(pertinent(p))
	for most := range 40 {
		asked := 0
		c := conflict(p, func() bool { asked++; return asked <= most })
		kept := make([]bool, len(all))
		for i := range all {
			kept[i] = slices.Contains(c.Conditions, all[i].words)
		}
		require.False(t, possible(relaxed(pertinent(p), all, kept)), "stopped after %d", most)
		if asked > most {
			require.False(t, c.Smallest, "stopped after %d", most)
		}
	}
	_, err := Solve(p, func(Progress) bool { return false })
	var c *Conflict
	require.ErrorAs(t, err, &c)
	require.False(t, c.Smallest)
}
