package mat

import (
	"fmt"
	"slices"
	"strings"

	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
)

// Lesson is what tonight's class is about.
type Lesson struct {
	Teach  []library.Technique
	Review []library.Technique
	Warmup []library.Technique // movements tonight's techniques stand on
}

// SegmentRule is how long the academy wants one kind of segment, and how much it matters.
type SegmentRule struct {
	Kind string `json:"kind" enum:"warm-up,review,teach,drill,reaction,situational,live,close"`
	Rank Rank   `json:"rank" enum:"must,should,if there is time,never"`
	Min  int    `json:"min" minimum:"0" maximum:"500" doc:"In the unit of its kind"`
	Want int    `json:"want" minimum:"0" maximum:"500"`
	Max  int    `json:"max" minimum:"0" maximum:"500"`
}

// Never is the rank of a kind that an academy, or one of its tracks, does without.
const Never Rank = "never"

// SegmentKind is a kind of segment with the unit its length is set in.
type SegmentKind struct {
	Kind string       `json:"kind"`
	Name say.Sentence `json:"name"`
	Unit say.Sentence `json:"unit" enum:"minutes,% of its teaching time,repetitions"`
}

// SegmentKinds are the kinds there are, in the order of a class.
var SegmentKinds = []SegmentKind{
	{"warm-up", "Arrive and warm up", "minutes"}, {"review", "Review of last time, each technique", "minutes"},
	{"teach", "Teach, each technique", "% of its teaching time"}, {"drill", "Drill, each partner and side", "repetitions"},
	{"reaction", "Add the reaction, each technique", "minutes"}, {"situational", "Situational rounds", "minutes"},
	{"live", "Live rounds", "minutes"}, {"close", "Close", "minutes"},
}

// DefaultSegments are the rules of an academy that set none. A drill wants time for eight repetitions of each
// partner on each side, and is not worth starting under three.
var DefaultSegments = []SegmentRule{
	{"warm-up", Must, 5, 8, 10}, {"review", Should, 4, 6, 8}, {"teach", Must, 67, 100, 130}, {"drill", Must, 3, 8, 14},
	{"reaction", Should, 4, 6, 8}, {"situational", Should, 6, 10, 15}, {"live", Could, 5, 10, 20}, {"close", Must, 2, 3, 5},
}

// CheckSegments says what is wrong with the rules of a track: each kind once, and least, wanted and most in order.
func CheckSegments(rules []SegmentRule) []validation.Problem {
	var found validation.Found
	seen := map[string]bool{}
	for i, r := range rules {
		at := fmt.Sprintf("[%d]", i)
		if !slices.ContainsFunc(SegmentKinds, func(k SegmentKind) bool { return k.Kind == r.Kind }) {
			found.Bad(at+".kind", "%.40q is not a kind of segment", r.Kind)
		}
		if seen[r.Kind] {
			found.Bad(at+".kind", "%s stands there twice", r.Kind)
		}
		seen[r.Kind] = true
		if !slices.Contains([]Rank{Must, Should, Could, Never}, r.Rank) {
			found.Bad(at+".rank", "%.40q: say must, should, if there is time, or never", r.Rank)
		}
		if r.Min < 1 || r.Min > r.Want || r.Want > r.Max || r.Max > 500 {
			found.Bad(at+".min", "%s: least %d, wanted %d, most %d: they go upward, from 1 to 500", r.Kind, r.Min, r.Want, r.Max)
		}
	}
	for _, k := range SegmentKinds {
		if !seen[k.Kind] {
			found.Bad("", "%s is missing", k.Kind)
		}
	}
	return found
}

// Names of segments.
const (
	warmUpWith say.Sentence = "Arrive and warm up: %s"
	reviewOf   say.Sentence = "Review: %s"
	teachOf    say.Sentence = "Teach: %s"
	drillOf    say.Sentence = "Drill: %s"
	reactionOf say.Sentence = "Add the reaction: %s"
)

// Outline proposes the segments of a class from its lesson and the academy's rules, before fitting.
func Outline(l Lesson, rules []SegmentRule) []Segment {
	var all []Segment
	add := func(kind, id string, name say.Sentence, technique string, drill bool, length func(n int) int) {
		i := slices.IndexFunc(rules, func(r SegmentRule) bool { return r.Kind == kind })
		if i < 0 || rules[i].Rank == Never {
			return
		}
		r := rules[i]
		all = append(all, Segment{ID: id, Kind: kind, Name: name, Technique: technique, Drill: drill, Rank: r.Rank, Min: length(r.Min), Want: length(r.Want), Max: length(r.Max)})
	}
	minutes := func(n int) int { return n }
	warm := say.Sentence("Arrive and warm up")
	if len(l.Warmup) > 0 {
		warm = say.F(warmUpWith, lower(names(l.Warmup)))
	}
	add("warm-up", "warm-up", warm, "", false, minutes)
	for _, t := range l.Review {
		add("review", "review-"+t.ID, say.F(reviewOf, t.Name), t.ID, true, minutes)
	}
	for _, t := range l.Teach {
		add("teach", "teach-"+t.ID, say.F(teachOf, t.Name), t.ID, false, func(n int) int { return max(1, (t.TeachMinutes*n+50)/100) })
		add("drill", "drill-"+t.ID, say.F(drillOf, t.Name), t.ID, true, func(n int) int { return drillMinutes(t, n) })
		if len(t.Forks) > 0 {
			add("reaction", "reaction-"+t.ID, say.F(reactionOf, t.Name), t.ID, true, minutes)
		}
	}
	if len(l.Teach) > 0 {
		add("situational", "situational", "Situational rounds", l.Teach[0].ID, true, minutes)
	}
	add("live", "live", "Live rounds", "", false, minutes)
	add("close", "close", "Close: what was it, what is next", "", false, minutes)
	return all
}

// drillMinutes is the least whole minutes that give so many repetitions to each of two partners on each side.
func drillMinutes(t library.Technique, repetitions int) int {
	for m := 1; ; m++ {
		if Repetitions(m, 2, len(t.Sides()), max(1, t.SecondsPerRep)) >= repetitions {
			return m
		}
	}
}

// SegmentEdit is what somebody changed by hand in one class.
type SegmentEdit struct {
	ID      string `json:"id" maxLength:"120"`
	Minutes int    `json:"minutes,omitempty" minimum:"0" maximum:"180" doc:"Exactly so many; as it fits when 0"`
	Dropped bool   `json:"dropped,omitempty"`
	Kept    bool   `json:"kept,omitempty" doc:"It must be in, whatever falls out for it"`
}

// Edited takes in what was changed by hand: the segments in the order of the edits that move them, with fixed
// minutes and without what was left out. Edits of segments that are not there are left alone. dropped lists what was left out.
func Edited(segments []Segment, edits []SegmentEdit, order []string) (in, dropped []Segment) {
	in = slices.Clone(segments)
	place := map[string]int{}
	for i, id := range order {
		place[id] = i + 1
	}
	// Those that were not there when the order was made stay behind the one they stand behind.
	at := make(map[string]float64, len(in))
	last := 0.0
	for _, s := range in {
		if p, ok := place[s.ID]; ok {
			last = float64(p)
		} else {
			last += 1e-3
		}
		at[s.ID] = last
	}
	if len(order) > 0 {
		slices.SortStableFunc(in, func(a, b Segment) int {
			switch {
			case at[a.ID] < at[b.ID]:
				return -1
			case at[a.ID] > at[b.ID]:
				return 1
			}
			return 0
		})
	}
	edit := map[string]SegmentEdit{}
	for _, e := range edits {
		edit[e.ID] = e
	}
	in = slices.DeleteFunc(in, func(s Segment) bool {
		if edit[s.ID].Dropped {
			s.Why, s.ByHand = "Left out by hand.", true
			dropped = append(dropped, s)
		}
		return edit[s.ID].Dropped
	})
	for i := range in {
		e := edit[in[i].ID]
		if e.Minutes > 0 {
			in[i].Min, in[i].Want, in[i].Max, in[i].Rank, in[i].ByHand = e.Minutes, e.Minutes, e.Minutes, Must, true
		}
		if e.Kept {
			in[i].Rank, in[i].ByHand = Must, true
		}
	}
	return in, dropped
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
