package season

import (
	"fmt"
	"slices"
)

// Breach is a hard rule a plan breaks, in words.
type Breach struct {
	Week  int    `json:"week"`
	Class string `json:"class"`
	Unit  string `json:"unit,omitempty"`
	Rule  string `json:"rule" enum:"closed,minutes,track,once,order,review,same,lead,limit,wanted"`
	What  string `json:"what"`
}

// Breaches lists every hard rule a set of placements breaks, in the order they
// happen. Nothing is asked of classes that were held.
func Breaches(p Problem, placements []Placement) []Breach {
	m := newModel(p)
	j := judge{m: m, placements: placements, first: map[[2]int]int{}}
	for _, x := range placements {
		c, ok := m.classAt[x.Class]
		if !ok {
			continue
		}
		t := m.trackAt[m.p.Classes[c].Track]
		for _, it := range x.Items {
			if u, ok := m.unitAt[it.Unit]; ok && it.Kind == Teach {
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
	return j.found
}

type judge struct {
	m          *model
	placements []Placement
	first      map[[2]int]int // track, unit: day of its first teach
	found      []Breach
}

func (j *judge) bad(x Placement, unit, rule, format string, args ...any) {
	j.found = append(j.found, Breach{x.Week, x.Class, unit, rule, fmt.Sprintf(format, args...)})
}

func (j *judge) day(x Placement) int {
	c := j.m.p.Classes[j.m.classAt[x.Class]]
	if j.m.p.Tracks[j.m.trackAt[c.Track]].Mode == "same" {
		return x.Week * 8
	}
	return x.Week*8 + c.Weekday
}

func (j *judge) place(x Placement) {
	m := j.m
	c := m.p.Classes[m.classAt[x.Class]]
	t := m.trackAt[c.Track]
	if closed(m.p, x.Week, x.Class) {
		j.bad(x, "", "closed", "The class is closed in week %d.", x.Week)
	}
	used := 0
	for i, it := range x.Items {
		u, known := m.unitAt[it.Unit]
		if !known {
			continue
		}
		used += m.units[u].cost[kindOf(it.Kind)]
		if !slices.Contains(m.p.Units[u].Tracks, c.Track) {
			j.bad(x, it.Unit, "track", "%s is not for this track.", m.nameOf(u))
		}
		if slices.ContainsFunc(x.Items[:i], func(o Item) bool { return o.Unit == it.Unit }) {
			j.bad(x, it.Unit, "once", "%s stands twice in one class.", m.nameOf(u))
		}
		j.order(x, t, u, it)
	}
	if used > c.TeachMinutes {
		j.bad(x, "", "minutes", "%d minutes are planned in a class that has %d.", used, c.TeachMinutes)
	}
	if m.p.Tracks[t].Mode == "same" {
		j.same(x, c)
	}
}

func (j *judge) order(x Placement, t, u int, it Item) {
	m := j.m
	known := func(r int) bool {
		if m.assumed[t][r] {
			return true
		}
		day, ok := j.first[[2]int{t, r}]
		return ok && day < j.day(x)
	}
	for _, r := range m.units[u].requires {
		if !known(int(r)) {
			j.bad(x, it.Unit, "order", "%s stands on %s, which is not taught in this track before.", m.nameOf(u), m.nameOf(int(r)))
		}
	}
	if it.Kind == Review && !known(u) {
		j.bad(x, it.Unit, "review", "%s cannot be reviewed: it is not taught in this track before.", m.nameOf(u))
	}
}

func (j *judge) same(x Placement, c Class) {
	for _, y := range j.placements {
		o := j.m.p.Classes[j.m.classAt[y.Class]]
		if y.Week != x.Week || o.Track != c.Track || y.Held || o.ID == c.ID || o.TeachMinutes < c.TeachMinutes {
			continue
		}
		n := len(y.Items)
		if o.TeachMinutes > c.TeachMinutes {
			n = j.m.leading(y.Items, c.TeachMinutes)
		}
		if !slices.Equal(x.Items, y.Items[:n]) {
			j.bad(x, "", "same", "The classes of this track give the same in a week; this one differs from another.")
			return
		}
	}
}

// leading is how many of the first items fit into some minutes.
func (m *model) leading(items []Item, minutes int) int {
	for i, it := range items {
		if minutes -= m.units[m.unitAt[it.Unit]].cost[kindOf(it.Kind)]; minutes < 0 {
			return i
		}
	}
	return len(items)
}

func (j *judge) leads() {
	led := map[[2]int]int{}
	for _, x := range j.placements {
		if k, ok := j.m.coachAt[x.Lead]; ok {
			led[[2]int{x.Week, k}]++
		}
	}
	for _, x := range j.placements {
		if x.Held || len(x.Items) == 0 {
			continue
		}
		k, ok := j.m.coachAt[x.Lead]
		if !ok {
			j.bad(x, "", "lead", "Nobody leads this class.")
			continue
		}
		coach := j.m.p.Coaches[k]
		if why := coach.refusal(j.m.p, x.Week, x.Class, x.Items); why != "" {
			j.bad(x, "", "lead", "The lead is %s.", why)
		}
		if n := led[[2]int{x.Week, k}]; n > coach.MaxPerWeek {
			j.bad(x, "", "limit", "The lead would have %d classes in week %d, and takes at most %d.", n, x.Week, coach.MaxPerWeek)
		}
	}
}

func (j *judge) wanted() {
	for _, w := range j.m.p.Wanted {
		met := false
		for t, track := range j.m.p.Tracks {
			day, ok := j.first[[2]int{t, j.m.unitAt[w.Unit]}]
			met = met || (w.Track == "" || w.Track == track.ID) && (ok && day/8 <= w.Week || j.m.assumed[t][j.m.unitAt[w.Unit]])
		}
		if !met {
			j.found = append(j.found, Breach{w.Week, "", w.Unit, "wanted", fmt.Sprintf("%s is wanted by week %d and is not taught by then.", j.m.nameOf(j.m.unitAt[w.Unit]), w.Week)})
		}
	}
}
