package curriculum

import (
	"fmt"
	"slices"
	"strings"

	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
)

// Ladder is one sequence of ranks, for adults or for youth.
type Ladder struct {
	ID       string          `json:"id"`
	Name     string          `json:"name"`
	Audience string          `json:"audience" enum:"adult,youth"`
	Context  library.Context `json:"context,omitempty" enum:"gi,no-gi,both" doc:"What its classes wear; both when left out"`
	Ranks    []Rank          `json:"ranks"`
	Onward   *Onward         `json:"onward,omitempty"`
}

// Rank is one step of a ladder. The first is where everybody starts.
type Rank struct {
	ID         string `json:"id"`
	Name       string `json:"name"`
	Belt       string `json:"belt" doc:"The colour word of the belt"`
	Stripes    int    `json:"stripes,omitempty" minimum:"0" maximum:"12" doc:"Given on the way to the next rank"`
	MinAge     int    `json:"min_age,omitempty"`
	MaxAge     int    `json:"max_age,omitempty" doc:"Older than this the rank is not given any more"`
	MinMonths  int    `json:"min_months" doc:"Least months at the rank before"`
	MinClasses int    `json:"min_classes" doc:"Least classes at the rank before"`
}

// Onward is the academy's rule by which a student leaves a youth ladder for
// another one.
type Onward struct {
	Ladder string            `json:"ladder"`
	Age    int               `json:"age" doc:"From this age on"`
	Ranks  map[string]string `json:"ranks" doc:"Rank here: rank there"`
}

// Position is the place of a rank on the ladder, 0 for the first; -1 when it is
// not on it.
func (l Ladder) Position(rank string) int {
	return slices.IndexFunc(l.Ranks, func(r Rank) bool { return r.ID == rank })
}

// Next is the rank after the given one.
func (l Ladder) Next(rank string) (Rank, bool) {
	if i := l.Position(rank); i >= 0 && i+1 < len(l.Ranks) {
		return l.Ranks[i+1], true
	}
	return Rank{}, false
}

// Moves says to which ladder and rank a student of an age moves by the academy's
// rule; ok is false while they stay.
func (l Ladder) Moves(rank string, age int) (ladder, to string, ok bool) {
	if l.Onward == nil || age < l.Onward.Age {
		return "", "", false
	}
	to = l.Onward.Ranks[rank]
	return l.Onward.Ladder, to, to != ""
}

// Check says what is wrong with a ladder as it is written, among all of them.
func (l Ladder) Check(all map[string]Ladder) []validation.Problem {
	var found []validation.Problem
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	if strings.TrimSpace(l.ID) == "" || library.Slug(l.ID) != l.ID {
		bad("id", "%q: small letters, digits and hyphens", l.ID)
	}
	var bounds validation.Found
	bounds.Name("name", l.Name, "ladder")
	bounds.Count("ranks", len(l.Ranks), 60)
	for i, r := range l.Ranks {
		at := fmt.Sprintf("ranks[%d]", i)
		bounds.Text(at+".name", r.Name, 60)
		bounds.Text(at+".belt", r.Belt, 60)
		bounds.Text(at+".id", r.ID, validation.MostID)
		bounds.Between(at+".min_age", r.MinAge, 0, 99, "years")
		bounds.Between(at+".max_age", r.MaxAge, 0, 120, "years")
		bounds.Between(at+".min_months", r.MinMonths, 0, 600, "months")
		bounds.Between(at+".min_classes", r.MinClasses, 0, 10000, "classes")
		bounds.Between(at+".stripes", r.Stripes, 0, 12, "stripes")
	}
	found = append(found, bounds...)
	if l.Audience != "adult" && l.Audience != "youth" {
		bad("audience", "%q: choose adult or youth", l.Audience)
	}
	if len(l.Ranks) < 2 {
		bad("ranks", "%d: a ladder has two steps at least", len(l.Ranks))
	}
	for i, r := range l.Ranks {
		at := fmt.Sprintf("ranks[%d]", i)
		if r.ID == "" || slices.ContainsFunc(l.Ranks[:i], func(had Rank) bool { return had.ID == r.ID }) {
			bad(at+".id", "%q is empty or used twice: give each rank an identifier of its own", r.ID)
		}
		if strings.TrimSpace(r.Name) == "" {
			bad(at+".name", "is empty: give the rank a name")
		}
		if r.MaxAge > 0 && r.MaxAge < r.MinAge {
			bad(at+".max_age", "%d is under the least age %d", r.MaxAge, r.MinAge)
		}
	}
	if l.Onward != nil {
		there, ok := all[l.Onward.Ladder]
		if !ok || l.Onward.Ladder == l.ID {
			bad("onward.ladder", "%q is not another ladder: choose the one students move to", l.Onward.Ladder)
		}
		for here, to := range l.Onward.Ranks {
			if l.Position(here) < 0 {
				bad("onward.ranks", "%q is not a rank of this ladder", here)
			}
			if ok && to != "" && there.Position(to) < 0 {
				bad("onward.ranks", "%q is not a rank of %s", to, there.Name)
			}
		}
	}
	return found
}
