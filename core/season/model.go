package season

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
)

// The planner works on numbers: units, tracks, classes and coaches are their
// places in the problem's lists.

const (
	teach  uint8 = 0
	review uint8 = 1
)

var kindNames = [2]string{Teach, Review}

func kindOf(name string) uint8 {
	if name == Review {
		return review
	}
	return teach
}

// never is the day of what is not taught.
const never = 1 << 30

// item is a unit in a square. Its audience is who hears it.
type item struct {
	unit, audience int32
	kind           uint8
}

// audience is a set of classes that hear an item together: one class in mode
// split; in mode same all of the track's open classes that are long enough.
type audience struct {
	track   int
	classes []int32
	mark    [2]uint64 // of a teach and of a review in it; their sums tell what a unit is given
}

// square is one thing to decide: a week of a track in mode same, one class of
// one week in mode split.
type square struct {
	track, week int
	day         int     // week × 8 + weekday; week × 8 in mode same, where only the week orders
	classes     []int32 // the longest first
	audiences   []int32 // audiences[i]: the first i+1 classes
	uneven      bool    // its classes differ in length, so the order of its items matters
	minutes     int     // of its longest class
	fixed       bool    // stays as it is
	held        bool    // it happened: no rule is asked of it
	given       []item
	lead        []int32 // per class, the coach who is fixed; −1 when free
	before      int32   // the same line a week earlier; −1 for none
	after       int32
}

type unitModel struct {
	cost     [2]int // minutes of a teach and a review
	requires []int32
	opens    []int32 // units that require it
	area     int32
	mayLead  uint64 // coaches signed off for it
	needs    []need
	most     float64 // the weight of all its needs
	salt     uint64
}

// need is one student's open need: halves are still missing.
type need struct {
	student int32
	halves  int32
	weight  float64
}

// model is a problem made ready. It is never changed once built, so several
// searches may share it.
type model struct {
	p          Problem
	unitAt     map[string]int
	trackAt    map[string]int
	classAt    map[string]int
	coachAt    map[string]int
	units      []unitModel
	squares    []square
	audiences  []audience
	audienceAt map[string]int32
	byWeek     [][]int32 // squares of a week
	byTrack    [][]int32 // squares of a track
	chance     []float64 // student × classes + class
	assumed    [][]bool  // track, unit
	can        [][]bool  // track, unit: may ever be taught or reviewed there
	teaches    [][]int32 // per track, the units that can be in it
	least      []int     // per track, the fewest minutes anything takes
	wantedBy   [][]int32 // track, unit: the last week of the first teach; 0 for any
	there      []uint64  // class × (weeks+1) + week: coaches available and not out
	weights    float64
}

func newModel(p Problem) *model {
	if len(p.Spacing.Weeks) == 0 {
		p.Spacing = DefaultSpacing
	}
	m := &model{p: p, audienceAt: map[string]int32{},
		unitAt: places(p.Units, func(u Unit) string { return u.ID }), trackAt: places(p.Tracks, func(t Track) string { return t.ID }),
		classAt: places(p.Classes, func(c Class) string { return c.ID }), coachAt: places(p.Coaches, func(c Coach) string { return c.ID })}
	m.readUnits()
	m.readTracks()
	m.readCoaches()
	m.readStudents()
	m.lay()
	return m
}

func places[T any](all []T, id func(T) string) map[string]int {
	at := make(map[string]int, len(all))
	for i, x := range all {
		at[id(x)] = i
	}
	return at
}

func (m *model) readUnits() {
	areas := map[string]int32{}
	m.units = make([]unitModel, len(m.p.Units))
	for i, u := range m.p.Units {
		if _, ok := areas[u.Area]; !ok {
			areas[u.Area] = int32(len(areas))
		}
		x := &m.units[i]
		x.cost, x.area, x.salt = [2]int{u.Minutes, u.ReviewMinutes}, areas[u.Area], mixed(uint64(i)+1)
		for k, c := range m.p.Coaches {
			if u.Signoff == "" || slices.Contains(c.Signoffs, u.Signoff) {
				x.mayLead |= 1 << k
			}
		}
		for _, r := range u.Requires {
			r := int32(m.unitAt[r])
			if !slices.Contains(x.requires, r) {
				x.requires = append(x.requires, r)
				m.units[r].opens = append(m.units[r].opens, int32(i))
			}
		}
	}
}

// readTracks finds which units a track can ever hold: those meant for it whose
// requirements, and theirs, can be held too or are assumed.
func (m *model) readTracks() {
	n := len(m.p.Units)
	m.assumed, m.can, m.teaches, m.wantedBy = make([][]bool, len(m.p.Tracks)), make([][]bool, len(m.p.Tracks)), make([][]int32, len(m.p.Tracks)), make([][]int32, len(m.p.Tracks))
	for t, track := range m.p.Tracks {
		m.assumed[t], m.can[t], m.wantedBy[t] = make([]bool, n), make([]bool, n), make([]int32, n)
		for _, u := range track.Assumed {
			m.assumed[t][m.unitAt[u]] = true
		}
		var may func(u int32) bool
		known := map[int32]bool{}
		may = func(u int32) bool {
			if had, ok := known[u]; ok {
				return had
			}
			ok := slices.Contains(m.p.Units[u].Tracks, track.ID)
			for _, r := range m.units[u].requires {
				ok = ok && (m.assumed[t][r] || may(r))
			}
			known[u] = ok
			return ok
		}
		for u := range m.p.Units {
			if m.can[t][u] = may(int32(u)); m.can[t][u] {
				m.teaches[t] = append(m.teaches[t], int32(u))
			}
		}
	}
	// What was held in a track was possible there, whatever the lists say.
	for _, f := range m.p.Fixed {
		if t := m.trackAt[m.p.Classes[m.classAt[f.Class]].Track]; f.Held {
			for _, it := range f.Items {
				if u := m.unitAt[it.Unit]; it.Kind == Teach {
					for _, d := range m.units[u].opens {
						m.allow(t, int(d))
					}
				}
			}
		}
	}
}

// allow lets a track hold a unit after all when nothing it stands on is out of reach.
func (m *model) allow(t, u int) {
	if m.can[t][u] || !slices.Contains(m.p.Units[u].Tracks, m.p.Tracks[t].ID) {
		return
	}
	for _, r := range m.units[u].requires {
		if !m.assumed[t][r] && !m.can[t][r] && !m.heldIn(t, int(r)) {
			return
		}
	}
	m.can[t][u] = true
	m.teaches[t] = append(m.teaches[t], int32(u))
	slices.Sort(m.teaches[t])
	for _, d := range m.units[u].opens {
		m.allow(t, int(d))
	}
}

func (m *model) heldIn(t, u int) bool {
	for _, f := range m.p.Fixed {
		if f.Held && m.trackAt[m.p.Classes[m.classAt[f.Class]].Track] == t && slices.Contains(f.Items, Item{m.p.Units[u].ID, Teach}) {
			return true
		}
	}
	return false
}

func (m *model) readCoaches() {
	m.there = make([]uint64, len(m.p.Classes)*(m.p.Weeks+1))
	for k, c := range m.p.Coaches {
		for _, class := range c.Available {
			for w := 1; w <= m.p.Weeks; w++ {
				if !slices.ContainsFunc(c.Out, func(o Away) bool { return o.covers(w, class) }) {
					m.there[m.classAt[class]*(m.p.Weeks+1)+w] |= 1 << k
				}
			}
		}
	}
}

func (m *model) readStudents() {
	n := len(m.p.Classes)
	m.chance = make([]float64, len(m.p.Students)*n)
	for i, s := range m.p.Students {
		for class, c := range s.Chance {
			m.chance[i*n+m.classAt[class]] = c
		}
		for _, o := range s.Open {
			u := &m.units[m.unitAt[o.Unit]]
			u.needs = append(u.needs, need{int32(i), int32(o.missing()), o.Weight})
			u.most += o.Weight
			m.weights += o.Weight
		}
	}
}

// lay cuts the season into squares and puts in what is fixed.
func (m *model) lay() {
	fixed := map[string]Placement{}
	for _, f := range m.p.Fixed {
		fixed[key(f.Week, f.Class)] = f
	}
	shut := map[string]bool{}
	for _, c := range m.p.Closures {
		shut[key(c.Week, c.Class)] = true
	}
	for w := 1; w <= m.p.Weeks; w++ {
		for t, track := range m.p.Tracks {
			m.layWeek(w, t, track, fixed, shut)
		}
	}
	slices.SortStableFunc(m.squares, func(x, y square) int { return cmp.Compare(x.day, y.day) })
	m.index()
	for t, track := range m.p.Tracks { // the bound's audiences too: once built the model only is read
		for i, c := range m.p.Classes {
			if c.Track == track.ID && track.Mode == "split" {
				m.reach(t, i)
			} else if c.Track == track.ID {
				m.reach(t, c.TeachMinutes)
			}
		}
	}
	for t := range m.p.Tracks {
		least := never
		for _, u := range m.teaches[t] {
			least = min(least, m.units[u].cost[teach], m.units[u].cost[review])
		}
		m.least = append(m.least, least)
	}
}

func (m *model) layWeek(w, t int, track Track, fixed map[string]Placement, shut map[string]bool) {
	day := func(c int32) int {
		if track.Mode == "same" {
			return w * 8
		}
		return w*8 + m.p.Classes[c].Weekday
	}
	var open []int32
	var leads []int32
	var same *square // what the classes of the week that are not fixed follow
	for i, c := range m.p.Classes {
		f, isFixed := fixed[key(w, c.ID)]
		switch {
		case c.Track != track.ID:
		case isFixed:
			s := square{track: t, week: w, day: day(int32(i)), classes: []int32{int32(i)}, minutes: c.TeachMinutes, fixed: true, held: f.Held, lead: []int32{-1}}
			if k, ok := m.coachAt[f.Lead]; ok && f.Lead != "" {
				s.lead[0] = int32(k)
			}
			m.audiencesOf(&s)
			if f.Known {
				s.audiences[0] = m.audienceOf(t, nil) // nobody hears it any more
			}
			for _, it := range f.Items {
				s.given = append(s.given, item{int32(m.unitAt[it.Unit]), s.audiences[0], kindOf(it.Kind)})
			}
			m.squares = append(m.squares, s)
			if len(f.Items) > 0 && same == nil {
				same = &s
			}
		case shut[key(w, "")] || shut[key(w, c.ID)]:
		default:
			open, leads = append(open, int32(i)), append(leads, -1)
		}
	}
	if len(open) == 0 {
		return
	}
	if track.Mode == "split" {
		for i, c := range open {
			s := square{track: t, week: w, day: day(c), classes: []int32{c}, minutes: m.p.Classes[c].TeachMinutes, lead: leads[i : i+1 : i+1]}
			m.audiencesOf(&s)
			m.squares = append(m.squares, s)
		}
		return
	}
	slices.SortStableFunc(open, func(x, y int32) int {
		return cmp.Compare(m.p.Classes[y].TeachMinutes, m.p.Classes[x].TeachMinutes)
	})
	s := square{track: t, week: w, day: w * 8, classes: open, minutes: m.p.Classes[open[0]].TeachMinutes, lead: leads}
	m.audiencesOf(&s)
	if same != nil { // one class of the week is fixed: the others give the same
		s.fixed, s.held = true, same.held
		for _, it := range same.given {
			s.given = append(s.given, item{unit: it.unit, kind: it.kind})
		}
		m.place(&s, s.given)
		s.given = slices.DeleteFunc(s.given, func(it item) bool { return it.audience < 0 })
	}
	m.squares = append(m.squares, s)
}

func (m *model) audiencesOf(s *square) {
	s.uneven = m.p.Classes[s.classes[0]].TeachMinutes != m.p.Classes[s.classes[len(s.classes)-1]].TeachMinutes
	for i := range s.classes {
		s.audiences = append(s.audiences, m.audienceOf(s.track, s.classes[:i+1]))
	}
}

func (m *model) audienceOf(track int, classes []int32) int32 {
	sorted := slices.Sorted(slices.Values(classes))
	var b strings.Builder
	for _, c := range sorted {
		b.WriteString(strconv.Itoa(int(c)))
		b.WriteByte(' ')
	}
	if l, ok := m.audienceAt[b.String()]; ok {
		return l
	}
	l := int32(len(m.audiences))
	m.audienceAt[b.String()] = l
	m.audiences = append(m.audiences, audience{track, sorted, [2]uint64{mixed(uint64(l)*2 + 1e6), mixed(uint64(l)*2 + 1e6 + 1)}})
	return l
}

// place says who hears each item of a square, in their order: the classes
// that have room for it and all before it. An item no class has room for gets audience −1.
func (m *model) place(s *square, items []item) {
	if !s.uneven {
		used := 0
		for i := range items {
			used += m.units[items[i].unit].cost[items[i].kind]
			items[i].audience = s.audiences[len(s.audiences)-1]
			if used > s.minutes {
				items[i].audience = -1
			}
		}
		return
	}
	used, reach := 0, len(s.classes)
	for i := range items {
		used += m.units[items[i].unit].cost[items[i].kind]
		for reach > 0 && m.p.Classes[s.classes[reach-1]].TeachMinutes < used {
			reach--
		}
		items[i].audience = -1
		if reach > 0 {
			items[i].audience = s.audiences[reach-1]
		}
	}
}

func (m *model) index() {
	m.byWeek, m.byTrack = make([][]int32, m.p.Weeks+1), make([][]int32, len(m.p.Tracks))
	line := map[string]int32{}
	for i := range m.squares {
		s := &m.squares[i]
		m.byWeek[s.week] = append(m.byWeek[s.week], int32(i))
		m.byTrack[s.track] = append(m.byTrack[s.track], int32(i))
		name := func(w int) string {
			if m.p.Tracks[s.track].Mode == "same" {
				return strconv.Itoa(w) + "t" + strconv.Itoa(s.track)
			}
			return strconv.Itoa(w) + "c" + strconv.Itoa(int(s.classes[0]))
		}
		s.before, s.after = -1, -1
		if b, ok := line[name(s.week-1)]; ok {
			s.before = b
			m.squares[b].after = int32(i)
		}
		line[name(s.week)] = int32(i)
	}
}

// occ is one time a unit is given: in which square, to whom, how.
type occ struct {
	square, audience int32
	kind             uint8
}

// value is the weight of a unit's needs covered when it is given so often, and
// the way made toward those that are not: each need's expected share of what it misses, by weight.
// Costs needs × presences × halves missing.
func (m *model) value(u int, occs []occ) (covered, way float64) {
	classes := len(m.p.Classes)
	for i := range m.units[u].needs {
		n := &m.units[u].needs[i]
		if n.halves == 0 {
			covered += n.weight
			way += n.weight
			continue
		}
		var d [2*mostNeed + 1]float64
		top := int(n.halves)
		d[0] = 1
		row := m.chance[int(n.student)*classes : (int(n.student)+1)*classes]
		for _, o := range occs {
			step := 2 - int(o.kind)
			for _, c := range m.audiences[o.audience].classes {
				addExposure(d[:], top, step, row[c])
			}
		}
		sum := 0.0
		for j := 1; j <= top; j++ {
			sum += d[j] * float64(j)
		}
		covered += n.weight * d[top]
		way += n.weight * sum / float64(top)
	}
	return covered, way
}

// softScoreStep is the share of progress toward a need that is not met yet.
const softScoreStep = 0.25

// mixed turns a small number into one of 64 well spread bits (splitmix64).
func mixed(x uint64) uint64 {
	x += 0x9e3779b97f4a7c15
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	return x ^ x>>31
}

// key names one class of one week.
func key(week int, class string) string { return strconv.Itoa(week) + "/" + class }
