package mat

import (
	"vereda/core/library"
	"vereda/core/say"
)

// Stretch is one stretch of the class clock. A sound marks the end of each.
type Stretch struct {
	Segment string       `json:"segment"`
	Summary say.Sentence `json:"summary" doc:"The large word on the wall"`
	Detail  say.Sentence `json:"detail,omitempty"`
	Seconds int          `json:"seconds"`
	Round   int          `json:"round" doc:"Round of the rotation, from 1; 0 outside of it"`
	Rest    bool         `json:"rest,omitempty" doc:"Changing over"`
}

// Clock cuts a fitted sheet into stretches. A drill of a technique with two
// sides is cut into four equal turns: each partner on each side. Situational
// and live segments are cut into rounds of three minutes. Each drilled segment
// takes the next round of the rotation, each live round one more. The stretches of a segment add up to its minutes.
func Clock(f Fitted, technique func(id string) (library.Technique, bool)) []Stretch {
	all := []Stretch{}
	round := 0
	for _, s := range f.Segments {
		total := s.Minutes * 60
		t, known := technique(s.Technique)
		switch {
		case s.ID == "situational" || s.ID == "live":
			rounds := max(1, s.Minutes/3)
			for i := range rounds {
				round++
				all = append(all, share(s, total, rounds, i, round, say.F(roundNo, i+1), s.Name)...)
			}
		case s.Drill && known:
			round++
			turns := turnsOf(t)
			for i, turn := range turns {
				all = append(all, share(s, total, len(turns), i, round, turn, say.Raw(t.Name))...)
			}
		default:
			all = append(all, Stretch{Segment: s.ID, Summary: s.Name, Seconds: total})
		}
	}
	return all
}

// What a clock says besides the names of segments. One that runs is read back by these: see Recalled.
const (
	roundNo       say.Sentence = "Round %d"
	firstPartner  say.Sentence = "First partner, %s"
	secondPartner say.Sentence = "Second partner, %s"
)

// Recalled is the clock of a class that began, so that it can be said in any language.
func Recalled(kept []Stretch) []Stretch {
	all := make([]Stretch, len(kept))
	for i, s := range kept {
		s.Summary, s.Detail = RecallName(s.Summary), RecallName(s.Detail)
		all[i] = s
	}
	return all
}

// RecallName is the name of a segment or of a turn that was kept.
func RecallName(kept say.Sentence) say.Sentence {
	return say.Recall(kept, roundNo, firstPartner, secondPartner, warmUpWith, reviewOf, teachOf, drillOf, reactionOf)
}

// leastTurn is the shortest turn in seconds; where there is less, changing over takes less too.
const leastTurn = 5

// share is the i-th of n equal parts of a segment, followed by the changeover
// unless it is the last. The parts and changeovers add up to total.
func share(s Segment, total, n, i, round int, says, detail say.Sentence) []Stretch {
	change := Changeover
	if n > 1 {
		change = max(0, min(Changeover, (total-leastTurn*n)/(n-1)))
	}
	work := (total - change*(n-1)) / n
	if i == n-1 {
		work = total - (n-1)*(work+change)
		return []Stretch{{Segment: s.ID, Summary: says, Detail: detail, Seconds: work, Round: round}}
	}
	turn := Stretch{Segment: s.ID, Summary: says, Detail: detail, Seconds: work, Round: round}
	if change == 0 {
		return []Stretch{turn}
	}
	return []Stretch{turn, {Segment: s.ID, Summary: "Change", Detail: detail, Seconds: change, Round: round, Rest: true}}
}

func turnsOf(t library.Technique) []say.Sentence {
	if t.Taught == "" {
		return []say.Sentence{"First partner", "Second partner"}
	}
	a, b := t.Taught, t.Taught.Other()
	return []say.Sentence{say.F(firstPartner, a), say.F(secondPartner, a), say.F(firstPartner, b), say.F(secondPartner, b)}
}

// RoundsIn counts the rounds of the rotation a clock calls for: those of drills
// come first, then the free ones, situational and live.
func RoundsIn(ticks []Stretch) (drills, free int) {
	for _, t := range ticks {
		if t.Segment == "situational" || t.Segment == "live" {
			free = max(free, t.Round-drills)
		} else {
			drills = max(drills, t.Round)
		}
	}
	return drills, free
}
