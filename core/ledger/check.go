package ledger

import (
	"math"

	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
)

// Seen is what a coach saw of one key point.
type Seen string

// What can be seen.
const (
	Shown    Seen = "seen"
	Prompted Seen = "prompted"
	Missing  Seen = "missing"
)

// Observation is what a coach saw of one student doing one technique on one side.
type Observation struct {
	Points        map[string]Seen `json:"points" doc:"Key point identifier: seen, prompted or missing"`
	CautionBroken bool            `json:"caution_broken"`
	Resistance    int             `json:"resistance" minimum:"0" maximum:"4" doc:"0 holds still, 4 live"`
	Tries         int             `json:"tries,omitempty" minimum:"0" maximum:"99" doc:"Against live resistance: how often it was tried"`
	Successes     int             `json:"successes,omitempty" minimum:"0" maximum:"99"`
	TaughtBack    bool            `json:"taught_back,omitempty" doc:"The student explained it to somebody who then could do it"`
	Partner       string          `json:"partner,omitempty" maxLength:"100" doc:"Who was worked with"`
}

// Standard is the house standard.
type Standard struct {
	PassShare   float64                  `json:"pass_share" minimum:"0" maximum:"1" doc:"Least check score to pass, gates apart"`
	LiveShare   map[library.Kind]float64 `json:"live_share" doc:"Least lower bound of the success share against live resistance, per kind"`
	LiveDefault float64                  `json:"live_default"`
	LiveTries   int                      `json:"live_tries" doc:"Fewest tries that prove anything"`
}

// DefaultStandard is used where an academy sets none. The live shares are low
// because they bound the 95 % lower limit, not the share itself: an escape from a bad
// place that works one time in five is good work.
var DefaultStandard = Standard{
	PassShare: 0.75, LiveTries: 3, LiveDefault: 0.25,
	LiveShare: map[library.Kind]float64{"escape": 0.10, "guard retention": 0.10, "grip break": 0.15, "submission": 0.20, "takedown": 0.15},
}

// Verdict is what the standard says of an observation.
type Verdict struct {
	Rung    curriculum.Rung `json:"rung,omitempty" enum:"passed,live,teaches" doc:"The rung it proves; empty when the standard was not met"`
	Met     bool            `json:"met"`
	Score   float64         `json:"score" doc:"Σ weights (seen 1, prompted ½, missing 0) ÷ Σ weights over all key points that are not gates, 0 to 1"`
	Reasons []say.Sentence  `json:"reasons"`
}

// What a verdict says. A kept one is read back by these: see Recalled.
const (
	gatePrompted say.Sentence = "Gate only when prompted: %s"
	gateMissing  say.Sentence = "Gate missing: %s"
	scoreUnder   say.Sentence = "Score %.2f is under the standard of %.2f."
	standardMet  say.Sentence = "All gates unprompted, no caution broken, score %.2f of at least %.2f."
	triesFew     say.Sentence = "%d of %d live tries: fewer than %d prove little."
	triesUnder   say.Sentence = "%d of %d live tries: at least %.0f %% is sure, the standard for a %s is %.0f %%."
	triesMet     say.Sentence = "%d of %d live tries meet the standard for a %s."
)

// Recalled is a verdict that was kept, so that it can be said in any language.
func (v Verdict) Recalled() Verdict {
	reasons := make([]say.Sentence, len(v.Reasons))
	for i, r := range v.Reasons {
		reasons[i] = say.Recall(r, gatePrompted, gateMissing, scoreUnder, standardMet, triesFew, triesUnder, triesMet)
	}
	v.Reasons = reasons
	return v
}

// Judge computes the verdict of the house standard. All gates must be seen unprompted,
// no caution broken, and the score of the other key points at least PassShare.
// At resistance 4 a met check counts as live when there were enough tries and the lower end of Wilson's
// 95 % interval of the success share reaches the kind's share.
func Judge(t library.Technique, o Observation, s Standard) Verdict {
	v := Verdict{Met: true, Reasons: []say.Sentence{}}
	fail := func(format say.Sentence, args ...any) {
		v.Met = false
		v.Reasons = append(v.Reasons, say.F(format, args...))
	}
	if o.CautionBroken {
		fail("A caution was broken.")
	}
	sum, weights := 0.0, 0.0
	for _, k := range t.KeyPoints {
		seen := o.Points[k.ID]
		if k.Gate {
			if seen == Prompted {
				fail(gatePrompted, k.Cue.Read())
			} else if seen != Shown {
				fail(gateMissing, k.Cue.Read())
			}
			continue
		}
		weights++
		switch seen {
		case Shown:
			sum++
		case Prompted:
			sum += 0.5
		}
	}
	v.Score = 1
	if weights > 0 {
		v.Score = sum / weights
	}
	if v.Score < s.PassShare {
		fail(scoreUnder, v.Score, s.PassShare)
	}
	if !v.Met {
		return v
	}
	v.Rung = curriculum.Passed
	v.Reasons = append(v.Reasons, say.F(standardMet, v.Score, s.PassShare))
	if o.Resistance == 4 {
		v.live(t, o, s)
	}
	if o.TaughtBack && v.Rung == curriculum.Live {
		v.Rung = curriculum.Teaches
		v.Reasons = append(v.Reasons, "Taught it back.")
	}
	return v
}

func (v *Verdict) live(t library.Technique, o Observation, s Standard) {
	share, set := s.LiveShare[t.Kind]
	if !set {
		share = s.LiveDefault
	}
	low, _ := Wilson(o.Successes, o.Tries)
	switch {
	case o.Tries < s.LiveTries:
		v.Reasons = append(v.Reasons, say.F(triesFew, o.Successes, o.Tries, s.LiveTries))
	case low < share:
		v.Reasons = append(v.Reasons, say.F(triesUnder, o.Successes, o.Tries, low*100, t.Kind, share*100))
	default:
		v.Rung = curriculum.Live
		v.Reasons = append(v.Reasons, say.F(triesMet, o.Successes, o.Tries, t.Kind))
	}
}

// Check says what is wrong with an observation as it is written.
func (o Observation) Check(t library.Technique) []validation.Problem {
	var found []validation.Problem
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	points := map[string]bool{}
	for _, k := range t.KeyPoints {
		points[k.ID] = true
		if o.Points[k.ID] == "" {
			bad("points."+k.ID, "nothing marked for %q: mark it seen, prompted or missing", k.Cue.Read())
		}
	}
	for id, seen := range o.Points {
		if !points[id] {
			bad("points."+id, "is not a key point of %s", t.Name)
		}
		if seen != Shown && seen != Prompted && seen != Missing {
			bad("points."+id, "%q: mark it seen, prompted or missing", seen)
		}
	}
	return append(found, o.Bounds()...)
}

// Most tries that one check counts.
const MostTries = 99

// Bounds says which numbers of an observation cannot be, whatever the technique.
func (o Observation) Bounds() []validation.Problem {
	var found validation.Found
	if o.Resistance < 0 || o.Resistance > 4 {
		found.Bad("resistance", "%d is outside 0 (holds still) to 4 (live)", o.Resistance)
	}
	found.Between("tries", o.Tries, 0, MostTries, "tries")
	if o.Successes < 0 || o.Successes > o.Tries {
		found.Bad("successes", "%d successes in %d tries: there cannot be more successes than tries", o.Successes, o.Tries)
	}
	found.Text("partner", o.Partner, validation.MostName)
	found.Count("points", len(o.Points), 100)
	return found
}

// Wilson is the 95 % interval of a share seen k times in n tries (Wilson 1927); 0 to 1 when n is 0.
func Wilson(k, n int) (low, high float64) {
	if n <= 0 {
		return 0, 1
	}
	const z = 1.959963984540054
	p, m := float64(k)/float64(n), float64(n)
	centre := (p + z*z/(2*m)) / (1 + z*z/m)
	half := z / (1 + z*z/m) * math.Sqrt(p*(1-p)/m+z*z/(4*m*m))
	return max(0, centre-half), min(1, centre+half)
}
