package model

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"vereda/core/season"
)

// lineOf is a season of one track, one class a week, with a unit of each of three areas, one without an area and a movement that is wanted.
func lineOf(least, most int, taught string) (*Model, [][]Item) {
	p := season.Problem{Weeks: len(taught), Tracks: []season.Track{{ID: "all", Mode: "split", School: "block", Rules: season.Rules{AreaLeast: least, AreaMost: most}}},
		Classes: []season.Class{{ID: "mon", Track: "all", Weekday: 1, TeachMinutes: 60}}, Students: []season.Student{}, Coaches: []season.Coach{}}
	for _, a := range []string{"guards", "pins", "standing", ""} {
		p.Units = append(p.Units, season.Unit{ID: "of " + a, Tracks: []string{"all"}, Minutes: 10, ReviewMinutes: 5, Area: a})
	}
	for w, x := range taught {
		if x == '#' {
			p.Closures = append(p.Closures, season.Closure{Week: w + 1})
		}
	}
	m := New(p)
	items := make([][]Item, len(m.Squares))
	for s := range m.Squares {
		for u, letter := range "gps-" {
			switch x := rune(taught[m.Squares[s].Week-1]); {
			case x == letter && x != '-':
				items[s] = append(items[s], Item{Unit: int32(u), Kind: Teach})
			case x == '*' && letter != '-': // all of them at once
				items[s] = append(items[s], Item{Unit: int32(u), Kind: Teach})
			case x == 'r' && letter == 's', x == '-' && letter == '-': // a review, and what belongs to no area
				items[s] = append(items[s], Item{Unit: int32(u), Kind: uint8(map[rune]int{'r': int(Review), '-': int(Teach)}[x])})
			}
		}
	}
	return m, items
}

func TestALineThroughAPlan(t *testing.T) {
	for name, c := range map[string]struct {
		least, most int
		taught      string
		want        string // the area of each open week; empty where there is no line
		far         int
	}{
		"as it asks":                       {3, 5, "gggpppp", "gggpppp", 0},
		"the last ones are cut":            {3, 5, "gggggp", "gggggp", 0},
		"a week of nothing goes along":     {3, 5, "gg.ppp", "gggppp", 0},
		"reviews are free":                 {3, 5, "ggrppp", "gggppp", 0},
		"what is of no area is too":        {3, 5, "gg-ppp", "gggppp", 0},
		"a closed week is no week":         {3, 5, "gg#gppp", "gggppp", 0},
		"too short":                        {3, 5, "ggppp", "", 2},
		"too long":                         {3, 5, "ggggggp", "", 5},
		"two areas at once":                {1, 5, "g*pp", "", 1},
		"back and forth":                   {2, 3, "ggppgg", "ggppgg", 0},
		"another between what is the same": {1, 2, "gg.gg", "ggpgg", 0},
		"nothing taught":                   {2, 2, "....", "ggpp", 0},
	} {
		m, items := lineOf(c.least, c.most, c.taught)
		areas, far := m.LineThrough(0, items)
		var got strings.Builder
		for _, a := range areas {
			got.WriteByte("gps"[a])
		}
		assert.Equal(t, c.want, got.String(), name)
		if c.want == "" {
			assert.Equal(t, c.far, far, "%s: where it ends", name)
		}
	}
}

func TestOffTheLine(t *testing.T) {
	m, items := lineOf(2, 3, "ggpp")
	assert.True(t, m.Lined(0) && m.AnyLined())
	assert.Equal(t, []int32{0, 1, 2}, m.Areas(0))
	q := &m.Squares[0]
	assert.False(t, m.OffLine(q, 1), "no line is set yet")
	var plan []season.Placement
	for s := range m.Squares {
		plan = append(plan, season.Placement{Week: m.Squares[s].Week, Class: "mon", Items: []season.Item{{Unit: m.Problem.Units[items[s][0].Unit].ID, Kind: season.Teach}}})
	}
	m.KeepLines(plan)
	assert.False(t, m.OffLine(q, 0))
	assert.True(t, m.OffLine(q, 1))
	assert.False(t, m.OffLine(q, 3), "it is of no area")
	assert.Equal(t, "area_weeks", m.Against(q, []Item{{Unit: 1, Kind: Teach}}))
	assert.Empty(t, m.Against(q, []Item{{Unit: 1, Kind: Review}}))
	p := m.Problem
	p.Wanted = []season.Wanted{{Unit: "of pins", Week: 2}}
	assert.True(t, New(p).OutOfLine(0, 1), "what is wanted by a date is taught when it must be")
	p.Tracks[0].Rules.AreaMost = 0
	assert.False(t, New(p).AnyLined())
}
