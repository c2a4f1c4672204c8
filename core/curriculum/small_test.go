package curriculum

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"vereda/core/library"
)

func TestWhatARequirementIsServedBy(t *testing.T) {
	c := Curriculum{Requirements: []Requirement{{Technique: "bridge"}, {Technique: "sweep", Or: []string{"scissor", "pendulum"}}}}
	for technique, want := range map[string]string{"bridge": "bridge", "sweep": "sweep", "pendulum": "sweep"} {
		r, ok := c.Serves(technique)
		assert.True(t, ok, technique)
		assert.Equal(t, want, r.Technique, technique)
	}
	_, ok := c.Serves("lock")
	assert.False(t, ok)
}

func TestSidesARequirementAsksFor(t *testing.T) {
	right, none := library.Technique{Taught: library.Right}, library.Technique{}
	both := Requirement{BothSides: true}
	assert.Len(t, both.Sides(right), 2)
	assert.Equal(t, right.Sides()[:1], Requirement{}.Sides(right), "one: the side it is taught on")
	assert.Len(t, both.Sides(none), 1, "what has no sides has none to ask for twice")
}

func TestTheNextRank(t *testing.T) {
	l := Ladder{Ranks: []Rank{{ID: "white"}, {ID: "blue"}, {ID: "purple"}}}
	for rank, want := range map[string]string{"white": "blue", "blue": "purple", "purple": "", "grey": ""} {
		next, ok := l.Next(rank)
		assert.Equal(t, want, next.ID, rank)
		assert.Equal(t, want != "", ok, rank)
	}
	assert.Equal(t, []int{0, 2, -1}, []int{l.Position("white"), l.Position("purple"), l.Position("grey")})
}

func TestMovingOnToAnotherLadder(t *testing.T) {
	l := Ladder{Onward: &Onward{Ladder: "adult", Age: 16, Ranks: map[string]string{"grey": "white", "green": "blue"}}}
	for name, c := range map[string]struct {
		rank string
		age  int
		to   string
	}{"too young": {"green", 15, ""}, "of age": {"green", 16, "blue"}, "older": {"grey", 40, "white"}, "a rank that stays": {"yellow", 20, ""}} {
		ladder, to, ok := l.Moves(c.rank, c.age)
		assert.Equal(t, c.to, to, name)
		assert.Equal(t, c.to != "", ok, name)
		if ok {
			assert.Equal(t, "adult", ladder, name)
		}
	}
	_, _, ok := Ladder{}.Moves("green", 20)
	assert.False(t, ok, "a ladder that leads nowhere")
}

func TestCellsThatMayNotStayEmptySayWhatIsWrongWithThem(t *testing.T) {
	good := RequiredCell{Family: "pins", Kind: "escape", From: 1}
	for name, c := range map[string]struct {
		cells []RequiredCell
		want  string
	}{
		"the usual ones":               {DefaultRequiredCells, ""},
		"none":                         {nil, ""},
		"for adults and for the young": {[]RequiredCell{{Family: "pins", Kind: "escape", Audience: "adult"}, {Family: "pins", Kind: "escape", Audience: "youth"}}, ""},
		"a family nobody knows":        {[]RequiredCell{good, {Family: "clouds", Kind: "escape"}}, `required_cells[1].family: "clouds"`},
		"a kind nobody knows":          {[]RequiredCell{{Family: "pins", Kind: "dance"}}, `required_cells[0].kind: "dance"`},
		"a movement starts nowhere":    {[]RequiredCell{{Family: "pins", Kind: library.Movement}}, "required_cells[0].kind: "},
		"an audience nobody knows":     {[]RequiredCell{{Family: "pins", Kind: "escape", Audience: "cats"}}, "required_cells[0].audience: "},
		"a rank under the first":       {[]RequiredCell{{Family: "pins", Kind: "escape", From: -1}}, "required_cells[0].from: -1"},
		"a rank past every ladder":     {[]RequiredCell{{Family: "pins", Kind: "escape", From: 41}}, "required_cells[0].from: 41"},
		"twice":                        {[]RequiredCell{good, good}, "required_cells[1].kind: pins, escape is in the list twice"},
		"once for all, once for some":  {[]RequiredCell{good, {Family: "pins", Kind: "escape", Audience: "youth"}}, "required_cells[1].kind: "},
	} {
		var lines []string
		for _, p := range CheckRequiredCells(c.cells) {
			lines = append(lines, p.Error())
		}
		if c.want == "" {
			assert.Empty(t, lines, name)
			continue
		}
		assert.Contains(t, strings.Join(lines, "\n"), c.want, name)
	}
	assert.False(t, slices.Contains(RequiredCellKinds(), library.Movement))
}
