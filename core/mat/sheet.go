// Package mat runs a class: it fits the sheet to the minutes, turns minutes
// into repetitions, pairs those who are there and lays out the clock.
package mat

import (
	"cmp"
	"slices"

	"vereda/core/say"
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
	ID        string       `json:"id"`
	Kind      string       `json:"kind" doc:"What the academy's rules call it, such as drill"`
	Name      say.Sentence `json:"name"`
	Technique string       `json:"technique,omitempty"`
	Drill     bool         `json:"drill,omitempty" doc:"Done in pairs, with repetitions counted"`
	Rank      Rank         `json:"rank"`
	Min       int          `json:"min"`
	Want      int          `json:"want"`
	Max       int          `json:"max"`
	Minutes   int          `json:"minutes" doc:"What it got; 0 when it fell out"`
	Why       say.Sentence `json:"why,omitempty"`
	// Of what fell out: what it would take to keep it.
	Needs   int            `json:"needs,omitempty" doc:"Minutes more that the class would have to last"`
	Instead []say.Sentence `json:"instead,omitempty" doc:"Segments that would fall out for it"`
	ByHand  bool           `json:"by_hand,omitempty" doc:"Its minutes were set, or it was left out or moved, by hand"`
}

// Fitted is a class sheet that fits its minutes.
type Fitted struct {
	Segments []Segment `json:"segments" doc:"Those that are in, in order"`
	FellOut  []Segment `json:"fell_out"`
	Used     int       `json:"used"`
	Short    int       `json:"short" doc:"Minutes that even what must be lacks at its shortest"`
}

// Fit gives each segment its minutes: the best way there is, in this order of what is better.
//
//  1. Every must is in, at its least or more. When even that does not fit, musts alone are shortened in proportion, and Short says by how much.
//  2. As many shoulds as can be, then as many of the rest.
//  3. The musts come nearest to what they want (the sum of the squares of what they lack), then the shoulds, then the rest.
//  4. As many minutes as can be are used.
//  5. What is more than wanted is spread evenly, and never beyond the most.
//
// The order of the segments is kept. Of several ways that are as good it takes the one that keeps
// the earlier segments. What fell out says what it would take to keep it.
//
// A dynamic program over segments and minutes; costs segments × the minutes that everything would take × the longest span of a
// segment, and as much again for each segment that fell out.
func Fit(segments []Segment, minutes int) Fitted {
	minutes = min(max(0, minutes), longestClass)
	all := fill(segments, max(minutes, min(most(segments), minutes+longestClass)))
	f := all.fitted(minutes)
	for i := range f.FellOut {
		f.FellOut[i].Needs = all.toKeep(f.FellOut[i].ID, minutes)
		f.FellOut[i].Instead = instead(segments, f, f.FellOut[i].ID, minutes)
	}
	return f
}

// longestClass bounds the minutes that are looked at: no class is longer, whatever is asked of it.
const longestClass = 300

func most(segments []Segment) int {
	sum := 0
	for _, s := range segments {
		sum += s.Max
	}
	return sum
}

// worth is what a way to fill the minutes is worth: the higher wins, the first entry first. Each entry is a sum over
// segments, so ways can be compared part by part.
type worth [7]int

func (w worth) plus(x worth) worth {
	for i := range w {
		w[i] += x[i]
	}
	return w
}

func (w worth) less(x worth) bool { return slices.Compare(w[:], x[:]) < 0 }

// worthOf is what one segment adds with so many minutes; 0 leaves it out.
func worthOf(s Segment, minutes int) worth {
	var w worth
	at := map[Rank]int{Must: 2, Should: 3, Could: 4}[s.Rank]
	if minutes == 0 {
		w[at] = -s.Want * s.Want
		return w
	}
	switch s.Rank {
	case Should:
		w[0] = 1
	case Could:
		w[1] = 1
	}
	lacks, over := max(0, s.Want-minutes), max(0, minutes-s.Want)
	w[at], w[5], w[6] = -lacks*lacks, minutes, -over*over
	return w
}

// filled holds the best way to use exactly so many minutes, for each number of them and each number of segments from the first on.
type filled struct {
	segments []Segment
	best     [][]cell
}

type cell struct {
	worth worth
	got   int // minutes of the last segment; none when so many minutes cannot be used
}

const none = -1

func fill(segments []Segment, minutes int) filled {
	best := make([][]cell, len(segments)+1)
	for i := range best {
		best[i] = make([]cell, minutes+1)
		for m := range best[i] {
			best[i][m].got = none
		}
	}
	best[0][0].got = 0
	for i, s := range segments {
		worths := make([]worth, s.Max+1)
		for m := range worths {
			worths[m] = worthOf(s, m)
		}
		for used := range minutes + 1 {
			if best[i][used].got == none {
				continue
			}
			try := func(m int) {
				to := &best[i+1][used+m]
				if w := best[i][used].worth.plus(worths[m]); to.got == none || to.worth.less(w) {
					*to = cell{w, m}
				}
			}
			for m := max(1, s.Min); m <= min(s.Max, minutes-used); m++ {
				try(m)
			}
			if s.Rank != Must {
				try(0)
			}
		}
	}
	return filled{segments, best}
}

// minutes is the best way to use at most so many minutes; nil when not even every must fits.
func (t filled) minutes(atMost int) []int {
	last, used := t.best[len(t.segments)], none
	for m := range min(len(last), atMost+1) {
		if last[m].got != none && (used == none || last[used].worth.less(last[m].worth)) {
			used = m
		}
	}
	if used == none {
		return nil
	}
	got := make([]int, len(t.segments))
	for i := len(t.segments); i > 0; i-- {
		got[i-1] = t.best[i][used].got
		used -= got[i-1]
	}
	return got
}

func (t filled) fitted(minutes int) Fitted {
	if got := t.minutes(minutes); got != nil {
		return written(t.segments, got, 0)
	}
	least := 0
	for _, s := range t.segments {
		if s.Rank == Must {
			least += s.Min
		}
	}
	return written(t.segments, squeezed(t.segments, minutes), least-minutes)
}

// toKeep is the fewest minutes more with which a segment that fell out would be in.
func (t filled) toKeep(id string, minutes int) int {
	i := slices.IndexFunc(t.segments, func(s Segment) bool { return s.ID == id })
	for more := 1; minutes+more < len(t.best[0]); more++ {
		if got := t.minutes(minutes + more); got != nil && got[i] > 0 {
			return more
		}
	}
	return 0
}

// instead lists what would fall out if a segment that fell out had to be in; nothing where it cannot be in at all.
func instead(segments []Segment, f Fitted, id string, minutes int) []say.Sentence {
	wanted := slices.Clone(segments)
	wanted[slices.IndexFunc(wanted, func(s Segment) bool { return s.ID == id })].Rank = Must
	var names []say.Sentence
	if other := fill(wanted, minutes).fitted(minutes); other.Short == 0 {
		for _, x := range other.FellOut {
			if !slices.ContainsFunc(f.FellOut, func(y Segment) bool { return y.ID == x.ID }) {
				names = append(names, x.Name)
			}
		}
	}
	return names
}

// squeezed shortens the musts in proportion to their least, largest remainder first, so that they fill
// the minutes exactly.
func squeezed(segments []Segment, minutes int) []int {
	got, sum, left := make([]int, len(segments)), 0, max(0, minutes)
	for _, s := range segments {
		if s.Rank == Must {
			sum += s.Min
		}
	}
	type part struct{ i, rest int }
	var parts []part
	for i, s := range segments {
		if s.Rank == Must {
			got[i] = s.Min * max(0, minutes) / sum
			left -= got[i]
			parts = append(parts, part{i, s.Min * max(0, minutes) % sum})
		}
	}
	slices.SortStableFunc(parts, func(a, b part) int { return cmp.Compare(b.rest, a.rest) })
	for _, p := range parts {
		if left > 0 && got[p.i] < segments[p.i].Min {
			got[p.i]++
			left--
		}
	}
	return got
}

func written(segments []Segment, got []int, short int) Fitted {
	f := Fitted{Segments: []Segment{}, FellOut: []Segment{}, Short: short}
	for i, s := range segments {
		s.Minutes = got[i]
		switch {
		case got[i] > 0:
			f.Segments = append(f.Segments, s)
			f.Used += s.Minutes
			continue
		case s.Rank == Must && short > 0:
			s.Why = "Not a minute is left for it."
		default:
			s.Why = say.F("It needs at least %d minutes.", s.Min)
		}
		f.FellOut = append(f.FellOut, s)
	}
	return f
}

// Changeover is the time in seconds partners take to change roles or sides.
const Changeover = 15

// Repetitions is how many each partner gets on each side in a drill: the
// seconds, less the changeovers between turns, shared among the partners (two, or three in a trio) and
// the sides, by the seconds one repetition takes. Rounded down.
func Repetitions(minutes, partners, sides, secondsPerRep int) int {
	turns := max(1, partners) * max(1, sides)
	seconds := minutes*60 - Changeover*(turns-1)
	if seconds <= 0 || secondsPerRep <= 0 {
		return 0
	}
	return seconds / (turns * secondsPerRep)
}
