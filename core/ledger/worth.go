package ledger

import (
	"vereda/core/curriculum"
	"vereda/core/say"
)

// Prospect is a check that could be done of one student on one technique, as the ledger sees it.
type Prospect struct {
	Weight    float64 // of the requirement, the mean of all being 1
	Has       curriculum.Rung
	Needs     curriculum.Rung
	Due       bool
	Retention float64 // of what is due
	Failed    int     // checks not met since the last one that was
	PassRate  float64 // of the academy's checks
	Missing   int     // requirements the student still lacks
	Weeks     int     // since the student was last checked on anything; as many as they train, when never
	Tonight   bool    // the class touches it
}

// PassRate is the share of checks that were met, kept away from 0 and 1 by two checks at seven of ten.
func PassRate(met, all int) float64 { return (float64(met) + 1.4) / (float64(all) + 2) }

// Ready says whether a check can prove anything: it was drilled, and the next rung is one that a check proves; or it is due.
func (p Prospect) Ready() bool {
	return p.Due || p.Has.Step() >= curriculum.Drilled.Step() && p.Needs.Step() >= curriculum.Passed.Step()
}

// Worth is what a check is worth: the requirement's weight × the chance that it is met (each of up to three failures since the last success takes three tenths off it) × what
// it would change (all of it, or of what is due the part that faded) × 1¼ where the class touches it × up to twice where little is missing
// for the rank × up to 1½ for who was not checked for eight weeks. why says what it is made of.
func (p Prospect) Worth() (worth float64, why []say.Sentence) {
	chance := p.PassRate
	for range min(p.Failed, mostFailed) {
		chance *= failFactor
	}
	worth = p.Weight * chance
	switch {
	case p.Due:
		worth *= 1 - p.Retention
		why = append(why, say.F("due: %.0f %% is thought to be still there", 100*p.Retention))
	default:
		why = append(why, say.F("ready: %s, %s is asked", p.Has, p.Needs))
	}
	if p.Failed > 0 {
		why = append(why, say.N(p.Failed, "not met the last time", "not met the last %d times"))
	}
	if p.Tonight {
		worth *= 1.25
		why = append(why, "the class touches it")
	}
	if p.Missing > 0 {
		worth *= 1 + 1/float64(p.Missing)
		if p.Missing <= 3 {
			why = append(why, say.F("one of the last %d for the rank", p.Missing))
		}
	}
	weeks := min(p.Weeks, 8)
	worth *= 1 + float64(weeks)/16
	if p.Weeks >= 4 {
		why = append(why, say.F("not checked for %d weeks", p.Weeks))
	}
	return worth, why
}
