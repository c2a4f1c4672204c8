// Package model is a season's problem as numbers, and a state of its plan that is changed and valued step by step:
// what a change costs depends on the units it touches, not on the season.
package model

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"vereda/core/season"
)

// The planner works on numbers: units, tracks, classes and coaches are their
// places in the problem's lists.

const (
	Teach  uint8 = 0
	Review uint8 = 1
)

var KindNames = [2]string{season.Teach, season.Review}

func KindOf(name string) uint8 {
	if name == season.Review {
		return Review
	}
	return Teach
}

// Never is the day of what is not taught.
const Never = 1 << 30

// Item is a unit in a square. Its audience is who hears it.
type Item struct {
	Unit, Audience int32
	Kind           uint8
}

// Audience is a set of classes that hear an item together: one class in mode
// split; in mode same all of the track's open classes that are long enough.
type Audience struct {
	track   int
	Classes []int32
	Mark    [2]uint64 // of a teach and of a review in it; their sums tell what a unit is given
}

// Square is one thing to decide: a week of a track in mode same, one class of
// one week in mode split.
type Square struct {
	Track, Week int
	Day         int     // week × 8 + weekday; week × 8 in mode same, where only the week orders
	Classes     []int32 // the longest first
	Audiences   []int32 // audiences[i]: the first i+1 classes
	Uneven      bool    // its classes differ in length, so the order of its items matters
	Minutes     int     // of its longest class
	Fixed       bool    // stays as it is
	Pinned      bool    // is left alone by a search that may change only a few (see Model.Apart)
	Held        bool    // it happened: no rule is asked of it
	Given       []Item
	lead        []int32 // per class, the coach who is fixed; −1 when free
	AfterClosed bool    // its track had no class in the week before
	before      int32   // the same line a week earlier; −1 for none
	after       int32
}

type Unit struct {
	Cost     [2]int // minutes of a teach and a review
	Requires []int32
	Opens    []int32 // units that require it
	Area     int32
	MayLead  uint64 // coaches signed off for it
	Needs    []Need
	Most     float64 // the weight of all its needs
	Salt     uint64
}

// Need is one student's open need: halves are still missing.
type Need struct {
	Student int32
	Halves  int32
	Weight  float64
}

// Model is a problem made ready. It is never changed once built, so several
// searches may share it.
type Model struct {
	Problem    season.Problem
	UnitAt     map[string]int
	TrackAt    map[string]int
	ClassAt    map[string]int
	CoachAt    map[string]int
	Units      []Unit
	Squares    []Square
	Audiences  []Audience
	audienceAt map[string]int32
	ByWeek     [][]int32 // squares of a week
	ByTrack    [][]int32 // squares of a track
	Chance     []float64 // student × classes + class
	Assumed    [][]bool  // track, unit
	Can        [][]bool  // track, unit: may ever be taught or reviewed there
	Teaches    [][]int32 // per track, the units that can be in it
	Least      []int     // per track, the fewest minutes anything takes
	WantedBy   [][]int32 // track, unit: the last week of the first teach; 0 for any
	single     []int32   // each class by itself
	There      []uint64  // class × (weeks+1) + week: coaches available and not out
	Weights    float64
	Rules      []season.Rules // per track
	Habits     bool           // any of them asks anything
	gaps       bool
	barred     [][]uint64 // track, unit: a bit for each week it is kept out of
	offLine    [][]uint64 // track, unit: a bit for each week in which the track is in another area; see line.go
	belongs    [][]bool   // unit, unit; nil unless a rule asks
}

func New(p season.Problem) *Model {
	if len(p.Spacing.Weeks) == 0 {
		p.Spacing = season.DefaultSpacing
	}
	m := &Model{Problem: p, audienceAt: map[string]int32{},
		UnitAt: PlacesOf(p.Units, func(u season.Unit) string { return u.ID }), TrackAt: PlacesOf(p.Tracks, func(t season.Track) string { return t.ID }),
		ClassAt: PlacesOf(p.Classes, func(c season.Class) string { return c.ID }), CoachAt: PlacesOf(p.Coaches, func(c season.Coach) string { return c.ID })}
	m.readUnits()
	m.readTracks()
	m.readCoaches()
	m.readStudents()
	m.lay()
	m.readHabits()
	return m
}

// Apart is the model with squares of its own, which whoever holds it may pin and free: all else is shared.
func (m *Model) Apart() *Model {
	own := *m
	own.Squares = slices.Clone(m.Squares)
	return &own
}

// Stays says whether a search leaves a square alone.
func (q *Square) Stays() bool { return q.Fixed || q.Pinned }

func PlacesOf[T any](all []T, id func(T) string) map[string]int {
	at := make(map[string]int, len(all))
	for i, x := range all {
		at[id(x)] = i
	}
	return at
}

func (m *Model) readUnits() {
	areas := map[string]int32{}
	m.Units = make([]Unit, len(m.Problem.Units))
	for i, u := range m.Problem.Units {
		if _, ok := areas[u.Area]; !ok {
			areas[u.Area] = int32(len(areas))
		}
		x := &m.Units[i]
		x.Cost, x.Area, x.Salt = [2]int{u.Minutes, u.ReviewMinutes}, areas[u.Area], Mix(uint64(i)+1)
		for k, c := range m.Problem.Coaches {
			if u.Signoff == "" || slices.Contains(c.Signoffs, u.Signoff) {
				x.MayLead |= 1 << k
			}
		}
		for _, r := range u.Requires {
			r := int32(m.UnitAt[r])
			if !slices.Contains(x.Requires, r) {
				x.Requires = append(x.Requires, r)
				m.Units[r].Opens = append(m.Units[r].Opens, int32(i))
			}
		}
	}
}

// readTracks finds which units a track can ever hold: those meant for it whose
// requirements, and theirs, can be held too or are assumed.
func (m *Model) readTracks() {
	n := len(m.Problem.Units)
	m.Assumed, m.Can, m.Teaches, m.WantedBy = make([][]bool, len(m.Problem.Tracks)), make([][]bool, len(m.Problem.Tracks)), make([][]int32, len(m.Problem.Tracks)), make([][]int32, len(m.Problem.Tracks))
	for t, track := range m.Problem.Tracks {
		m.Assumed[t], m.Can[t], m.WantedBy[t] = make([]bool, n), make([]bool, n), make([]int32, n)
		for _, u := range track.Assumed {
			m.Assumed[t][m.UnitAt[u]] = true
		}
		var may func(u int32) bool
		known := map[int32]bool{}
		may = func(u int32) bool {
			if had, ok := known[u]; ok {
				return had
			}
			ok := slices.Contains(m.Problem.Units[u].Tracks, track.ID)
			for _, r := range m.Units[u].Requires {
				ok = ok && (m.Assumed[t][r] || may(r))
			}
			known[u] = ok
			return ok
		}
		for u := range m.Problem.Units {
			if m.Can[t][u] = may(int32(u)); m.Can[t][u] {
				m.Teaches[t] = append(m.Teaches[t], int32(u))
			}
		}
	}
	// What was held in a track was possible there, whatever the lists say.
	for _, f := range m.Problem.Fixed {
		if t := m.TrackAt[m.Problem.Classes[m.ClassAt[f.Class]].Track]; f.Held {
			for _, it := range f.Items {
				if u := m.UnitAt[it.Unit]; it.Kind == season.Teach {
					for _, d := range m.Units[u].Opens {
						m.allow(t, int(d))
					}
				}
			}
		}
	}
}

// allow lets a track hold a unit after all when nothing it stands on is out of reach.
func (m *Model) allow(t, u int) {
	if m.Can[t][u] || !slices.Contains(m.Problem.Units[u].Tracks, m.Problem.Tracks[t].ID) {
		return
	}
	for _, r := range m.Units[u].Requires {
		if !m.Assumed[t][r] && !m.Can[t][r] && !m.HeldIn(t, int(r)) {
			return
		}
	}
	m.Can[t][u] = true
	m.Teaches[t] = append(m.Teaches[t], int32(u))
	slices.Sort(m.Teaches[t])
	for _, d := range m.Units[u].Opens {
		m.allow(t, int(d))
	}
}

func (m *Model) HeldIn(t, u int) bool {
	for _, f := range m.Problem.Fixed {
		if f.Held && m.TrackAt[m.Problem.Classes[m.ClassAt[f.Class]].Track] == t && slices.Contains(f.Items, season.Item{Unit: m.Problem.Units[u].ID, Kind: season.Teach}) {
			return true
		}
	}
	return false
}

func (m *Model) readCoaches() {
	m.There = make([]uint64, len(m.Problem.Classes)*(m.Problem.Weeks+1))
	for k, c := range m.Problem.Coaches {
		for _, class := range c.Available {
			for w := 1; w <= m.Problem.Weeks; w++ {
				if !slices.ContainsFunc(c.Out, func(o season.Away) bool { return o.Covers(w, class) }) {
					m.There[m.ClassAt[class]*(m.Problem.Weeks+1)+w] |= 1 << k
				}
			}
		}
	}
}

func (m *Model) readStudents() {
	n := len(m.Problem.Classes)
	m.Chance = make([]float64, len(m.Problem.Students)*n)
	for i, s := range m.Problem.Students {
		for class, c := range s.Chance {
			m.Chance[i*n+m.ClassAt[class]] = c
		}
		for _, o := range s.Open {
			u := &m.Units[m.UnitAt[o.Unit]]
			u.Needs = append(u.Needs, Need{int32(i), int32(o.Missing()), o.Weight})
			u.Most += o.Weight
			m.Weights += o.Weight
		}
	}
}

// lay cuts the season into squares and puts in what is fixed.
func (m *Model) lay() {
	fixed := map[string]season.Placement{}
	for _, f := range m.Problem.Fixed {
		fixed[season.Key(f.Week, f.Class)] = f
	}
	shut := map[string]bool{}
	for _, c := range m.Problem.Closures {
		shut[season.Key(c.Week, c.Class)] = true
	}
	m.Squares = make([]Square, 0, m.Problem.Weeks*len(m.Problem.Classes))
	m.single = make([]int32, len(m.Problem.Classes))
	for i := range m.single {
		m.single[i] = int32(i)
	}
	for w := 1; w <= m.Problem.Weeks; w++ {
		for t, track := range m.Problem.Tracks {
			m.layWeek(w, t, track, fixed, shut)
		}
	}
	slices.SortStableFunc(m.Squares, func(x, y Square) int { return cmp.Compare(x.Day, y.Day) })
	m.index()
	for t, track := range m.Problem.Tracks { // the bound's audiences too: once built the model only is read
		for i, c := range m.Problem.Classes {
			if c.Track == track.ID && track.Mode == "split" {
				m.Reach(t, i)
			} else if c.Track == track.ID {
				m.Reach(t, c.TeachMinutes)
			}
		}
	}
	for t := range m.Problem.Tracks {
		least := Never
		for _, u := range m.Teaches[t] {
			least = min(least, m.Units[u].Cost[Teach], m.Units[u].Cost[Review])
		}
		m.Least = append(m.Least, least)
	}
}

func (m *Model) layWeek(w, t int, track season.Track, fixed map[string]season.Placement, shut map[string]bool) {
	day := func(c int32) int {
		if track.Mode == "same" {
			return w * 8
		}
		return w*8 + m.Problem.Classes[c].Weekday
	}
	var open []int32
	var leads []int32
	same := -1 // the square that the classes of the week that are not fixed follow
	for i, c := range m.Problem.Classes {
		f, isFixed := fixed[season.Key(w, c.ID)]
		switch {
		case c.Track != track.ID:
		case isFixed:
			s := Square{Track: t, Week: w, Day: day(int32(i)), Classes: m.single[i : i+1 : i+1], Minutes: c.TeachMinutes, Fixed: true, Held: f.Held, lead: []int32{-1}}
			if k, ok := m.CoachAt[f.Lead]; ok && f.Lead != "" {
				s.lead[0] = int32(k)
			}
			m.audiencesOf(&s)
			if f.Known {
				s.Audiences[0] = m.audienceOf(t, nil) // nobody hears it any more
			}
			for _, it := range f.Items {
				s.Given = append(s.Given, Item{int32(m.UnitAt[it.Unit]), s.Audiences[0], KindOf(it.Kind)})
			}
			m.Squares = append(m.Squares, s)
			if len(f.Items) > 0 && same < 0 {
				same = len(m.Squares) - 1
			}
		case shut[season.Key(w, "")] || shut[season.Key(w, c.ID)]:
		default:
			open, leads = append(open, int32(i)), append(leads, -1)
		}
	}
	if len(open) == 0 {
		return
	}
	if track.Mode == "split" {
		for i, c := range open {
			s := Square{Track: t, Week: w, Day: day(c), Classes: m.single[c : c+1 : c+1], Minutes: m.Problem.Classes[c].TeachMinutes, lead: leads[i : i+1 : i+1]}
			m.audiencesOf(&s)
			m.Squares = append(m.Squares, s)
		}
		return
	}
	slices.SortStableFunc(open, func(x, y int32) int {
		return cmp.Compare(m.Problem.Classes[y].TeachMinutes, m.Problem.Classes[x].TeachMinutes)
	})
	s := Square{Track: t, Week: w, Day: w * 8, Classes: open, Minutes: m.Problem.Classes[open[0]].TeachMinutes, lead: leads}
	m.audiencesOf(&s)
	if same >= 0 { // one class of the week is fixed: the others give the same
		s.Fixed, s.Held = true, m.Squares[same].Held
		for _, it := range m.Squares[same].Given {
			s.Given = append(s.Given, Item{Unit: it.Unit, Kind: it.Kind})
		}
		m.Place(&s, s.Given)
		s.Given = slices.DeleteFunc(s.Given, func(it Item) bool { return it.Audience < 0 })
	}
	m.Squares = append(m.Squares, s)
}

func (m *Model) audiencesOf(s *Square) {
	s.Uneven = m.Problem.Classes[s.Classes[0]].TeachMinutes != m.Problem.Classes[s.Classes[len(s.Classes)-1]].TeachMinutes
	for i := range s.Classes {
		s.Audiences = append(s.Audiences, m.audienceOf(s.Track, s.Classes[:i+1]))
	}
}

func (m *Model) audienceOf(track int, classes []int32) int32 {
	sorted := slices.Sorted(slices.Values(classes))
	var b strings.Builder
	for _, c := range sorted {
		b.WriteString(strconv.Itoa(int(c)))
		b.WriteByte(' ')
	}
	if l, ok := m.audienceAt[b.String()]; ok {
		return l
	}
	l := int32(len(m.Audiences))
	m.audienceAt[b.String()] = l
	m.Audiences = append(m.Audiences, Audience{track, sorted, [2]uint64{Mix(uint64(l)*2 + 1e6), Mix(uint64(l)*2 + 1e6 + 1)}})
	return l
}

// Place says who hears each item of a square, in their order: the classes
// that have room for it and all before it. An item no class has room for gets audience −1.
func (m *Model) Place(s *Square, items []Item) {
	if !s.Uneven {
		used := 0
		for i := range items {
			used += m.Units[items[i].Unit].Cost[items[i].Kind]
			items[i].Audience = s.Audiences[len(s.Audiences)-1]
			if used > s.Minutes {
				items[i].Audience = -1
			}
		}
		return
	}
	used, reach := 0, len(s.Classes)
	for i := range items {
		used += m.Units[items[i].Unit].Cost[items[i].Kind]
		for reach > 0 && m.Problem.Classes[s.Classes[reach-1]].TeachMinutes < used {
			reach--
		}
		items[i].Audience = -1
		if reach > 0 {
			items[i].Audience = s.Audiences[reach-1]
		}
	}
}

// HeardBy is who hears an item of a square that ends after so many minutes: the classes that are so long, and in any case the longest.
func (m *Model) HeardBy(q *Square, minutes int) int32 {
	last := len(q.Classes) - 1
	for q.Uneven && last > 0 && m.Problem.Classes[q.Classes[last]].TeachMinutes < minutes {
		last--
	}
	return q.Audiences[last]
}

func (m *Model) index() {
	m.ByWeek, m.ByTrack = make([][]int32, m.Problem.Weeks+1), make([][]int32, len(m.Problem.Tracks))
	type place struct {
		week   int
		weekly bool // of a track in mode same, else of one class
		of     int32
	}
	line := make(map[place]int32, len(m.Squares))
	for i := range m.Squares {
		s := &m.Squares[i]
		m.ByWeek[s.Week] = append(m.ByWeek[s.Week], int32(i))
		m.ByTrack[s.Track] = append(m.ByTrack[s.Track], int32(i))
		at := place{s.Week, m.Problem.Tracks[s.Track].Mode == "same", s.Classes[0]}
		if at.weekly {
			at.of = int32(s.Track)
		}
		s.before, s.after = -1, -1
		if b, ok := line[place{s.Week - 1, at.weekly, at.of}]; ok {
			s.before = b
			m.Squares[b].after = int32(i)
		}
		line[at] = int32(i)
	}
}

// Occasion is one time a unit is given: in which square, to whom, how. A state's own know the square's day and track besides, since
// they are looked through at every step.
type Occasion struct {
	Square, Audience int32
	Kind             uint8
	held             bool
	track            int16
	day              int32
}

// Mix turns a small number into one of 64 well spread bits (splitmix64).
func Mix(x uint64) uint64 {
	x += 0x9e3779b97f4a7c15
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	return x ^ x>>31
}

// Reach is the audience of a class in mode split; in mode same, of every class
// that is at least so long.
func (m *Model) Reach(t, k int) int32 {
	if m.Problem.Tracks[t].Mode == "split" {
		return m.audienceOf(t, []int32{int32(k)})
	}
	var classes []int32
	for i, c := range m.Problem.Classes {
		if c.Track == m.Problem.Tracks[t].ID && c.TeachMinutes >= k {
			classes = append(classes, int32(i))
		}
	}
	return m.audienceOf(t, classes)
}

func HasUnit(items []Item, u int32) bool {
	for _, it := range items {
		if it.Unit == u {
			return true
		}
	}
	return false
}

// has says whether items hold one: slices.Contains, for what is asked a million times a second.
func has(items []Item, x Item) bool {
	for i := range items {
		if items[i].Unit == x.Unit {
			return items[i].Kind == x.Kind && items[i].Audience == x.Audience
		}
	}
	return false
}

// Square finds the square of a class in a week.
func (m *Model) Square(week int, class string) (int, bool) {
	c, ok := m.ClassAt[class]
	if !ok || week < 1 || week > m.Problem.Weeks {
		return 0, false
	}
	for _, s := range m.ByWeek[week] {
		if slices.Contains(m.Squares[s].Classes, int32(c)) {
			return int(s), true
		}
	}
	return 0, false
}

func Without(items []Item, u int32) []Item {
	return slices.DeleteFunc(slices.Clone(items), func(it Item) bool { return it.Unit == u })
}

func (m *Model) NameOf(u int) string {
	if n := m.Problem.Units[u].Name; n != "" {
		return n
	}
	return m.Problem.Units[u].ID
}
