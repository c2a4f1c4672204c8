package model

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/season"
	"vereda/internal/seasontest"
)

// two is a season of two weeks with a track in mode same, whose classes differ in length, and one in mode split.
func two() season.Problem {
	return season.Problem{
		Weeks:  2,
		Tracks: []season.Track{{ID: "same", Mode: "same", School: "block", Assumed: []string{"known"}}, {ID: "split", Mode: "split", School: "spiral"}},
		Classes: []season.Class{
			{ID: "mon", Track: "same", Weekday: 1, Start: "18:00", TeachMinutes: 40}, {ID: "thu", Track: "same", Weekday: 4, Start: "18:00", TeachMinutes: 25},
			{ID: "tue", Track: "split", Weekday: 2, Start: "19:00", TeachMinutes: 30}, {ID: "fri", Track: "split", Weekday: 5, Start: "19:00", TeachMinutes: 30},
		},
		Units: []season.Unit{
			{ID: "bridge", Name: "Bridge", Tracks: []string{"same", "split"}, Minutes: 20, ReviewMinutes: 8, Area: "mount"},
			{ID: "sweep", Name: "Sweep", Tracks: []string{"same", "split"}, Minutes: 20, ReviewMinutes: 8, Requires: []string{"bridge"}, Area: "guard"},
			{ID: "lock", Tracks: []string{"split"}, Minutes: 12, ReviewMinutes: 6, Area: "legs", Signoff: "legs", Risky: true},
			{ID: "neck", Tracks: []string{"split"}, Minutes: 12, ReviewMinutes: 6, Area: "front", Risky: true},
			{ID: "known", Tracks: []string{"same"}, Minutes: 10, ReviewMinutes: 5, Area: "guard"},
		},
		Students: []season.Student{
			{ID: "ana", Chance: map[string]float64{"mon": 0.5, "thu": 0.8, "tue": 0.25}, Open: []season.Need{{Unit: "bridge", Need: 1, Weight: 1}, {Unit: "sweep", Need: 2, Had: 0.5, Weight: 2}}},
			{ID: "bo", Chance: map[string]float64{"mon": 1}, Open: []season.Need{{Unit: "bridge", Need: 0.5, Had: 0.5, Weight: 3}}},
		},
		Coaches: []season.Coach{
			{ID: "sol", Available: []string{"mon", "thu", "tue", "fri"}, Signoffs: []string{"legs"}, MaxPerWeek: 3, Share: 0.5},
			{ID: "hana", Available: []string{"mon", "fri"}, MaxPerWeek: 2, Share: 0.5, Out: []season.Away{{Week: 2}}},
		},
		Closures: []season.Closure{{Week: 2, Class: "fri"}},
		Goal:     "full",
	}
}

func item(m *Model, unit string, kind uint8) Item {
	return Item{Unit: int32(m.UnitAt[unit]), Kind: kind}
}

// held is what each square holds; nothing is nothing, however it came about.
func held(st *State) [][]Item {
	all := st.Contents()
	for s := range all {
		all[s] = slices.Clip(append([]Item{}, all[s]...))
	}
	return all
}

func square(t *testing.T, m *Model, week int, class string) int {
	t.Helper()
	s, ok := m.Square(week, class)
	require.True(t, ok, "%s in week %d", class, week)
	return s
}

func TestASquareIsAWeekOfATrackOrOneClass(t *testing.T) {
	m := New(two())
	assert.Len(t, m.Squares, 2+3, "two weeks of the track in mode same, three open classes of the other")
	mon := square(t, m, 1, "mon")
	assert.Equal(t, mon, square(t, m, 1, "thu"), "one content for both")
	assert.NotEqual(t, square(t, m, 1, "tue"), square(t, m, 1, "fri"))
	assert.Equal(t, 40, m.Squares[mon].Minutes, "of the longest class")
	assert.True(t, m.Squares[mon].Uneven)
	assert.Equal(t, []int{8, 10, 13}, []int{m.Squares[mon].Day, m.Squares[square(t, m, 1, "tue")].Day, m.Squares[square(t, m, 1, "fri")].Day}, "in mode same the week alone orders")
	for _, c := range []struct {
		week  int
		class string
	}{{2, "fri"}, {0, "mon"}, {3, "mon"}, {1, "nobody's"}} {
		_, ok := m.Square(c.week, c.class)
		assert.False(t, ok, "%s in week %d", c.class, c.week)
	}
}

func TestWhoHearsAnItemHangsOnHowLongTheirClassIs(t *testing.T) {
	m := New(two())
	q := &m.Squares[square(t, m, 1, "mon")]
	items := []Item{item(m, "bridge", Teach), item(m, "sweep", Teach), item(m, "known", Teach)}
	m.Place(q, items)
	var heard [][]int32
	for _, it := range items {
		if it.Audience < 0 {
			heard = append(heard, nil)
			continue
		}
		heard = append(heard, m.Audiences[it.Audience].Classes)
	}
	mon, thu := int32(m.ClassAt["mon"]), int32(m.ClassAt["thu"])
	assert.Equal(t, [][]int32{{mon, thu}, {mon}, nil}, heard, "20 minutes fit both, 40 the longer one, 50 neither")
	assert.Equal(t, []int32{mon, thu}, m.Audiences[m.Reach(m.TrackAt["same"], 25)].Classes)
	assert.Equal(t, []int32{mon}, m.Audiences[m.Reach(m.TrackAt["same"], 26)].Classes)
	assert.Equal(t, []int32{int32(m.ClassAt["fri"])}, m.Audiences[m.Reach(m.TrackAt["split"], m.ClassAt["fri"])].Classes)
}

func TestWhatATrackMayTeach(t *testing.T) {
	m := New(two())
	may := func(track, unit string) bool { return m.Can[m.TrackAt[track]][m.UnitAt[unit]] }
	assert.True(t, may("same", "bridge"))
	assert.False(t, may("same", "lock"), "it is of another track")
	assert.True(t, may("split", "lock"))
	assert.True(t, m.Assumed[m.TrackAt["same"]][m.UnitAt["known"]])
	assert.Equal(t, "Bridge", m.NameOf(m.UnitAt["bridge"]))
	assert.Equal(t, "lock", m.NameOf(m.UnitAt["lock"]), "without a name it goes by its identifier")
}

func TestAChangeIsMadeOnlyWhenEveryRuleIsKept(t *testing.T) {
	m := New(two())
	st := NewState(m)
	w1, w2 := square(t, m, 1, "tue"), square(t, m, 2, "tue")
	fri, same := square(t, m, 1, "fri"), square(t, m, 1, "mon")
	bridge, sweep := item(m, "bridge", Teach), item(m, "sweep", Teach)
	for name, c := range map[string]struct {
		changes []Change
		made    bool
	}{
		"what stands on nothing":                        {[]Change{{w1, []Item{bridge}}}, true},
		"what stands on what is not there yet":          {[]Change{{w1, []Item{sweep}}}, false},
		"both, in their order":                          {[]Change{{w1, []Item{bridge}}, {fri, []Item{sweep}}}, true},
		"both, the wrong way round":                     {[]Change{{fri, []Item{bridge}}, {w1, []Item{sweep}}}, false},
		"both on one day":                               {[]Change{{w1, []Item{bridge, sweep}}}, false},
		"a review of what was never taught":             {[]Change{{w1, []Item{item(m, "bridge", Review)}}}, false},
		"a review after its teach":                      {[]Change{{w1, []Item{bridge}}, {w2, []Item{item(m, "bridge", Review)}}}, true},
		"a review of what the track is assumed to know": {[]Change{{same, []Item{item(m, "known", Review)}}}, true},
		"a unit twice in a class":                       {[]Change{{w1, []Item{bridge, item(m, "bridge", Review)}}}, false},
		"more minutes than there are":                   {[]Change{{w1, []Item{bridge, item(m, "neck", Teach)}}}, false},
		"a unit of another track":                       {[]Change{{same, []Item{item(m, "lock", Teach)}}}, false},
		"a unit nobody there is signed off for":         {[]Change{{fri, []Item{item(m, "lock", Teach)}}, {w1, []Item{item(m, "lock", Teach)}}, {same, []Item{bridge}}}, true}, // Sol leads three of the four, Hana the rest
		"more classes than the coaches have room for":   {[]Change{{w2, []Item{bridge}}, {square(t, m, 2, "mon"), []Item{bridge}}}, true},
	} {
		before := held(st)
		made := st.Try(c.changes...)
		assert.Equal(t, c.made, made, name)
		if made {
			st.Undo()
		}
		assert.Equal(t, before, held(st), "%s: nothing is left of it", name)
		assert.Zero(t, st.Sum-NewState(m).Sum, name)
	}
}

func TestCoachesLimitWhatAWeekCanHold(t *testing.T) {
	p := two()
	p.Coaches = p.Coaches[:1]
	p.Coaches[0].MaxPerWeek = 2
	m := New(p)
	st := NewState(m)
	bridge := item(m, "bridge", Teach)
	require.True(t, st.Try(Change{square(t, m, 1, "tue"), []Item{bridge}}))
	require.True(t, st.Try(Change{square(t, m, 1, "fri"), []Item{bridge}}))
	assert.False(t, st.Try(Change{square(t, m, 1, "mon"), []Item{bridge}}), "both classes of the track would need the one coach too")
	assert.True(t, st.Try(Change{square(t, m, 2, "mon"), []Item{bridge}}), "another week has room of its own")
}

func TestAValueIsTheChanceOfHavingEnough(t *testing.T) {
	m := New(two())
	st := NewState(m)
	require.Equal(t, 3.0, st.Sum, "what is met already is covered from the beginning")
	require.InDelta(t, 3.0/6, st.Coverage(), 1e-12)
	require.True(t, st.Try(Change{square(t, m, 1, "mon"), []Item{item(m, "bridge", Teach)}}))
	// Ana comes to Monday half the time, to Thursday four times in five: she misses both one time in ten.
	assert.InDelta(t, 3+0.9, st.Sum, 1e-12)
	require.True(t, st.Try(Change{square(t, m, 2, "mon"), []Item{item(m, "sweep", Teach)}}))
	// Of the sweep she misses three halves, that is two classes in one week: 0.5 · 0.8, of weight 2; the shorter class has room for it too.
	assert.InDelta(t, 3+0.9+2*0.4, st.Sum, 1e-12)
}

func TestRulesOfATrackByName(t *testing.T) {
	all := func(change func(*season.Rules)) season.Problem {
		p := two()
		change(&p.Tracks[1].Rules)
		return p
	}
	for name, c := range map[string]struct {
		p     season.Problem
		items []string
		kind  uint8
		want  string
	}{
		"nothing is asked":          {two(), []string{"lock", "neck"}, Teach, ""},
		"too many units":            {all(func(r *season.Rules) { r.MostUnits = 1 }), []string{"lock", "neck"}, Teach, "most_units"},
		"too many new ones":         {all(func(r *season.Rules) { r.MostNew = 1 }), []string{"lock", "neck"}, Teach, "most_new"},
		"reviews are not new":       {all(func(r *season.Rules) { r.MostNew = 1 }), []string{"lock", "neck"}, Review, ""},
		"two that load":             {all(func(r *season.Rules) { r.RiskApart = true }), []string{"lock", "neck"}, Teach, "risk_apart"},
		"one that loads":            {all(func(r *season.Rules) { r.RiskApart = true }), []string{"lock", "bridge"}, Teach, ""},
		"none is long enough":       {all(func(r *season.Rules) { r.MainMinutes = 15 }), []string{"lock", "neck"}, Teach, "main_minutes"},
		"the main one is":           {all(func(r *season.Rules) { r.MainMinutes = 15 }), []string{"bridge"}, Teach, ""},
		"reviews alone":             {all(func(r *season.Rules) { r.TeachEach = true }), []string{"bridge"}, Review, "teach_each"},
		"reviews in a week of them": {all(func(r *season.Rules) { r.TeachEach, r.ReviewWeeks = true, []int{1} }), []string{"bridge"}, Review, ""},
		"nothing in common":         {all(func(r *season.Rules) { r.Together = true }), []string{"bridge", "neck"}, Teach, "together"},
		"one stands on the other":   {all(func(r *season.Rules) { r.Together = true }), []string{"bridge", "sweep"}, Teach, ""},
		"nothing at all":            {all(func(r *season.Rules) { r.TeachEach = true }), nil, Teach, ""},
	} {
		m := New(c.p)
		var items []Item
		for _, u := range c.items {
			items = append(items, item(m, u, c.kind))
		}
		q := &m.Squares[square(t, m, 1, "tue")]
		assert.Equal(t, c.want, m.Against(q, items), name)
		assert.Equal(t, c.want == "", m.Allows(q, items), name)
	}
	barred := two()
	barred.Barred = []season.Barred{{Unit: "bridge", Track: "split", From: 1, To: 1}}
	m := New(barred)
	bridge := []Item{item(m, "bridge", Teach)}
	assert.Equal(t, "barred", m.Against(&m.Squares[square(t, m, 1, "tue")], bridge))
	assert.Empty(t, m.Against(&m.Squares[square(t, m, 2, "tue")], bridge), "the week after it may be shown")
	assert.Empty(t, m.Against(&m.Squares[square(t, m, 1, "mon")], bridge), "another track may")
	units, taught := New(all(func(r *season.Rules) { r.MostUnits, r.MostNew = 2, 1 })).Full(square(t, m, 1, "tue"), bridge)
	assert.Equal(t, []bool{false, true}, []bool{units, taught})
}

// Where what comes back comes deeper, a class is taught a unit as often as it has layers, and a track in mode same in so many weeks.
func TestAUnitIsTaughtOnceForEachLayer(t *testing.T) {
	p := two()
	for i := range p.Tracks {
		p.Tracks[i].Rules.Deeper = true
	}
	m := New(p)
	st := NewState(m)
	bridge := item(m, "bridge", Teach)
	require.True(t, st.Try(Change{square(t, m, 1, "tue"), []Item{bridge}}))
	assert.False(t, st.Try(Change{square(t, m, 2, "tue"), []Item{bridge}}), "the same again to the same class")
	assert.True(t, st.Try(Change{square(t, m, 2, "tue"), []Item{item(m, "bridge", Review)}}), "a review is no teaching")
	require.True(t, st.Try(Change{square(t, m, 2, "tue"), nil}))
	assert.True(t, st.Try(Change{square(t, m, 1, "fri"), []Item{bridge}}), "another class of a split track has not had it")
	require.True(t, st.Try(Change{square(t, m, 1, "mon"), []Item{bridge}}))
	assert.False(t, st.Try(Change{square(t, m, 2, "mon"), []Item{bridge}}), "the same track, in the next week")

	for i := range p.Units {
		p.Units[i].Layers = 2
	}
	m = New(p)
	st = NewState(m)
	require.True(t, st.Try(Change{square(t, m, 1, "tue"), []Item{bridge}}))
	assert.True(t, st.Try(Change{square(t, m, 2, "tue"), []Item{bridge}}), "it has a second layer")
}

func TestAfterAClosedWeek(t *testing.T) {
	p := two()
	p.Closures = []season.Closure{{Week: 1}}
	p.Tracks[1].Rules = season.Rules{EaseIn: true}
	m := New(p)
	q := &m.Squares[square(t, m, 2, "tue")]
	assert.True(t, q.AfterClosed)
	assert.Equal(t, "ease_in", m.Against(q, []Item{item(m, "lock", Teach)}))
	assert.Empty(t, m.Against(q, []Item{item(m, "bridge", Teach)}))
	one := two()
	one.Closures = []season.Closure{{Week: 1, Class: "tue"}}
	m = New(one)
	assert.False(t, m.Squares[square(t, m, 2, "tue")].AfterClosed, "its track had another class that week")
}

func TestFixedClassesStayAndCount(t *testing.T) {
	p := two()
	p.Fixed = []season.Placement{{Week: 1, Class: "tue", Lead: "sol", Items: []season.Item{{Unit: "bridge", Kind: season.Teach}}}, {Week: 1, Class: "fri", Items: []season.Item{}}}
	m := New(p)
	st := NewState(m)
	tue := square(t, m, 1, "tue")
	assert.True(t, m.Squares[tue].Stays())
	assert.InDelta(t, 3+0.25, st.Sum, 1e-12, "Ana comes to it one time in four")
	assert.True(t, st.Try(Change{square(t, m, 2, "tue"), []Item{item(m, "sweep", Teach)}}), "it stands on what is fixed")
	assert.Equal(t, []season.Placement{p.Fixed[0], {Week: 2, Class: "tue", Items: []season.Item{{Unit: "sweep", Kind: season.Teach}}}}, st.Placements())
	own := m.Apart()
	own.Squares[square(t, m, 2, "tue")].Pinned = true
	assert.False(t, m.Squares[square(t, m, 2, "tue")].Stays(), "what is pinned apart is pinned for nobody else")
}

func TestHowManyItemsFit(t *testing.T) {
	m := New(two())
	items := []season.Item{{Unit: "bridge", Kind: season.Teach}, {Unit: "sweep", Kind: season.Review}, {Unit: "lock", Kind: season.Teach}}
	for minutes, want := range map[int]int{0: 0, 19: 0, 20: 1, 27: 1, 28: 2, 39: 2, 40: 3} {
		assert.Equal(t, want, m.Leading(items, minutes), "%d minutes", minutes)
	}
}

func TestAWantedUnitMustComeInTime(t *testing.T) {
	m := New(two())
	m.WantedBy[m.TrackAt["split"]][m.UnitAt["bridge"]] = 1 // as a search settles it, once it knows in which track
	st := NewState(m)
	bridge := item(m, "bridge", Teach)
	assert.False(t, st.Try(Change{square(t, m, 2, "tue"), []Item{bridge}}), "a week late")
	require.True(t, st.Try(Change{square(t, m, 1, "fri"), []Item{bridge}}))
	assert.False(t, st.Try(Change{square(t, m, 1, "fri"), nil}), "it may not be taken away again")
	assert.True(t, st.Try(Change{square(t, m, 1, "fri"), nil}, Change{square(t, m, 1, "tue"), []Item{bridge}}), "but moved within its time")
}

// Whatever is tried, taken back and put anew, a state counts what one made from the same contents counts, and what it lets through keeps every rule.
func TestAStateCountsWhatOneMadeAnewCounts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := seasontest.DrawHabits(t)
		p.Fixed, p.Wanted = nil, nil // a state begins empty here, and what is wanted is missing then
		p.Goal = "full"
		m := New(p)
		if len(m.Squares) == 0 || len(m.Units) == 0 {
			return
		}
		for k := range m.Rules { // a line is the search's to choose, and a state's to keep: here two areas by turns
			if !m.Lined(k) {
				continue
			}
			areas, least := m.Areas(k), max(1, m.Rules[k].AreaLeast)
			weeks, _ := m.OpenWeeks(k)
			m.SetLine(k, func(week int, area int32) bool {
				i := slices.Index(weeks, week)
				return i >= 0 && area == areas[i/least%2]
			})
		}
		st := NewState(m)
		r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "random"), 4))
		for range rapid.IntRange(1, 80).Draw(t, "tries") {
			var changes []Change
			for _, s := range r.Perm(len(m.Squares))[:1+r.IntN(min(2, len(m.Squares)))] {
				items := slices.Clone(st.Items[s])
				if len(items) > 0 && r.IntN(3) == 0 {
					items = slices.Delete(items, 0, 1)
				} else {
					items = append(items, Item{Unit: int32(r.IntN(len(m.Units))), Kind: uint8(r.IntN(2))})
				}
				changes = append(changes, Change{s, items})
			}
			was, sum := held(st), st.Sum
			fits := !slices.ContainsFunc(changes, func(c Change) bool { return !st.Fits(c.Square, c.Items) })
			gain, score := 0.0, st.Score()
			if fits {
				gain = st.Gain(changes...)
				least := gain + (r.Float64()-0.5)/50
				require.Equal(t, gain >= least, st.Gains(least, changes...), "so much at least")
				require.Equal(t, was, held(st), "a look changes nothing")
				require.InDelta(t, score, st.Score(), 0)
			}
			made := st.Try(changes...)
			if made {
				require.InDelta(t, st.Score()-score, gain, 1e-9, "what it was said to gain")
			}
			if made && r.IntN(3) == 0 {
				st.Undo()
				made = false
			}
			if !made {
				require.Equal(t, was, held(st))
				require.InDelta(t, sum, st.Sum, 1e-9)
			}
		}
		anew := NewState(m)
		anew.Take(st.Contents())
		require.InDelta(t, anew.Sum, st.Sum, 1e-9, "covered")
		require.InDelta(t, anew.Score(), st.Score(), 1e-9, "score")
		require.Equal(t, anew.SoftScore.Sums, st.SoftScore.Sums)
		require.Equal(t, anew.Used, st.Used)
		require.Equal(t, anew.Staffing.Asks, st.Staffing.Asks)
		again := NewState(m)
		again.Put(st.Placements())
		require.InDelta(t, st.Sum, again.Sum, 1e-9, "read off and put back")
		cover, _ := season.Coverage(p, st.Placements())
		require.InDelta(t, cover, st.Coverage(), 1e-9, "as the plan itself is valued")
		if found := seasontest.Habits(p, st.Placements()); len(found) > 0 && !m.Whole() {
			t.Fatalf("%d rules of its tracks are broken: %s", len(found), fmt.Sprint(found))
		}
	})
}
