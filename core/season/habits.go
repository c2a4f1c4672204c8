package season

import (
	"fmt"
	"slices"
	"strings"

	"vereda/core/say"
)

// Rules are what an academy asks of the evenings of a track. A plan could break them and still be possible; a head instructor would not teach
// it. Each is off while it is 0 or false. They are asked of what is planned, not of what somebody fixed by hand or what was held.
type Rules struct {
	MostUnits   int   `json:"most_units,omitempty" minimum:"0" maximum:"20" doc:"Units in one class at most"`
	MostNew     int   `json:"most_new,omitempty" minimum:"0" maximum:"20" doc:"Of them taught and not reviewed, at most"`
	MainMinutes int   `json:"main_minutes,omitempty" minimum:"0" maximum:"300" doc:"Minutes the longest unit of a class takes at least"`
	TeachGap    int   `json:"teach_gap,omitempty" minimum:"0" maximum:"60" doc:"Weeks until a unit is taught to the same class again; in mode same, to the track"`
	ReviewGap   int   `json:"review_gap,omitempty" minimum:"0" maximum:"60" doc:"Weeks from a teach to a review of it at least"`
	TeachEach   bool  `json:"teach_each,omitempty" doc:"No class of reviews alone, but in the weeks of review_weeks"`
	ReviewWeeks []int `json:"review_weeks,omitempty" required:"false" maxItems:"60" doc:"Weeks wished for as review weeks"`
	Together    bool  `json:"together,omitempty" doc:"What is taught in one class belongs together: of one area, one stands on the other, or they are related"`
	RiskApart   bool  `json:"risk_apart,omitempty" doc:"No two units in one class that load a neck or twist a leg"`
	EaseIn      bool  `json:"ease_in,omitempty" doc:"None of those in the first week after a closed one"`
	AreaLeast   int   `json:"area_least,omitempty" minimum:"0" maximum:"60" doc:"Weeks in a row that are taught of one area at least, but for the last ones of the season; reviews are free"`
	AreaMost    int   `json:"area_most,omitempty" minimum:"0" maximum:"60" doc:"And at most; 0 when it is not asked"`
	Deeper      bool  `json:"deeper,omitempty" doc:"A unit that comes back is taught at its next layer, never the same again: as often as it has layers to the same class; in mode same, to the track"`
}

// UsualRules are those a new track begins with: what most head instructors hold without writing it down.
var UsualRules = Rules{MostUnits: 3, MostNew: 2, TeachGap: 4, ReviewGap: 1, RiskApart: true, EaseIn: true}

// Any says whether anything is asked.
func (r Rules) Any() bool { return len(r.Named()) > 0 }

// NamedRule is one rule that is asked, in words, and the rules without it.
type NamedRule struct {
	ID      string       `json:"id"`
	Words   say.Sentence `json:"words"`
	Without Rules        `json:"-"`
}

// Named lists the rules that are asked.
func (r Rules) Named() []NamedRule {
	var all []NamedRule
	add := func(on bool, id string, words say.Sentence, without Rules) {
		if on {
			all = append(all, NamedRule{id, words, without})
		}
	}
	drop := func(change func(*Rules)) Rules { c := r; change(&c); return c }
	add(r.MostUnits > 0, "most_units", say.N(r.MostUnits, "at most %d unit in a class", "at most %d units in a class"), drop(func(c *Rules) { c.MostUnits = 0 }))
	add(r.MostNew > 0, "most_new", say.F("at most %d new in a class", r.MostNew), drop(func(c *Rules) { c.MostNew = 0 }))
	add(r.MainMinutes > 0, "main_minutes", say.F("at least %d minutes for the main one", r.MainMinutes), drop(func(c *Rules) { c.MainMinutes = 0 }))
	add(r.TeachGap > 0, "teach_gap", say.N(r.TeachGap, "taught again after %d week at the earliest", "taught again after %d weeks at the earliest"), drop(func(c *Rules) { c.TeachGap = 0 }))
	add(r.ReviewGap > 0, "review_gap", say.N(r.ReviewGap, "reviewed after %d week at the earliest", "reviewed after %d weeks at the earliest"), drop(func(c *Rules) { c.ReviewGap = 0 }))
	reviews := say.Sentence("no class of reviews alone")
	if len(r.ReviewWeeks) > 0 {
		reviews = say.F("no class of reviews alone but in week %s", strings.ReplaceAll(strings.Trim(fmt.Sprint(r.ReviewWeeks), "[]"), " ", ", "))
	}
	add(r.TeachEach, "teach_each", reviews, drop(func(c *Rules) { c.TeachEach = false }))
	add(r.Together, "together", "what is taught in one class belongs together", drop(func(c *Rules) { c.Together = false }))
	add(r.RiskApart, "risk_apart", "no two units in one class that load a neck or twist a leg", drop(func(c *Rules) { c.RiskApart = false }))
	add(r.EaseIn, "ease_in", "none of those in the first week after a closed one", drop(func(c *Rules) { c.EaseIn = false }))
	add(r.AreaMost > 0, "area_weeks", say.F("%d to %d weeks in a row of one area", max(1, r.AreaLeast), r.AreaMost), drop(func(c *Rules) { c.AreaLeast, c.AreaMost = 0, 0 }))
	add(r.Deeper, "deeper", "taught again only at the next layer, never the same", drop(func(c *Rules) { c.Deeper = false }))
	return all
}

// Barred keeps a unit out of some weeks: what is not shown in the week before a competition, or what a guest will teach.
type Barred struct {
	Unit  string `json:"unit"`
	Track string `json:"track,omitempty" doc:"All tracks when left out"`
	From  int    `json:"from" doc:"First week"`
	To    int    `json:"to" doc:"Last week"`
}

func (c *checker) habits() {
	for i, t := range c.p.Tracks {
		at, r := fmt.Sprintf("tracks[%d].rules", i), t.Rules
		for name, n := range map[string]int{"most_units": r.MostUnits, "most_new": r.MostNew, "main_minutes": r.MainMinutes, "teach_gap": r.TeachGap, "review_gap": r.ReviewGap, "area_least": r.AreaLeast, "area_most": r.AreaMost} {
			if n < 0 || n > 300 {
				c.bad(at+"."+name, "%d is outside 0 (not asked) to 300", n)
			}
		}
		if r.AreaLeast > 0 && r.AreaMost == 0 {
			c.bad(at+".area_most", "is empty: say how many weeks in a row at most")
		} else if r.AreaLeast > r.AreaMost {
			c.bad(at+".area_least", "%d weeks at least are more than %d at most", r.AreaLeast, r.AreaMost)
		}
		for _, w := range r.ReviewWeeks {
			if w < 1 || w > mostWeeks {
				c.bad(at+".review_weeks", "%d is no week of a season", w)
			}
		}
	}
	for i, u := range c.p.Units {
		for _, x := range u.Related {
			if !c.units[x] {
				c.bad(fmt.Sprintf("units[%d].related", i), "unit %q is not among the units", x)
			}
		}
	}
	for i, b := range c.p.Barred {
		at := fmt.Sprintf("barred[%d]", i)
		if !c.units[b.Unit] {
			c.bad(at+".unit", "unit %q is not among the units", b.Unit)
		}
		if b.Track != "" && !c.tracks[b.Track] {
			c.bad(at+".track", "track %q is not among the tracks", b.Track)
		}
		if b.From < 1 || b.To > c.p.Weeks || b.To < b.From {
			c.bad(at, "weeks %d to %d are not in a season of %d weeks", b.From, b.To, c.p.Weeks)
		}
	}
}

// Belongs says whether two units may be taught in one class where what is taught together belongs together.
func (u Unit) Belongs(v Unit) bool {
	return u.Area == v.Area && u.Area != "" || slices.Contains(u.Requires, v.ID) || slices.Contains(v.Requires, u.ID) || slices.Contains(u.Related, v.ID) || slices.Contains(v.Related, u.ID)
}
