package bound

import (
	"math"
	"slices"
	"sync"
)

// means are the most that presences of a half each, none likelier than a chance, add to a chance to have so many halves at least, by how many of them are expected to
// take place. However many presences there are and however their chances differ: the most is reached where some are as likely as they can be and all the others as
// likely as each other (Hoeffding 1956), in the end without number (Poisson).
type means struct {
	once  sync.Once
	reach []float64 // per step of what is expected, from 0: to have need of them, one less … 1
	last  int       // from here on it is sure
}

const (
	meanGrid  = 16
	meanStep  = 0.125 // halves expected
	meansLast = 40    // of them, and nothing further is looked at
	mostEqual = 12    // presences as likely as each other that are looked at one number by one; beyond, without number
)

var allMeans [meanGrid + 1][mostTail + 1]means

// meansOf are the means of a chance rounded up.
func meansOf(chance float64, need int) *means {
	at := int(math.Ceil(max(chance, leastTail)*meanGrid - 1e-9))
	t := &allMeans[at][need]
	t.once.Do(func() { t.make(float64(at)/meanGrid, need) })
	return t
}

func (t *means) make(chance float64, need int) {
	at, next := make([]float64, need), make([]float64, need)
	mostReached(0, chance, at)
	t.reach = slices.Clone(at)
	for sure := false; !sure; at, next = next, at {
		from := float64(t.last) * meanStep
		clear(next)
		mostReached(from+meanStep, chance, next)
		// Between two steps the line between their values is taken: both are raised by as much as what lies between comes over it.
		lift := make([]float64, need)
		for _, share := range []float64{0.25, 0.5, 0.75} {
			between := make([]float64, need)
			mostReached(from+share*meanStep, chance, between)
			for j, b := range between {
				lift[j] = max(lift[j], b-at[j]*(1-share)-next[j]*share)
			}
		}
		t.last++
		t.reach = append(t.reach, next...)
		for j, by := range lift {
			by = 1.25*by + 1e-9
			a, b := &t.reach[(t.last-1)*need+j], &t.reach[t.last*need+j]
			*a, *b = max(*a, min(1, at[j]+by)), min(1, next[j]+by)
		}
		sure = next[0] >= tailsUntil || from >= meansLast
	}
	for j := range need {
		t.reach[t.last*need+j] = 1
	}
}

// mostReached is the most that so many halves expected add to the chance to have need of them, one less … 1.
func mostReached(expected, chance float64, reach []float64) {
	need := len(reach)
	sure, equal := make([]float64, need), make([]float64, need)
	sure[0] = 1
	for m := 0; float64(m)*chance <= expected+1e-12; m++ {
		if m > 0 {
			for i := need - 1; i >= 0; i-- {
				sure[i] *= 1 - chance
				if i > 0 {
					sure[i] += sure[i-1] * chance
				}
			}
		}
		rest := max(0, expected-float64(m)*chance)
		for l := 0; l <= mostEqual; l++ {
			if l == 0 {
				poisson(equal, rest)
			} else if p := rest / float64(l); p <= chance+1e-12 {
				binomial(equal, l, min(1, p))
			} else {
				continue
			}
			none := 0.0
			for i := range need { // the chance of i at most
				for k := 0; k <= i; k++ {
					none += sure[k] * equal[i-k]
				}
				if reach[need-1-i] < 1-none {
					reach[need-1-i] = 1 - none
				}
			}
		}
	}
}

func poisson(p []float64, mean float64) {
	p[0] = math.Exp(-mean)
	for i := 1; i < len(p); i++ {
		p[i] = p[i-1] * mean / float64(i)
	}
}

func binomial(p []float64, n int, chance float64) {
	clear(p)
	p[0] = 1
	for range n {
		for i := len(p) - 1; i >= 0; i-- {
			p[i] *= 1 - chance
			if i > 0 {
				p[i] += p[i-1] * chance
			}
		}
	}
}
