// Package mat runs a class: it fits the sheet to the minutes, turns minutes
// into repetitions, pairs those who are there and lays out the clock.
package mat

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"vereda/core/library"
)

// Rank orders the segments of a class when minutes are short.
type Rank string

// The ranks.
const (
	Must   Rank = "must"
	Should Rank = "should"
	Could  Rank = "if there is time"
)

// Segment is one part of a class, in minutes.
type Segment struct {
	ID        string `json:"id"`
	Name      string `json:"name"`
	Technique string `json:"technique,omitempty"`
	Drill     bool   `json:"drill,omitempty" doc:"Done in pairs, with repetitions counted"`
	Rank      Rank   `json:"rank"`
	Min       int    `json:"min"`
	Want      int    `json:"want"`
	Max       int    `json:"max"`
	Minutes   int    `json:"minutes" doc:"What it got; 0 when it fell out"`
	Why       string `json:"why,omitempty"`
}

// Fitted is a class sheet that fits its minutes.
type Fitted struct {
	Segments []Segment `json:"segments" doc:"Those that are in, in order"`
	FellOut  []Segment `json:"fell_out"`
	Used     int       `json:"used"`
	Short    int       `json:"short" doc:"Minutes that even the cells at their shortest lack"`
}

// Fit gives each segment its minutes. First every must gets its least, then every
// should, then the rest, each if it still fits; then, in the same order of ranks, what is left brings the segments that are
// in up to what is wanted, then up to their most, a minute at a time in turn.
// The order of the segments is kept. When even the cells do not fit, they are
// shortened in proportion and Short says by how much.
//
// Costs segments × minutes.
func Fit(segments []Segment, minutes int) Fitted {
	f := Fitted{Segments: []Segment{}, FellOut: []Segment{}}
	in := make([]bool, len(segments))
	got := make([]int, len(segments))
	left := minutes
	for _, rank := range []Rank{Must, Should, Could} {
		for i, s := range segments {
			if s.Rank == rank && (rank == Must || s.Min <= left) {
				in[i], got[i] = true, s.Min
				left -= s.Min
			}
		}
	}
	if left < 0 {
		f.Short = -left
		left = squeeze(segments, in, got, minutes)
	}
	for _, upTo := range []func(Segment) int{func(s Segment) int { return s.Want }, func(s Segment) int { return s.Max }} {
		for _, rank := range []Rank{Must, Should, Could} {
			for given := true; given && left > 0; {
				given = false
				for i, s := range segments {
					if in[i] && s.Rank == rank && got[i] < upTo(s) && left > 0 {
						got[i]++
						left--
						given = true
					}
				}
			}
		}
	}
	for i, s := range segments {
		s.Minutes = got[i]
		if in[i] && got[i] == 0 {
			s.Why = "Not a minute is left for it."
			f.FellOut = append(f.FellOut, s)
			continue
		}
		if in[i] {
			f.Segments = append(f.Segments, s)
			f.Used += s.Minutes
		} else {
			s.Why = fmt.Sprintf("It needs at least %d minutes.", s.Min)
			f.FellOut = append(f.FellOut, s)
		}
	}
	return f
}

// squeeze shortens the cells in proportion to their least, largest remainder
// first, so that they fill the minutes exactly; it returns what is left: nothing.
func squeeze(segments []Segment, in []bool, got []int, minutes int) int {
	sum := 0
	for i := range segments {
		if in[i] && segments[i].Rank != Must {
			in[i], got[i] = false, 0
		}
		sum += got[i]
	}
	if sum == 0 {
		return 0
	}
	left := max(0, minutes)
	type part struct{ i, rest int }
	var parts []part
	for i := range got {
		if in[i] {
			got[i] = segments[i].Min * max(0, minutes) / sum
			left -= got[i]
			parts = append(parts, part{i, segments[i].Min * max(0, minutes) % sum})
		}
	}
	slices.SortStableFunc(parts, func(a, b part) int { return cmp.Compare(b.rest, a.rest) })
	for _, p := range parts {
		if left > 0 && got[p.i] < segments[p.i].Min {
			got[p.i]++
			left--
		}
	}
	return 0
}

// Changeover is the time in seconds partners take to change roles or sides.
const Changeover = 15

// Repetitions is how many each partner gets on each side in a drill: the
// seconds, less the changeovers between turns, shared among two partners and
// the sides, by the seconds one repetition takes. Rounded down.
func Repetitions(minutes, sides, secondsPerRep int) int {
	turns := 2 * max(1, sides)
	seconds := minutes*60 - Changeover*(turns-1)
	if seconds <= 0 || secondsPerRep <= 0 {
		return 0
	}
	return seconds / (turns * secondsPerRep)
}

// Lesson is what tonight's class is about.
type Lesson struct {
	Teach  []library.Technique
	Review []library.Technique
	Warmup []library.Technique // movements tonight's techniques stand on
}

// Outline proposes the segments of a class from its lesson, before fitting. A
// drill wants time for eight repetitions of each partner on each side, and is
// not worth starting under three.
func Outline(l Lesson) []Segment {
	warm := "Arrive and warm up"
	if len(l.Warmup) > 0 {
		warm += ": " + lower(names(l.Warmup))
	}
	all := []Segment{{ID: "warm-up", Name: warm, Rank: Must, Min: 5, Want: 8, Max: 10}}
	for _, t := range l.Review {
		all = append(all, Segment{ID: "review-" + t.ID, Name: "Review: " + t.Name, Technique: t.ID, Drill: true, Rank: Should, Min: 4, Want: 6, Max: 8})
	}
	for _, t := range l.Teach {
		all = append(all,
			Segment{ID: "teach-" + t.ID, Name: "Teach: " + t.Name, Technique: t.ID, Rank: Must, Min: max(3, t.TeachMinutes*2/3), Want: t.TeachMinutes, Max: t.TeachMinutes + 3},
			Segment{ID: "drill-" + t.ID, Name: "Drill: " + t.Name, Technique: t.ID, Drill: true, Rank: Must, Min: drillMinutes(t, 3), Want: drillMinutes(t, 8), Max: drillMinutes(t, 14)})
		if len(t.Forks) > 0 {
			all = append(all, Segment{ID: "reaction-" + t.ID, Name: "Add the reaction: " + t.Name, Technique: t.ID, Drill: true, Rank: Should, Min: 4, Want: 6, Max: 8})
		}
	}
	if len(l.Teach) > 0 {
		all = append(all, Segment{ID: "situational", Name: "Situational rounds", Technique: l.Teach[0].ID, Drill: true, Rank: Should, Min: 6, Want: 10, Max: 15})
	}
	return append(all,
		Segment{ID: "live", Name: "Live rounds", Rank: Could, Min: 5, Want: 10, Max: 20},
		Segment{ID: "close", Name: "Close: what was it, what is next", Rank: Must, Min: 2, Want: 3, Max: 5})
}

// drillMinutes is the least whole minutes that give so many repetitions.
func drillMinutes(t library.Technique, repetitions int) int {
	for m := 1; ; m++ {
		if Repetitions(m, len(t.Sides()), max(1, t.SecondsPerRep)) >= repetitions {
			return m
		}
	}
}

func names(all []library.Technique) string {
	each := make([]string, len(all))
	for i, t := range all {
		each[i] = t.Name
	}
	return strings.Join(each, ", ")
}

func lower(s string) string {
	if s == "" {
		return s
	}
	return strings.ToLower(string([]rune(s)[:1])) + string([]rune(s)[1:])
}
