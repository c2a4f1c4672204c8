package academy

import (
	"fmt"
	"slices"
	"strings"

	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
)

// MostUnitMinutes is the longest a unit may take: it has to fit one class.
const MostUnitMinutes = 180

// Check says what is wrong with a unit as it is written, among the tracks and
// the other units there are. A unit with an error can be planned by nobody: it may name only what exists, and may not,
// by way of others, stand on itself. Costs units × what they require.
func (u Unit) Check(lib *library.Library, tracks map[string]Track, units []Unit) []validation.Problem {
	var found []validation.Problem
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	var bounds validation.Found
	bounds.Name("name", u.Name, "unit")
	bounds.Text("area", u.Area, validation.MostName)
	bounds.Text("signoff", u.Signoff, validation.MostName)
	bounds.Count("techniques", len(u.Techniques), 30)
	found = append(found, bounds...)
	if strings.TrimSpace(u.Area) == "" {
		bad("area", "is empty: name the area it belongs to, such as half guard; blocks stay in one")
	}
	if len(u.Techniques) == 0 {
		bad("techniques", "names none: choose what the unit teaches")
	}
	for i, t := range u.Techniques {
		if _, ok := lib.Technique(t); !ok {
			bad(fmt.Sprintf("techniques[%d]", i), "%q is not in the library", t)
		}
		if slices.Contains(u.Techniques[:i], t) {
			bad(fmt.Sprintf("techniques[%d]", i), "%s stands there twice: take one out", lib.Name(t))
		}
	}
	if t, ok := lib.Technique(u.Movement); u.Movement != "" && (!ok || t.Kind != "movement") {
		bad("movement", "%q is not a movement of the library", u.Movement)
	}
	for i, t := range u.Tracks {
		if _, ok := tracks[t]; !ok {
			bad(fmt.Sprintf("tracks[%d]", i), "%q is not a track: add it first", t)
		}
	}
	if u.Minutes < 1 || u.Minutes > MostUnitMinutes {
		bad("minutes", "%d is outside 1 to %d", u.Minutes, MostUnitMinutes)
	}
	if u.ReviewMinutes < 1 || u.ReviewMinutes > MostUnitMinutes {
		bad("review_minutes", "%d is outside 1 to %d", u.ReviewMinutes, MostUnitMinutes)
	}
	for i, r := range u.Requires {
		field := fmt.Sprintf("requires[%d]", i)
		switch ring := ringBack(u, r, units); {
		case r == u.ID && r != "":
			bad(field, "a unit cannot stand on itself: take it out")
		case !slices.ContainsFunc(units, func(x Unit) bool { return x.ID == r }):
			bad(field, "%q is not among the units", r)
		case ring != nil:
			bad(field, "they would stand on each other: %s. Take one of these out", strings.Join(ring, ", which stands on "))
		}
	}
	return found
}

// ringBack is the names on the shortest way from a unit, by what it would require
// first, back to itself; nil when there is none.
func ringBack(u Unit, first string, units []Unit) []string {
	if u.ID == "" {
		return nil // nothing can stand on what is new
	}
	at := map[string]Unit{}
	for _, x := range units {
		at[x.ID] = x
	}
	came := map[string]string{first: u.ID}
	for queue := []string{first}; len(queue) > 0; queue = queue[1:] {
		for _, r := range at[queue[0]].Requires {
			if r == u.ID {
				names := []string{u.Name}
				for x := queue[0]; x != u.ID; x = came[x] {
					names = append(names, at[x].Name)
				}
				slices.Reverse(names[1:])
				return append(names, u.Name)
			}
			if _, met := came[r]; !met {
				came[r] = queue[0]
				queue = append(queue, r)
			}
		}
	}
	return nil
}
