package seasontest

import (
	"fmt"
	"math/rand/v2"

	"vereda/core/season"
)

// Size is what a generated season is made of.
type Size struct {
	Weeks, Classes, Units, Students, Coaches int
	Tracks                                   []season.Track
}

var (
	SmallSeason  = Size{6, 4, 10, 20, 4, []season.Track{{ID: "fund", Mode: "same", School: "block"}, {ID: "nogi", Mode: "split", School: "spiral"}}}
	MediumSeason = Size{12, 13, 60, 80, 8, []season.Track{{ID: "fund", Mode: "same", School: "block"}, {ID: "all", Mode: "split", School: "spiral"}, {ID: "nogi", Mode: "split", School: "spiral"}, {ID: "youth", Mode: "same", School: "block"}}}
	LargeSeason  = Size{26, 18, 160, 300, 14, []season.Track{{ID: "fund", Mode: "same", School: "block"}, {ID: "all", Mode: "split", School: "spiral"}, {ID: "nogi", Mode: "split", School: "free"}, {ID: "youth", Mode: "same", School: "block"}, {ID: "adv", Mode: "split", School: "spiral"}}}
)

// Generated makes a season as an academy might have one: chains of units in
// eight areas, students who come once to four times a week to a track of theirs, with a rank that
// asks for a third of what it teaches, coaches with sign-offs, weeks off.
func Generated(z Size, seed uint64) season.Problem { return As(z, seed, false) }

// Scarce is a season whose minutes cover less than half of what is asked.
func Scarce(z Size, seed uint64) season.Problem { return As(z, seed, true) }

func As(z Size, seed uint64, scarce bool) season.Problem {
	r := rand.New(rand.NewPCG(seed, 1))
	p := season.Problem{Weeks: z.Weeks, Tracks: z.Tracks, Spacing: season.DefaultSpacing, Goal: "coverage", Seconds: 1}
	for i := range z.Classes {
		p.Classes = append(p.Classes, season.Class{ID: fmt.Sprint("c", i), Track: z.Tracks[i%len(z.Tracks)].ID, Weekday: 1 + (i*2)%7, Start: fmt.Sprintf("%02d:00", 10+i%9), TeachMinutes: pick(scarce, 30, 40) + 5*r.IntN(5)})
	}
	p.Closures = append(p.Closures, season.Closure{Week: 1 + z.Weeks/2})
	for range z.Weeks / 6 {
		p.Closures = append(p.Closures, season.Closure{Week: 1 + r.IntN(z.Weeks), Class: fmt.Sprint("c", r.IntN(z.Classes))})
	}
	for i := range z.Units {
		u := season.Unit{ID: fmt.Sprint("u", i), Minutes: pick(scarce, 15, 11) + r.IntN(11), ReviewMinutes: pick(scarce, 6, 4) + r.IntN(5), Area: fmt.Sprint("area-", i%8)}
		home := i % len(z.Tracks)
		u.Tracks = []string{z.Tracks[home].ID}
		if r.IntN(3) == 0 {
			u.Tracks = append(u.Tracks, z.Tracks[(home+1)%len(z.Tracks)].ID)
		}
		if before := i - len(z.Tracks); before >= 0 && r.IntN(2) == 0 {
			u.Requires = []string{fmt.Sprint("u", before)}
		}
		if r.IntN(6) == 0 {
			u.Signoff = []string{"leg-attacks", "throws"}[r.IntN(2)]
		}
		p.Units = append(p.Units, u)
	}
	for i := range z.Students {
		s := season.Student{ID: fmt.Sprint("s", i), Chance: map[string]float64{}}
		home := z.Tracks[i%len(z.Tracks)].ID
		for _, c := range p.Classes {
			switch {
			case c.Track == home && r.IntN(3) < pick(scarce, 1, 2):
				s.Chance[c.ID] = 0.4 + 0.55*r.Float64()
			case r.IntN(5) == 0:
				s.Chance[c.ID] = 0.5 * r.Float64()
			default:
				s.Chance[c.ID] = 0.05
			}
		}
		for j, u := range p.Units {
			if u.Tracks[0] == home && (j/len(z.Tracks)+i)%3 == 0 || scarce && r.IntN(4) == 0 {
				s.Open = append(s.Open, season.Need{Unit: u.ID, Need: 2 + float64(r.IntN(5)/4), Had: float64(r.IntN(3)) / 2, Weight: float64(1 + r.IntN(2))})
			}
		}
		p.Students = append(p.Students, s)
	}
	for i := range z.Coaches {
		c := season.Coach{ID: fmt.Sprint("k", i), MaxPerWeek: 2 + r.IntN(3), Share: 1 / float64(z.Coaches)}
		for _, k := range p.Classes {
			if r.IntN(2) == 0 || i < 2 {
				c.Available = append(c.Available, k.ID)
			}
		}
		if i%2 == 0 {
			c.Signoffs = append(c.Signoffs, "leg-attacks")
		}
		if i%3 != 1 {
			c.Signoffs = append(c.Signoffs, "throws")
		}
		c.Out = []season.Away{{Week: 1 + r.IntN(z.Weeks)}}
		p.Coaches = append(p.Coaches, c)
	}
	return p
}

func pick(first bool, a, b int) int {
	if first {
		return a
	}
	return b
}
