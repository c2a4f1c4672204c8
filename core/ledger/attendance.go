package ledger

import "math"

// Visit is one class held while the student was enrolled.
type Visit struct {
	WeeksAgo float64
	Came     bool
}

// AttendanceRules are the academy's numbers for the chance of an attendance.
type AttendanceRules struct {
	HalfLifeWeeks float64 `json:"half_life_weeks" doc:"A visit counts half as much for every so many weeks it is old"`
	PriorWeight   float64 `json:"prior_weight" doc:"The overall rate counts like so many fresh visits"`
}

// DefaultAttendance is used where an academy sets nothing else.
var DefaultAttendance = AttendanceRules{HalfLifeWeeks: 4, PriorWeight: 2}

// Weight is how much a visit counts that is so many weeks old: 1 today, ½ after HalfLifeWeeks.
func (r AttendanceRules) Weight(weeks float64) float64 { return math.Pow(0.5, weeks/r.HalfLifeWeeks) }

// Chance estimates the chance that a student is in one weekly class:
//
//	(a + Σ wᵢ·cameᵢ) / (a + b + Σ wᵢ),  wᵢ = 0.5^(age in weeks / HalfLifeWeeks)
//
// a and b carry PriorWeight visits at the rate prior. The result lies strictly
// between 0 and 1 for a prior that does. Costs one step per visit.
func (r AttendanceRules) Chance(visits []Visit, prior float64) float64 {
	came, all := 0.0, 0.0
	for _, v := range visits {
		w := r.Weight(v.WeeksAgo)
		all += w
		if v.Came {
			came += w
		}
	}
	return r.WeightedChance(came, all, prior)
}

// WeightedChance is Chance of visits already summed: the weights of
// those the student came to, and of all of them.
func (r AttendanceRules) WeightedChance(came, all, prior float64) float64 {
	a, b := r.PriorWeight*prior, r.PriorWeight*(1-prior)
	return (a + came) / (a + b + all)
}

// Evidence is on how many visits a chance stands whose visits' weights sum to all, the prior's among them.
func (r AttendanceRules) Evidence(all float64) float64 { return r.PriorWeight + all }

// Prior is a student's overall rate, shrunk to the academy's: the academy's
// rate counts like PriorWeight visits of the student's own. The academy's rate
// is itself kept away from 0 and 1 by one visit of each kind.
func (r AttendanceRules) Prior(cameHere, heldHere, cameAll, heldAll int) float64 {
	academy := (float64(cameAll) + 1) / (float64(heldAll) + 2)
	return (float64(cameHere) + r.PriorWeight*academy) / (float64(heldHere) + r.PriorWeight)
}
