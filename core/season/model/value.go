package model

import "vereda/core/season"

// Value is the weight of a unit's needs covered when it is given so often, and
// the way made toward those that are not: each need's expected share of what it misses, by weight.
// Costs needs × presences × halves missing.
func (m *Model) Value(u int, occs []Occasion) (covered, way float64) {
	var room [2][48]int32
	var heard [2][]int32 // per kind, the classes it is given in
	for kind := range heard {
		heard[kind] = room[kind][:0]
	}
	for i := range occs {
		o := &occs[i]
		heard[o.Kind] = append(heard[o.Kind], m.Audiences[o.Audience].Classes...)
	}
	classes := len(m.Problem.Classes)
	for i := range m.Units[u].Needs {
		n := &m.Units[u].Needs[i]
		if n.Halves == 0 {
			covered += n.Weight
			way += n.Weight
			continue
		}
		row := m.Chance[int(n.Student)*classes : (int(n.Student)+1)*classes]
		var missing, short float64
		if n.Halves <= shortNeed {
			missing, short = shortOf(int(n.Halves), row, heard[Teach], heard[Review])
		} else {
			missing, short = longOf(int(n.Halves), row, heard[Teach], heard[Review])
		}
		covered += n.Weight * (1 - missing)
		way += n.Weight * (1 - short)
	}
	return covered, way
}

// shortNeed is how many halves nearly every need misses at most: two exposures.
const shortNeed = 4

// shortOf is how likely a need of up to two exposures is not met by what is given, and the share of it that is expected to be missed. How likely so many halves
// were heard hangs on nothing above them, so one chain serves all such needs; it is kept in registers, since this is
// where the search spends its time.
func shortOf(halves int, row []float64, teaches, reviews []int32) (missing, short float64) {
	d0, d1, d2, d3 := 1.0, 0.0, 0.0, 0.0
	for _, c := range teaches {
		p := row[c]
		q := 1 - p
		d3 = d3*q + d1*p
		d2 = d2*q + d0*p
		d1 *= q
		d0 *= q
	}
	for _, c := range reviews {
		p := row[c]
		q := 1 - p
		d3 = d3*q + d2*p
		d2 = d2*q + d1*p
		d1 = d1*q + d0*p
		d0 *= q
	}
	switch halves {
	case 1:
		return d0, d0
	case 2:
		return d0 + d1, d0 + d1/2
	case 3:
		return d0 + d1 + d2, d0 + (2*d1+d2)/3
	}
	return d0 + d1 + d2 + d3, d0 + (3*d1+2*d2+d3)/4
}

// longOf is the same for any need.
func longOf(halves int, row []float64, teaches, reviews []int32) (missing, short float64) {
	var d [2*season.MostNeed + 1]float64
	d[0] = 1
	for kind, heard := range [2][]int32{teaches, reviews} {
		step := 2 - kind
		for _, c := range heard {
			p := row[c]
			for j := halves - 1; j >= step; j-- {
				d[j] += p * (d[j-step] - d[j])
			}
			for j := step - 1; j >= 0; j-- {
				d[j] -= p * d[j]
			}
		}
	}
	for j := range halves {
		missing += d[j]
		short += d[j] * float64(halves-j) / float64(halves)
	}
	return missing, short
}

// SoftScoreStep is the share of progress toward a need that is not met yet.
const SoftScoreStep = 0.25
