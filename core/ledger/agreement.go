package ledger

import "math"

// Agreement is how far two observers who rate the same things agree.
type Agreement struct {
	Pairs    int     `json:"pairs"`
	Same     float64 `json:"same" doc:"Share rated the same, 0 to 1"`
	ByChance float64 `json:"by_chance" doc:"Share that would be the same if each rated as often as they do, but blindly"`
	Kappa    float64 `json:"kappa" doc:"Cohen's: (same − by chance) ÷ (1 − by chance); 1 is full agreement, 0 no more than chance"`
	Low      float64 `json:"low" doc:"Lower end of its 95 % interval"`
	High     float64 `json:"high"`
	Known    bool    `json:"known" doc:"False where there are too few pairs, or all were rated one and the same, so that nothing can be said"`
}

// fewestPairs is under how many pairs nothing is said of agreement.
const fewestPairs = 5

// Kappa is Cohen's kappa of pairs of ratings with its 95 % interval by the large-sample standard error (Fleiss, Cohen and Everitt 1969). Costs the pairs.
func Kappa[R comparable](pairs [][2]R) Agreement {
	a := Agreement{Pairs: len(pairs), Low: -1, High: 1}
	if len(pairs) == 0 {
		return a
	}
	n := float64(len(pairs))
	rows, columns, both := map[R]float64{}, map[R]float64{}, map[[2]R]float64{}
	for _, p := range pairs {
		rows[p[0]] += 1 / n
		columns[p[1]] += 1 / n
		both[p] += 1 / n
		if p[0] == p[1] {
			a.Same += 1 / n
		}
	}
	for r, share := range rows {
		a.ByChance += share * columns[r]
	}
	if len(pairs) < fewestPairs || a.ByChance > 1-1e-12 {
		return a
	}
	pe := a.ByChance
	a.Known, a.Kappa = true, (a.Same-pe)/(1-pe)
	agree, rest := 0.0, 0.0
	for cell, share := range both {
		i, j := cell[0], cell[1]
		if i == j {
			agree += share * square(1-(rows[i]+columns[i])*(1-a.Kappa))
		} else {
			rest += share * square(columns[i]+rows[j])
		}
	}
	variance := (agree + square(1-a.Kappa)*rest - square(a.Kappa-pe*(1-a.Kappa))) / (n * square(1-pe))
	half := 1.959963984540054 * math.Sqrt(max(0, variance))
	if variance < 1e-12 { // all agreed: the standard error says nothing of how sure that is, Wilson's interval of the share does
		low, _ := Wilson(int(math.Round(a.Same*n)), len(pairs))
		a.Low, a.High = max(-1, (low-pe)/(1-pe)), 1
		return a
	}
	a.Low, a.High = max(-1, a.Kappa-half), min(1, a.Kappa+half)
	return a
}

func square(x float64) float64 { return x * x }
