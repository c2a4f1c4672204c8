package ledger

import "math"

// Visit is one class held while the student was enrolled.
type Visit struct {
	WeeksAgo float64
	Came     bool
}

// The attendance estimate's settings, with the values used where an academy
// sets none.
const (
	HalfLifeWeeks = 4.0 // a visit counts half as much for every four weeks it is old
	PriorWeight   = 2.0 // the prior counts like this many fresh visits
)

// AttendanceChance estimates the chance that a student is in one weekly class:
//
//	(a + Σ wᵢ·cameᵢ) / (a + b + Σ wᵢ),  wᵢ = 0.5^(age in weeks / 4)
//
// a and b carry PriorWeight visits at the rate prior. The result lies strictly
// between 0 and 1 for a prior that does. Costs one step per visit.
func AttendanceChance(visits []Visit, prior float64) float64 {
	came, all := 0.0, 0.0
	for _, v := range visits {
		w := math.Pow(0.5, v.WeeksAgo/HalfLifeWeeks)
		all += w
		if v.Came {
			came += w
		}
	}
	return WeightedChance(came, all, prior)
}

// WeightedChance is AttendanceChance of visits already summed: the weights of
// those the student came to, and of all of them.
func WeightedChance(came, all, prior float64) float64 {
	a, b := PriorWeight*prior, PriorWeight*(1-prior)
	return (a + came) / (a + b + all)
}

// Prior is a student's overall rate, shrunk to the academy's: the academy's
// rate counts like PriorWeight visits of the student's own. The academy's rate
// is itself kept away from 0 and 1 by one visit of each kind.
func Prior(cameHere, heldHere, cameAll, heldAll int) float64 {
	academy := (float64(cameAll) + 1) / (float64(heldAll) + 2)
	return (float64(cameHere) + PriorWeight*academy) / (float64(heldHere) + PriorWeight)
}
