package repair

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/season/model"
	"vereda/core/season/search"
	"vereda/internal/seasontest"
)

// A closed week on seasons nobody tuned for: what is salvaged stands and is told with the classes it changes; made sufficient and brought nearer it never
// changes more than growing from what stands or shrinking from the best plan, and on the whole it changes clearly fewer.
func TestAClosedWeekChangesFewClasses(t *testing.T) {
	plain, all := 0, 0
	for _, k := range seasontest.Kinds() {
		if len(k.Problem.Students) > 150 {
			continue // large ones are measured by the benchmark
		}
		p := k.Problem
		p.Seconds = 0.2
		old, err := search.Solve(p, nil)
		require.NoError(t, err)
		week := 2
		changed, plan, err := Disrupted(p, old, []Disruption{{Kind: "closed", Week: week}})
		require.NoError(t, err)
		changed.Fixed = pastOf(changed, plan, week)
		m := model.New(changed)
		st, conflict := search.Begin(m, nil)
		require.Nil(t, conflict)
		f := &fewest{m: m, old: plan, was: newWas(m, plan)}
		salvaged := f.salvage(st)
		for i, contents := range salvaged {
			placements := search.Plan(search.Spare(m, contents), 0, nil).Placements
			require.Empty(t, seasontest.Breaches(changed, placements), k.Name)
			if i > 0 {
				assert.GreaterOrEqual(t, f.classes(contents), f.classes(salvaged[i-1]), "%s: those that change fewest come first", k.Name)
			}
		}
		best, _ := f.attainable(salvaged[0])
		f.enough = near * best.Coverage()
		fallen := model.NewState(m)
		(&salvage{fewest: f, st: fallen, falls: true}).read()
		f.consider(f.grow(fallen))
		f.consider(f.shrink(best.Contents()))
		before := f.changed
		for _, x := range salvaged {
			f.consider(f.suffice(x))
		}
		f.nearer()
		assert.GreaterOrEqual(t, f.covered, f.enough, k.Name)
		assert.LessOrEqual(t, f.changed, before, k.Name)
		assert.Equal(t, f.classes(f.best), f.changed, k.Name)
		placements := search.Plan(search.Spare(m, f.best), 0, nil).Placements
		require.Empty(t, seasontest.Breaches(changed, placements), k.Name)
		plain, all = plain+before, all+f.changed
	}
	t.Logf("%d classes change in place of %d", all, plain)
	assert.Less(t, all, plain*9/10)
}
