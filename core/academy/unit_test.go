package academy

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/library"
)

// shelf is a library of two techniques and a movement.
func shelf() *library.Library {
	return library.New(nil, []library.Technique{{ID: "knee-cut", Name: "Knee cut", Kind: "pass"}, {ID: "hip-bump", Name: "Hip bump", Kind: "sweep"}, {ID: "hip-escape", Name: "Hip escape", Kind: "movement"}})
}

func TestAUnitIsCheckedFieldByField(t *testing.T) {
	tracks := map[string]Track{"fund": {ID: "fund"}}
	units := []Unit{{ID: "a", Name: "A"}, {ID: "b", Name: "B", Requires: []string{"a"}}, {ID: "c", Name: "C", Requires: []string{"b"}}}
	good := Unit{ID: "a", Name: "A", Area: "half guard", Techniques: []string{"knee-cut"}, Movement: "hip-escape", Tracks: []string{"fund"}, Minutes: 20, ReviewMinutes: 8}
	require.Empty(t, good.Check(shelf(), tracks, units))
	for _, c := range []struct {
		name, field, says string
		change            func(*Unit)
	}{
		{"no name", "name", "is empty", func(u *Unit) { u.Name = " " }},
		{"no area", "area", "is empty", func(u *Unit) { u.Area = "" }},
		{"no technique", "techniques", "names none", func(u *Unit) { u.Techniques = nil }},
		{"a technique nobody knows", "techniques[1]", `"sweep-it" is not in the library`, func(u *Unit) { u.Techniques = []string{"knee-cut", "sweep-it"} }},
		{"a technique twice", "techniques[1]", "Knee cut stands there twice", func(u *Unit) { u.Techniques = []string{"knee-cut", "knee-cut"} }},
		{"a movement that is a pass", "movement", "is not a movement", func(u *Unit) { u.Movement = "knee-cut" }},
		{"no such track", "tracks[0]", "is not a track", func(u *Unit) { u.Tracks = []string{"kids"} }},
		{"no minutes", "minutes", "0 is outside 1 to 180", func(u *Unit) { u.Minutes = 0 }},
		{"review too long", "review_minutes", "181 is outside", func(u *Unit) { u.ReviewMinutes = 181 }},
		{"stands on itself", "requires[0]", "cannot stand on itself", func(u *Unit) { u.Requires = []string{"a"} }},
		{"stands on nothing known", "requires[0]", `"z" is not among the units`, func(u *Unit) { u.Requires = []string{"z"} }},
		{"stands on what stands on it", "requires[0]", "A, which stands on C, which stands on B, which stands on A", func(u *Unit) { u.Requires = []string{"c"} }},
	} {
		t.Run(c.name, func(t *testing.T) {
			u := good
			c.change(&u)
			found := u.Check(shelf(), tracks, units)
			require.Len(t, found, 1)
			assert.Equal(t, c.field, found[0].Field)
			assert.Contains(t, found[0].What.String(), c.says)
		})
	}
	fresh := good
	fresh.ID, fresh.Requires = "", []string{"c"}
	assert.Empty(t, fresh.Check(shelf(), tracks, units), "a new unit may stand on anything")
}

// A ring is found exactly when writing the unit would close one.
func TestARingIsFoundExactlyWhenThereIsOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(2, 6).Draw(t, "units")
		names := []string{"a", "b", "c", "d", "e", "f"}[:n]
		var units []Unit
		for i, id := range names {
			u := Unit{ID: id, Name: id}
			for _, r := range names[:i] { // no ring among them as they are
				if rapid.Bool().Draw(t, id+r) {
					u.Requires = append(u.Requires, r)
				}
			}
			units = append(units, u)
		}
		u := units[rapid.IntRange(0, n-1).Draw(t, "which")]
		first := rapid.SampledFrom(names).Draw(t, "first")
		if first == u.ID {
			return
		}
		// The judge: is u among all that first stands on, step by step?
		under := []string{first}
		for range n {
			for _, x := range units {
				if slices.Contains(under, x.ID) {
					for _, r := range x.Requires {
						if !slices.Contains(under, r) {
							under = append(under, r)
						}
					}
				}
			}
		}
		assert.Equal(t, slices.Contains(under, u.ID), ringBack(u, first, units) != nil)
	})
}
