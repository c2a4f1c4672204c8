package makeup

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func any2(string, string) bool { return true }

func TestGroups(t *testing.T) {
	people := []Person{{"a", []string{"u"}, []string{"mon"}}, {"b", []string{"u"}, []string{"mon", "tue"}}, {"c", []string{"u", "v"}, []string{"tue"}}, {"d", []string{"u"}, []string{"thu"}}}
	a := Groups(people, func(unit, class string) bool { return class != "thu" })
	assert.True(t, a.Proven)
	assert.Equal(t, 3, a.Bound)
	assert.Equal(t, []Group{{"u", "mon", []string{"a", "b"}}, {"u", "tue", []string{"b", "c"}}, {"v", "tue", []string{"c"}}}, a.Groups)
	assert.Equal(t, []Left{{"d", "u"}}, a.Nobody)
	none := Groups(nil, any2)
	assert.Empty(t, none.Groups)
	assert.True(t, none.Proven)
}

// Everybody is served, as few as can be by the judge, and the greedy way is never under the bound.
func TestGroupsAreAsFewAsCanBe(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for range 200 {
		var people []Person
		n, k := 1+r.IntN(8), 1+r.IntN(5)
		var classes []string
		for c := range k {
			classes = append(classes, fmt.Sprint("c", c))
		}
		for i := range n {
			p := Person{ID: fmt.Sprint("p", i), Missed: []string{"u"}, Comes: []string{classes[r.IntN(k)]}}
			for _, c := range classes {
				if r.IntN(3) == 0 && !slices.Contains(p.Comes, c) {
					p.Comes = append(p.Comes, c)
				}
			}
			people = append(people, p)
		}
		a := Groups(people, any2)
		for _, p := range people {
			require.True(t, slices.ContainsFunc(a.Groups, func(g Group) bool { return slices.Contains(g.People, p.ID) }), p)
		}
		fewest := k
		var try func(at int, set []string)
		try = func(at int, set []string) {
			if at == k {
				if !slices.ContainsFunc(people, func(p Person) bool {
					return !slices.ContainsFunc(p.Comes, func(c string) bool { return slices.Contains(set, c) })
				}) {
					fewest = min(fewest, len(set))
				}
				return
			}
			try(at+1, set)
			try(at+1, append(slices.Clone(set), classes[at]))
		}
		try(0, nil)
		assert.Len(t, a.Groups, fewest)
		assert.GreaterOrEqual(t, len(greedy(people, classes)), fewest)
		assert.LessOrEqual(t, apart(people), fewest)
	}
}
