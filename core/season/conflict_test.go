package season

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestConflictsNameTheSmallestSet(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(*Problem)
		want  []string
	}{
		"a lead without the sign-off": {func(p *Problem) {
			p.Fixed = []Placement{{Week: 1, Class: "tue", Lead: "ines", Items: []Item{{"legs", Teach}}}}
		}, []string{"week 1, tue is fixed: teach legs, led by ines", "legs is led by who is signed off for leg attacks"}},
		"a fixed class in a closed week": {func(p *Problem) {
			p.Fixed = []Placement{{Week: 3, Class: "tue", Lead: "dov", Items: []Item{{"legs", Teach}}}}
		}, []string{"week 3, tue is fixed: teach legs, led by dov", "week 3: every class is closed"}},
		"too long for the class": {func(p *Problem) {
			p.Fixed = []Placement{{Week: 1, Class: "tue", Items: []Item{{"huge", Teach}}}}
		}, []string{"week 1, tue is fixed: teach huge", "tue has 30 minutes to teach"}},
		"before what it stands on": {func(p *Problem) {
			p.Fixed = []Placement{{Week: 1, Class: "mon", Items: []Item{{"escape", Teach}}}}
		}, []string{"week 1, mon is fixed: teach escape", "escape requires move", "move is not known in fund before the season"}},
		"two classes that differ": {func(p *Problem) {
			p.Fixed = []Placement{{Week: 2, Class: "mon", Items: []Item{{"move", Teach}}}, {Week: 2, Class: "wed", Items: []Item{{"escape", Teach}}}}
		}, []string{"week 2, mon is fixed: teach move", "week 2, wed is fixed: teach escape", "the classes of fund give the same in a week"}},
		"a coach who is out": {func(p *Problem) {
			p.Coaches[1].Out = []Away{{Week: 2}}
			p.Fixed = []Placement{{Week: 2, Class: "fri", Lead: "dov", Items: []Item{{"legs", Teach}}}}
		}, []string{"week 2, fri is fixed: teach legs, led by dov", "dov is out in week 2"}},
		"more than a coach leads": {func(p *Problem) {
			p.Coaches[1].MaxPerWeek = 1
			p.Fixed = []Placement{{Week: 2, Class: "fri", Lead: "dov", Items: []Item{{"legs", Teach}}}, {Week: 2, Class: "tue", Lead: "dov", Items: []Item{{"legs", Teach}}}}
		}, []string{"week 2, fri is fixed: teach legs, led by dov", "week 2, tue is fixed: teach legs, led by dov", "dov leads at most 1 a week"}},
	} {
		t.Run(name, func(t *testing.T) {
			p := small()
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
		p := tiny(seed)
		p.Fixed = []Placement{{Week: 1, Class: "c0", Items: []Item{{"u1", Teach}, {"u0", Review}}}}
		p.Wanted = []Wanted{{Unit: "u0", Week: 1}}
		if newModel(p).feasible() != nil {
			continue
		}
		found++
		all := p.conditions()
		in := map[string]bool{}
		for _, words := range p.conflict().Conditions {
			in[words] = true
		}
		kept := make([]bool, len(all))
		for i := range all {
			kept[i] = in[all[i].words]
		}
		require.False(t, p.relaxed(all, kept).possible(), "seed %d", seed)
		for i := range all {
			if kept[i] {
				kept[i] = false
				require.True(t, p.relaxed(all, kept).possible(), "seed %d: %s can be spared", seed, all[i].words)
				kept[i] = true
			}
		}
	}
	require.Greater(t, found, 20)
}
