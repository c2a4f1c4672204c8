package seasontest

import (
	"fmt"

	"pgregory.net/rapid"

	"vereda/core/season"
)

func DrawProblem(t *rapid.T) season.Problem {
	n := func(low, high int, what string) int { return rapid.IntRange(low, high).Draw(t, what) }
	p := season.Problem{Weeks: n(1, 5, "weeks"), Seconds: 0.01, Spacing: season.DefaultSpacing, Goal: rapid.SampledFrom([]string{"full", "coverage"}).Draw(t, "goal")}
	for i := range n(1, 2, "tracks") {
		p.Tracks = append(p.Tracks, season.Track{ID: fmt.Sprint("t", i), Mode: rapid.SampledFrom([]string{"same", "split"}).Draw(t, "mode"), School: rapid.SampledFrom([]string{"block", "spiral", "free"}).Draw(t, "school")})
	}
	for i := range n(1, 4, "classes") {
		p.Classes = append(p.Classes, season.Class{ID: fmt.Sprint("c", i), Track: fmt.Sprint("t", i%len(p.Tracks)), Weekday: n(1, 7, "day"), Start: "18:00", TeachMinutes: n(10, 50, "minutes")})
	}
	for range n(0, 2, "closures") {
		p.Closures = append(p.Closures, season.Closure{Week: n(1, p.Weeks, "week"), Class: rapid.SampledFrom([]string{"", "c0"}).Draw(t, "class")})
	}
	for i := range n(1, 6, "units") {
		u := season.Unit{ID: fmt.Sprint("u", i), Minutes: n(5, 30, "teach"), ReviewMinutes: n(3, 10, "review"), Area: fmt.Sprint("a", i%2), Signoff: rapid.SampledFrom([]string{"", "", "legs"}).Draw(t, "signoff")}
		for j := range len(p.Tracks) {
			if j == 0 || rapid.Bool().Draw(t, "both tracks") {
				u.Tracks = append(u.Tracks, fmt.Sprint("t", j))
			}
		}
		if i > 0 && rapid.Bool().Draw(t, "requires") {
			u.Requires = []string{fmt.Sprint("u", n(0, i-1, "which"))}
		}
		p.Units = append(p.Units, u)
	}
	for i := range n(0, 4, "students") {
		s := season.Student{ID: fmt.Sprint("s", i), Chance: map[string]float64{}}
		for _, c := range p.Classes {
			s.Chance[c.ID] = rapid.Float64Range(0, 1).Draw(t, "chance")
		}
		for _, u := range p.Units {
			if rapid.Bool().Draw(t, "needs") {
				s.Open = append(s.Open, season.Need{Unit: u.ID, Need: float64(n(1, 3, "need")), Had: float64(n(0, 3, "had")) / 2, Weight: 1})
			}
		}
		p.Students = append(p.Students, s)
	}
	for i := range n(1, 3, "coaches") {
		c := season.Coach{ID: fmt.Sprint("k", i), MaxPerWeek: n(0, 4, "limit"), Share: 0.5}
		for _, class := range p.Classes {
			if i == 0 || rapid.Bool().Draw(t, "available") {
				c.Available = append(c.Available, class.ID)
			}
		}
		if rapid.Bool().Draw(t, "signed off") {
			c.Signoffs = []string{"legs"}
		}
		if rapid.Bool().Draw(t, "out") {
			c.Out = []season.Away{{Week: n(1, p.Weeks, "out in")}}
		}
		p.Coaches = append(p.Coaches, c)
	}
	return p
}

func Small() season.Problem {
	return season.Problem{Weeks: 6, Seconds: 0.05, Goal: "full", Spacing: season.DefaultSpacing,
		Tracks:   []season.Track{{ID: "fund", Mode: "same", School: "block"}, {ID: "nogi", Mode: "split", School: "free"}},
		Classes:  []season.Class{{ID: "mon", Track: "fund", Weekday: 1, Start: "18:00", TeachMinutes: 30}, {ID: "wed", Track: "fund", Weekday: 3, Start: "18:00", TeachMinutes: 30}, {ID: "tue", Track: "nogi", Weekday: 2, Start: "19:00", TeachMinutes: 30}, {ID: "fri", Track: "nogi", Weekday: 5, Start: "18:00", TeachMinutes: 30}},
		Closures: []season.Closure{{Week: 3}},
		Units: []season.Unit{{ID: "move", Name: "Hip escape", Tracks: []string{"fund"}, Minutes: 10, ReviewMinutes: 4, Area: "pins"},
			{ID: "escape", Name: "Elbow escape", Tracks: []string{"fund"}, Minutes: 20, ReviewMinutes: 8, Requires: []string{"move"}, Area: "pins"},
			{ID: "legs", Name: "Straight ankle lock", Tracks: []string{"nogi"}, Minutes: 25, ReviewMinutes: 10, Area: "legs", Signoff: "leg attacks"},
			{ID: "huge", Name: "Everything at once", Tracks: []string{"nogi"}, Minutes: 50, ReviewMinutes: 10, Area: "legs"}},
		Students: []season.Student{{ID: "ana", Chance: map[string]float64{"mon": 0.4, "wed": 0.3, "tue": 0.2}, Open: []season.Need{{Unit: "escape", Need: 2, Had: 0, Weight: 1}}}, {ID: "ben", Chance: map[string]float64{"tue": 0.8, "fri": 0.6}, Open: []season.Need{{Unit: "legs", Need: 2, Had: 0.5, Weight: 2}, {Unit: "huge", Need: 1, Had: 0, Weight: 1}}}},
		Coaches:  []season.Coach{{ID: "ines", Available: []string{"mon", "wed", "tue"}, MaxPerWeek: 3, Share: 0.5}, {ID: "dov", Available: []string{"tue", "fri"}, Signoffs: []string{"leg attacks"}, MaxPerWeek: 2, Share: 0.5}}}
}
