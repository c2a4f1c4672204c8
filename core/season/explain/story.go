package explain

import (
	"cmp"
	"slices"

	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/model"
)

// Story is a plan told track by track and week by week, as a coach would say it.
type Story struct {
	Track string      `json:"track"`
	Line  []Stretch   `json:"line" doc:"The areas it goes through"`
	Weeks []WeekStory `json:"weeks"`
}

// Stretch is some weeks that stay in one area.
type Stretch struct {
	Area string `json:"area"`
	From int    `json:"from"`
	To   int    `json:"to"`
}

// WeekStory is one week of a track in a few sentences.
type WeekStory struct {
	Week int          `json:"week"`
	Area string       `json:"area,omitempty"`
	Says say.Sentence `json:"says"`
}

// Tell tells a plan. Everything said is read off the placements and what units stand on. Costs placements × units in a track.
func Tell(p season.Problem, placements []season.Placement) []Story {
	all := []Story{}
	lines := linesOf(p, placements)
	for _, t := range p.Tracks {
		n := newNarrator(p, placements, t)
		for w, area := range lines[t.ID] {
			n.area[w] = area
		}
		s := Story{Track: t.ID, Line: n.stretches(), Weeks: []WeekStory{}}
		for w := 1; w <= p.Weeks; w++ {
			if n.classes > 0 {
				s.Weeks = append(s.Weeks, WeekStory{w, n.area[w], n.week(w, s.Line)})
			}
		}
		all = append(all, s)
	}
	return all
}

// linesOf are the areas of the open weeks of each track that asks for a line, and is on one.
func linesOf(p season.Problem, placements []season.Placement) map[string]map[int]string {
	m := model.New(HeldOnly(p))
	if !m.AnyLined() {
		return nil
	}
	st := model.NewState(m)
	st.Put(placements)
	name := map[int32]string{}
	for u := range m.Units {
		name[m.Units[u].Area] = p.Units[u].Area
	}
	lines := map[string]map[int]string{}
	for t, track := range p.Tracks {
		if !m.Lined(t) {
			continue
		}
		weeks, _ := m.OpenWeeks(t)
		areas, _ := m.LineThrough(t, st.Items)
		lines[track.ID] = map[int]string{}
		for i, a := range areas {
			lines[track.ID][weeks[i]] = name[a]
		}
	}
	return lines
}

// narrator knows of one track when what was given.
type narrator struct {
	p       season.Problem
	units   map[string]season.Unit
	classes int
	given   map[string][]occurrence // per unit, in the order of the weeks
	in      map[int][]string        // per week, its units in the order they are first given
	area    map[int]string          // per week, that of its line, or the one most of it is taught in
	shut    map[int]bool
	known   map[string]bool
	layered bool                // what comes back comes deeper
	lessons map[string][]lesson // per unit, when it was taught to whom
}

type occurrence struct {
	week int
	kind string
}

// lesson is a teaching of a unit to one class; in mode same to all of them.
type lesson struct {
	week  int
	class string
}

func newNarrator(p season.Problem, placements []season.Placement, t season.Track) *narrator {
	n := &narrator{p: p, units: map[string]season.Unit{}, given: map[string][]occurrence{}, in: map[int][]string{}, area: map[int]string{}, shut: map[int]bool{}, known: map[string]bool{}, layered: t.Rules.Deeper, lessons: map[string][]lesson{}}
	for _, u := range p.Units {
		n.units[u.ID] = u
	}
	for _, u := range t.Assumed {
		n.known[u] = true
	}
	of := map[string]bool{}
	for _, c := range p.Classes {
		if c.Track == t.ID {
			of[c.ID] = true
			n.classes++
		}
	}
	for w := 1; w <= p.Weeks; w++ {
		n.shut[w] = !slices.ContainsFunc(p.Classes, func(c season.Class) bool { return of[c.ID] && !season.Closed(p, w, c.ID) })
	}
	sorted := slices.Clone(placements)
	season.SortPlacements(p, sorted)
	minutes := map[int]map[string]int{}
	for _, x := range sorted {
		if !of[x.Class] {
			continue
		}
		if minutes[x.Week] == nil {
			minutes[x.Week] = map[string]int{}
		}
		for _, it := range x.Items {
			if !slices.Contains(n.in[x.Week], it.Unit) {
				n.in[x.Week] = append(n.in[x.Week], it.Unit)
			}
			if o := (occurrence{x.Week, it.Kind}); !slices.Contains(n.given[it.Unit], o) {
				n.given[it.Unit] = append(n.given[it.Unit], o)
			}
			if it.Kind == season.Teach {
				l := lesson{week: x.Week}
				if t.Mode == "split" {
					l.class = x.Class
				}
				if !slices.Contains(n.lessons[it.Unit], l) {
					n.lessons[it.Unit] = append(n.lessons[it.Unit], l)
				}
				minutes[x.Week][n.units[it.Unit].Area] += n.units[it.Unit].Minutes
			} else {
				minutes[x.Week][n.units[it.Unit].Area] += n.units[it.Unit].ReviewMinutes
			}
		}
	}
	for w, by := range minutes {
		for area, m := range by {
			if had := n.area[w]; had == "" || m > by[had] || m == by[had] && area < had {
				n.area[w] = area
			}
		}
	}
	return n
}

// stretches joins neighbouring weeks of one area; a week without a class is passed over.
func (n *narrator) stretches() []Stretch {
	line := []Stretch{}
	for w := 1; w <= n.p.Weeks; w++ {
		a := n.area[w]
		if a == "" {
			continue
		}
		if k := len(line) - 1; k >= 0 && line[k].Area == a {
			line[k].To = w
			continue
		}
		line = append(line, Stretch{a, w, w})
	}
	return line
}

func (n *narrator) name(u string) string { return cmp.Or(n.units[u].Name, u) }

// week is what a coach says of a week: where the track is, what is new and what it stands on, what comes back, what is next.
func (n *narrator) week(w int, line []Stretch) say.Sentence {
	if n.shut[w] {
		return "No class."
	}
	if len(n.in[w]) == 0 {
		return "Nothing is planned."
	}
	var says []say.Sentence
	at := slices.IndexFunc(line, func(s Stretch) bool { return w >= s.From && w <= s.To })
	if at >= 0 && n.area[w] != "" {
		says = append(says, n.place(w, line[at]))
	}
	var fresh, deeper, again, back []say.Sentence
	for _, u := range n.in[w] {
		for _, o := range n.given[u] {
			if o.week != w {
				continue
			}
			last, had := n.before(u, w)
			switch {
			case o.kind == season.Teach && !had:
				fresh = append(fresh, n.ground(u, w))
			case o.kind == season.Teach && n.deeper(u, w) > 1:
				deeper = append(deeper, say.F("%s, layer %d of %d, %s", n.name(u), n.deeper(u, w), n.units[u].Layers, after(w-last)))
			case o.kind == season.Teach:
				again = append(again, say.F("%s, first taught %s", n.name(u), ago(w-last)))
			case had:
				back = append(back, say.F("%s %s", n.name(u), after(w-last)))
			default:
				back = append(back, say.F("%s, known before the season", n.name(u)))
			}
		}
	}
	tell := func(format say.Sentence, all []say.Sentence) {
		if len(all) > 0 {
			says = append(says, say.F(format, say.And(all...)))
		}
	}
	tell("New: %s.", fresh)
	tell("Deeper: %s.", deeper)
	tell("Once more, for those who were not there or need it twice: %s.", again)
	tell("Comes back: %s.", back)
	if at >= 0 && w == line[at].To && at+1 < len(line) {
		says = append(says, say.F("Next is %s.", say.Word(line[at+1].Area)))
	}
	return say.Join(" ", says...)
}

// place says where in a stretch a week stands.
func (n *narrator) place(w int, s Stretch) say.Sentence {
	length, nth := 0, 0
	for x := s.From; x <= s.To; x++ {
		if n.area[x] != "" {
			length++
			if x <= w {
				nth++
			}
		}
	}
	if length == 1 {
		return say.Word(s.Area).Whole()
	}
	return say.F("%s, week %d of %d.", say.Word(s.Area).Capital(), nth, length)
}

// deeper is the layer a unit is taught at in a week of a track that comes back deeper; 0 where it does not, or has no such layer.
func (n *narrator) deeper(u string, w int) int {
	if !n.layered {
		return 0
	}
	layer := 0
	for _, at := range n.lessons[u] {
		if at.week != w {
			continue
		}
		nth := 1
		for _, o := range n.lessons[u] {
			if o.class == at.class && o.week < w {
				nth++
			}
		}
		layer = max(layer, nth)
	}
	if layer > n.units[u].Layers {
		return 0
	}
	return layer
}

// before is the last week before one in which a unit was given.
func (n *narrator) before(u string, w int) (last int, ok bool) {
	for _, o := range n.given[u] {
		if o.week < w {
			last, ok = max(last, o.week), true
		}
	}
	return last, ok
}

// ground is a new unit with what it stands on, when the season taught that or will build on it.
func (n *narrator) ground(u string, w int) say.Sentence {
	var on []say.Sentence
	for _, r := range n.units[u].Requires {
		if last, ok := n.before(r, w); ok {
			on = append(on, say.F("%s of week %d", n.name(r), last))
		} else if n.known[r] {
			on = append(on, say.Raw(n.name(r)))
		}
	}
	if len(on) > 0 {
		return say.F("%s (stands on %s)", n.name(u), say.And(on...))
	}
	for _, x := range n.p.Units {
		if slices.Contains(x.Requires, u) && len(n.given[x.ID]) > 0 && n.given[x.ID][0].week > w {
			return say.F("%s (%s of week %d will stand on it)", n.name(u), n.name(x.ID), n.given[x.ID][0].week)
		}
	}
	return say.Raw(n.name(u))
}

func ago(weeks int) say.Sentence {
	if weeks == 1 {
		return "last week"
	}
	return say.F("%d weeks ago", weeks)
}

func after(weeks int) say.Sentence {
	switch weeks {
	case 0:
		return "in the same week"
	case 1:
		return "after a week"
	}
	return say.F("after %d weeks", weeks)
}
