package library

import (
	"fmt"
	"math"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// paths writes a library in a few words: "a: mount/d > half/a" is technique a
// from the defender's mount to the attacker's half, "b: mount/a > !" a finish. Forks
// follow as "a? b" (answered by b) and "a? -" (by nobody).
func paths(lines ...string) *Library {
	techniques := map[string]*Technique{}
	var order []string
	positions := map[string]Position{}
	place := func(word string) *Place {
		name, part, _ := strings.Cut(word, "/")
		positions[name] = Position{ID: name, Name: name, Family: Families[len(name)%len(Families)]}
		if part == "d" {
			return &Place{name, Defend}
		}
		return &Place{name, Attack}
	}
	for _, line := range lines {
		if id, way, ok := strings.Cut(line, ": "); ok {
			from, to, _ := strings.Cut(way, " > ")
			t := &Technique{ID: id, Name: id, From: place(from), TeachMinutes: 10}
			if to == "!" {
				t.Finish = true
			} else {
				t.To = place(to)
			}
			techniques[id] = t
			order = append(order, id)
			continue
		}
		id, answer, _ := strings.Cut(line, "? ")
		f := Fork{ID: fmt.Sprint("r", len(techniques[id].Forks)), Reaction: "moves"}
		if answer != "-" {
			f.Answer = answer
		}
		techniques[id].Forks = append(techniques[id].Forks, f)
	}
	var all []Technique
	for _, id := range order {
		all = append(all, *techniques[id])
	}
	var where []Position
	for _, p := range positions {
		where = append(where, p)
	}
	return New(where, all)
}

func TestReport(t *testing.T) {
	l := paths("pass: guard/d > side/a", "climb: side/a > mount/a", "arm: mount/a > !", "collar: mount/a > !", "out: side/d > guard/a", "sweep: guard/a > mount/a",
		"arm? collar", "collar? arm", "pass? climb", "climb? sweep", "sweep? pass", "out? -", "arm? lost")
	r := l.Map(nil).Report(nil)
	assert.Equal(t, []Place{{"mount", Defend}}, r.DeadEnds)
	assert.Contains(t, r.HangsOn, HangsOn{Place{"side", Defend}, "out"})
	assert.NotContains(t, fmt.Sprint(r.HangsOn), "arm", "two ways on are not one")
	assert.Equal(t, [][]string{{"arm", "collar"}}, r.Dilemmas)
	assert.Equal(t, [][]string{{"climb", "sweep", "pass"}}, r.Circuits)
	assert.Equal(t, Funnel{Place{"mount", Attack}, 4, 2}, r.Funnels[0], "side, both guards, and the way out of side")
	assert.Len(t, r.Unanswered, 2)
}

func TestWouldOpen(t *testing.T) {
	l := paths("pass: guard/d > side/a", "climb: side/a > mount/a", "arm: mount/a > !", "out: mount/d > half/a", "pass? climb", "arm? climb", "far: back/a > truck/a")
	known := func(t Technique) bool { return t.ID == "pass" || t.ID == "arm" }
	opens := l.Map(known).Report(l.Techniques()).Opens
	require.Len(t, opens, 2, "far is joined to nothing that is known")
	assert.Equal(t, "climb", opens[0].Technique)
	assert.Equal(t, 4, opens[0].Score, "two reactions answered; mount was known already")
	assert.Equal(t, "out", opens[1].Technique)
	assert.Equal(t, []Place{{"mount", Defend}}, opens[1].EndsDead)
}

func TestMergedRecordsKeepTheirReferences(t *testing.T) {
	l := paths("a: x/a > y/a", "b: y/a > !", "a? old")
	b, _ := l.Technique("b")
	b.Formerly = []string{"old"}
	a, _ := l.Technique("a")
	l = New(l.Positions(), []Technique{a, b})
	assert.Empty(t, l.Map(nil).Report(nil).Unanswered)
	found, ok := l.Technique("old")
	assert.True(t, ok)
	assert.Equal(t, "b", found.ID)
}

// drawLibrary draws a small library of n techniques between few places.
func drawLibrary(t *rapid.T, n int) *Library {
	var lines []string
	places := []string{"a/a", "a/d", "bb/a", "bb/d", "ccc/a", "ccc/d"}
	for i := range n {
		to := rapid.SampledFrom(append(places, "!")).Draw(t, "to")
		lines = append(lines, fmt.Sprintf("t%d: %s > %s", i, rapid.SampledFrom(places).Draw(t, "from"), to))
	}
	for i := range n {
		for range rapid.IntRange(0, 2).Draw(t, "forks") {
			lines = append(lines, fmt.Sprintf("t%d? t%d", i, rapid.IntRange(0, n-1).Draw(t, "answer")))
		}
	}
	return paths(lines...)
}

func TestChainAgainstAllWalks(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := drawLibrary(t, rapid.IntRange(1, 9).Draw(t, "n"))
		m := l.Map(nil)
		from := rapid.SampledFrom(m.places).Draw(t, "from")
		goal := Goal{Finish: rapid.Bool().Draw(t, "finish"), Place: rapid.SampledFrom(m.places).Draw(t, "to")}
		best := math.MaxInt
		if !goal.Finish && from == goal.Place {
			best = 0
		}
		var walk func(at Place, seen []Place, steps int)
		walk = func(at Place, seen []Place, steps int) {
			for _, x := range l.Techniques() {
				if *x.From != at || x.ID == "t0" {
					continue
				}
				if x.Finish && goal.Finish || x.To != nil && !goal.Finish && *x.To == goal.Place {
					best = min(best, steps+1)
				}
				if x.To != nil && !slices.Contains(seen, *x.To) {
					walk(*x.To, append(slices.Clone(seen), *x.To), steps+1)
				}
			}
		}
		walk(from, []Place{from}, 0)
		c, reached, ok := m.Chain(from, goal, []string{"t0"}, rapid.Bool().Draw(t, "by minutes"))
		require.Equal(t, best < math.MaxInt, ok)
		if !ok {
			require.Contains(t, reached, from)
			return
		}
		require.Len(t, c.Steps, best, "all techniques take the same minutes, so both measures agree")
		at := from
		for i, id := range c.Steps {
			x, _ := l.Technique(id)
			require.Equal(t, at, *x.From)
			require.Equal(t, c.Through[i], at)
			if x.To != nil {
				at = *x.To
			}
		}
	})
}

func TestChainByMinutesTakesTheCheaperWay(t *testing.T) {
	l := paths("long: a/a > ccc/a", "one: a/a > bb/a", "two: bb/a > ccc/a")
	all := l.Techniques()
	for i := range all {
		if all[i].ID == "long" {
			all[i].TeachMinutes = 40
		}
	}
	m := New(l.Positions(), all).Map(nil)
	to := Goal{Place: Place{"ccc", Attack}}
	fast, _, _ := m.Chain(Place{"a", Attack}, to, nil, false)
	assert.Equal(t, []string{"long"}, fast.Steps)
	cheap, _, _ := m.Chain(Place{"a", Attack}, to, nil, true)
	assert.Equal(t, []string{"one", "two"}, cheap.Steps)
	assert.Equal(t, 20, cheap.Minutes)
}

func TestRingsAgainstBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := drawLibrary(t, rapid.IntRange(2, 7).Draw(t, "n"))
		r := l.Map(nil).Report(nil)
		answers := func(a, b string) bool {
			x, _ := l.Technique(a)
			return a != b && slices.ContainsFunc(x.Forks, func(f Fork) bool { return f.Answer == b })
		}
		for _, ring := range slices.Concat(r.Dilemmas, r.Circuits) {
			for i := range ring {
				require.True(t, answers(ring[i], ring[(i+1)%len(ring)]), "%v is a ring", ring)
			}
			require.Len(t, slices.Compact(slices.Sorted(slices.Values(ring))), len(ring))
		}
		pairs := 0
		for _, a := range l.Techniques() {
			for _, b := range l.Techniques() {
				if a.ID < b.ID && answers(a.ID, b.ID) && answers(b.ID, a.ID) {
					pairs++
				}
			}
		}
		require.Len(t, r.Dilemmas, pairs)
	})
}

// town makes a library of the given size, joined at random.
func town(positions, techniques int, seed int64) *Library {
	r := rand.New(rand.NewSource(seed))
	var where []Position
	for i := range positions {
		where = append(where, Position{ID: fmt.Sprint("p", i), Name: fmt.Sprint("Place ", i), Family: Families[r.Intn(len(Families))]})
	}
	var all []Technique
	for i := range techniques {
		t := Technique{ID: fmt.Sprint("t", i), Name: fmt.Sprint("Technique ", i), TeachMinutes: 4 + r.Intn(12), From: &Place{fmt.Sprint("p", r.Intn(positions)), []Part{Attack, Defend}[r.Intn(2)]}}
		if t.Finish = r.Intn(6) == 0; !t.Finish {
			t.To = &Place{fmt.Sprint("p", r.Intn(positions)), []Part{Attack, Defend}[r.Intn(2)]}
		}
		for k := range 2 {
			t.Forks = append(t.Forks, Fork{ID: fmt.Sprint(k), Reaction: "moves", Answer: fmt.Sprint("t", r.Intn(techniques))})
		}
		for range r.Intn(2) {
			t.Prerequisites = append(t.Prerequisites, Prerequisite{Technique: fmt.Sprint("t", r.Intn(i+1))})
		}
		all = append(all, t)
	}
	return New(where, all)
}

func TestLayoutMovesLittle(t *testing.T) {
	l := town(120, 500, 4)
	before := l.Map(nil).Layout()
	assert.Equal(t, before, town(120, 500, 4).Map(nil).Layout(), "the same library, the same picture")
	seen := map[[2]float64]bool{}
	for _, s := range before.Spots {
		require.False(t, seen[[2]float64{s.X, s.Y}], "two positions on one spot")
		seen[[2]float64{s.X, s.Y}] = true
		require.True(t, s.X-boxWide/2 >= 0 && s.X+boxWide/2 <= before.Wide && s.Y+boxHigh/2 <= before.High)
	}
	r := rand.New(rand.NewSource(9))
	moved, most := 0, 0
	for i := range 60 {
		from, to := l.Positions()[r.Intn(120)], l.Positions()[r.Intn(120)]
		more := New(l.Positions(), append(l.Techniques(), Technique{ID: fmt.Sprint("more", i), Name: "More", From: &Place{from.ID, Attack}, To: &Place{to.ID, Attack}}))
		now := 0
		for k, s := range more.Map(nil).Layout().Spots {
			if s != before.Spots[k] {
				now++
				p, _ := l.Position(s.Position)
				require.Contains(t, []Family{from.Family, to.Family}, p.Family, "only the two families it joins can move")
			}
		}
		moved, most = moved+now, max(most, now)
	}
	t.Logf("of 120 positions one more technique moved %.1f on average, %d at most", float64(moved)/60, most)
	assert.Less(t, float64(moved)/60, 6.0)
}

func BenchmarkMapReport1000x8000(b *testing.B) {
	l := town(1000, 8000, 1)
	known := func(t Technique) bool { return len(t.ID)%2 == 0 }
	for b.Loop() {
		m := l.Map(nil)
		m.Report(nil)
		l.Map(known).Report(l.Techniques())
	}
}

func BenchmarkMapLayout1000x8000(b *testing.B) {
	m := town(1000, 8000, 1).Map(nil)
	for b.Loop() {
		m.Layout()
	}
}
