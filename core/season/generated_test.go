package season

import (
	"fmt"
	"math/rand/v2"
)

// size is what a generated season is made of.
type size struct {
	weeks, classes, units, students, coaches int
	tracks                                   []Track
}

var (
	smallSeason  = size{6, 4, 10, 20, 4, []Track{{ID: "fund", Mode: "same", School: "block"}, {ID: "nogi", Mode: "split", School: "spiral"}}}
	mediumSeason = size{12, 13, 60, 80, 8, []Track{{ID: "fund", Mode: "same", School: "block"}, {ID: "all", Mode: "split", School: "spiral"}, {ID: "nogi", Mode: "split", School: "spiral"}, {ID: "youth", Mode: "same", School: "block"}}}
	largeSeason  = size{26, 18, 160, 300, 14, []Track{{ID: "fund", Mode: "same", School: "block"}, {ID: "all", Mode: "split", School: "spiral"}, {ID: "nogi", Mode: "split", School: "free"}, {ID: "youth", Mode: "same", School: "block"}, {ID: "adv", Mode: "split", School: "spiral"}}}
)

// generated makes a season as an academy might have one: chains of units in
// eight areas, students who come once to four times a week to a track of theirs, with a rank that
// asks for a third of what it teaches, coaches with sign-offs, weeks off.
func generated(z size, seed uint64) Problem { return generatedAs(z, seed, false) }

// scarce is a season whose minutes cover less than half of what is asked.
func scarce(z size, seed uint64) Problem { return generatedAs(z, seed, true) }

func generatedAs(z size, seed uint64, scarce bool) Problem {
	r := rand.New(rand.NewPCG(seed, 1))
	p := Problem{Weeks: z.weeks, Tracks: z.tracks, Spacing: DefaultSpacing, Goal: "coverage", Seconds: 1}
	for i := range z.classes {
		p.Classes = append(p.Classes, Class{ID: fmt.Sprint("c", i), Track: z.tracks[i%len(z.tracks)].ID, Weekday: 1 + (i*2)%7, Start: fmt.Sprintf("%02d:00", 10+i%9), TeachMinutes: pick(scarce, 30, 40) + 5*r.IntN(5)})
	}
	p.Closures = append(p.Closures, Closure{Week: 1 + z.weeks/2})
	for range z.weeks / 6 {
		p.Closures = append(p.Closures, Closure{Week: 1 + r.IntN(z.weeks), Class: fmt.Sprint("c", r.IntN(z.classes))})
	}
	for i := range z.units {
		u := Unit{ID: fmt.Sprint("u", i), Minutes: pick(scarce, 15, 11) + r.IntN(11), ReviewMinutes: pick(scarce, 6, 4) + r.IntN(5), Area: fmt.Sprint("area-", i%8)}
		home := i % len(z.tracks)
		u.Tracks = []string{z.tracks[home].ID}
		if r.IntN(3) == 0 {
			u.Tracks = append(u.Tracks, z.tracks[(home+1)%len(z.tracks)].ID)
		}
		if before := i - len(z.tracks); before >= 0 && r.IntN(2) == 0 {
			u.Requires = []string{fmt.Sprint("u", before)}
		}
		if r.IntN(6) == 0 {
			u.Signoff = []string{"leg-attacks", "throws"}[r.IntN(2)]
		}
		p.Units = append(p.Units, u)
	}
	for i := range z.students {
		s := Student{ID: fmt.Sprint("s", i), Chance: map[string]float64{}}
		home := z.tracks[i%len(z.tracks)].ID
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
			if u.Tracks[0] == home && (j/len(z.tracks)+i)%3 == 0 || scarce && r.IntN(4) == 0 {
				s.Open = append(s.Open, Need{u.ID, 2 + float64(r.IntN(5)/4), float64(r.IntN(3)) / 2, float64(1 + r.IntN(2))})
			}
		}
		p.Students = append(p.Students, s)
	}
	for i := range z.coaches {
		c := Coach{ID: fmt.Sprint("k", i), MaxPerWeek: 2 + r.IntN(3), Share: 1 / float64(z.coaches)}
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
		c.Out = []Away{{Week: 1 + r.IntN(z.weeks)}}
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
