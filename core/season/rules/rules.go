// Package rules lists the hard rules a plan breaks, in words.
package rules

import (
	"slices"

	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/model"
)

// Breach is a hard rule a plan breaks, in words.
type Breach struct {
	Week  int          `json:"week"`
	Class string       `json:"class"`
	Unit  string       `json:"unit,omitempty"`
	Rule  string       `json:"rule" enum:"closed,minutes,track,once,order,review,same,lead,limit,wanted,habit"`
	What  say.Sentence `json:"what"`
	Own   bool         `json:"own,omitempty" doc:"A rule of the academy for its track: it can be taught all the same"`
}

// Breaches lists every hard rule a set of placements breaks, in the order they
// happen. Nothing is asked of classes that were held.
func Breaches(p season.Problem, placements []season.Placement) []Breach {
	m := model.New(p)
	j := judge{m: m, placements: placements, first: map[[2]int]int{}}
	for _, x := range placements {
		c, ok := m.ClassAt[x.Class]
		if !ok {
			continue
		}
		t := m.TrackAt[m.Problem.Classes[c].Track]
		for _, it := range x.Items {
			if u, ok := m.UnitAt[it.Unit]; ok && it.Kind == season.Teach {
				k := [2]int{t, u}
				if had, ok := j.first[k]; !ok || j.day(x) < had {
					j.first[k] = j.day(x)
				}
			}
		}
	}
	for _, x := range placements {
		if !x.Held {
			j.place(x)
		}
	}
	j.leads()
	j.wanted()
	j.habits()
	return j.found
}

type judge struct {
	m          *model.Model
	placements []season.Placement
	first      map[[2]int]int // track, unit: day of its first teach
	found      []Breach
}

func (j *judge) bad(x season.Placement, unit, rule string, format say.Sentence, args ...any) {
	j.found = append(j.found, Breach{x.Week, x.Class, unit, rule, say.F(format, args...), false})
}

func (j *judge) day(x season.Placement) int {
	c := j.m.Problem.Classes[j.m.ClassAt[x.Class]]
	if j.m.Problem.Tracks[j.m.TrackAt[c.Track]].Mode == "same" {
		return x.Week * 8
	}
	return x.Week*8 + c.Weekday
}

func (j *judge) place(x season.Placement) {
	m := j.m
	c := m.Problem.Classes[m.ClassAt[x.Class]]
	t := m.TrackAt[c.Track]
	if season.Closed(m.Problem, x.Week, x.Class) {
		j.bad(x, "", "closed", "The class is closed in week %d.", x.Week)
	}
	used := 0
	for i, it := range x.Items {
		u, known := m.UnitAt[it.Unit]
		if !known {
			continue
		}
		used += m.Units[u].Cost[model.KindOf(it.Kind)]
		if !slices.Contains(m.Problem.Units[u].Tracks, c.Track) {
			j.bad(x, it.Unit, "track", "%s is not for this track.", m.NameOf(u))
		}
		if slices.ContainsFunc(x.Items[:i], func(o season.Item) bool { return o.Unit == it.Unit }) {
			j.bad(x, it.Unit, "once", "%s stands twice in one class.", m.NameOf(u))
		}
		j.order(x, t, u, it)
	}
	if used > c.TeachMinutes {
		j.bad(x, "", "minutes", "%d minutes are planned in a class that has %d.", used, c.TeachMinutes)
	}
	if m.Problem.Tracks[t].Mode == "same" {
		j.same(x, c)
	}
}

func (j *judge) order(x season.Placement, t, u int, it season.Item) {
	m := j.m
	known := func(r int) bool {
		if m.Assumed[t][r] {
			return true
		}
		day, ok := j.first[[2]int{t, r}]
		return ok && day < j.day(x)
	}
	for _, r := range m.Units[u].Requires {
		if !known(int(r)) {
			j.bad(x, it.Unit, "order", "%s stands on %s, which is not taught in this track before.", m.NameOf(u), m.NameOf(int(r)))
		}
	}
	if it.Kind == season.Review && !known(u) {
		j.bad(x, it.Unit, "review", "%s cannot be reviewed: it is not taught in this track before.", m.NameOf(u))
	}
}

func (j *judge) same(x season.Placement, c season.Class) {
	for _, y := range j.placements {
		o := j.m.Problem.Classes[j.m.ClassAt[y.Class]]
		if y.Week != x.Week || o.Track != c.Track || y.Held || o.ID == c.ID || o.TeachMinutes < c.TeachMinutes {
			continue
		}
		n := len(y.Items)
		if o.TeachMinutes > c.TeachMinutes {
			n = j.m.Leading(y.Items, c.TeachMinutes)
		}
		if !slices.Equal(x.Items, y.Items[:n]) {
			j.bad(x, "", "same", "The classes of this track give the same in a week; this one differs from another.")
			return
		}
	}
}

func (j *judge) leads() {
	led := map[[2]int]int{}
	for _, x := range j.placements {
		if k, ok := j.m.CoachAt[x.Lead]; ok {
			led[[2]int{x.Week, k}]++
		}
	}
	for _, x := range j.placements {
		if x.Held || len(x.Items) == 0 {
			continue
		}
		k, ok := j.m.CoachAt[x.Lead]
		if !ok {
			j.bad(x, "", "lead", "Nobody leads this class.")
			continue
		}
		coach := j.m.Problem.Coaches[k]
		if why := coach.Refusal(j.m.Problem, x.Week, x.Class, x.Items); why != "" {
			j.bad(x, "", "lead", "The lead is %s.", why)
		}
		if n := led[[2]int{x.Week, k}]; n > coach.MaxPerWeek {
			j.bad(x, "", "limit", "The lead would have %d classes in week %d, and takes at most %d.", n, x.Week, coach.MaxPerWeek)
		}
	}
}

func (j *judge) wanted() {
	for _, w := range j.m.Problem.Wanted {
		met := false
		for t, track := range j.m.Problem.Tracks {
			day, ok := j.first[[2]int{t, j.m.UnitAt[w.Unit]}]
			met = met || (w.Track == "" || w.Track == track.ID) && (ok && day/8 <= w.Week || j.m.Assumed[t][j.m.UnitAt[w.Unit]])
		}
		if !met {
			j.found = append(j.found, Breach{w.Week, "", w.Unit, "wanted", say.F("%s is wanted by week %d and is not taught by then.", j.m.NameOf(j.m.UnitAt[w.Unit]), w.Week), false})
		}
	}
}
